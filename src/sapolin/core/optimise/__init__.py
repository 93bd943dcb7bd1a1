"""Swaps, solving, trades and trial sets."""
