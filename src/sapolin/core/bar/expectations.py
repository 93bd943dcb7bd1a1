"""What to expect of a bar over time: firmness three times, unmoulding, cure, shelf life, pace of trace.

All are estimates from rules of thumb (see :mod:`sapolin.core.quantities.coefficients`), told as such wherever they are shown.
"""

from collections.abc import Mapping, Sequence
from math import exp, prod
from typing import Literal, NamedTuple

from sapolin.core.bar.adjustments import Adjustment, Conditions, Effect, effect_on
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.model import Model

__all__ = ["Expectations", "Pace", "Term", "bar_expectations", "best_terms", "cure_adjustment", "shelf_factors",
           "shelf_months", "trace_pace", "trace_terms", "unmould_factors", "usual_cure_terms"]  # fmt: skip

Pace = Literal["slow", "moderate", "brisk", "fast"]


class Expectations(Model):
    """What to expect of the bar; every quantity is an estimate."""

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


class Term(NamedTuple):
    """One part of a rule of thumb: a term of a sum, or a factor of a product. Value and explanation come from the same one."""

    label: str
    expression: str
    """The numbers that went in."""
    value: float
    coefficients: tuple[str, ...]
    """Ids of the coefficients that were used."""


def _product(components: Sequence[Term]) -> float:
    return prod(component.value for component in components)


def _sum(components: Sequence[Term]) -> float:
    return sum(component.value for component in components)


def _exponential(label: str, key: str, off: float, unit: str) -> Term:
    rate = coefficient(key)
    return Term(label, f"e^(−{rate:g} × {off:.1f} {unit})".replace("× -", "× −"), exp(-rate * off), (key,))


def _oleic_like(acids: Mapping[str, float]) -> float:
    return acids["C18:1"] + acids["C20:1"] + acids["C22:1"]


def unmould_factors(hardness: float, work: Conditions) -> tuple[Term, ...]:
    """Factors of the hours to unmould, middle of their range: `hardness` is the lasting one, points."""
    if work.method == "hot":
        key = "unmould.hot_process_hours"
        return (Term("Hot process", f"{coefficient(key):g} h to cool and set", coefficient(key), (key,)),)
    reference = coefficient("unmould.reference_hardness")
    usual = coefficient("water.usual_lye_concentration")
    hours = coefficient("unmould.hours_at_reference")
    components = [
        Term("Reference", f"{hours:g} h at hardness {reference:g} and {usual:g} % lye", hours,
             ("unmould.hours_at_reference", "unmould.reference_hardness", "water.usual_lye_concentration")),
        _exponential("Hardness", "unmould.per_hardness", hardness - reference, "points"),
        _exponential("Lye concentration", "unmould.per_lye_concentration", work.lye_concentration_percent - usual, "points"),
    ]  # fmt: skip
    if work.lactate_percent > 0:
        rate, counted = (
            coefficient("unmould.lactate_per_percent"),
            min(work.lactate_percent, coefficient("lactate.most")),
        )
        components.append(
            Term("Sodium lactate", f"1 − {rate:g} × {counted:.1f} %", 1 - rate * counted,
                 ("unmould.lactate_per_percent", "lactate.most"))
        )  # fmt: skip
    gel = {"encouraged": "unmould.gel_factor", "prevented": "unmould.no_gel_factor"}.get(work.gel)
    if gel is not None:
        components.append(Term(f"Gel {work.gel}", f"{coefficient(gel):g}", coefficient(gel), (gel,)))
    return tuple(components)


def usual_cure_terms(lasting: float, work: Conditions) -> tuple[Term, ...]:
    """Terms of the usual cure, weeks, of a bar of this lasting hardness: longer when it is soft or wet."""
    below, usual = coefficient("cure.soft_below"), coefficient("water.usual_lye_concentration")
    softness, drier = max(below - lasting, 0.0), work.lye_concentration_percent - usual
    weeks, per_point, per_drier = (
        coefficient(f"cure.{key}") for key in ("usual_weeks", "soft_weeks_per_point", "per_lye_concentration")
    )
    return (
        Term("Usual", f"{weeks:g} weeks", weeks, ("cure.usual_weeks",)),
        Term("Softness", f"{per_point:g} × {softness:.1f} points below {below:g}", per_point * softness,
             ("cure.soft_weeks_per_point", "cure.soft_below")),
        Term("Lye concentration", f"−{per_drier:g} × {drier:.1f} points from {usual:g} %".replace("× -", "× −"),
             -per_drier * drier, ("cure.per_lye_concentration", "water.usual_lye_concentration")),
    )  # fmt: skip


def best_terms(acids: Mapping[str, float]) -> tuple[Term, ...]:
    """Terms of the weeks until a bar is at its best, before the usual cure sets the least."""
    base, start, rate = (coefficient(f"best.{key}") for key in ("base_weeks", "oleic_from", "weeks_per_percent"))
    beyond = max(_oleic_like(acids) - start, 0.0)
    return (
        Term("Base", f"{base:g} weeks", base, ("best.base_weeks",)),
        Term("Oleic acid", f"{rate:g} × {beyond:.1f} % above {start:g} %", rate * beyond,
             ("best.weeks_per_percent", "best.oleic_from")),
    )  # fmt: skip


def _usual_cure_weeks(lasting: float, work: Conditions) -> float:
    return _sum(usual_cure_terms(lasting, work))


def cure_adjustment(
    acids: Mapping[str, float], hardness: float, work: Conditions, adjustments: tuple[Adjustment, ...]
) -> Adjustment | None:
    """What a planned cure does against the usual one of such a bar; null when none is planned, or it makes no difference.

    Oleic bars gain hardness for months, saturated ones are firm at once.
    """
    if work.cure_weeks is None:
        return None
    usual = _usual_cure_weeks(hardness + effect_on(adjustments, "hardness"), work)
    weeks = coefficient("firmness.oleic_weeks")
    gained = (
        coefficient("firmness.oleic_gain") * _oleic_like(acids) * (exp(-usual / weeks) - exp(-work.cure_weeks / weeks))
    )
    if round(gained, 1) == 0:
        return None
    return Adjustment(
        id="cure",
        name="Cure",
        state=f"{work.cure_weeks:g} weeks planned, where {usual:.0f} are usual for it",
        effects=(Effect(on="firmness_after_cure", points=gained),),
        reason="Oleic soap hardens for months; saturated soap is firm at once.",
    )


def shelf_factors(oxidation_load: float, work: Conditions) -> tuple[Term, ...]:
    """Factors of the months until a bar is likely to turn rancid, before their limit."""
    months, load, usual = (
        coefficient(key) for key in ("shelf.months_at_reference", "shelf.reference_load", "superfat.usual")
    )  # fmt: skip
    components = [
        Term("Reference", f"{months:g} months at load {load:g} and {usual:g} % superfat", months,
             ("shelf.months_at_reference", "shelf.reference_load", "superfat.usual")),
        _exponential("Oxidation load", "shelf.per_load", oxidation_load - load, "points"),
        _exponential("Superfat", "shelf.per_superfat", work.superfat_percent - usual, "points"),
    ]  # fmt: skip
    if work.has_antioxidant:
        key = "shelf.antioxidant_factor"
        components.append(Term("Antioxidant", f"{coefficient(key):g}", coefficient(key), (key,)))
    return tuple(components)


def shelf_months(oxidation_load: float, work: Conditions) -> float:
    """Months until a bar is likely to turn rancid, kept cool and dark."""
    months = _product(shelf_factors(oxidation_load, work))
    return min(max(months, coefficient("shelf.least_months")), coefficient("shelf.most_months"))


def trace_terms(acids: Mapping[str, float], free_acid_percent: float, work: Conditions) -> tuple[Term, ...]:
    """Terms of the pace of trace, points.

    `acids` maps acid ids to percent; `free_acid_percent` is the share of free fatty acids in the oils.
    """
    base = coefficient("trace.base")
    drier = work.lye_concentration_percent - coefficient("trace.reference_lye_concentration")
    counted = (
        (
            "Palmitic to behenic",
            sum(acids[a] for a in ("C16:0", "C18:0", "C20:0", "C22:0")),
            "trace.long_saturated",
            "%",
        ),
        ("Lauric, myristic", acids["C12:0"] + acids["C14:0"], "trace.short_saturated", "%"),
        ("Ricinoleic", acids["C18:1-OH"], "trace.ricinoleic", "%"),
        ("Oleic", acids["C18:1"], "trace.oleic", "%"),
        ("Lye concentration", drier, "trace.lye_concentration", "points"),
        ("Free acids", free_acid_percent, "trace.free_acid", "%"),
        ("Sodium lactate", work.lactate_percent, "trace.lactate", "%"),
    )
    return (
        Term("Base", "oleic oils, nothing that hurries", base, ("trace.base",)),
        *(
            Term(
                label,
                f"{amount:.1f} {unit} × {coefficient(key):g}".replace("-", "−"),
                amount * coefficient(key),
                (key,),
            )
            for label, amount, key, unit in counted
            if amount != 0
        ),
    )


def trace_pace(acids: Mapping[str, float], free_acid_percent: float, work: Conditions) -> tuple[float, Pace]:
    """Pace of trace in points, and in a word; parameters as in :func:`trace_parts`."""
    points = _sum(trace_terms(acids, free_acid_percent, work))
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
    work: Conditions,
    adjustments: tuple[Adjustment, ...],
) -> Expectations:
    """What to expect of a bar with these `acids` (percent by acid id) and qualities (points)."""
    lasting = hardness + effect_on(adjustments, "hardness")
    late_gain = coefficient("firmness.oleic_gain") * _oleic_like(acids)
    usual_cure = _usual_cure_weeks(lasting, work)
    cure = usual_cure if work.cure_weeks is None else work.cure_weeks
    best = max(usual_cure, _sum(best_terms(acids)))
    hours = _product(unmould_factors(lasting, work))
    spread, least = coefficient("unmould.spread"), coefficient("unmould.least_hours")
    points, pace = trace_pace(acids, free_acid_percent, work)
    young = coefficient("firmness.young_fraction") * lasting + effect_on(adjustments, "firmness_at_unmould")
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
