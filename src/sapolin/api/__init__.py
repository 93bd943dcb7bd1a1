"""The HTTP surface: calls core and store, decides nothing about soap."""
