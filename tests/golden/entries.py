# ruff: noqa: E501
"""Bad input at every entry of whole documents, one at a time, and what is said of it."""

import copy
from collections.abc import Callable, Iterable, Iterator
from typing import Any

from pydantic import ValidationError

from core.batches import loaf
from core.strategies import weight_formula
from core.test_preparations import ON_HAND
from golden.plans import DOMES, PLANS, SLAB, TRAY, TUBE, diagnostic_lines, found_in_plan
from golden.rooms import PREPARATIONS
from sapolin.core.advice.report import report
from sapolin.core.batch.plan import BatchPlan
from sapolin.core.formula.document import Formula
from sapolin.core.preparations import Preparation, prepare_preparation
from sapolin.core.quantities.diagnostics import Diagnostic, FormulaError

__all__ = ["ENTRIES", "entry_lines"]

Document = dict[str, Any]
Found = Callable[[Document], Iterable[Diagnostic]]

TRIED: tuple[float | None, ...] = (None, -2.0, 0.0, 0.4, 140.0, 1e6)
"""What is put at a number."""
UNKNOWN = "nothing-known"
"""What is put where an id stands."""

MATERIALS = [
    {"id": "own-mix", "name": "Mix", "content": {"kind": "recipe", "filler_percent": 4.0, "components": [
        {"oil": "olive-refined", "share_percent": 56.0}, {"oil": "own-lot", "share_percent": 40.0},
    ]}},
    {"id": "own-lot", "name": "Lot", "content": {"kind": "certificate", "of": "coconut", "sap_koh_mg_per_g": 255.0, "iodine_value": 9.0, "acids_percent": None}},
    {"id": "own-seed", "name": "Seed", "content": {"kind": "profile", "solid_at_20_c": False, "unsaponifiable_percent": 1.0, "sap_koh_mg_per_g": 191.0, "acids_percent": {
        "C16:0": 10.0, "C18:0": 4.0, "C18:1": 60.0, "C18:2": 26.0,
    }}},
    {"id": "own-tin", "name": "Tin", "content": {"kind": "sap", "sap_koh_mg_per_g": 195.0, "solid_at_20_c": True}},
]  # fmt: skip
FORMULA = weight_formula(
    {}, superfat=5.0, materials=MATERIALS,
    blend={"total_oils_g": 1000.0, "lines": [
        {"oil": "olive-refined", "value": 40.0}, {"oil": "own-mix", "value": 25.0}, {"oil": "own-seed", "value": 15.0},
        {"oil": "palm", "value": 20.0, "added": "at_trace"},
    ]},
    lye={"naoh_purity_percent": 99.0, "master_percent": 50.0, "koh": {"by": "lye_weight_percent", "value": 8.0, "purity_percent": 90.0}},
    water={"by": "lye_concentration_percent", "value": 31.0},
    liquids=[{"liquid": "goat-milk", "use": "at_trace", "by": "percent_of_water", "value": 20.0}],
    additives=[{"additive": "citric-acid", "by": "percent_of_oils", "value": 1.0}, {"additive": "kaolin", "by": "tsp_per_500_g", "value": 2.0}],
    process={"batter_temperature_c": 38.0, "cure_weeks": 6}, scale_step_g=1.0,
    target_ranges=[{"quality": "hardness", "minimum": 30.0, "maximum": 50.0}],
)  # fmt: skip
WEIGHED = weight_formula(
    {"olive-refined": 500.0, "coconut": 300.0, "tallow-beef": 200.0}, water={"by": "percent_of_oils", "value": 33.0},
    liquids=[{"liquid": "vinegar", "use": "dissolves_lye", "by": "weight_g", "value": 60.0}],
    additives=[{"additive": "salt", "by": "weight_g", "value": 12.0}], lye={"naoh_purity_percent": 98.0},
)  # fmt: skip
LIQUID = weight_formula(
    {"olive-refined": 700.0, "coconut": 300.0}, purpose="liquid-soap", superfat=2.0, water={"by": "water_to_lye", "value": 2.5},
    lye={"naoh_purity_percent": None, "koh": {"by": "saponification_percent", "value": 100.0, "purity_percent": 90.0}},
    dilution={"soap_percent": 25.0},
)  # fmt: skip


def of_formula(document: Document) -> Iterator[Diagnostic]:
    yield from (one for one in report(Formula.model_validate(document)).diagnostics if one.severity == "problem")


def of_plan(document: Document) -> Iterator[Diagnostic]:
    return found_in_plan(BatchPlan.model_validate(document))


def of_preparation(kind: type[Preparation]) -> Found:
    def found(document: Document) -> Iterator[Diagnostic]:
        try:
            yield from prepare_preparation(kind.model_validate(document), ON_HAND).diagnostics
        except FormulaError as refused:
            yield from refused.problems

    return found


def plan_without_formula(**changes: Any) -> Document:
    plan = PLANS["guest loaf"].model_dump(mode="json") | {
        name: [one.model_dump() for one in value] if name == "moulds" else value for name, value in changes.items()
    }
    return plan | {"notes": ""}


CUTTER = {"name": "Wire", "gaps_mm": [25.0, 30.0], "kerf_mm": 0.4}
CUT_BY_WIRE = loaf()
ENTRIES: dict[str, tuple[Document, Found]] = {
    "formula": (FORMULA.model_dump(mode="json"), of_formula),
    "weighed": (WEIGHED.model_dump(mode="json"), of_formula),
    "liquid soap": (LIQUID.model_dump(mode="json"), of_formula),
    "plan": (plan_without_formula(), of_plan),
    "plan by bars": (plan_without_formula(size={"by": "bars", "value": 9, "cured_bar_g": 100.0, "available_g": {}}), of_plan),
    "plan by what is left": (plan_without_formula(size={"by": "limiting", "value": None, "cured_bar_g": None, "available_g": {"palm": 300.0}}), of_plan),
    "moulds": (plan_without_formula(moulds=[SLAB, TUBE, DOMES, TRAY]), of_plan),
    **{name: (asked.model_dump(mode="json"), of_preparation(type(asked))) for name, asked in PREPARATIONS.items()},
}  # fmt: skip
LEFT_OUT = ("formula.", "id", "name", "notes", "kind", "by", "version")
"""Inside a plan the formula, whose entries are tried by themselves; and what nobody calculates with."""


def places(value: Any, at: str = "") -> Iterator[tuple[str, list[str | int], Any]]:
    """Every number and id of a document: its path as people read it, its keys, and what stands there."""

    def walk(one: Any, path: str, keys: list[str | int]) -> Iterator[tuple[str, list[str | int], Any]]:
        if isinstance(one, dict):
            for name, inner in one.items():
                yield from walk(inner, f"{path}.{name}" if path else name, [*keys, name])
        elif isinstance(one, list):
            for i, inner in enumerate(one):
                yield from walk(inner, f"{path}[{i}]", [*keys, i])
        elif not isinstance(one, bool):
            yield path, keys, one

    yield from walk(value, at, [])


def with_value(document: Document, keys: list[str | int], value: Any) -> Document:
    changed = copy.deepcopy(document)
    inner: Any = changed
    for key in keys[:-1]:
        inner = inner[key]
    inner[keys[-1]] = value
    return changed


def said_of(found: Found, document: Document) -> list[str]:
    try:
        return [*diagnostic_lines(tuple(found(document)))]
    except ValidationError as refused:
        return [f"not read: {one['type']} at {'.'.join(map(str, one['loc']))}" for one in refused.errors()[:1]]


def entry_lines(document: Document, found: Found) -> Iterator[str]:
    """What the values at an entry draw that the sound document does not, the first of each kind."""
    sound = set(said_of(found, document))
    yield from (f"sound: {line}" for line in sorted(sound))
    for path, keys, now in places(document):
        if path.startswith(LEFT_OUT) or keys[-1] in LEFT_OUT:
            continue
        told: set[str] = set()
        is_number = isinstance(now, int | float) or now is None
        for value in TRIED if is_number else (UNKNOWN,):
            for line in said_of(found, with_value(document, keys, value)):
                kind = " ".join(line.split(" ", 3)[:3])
                if line not in sound and kind not in told:
                    told.add(kind)
                    yield f"{path} = {value}: {line}"
