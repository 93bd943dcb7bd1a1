"""Workings of what to expect of a bar: rules of thumb with this formula's numbers in them."""

from collections.abc import Callable

from sapolin.core.coefficients import coefficient, coefficients
from sapolin.core.expectations import Expectations
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
    return tuple(f"{entry.meaning} Here {entry.value:g} {entry.unit}." for entry in entries)


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


def _unmould(desk: Desk) -> Working:
    bar = _bar(desk)
    concentration = desk.reckoning.water.lye_concentration_percent
    return _thumb(
        desk, "unmould_hours_low", "Earliest hour to unmould", bar.unmould_hours_low, "h",
        "24 h at hardness 43 and 33 % lye, × e^(−0.045 per point of hardness) × e^(−0.05 per point of lye concentration), "
        "× gel, × sodium lactate, less 30 %",
        f"hardness {_points(desk, 'hardness'):.1f}, lye {concentration:.1f} %, gel {desk.formula.process.gel}: "
        f"{bar.unmould_hours_low:.0f} to {bar.unmould_hours_high:.0f} h",
        [],
        _named(
            "unmould.hours_at_reference", "unmould.per_hardness", "unmould.per_lye_concentration", "unmould.gel_factor",
            "unmould.no_gel_factor", "unmould.lactate_per_percent", "unmould.least_hours", "unmould.spread",
        ),
    )  # fmt: skip


def _usable(desk: Desk) -> Working:
    bar = _bar(desk)
    planned = desk.formula.process.cure_weeks
    rule = (
        "the cure planned" if planned is not None
        else "usual cure + weeks for softness − weeks for dry batter"
    )  # fmt: skip
    return _thumb(
        desk, "usable_weeks", "Usable from", bar.usable_weeks, "weeks", rule,
        f"hardness {_points(desk, 'hardness'):.1f}, lye {desk.reckoning.water.lye_concentration_percent:.1f} %",
        [], ("The bar is safe once it no longer zaps; the cure is for drying and lather.",
             *_named("cure.usual_weeks", "cure.soft_weeks_per_point", "cure.soft_below", "cure.per_lye_concentration")),
    )  # fmt: skip


def _best(desk: Desk) -> Working:
    bar = _bar(desk)
    return _thumb(
        desk, "best_weeks", "At its best from", bar.best_weeks, "weeks",
        "5 weeks + weeks for each percent of oleic acid above 30 %",
        f"oleic, gondoic and erucic acid {_acid(desk, 'C18:1', 'C20:1', 'C22:1'):.1f} %", [],
        _named("best.base_weeks", "best.oleic_from", "best.weeks_per_percent"),
    )  # fmt: skip


def _shelf(desk: Desk) -> Working:
    bar = _bar(desk)
    return _thumb(
        desk, "shelf_months", "Shelf life", bar.shelf_months, "months",
        "14 months at load 12 and 5 % superfat, × e^(−0.05 per point of load) × e^(−0.03 per point of superfat), × antioxidant",
        f"load {_points(desk, 'oxidation_load'):.1f}, superfat {desk.reckoning.lye.superfat_total_percent:.1f} %", [],
        ("Fresh oils, kept cool and dark; metals and light shorten it.",
         *_named("shelf.months_at_reference", "shelf.per_load", "shelf.per_superfat", "shelf.antioxidant_factor")),
    )  # fmt: skip


def _trace(desk: Desk) -> Working:
    bar, reckoning = _bar(desk), desk.reckoning
    drier = reckoning.water.lye_concentration_percent - coefficient("trace.reference_lye_concentration")
    terms = [
        ("Base", "oleic oils, nothing that hurries", coefficient("trace.base")),
        *(
            (label, f"{percent:.1f} % × {coefficient(key):g}", percent * coefficient(key))
            for label, percent, key in (
                ("Palmitic to behenic", _acid(desk, "C16:0", "C18:0", "C20:0", "C22:0"), "trace.long_saturated"),
                ("Lauric, myristic", _acid(desk, "C12:0", "C14:0"), "trace.short_saturated"),
                ("Ricinoleic", _acid(desk, "C18:1-OH"), "trace.ricinoleic"),
                ("Oleic", _acid(desk, "C18:1"), "trace.oleic"),
            )
        ),
        ("Lye concentration", f"{drier:+.1f} points × {coefficient('trace.lye_concentration'):g}",
         drier * coefficient("trace.lye_concentration")),
    ]  # fmt: skip
    rest = bar.trace_points - sum(value for _, _, value in terms)
    if abs(rest) > 1e-9:
        terms.append(("Free acids, sodium lactate", "by their share", rest))
    return _thumb(
        desk, "trace_points", f"Trace: {bar.trace}", bar.trace_points, "points", "sum of the parts below",
        signed_sum([value for _, _, value in terms], 1), terms,
        ("Slow below 22, moderate to 40, brisk to 58, fast beyond. Scent, heat and the stick blender hurry it too.",),
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
