"""Everything that can be wrong with a formula before it is calculated, said at the entry where it is."""

from collections.abc import Iterator
from typing import Literal, NamedTuple

from sapolin.core.formula.blend import share_sum_percent
from sapolin.core.formula.composition import Composition
from sapolin.core.formula.document import Formula, Lye
from sapolin.core.formula.purposes import purposes, quality_names
from sapolin.core.formula.starting import Habits, starters
from sapolin.core.formula.verify import verify_lye
from sapolin.core.materials.catalogue import Catalogue, catalogue
from sapolin.core.materials.ingredients import additives, liquids
from sapolin.core.materials.own import material_problems, with_materials
from sapolin.core.quantities.diagnostics import Diagnostic, Offer, diagnostic, stopping
from sapolin.core.quantities.limits import LIMITS, SUM_TOLERANCE_PERCENT
from sapolin.core.quantities.text import listed, number, percent, weight

__all__ = [
    "Examined",
    "State",
    "examine",
    "habit_problems",
    "lye_heavy_problems",
    "problems_of",
    "state_of",
    "water_problems",
    "within",
]

State = Literal["empty", "incomplete", "impossible", "unsafe", "complete"]
"""Whether a formula is safe to make: complete; unsafe (calculated, lye-heavy); or not calculated and why."""

MOST_ADDITIVE_PERCENT = 200.0
"""A salt bar takes its oils' weight in salt; beyond twice that there is no soap to speak of."""
MOST_LIQUID_PERCENT_OF_OILS = 200.0
LEAST_WATER = 0.01
"""A lye concentration, a ratio or a share of the oils below this is a slip of the pen; no water can be calculated from it."""


def within(limit_id: str, value: float | None, path: str) -> Iterator[Diagnostic]:
    """Whether an entry is there, and within its limit. A percentage typed as a fraction is asked about."""
    limit = LIMITS[limit_id]
    low, high = limit.quantity(limit.minimum), limit.quantity(limit.maximum)
    if value is None:
        yield stopping("missing", path, is_open=True, name=limit.name, low=low, high=high)
    elif not limit.holds(value):
        meant = value * 100
        was_fraction = limit.often_a_fraction and 0 < value <= 1 and limit.holds(meant)
        name, said, why = limit.name, limit.quantity(value), limit.reason
        if was_fraction:
            shown = percent(round(meant, 6))
            yield stopping(
                "out_of_range_fraction", path, offers=(Offer(value=shown.value, label=(shown,)),), meant=shown, name=name,
                value=said, low=low, high=high, why=why,
            )  # fmt: skip
        else:
            yield stopping("out_of_range", path, name=name, value=said, low=low, high=high, why=why)


def _lines(formula: Formula, catalogue: Catalogue) -> Iterator[Diagnostic]:
    blend = formula.blend
    if not blend.lines:
        yield stopping("no_oils", "blend.lines", is_open=True)
    for i, line in enumerate(blend.lines):
        if line.oil not in catalogue:
            yield stopping("unknown_oil", f"blend.lines[{i}].oil", oil=line.oil)
    if blend.lines and all(line.added != "start" for line in blend.lines):
        yield stopping("no_oil_for_the_lye", "blend.lines")
    for i, line in enumerate(blend.lines):
        limit = "share_percent" if line.by == "percent_of_oils" else "weight_g"
        yield from within(limit, line.value, f"blend.lines[{i}].value")
    if blend.by == "percent_of_oils" and not any(line.by == "weight_g" for line in blend.lines):
        yield from within("total_oils_g", blend.total_oils_g, "blend.total_oils_g")


def _sum(formula: Formula) -> Iterator[Diagnostic]:
    """Only asked when every amount is entered and possible by itself."""
    blend = formula.blend
    weighed_g = sum(line.value or 0.0 for line in blend.lines if line.by == "weight_g")
    shares = share_sum_percent(blend)
    if weighed_g > 0 and shares >= 100:
        yield stopping("no_room_for_weights", "blend.lines", sum=percent(shares))
    elif weighed_g > 0 or blend.by == "weight_g":
        yield from within("total_oils_g", weighed_g / (1 - shares / 100), "blend.lines")
    elif abs(shares - 100) > SUM_TOLERANCE_PERCENT + 1e-9:
        code = "sum_over_100" if shares > 100 else "sum_not_100"
        gap = number(round(abs(shares - 100), 6))
        yield stopping(code, "blend.lines", about="sum", is_open=True, sum=percent(shares), gap=gap)


def _water(formula: Formula) -> Iterator[Diagnostic]:
    value, by = formula.water.value, formula.water.by
    if value is None:
        yield stopping("missing_water", "water.value", is_open=True)
    elif (by != "discount_percent" and value < LEAST_WATER) or (
        by in ("lye_concentration_percent", "discount_percent") and value >= 100
    ):
        yield stopping("impossible_water", "water.value", value=number(value))


def _lye(formula: Formula) -> Iterator[Diagnostic]:
    lye = formula.lye
    koh = lye.koh
    all_koh = koh is not None and koh.value == 100
    if not all_koh:
        yield from within("naoh_purity_percent", lye.naoh_purity_percent, "lye.naoh_purity_percent")
    if koh is not None:
        yield from within("koh_purity_percent", koh.purity_percent, "lye.koh.purity_percent")
        yield from within("koh_share_percent", koh.value, "lye.koh.value")
    if lye.master_percent is not None:
        yield from within("master_percent", lye.master_percent, "lye.master_percent")
    if lye.purity_tolerance_percent is not None:
        yield from within("purity_tolerance_percent", lye.purity_tolerance_percent, "lye.purity_tolerance_percent")
    if formula.scale_step_g is not None:
        yield from within("scale_step_g", formula.scale_step_g, "scale_step_g")


def _amount(value: float | None, by: str, path: str, name: str, most: float) -> Iterator[Diagnostic]:
    if value is None:
        yield stopping("missing_amount", path, is_open=True, name=name)
    elif by == "weight_g":
        yield from within("weight_g", value, path)
    elif not 0 <= value <= most:
        yield stopping("amount_out_of_range", path, name=name, value=percent(value), most=percent(most))


def _extras(formula: Formula) -> Iterator[Diagnostic]:
    for i, line in enumerate(formula.liquids):
        if line.liquid not in liquids():
            yield stopping("unknown_liquid", f"liquids[{i}].liquid", liquid=line.liquid)
            continue
        most = 100.0 if line.by == "percent_of_water" else MOST_LIQUID_PERCENT_OF_OILS
        yield from _amount(line.value, line.by, f"liquids[{i}].value", liquids()[line.liquid].name, most)
    for i, extra in enumerate(formula.additives):
        if extra.additive not in additives():
            yield stopping("unknown_additive", f"additives[{i}].additive", additive=extra.additive)
            continue
        additive = additives()[extra.additive]
        path = f"additives[{i}].value"
        if extra.by == "tsp_per_500_g" and extra.value is not None:
            most = 5 * MOST_ADDITIVE_PERCENT / additive.g_per_tsp
            if not 0 <= extra.value <= most:
                yield stopping(
                    "spoons_out_of_range", path, name=additive.name, value=number(extra.value), most=number(most, 0)
                )
        else:
            yield from _amount(extra.value, extra.by, path, additive.name, MOST_ADDITIVE_PERCENT)
    if formula.dilution is not None:
        yield from within("soap_percent", formula.dilution.soap_percent, "dilution.soap_percent")
    process = formula.process
    if process.batter_temperature_c is not None:
        yield from within("batter_temperature_c", process.batter_temperature_c, "process.batter_temperature_c")
    if process.cure_weeks is not None:
        yield from within("cure_weeks", process.cure_weeks, "process.cure_weeks")


def _superfat(formula: Formula) -> Iterator[Diagnostic]:
    yield from within("superfat_percent", formula.superfat_percent, "superfat_percent")
    superfat = formula.superfat_percent
    if superfat is None or superfat >= 0 or not LIMITS["superfat_percent"].holds(superfat):
        return
    purpose = purposes().get(formula.purpose)
    if purpose is not None and not purpose.negative_superfat:
        marked = listed([f"“{other.name}”" for other in purposes().values() if other.negative_superfat])
        yield stopping(
            "lye_heavy", "superfat_percent", superfat=percent(superfat), excess=percent(-superfat), purposes=marked
        )  # fmt: skip


def _target_ranges(formula: Formula) -> Iterator[Diagnostic]:
    seen: set[str] = set()
    for i, target_range in enumerate(formula.target_ranges or ()):
        path, quality = f"target_ranges[{i}]", target_range.quality
        if quality in seen:
            yield stopping("target_range_twice", path, quality=quality)
        elif quality not in quality_names():
            yield stopping("unknown_target_range", path, quality=quality)
        elif target_range.minimum > target_range.maximum:
            yield diagnostic(
                "target_range_reversed", "warning", path, name=quality_names()[quality].lower(),
                minimum=number(target_range.minimum), maximum=number(target_range.maximum),
            )  # fmt: skip
        seen.add(quality)


def water_problems(composition: Composition) -> Iterator[Diagnostic]:
    """Water that cannot be, when lye and everything that brings water are taken together."""
    limit = LIMITS["water_to_lye"]
    lye_g, water_g = composition.lye_g, composition.water_g
    lye, water = weight(lye_g), weight(water_g)
    if water_g < lye_g * limit.minimum * (1 - 1e-9):
        most = percent(100 * lye_g / composition.oils_g, 1)
        yield stopping("water_below_floor", "water.value", water=water, lye=lye, percent_of_oils=most)
    elif water_g > lye_g * limit.maximum:
        yield stopping("too_much_water", "water.value", water=water, times=number(limit.maximum), why=limit.reason)
    elif composition.liquids_water_g > water_g * (1 + 1e-9):
        yield stopping("liquids_beyond_water", "liquids", brought=weight(composition.liquids_water_g), water=water)
    elif composition.plain_water_g < -1e-9 * water_g:
        brought = weight(composition.master_water_g + composition.liquids_water_g)
        yield stopping("master_beyond_water", "lye.master_percent", brought=brought, water=water)
    elif composition.dissolving_water_g < lye_g * (1 - 1e-9):
        yield stopping("lye_water_below_floor", "liquids", water=weight(composition.dissolving_water_g), lye=lye)


def lye_heavy_problems(composition: Composition, *, weighed: bool = False) -> tuple[Diagnostic, ...]:
    """More lye than everything together can take: oils, fat in liquids, and acids. The superfat entered is not all of it.

    `weighed`: it has been weighed already, so it is no intention any more.
    """
    if not composition.is_lye_heavy:
        return ()
    code = "lye_heavy_as_weighed" if weighed else "lye_heavy_on_purpose"
    excess = percent(-composition.superfat_percent, 1 if weighed else 2)
    return (diagnostic(code, "problem", "superfat_percent", stops="making", about="lye", excess=excess),)


class Examined(NamedTuple):
    """A formula looked over: its problems and, when none of them stops the calculation, its composition."""

    problems: tuple[Diagnostic, ...]
    oils: Catalogue
    """The catalogue with the formula's own materials in it, when they are sound."""
    composition: Composition | None = None


def examine(formula: Formula, catalogue: Catalogue) -> Examined:
    """Look over `formula`, each problem at its entry. Later questions wait until earlier ones are settled.

    The lye of a composition has passed its checks (:mod:`sapolin.core.formula.verify`).
    """
    found = [*material_problems(formula.materials, catalogue)]
    materials_stand = not any(problem.stops_calculation for problem in found)
    oils = with_materials(catalogue, formula.materials) if materials_stand else catalogue
    lines = [*_lines(formula, oils)] if materials_stand else []
    if materials_stand and not lines:
        lines = [*_sum(formula)]
    found += [
        *lines,
        *_superfat(formula),
        *_lye(formula),
        *_water(formula),
        *_extras(formula),
        *_target_ranges(formula),
    ]
    if formula.purpose not in purposes():
        found.append(stopping("unknown_purpose", "purpose", purpose=formula.purpose, known=", ".join(purposes())))
    if any(problem.stops_calculation for problem in found):
        return Examined(tuple(found), oils)
    composition = Composition.of_formula(formula, oils)
    verify_lye(composition, formula)
    found += [*water_problems(composition), *lye_heavy_problems(composition)]
    return Examined(tuple(found), oils, composition)


def problems_of(formula: Formula, catalogue: Catalogue) -> tuple[Diagnostic, ...]:
    """Everything to say about `formula` before it is calculated."""
    return examine(formula, catalogue).problems


_HABITS = {"superfat_percent": "habits.superfat_percent", "water.value": "habits.water_value"}
"""Entries of a formula, and the habit that each is taken from."""


def habit_problems(habits: Habits) -> Iterator[Diagnostic]:
    """What no formula could begin with, each problem at its habit. Checked on a whole formula: water beside its lye.

    >>> [problem.path for problem in habit_problems(Habits(superfat_percent=60.0))]
    ['habits.superfat_percent']
    """
    whole = starters(habits)[0].formula.model_copy(update={"lye": Lye(naoh_purity_percent=100.0)})
    for problem in problems_of(whole, catalogue()):
        if problem.path in _HABITS:
            yield problem.model_copy(update={"path": _HABITS[problem.path]})


def state_of(formula: Formula, problems: tuple[Diagnostic, ...]) -> State:
    """The state that `problems` leave `formula` in, the worst first."""
    if not formula.blend.lines:
        return "empty"
    if any(problem.stops_calculation and not problem.is_open for problem in problems):
        return "impossible"
    if any(problem.stops_calculation for problem in problems):
        return "incomplete"
    return "unsafe" if any(problem.stops == "making" for problem in problems) else "complete"
