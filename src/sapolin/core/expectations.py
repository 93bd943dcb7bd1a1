"""What to expect of a bar over time: firmness three times, unmoulding, cure, shelf life, pace of trace.

All are estimates from rules of thumb (see :mod:`sapolin.core.coefficients`), told as such wherever they are shown.
"""

from collections.abc import Mapping
from math import exp
from typing import Literal

from sapolin.core.coefficients import coefficient
from sapolin.core.effects import AtWork, Effect, Modifier, effect_on
from sapolin.core.model import Model

__all__ = ["Expectations", "Pace", "bar_expectations", "cure_modifier", "shelf_months", "trace_pace"]

Pace = Literal["slow", "moderate", "brisk", "fast"]


class Expectations(Model):
    """What to expect of the bar; every figure is an estimate."""

    firmness_at_unmould: float
    """Points on the scale of hardness."""
    firmness_after_cure: float
    firmness_at_best: float
    unmould_hours_low: float
    unmould_hours_high: float
    usable_weeks: float
    """Usual cure of such a bar, or the one planned."""
    best_weeks: float
    shelf_months: float
    """Until rancidity is likely, kept cool and dark."""
    trace_points: float
    trace: Pace


def _oleic_like(acids: Mapping[str, float]) -> float:
    return acids["C18:1"] + acids["C20:1"] + acids["C22:1"]


def _unmould_hours(hardness: float, work: AtWork) -> float:
    if work.method == "hot":
        return coefficient("unmould.hot_process_hours")
    drier = work.lye_concentration_percent - coefficient("water.usual_lye_concentration")
    hours = coefficient("unmould.hours_at_reference")
    hours *= exp(-coefficient("unmould.per_hardness") * (hardness - coefficient("unmould.reference_hardness")))
    hours *= exp(-coefficient("unmould.per_lye_concentration") * drier)
    hours *= 1 - coefficient("unmould.lactate_per_percent") * min(work.lactate_percent, coefficient("lactate.most"))
    factors = {"encouraged": "unmould.gel_factor", "prevented": "unmould.no_gel_factor"}
    return hours * (coefficient(factors[work.gel]) if work.gel in factors else 1.0)


def _usual_cure_weeks(lasting: float, work: AtWork) -> float:
    """Usual cure of a bar of this lasting hardness: longer when it is soft or wet."""
    softness = max(coefficient("cure.soft_below") - lasting, 0.0)
    drier = work.lye_concentration_percent - coefficient("water.usual_lye_concentration")
    return (
        coefficient("cure.usual_weeks")
        + coefficient("cure.soft_weeks_per_point") * softness
        - coefficient("cure.per_lye_concentration") * drier
    )


def cure_modifier(
    acids: Mapping[str, float], hardness: float, work: AtWork, modifiers: tuple[Modifier, ...]
) -> Modifier | None:
    """What a planned cure does against the usual one of such a bar; null when none is planned, or it makes no difference.

    Oleic bars gain hardness for months, saturated ones are firm at once.
    """
    if work.cure_weeks is None:
        return None
    usual = _usual_cure_weeks(hardness + effect_on(modifiers, "hardness"), work)
    weeks = coefficient("firmness.oleic_weeks")
    gained = (
        coefficient("firmness.oleic_gain") * _oleic_like(acids) * (exp(-usual / weeks) - exp(-work.cure_weeks / weeks))
    )
    if round(gained, 1) == 0:
        return None
    return Modifier(
        id="cure",
        name="Cure",
        state=f"{work.cure_weeks:g} weeks planned, where {usual:.0f} are usual for it",
        effects=(Effect(on="firmness_after_cure", points=gained),),
        reason="Oleic soap hardens for months; saturated soap is firm at once.",
    )


def shelf_months(oxidation_load: float, work: AtWork) -> float:
    """Months until a bar is likely to turn rancid, kept cool and dark."""
    months = coefficient("shelf.months_at_reference")
    months *= exp(-coefficient("shelf.per_load") * (oxidation_load - coefficient("shelf.reference_load")))
    months *= exp(-coefficient("shelf.per_superfat") * (work.superfat_percent - coefficient("superfat.usual")))
    months *= coefficient("shelf.antioxidant_factor") if work.has_antioxidant else 1.0
    return min(months, coefficient("shelf.most_months"))


def trace_pace(acids: Mapping[str, float], free_acid_percent: float, work: AtWork) -> tuple[float, Pace]:
    """Pace of trace in points, and in a word.

    `acids` maps acid ids to percent; `free_acid_percent` is the share of free fatty acids in the oils.
    """
    points = (
        coefficient("trace.base")
        + coefficient("trace.long_saturated") * (acids["C16:0"] + acids["C18:0"] + acids["C20:0"] + acids["C22:0"])
        + coefficient("trace.short_saturated") * (acids["C12:0"] + acids["C14:0"])
        + coefficient("trace.ricinoleic") * acids["C18:1-OH"]
        + coefficient("trace.oleic") * acids["C18:1"]
        + coefficient("trace.lye_concentration")
        * (work.lye_concentration_percent - coefficient("trace.reference_lye_concentration"))
        + coefficient("trace.free_acid") * free_acid_percent
        + coefficient("trace.lactate") * work.lactate_percent
    )
    pace: Pace = "slow"
    words: tuple[Pace, ...] = ("moderate", "brisk", "fast")
    for word in words:
        if points >= coefficient(f"trace.{word}_from"):
            pace = word
    return points, pace


def bar_expectations(
    acids: Mapping[str, float],
    hardness: float,
    oxidation_load: float,
    free_acid_percent: float,
    work: AtWork,
    modifiers: tuple[Modifier, ...],
) -> Expectations:
    """What to expect of a bar with these `acids` (percent by acid id) and qualities (points)."""
    lasting = hardness + effect_on(modifiers, "hardness")
    late_gain = coefficient("firmness.oleic_gain") * _oleic_like(acids)
    usual_cure = _usual_cure_weeks(lasting, work)
    cure = usual_cure if work.cure_weeks is None else work.cure_weeks
    beyond = max(_oleic_like(acids) - coefficient("best.oleic_from"), 0.0)
    best = max(usual_cure, coefficient("best.base_weeks") + coefficient("best.weeks_per_percent") * beyond)
    hours = _unmould_hours(lasting, work)
    spread, least = coefficient("unmould.spread"), coefficient("unmould.least_hours")
    points, pace = trace_pace(acids, free_acid_percent, work)
    young = coefficient("firmness.young_part") * lasting + effect_on(modifiers, "firmness_at_unmould")
    return Expectations(
        firmness_at_unmould=max(young, 0.0),
        firmness_after_cure=max(lasting + late_gain * (1 - exp(-cure / coefficient("firmness.oleic_weeks"))), 0.0),
        firmness_at_best=max(lasting + late_gain, 0.0),
        unmould_hours_low=max(hours * (1 - spread), least),
        unmould_hours_high=max(hours * (1 + spread), least * (1 + spread)),
        usable_weeks=max(cure, 0.0),
        best_weeks=best,
        shelf_months=shelf_months(oxidation_load, work),
        trace_points=points,
        trace=pace,
    )
