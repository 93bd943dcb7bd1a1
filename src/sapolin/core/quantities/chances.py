"""How many standard deviations lie on each side of a range that holds so often, or below a value that is kept so often."""

from statistics import NormalDist

__all__ = ["EIGHT_IN_TEN", "KEPT_BY_95_PERCENT", "Z_95"]

EIGHT_IN_TEN = NormalDist().inv_cdf(0.9)
"""A range of so many to both sides holds eight times in ten."""
Z_95 = NormalDist().inv_cdf(0.975)
"""A range of so many to both sides holds 95 times in 100."""
KEPT_BY_95_PERCENT = NormalDist().inv_cdf(0.95)
"""95 % lie above the middle less so many."""
