"""Bars put to the test: score sheets, blind comparisons, trial sets, and what a workshop's own bars say of the rules."""
