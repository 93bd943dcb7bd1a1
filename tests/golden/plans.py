# ruff: noqa: E501
"""Planned batches, each also with one thing different, and everything that is said of them, for the texts that these tests
hold them to."""

import re
from collections.abc import Callable, Iterator
from typing import Any, get_args

from core.batches import MILK, loaf, plan
from sapolin.core.batch.moulds import Cavities, Cylinder, HalfSpheres, Mould, Slab
from sapolin.core.batch.plan import BatchPlan, Choices, Cut, MouldUse
from sapolin.core.batch.planned import plan_batch
from sapolin.core.batch.procedure import steps_of
from sapolin.core.batch.readiness import readiness
from sapolin.core.batch.sheet import sheet_of
from sapolin.core.materials.ingredients import additives, colorants, liquids, scents
from sapolin.core.quantities.diagnostics import Diagnostic, FormulaError
from sapolin.core.quantities.text import plain

__all__ = ["PLANS", "VARIED", "diagnostic_lines", "dual", "form_of", "found_in_plan", "plan_lines", "varied_lines"]


def mould(name: str, shape: Any, headroom_mm: float = 0.0, cut: Cut | None = None) -> MouldUse:
    return MouldUse(mould=Mould(name=name, shape=shape), headroom_mm=headroom_mm, cut=cut)


def dual(share: float, by: str = "saponification_percent") -> dict[str, Any]:
    koh = {"by": by, "value": share, "purity_percent": 90.0}
    return {"naoh_purity_percent": 98.5, "koh": koh}


COLOURS = [
    {"name": "white", "share_percent": 50.0, "colours": [{"colorant": "titanium-white", "value": 1.0}]},
    {"name": "blue", "share_percent": 30.0, "colours": [
        {"colorant": "mica-blue", "value": 1.0}, {"colorant": "ultramarine-blue", "value": 0.25, "disperse_in": "glycerin"},
    ]},
    {"name": "plain", "share_percent": 20.0},
]  # fmt: skip
SLAB = mould(
    "Slab",
    Slab(kind="slab", length_mm=300, width_mm=220, height_mm=40),
    5,
    Cut(bar_mm=80, bar_width_mm=55, kerf_mm=1, trim_mm=3),
)
TUBE = mould(
    "Tube",
    Cylinder(kind="cylinder", diameter_mm=76, length_mm=300),
    10,
    Cut(bar_mm=28, kerf_mm=1.5, trim_mm=4, halved=True),
)
DOMES = mould("Domes", HalfSpheres(kind="half_spheres", diameter_mm=70, count=6))
TRAY = mould("Tray", Cavities(kind="cavities", count=8, cavity_ml=95))

PLANS: dict[str, BatchPlan] = {
    "guest loaf": plan(
        scents=[{"scent": "lavender", "percent_of_oils": 2.5, "limit_percent": 3.0}, {"scent": "vanilla-type", "percent_of_oils": 0.5}],
        portions=COLOURS, choices={"top": "textured", "cover": "insulate"}, notes="For the hut.",
    ),
    "milk slab": plan(
        formula={"liquids": [MILK], "additives": [{"additive": "honey", "by": "percent_of_oils", "value": 1.0}]},
        moulds=(SLAB, DOMES), choices={"milk": "chilled", "cover": "fridge", "school": "within_5_f", "ice_bath": True},
    ),
    "tube by oils": plan(
        formula={"lye": dual(20.0, "lye_weight_percent")}, moulds=(TUBE,), size={"by": "oils_g", "value": 900.0},
        choices={"weigh_into": "separate", "lye": "master", "alcohol_spray": False, "school": "room_temperature", "room_c": 24.0},
    ),
    "cavities by bars": plan(
        formula={"additives": [{"additive": "salt", "by": "percent_of_oils", "value": 30.0}]}, moulds=(TRAY,),
        size={"by": "bars", "value": 10, "cured_bar_g": 85.0}, choices={"cover": "heat_pad", "scent_at": "oils"},
        scents=[{"scent": "lavender", "percent_of_oils": 1.0, "limit_percent": 3.0}],
    ),
    "big batch without a mould": plan(
        moulds=(), size={"by": "oils_g", "value": 12_000.0}, choices={"scale_capacity_g": 5000.0, "lye_concentration_percent": 36.0},
    ),
    "limiting oil": plan(
        moulds=(loaf(headroom_mm=8, bar_mm=30, kerf_mm=2, trim_mm=6),),
        size={"by": "limiting", "available_g": {"olive-refined": 310.0, "coconut": 300.0}},
    ),
}  # fmt: skip


def diagnostic_lines(found: tuple[Diagnostic, ...]) -> Iterator[str]:
    for one in found:
        words = " | ".join(plain(text) for text in (one.message, one.reason, one.remedy) if text)
        yield f"{one.severity} {one.code} {one.path} {one.stops} {one.quantity or ''}: {words}"


def found_in_plan(asked: BatchPlan) -> Iterator[Diagnostic]:
    """What stops a plan; where nothing does, what is said of it."""
    try:
        planned = plan_batch(asked)
    except FormulaError as refused:
        yield from refused.problems
    else:
        yield from readiness(asked, planned)


def plan_lines(asked: BatchPlan) -> Iterator[str]:
    planned = plan_batch(asked)
    yield plain(planned.size.words)
    yield from diagnostic_lines(readiness(asked, planned))
    sheet = sheet_of(asked, planned, "B-101")
    for section in sheet.sections:
        yield f"== {section.title}"
        for row in (*section.rows, *((section.total,) if section.total else ())):
            marks = "".join(mark for mark, is_so in ((" caustic", row.caustic), (" lot", row.lot)) if is_so)
            yield f"{row.name}: {row.g} g, {row.oz} oz, {row.note}{marks}"
    for fact in sheet.facts:
        yield f"{fact.name}: {plain(fact.value)}"
    for words in sheet.moulds:
        yield plain(words)
    for fill in planned.moulds:
        for cut in fill.cuts:
            yield f"{fill.name} cut: {plain(cut.label)} {cut.bars} bars {cut.bar_ml:.3f} ml {cut.wet_g:.3f} g {cut.cured_g:.3f} g over {cut.left_over_g:.3f}"
    for step in steps_of(asked, planned):
        yield f"[{step.phase}] {step.title} ({step.kind}{', caustic' if step.caustic else ''}): {plain(step.text)}"
        for check in step.checks:
            yield f"    - {check}"
        if step.weigh is not None:
            yield f"    {step.weigh.target_g} g within {step.weigh.tolerance_g:.4g} g, {step.weigh.decimals} decimals, {step.weigh.most_at_once_g}"


BASE = PLANS["guest loaf"]


def changed(formula: dict[str, Any] | None = None, **changes: Any) -> BatchPlan:
    """The guest loaf with one thing different."""
    process = {"process": BASE.formula.process.model_dump() | (formula or {}).pop("process", {})}
    made = BASE.formula.model_dump() | process | (formula or {})
    choices = BASE.choices.model_dump() | changes.pop("choices", {})
    return BatchPlan.model_validate(BASE.model_dump() | {"formula": made, "choices": choices} | changes)


def rate_of(low: float, high: float) -> float:
    return round((low + high) / 2, 3)


def portion(**colour: Any) -> list[dict[str, Any]]:
    return [{"name": "one", "share_percent": 100.0, "colours": [{"value": 1.0} | colour]}]


def all_choices() -> dict[str, BatchPlan]:
    """Every value of every choice that is a word or a yes."""
    made: dict[str, BatchPlan] = {}
    for name, field in Choices.model_fields.items():
        values = (True, False) if isinstance(field.default, bool) else get_args(field.annotation)
        for value in values:
            if isinstance(value, str | bool) and value != getattr(BASE.choices, name):
                made[f"{name} {value}"] = changed(choices={name: value})
    return made


def all_ways() -> dict[str, BatchPlan]:
    """Ways to make it, sizes, moulds and what is brought."""
    liquid_lye = {"lye": dual(100.0)}
    return {
        "hot": changed({"process": {"method": "hot"}}),
        "gel prevented": changed({"process": {"gel": "prevented"}}),
        "gel encouraged, warm": changed({"process": {"gel": "encouraged", "batter_temperature_c": 48.0}}),
        "cool": changed({"process": {"batter_temperature_c": 24.0}}),
        "cured eight weeks": changed({"process": {"cure_weeks": 8}}),
        "with potash": changed({"lye": dual(15.0)}),
        "liquid soap": changed({"purpose": "liquid-soap", "process": {"method": "hot"}, "superfat_percent": 2.0} | liquid_lye, moulds=[], size={"by": "oils_g", "value": 1000.0}, jar_g=800.0, portions=[]),
        "shaving": changed({"purpose": "shaving", "lye": dual(60.0), "process": {"method": "hot"}}),
        "salt bar": changed({"purpose": "salt-bar", "additives": [{"additive": "salt", "by": "percent_of_oils", "value": 60.0}]}),
        "strong lye": changed(choices={"lye_concentration_percent": 40.0}),
        "weak lye": changed(choices={"lye_concentration_percent": 26.0}),
        "master lye of its own concentration": changed({"lye": {"naoh_purity_percent": 99.0, "master_percent": 48.0}}),
        "a small scale": changed(choices={"scale_capacity_g": 600.0}),
        "no limit of the scale": changed(choices={"scale_capacity_g": None}),
        "a cold room": changed(choices={"room_c": 12.0}),
        "a hot room": changed(choices={"room_c": 31.0}),
        "six kilograms": changed(size={"by": "oils_g", "value": 6000.0}, moulds=[]),
        "by batter": changed(size={"by": "batter_g", "value": 1000.0}),
        "by bars": changed(size={"by": "bars", "value": 12, "cured_bar_g": 90.0}),
        "by what is left": changed(size={"by": "limiting", "available_g": {"palm": 200.0}}),
        "one colour": changed(portions=[]),
        "no scent": changed(scents=[]),
        "over its limit": changed(scents=[{"scent": "clove", "percent_of_oils": 4.0, "limit_percent": 0.5}]),
        "brought": changed(brought=("olive-refined", "scent:lavender")),
        "two moulds": changed(moulds=[SLAB.model_dump(), DOMES.model_dump()]),
        "a tube": changed(moulds=[TUBE.model_dump()]),
        "a tray": changed(moulds=[TRAY.model_dump()]),
        "no headroom": changed(moulds=[loaf(headroom_mm=0).model_dump()]),
        "not cut": changed(moulds=[loaf(bar_mm=None).model_dump()]),
        "late butter": changed({"blend": {"total_oils_g": 1000.0, "lines": [
            {"oil": "olive-refined", "value": 40.0}, {"oil": "palm", "value": 30.0}, {"oil": "coconut", "value": 24.0},
            {"oil": "shea", "value": 6.0, "added": "at_trace"},
        ]}}),
        "butter after the cook": changed({"process": {"method": "hot"}, "blend": {"total_oils_g": 1000.0, "lines": [
            {"oil": "olive-refined", "value": 40.0}, {"oil": "palm", "value": 30.0}, {"oil": "coconut", "value": 24.0},
            {"oil": "shea", "value": 6.0, "added": "after_cook"},
        ]}}),
        "soft oils alone": changed({"blend": {"total_oils_g": 1000.0, "lines": [{"oil": "olive-refined", "value": 90.0}, {"oil": "castor", "value": 10.0}]}}),
        "waxes": changed({"blend": {"total_oils_g": 1000.0, "lines": [
            {"oil": "olive-refined", "value": 60.0}, {"oil": "coconut", "value": 25.0}, {"oil": "beeswax", "value": 8.0}, {"oil": "stearic-acid", "value": 7.0},
        ]}}),
    }  # fmt: skip


VARIED: dict[str, Any] = {
    "choices": all_choices,
    "ways": all_ways,
    "liquids in the lye": lambda: {
        one: changed({"liquids": [{"liquid": one, "use": "dissolves_lye", "by": "percent_of_water", "value": 50.0}]})
        for one in liquids()
    },
    "liquids at trace": lambda: {
        one: changed({"liquids": [{"liquid": one, "use": "at_trace", "by": "percent_of_water", "value": 12.0}]})
        for one in liquids()
    },
    "additives": lambda: {
        one.id: changed({"additives": [{"additive": one.id, "by": "percent_of_oils", "value": rate_of(one.usual_minimum_percent, one.usual_maximum_percent)}]})
        for one in additives().values()
    },
    "scents": lambda: {one: changed(scents=[{"scent": one, "percent_of_oils": 3.0}]) for one in scents()},
    "colorants": lambda: {one: changed(portions=portion(colorant=one)) for one in colorants()},
}  # fmt: skip
"""Batches that differ from the guest loaf in one thing."""


TOLD_AGAIN = 48
"""Characters of what was told of another batch already."""


def form_of(line: str) -> str:
    """A line without its numbers."""
    return re.sub(r"[0-9][0-9.,\u00a0]*", "#", line)


def lines_or_reasons(asked: BatchPlan) -> list[str]:
    """What is said of a batch, or why there is none."""
    try:
        return [*plan_lines(asked)]
    except FormulaError as refused:
        return [*diagnostic_lines(tuple(refused.problems))]


def varied_lines(plans: dict[str, BatchPlan], alike: Callable[[str], str]) -> Iterator[str]:
    """What is said of each that is not said of the guest loaf, and what is not said any more. Lines that `alike` makes the
    same count as one."""
    base = [*plan_lines(BASE)]
    of_base = {alike(line) for line in base}
    told: set[str] = set()
    for name, asked in plans.items():
        yield f"== {name}"
        said = lines_or_reasons(asked)
        forms = {alike(line) for line in said}
        yield from (f"- {line[:TOLD_AGAIN]}" for line in base if alike(line) not in forms)
        for line in said:
            form = alike(line)
            if form not in of_base:
                yield f"+ {line[:TOLD_AGAIN] if form in told else line}"
                told.add(form)
