"""Sapolin: design, weigh, make and learn from soap."""

__version__ = "0.1.0"
