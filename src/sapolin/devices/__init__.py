"""Scales and thermometers behind a small protocol, and simulated ones to rehearse with."""
