"""Workings of what to expect of a bar: rules of thumb with this formula's numbers in them."""

from collections.abc import Callable, Sequence
from math import prod

from sapolin.core.coefficients import coefficient, coefficients
from sapolin.core.expectations import (
    Expectations,
    Part,
    best_parts,
    shelf_factors,
    trace_parts,
    unmould_factors,
    usual_cure_parts,
)
from sapolin.core.workings.desk import BY_RULE_OF_THUMB, Desk, Term, Working, signed_sum

__all__ = ["BAR_FIGURES"]


def _bar(desk: Desk) -> Expectations:
    assert desk.reckoning.bar is not None
    return desk.reckoning.bar


def _points(desk: Desk, quality: str) -> float:
    return next(figure.points for figure in desk.reckoning.qualities if figure.quality == quality)


def _acid(desk: Desk, *acids: str) -> float:
    return sum(share.percent for share in desk.reckoning.acids if share.acid in acids)


def _named(*ids: str) -> tuple[str, ...]:
    """The coefficients that went in, as assumptions."""
    entries = (coefficients()[coefficient_id] for coefficient_id in ids)
    return tuple(f"{entry.meaning} Here {coefficient(entry.id):g} {entry.unit}." for entry in entries)


def _thumb(
    desk: Desk, figure: str, name: str, value: float, unit: str, rule: str, substituted: str,
    terms: list[tuple[str, str, float]], assumes: tuple[str, ...],
) -> Working:  # fmt: skip
    return desk.working(
        figure, name, value, unit, rule, substituted,
        terms=tuple(Term(label=label, expression=expression, value=part) for label, expression, part in terms),
        terms_unit=unit, assumes=assumes, certainty=BY_RULE_OF_THUMB, cites=("craft",),
    )  # fmt: skip


def _modifier_terms(desk: Desk, what: str) -> list[tuple[str, str, float]]:
    return [
        (modifier.name, modifier.state, effect.points)
        for modifier in desk.reckoning.modifiers
        for effect in modifier.effects
        if effect.on == what
    ]


def _firmness(desk: Desk, when: str) -> Working:
    bar = _bar(desk)
    hardness = _points(desk, "hardness")
    lasting = _modifier_terms(desk, "hardness")
    base = [("Hardness", "saturated C12 to C22", hardness), *lasting]
    total = sum(value for _, _, value in base)
    if when == "at_unmould":
        part = coefficient("firmness.young_part")
        terms = [
            ("Young bar", f"{part:g} × {signed_sum([value for _, _, value in base], 1)}", part * total),
            *_modifier_terms(desk, "firmness_at_unmould"),
        ]  # fmt: skip
        value, assumes = bar.firmness_at_unmould, _named("firmness.young_part")
    else:
        gain = coefficient("firmness.oleic_gain") * _acid(desk, "C18:1", "C20:1", "C22:1")
        value = bar.firmness_at_best if when == "at_best" else bar.firmness_after_cure
        reached = value - total
        of = "all of it" if when == "at_best" else f"{100 * reached / gain if gain else 0:.0f} % of it by then"
        terms = [*base, ("Late hardening", f"oleic acid, {of}", reached)]
        assumes = _named("firmness.oleic_gain", "firmness.oleic_weeks")
    below_zero = value - sum(part for _, _, part in terms)
    if below_zero > 1e-9:
        terms.append(("Not below nothing", "softer than soft is soft", below_zero))
    names = {
        "at_unmould": "Firmness at unmoulding",
        "after_cure": "Firmness after the cure",
        "at_best": "Firmness at best",
    }
    return _thumb(
        desk, f"firmness_{when}", names[when], value, "points", "sum of the parts below",
        signed_sum([part for _, _, part in terms], 1), terms, assumes,
    )  # fmt: skip


def _lasting(desk: Desk) -> float:
    """Hardness with what lasts of the adjustments, points."""
    return _points(desk, "hardness") + sum(value for _, _, value in _modifier_terms(desk, "hardness"))


def _keys(parts: Sequence[Part], *more: str) -> tuple[str, ...]:
    return tuple(_named(*dict.fromkeys((*(key for part in parts for key in part.coefficients), *more))))


def _times(parts: Sequence[Part]) -> tuple[str, str]:
    """A product in words and in numbers."""
    return (
        " × ".join(f"{part.label.lower()}: {part.expression}" for part in parts),
        " × ".join(f"{part.value:.3g}" for part in parts),
    )


def _as_terms(parts: Sequence[Part]) -> list[tuple[str, str, float]]:
    return [(part.label, part.expression, part.value) for part in parts]


def _unmould(desk: Desk) -> Working:
    bar = _bar(desk)
    parts = unmould_factors(_lasting(desk), desk.work)
    rule, numbers = _times(parts)
    spread, least = coefficient("unmould.spread"), coefficient("unmould.least_hours")
    middle = prod(part.value for part in parts)
    low = middle * (1 - spread)
    numbers = f"{numbers} = {middle:.1f} h, less {100 * spread:g} % {low:.1f} h"
    if low < least:
        numbers += f"; never less than {least:g} h"
    return _thumb(
        desk, "unmould_hours_low", "Earliest hour to unmould", bar.unmould_hours_low, "h",
        f"({rule}) less {100 * spread:g} %, {least:g} h at the least", numbers, [],
        _keys(parts, "unmould.spread", "unmould.least_hours"),
    )  # fmt: skip


def _usable(desk: Desk) -> Working:
    bar = _bar(desk)
    planned = desk.formula.process.cure_weeks
    safe = "The bar is safe once it no longer zaps; the cure is for drying and lather."
    if planned is not None:
        return _thumb(
            desk, "usable_weeks", "Usable from", bar.usable_weeks, "weeks", "the cure planned", f"{planned:g} weeks", [],
            (safe,),
        )  # fmt: skip
    parts = usual_cure_parts(_lasting(desk), desk.work)
    return _thumb(
        desk, "usable_weeks", "Usable from", bar.usable_weeks, "weeks", "sum of the parts below",
        signed_sum([part.value for part in parts], 1), _as_terms(parts), (safe, *_keys(parts)),
    )  # fmt: skip


def _best(desk: Desk) -> Working:
    bar = _bar(desk)
    parts = best_parts({share.acid: share.percent for share in desk.reckoning.acids})
    terms = _as_terms(parts)
    rest = bar.best_weeks - sum(part.value for part in parts)
    if rest > 1e-9:
        terms.append(("Not before the usual cure", "a softer or wetter bar cures longer first", rest))
    return _thumb(
        desk, "best_weeks", "At its best from", bar.best_weeks, "weeks", "sum of the parts below",
        signed_sum([value for _, _, value in terms], 1), terms, _keys(parts),
    )  # fmt: skip


def _shelf(desk: Desk) -> Working:
    bar = _bar(desk)
    parts = shelf_factors(_points(desk, "oxidation_load"), desk.work)
    rule, numbers = _times(parts)
    most, months = coefficient("shelf.most_months"), prod(part.value for part in parts)
    least = coefficient("shelf.least_months")
    numbers += f" = {months:.1f} months" + (
        f", told as {most:g} at the most" if months > most else f", told as {least:g}" if months < least else ""
    )
    return _thumb(
        desk, "shelf_months", "Shelf life", bar.shelf_months, "months", rule, numbers, [],
        ("Fresh oils, kept cool and dark; metals and light shorten it.",
         *_keys(parts, "shelf.least_months", "shelf.most_months")),
    )  # fmt: skip


def _trace(desk: Desk) -> Working:
    bar, reckoning = _bar(desk), desk.reckoning
    acids = {share.acid: share.percent for share in reckoning.acids}
    free_acid = desk.free_acid_percent
    parts = trace_parts(acids, free_acid, desk.work)
    moderate, brisk, fast = (coefficient(f"trace.{pace}_from") for pace in ("moderate", "brisk", "fast"))
    return _thumb(
        desk, "trace_points", f"Trace: {bar.trace}", bar.trace_points, "points", "sum of the parts below",
        signed_sum([part.value for part in parts], 1), _as_terms(parts),
        (f"Slow below {moderate:g}, moderate to {brisk:g}, brisk to {fast:g}, fast beyond. Scent, heat and the stick blender "
         "hurry it too.", *_keys(parts)),
    )  # fmt: skip


BAR_FIGURES: dict[str, Callable[[Desk], Working]] = {
    "firmness_at_unmould": lambda desk: _firmness(desk, "at_unmould"),
    "firmness_after_cure": lambda desk: _firmness(desk, "after_cure"),
    "firmness_at_best": lambda desk: _firmness(desk, "at_best"),
    "unmould_hours_low": _unmould,
    "usable_weeks": _usable,
    "best_weeks": _best,
    "shelf_months": _shelf,
    "trace_points": _trace,
}
"""Workings by figure id."""
