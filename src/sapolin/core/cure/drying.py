"""How bars dry, from their size and what was weighed.

A bar loses water through all its faces, nearly exponentially: m(t) = m_cut (e + (1 − e) exp(−t/τ)), with the end fraction e
from its formula and 1/τ = π² D (1/a² + 1/b² + 1/c²) from its sides. Both are estimates by rules of thumb; every weighing of a
marked bar corrects them (least squares with the estimate as one more observation, so few weighings move it little).
"""

from collections.abc import Sequence
from datetime import datetime
from functools import lru_cache
from math import exp, log, pi, sqrt

import numpy as np
from numpy.typing import NDArray

from sapolin.core.cure.learning import Observed, from_posterior
from sapolin.core.quantities.chances import KEPT_BY_95_PERCENT
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.model import Model

__all__ = [
    "BarAsCut",
    "BarWeight",
    "CurvePoint",
    "DryingForecast",
    "DryingPrior",
    "Room",
    "Weighing",
    "bar_weight",
    "days_between",
    "drying_days",
    "drying_forecast",
    "drying_observed",
    "planned_weight_g",
    "ready_day",
]

SECONDS_A_DAY = 86_400.0
DRAWS = 400
"""Drying curves drawn from what is known, to show how far they lie apart."""
CURVE_POINTS = 41
HUBER_SIGMA = 2.0
"""A weighing further off than this pulls no harder than one that is just so far off."""
DOUBTFUL_SIGMA = 5.0
"""One that is further off than this is probably a slip of the pen."""
LEAST_BARS = 4
"""The spread between bars by rule of thumb counts like that of so many."""


class BarAsCut(Model):
    """A bar on the day it was cut; an estimate."""

    sides_mm: tuple[float, float, float]
    wet_g: float
    end_fraction: float
    """Of its weight at cutting, once dry."""


class Room(Model):
    """Where the bars stand."""

    celsius: float | None = None
    humidity_percent: float | None = None


class Weighing(Model):
    """A marked bar, weighed."""

    seq: int
    mark: str
    day: float
    """Days since it was cut."""
    weight_g: float


class CurvePoint(Model):
    """What a bar weighs on a day, % of its weight at cutting, and the range that nine of ten such curves keep to."""

    day: float
    low_percent: float
    percent: float
    high_percent: float


class DryingPrior(Model):
    """What is known of a batch's drying before it is weighed, beside its size and formula."""

    log_time_offset: float = 0.0
    """Added to the logarithm of τ."""
    log_time_sd: float | None = None
    """Null: that of the rule."""
    end_offset: float = 0.0
    """Added to the end fraction."""
    end_sd: float | None = None


class DryingForecast(Model):
    """When bars are dry and what they weigh then; an estimate."""

    drying_days: float
    """τ: after so many days two thirds of the water that leaves is gone."""
    start_g: float
    """A mean bar as cut."""
    end_g: float
    """A mean bar once dry."""
    at_least_g: float
    """95 % of the bars weigh at least this much once dry."""
    ready_day: float
    """Days after cutting from which a week takes less than the limit, and most of the water that leaves is gone."""
    ready_low_day: float
    ready_high_day: float
    """In nine of ten cases it is ready between these."""
    weekly_loss_percent: float
    """Expected in the week to come."""
    limit_percent: float
    curve: tuple[CurvePoint, ...]
    weighings: int
    bars: int
    """How many marked bars were weighed."""
    doubtful: tuple[int, ...]
    """Weighings that fit no curve, by their number in the record: probably slips; they hardly count."""


def drying_days(sides_mm: tuple[float, float, float], room: Room | None = None) -> float:
    """The drying time τ of a bar of three sides (mm) in a room, days: an estimate within about a third.

    >>> round(drying_days((25.0, 60.0, 80.0)), 1)
    19.2
    """
    room = room or Room()
    celsius = coefficient("drying.usual_c") if room.celsius is None else room.celsius
    usual = coefficient("drying.usual_humidity")
    humidity = usual if room.humidity_percent is None else room.humidity_percent
    warmer = exp(coefficient("drying.per_degree") * (celsius - coefficient("drying.usual_c")))
    # Air that is nearly damp through takes hardly any water; it never takes none at all.
    drier = max(100.0 - humidity, 5.0) / (100.0 - usual)
    diffusivity = coefficient("drying.diffusivity") * warmer * drier
    faces = sum(1 / (side / 1000) ** 2 for side in sides_mm)
    return 1 / (pi**2 * diffusivity * faces) / SECONDS_A_DAY


def ready_day(drying_time_days: float, end_fraction: float, limit_percent: float) -> float:
    """Days after cutting from which a week takes at most `limit_percent` of the weight, and two thirds of the water that leaves
    are gone.

    With k = exp(−t/τ) and q = exp(−7/τ), the loss of a week (1 − e) k (1 − q) / (e + (1 − e) k) equals the limit L at
    k = L e / ((1 − e) (1 − q − L)). What dries slowly loses little in a week too: it is not dry before τ.

    >>> round(ready_day(19.2, 0.88, 1.0), 1), round(ready_day(50.0, 0.88, 1.0), 1)
    (26.8, 50.0)
    """
    limit, wet = limit_percent / 100, 1 - end_fraction
    if wet <= 0:
        return 0.0
    least = coefficient("drying.least_times") * drying_time_days
    lost = 1 - exp(-7 / drying_time_days) - limit
    if lost <= 0:
        return least
    return max(least, -drying_time_days * log(limit * end_fraction / (wet * lost)))


def drying_observed(
    bar: BarAsCut, weighings: Sequence[Weighing], room: Room
) -> tuple[Observed | None, Observed | None]:
    """What a batch's weights alone say of its drying: how far log τ and the end fraction lie off the rules.

    Null while they say next to nothing.
    """
    rule_days = drying_days(bar.sides_mm, room)
    fit = _fitted(bar, tuple(weighings), rule_days, DryingPrior())
    sds = np.sqrt(np.diag(fit.covariance))
    offsets = fit.mean - np.array([log(rule_days), bar.end_fraction])
    time_sd, end_sd = coefficient("drying.time_spread"), coefficient("drying.end_spread")
    return (
        from_posterior(float(offsets[0]), float(sds[0]), time_sd),
        from_posterior(float(offsets[1]), float(sds[1]), end_sd),
    )


def drying_forecast(
    bar: BarAsCut,
    weighings: Sequence[Weighing],
    today: float,
    room: Room | None = None,
    limit_percent: float | None = None,
    prior: DryingPrior | None = None,
) -> DryingForecast:
    """When bars of a batch are dry, `today` days after they were cut.

    `weighings` are those of marked bars; `limit_percent` is the loss in a week at which they count as dry (1 % by default);
    `prior` is what the workshop's other batches taught, if anything.
    """
    limit = coefficient("drying.weekly_loss_percent") if limit_percent is None else limit_percent
    return _forecast(bar, tuple(weighings), round(today, 2), room or Room(), limit, prior or DryingPrior())


@lru_cache(maxsize=256)
def _forecast(
    bar: BarAsCut, weighings: tuple[Weighing, ...], today: float, room: Room, limit_percent: float, prior: DryingPrior
) -> DryingForecast:  # fmt: skip
    fit = _fitted(bar, weighings, drying_days(bar.sides_mm, room), prior)
    time_days, end = exp(fit.mean[0]), fit.mean[1]
    start_g = exp(fit.mean_log_g)
    rng = np.random.default_rng(0)
    drawn = rng.multivariate_normal(fit.mean, fit.covariance, size=DRAWS)
    times, ends = np.exp(drawn[:, 0]), np.clip(drawn[:, 1], 0.3, 0.995)
    ready = [ready_day(time, fraction, limit_percent) for time, fraction in zip(times, ends, strict=True)]
    ready_at = ready_day(time_days, end, limit_percent)
    last = max(1.3 * ready_at, today + 14, *(one.day + 7 for one in weighings), 42.0)
    days = np.linspace(0.0, last, CURVE_POINTS)
    curves = 100 * _fraction(days[None, :], times[:, None], ends[:, None])
    low, high = np.quantile(curves, [0.05, 0.95], axis=0)
    now, later = (float(_fraction(np.array(day), np.array(time_days), np.array(end))) for day in (today, today + 7))
    end_spread = float(np.std(ends) / end)
    at_least = exp(-KEPT_BY_95_PERCENT * sqrt(fit.bar_spread**2 + end_spread**2 + fit.start_spread**2))
    ready_low, ready_high = (float(one) for one in np.quantile(ready, [0.05, 0.95]))
    return DryingForecast(
        drying_days=time_days, start_g=start_g, end_g=start_g * end, at_least_g=start_g * end * at_least,
        ready_day=ready_at, ready_low_day=min(ready_low, ready_at), ready_high_day=max(ready_high, ready_at),
        weekly_loss_percent=100 * (1 - later / now), limit_percent=limit_percent,
        curve=tuple(
            CurvePoint(day=float(day), low_percent=float(least), percent=float(100 * mid), high_percent=float(most))
            for day, least, mid, most in zip(
                days, low, _fraction(days, np.array(time_days), np.array(end)), high, strict=True
            )
        ),
        weighings=len(weighings), bars=len({one.mark for one in weighings}), doubtful=fit.doubtful,
    )  # fmt: skip


class BarWeight(Model):
    """What bars of a batch weigh on a day; an estimate."""

    mean_g: float
    mean_spread: float
    """How sure the mean is: one standard deviation, as a fraction of it."""
    bar_spread: float
    """How bars differ from one another: one standard deviation, as a fraction of the mean."""
    left: float
    """Of the weight at cutting, as a fraction."""
    weighings: int


def bar_weight(
    bar: BarAsCut, weighings: Sequence[Weighing], day: float, room: Room | None = None, prior: DryingPrior | None = None
) -> BarWeight:
    """What bars weigh `day` days after they were cut, from what is known of them, and how sure that is."""
    fit = _fitted(bar, tuple(weighings), drying_days(bar.sides_mm, room or Room()), prior or DryingPrior())
    drawn = np.random.default_rng(0).multivariate_normal(fit.mean, fit.covariance, size=DRAWS)
    fractions = _fraction(np.array(day), np.exp(drawn[:, 0]), np.clip(drawn[:, 1], 0.3, 0.995))
    left = float(_fraction(np.array(day), np.exp(fit.mean[0]), fit.mean[1]))
    return BarWeight(
        mean_g=exp(fit.mean_log_g) * left, mean_spread=sqrt(fit.start_spread**2 + (float(np.std(fractions)) / left) ** 2),
        bar_spread=fit.bar_spread, left=left, weighings=len(weighings),
    )  # fmt: skip


def planned_weight_g(bar: BarAsCut, day: float) -> float:
    """What a bar should weigh so many days after it was cut, g, by its plan alone.

    >>> planned_weight_g(BarAsCut(sides_mm=(25, 60, 80), wet_g=130, end_fraction=0.88), 0)
    130.0
    """
    return bar.wet_g * float(_fraction(np.array(day), np.array(drying_days(bar.sides_mm)), np.array(bar.end_fraction)))


def _fraction(
    day: NDArray[np.float64], time_days: NDArray[np.float64], end: NDArray[np.float64]
) -> NDArray[np.float64]:
    """What a bar weighs on a day, of its weight at cutting."""
    fraction: NDArray[np.float64] = end + (1 - end) * np.exp(-day / time_days)
    return fraction


class _Fit:
    """What is known of a batch's drying: log τ and the end fraction, how sure, and how bars differ."""

    def __init__(
        self, mean: NDArray[np.float64], covariance: NDArray[np.float64], logs: Sequence[float], spreads: Sequence[float],
        doubtful: tuple[int, ...], *, is_weighed: bool,
    ) -> None:  # fmt: skip
        self.mean, self.covariance, self.doubtful = mean, covariance, doubtful
        self.mean_log_g = sum(logs) / len(logs)
        usual = coefficient("drying.bar_spread")
        apart = sum((one - self.mean_log_g) ** 2 for one in logs)
        self.bar_spread = sqrt((LEAST_BARS * usual**2 + apart) / (LEAST_BARS + len(logs) - 1))
        own = sqrt(sum(spread**2 for spread in spreads)) / len(spreads)
        """How sure the mean weight at cutting is, as a fraction: what is weighed is a sample of the bars, a plan is not."""
        self.start_spread = sqrt(own**2 + (self.bar_spread**2 / len(logs) if is_weighed else 0.0))


def _fitted(bar: BarAsCut, weighings: Sequence[Weighing], rule_days: float, prior: DryingPrior) -> _Fit:
    priors = np.array([log(rule_days) + prior.log_time_offset, bar.end_fraction + prior.end_offset])
    time_sd = coefficient("drying.time_spread") if prior.log_time_sd is None else prior.log_time_sd
    spreads = np.array([time_sd, coefficient("drying.end_spread") if prior.end_sd is None else prior.end_sd])
    cut_spread = coefficient("drying.cut_spread")
    if not weighings:
        return _Fit(priors, np.diag(spreads**2), [log(bar.wet_g)], [cut_spread], (), is_weighed=False)
    # Taken late: only who weighs bars waits for it.
    from scipy.optimize import least_squares  # type: ignore[import-untyped]

    marks = sorted({one.mark for one in weighings})
    which = np.array([marks.index(one.mark) for one in weighings])
    days = np.array([one.day for one in weighings])
    logs = np.log([one.weight_g for one in weighings])
    sigma = coefficient("drying.weighing_spread")

    def misfits(x: NDArray[np.float64]) -> NDArray[np.float64]:
        expected = x[2:][which] + np.log(_fraction(days, np.exp(x[0]), x[1]))
        return np.asarray((logs - expected) / sigma)

    def residuals(x: NDArray[np.float64]) -> NDArray[np.float64]:
        # Bars share what the cutting plan says of them all, and each differs a little from the others.
        return np.concatenate([misfits(x), (x[:2] - priors) / spreads, (x[2:] - log(bar.wet_g)) / cut_spread])

    found = least_squares(
        residuals,
        np.concatenate([priors, np.full(len(marks), log(bar.wet_g))]),
        bounds=([log(0.5), 0.3, *[-np.inf] * len(marks)], [log(2000.0), 0.999, *[np.inf] * len(marks)]),
        loss="huber",
        f_scale=HUBER_SIGMA,
    )
    covariance = np.linalg.inv(found.jac.T @ found.jac)
    off = np.abs(misfits(found.x))
    doubtful = tuple(one.seq for one, far in zip(weighings, off, strict=True) if far > DOUBTFUL_SIGMA)
    sds = list(np.sqrt(np.diag(covariance)[2:]))
    return _Fit(found.x[:2], covariance[:2, :2], list(found.x[2:]), sds, doubtful, is_weighed=True)


def days_between(earlier: str, later: str) -> float:
    """Days from one time to another, both ISO 8601."""
    return (datetime.fromisoformat(later) - datetime.fromisoformat(earlier)).total_seconds() / SECONDS_A_DAY
