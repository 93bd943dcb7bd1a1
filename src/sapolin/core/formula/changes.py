"""What changed between two formulas, in words a maker reads."""

from collections.abc import Iterator

from sapolin.core.formula.document import Formula
from sapolin.core.formula.purposes import purposes
from sapolin.core.materials.catalogue import Catalogue, catalogue
from sapolin.core.materials.ingredients import additives, liquids
from sapolin.core.materials.own import material_problems, with_materials

__all__ = ["changes_between"]

_WATER = {
    "lye_concentration_percent": "lye concentration {:g} %",
    "water_to_lye": "water : lye {:g}",
    "percent_of_oils": "water {:g} % of oils",
    "discount_percent": "water discount {:g} %",
}
_USE = {"dissolves_lye": "with the lye", "into_oils": "into the oils", "at_trace": "at trace"}


def _total_g(formula: Formula) -> float | None:
    blend = formula.blend
    if blend.by == "percent_of_oils":
        return blend.total_oils_g
    return sum(line.value or 0.0 for line in blend.lines)


def _shares(formula: Formula) -> dict[str, float | None]:
    blend = formula.blend
    if blend.by == "percent_of_oils":
        return {line.oil: line.value for line in blend.lines}
    total = _total_g(formula)
    return {line.oil: 100 * (line.value or 0.0) / total if total else None for line in blend.lines}


def _quantity(value: float | None, unit: str = " %") -> str:
    return "open" if value is None else f"{value:.4g}{unit}"


def _blend(before: Formula, after: Formula, oils: Catalogue) -> Iterator[str]:
    old, new = _shares(before), _shares(after)

    def name(oil: str) -> str:
        return oils[oil].name if oil in oils else oil

    for oil, share in new.items():
        if oil not in old:
            yield f"{name(oil)} in at {_quantity(share)}"
    for oil, share in old.items():
        if oil not in new:
            yield f"{name(oil)} out, from {_quantity(share)}"
        elif (share is None) != (new[oil] is None) or abs((share or 0.0) - (new[oil] or 0.0)) >= 0.005:
            yield f"{name(oil)} {_quantity(share)} → {_quantity(new[oil])}"
    when = {line.oil: line.added for line in before.blend.lines}
    for line in after.blend.lines:
        if line.oil in when and when[line.oil] != line.added:
            yield f"{name(line.oil)} goes in {line.added.replace('_', ' ').replace('start', 'with the others')}"


def _lye(before: Formula, after: Formula) -> Iterator[str]:
    if before.superfat_percent != after.superfat_percent:
        yield f"superfat {_quantity(before.superfat_percent)} → {_quantity(after.superfat_percent)}"
    if before.lye.naoh_purity_percent != after.lye.naoh_purity_percent:
        yield f"NaOH purity {_quantity(before.lye.naoh_purity_percent)} → {_quantity(after.lye.naoh_purity_percent)}"
    if before.lye.koh != after.lye.koh:
        koh = after.lye.koh
        yield (
            "all lye is NaOH"
            if koh is None
            else f"KOH {_quantity(koh.value)} of the "
            + ("saponification" if koh.by == "saponification_percent" else "weight of lye")
        )
    if before.lye.master_percent != after.lye.master_percent:
        yield f"master lye {_quantity(after.lye.master_percent)}" if after.lye.master_percent else "lye weighed dry"
    if before.water != after.water:
        value = after.water.value
        yield "water open" if value is None else _WATER[after.water.by].format(value)


def _extras(before: Formula, after: Formula) -> Iterator[str]:
    def said(formula: Formula) -> dict[str, str]:
        units = {"percent_of_water": " % of the water", "percent_of_oils": " % of oils", "weight_g": " g",
                 "tsp_per_500_g": " tsp for 500 g of oils"}  # fmt: skip
        found = {}
        for line in formula.liquids:
            name = liquids()[line.liquid].name if line.liquid in liquids() else line.liquid
            found[name] = f"{_quantity(line.value, units[line.by])}, {_USE[line.use]}"
        for extra in formula.additives:
            name = additives()[extra.additive].name if extra.additive in additives() else extra.additive
            added_back = ", lye added back" if extra.compensated else ""
            found[name] = f"{_quantity(extra.value, units[extra.by])}{added_back}"
        return found

    old, new = said(before), said(after)
    for name, what in new.items():
        if name not in old:
            yield f"{name} in: {what}"
        elif old[name] != what:
            yield f"{name}: {what}"
    for name in old:
        if name not in new:
            yield f"{name} out"


def changes_between(before: Formula, after: Formula, base: Catalogue | None = None) -> tuple[str, ...]:
    """Every change from `before` to `after` that matters to the bar, the blend first; empty when there is none.

    The weight of the batch is told last, since it changes nothing in the bar.
    """
    oils = catalogue() if base is None else base
    known = tuple({material.id: material for material in (*before.materials, *after.materials)}.values())
    # Materials that are not sound are named by their ids.
    if not any(problem.stops_calculation for problem in material_problems(known, oils)):
        oils = with_materials(oils, known)
    found = [*_blend(before, after, oils), *_lye(before, after), *_extras(before, after)]
    if before.purpose != after.purpose:
        name = purposes()[after.purpose].name.lower() if after.purpose in purposes() else after.purpose
        found.append(f"made for {name}")
    if before.target_ranges != after.target_ranges:
        found.append("own target ranges" if after.target_ranges is not None else "target ranges of the purpose")
    if before.process != after.process:
        found.append(f"{after.process.method} process, gel {after.process.gel}")
    if set(before.free_of) != set(after.free_of):
        found.append(f"without {', '.join(after.free_of)}" if after.free_of else "nothing to do without any more")
    if before.name != after.name:
        found.append(f"named “{after.name}”")
    if _total_g(before) != _total_g(after):
        found.append(f"oils {_quantity(_total_g(before), ' g')} → {_quantity(_total_g(after), ' g')}")
    return tuple(found)
