"""Juniper Ridge, a made-up workshop, as data."""
