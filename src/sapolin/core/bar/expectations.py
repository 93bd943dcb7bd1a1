"""What to expect of a bar over time: firmness three times, unmoulding, cure, shelf life, pace of trace.

Each is declared once in :data:`EXPECTATIONS`: its terms, how they combine and what bounds them. The value and its explanation
come from the same terms. All are estimates from rules of thumb (see :mod:`sapolin.core.quantities.coefficients`), and are
called so wherever they are shown.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import cached_property
from math import exp
from typing import Literal, NamedTuple

from sapolin.core.bar.adjustments import Adjustment, Conditions, Effect, effect_on
from sapolin.core.bar.linear import trace_terms
from sapolin.core.bar.terms import Term, exponential, product_of, sum_of
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.model import Model

__all__ = ["EXPECTATIONS", "BarFacts", "Expectation", "Expectations", "Expected", "Pace", "bar_expectations",
           "cure_adjustment", "pace_of"]  # fmt: skip

Pace = Literal["slow", "moderate", "brisk", "fast"]
PACES: tuple[Pace, ...] = ("moderate", "brisk", "fast")


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


@dataclass(frozen=True)
class BarFacts:
    """What expectations rest on."""

    acids: Mapping[str, float]
    """Percent of all fatty acids, by acid id."""
    points: Mapping[str, float]
    """Points by quality id."""
    free_acid_percent: float
    """Free fatty acids, % of the oils."""
    conditions: Conditions
    adjustments: tuple[Adjustment, ...]

    @cached_property
    def lasting(self) -> float:
        """Hardness with what lasts of the adjustments, points."""
        return self.points["hardness"] + effect_on(self.adjustments, "hardness")

    @property
    def oleic_like(self) -> float:
        """Acids that harden late, %."""
        return self.acids["C18:1"] + self.acids["C20:1"] + self.acids["C22:1"]

    @cached_property
    def usual_cure_weeks(self) -> float:
        """Usual cure of such a bar, weeks."""
        return sum_of(_usual_cure_terms(self))

    @property
    def cure_weeks(self) -> float:
        """The cure planned, or the usual one, weeks."""
        planned = self.conditions.cure_weeks
        return self.usual_cure_weeks if planned is None else planned


class Expected(NamedTuple):
    """One expectation of one bar."""

    value: float
    terms: tuple[Term, ...]
    unbounded: float
    """The terms combined, before a bound took hold."""


@dataclass(frozen=True)
class Expectation:
    """An expectation as it is declared."""

    id: str
    name: str
    unit: str
    terms: Callable[[BarFacts], tuple[Term, ...]]
    combine: Literal["sum", "product"] = "sum"
    least: str | float | None = None
    """Nothing below it: a coefficient's id, or the number itself."""
    most: str | None = None
    """Nothing above it: a coefficient's id."""
    notes: Callable[[BarFacts], tuple[str, ...]] = lambda _: ()
    """What else to know of it."""

    def of(self, bar: BarFacts) -> Expected:
        """What is expected of `bar`."""
        terms = self.terms(bar)
        unbounded = sum_of(terms) if self.combine == "sum" else product_of(terms)
        value = unbounded
        if self.least is not None:
            value = max(value, coefficient(self.least) if isinstance(self.least, str) else self.least)
        if self.most is not None:
            value = min(value, coefficient(self.most))
        return Expected(value, terms, unbounded)


def _lasting_terms(bar: BarFacts) -> tuple[Term, ...]:
    return (
        Term("Hardness", "saturated C12 to C22", bar.points["hardness"]),
        *_adjusted(bar.adjustments, "hardness"),
    )


def _adjusted(adjustments: tuple[Adjustment, ...], what: str) -> tuple[Term, ...]:
    return tuple(
        Term(adjustment.name, f"{adjustment.state}: {effect.expression}", effect.points)
        for adjustment in adjustments
        for effect in adjustment.effects
        if effect.on == what
    )


def _at_unmould(bar: BarFacts) -> tuple[Term, ...]:
    young = coefficient("firmness.young_fraction")
    return (
        Term("Young bar", f"{young:g} × {bar.lasting:.1f} points of lasting hardness", young * bar.lasting,
             ("firmness.young_fraction",)),
        *_adjusted(bar.adjustments, "firmness_at_unmould"),
    )  # fmt: skip


def _late_gain(bar: BarFacts) -> float:
    return coefficient("firmness.oleic_gain") * bar.oleic_like


def _after_cure(bar: BarFacts) -> tuple[Term, ...]:
    reached = 1 - exp(-bar.cure_weeks / coefficient("firmness.oleic_weeks"))
    keys = ("firmness.oleic_gain", "firmness.oleic_weeks")
    late = Term("Late hardening", f"oleic acid, {100 * reached:.0f} % of it by then", _late_gain(bar) * reached, keys)
    return (*_lasting_terms(bar), late)


def _at_best(bar: BarFacts) -> tuple[Term, ...]:
    late = Term("Late hardening", "oleic acid, all of it", _late_gain(bar), ("firmness.oleic_gain",))
    return (*_lasting_terms(bar), late)


def _unmould_middle(bar: BarFacts) -> tuple[Term, ...]:
    """Factors of the hours to unmould, middle of their range."""
    conditions = bar.conditions
    if conditions.method == "hot":
        key = "unmould.hot_process_hours"
        return (Term("Hot process", f"{coefficient(key):g} h to cool and set", coefficient(key), (key,)),)
    reference = coefficient("unmould.reference_hardness")
    usual = coefficient("water.usual_lye_concentration")
    hours = coefficient("unmould.hours_at_reference")
    terms = [
        Term("Reference", f"{hours:g} h at hardness {reference:g} and {usual:g} % lye", hours,
             ("unmould.hours_at_reference", "unmould.reference_hardness", "water.usual_lye_concentration")),
        exponential("Hardness", "unmould.per_hardness", bar.lasting - reference, "points"),
        exponential("Lye concentration", "unmould.per_lye_concentration",
                    conditions.lye_concentration_percent - usual, "points"),
    ]  # fmt: skip
    if conditions.lactate_percent > 0:
        rate = coefficient("unmould.lactate_per_percent")
        counted = min(conditions.lactate_percent, coefficient("lactate.most"))
        terms.append(
            Term("Sodium lactate", f"1 − {rate:g} × {counted:.1f} %", 1 - rate * counted,
                 ("unmould.lactate_per_percent", "lactate.most"))
        )  # fmt: skip
    gel = {"encouraged": "unmould.gel_factor", "prevented": "unmould.no_gel_factor"}.get(conditions.gel)
    if gel is not None:
        terms.append(Term(f"Gel {conditions.gel}", f"{coefficient(gel):g}", coefficient(gel), (gel,)))
    return tuple(terms)


def _unmould_low(bar: BarFacts) -> tuple[Term, ...]:
    spread = coefficient("unmould.spread")
    return (*_unmould_middle(bar), Term("Earliest", f"1 − {spread:g}", 1 - spread, ("unmould.spread",)))


def _unmould_high(bar: BarFacts) -> tuple[Term, ...]:
    spread = coefficient("unmould.spread")
    # A bar that may be out at the least time is out by the same spread after it.
    middle = _unmould_middle(bar)
    hours, least = product_of(middle), coefficient("unmould.least_hours")
    bound = () if hours >= least else (Term("Never before", f"{least:g} h", least / hours, ("unmould.least_hours",)),)
    return (*middle, *bound, Term("Latest", f"1 + {spread:g}", 1 + spread, ("unmould.spread",)))


def _usual_cure_terms(bar: BarFacts) -> tuple[Term, ...]:
    """Terms of the usual cure, weeks: longer when the bar is soft or wet."""
    below, usual = coefficient("cure.soft_below"), coefficient("water.usual_lye_concentration")
    softness, drier = max(below - bar.lasting, 0.0), bar.conditions.lye_concentration_percent - usual
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


def _usable(bar: BarFacts) -> tuple[Term, ...]:
    planned = bar.conditions.cure_weeks
    return _usual_cure_terms(bar) if planned is None else (Term("Planned", f"{planned:g} weeks", planned),)


def _best(bar: BarFacts) -> tuple[Term, ...]:
    base, start, rate = (coefficient(f"best.{key}") for key in ("base_weeks", "oleic_from", "weeks_per_percent"))
    beyond = max(bar.oleic_like - start, 0.0)
    terms = (
        Term("Base", f"{base:g} weeks", base, ("best.base_weeks",)),
        Term("Oleic acid", f"{rate:g} × {beyond:.1f} % above {start:g} %", rate * beyond,
             ("best.weeks_per_percent", "best.oleic_from")),
    )  # fmt: skip
    rest = bar.usual_cure_weeks - sum_of(terms)
    if rest > 0:
        return (*terms, Term("Not before the usual cure", "a softer or wetter bar cures longer first", rest))
    return terms


def _shelf(bar: BarFacts) -> tuple[Term, ...]:
    """Factors of the months until a bar is likely to turn rancid."""
    months, load, usual = (
        coefficient(key) for key in ("shelf.months_at_reference", "shelf.reference_load", "superfat.usual")
    )  # fmt: skip
    terms = [
        Term("Reference", f"{months:g} months at load {load:g} and {usual:g} % superfat", months,
             ("shelf.months_at_reference", "shelf.reference_load", "superfat.usual")),
        exponential("Oxidation load", "shelf.per_load", bar.points["oxidation_load"] - load, "points"),
        exponential("Superfat", "shelf.per_superfat", bar.conditions.superfat_percent - usual, "points"),
    ]  # fmt: skip
    if bar.conditions.has_antioxidant:
        key = "shelf.antioxidant_factor"
        terms.append(Term("Antioxidant", f"{coefficient(key):g}", coefficient(key), (key,)))
    return tuple(terms)


def _paces(_: BarFacts) -> tuple[str, ...]:
    moderate, brisk, fast = (coefficient(f"trace.{pace}_from") for pace in PACES)
    return (
        f"Slow below {moderate:g}, moderate to {brisk:g}, brisk to {fast:g}, fast beyond. Scent, heat and the stick blender "
        "hurry it too.",
    )


def pace_of(points: float) -> Pace:
    """The pace of trace in a word."""
    pace: Pace = "slow"
    for faster in PACES:
        if points >= coefficient(f"trace.{faster}_from"):
            pace = faster
    return pace


EXPECTATIONS: dict[str, Expectation] = {
    expectation.id: expectation
    for expectation in (
        Expectation("firmness_at_unmould", "Firmness at unmoulding", "points", _at_unmould, least=0.0),
        Expectation("firmness_after_cure", "Firmness after the cure", "points", _after_cure, least=0.0),
        Expectation("firmness_at_best", "Firmness at best", "points", _at_best, least=0.0),
        Expectation("unmould_hours_low", "Earliest hour to unmould", "h", _unmould_low, "product", least="unmould.least_hours"),
        Expectation("unmould_hours_high", "Latest hour to unmould", "h", _unmould_high, "product"),
        Expectation(
            "usable_weeks", "Usable from", "weeks", _usable, least=0.0,
            notes=lambda _: ("The bar is safe once it no longer zaps; the cure is for drying and lather.",),
        ),
        Expectation("best_weeks", "At its best from", "weeks", _best),
        Expectation(
            "shelf_months", "Shelf life", "months", _shelf, "product", least="shelf.least_months", most="shelf.most_months",
            notes=lambda _: ("Fresh oils, kept cool and dark; metals and light shorten it.",),
        ),
        Expectation(
            "trace_points", "Pace of trace", "points",
            lambda bar: trace_terms(bar.acids, bar.free_acid_percent, bar.conditions), notes=_paces,
        ),
    )
}  # fmt: skip
"""Every expectation by id, in the order they are shown."""


def cure_adjustment(bar: BarFacts) -> Adjustment | None:
    """What a planned cure does beside the usual one of such a bar; null when none is planned, or it makes no difference.

    Oleic bars gain hardness for months, saturated ones are firm at once.
    """
    planned = bar.conditions.cure_weeks
    if planned is None:
        return None
    usual, weeks = bar.usual_cure_weeks, coefficient("firmness.oleic_weeks")
    gain = _late_gain(bar)
    gained = gain * (exp(-usual / weeks) - exp(-planned / weeks))
    if round(gained, 1) == 0:
        return None
    expression = f"{gain:.1f} × (e^(−{usual:.1f}/{weeks:g}) − e^(−{planned:g}/{weeks:g}))"
    return Adjustment(
        id="cure",
        name="Cure",
        state=f"{planned:g} weeks planned, where {usual:.0f} are usual for it",
        effects=(Effect(on="firmness_after_cure", points=gained, expression=expression),),
        reason="Oleic soap hardens for months; saturated soap is firm at once.",
    )


def bar_expectations(bar: BarFacts) -> Expectations:
    """What to expect of a bar."""
    values = {name: expectation.of(bar).value for name, expectation in EXPECTATIONS.items()}
    return Expectations(**values, trace=pace_of(values["trace_points"]))
