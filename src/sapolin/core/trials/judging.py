"""What judged bars say of the rules that predict them, quality by quality.

A sheet says, through the words chosen, how many points of a quality a bar seems to have. How far that lies off what was
predicted is, for a sheet of one tester on one batch at one age,

    y = μ + β (p − p̄) + γ log2(age / 6 weeks) + tester + batch + error,

where μ is the offset of the workshop, β its slope over the predicted points p (counted from :data:`SLOPE_BATCHES` on), γ what
bars gain each time their age doubles. Every one of them has a normal prior about zero, so that few sheets move nothing far;
batch and error have variances that a few steps of expectation and maximisation move away from those of the rule.
"""

from collections.abc import Sequence
from functools import cache
from math import log2, sqrt

import numpy as np
from numpy.typing import NDArray

from sapolin.core.cure.learning import BATCHES_IN_PRIOR, Observed
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.model import Model
from sapolin.core.trials.criteria import LAST, criteria, measures

__all__ = ["JudgedPoints", "LearnedQuality", "TesterOffset", "judged_points", "learned_quality", "range_of", "seen_of"]

Floats = NDArray[np.floating]
SLOPE_BATCHES = 8
"""So many batches before a slope is looked for."""
USUAL_WEEKS = 6.0
"""The age that offsets are told for."""
LEAST_WEEKS = 0.5
STEPS = 15
SHEETS_IN_PRIOR = 12.0
"""The spread of one sheet by rule of thumb counts like that of so many."""


class JudgedPoints(Model):
    """What one tester's sheets of one batch at one age say of a quality."""

    tester: str
    age_weeks: float
    """Since it was cut."""
    predicted: float
    """Points that were predicted."""
    points: float
    """Points that the words stand for, mean of the sheets."""
    sheets: int = 1


class TesterOffset(Model):
    """How far one tester judges off the others, points."""

    tester: str
    offset: float
    sd: float


class LearnedQuality(Model):
    """What judged bars say of one quality."""

    quality: str
    batches: int
    sheets: int
    offset: float
    """Points that bars of this workshop lie off the rule, at `centre` and six weeks of age."""
    offset_sd: float
    slope: float
    """Points more for each point predicted above `centre`; 0 while batches are few."""
    slope_sd: float
    centre: float
    offset_slope: float
    """Covariance of the two."""
    age_gain: float
    """Points gained each time their age doubles."""
    age_gain_sd: float
    batch_sd: float
    """How far batches lie from one another."""
    sheet_sd: float
    """How far one sheet lies off."""
    testers: tuple[TesterOffset, ...]

    def expected(self, predicted: float) -> tuple[float, float]:
        """Points expected of a bar that the rule gives `predicted`, and how far the next batch may lie off (one sd)."""
        above = predicted - self.centre
        variance = self.offset_sd**2 + above**2 * self.slope_sd**2 + 2 * above * self.offset_slope + self.batch_sd**2
        return predicted + self.offset + self.slope * above, sqrt(max(variance, 0.0))


@cache
def range_of(quality: str) -> float | None:
    """Points between the first and the last word that stand for a quality, mean of its criteria; null when none does."""
    spans = [one.at_5 - one.at_1 for one in criteria().values() if one.quality == quality]
    return sum(spans) / len(spans) if spans else None


def judged_points(scores: dict[str, int], measured: dict[str, float]) -> dict[str, float]:
    """Points by quality that one sheet stands for; words of one sheet on one quality are told as their mean.

    >>> judged_points({"bubbles": 4, "bubble_size": 3, "amount": 5}, {})
    {'open_lather': 26.5}
    """
    found: dict[str, list[float]] = {}
    for one, score in scores.items():
        criterion = criteria().get(one)
        if criterion is not None and criterion.quality is not None:
            found.setdefault(criterion.quality, []).append(criterion.points(score))
    for one, value in measured.items():
        measure = measures()[one]
        found.setdefault(measure.quality, []).append(measure.points(value))
    return {quality: sum(points) / len(points) for quality, points in found.items()}


def seen_of(judged: Sequence[JudgedPoints], quality: str) -> Observed | None:
    """How far a batch lies off what was predicted of it, by all its sheets; null without any."""
    span = range_of(quality)
    if not judged or span is None:
        return None
    sheets = sum(one.sheets for one in judged)
    offset = sum(one.sheets * (one.points - one.predicted) for one in judged) / sheets
    return Observed(offset=offset, sd=_sheet_sd(span) / sqrt(sheets), rule=judged[0].predicted)


def _sheet_sd(span: float) -> float:
    return coefficient("judging.sheet_spread") * span / (LAST - 1)


def learned_quality(quality: str, batches: Sequence[Sequence[JudgedPoints]]) -> LearnedQuality:
    """What the sheets of `batches`, one row of them a batch, say of a quality.

    Raises KeyError when no criterion stands for it.
    """
    span = range_of(quality)
    if span is None:
        raise KeyError(quality)
    rows = [(i, one) for i, batch in enumerate(batches) for one in batch]
    count = len({i for i, _ in rows})
    rule_sd, share = coefficient("judging.rule_spread") * span, coefficient("learning.workshop_share")
    step = span / (LAST - 1)
    has_slope = count >= SLOPE_BATCHES
    names = sorted({one.tester for _, one in rows})
    # A single tester is the workshop.
    told = names if len(names) > 1 else []
    priors = [
        sqrt(share) * rule_sd,
        coefficient("judging.age_spread") * step,
        *((coefficient("judging.slope_spread"),) if has_slope else ()),
        *(coefficient("judging.tester_spread") * step for _ in told),
    ]
    centre = float(np.mean([one.predicted for _, one in rows])) if rows else 0.0
    precision = np.diag(1 / np.array(priors) ** 2)
    batch_var, sheet_var = (1 - share) * rule_sd**2, _sheet_sd(span) ** 2
    own_batch, own_sheet = batch_var, sheet_var
    mean: Floats = np.zeros(len(priors))
    covariance: Floats = np.diag(np.array(priors) ** 2)
    if rows:
        fixed = _design([one for _, one in rows], told, centre, has_slope=has_slope)
        sheets = np.array([float(one.sheets) for _, one in rows])
        off = np.array([one.points - one.predicted for _, one in rows])
        _, of_batch = np.unique([i for i, _ in rows], return_inverse=True)
        for _ in range(STEPS):
            weight = sheets / own_sheet
            mean, covariance = _posterior(fixed, off, weight, of_batch, own_batch, precision)
            rest = off - fixed @ mean
            information = np.bincount(of_batch, weight) + 1 / own_batch
            effect = np.bincount(of_batch, weight * rest) / information
            own_batch = (BATCHES_IN_PRIOR * batch_var + float(np.sum(effect**2 + 1 / information))) / (
                BATCHES_IN_PRIOR + count
            )
            left = (rest - effect[of_batch]) ** 2 + 1 / information[of_batch]
            own_sheet = (SHEETS_IN_PRIOR * sheet_var + float(np.sum(sheets * left))) / (SHEETS_IN_PRIOR + len(rows))
    sds = np.sqrt(np.diag(covariance))
    at = 2 + has_slope
    return LearnedQuality(
        quality=quality, batches=count, sheets=sum(one.sheets for _, one in rows),
        offset=float(mean[0]), offset_sd=float(sds[0]), age_gain=float(mean[1]), age_gain_sd=float(sds[1]),
        slope=float(mean[2]) if has_slope else 0.0, slope_sd=float(sds[2]) if has_slope else 0.0, centre=centre,
        offset_slope=float(covariance[0, 2]) if has_slope else 0.0,
        batch_sd=sqrt(own_batch), sheet_sd=sqrt(own_sheet),
        testers=tuple(
            TesterOffset(tester=name, offset=float(mean[at + i]), sd=float(sds[at + i])) for i, name in enumerate(told)
        ),
    )  # fmt: skip


def _design(rows: Sequence[JudgedPoints], testers: Sequence[str], centre: float, *, has_slope: bool) -> Floats:
    return np.array(
        [
            [
                1.0,
                log2(max(one.age_weeks, LEAST_WEEKS) / USUAL_WEEKS),
                *((one.predicted - centre,) if has_slope else ()),
                *(1.0 if one.tester == name else 0.0 for name in testers),
            ]
            for one in rows
        ]
    )


def _posterior(
    fixed: Floats, off: Floats, weight: Floats, of_batch: NDArray[np.int64],
    batch_var: float, precision: Floats,
) -> tuple[Floats, Floats]:  # fmt: skip
    """Mean and covariance of what all batches share, each batch's own effect integrated out (Sherman and Morrison)."""
    batches = int(of_batch.max()) + 1
    by_batch = np.zeros((batches, fixed.shape[1]))
    np.add.at(by_batch, of_batch, weight[:, None] * fixed)
    off_by_batch = np.bincount(of_batch, weight * off)
    shrink = batch_var / (1 + batch_var * np.bincount(of_batch, weight))
    information = (fixed.T * weight) @ fixed - (by_batch.T * shrink) @ by_batch + precision
    towards = fixed.T @ (weight * off) - by_batch.T @ (shrink * off_by_batch)
    covariance = np.linalg.inv(information)
    return covariance @ towards, covariance
