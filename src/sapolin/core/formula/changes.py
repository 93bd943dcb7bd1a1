"""What changed between two formulas, in words a maker reads."""

from collections.abc import Iterator

from sapolin.core.formula.blend import by_oil
from sapolin.core.formula.document import Formula
from sapolin.core.formula.purposes import purposes
from sapolin.core.materials.catalogue import Catalogue, catalogue
from sapolin.core.materials.ingredients import additives, liquids
from sapolin.core.materials.own import material_problems, with_materials
from sapolin.core.quantities.text import Param, Text, significant, template, text, weight

__all__ = ["changes_between"]


def _total_g(formula: Formula) -> float | None:
    blend = formula.blend
    if blend.by == "percent_of_oils":
        return blend.total_oils_g
    return sum(line.value or 0.0 for line in blend.lines)


def _shares(formula: Formula) -> dict[str, float | None]:
    """Of each oil on all its lines, % of what is entered; null where that is open."""
    lines, total = formula.blend.lines, _total_g(formula)
    if formula.blend.by == "percent_of_oils":
        open_oils, times = {line.oil for line in lines if line.value is None}, 1.0
    else:
        open_oils, times = (set(), 100 / total) if total else ({line.oil for line in lines}, 0.0)
    amounts = by_oil((line.oil, (line.value or 0.0) * times) for line in lines)
    return {oil: None if oil in open_oils else amount for oil, amount in amounts.items()}


def _stages(formula: Formula) -> dict[str, list[str]]:
    """When each oil goes in, line by line."""
    stages: dict[str, list[str]] = {}
    for line in formula.blend.lines:
        stages.setdefault(line.oil, []).append(line.added)
    return stages


def _said(code: str, **params: Param | Text) -> Text:
    return text(f"changes.{code}", **params)


def _quantity(value: float | None, unit: str = "%") -> Param:
    """An amount as it is told, or that it is open."""
    if value is None:
        return template("changes.open")
    return weight(value, 1 if value % 1 else 0) if unit == "g" else significant(value, 4, unit)


def _blend(before: Formula, after: Formula, oils: Catalogue) -> Iterator[Text]:
    old, new = _shares(before), _shares(after)

    def name(oil: str) -> str:
        return oils[oil].name if oil in oils else oil

    for oil, share in new.items():
        if oil not in old:
            yield _said("oil_in", name=name(oil), share=_quantity(share))
    for oil, share in old.items():
        if oil not in new:
            yield _said("oil_out", name=name(oil), share=_quantity(share))
        elif (share is None) != (new[oil] is None) or abs((share or 0.0) - (new[oil] or 0.0)) >= 0.005:
            yield _said("oil", name=name(oil), was=_quantity(share), now=_quantity(new[oil]))
    then = _stages(before)
    for oil, stages in _stages(after).items():
        if oil in then and {*then[oil]} != {*stages}:
            for stage in dict.fromkeys(stages):
                if stage not in then[oil] or len(then[oil]) > len(stages):
                    yield _said(f"goes_in.{stage}", name=name(oil))


def _lye(before: Formula, after: Formula) -> Iterator[Text]:
    was, now = before.lye, after.lye
    if before.superfat_percent != after.superfat_percent:
        yield _said("superfat", was=_quantity(before.superfat_percent), now=_quantity(after.superfat_percent))
    if was.naoh_purity_percent != now.naoh_purity_percent:
        yield _said("naoh_purity", was=_quantity(was.naoh_purity_percent), now=_quantity(now.naoh_purity_percent))
    if was.koh != now.koh:
        koh = now.koh
        yield _said("no_koh") if koh is None else _said(f"koh.{koh.by}", share=_quantity(koh.value))
    if was.master_percent != now.master_percent:
        yield _said("master", share=_quantity(now.master_percent)) if now.master_percent else _said("no_master")
    if before.water != after.water:
        value = after.water.value
        yield _said("water_open") if value is None else _said(f"water.{after.water.by}", value=significant(value, 6))


def _extras(before: Formula, after: Formula) -> Iterator[Text]:
    def amounts(formula: Formula) -> dict[str, Text]:
        found = {}
        for line in formula.liquids:
            name = liquids()[line.liquid].name if line.liquid in liquids() else line.liquid
            found[name] = _said(f"liquid.{line.use}", amount=_quantity(line.value, _UNITS[line.by]))
        for extra in formula.additives:
            name = additives()[extra.additive].name if extra.additive in additives() else extra.additive
            amount = _quantity(extra.value, _UNITS[extra.by])
            found[name] = _said("added_back", amount=amount) if extra.compensated else (amount,)
        return found

    old, new = amounts(before), amounts(after)
    for name, what in new.items():
        if name not in old:
            yield _said("extra_in", name=name, what=what)
        elif old[name] != what:
            yield _said("extra", name=name, what=what)
    for name in old:
        if name not in new:
            yield _said("extra_out", name=name)


_UNITS = {
    "percent_of_water": "% of the water",
    "percent_of_oils": "% of oils",
    "weight_g": "g",
    "tsp_per_500_g": "tsp for 500 g of oils",
}


def changes_between(before: Formula, after: Formula, base: Catalogue | None = None) -> tuple[Text, ...]:
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
        found.append(_said("purpose", name=name))
    if before.target_ranges != after.target_ranges:
        found.append(_said("own_ranges" if after.target_ranges is not None else "purpose_ranges"))
    if before.process != after.process:
        found.append(_said("process", method=after.process.method, gel=after.process.gel))
    if before.wash_water != after.wash_water:
        found.append(_said("wash_water", water=template(f"waters.{after.wash_water}")))
    if set(before.free_of) != set(after.free_of):
        names = ", ".join(after.free_of)
        found.append(_said("without", names=names) if after.free_of else _said("nothing_without"))
    if before.name != after.name:
        found.append(_said("named", name=after.name))
    if _total_g(before) != _total_g(after):
        was, now = _quantity(_total_g(before), "g"), _quantity(_total_g(after), "g")
        found.append(_said("oils", was=was, now=now))
    return tuple(found)
