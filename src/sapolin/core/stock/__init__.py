"""Lots on the shelf: what came in, what is promised, what was used, how long it keeps, and where it went."""
