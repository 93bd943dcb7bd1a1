"""How many standard deviations lie on each side of a range that holds so often, or below a value that is kept so often."""

from statistics import NormalDist

__all__ = ["EIGHT_IN_TEN", "KEPT_BY_NINETEEN_IN_TWENTY"]

EIGHT_IN_TEN = NormalDist().inv_cdf(0.9)
"""A range of so many to both sides holds eight times in ten."""
KEPT_BY_NINETEEN_IN_TWENTY = NormalDist().inv_cdf(0.95)
"""Nineteen in twenty lie above the middle less so many."""
