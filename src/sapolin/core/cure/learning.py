"""What a workshop's own bars teach: how far its batches lie off the general rules, shrunk toward them while batches are few.

Each batch gives an estimate y_i of how far it lies off a rule, with a standard deviation s_i. Batches of one workshop share
an offset μ and differ from it with variance σ²: y_i ~ N(μ, σ² + s_i²). The rule itself is off by a known spread, of which a
part is the workshop (the prior of μ) and the rest is the batch (where σ² begins). σ² is moved by a few steps of expectation
and maximisation; μ follows in closed form. With no batch the rule stands as it is.
"""

from collections.abc import Sequence
from math import sqrt

import numpy as np
from numpy.typing import NDArray

from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.model import Model

__all__ = ["BATCHES_IN_PRIOR", "Learned", "Observed", "from_posterior", "learned"]

STEPS = 25
BATCHES_IN_PRIOR = 6.0
"""The spread between batches that the rule tells counts like that of so many."""
LEAST_INFORMATION = 0.05
"""A batch whose own weights say less than this part of what the rule says teaches nothing."""


class Observed(Model):
    """How far one batch lies off a rule, by its own record alone."""

    offset: float
    """In the unit of the rule; of a time, its logarithm."""
    sd: float
    rule: float = 0.0
    """What the rule said: of a time the time itself."""


class Learned(Model):
    """What batches teach about a rule."""

    batches: int
    offset: float
    """Expected of the next batch, in the unit of the rule (for a time its logarithm)."""
    offset_sd: float
    """How sure that offset of the workshop is."""
    batch_sd: float
    """How far batches lie from one another."""

    @property
    def next_sd(self) -> float:
        """How far the next batch may lie off what is expected of it."""
        return sqrt(self.offset_sd**2 + self.batch_sd**2)


def from_posterior(mean: float, sd: float, rule_sd: float) -> Observed | None:
    """What a batch's own weights say, from its fit with the rule in it: the rule's share is taken out again.

    `mean` is the fitted offset from the rule. Null when the weights say next to nothing.

    A fit of 0.1 ± 0.1 under a rule of ± 0.2: of the precision 100 the rule gave 25, so the weights say 0.1 · 100 / 75.

    >>> seen = from_posterior(0.1, 0.1, 0.2)
    >>> round(seen.offset, 4), round(seen.sd, 4)
    (0.1333, 0.1155)
    """
    information = 1 / sd**2 - 1 / rule_sd**2
    if information < LEAST_INFORMATION / rule_sd**2:
        return None
    return Observed(offset=mean / (sd**2 * information), sd=sqrt(1 / information))


def learned(observed: Sequence[Observed], rule_sd: float) -> Learned:
    """What batches teach about a rule that is off by `rule_sd` (one standard deviation) in general.

    >>> nothing = learned([], 0.35)
    >>> nothing.offset, round(nothing.next_sd, 3)
    (0.0, 0.35)
    """
    share = coefficient("learning.workshop_share")
    shop, batch = share * rule_sd**2, (1 - share) * rule_sd**2
    offsets = np.array([one.offset for one in observed])
    own = np.array([one.sd**2 for one in observed])
    variance = batch
    for _ in range(STEPS):
        mean, _precision = _mean(offsets, own, shop, variance)
        # Of each batch: where it lies by its own record and the others, and how sure that is.
        left = 1 / (1 / variance + 1 / own)
        centres = left * (offsets / own + mean / variance)
        spread = BATCHES_IN_PRIOR * batch + float(np.sum((centres - mean) ** 2 + left))
        variance = spread / (BATCHES_IN_PRIOR + len(observed))
    mean, precision = _mean(offsets, own, shop, variance)
    return Learned(batches=len(observed), offset=mean, offset_sd=sqrt(1 / precision), batch_sd=sqrt(variance))


def _mean(offsets: NDArray[np.float64], own: NDArray[np.float64], shop: float, variance: float) -> tuple[float, float]:
    """The offset of the workshop, and its precision."""
    weights = 1 / (variance + own)
    precision = 1 / shop + float(weights.sum())
    return float(weights @ offsets) / precision, precision
