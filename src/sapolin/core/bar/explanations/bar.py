"""Explanations of what to expect of a bar: rules of thumb with this formula's numbers in them."""

from collections.abc import Callable, Sequence
from math import prod

from sapolin.core.bar.expectations import (
    Expectations,
    best_terms,
    shelf_factors,
    trace_terms,
    unmould_factors,
    usual_cure_terms,
)
from sapolin.core.bar.expectations import (
    Term as RuleTerm,
)
from sapolin.core.bar.explanations.desk import BY_RULE_OF_THUMB, Desk, Explanation, Term, signed_sum
from sapolin.core.quantities.coefficients import coefficient, coefficients

__all__ = ["BAR_QUANTITIES"]


def _bar(desk: Desk) -> Expectations:
    assert desk.result.bar is not None
    return desk.result.bar


def _points(desk: Desk, quality: str) -> float:
    return next(quantity.points for quantity in desk.result.qualities if quantity.quality == quality)


def _acid(desk: Desk, *acids: str) -> float:
    return sum(share.percent for share in desk.result.acids if share.acid in acids)


def _named(*ids: str) -> tuple[str, ...]:
    """The coefficients that went in, as assumptions."""
    entries = (coefficients()[coefficient_id] for coefficient_id in ids)
    return tuple(f"{entry.meaning} Here {coefficient(entry.id):g} {entry.unit}." for entry in entries)


def _thumb(
    desk: Desk, quantity: str, name: str, value: float, unit: str, rule: str, substituted: str,
    terms: list[tuple[str, str, float]], assumes: tuple[str, ...],
) -> Explanation:  # fmt: skip
    return desk.explanation(
        quantity, name, value, unit, rule, substituted,
        terms=tuple(Term(label=label, expression=expression, value=component) for label, expression, component in terms),
        terms_unit=unit, assumes=assumes, certainty=BY_RULE_OF_THUMB, cites=("craft",),
    )  # fmt: skip


def _adjustment_terms(desk: Desk, what: str) -> list[tuple[str, str, float]]:
    return [
        (adjustment.name, adjustment.state, effect.points)
        for adjustment in desk.result.adjustments
        for effect in adjustment.effects
        if effect.on == what
    ]


def _firmness(desk: Desk, when: str) -> Explanation:
    bar = _bar(desk)
    hardness = _points(desk, "hardness")
    lasting = _adjustment_terms(desk, "hardness")
    base = [("Hardness", "saturated C12 to C22", hardness), *lasting]
    total = sum(value for _, _, value in base)
    if when == "at_unmould":
        component = coefficient("firmness.young_fraction")
        terms = [
            ("Young bar", f"{component:g} × {signed_sum([value for _, _, value in base], 1)}", component * total),
            *_adjustment_terms(desk, "firmness_at_unmould"),
        ]  # fmt: skip
        value, assumes = bar.firmness_at_unmould, _named("firmness.young_fraction")
    else:
        gain = coefficient("firmness.oleic_gain") * _acid(desk, "C18:1", "C20:1", "C22:1")
        value = bar.firmness_at_best if when == "at_best" else bar.firmness_after_cure
        reached = value - total
        of = "all of it" if when == "at_best" else f"{100 * reached / gain if gain else 0:.0f} % of it by then"
        terms = [*base, ("Late hardening", f"oleic acid, {of}", reached)]
        assumes = _named("firmness.oleic_gain", "firmness.oleic_weeks")
    below_zero = value - sum(component for _, _, component in terms)
    if below_zero > 1e-9:
        terms.append(("Not below nothing", "softer than soft is soft", below_zero))
    names = {
        "at_unmould": "Firmness at unmoulding",
        "after_cure": "Firmness after the cure",
        "at_best": "Firmness at best",
    }
    return _thumb(
        desk, f"firmness_{when}", names[when], value, "points", "sum of the parts below",
        signed_sum([component for _, _, component in terms], 1), terms, assumes,
    )  # fmt: skip


def _lasting(desk: Desk) -> float:
    """Hardness with what lasts of the adjustments, points."""
    return _points(desk, "hardness") + sum(value for _, _, value in _adjustment_terms(desk, "hardness"))


def _keys(components: Sequence[RuleTerm], *more: str) -> tuple[str, ...]:
    return tuple(_named(*dict.fromkeys((*(key for component in components for key in component.coefficients), *more))))


def _times(components: Sequence[RuleTerm]) -> tuple[str, str]:
    """A product in words and in numbers."""
    return (
        " × ".join(f"{component.label.lower()}: {component.expression}" for component in components),
        " × ".join(f"{component.value:.3g}" for component in components),
    )


def _as_terms(components: Sequence[RuleTerm]) -> list[tuple[str, str, float]]:
    return [(component.label, component.expression, component.value) for component in components]


def _unmould(desk: Desk) -> Explanation:
    bar = _bar(desk)
    components = unmould_factors(_lasting(desk), desk.work)
    rule, numbers = _times(components)
    spread, least = coefficient("unmould.spread"), coefficient("unmould.least_hours")
    middle = prod(component.value for component in components)
    low = middle * (1 - spread)
    numbers = f"{numbers} = {middle:.1f} h, less {100 * spread:g} % {low:.1f} h"
    if low < least:
        numbers += f"; never less than {least:g} h"
    return _thumb(
        desk, "unmould_hours_low", "Earliest hour to unmould", bar.unmould_hours_low, "h",
        f"({rule}) less {100 * spread:g} %, {least:g} h at the least", numbers, [],
        _keys(components, "unmould.spread", "unmould.least_hours"),
    )  # fmt: skip


def _usable(desk: Desk) -> Explanation:
    bar = _bar(desk)
    planned = desk.formula.process.cure_weeks
    safe = "The bar is safe once it no longer zaps; the cure is for drying and lather."
    if planned is not None:
        return _thumb(
            desk, "usable_weeks", "Usable from", bar.usable_weeks, "weeks", "the cure planned", f"{planned:g} weeks", [],
            (safe,),
        )  # fmt: skip
    components = usual_cure_terms(_lasting(desk), desk.work)
    return _thumb(
        desk, "usable_weeks", "Usable from", bar.usable_weeks, "weeks", "sum of the parts below",
        signed_sum([component.value for component in components], 1), _as_terms(components), (safe, *_keys(components)),
    )  # fmt: skip


def _best(desk: Desk) -> Explanation:
    bar = _bar(desk)
    components = best_terms({share.acid: share.percent for share in desk.result.acids})
    terms = _as_terms(components)
    rest = bar.best_weeks - sum(component.value for component in components)
    if rest > 1e-9:
        terms.append(("Not before the usual cure", "a softer or wetter bar cures longer first", rest))
    return _thumb(
        desk, "best_weeks", "At its best from", bar.best_weeks, "weeks", "sum of the parts below",
        signed_sum([value for _, _, value in terms], 1), terms, _keys(components),
    )  # fmt: skip


def _shelf(desk: Desk) -> Explanation:
    bar = _bar(desk)
    components = shelf_factors(_points(desk, "oxidation_load"), desk.work)
    rule, numbers = _times(components)
    most, months = coefficient("shelf.most_months"), prod(component.value for component in components)
    least = coefficient("shelf.least_months")
    numbers += f" = {months:.1f} months" + (
        f", told as {most:g} at the most" if months > most else f", told as {least:g}" if months < least else ""
    )
    return _thumb(
        desk, "shelf_months", "Shelf life", bar.shelf_months, "months", rule, numbers, [],
        ("Fresh oils, kept cool and dark; metals and light shorten it.",
         *_keys(components, "shelf.least_months", "shelf.most_months")),
    )  # fmt: skip


def _trace(desk: Desk) -> Explanation:
    bar, result = _bar(desk), desk.result
    acids = {share.acid: share.percent for share in result.acids}
    free_acid = desk.free_acid_percent
    components = trace_terms(acids, free_acid, desk.work)
    moderate, brisk, fast = (coefficient(f"trace.{pace}_from") for pace in ("moderate", "brisk", "fast"))
    return _thumb(
        desk, "trace_points", f"Trace: {bar.trace}", bar.trace_points, "points", "sum of the parts below",
        signed_sum([component.value for component in components], 1), _as_terms(components),
        (f"Slow below {moderate:g}, moderate to {brisk:g}, brisk to {fast:g}, fast beyond. Scent, heat and the stick blender "
         "hurry it too.", *_keys(components)),
    )  # fmt: skip


BAR_QUANTITIES: dict[str, Callable[[Desk], Explanation]] = {
    "firmness_at_unmould": lambda desk: _firmness(desk, "at_unmould"),
    "firmness_after_cure": lambda desk: _firmness(desk, "after_cure"),
    "firmness_at_best": lambda desk: _firmness(desk, "at_best"),
    "unmould_hours_low": _unmould,
    "usable_weeks": _usable,
    "best_weeks": _best,
    "shelf_months": _shelf,
    "trace_points": _trace,
}
"""Explanations by quantity id."""
