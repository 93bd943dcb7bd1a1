"""What to expect of a bar over time: firmness three times, unmoulding, cure, shelf life, pace of trace.

Each is declared once in :data:`EXPECTATIONS`: its terms, how they combine and what bounds them. The value and its explanation
come from the same terms. All are estimates from rules of thumb (see :mod:`sapolin.core.quantities.coefficients`), and are
called so wherever they are shown.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from math import exp
from typing import Literal, NamedTuple

from sapolin.core.bar.adjustments import Adjustment, Conditions, Effect, told_adjustment
from sapolin.core.bar.linear import trace_terms
from sapolin.core.bar.terms import Term, exponential, product_of, sum_of, term
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.model import Model
from sapolin.core.quantities.text import Text, filled, number, percent, template, text

__all__ = ["EXPECTATIONS", "BarFacts", "Expectation", "Expectations", "Expected", "Pace", "bar_expectations",
           "cure_adjustment", "firmness_at", "pace_of"]  # fmt: skip

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
        return max(sum_of(_lasting_terms(self)), 0.0)

    @property
    def is_salt_bar(self) -> bool:
        """So much salt that it sets within hours."""
        return self.conditions.salt_percent >= coefficient("salt.bar_from_percent")

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

    @property
    def rated_weeks(self) -> float:
        """The age at which a cured bar is rated: that of the cure planned, or the same for every bar, so that a drier one,
        which cures sooner, is not rated younger."""
        planned = self.conditions.cure_weeks
        return coefficient("firmness.cured_weeks") if planned is None else planned


class Expected(NamedTuple):
    """One expectation of one bar."""

    value: float
    terms: tuple[Term, ...]
    unbounded: float
    """The terms combined, before a bound took hold."""


@dataclass(frozen=True)
class Expectation:
    """An expectation as it is declared; its name stands under `expectations` in the catalogue of messages."""

    id: str
    unit: str
    terms: Callable[[BarFacts], tuple[Term, ...]]
    combine: Literal["sum", "product"] = "sum"
    least: str | float | None = None
    """Nothing below it: a coefficient's id, or the number itself."""
    most: str | None = None
    """Nothing above it: a coefficient's id."""
    notes: Callable[[], tuple[Text, ...]] = tuple
    """What else to know of it."""

    @property
    def name(self) -> str:
        """What it is called."""
        return template(f"expectations.{self.id}")

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
    key = "firmness.ricinoleic"
    rate, ricinoleic = coefficient(key), bar.acids["C18:1-OH"]
    glassy = term("glassy", rate * ricinoleic, key, rate=number(rate), ricinoleic=percent(ricinoleic, 1))
    return (
        term("hardness_sum", bar.points["hardness"]),
        *((glassy,) if ricinoleic > 0 else ()),
        *_adjusted(bar.adjustments, "hardness"),
    )


def _adjusted(adjustments: tuple[Adjustment, ...], what: str) -> tuple[Term, ...]:
    return tuple(
        Term(
            effect.points,
            adjustment.id,
            {"state": adjustment.state, "expression": effect.expression},
            named=adjustment.name,
            numbers="explanation.adjusted",
        )
        for adjustment in adjustments
        for effect in adjustment.effects
        if effect.on == what
    )


def _at_unmould(bar: BarFacts) -> tuple[Term, ...]:
    """Terms of the young bar: what makes it firm early never makes it firmer than it will be."""
    key = "firmness.young_fraction"
    young = coefficient(key)
    terms = (
        term("young", young * bar.lasting, key, fraction=number(young), hardness=number(bar.lasting, 1, "points")),
        *_adjusted(bar.adjustments, "firmness_at_unmould"),
    )
    beyond = sum_of(terms) - bar.lasting
    return (*terms, term("no_firmer", -beyond)) if beyond > 0 else terms


def _late_gain(bar: BarFacts) -> float:
    return coefficient("firmness.oleic_gain") * bar.oleic_like


def _late_by(bar: BarFacts, weeks: float) -> Term:
    reached = 1 - exp(-weeks / coefficient("firmness.oleic_weeks"))
    return term(
        "late", _late_gain(bar) * reached, "firmness.oleic_gain", "firmness.oleic_weeks",
        reached=percent(100 * reached, 0), week=number(weeks, 0),
    )  # fmt: skip


def _lasting_and_late(bar: BarFacts, weeks: float) -> tuple[Term, ...]:
    """Terms of a dry bar at so many weeks; one that the adjustments leave nothing of is soft, not less than soft."""
    terms = _lasting_terms(bar)
    missing = -sum_of(terms)
    return (*terms, *((term("never_soft", missing),) if missing > 0 else ()), _late_by(bar, weeks))


def _after_cure(bar: BarFacts) -> tuple[Term, ...]:
    return _lasting_and_late(bar, bar.rated_weeks)


WEEKS_OF_A_YEAR = 52.0


def _at_best(bar: BarFacts) -> tuple[Term, ...]:
    return _lasting_and_late(bar, max(WEEKS_OF_A_YEAR, bar.rated_weeks))


def _unmould_middle(bar: BarFacts) -> tuple[Term, ...]:
    """Factors of the hours to unmould, middle of their range."""
    conditions = bar.conditions
    if bar.is_salt_bar:
        keys = ("unmould.salt_bar_hours", "salt.bar_from_percent")
        return (term("salt_bar", coefficient(keys[0]), *keys, hours=number(coefficient(keys[0]), unit="h")),)
    if conditions.method == "hot":
        key = "unmould.hot_process_hours"
        return (term("hot_process", coefficient(key), key, hours=number(coefficient(key), unit="h")),)
    reference = coefficient("unmould.reference_hardness")
    usual = coefficient("water.usual_lye_concentration")
    hours = coefficient("unmould.hours_at_reference")
    terms = [
        term(
            "unmould_reference", hours,
            "unmould.hours_at_reference", "unmould.reference_hardness", "water.usual_lye_concentration",
            hours=number(hours, unit="h"), hardness=number(reference), concentration=percent(usual),
        ),
        exponential("hardness", "unmould.per_hardness", bar.lasting - reference, "points"),
        exponential("lye_concentration", "unmould.per_lye_concentration",
                    conditions.lye_concentration_percent - usual, "points"),
    ]  # fmt: skip
    for code, amount in (("lactate", conditions.lactate_percent), ("salt", conditions.salt_percent)):
        if amount > 0:
            keys = (f"unmould.{code}_per_percent", f"{code}.most")
            rate, counted = coefficient(keys[0]), min(amount, coefficient(keys[1]))
            terms.append(term(code, 1 - rate * counted, *keys, rate=number(rate), counted=percent(counted, 1)))
    gel = {"encouraged": "unmould.gel_factor", "prevented": "unmould.no_gel_factor"}.get(conditions.gel)
    if gel is not None:
        factor = coefficient(gel)
        terms.append(term(f"gel_{conditions.gel}", factor, gel, factor=number(factor)))
    return _not_before_least(terms)


def _not_before_least(terms: Sequence[Term]) -> tuple[Term, ...]:
    """Saponification and cooling take their time, whatever hurries the bar."""
    hours, least = product_of(terms), coefficient("unmould.least_hours")
    if hours >= least:
        return tuple(terms)
    return (*terms, term("never_before", least / hours, "unmould.least_hours", hours=number(least, unit="h")))


def _unmould_low(bar: BarFacts) -> tuple[Term, ...]:
    spread = coefficient("unmould.spread")
    terms = (*_unmould_middle(bar), term("earliest", 1 - spread, "unmould.spread", spread=number(spread)))
    return terms if bar.is_salt_bar else _not_before_least(terms)


def _unmould_high(bar: BarFacts) -> tuple[Term, ...]:
    spread = coefficient("unmould.spread")
    return (*_unmould_middle(bar), term("latest", 1 + spread, "unmould.spread", spread=number(spread)))


def _usual_cure_terms(bar: BarFacts) -> tuple[Term, ...]:
    """Terms of the usual cure, weeks: longer when the bar is soft or wet."""
    below, usual = coefficient("cure.soft_below"), coefficient("water.usual_lye_concentration")
    softness, drier = max(below - bar.lasting, 0.0), bar.conditions.lye_concentration_percent - usual
    weeks, per_point, per_drier = (
        coefficient(f"cure.{key}") for key in ("usual_weeks", "soft_weeks_per_point", "per_lye_concentration")
    )
    least = coefficient("cure.least_weeks")
    terms = (
        term("usual_cure", weeks, "cure.usual_weeks", weeks=number(weeks, unit="weeks")),
        term("softness", per_point * softness, "cure.soft_weeks_per_point", "cure.soft_below",
             rate=number(per_point), softness=number(softness, 1, "points"), below=number(below)),
        term("lye_concentration", -per_drier * drier, "cure.per_lye_concentration", "water.usual_lye_concentration",
             rate=number(per_drier), drier=number(drier, 1, "points"), usual=percent(usual)),
    )  # fmt: skip
    missing = least - sum_of(terms)
    if missing <= 0:
        return terms
    return (*terms, term("least_cure", missing, "cure.least_weeks", weeks=number(least, unit="weeks")))


def _usable(bar: BarFacts) -> tuple[Term, ...]:
    planned = bar.conditions.cure_weeks
    if planned is None:
        return _usual_cure_terms(bar)
    return (term("planned", planned, weeks=number(planned, unit="weeks")),)


def _best(bar: BarFacts) -> tuple[Term, ...]:
    """Terms of the weeks to its best: never before the cure, and never when it has turned rancid."""
    base, start, rate = (coefficient(f"best.{key}") for key in ("base_weeks", "oleic_from", "weeks_per_percent"))
    beyond = max(bar.oleic_like - start, 0.0)
    terms = [
        term("best_base", base, "best.base_weeks", weeks=number(base, unit="weeks")),
        term("best_oleic", rate * beyond, "best.weeks_per_percent", "best.oleic_from",
             rate=number(rate), beyond=percent(beyond, 1), start=percent(start)),
    ]  # fmt: skip
    too_late = sum_of(terms) - EXPECTATIONS["shelf_months"].of(bar).value * WEEKS_OF_A_YEAR / 12
    if too_late > 0:
        terms.append(term("before_it_turns", -too_late))
    rest = bar.cure_weeks - sum_of(terms)
    if rest > 0:
        terms.append(term("not_before_cure", rest))
    return tuple(terms)


def _shelf(bar: BarFacts) -> tuple[Term, ...]:
    """Factors of the months until a bar is likely to turn rancid."""
    months, load, usual = (
        coefficient(key) for key in ("shelf.months_at_reference", "shelf.reference_load", "superfat.usual")
    )  # fmt: skip
    terms = [
        term("shelf_reference", months, "shelf.months_at_reference", "shelf.reference_load", "superfat.usual",
             months=number(months, unit="months"), load=number(load), superfat=percent(usual)),
        exponential("oxidation_load", "shelf.per_load", bar.points["oxidation_load"] - load, "points"),
        exponential("superfat", "shelf.per_superfat", bar.conditions.superfat_percent - usual, "points"),
    ]  # fmt: skip
    if bar.conditions.has_antioxidant:
        key = "shelf.antioxidant_factor"
        terms.append(term("antioxidant", coefficient(key), key, factor=number(coefficient(key))))
    if bar.conditions.chelated > 0:
        key = "shelf.chelator_factor"
        factor = 1 + (coefficient(key) - 1) * bar.conditions.chelated
        terms.append(term("chelator", factor, key, factor=number(factor, 2)))
    return tuple(terms)


def _note(id: str) -> Callable[[], tuple[Text, ...]]:
    return lambda: (text(f"expectations.notes.{id}"),)


def _paces() -> tuple[Text, ...]:
    starts = {pace: number(coefficient(f"trace.{pace}_from")) for pace in PACES}
    return (text("expectations.notes.trace_points", **starts),)


def pace_of(points: float) -> Pace:
    """The pace of trace in a word.

    >>> [pace_of(points) for points in (0.0, 30.0, 90.0)]
    ['slow', 'moderate', 'fast']
    """
    pace: Pace = "slow"
    for faster in PACES:
        if points >= coefficient(f"trace.{faster}_from"):
            pace = faster
    return pace


EXPECTATIONS: dict[str, Expectation] = {
    expectation.id: expectation
    for expectation in (
        Expectation("firmness_at_unmould", "points", _at_unmould, least=0.0),
        Expectation("firmness_after_cure", "points", _after_cure, least=0.0),
        Expectation("firmness_at_best", "points", _at_best, least=0.0),
        Expectation("unmould_hours_low", "h", _unmould_low, "product"),
        Expectation("unmould_hours_high", "h", _unmould_high, "product"),
        Expectation("usable_weeks", "weeks", _usable, least=0.0, notes=_note("usable_weeks")),
        Expectation("best_weeks", "weeks", _best),
        Expectation(
            "shelf_months", "months", _shelf, "product", least="shelf.least_months", most="shelf.most_months",
            notes=_note("shelf_months"),
        ),
        Expectation(
            "trace_points", "points",
            lambda bar: trace_terms(bar.acids, bar.free_acid_percent, bar.conditions), least=0.0, notes=_paces,
        ),
    )
}  # fmt: skip
"""Every expectation by id, in the order they are shown."""


def cure_adjustment(bar: BarFacts) -> Adjustment | None:
    """What a planned cure does beside the age at which bars are rated; null when none is planned, or it makes no difference.

    Oleic bars gain hardness for months, saturated ones are firm at once.
    """
    planned = bar.conditions.cure_weeks
    if planned is None:
        return None
    usual, weeks = coefficient("firmness.cured_weeks"), coefficient("firmness.oleic_weeks")
    gain = _late_gain(bar)
    gained = gain * (exp(-usual / weeks) - exp(-planned / weeks))
    if round(gained, 1) == 0:
        return None
    numbers = {"gain": number(gain, 1), "usual": number(usual, 1), "planned": number(planned), "weeks": number(weeks)}
    effect = Effect(
        on="firmness_after_cure", points=gained, expression=filled(template("adjustments.cure.numbers"), numbers)
    )
    return told_adjustment("cure", "cure", {"planned": number(planned), "usual": number(usual, 0)}, (effect,))


def firmness_at(bar: Expectations, cure_weeks: float | None, weeks: float) -> float:
    """Firmness of a bar so many weeks old, points, from what was expected of it after its cure and at its best; an estimate.

    `cure_weeks` is the cure that was planned, null for the usual one.
    """
    rate = coefficient("firmness.oleic_weeks")
    rated = coefficient("firmness.cured_weeks") if cure_weeks is None else cure_weeks
    best = max(WEEKS_OF_A_YEAR, rated)
    left_now, left_best = exp(-rated / rate), exp(-best / rate)
    if left_now - left_best < 1e-9:
        return bar.firmness_after_cure
    gain = (bar.firmness_at_best - bar.firmness_after_cure) / (left_now - left_best)
    return bar.firmness_after_cure + gain * (left_now - exp(-max(weeks, 0.0) / rate))


def bar_expectations(bar: BarFacts) -> Expectations:
    """What to expect of a bar."""
    values = {name: expectation.of(bar).value for name, expectation in EXPECTATIONS.items()}
    return Expectations(**values, trace=pace_of(values["trace_points"]))
