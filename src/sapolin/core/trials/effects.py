"""What a set of test batches shows: how each did, what the change did, and which batch to make next.

Each sheet gives a score from 1 to 5. Scores are taken apart into batch, tester and error, all normal, the first two with priors
that few sheets move little (see :mod:`sapolin.core.trials.judging` for where they come from). In a design the score of a batch
is a straight line over the shares of its oils.
"""

from collections.abc import Sequence
from itertools import pairwise
from math import ceil, erf, sqrt
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from sapolin.core.quantities.chances import Z_95
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.model import Model
from sapolin.core.quantities.text import Text, number, text
from sapolin.core.trials.criteria import LAST

__all__ = [
    "NextBatch",
    "OilEffect",
    "RunResult",
    "RunSheet",
    "StepResult",
    "oil_effects",
    "run_results",
    "step_results",
]

MIDDLE = 3.0
BATCHES_APART = 1.0
"""Test batches differ by about so many words (one standard deviation), before any is judged."""
BATCH_SPREAD = 0.3
"""Two batches of the very same formula differ by so many words (one standard deviation)."""
SURELY = 0.975
PROBABLY = 0.9
EACH_TIME_POINTS = 5.0
"""Effects of oils are told for so many points more."""
Floats = NDArray[np.floating]
Told = Literal["surely", "probably", "not_yet", "close", "alike"]
"""close: more sheets than can be asked of anybody would be needed."""
ALIKE = 0.25
"""Words: a difference that is surely smaller than this is none."""


class RunSheet(Model):
    """A score that a tester gave to a test batch."""

    run: int
    tester: str
    score: float


class RunResult(Model):
    """How one test batch did, in words from 1 to 5; an estimate."""

    run: int
    label: str
    sheets: int
    score: float
    low: float
    """The 95 % range."""
    high: float


class StepResult(Model):
    """From one test batch to the next."""

    from_run: int
    to_run: int
    told: Told
    difference: float
    """Words more."""
    low: float
    high: float
    words: Text


class OilEffect(Model):
    """What five points more of one oil do, in place of the others under trial, in words; an estimate."""

    oil: str
    name: str
    effect: float
    low: float
    high: float
    told: Told


class NextBatch(Model):
    """The batch to make next."""

    shares_percent: tuple[float, ...]
    """Of the oils under trial; empty when it is one of those made."""
    words: Text


class _Fit:
    """Scores of the batches and how sure they are."""

    def __init__(self, mean: Floats, covariance: Floats) -> None:
        self.mean, self.covariance = mean, covariance

    def difference(self, one: int, other: int) -> tuple[float, float]:
        """How far `other` is above `one`, and how sure (sd)."""
        c = self.covariance
        return float(self.mean[other] - self.mean[one]), sqrt(c[one, one] + c[other, other] - 2 * c[one, other])


def _fit(runs: int, sheets: Sequence[RunSheet]) -> _Fit:
    names = sorted({one.tester for one in sheets})
    x = np.zeros((len(sheets), runs + len(names)))
    for i, sheet in enumerate(sheets):
        x[i, sheet.run] = 1
        x[i, runs + names.index(sheet.tester)] = 1
    spread = coefficient("judging.tester_spread")
    precision = np.diag([1 / BATCHES_APART**2] * runs + [1 / spread**2] * len(names))
    error = coefficient("judging.sheet_spread") ** 2
    covariance = np.linalg.inv(x.T @ x / error + precision)
    off = np.array([one.score - MIDDLE for one in sheets])
    mean = covariance @ (x.T @ off) / error
    return _Fit(MIDDLE + mean[:runs], covariance[:runs, :runs])


def run_results(labels: Sequence[str], sheets: Sequence[RunSheet]) -> tuple[RunResult, ...]:
    """How each test batch did. One without a sheet is not told apart from the middle."""
    fit = _fit(len(labels), sheets)
    sds = np.sqrt(np.diag(fit.covariance))
    return tuple(
        RunResult(
            run=i, label=label, sheets=sum(one.run == i for one in sheets), score=float(fit.mean[i]),
            low=float(max(fit.mean[i] - Z_95 * sds[i], 1.0)), high=float(min(fit.mean[i] + Z_95 * sds[i], LAST)),
        )
        for i, label in enumerate(labels)
    )  # fmt: skip


def _told(difference: float, sd: float) -> Told:
    sure = (1 + erf(abs(difference) / sd / sqrt(2))) / 2
    if sure >= SURELY:
        return "surely"
    if abs(difference) + Z_95 * sd < ALIKE:
        return "alike"
    return "probably" if sure >= PROBABLY else "not_yet"


def step_results(labels: Sequence[str], sheets: Sequence[RunSheet]) -> tuple[StepResult, ...]:
    """What each step from one judged batch to the next does, in their order."""
    fit = _fit(len(labels), sheets)
    judged = [i for i in range(len(labels)) if any(one.run == i for one in sheets)]
    found = []
    for one, other in pairwise(judged):
        difference, sd = fit.difference(one, other)
        each = min(sum(sheet.run == run for sheet in sheets) for run in (one, other))
        told: Told = _told(difference, sd) if each >= LEAST_SHEETS else "not_yet"
        further = max(_further(difference, sd, each), LEAST_SHEETS - each)
        too_few = each < LEAST_SHEETS and further > MOST_FURTHER
        if too_few:
            further = LEAST_SHEETS - each
        elif told == "not_yet" and further > MOST_FURTHER:
            told = "close"
        which = f"{told}_{'more' if difference > 0 else 'less'}" if told in ("surely", "probably") else told
        words = text(
            f"trial.step.{'too_few' if too_few else which}", one=labels[one], other=labels[other],
            difference=number(abs(difference), 1), further=number(further),
        )  # fmt: skip
        found.append(
            StepResult(
                from_run=one, to_run=other, told=told, difference=difference, low=difference - Z_95 * sd,
                high=difference + Z_95 * sd, words=words,
            )
        )  # fmt: skip
    return tuple(found)


LEAST_SHEETS = 3
"""Fewer sheets of a batch than this tell no difference."""
MOST_FURTHER = 20
"""More sheets than this of each are not asked of anybody."""


def _further(difference: float, sd: float, each: int) -> int:
    """About how many more sheets of each batch would tell a difference like this one."""
    if abs(difference) < 0.05:
        return MOST_FURTHER + 1
    return max(1, ceil(each * ((Z_95 * sd / abs(difference)) ** 2 - 1)))


def oil_effects(
    oils: Sequence[tuple[str, str]], shares_percent: Sequence[Sequence[float]], sheets: Sequence[RunSheet],
    grid: Sequence[Sequence[float]],
) -> tuple[tuple[OilEffect, ...], NextBatch | None]:  # fmt: skip
    """What each of the `oils` (id, name) does, and the batch of `grid` to make next.

    `shares_percent` are those of the test batches. The next batch is the one that may well be the best: the largest upper end
    of its range. Null while no sheet is there.
    """
    if not sheets:
        return (), None
    x = np.array(shares_percent, dtype=float)
    middle = x.mean(axis=0)
    spans = np.maximum(x.max(axis=0) - x.min(axis=0), 1.0)
    names = sorted({one.tester for one in sheets})
    rows = np.zeros((len(sheets), 1 + len(oils) + len(names) + len(x)))
    for i, sheet in enumerate(sheets):
        rows[i, 0] = 1
        rows[i, 1 : 1 + len(oils)] = (x[sheet.run] - middle) / spans
        rows[i, 1 + len(oils) + names.index(sheet.tester)] = 1
        rows[i, 1 + len(oils) + len(names) + sheet.run] = 1
    spreads = [
        BATCHES_APART, *[BATCHES_APART] * len(oils), *[coefficient("judging.tester_spread")] * len(names),
        *[BATCH_SPREAD] * len(x),
    ]  # fmt: skip
    error = coefficient("judging.sheet_spread") ** 2
    covariance = np.linalg.inv(rows.T @ rows / error + np.diag(1 / np.array(spreads) ** 2))
    mean = covariance @ (rows.T @ np.array([one.score - MIDDLE for one in sheets])) / error
    line, sure = mean[1 : 1 + len(oils)], covariance[1 : 1 + len(oils), 1 : 1 + len(oils)]
    effects = []
    for i, (oil, name) in enumerate(oils):
        # More of this one, and as much less of the others together.
        move = np.full(len(oils), -EACH_TIME_POINTS / (len(oils) - 1)) / spans
        move[i] = EACH_TIME_POINTS / spans[i]
        effect, sd = float(move @ line), sqrt(float(move @ sure @ move))
        effects.append(
            OilEffect(
                oil=oil, name=name, effect=effect, low=effect - Z_95 * sd, high=effect + Z_95 * sd,
                told=_told(effect, sd),
            )
        )  # fmt: skip
    points = np.array(grid, dtype=float)
    terms = np.hstack([np.ones((len(points), 1)), (points - middle) / spans])
    kept = covariance[: 1 + len(oils), : 1 + len(oils)]
    expected = MIDDLE + terms @ mean[: 1 + len(oils)]
    spread = np.sqrt(np.einsum("ij,jk,ik->i", terms, kept, terms))
    best = int(np.argmax(expected + spread))
    words = text(
        "trial.next", score=number(min(float(expected[best]), LAST), 1),
        low=number(max(float(expected[best] - Z_95 * spread[best]), 1.0), 1),
        high=number(min(float(expected[best] + Z_95 * spread[best]), LAST), 1),
        blend=", ".join(f"{name} {share:g} %" for (_, name), share in zip(oils, points[best], strict=True)),
    )  # fmt: skip
    return tuple(effects), NextBatch(shares_percent=tuple(float(share) for share in points[best]), words=words)
