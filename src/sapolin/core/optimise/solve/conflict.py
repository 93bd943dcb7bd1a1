"""Why a question has no full answer: the smallest set of preferred targets that cannot hold together, and what to give up."""

from dataclasses import replace
from itertools import combinations

import numpy as np

from sapolin.core.optimise.solve.branch import TOLERANCE, linear_value
from sapolin.core.optimise.solve.model import BlendModel, without_likings

__all__ = ["smallest_conflict", "would_give"]

MOST_TOGETHER = 4
"""Sets of more targets than this are not looked for one by one."""


def _only(model: BlendModel, targets: tuple[int, ...], free: int | None = None) -> BlendModel:
    """The model with these targets alone, all but `free` as required targets."""
    at = list(targets)
    weights = np.array([1.0 if t == free else np.inf for t in at])
    return replace(
        without_likings(model), features=model.features[at], low=model.low[at], high=model.high[at], weights=weights
    )


def smallest_conflict(model: BlendModel) -> tuple[int, ...]:
    """Positions of the fewest targets that no mixture of the allowed oils meets together, however many oils it has.

    Empty when any number of oils could meet them all: then the number of oils, or the grid, is what stands in the way.
    """
    everything = tuple(range(len(model.low)))
    if np.isfinite(linear_value(_only(model, everything))):
        return ()
    for size in range(1, MOST_TOGETHER + 1):
        for targets in combinations(everything, size):
            if not np.isfinite(linear_value(_only(model, targets))):
                return targets
    left = list(everything)
    for target in everything:
        without = tuple(t for t in left if t != target)
        if not np.isfinite(linear_value(_only(model, without))):
            left.remove(target)
    return tuple(left)


def would_give(model: BlendModel, conflict: tuple[int, ...]) -> dict[int, tuple[float, float]]:
    """For each target of a conflict, the points by which its lower end would have to fall and its upper end to rise if it
    alone gave way; left out where even that is not enough."""
    given = {}
    for target in conflict:
        points = linear_value(_only(model, conflict, free=target))
        if np.isfinite(points) and points > TOLERANCE:
            lower = replace(
                model, low=model.low - np.where(np.arange(len(model.low)) == target, points + TOLERANCE, 0.0)
            )
            falls = np.isfinite(linear_value(_only(lower, conflict)))
            given[target] = (points, 0.0) if falls else (0.0, points)
    return given
