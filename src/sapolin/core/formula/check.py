"""Everything that can be wrong with a formula before it is calculated, said at the entry where it is."""

from collections.abc import Iterator, Sequence
from typing import Literal

from sapolin.core.bar.qualities import purposes, qualities
from sapolin.core.formula.blend import Component, components_of, share_sum_percent
from sapolin.core.formula.composition import Composition, compose
from sapolin.core.formula.document import Formula, PercentBlend
from sapolin.core.formula.lye import superfat_left_percent
from sapolin.core.materials.catalogue import Catalogue
from sapolin.core.materials.ingredients import additives, liquids
from sapolin.core.materials.own import material_problems, with_materials
from sapolin.core.quantities.diagnostics import Offer, Problem, Severity
from sapolin.core.quantities.limits import LIMITS, SUM_TOLERANCE_PERCENT
from sapolin.core.quantities.units import short

__all__ = ["Examined", "State", "examine", "problems_of", "state_of"]

State = Literal["empty", "incomplete", "impossible", "unsafe", "complete"]
"""Whether a formula is safe to make: complete; unsafe (calculated, lye-heavy); or not calculated and why."""


def _problem(
    code: str, severity: Severity, field: str, message: str, remedy: str, offers: tuple[Offer, ...] = ()
) -> Problem:
    return Problem(code=code, severity=severity, field=field, message=message, remedy=remedy, offers=offers)


def _within(limit_id: str, value: float | None, field: str) -> Iterator[Problem]:
    limit = LIMITS[limit_id]
    if value is None:
        yield _problem("missing", "incomplete", field, f"{limit.name} is not entered yet.", f"Enter {limit.span}.")
    elif not limit.holds(value):
        remedy = f"Enter {limit.span}."
        offers: tuple[Offer, ...] = ()
        if limit.is_percent_often_typed_as_fraction and 0 < value <= 1 and limit.holds(value * 100):
            remedy = f"Did you mean {value * 100:g} %? {remedy}"
            offers = (Offer(value=round(value * 100, 6), label=f"{value * 100:g} %"),)
        unit = f" {limit.unit}" if limit.unit else ""
        yield _problem(
            "out_of_range", "impossible", field,
            f"{limit.name} {value:,.10g}{unit} is outside {limit.span}: {limit.reason}.", remedy, offers,
        )  # fmt: skip


def _lines(formula: Formula, catalogue: Catalogue) -> Iterator[Problem]:
    blend = formula.blend
    if not blend.lines:
        yield _problem("no_oils", "incomplete", "blend.lines", "There are no oils in the blend yet.", "Add an oil.")
    for i, line in enumerate(blend.lines):
        if line.oil not in catalogue:
            yield _problem(
                "unknown_oil", "impossible", f"blend.lines[{i}].oil",
                f"The catalogue has no oil “{line.oil}”.", "Choose an oil from the catalogue, or remove this line.",
            )  # fmt: skip
    if blend.lines and all(line.added != "start" for line in blend.lines):
        yield _problem(
            "no_oil_for_the_lye", "impossible", "blend.lines", "Every oil goes in late, so no lye is calculated for any.",
            "Let at least one oil go in at the start.",
        )  # fmt: skip
    if isinstance(blend, PercentBlend):
        for i, percent_line in enumerate(blend.lines):
            yield from _within("share_percent", percent_line.share_percent, f"blend.lines[{i}].share_percent")
        yield from _within("total_oils_g", blend.total_oils_g, "blend.total_oils_g")
    else:
        for i, weight_line in enumerate(blend.lines):
            yield from _within("weight_g", weight_line.weight_g, f"blend.lines[{i}].weight_g")


def _sum(formula: Formula) -> Iterator[Problem]:
    """Only asked when every amount is entered and possible by itself."""
    blend = formula.blend
    if not isinstance(blend, PercentBlend):
        total_g = sum(line.weight_g or 0.0 for line in blend.lines)
        yield from _within("total_oils_g", total_g, "blend.lines")
        return
    total = share_sum_percent(blend)
    gap = total - 100
    if abs(gap) > SUM_TOLERANCE_PERCENT + 1e-9:
        side = "over" if gap > 0 else "short"
        yield _problem(
            "sum_not_100", "incomplete", "blend.lines",
            f"The shares sum to {total:.10g} %, {abs(gap):.4g} {side}.",
            "Scale the oils that are not held to 100 %, or let one oil take up the difference.",
        )  # fmt: skip


def _water(formula: Formula) -> Iterator[Problem]:
    value, by = formula.water.value, formula.water.by
    if value is None:
        yield _problem(
            "missing", "incomplete", "water.value",
            "Water is not entered yet.", "Enter it in any of the four ways.",
        )  # fmt: skip
    elif (by != "discount_percent" and value <= 0) or (
        by in ("lye_concentration_percent", "discount_percent") and value >= 100
    ):
        yield _problem(
            "out_of_range", "impossible", "water.value",
            f"Water cannot be {value:g} here: it must leave both lye and water in the solution.",
            "Enter a lye concentration of 25 to 40 %, a water : lye ratio of 1.5 to 3, or 25 to 38 % of oils.",
        )  # fmt: skip


def _lye(formula: Formula) -> Iterator[Problem]:
    lye = formula.lye
    koh = lye.koh
    all_koh = koh is not None and koh.value == 100
    if not all_koh:
        yield from _within("naoh_purity_percent", lye.naoh_purity_percent, "lye.naoh_purity_percent")
    if koh is not None:
        yield from _within("koh_purity_percent", koh.purity_percent, "lye.koh.purity_percent")
        yield from _within("koh_share_percent", koh.value, "lye.koh.value")
    if lye.master_percent is not None:
        yield from _within("master_percent", lye.master_percent, "lye.master_percent")
    if lye.purity_tolerance_percent is not None:
        yield from _within("purity_tolerance_percent", lye.purity_tolerance_percent, "lye.purity_tolerance_percent")
    if formula.scale_step_g is not None:
        yield from _within("scale_step_g", formula.scale_step_g, "scale_step_g")


def _amount(value: float | None, by: str, field: str, name: str, most: float) -> Iterator[Problem]:
    if value is None:
        yield _problem("missing", "incomplete", field, f"The amount of {name} is not entered yet.", "Enter it.")
    elif by == "weight_g":
        yield from _within("weight_g", value, field)
    elif not 0 <= value <= most:
        yield _problem("out_of_range", "impossible", field, f"{name} {value:g} % is outside 0 to {most:g} %.",
                       f"Enter 0 to {most:g} %.")  # fmt: skip


MOST_ADDITIVE_PERCENT = 200.0
"""A salt bar takes its oils' weight in salt; beyond twice that there is no soap to speak of."""
MOST_LIQUID_PERCENT_OF_OILS = 200.0


def _extras(formula: Formula) -> Iterator[Problem]:
    for i, line in enumerate(formula.liquids):
        if line.liquid not in liquids():
            yield _problem("unknown_liquid", "impossible", f"liquids[{i}].liquid",
                           f"There is no liquid “{line.liquid}”.", "Choose one from the table.")  # fmt: skip
            continue
        most = 100.0 if line.by == "percent_of_water" else MOST_LIQUID_PERCENT_OF_OILS
        yield from _amount(line.value, line.by, f"liquids[{i}].value", liquids()[line.liquid].name, most)
    for i, extra in enumerate(formula.additives):
        if extra.additive not in additives():
            yield _problem("unknown_additive", "impossible", f"additives[{i}].additive",
                           f"There is no additive “{extra.additive}”.", "Choose one from the table.")  # fmt: skip
            continue
        additive = additives()[extra.additive]
        at = f"additives[{i}].value"
        if extra.by == "tsp_per_500_g" and extra.value is not None:
            most = 5 * MOST_ADDITIVE_PERCENT / additive.g_per_tsp
            if not 0 <= extra.value <= most:
                message = f"{additive.name}, {extra.value:g} level tsp for 500 g of oils, is outside 0 to {most:.0f}."
                yield _problem("out_of_range", "impossible", at, message, f"Enter 0 to {most:.0f} tsp.")
        else:
            yield from _amount(extra.value, extra.by, at, additive.name, MOST_ADDITIVE_PERCENT)
    if formula.dilution is not None:
        yield from _within("soap_percent", formula.dilution.soap_percent, "dilution.soap_percent")
    process = formula.process
    if process.batter_temperature_c is not None:
        yield from _within("batter_temperature_c", process.batter_temperature_c, "process.batter_temperature_c")
    if process.cure_weeks is not None:
        yield from _within("cure_weeks", process.cure_weeks, "process.cure_weeks")


def _superfat(formula: Formula) -> Iterator[Problem]:
    yield from _within("superfat_percent", formula.superfat_percent, "superfat_percent")
    superfat = formula.superfat_percent
    if superfat is None or superfat >= 0 or not LIMITS["superfat_percent"].holds(superfat):
        return
    purpose = purposes().get(formula.purpose)
    if purpose is not None and not purpose.negative_superfat:
        marked = " or ".join(f"“{other.name}”" for other in purposes().values() if other.negative_superfat)
        yield _problem(
            "lye_heavy", "impossible", "superfat_percent",
            f"Superfat {superfat:g} % means {-superfat:g} % more lye than the oils can take, and this soap is meant to be "
            "touched.",
            f"Raise it to 0 or more; 5 % is usual for skin. Only {marked} may be lye-heavy.",
        )  # fmt: skip


def _target_ranges(formula: Formula) -> Iterator[Problem]:
    seen: set[str] = set()
    for i, target_range in enumerate(formula.target_ranges or ()):
        field = f"target_ranges[{i}]"
        if target_range.quality not in qualities() or target_range.quality in seen:
            why = "more than once" if target_range.quality in seen else "but there is no such quality"
            yield _problem(
                "unknown_target_range", "impossible", field, f"A target range is set for “{target_range.quality}” {why}.", "Remove it.",
            )  # fmt: skip
        elif target_range.minimum > target_range.maximum:
            name = qualities()[target_range.quality].name
            yield _problem(
                "target_range_reversed", "caution", field,
                f"The target range of {name.lower()} runs from {target_range.minimum:g} down to {target_range.maximum:g}.", "Swap its edges.",
            )  # fmt: skip
        seen.add(target_range.quality)


def _unsafe(composition: Composition, *, as_weighed: bool) -> Iterator[Problem]:
    """More lye than everything in the pot can take: oils, fat in liquids, and acids. The superfat entered is not all of it."""
    total = superfat_left_percent(composition.fats_mol, composition.lye_mol, composition.consumed_mol)
    if total >= 0 or abs(total) < 1e-9:
        return
    if as_weighed:
        yield _problem(
            "lye_heavy", "unsafe", "superfat_percent",
            f"There is {-total:.1f} % more lye in it than its oils can take; it burns skin.",
            "Let no one touch it. More oil, well mixed in, takes it up; test that it no longer zaps.",
        )  # fmt: skip
    else:
        yield _problem(
            "lye_heavy", "unsafe", "superfat_percent",
            f"Lye-heavy on purpose: {short(-total)} % more lye than the oils can take. It burns skin until it is neutralised.",
            "Neutralise, and test that it no longer zaps, before anyone touches it.",
        )  # fmt: skip


class Examined:
    """A formula looked over: its problems and, when none of them stops the calculation, its oils and its pot."""

    __slots__ = ("components", "composition", "oils", "problems")

    def __init__(
        self,
        problems: Sequence[Problem],
        oils: Catalogue,
        components: Sequence[Component] = (),
        composition: Composition | None = None,
    ) -> None:
        self.problems = tuple(problems)
        self.oils = oils
        self.components = tuple(components)
        self.composition = composition


def examine(formula: Formula, catalogue: Catalogue, *, as_weighed: bool = False) -> Examined:
    """Look over `formula`, each finding at its entry. Later questions wait until earlier ones are settled.

    `as_weighed`: it is in the pot already, so its superfat is what it is, however far from what anyone would design.
    """
    found = [*material_problems(formula.materials, catalogue)]
    materials_stand = not any(problem.stops_calculation for problem in found)
    oils = with_materials(catalogue, formula.materials) if materials_stand else catalogue
    lines = [*_lines(formula, oils)] if materials_stand else []
    if materials_stand and not lines:
        lines = [*_sum(formula)]
    found += lines
    found += [] if as_weighed else _superfat(formula)
    found += [*_lye(formula), *_water(formula), *_extras(formula)]
    found += _target_ranges(formula)
    if formula.purpose not in purposes():
        found.append(
            _problem(
                "unknown_purpose", "impossible", "purpose",
                f"There is no purpose “{formula.purpose}”.", f"Choose one of: {', '.join(purposes())}.",
            )
        )  # fmt: skip
    if any(problem.stops_calculation for problem in found):
        return Examined(found, oils)
    components = components_of(formula.blend, oils)
    composition = compose(formula, components, oils)
    found += [*composition.problems(), *_unsafe(composition, as_weighed=as_weighed)]
    return Examined(found, oils, components, composition)


def problems_of(formula: Formula, catalogue: Catalogue) -> tuple[Problem, ...]:
    """Everything to say about `formula` before it is calculated."""
    return examine(formula, catalogue).problems


def state_of(formula: Formula, problems: tuple[Problem, ...]) -> State:
    """The state that `problems` leave `formula` in, the worst first."""
    if not formula.blend.lines:
        return "empty"
    severities = {problem.severity for problem in problems}
    states: tuple[Literal["impossible", "incomplete", "unsafe"], ...] = ("impossible", "incomplete", "unsafe")
    return next((state for state in states if state in severities), "complete")
