"""How lots of an oil differ in what is aimed at, and what that leaves of a blend's place in its target ranges.

A lot's composition lies within the natural ranges of its acids, always summing to a whole. A third of half the range that
these allow is taken as one standard deviation (a Type B estimate in the sense of the GUM), oils as independent of one another:
the value of a blend then spreads by the root of the sum of (share × deviation)².
"""

from collections.abc import Sequence
from math import inf
from statistics import NormalDist

import numpy as np
from numpy.typing import NDArray

from sapolin.core.bar.qualities import qualities, spans_of_oil
from sapolin.core.materials.catalogue import Oil
from sapolin.core.materials.fatty_acids import ACID_INDEX

__all__ = ["chance_in_range", "chance_of_all", "covariance_of", "deviation_of", "deviations", "ends_of"]

SIX_DEVIATIONS = 6.0
"""From one end of a natural range to the other."""
Floats = NDArray[np.float64]


def ends_of(oil: Oil, feature: str) -> tuple[float, float] | None:
    """Least and most that nature lets a pure oil show in `feature`; null where no range is known."""
    if feature in qualities():
        return spans_of_oil(oil)[list(qualities()).index(feature)]
    if feature.startswith("acid:"):
        acid = oil.acids_percent[ACID_INDEX[feature.removeprefix("acid:")]]
        return acid.minimum * oil.fatty_share, acid.maximum * oil.fatty_share
    if feature == "iodine_value":
        return oil.iodine_value.minimum, oil.iodine_value.maximum
    return None


def deviation_of(oil: Oil, feature: str) -> float:
    """Standard deviation between lots of a pure oil in `feature`, in its unit; 0 where no range is known."""
    ends = ends_of(oil, feature)
    return 0.0 if ends is None else (ends[1] - ends[0]) / SIX_DEVIATIONS


def deviations(oils: Sequence[Oil], features: Sequence[str]) -> Floats:
    """Standard deviations by feature and oil, shape (features, oils)."""
    return np.array([[deviation_of(oil, feature) for oil in oils] for feature in features])


def chance_in_range(value: float, deviation: float, low: float | None, high: float | None) -> float:
    """Chance that a normal value of this mean and deviation lies from `low` to `high`, %.

    >>> round(chance_in_range(40.0, 2.0, 36.0, 44.0), 1)
    95.4
    """
    least, most = (-inf if low is None else low), (inf if high is None else high)
    if deviation <= 0:
        return 100.0 if least <= value <= most else 0.0
    lots = NormalDist(value, deviation)
    return 100 * (lots.cdf(most) - lots.cdf(least))


DRAWS = 4096
SEED = 1


def covariance_of(oil: Oil, features: Sequence[str]) -> Floats:
    """How lots of a pure oil vary in all `features` together, shape (features, features).

    Each deviates as :func:`deviation_of` says. They go together as their acids do: each acid by a third of half its range, all
    of them summing to a whole. What is no sum of acids goes by itself.
    """
    deviation = np.array([deviation_of(oil, feature) for feature in features])
    weights = np.array([_weights_of(feature) for feature in features])
    acids = np.array([(acid.maximum - acid.minimum) / SIX_DEVIATIONS for acid in oil.acids_percent]) ** 2
    total = acids.sum()
    between = np.diag(acids) - (np.outer(acids, acids) / total if total > 0 else 0.0)
    raw = weights @ between @ weights.T
    scale = np.sqrt(np.maximum(np.diag(raw), 0.0))
    together = np.where(np.outer(scale, scale) > 1e-12, raw / np.maximum(np.outer(scale, scale), 1e-12), 0.0)
    np.fill_diagonal(together, 1.0)
    return np.asarray(np.outer(deviation, deviation) * together)


def _weights_of(feature: str) -> Floats:
    if feature in qualities():
        return np.array(qualities()[feature].weights)
    weights = np.zeros(len(ACID_INDEX))
    if feature.startswith("acid:"):
        weights[ACID_INDEX[feature.removeprefix("acid:")]] = 1.0
    return weights


def chance_of_all(
    oils: Sequence[Oil], shares: Floats, features: Sequence[str], values: Floats, low: Floats, high: Floats
) -> float:
    """Chance that a blend keeps all its ranges at once whatever lots arrive, %, from seeded draws of normal lots.

    Parameters: `shares` of the `oils`, %; for each feature its `values` with typical lots and the ends of its range, infinite
    where open. The deviations are those of :func:`deviation_of`.
    """
    covariance = np.zeros((len(features), len(features)))
    for oil, share in zip(oils, shares, strict=True):
        if share > 0:
            covariance += (share / 100) ** 2 * covariance_of(oil, features)
    sizes, directions = np.linalg.eigh(covariance)
    root = directions * np.sqrt(np.maximum(sizes, 0.0))
    drawn = values + np.random.default_rng(SEED).standard_normal((DRAWS, len(features))) @ root.T
    inside = np.all((drawn >= low - 1e-9) & (drawn <= high + 1e-9), axis=1)
    return float(100 * inside.mean())
