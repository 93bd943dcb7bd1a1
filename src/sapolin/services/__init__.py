"""Use cases: each is one call and, where it changes anything, one transaction."""
