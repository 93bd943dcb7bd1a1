"""Documents of version 1: the same content under the names of version 2.

What changed: a locked oil was `held`, target ranges were `bands`, the components of a mixture were `parts`, and the amount
of an oil was `share_percent` or `weight_g` by the kind of its blend.
"""

from typing import Any

__all__ = [
    "event_from_version_1",
    "formula_from_version_1",
    "material_from_version_1",
    "plan_from_version_1",
    "rows_from_version_1",
    "target_from_version_1",
]

Document = dict[str, Any]


def _renamed(entries: Document, **names: str) -> Document:
    """`entries` with new names for some, in their order; what is not there stays out."""
    return {names.get(name, name): value for name, value in entries.items()}


def formula_from_version_1(formula: Document) -> Document:
    """A formula of version 1 under the names of version 2; entries that are no formula's stay, to be refused by name.

    >>> old = {"by": "weight", "lines": [{"oil": "olive", "held": True, "weight_g": 500.0}]}
    >>> formula_from_version_1({"blend": old, "bands": None})["blend"]["lines"]
    [{'oil': 'olive', 'by': 'weight_g', 'locked': True, 'value': 500.0}]
    """
    upgraded = _renamed(formula, bands="target_ranges")
    blend, materials = formula.get("blend"), formula.get("materials")
    if isinstance(blend, dict) and isinstance(blend.get("lines"), list):
        upgraded["blend"] = _blend_from_version_1(blend)
    if isinstance(materials, list):
        upgraded["materials"] = [material_from_version_1(one) if isinstance(one, dict) else one for one in materials]
    return upgraded


def _blend_from_version_1(blend: Document) -> Document:
    """Shares and weights were two kinds of line; now how an amount is entered is an entry of the line."""
    by_weight = blend.get("by") == "weight"
    amount, basis = ("weight_g", "weight_g") if by_weight else ("share_percent", "percent_of_oils")
    lines = [
        {"oil": line.get("oil"), "by": basis}
        | _renamed({name: value for name, value in line.items() if name != "oil"}, **{"held": "locked", amount: "value"})
        if isinstance(line, dict) else line
        for line in blend["lines"]
    ]  # fmt: skip
    return {name: value for name, value in blend.items() if name not in ("by", "lines")} | {"lines": lines}


def material_from_version_1(material: Document) -> Document:
    """An own material of version 1 under the names of version 2."""
    content = material.get("content")
    return material | {"content": _renamed(content, parts="components")} if isinstance(content, dict) else material


def plan_from_version_1(plan: Document) -> Document:
    """The plan of a batch of version 1 under the names of version 2."""
    choices = plan.get("choices", {})
    if choices.get("weigh_into") == "one_pot":
        choices = choices | {"weigh_into": "one_bowl"}
    return plan | {"formula": formula_from_version_1(plan["formula"]), "choices": choices}


_EVENT_KINDS = {"way_taken": "correction_taken", "corrected": "amended"}


def event_from_version_1(event: Document) -> Document:
    """An event of make day of version 1 under the names of version 2.

    >>> event_from_version_1({"kind": "way_taken", "item": "oil:0", "way": "accept"})
    {'kind': 'correction_taken', 'item': 'oil:0', 'correction': 'accept'}
    """
    upgraded = _renamed(event, way="correction", in_pot="in_bowl")
    if event["kind"] == "way_taken" and isinstance(event.get("words"), str):
        upgraded["words"] = [event["words"]] if event["words"] else []
    return upgraded | {"kind": _EVENT_KINDS.get(event["kind"], event["kind"])}


def rows_from_version_1(start: Document) -> Document:
    """The rows that a batch of version 1 began with, under the names of version 2.

    >>> rows_from_version_1({"coefficients": {}, "oils": [{"parts": []}], "lye_eaters": [{"eats_naoh_g_per_g": 0.6}]})
    {'coefficients': {}, 'oils': [{'components': []}], 'lye_consumers': [{'naoh_g_per_g': 0.6}]}
    """
    kept = ("coefficients", "oils", "liquids", "additives", "lye_eaters", "scents", "colorants")
    rows = _renamed({name: start[name] for name in kept if name in start}, lye_eaters="lye_consumers")
    rows["coefficients"] = _renamed(rows["coefficients"], **_COEFFICIENTS)
    for name, new_names in _ROWS.items():
        if name in rows:
            rows[name] = [_renamed(row, **new_names) for row in rows[name]]
    return rows


_COEFFICIENTS = {
    "firmness.young_part": "firmness.young_fraction",
    "scale.part_for_the_load": "scale.load_fraction",
}
_ROWS = {
    "oils": {"parts": "components"},
    "liquids": {"eater": "consumer", "eater_percent": "consumer_percent"},
    "additives": {"eater": "consumer", "eater_percent": "consumer_percent"},
    "lye_consumers": {"eats_naoh_g_per_g": "naoh_g_per_g"},
}


def target_from_version_1(target: Document) -> Document:
    """A target of a solve of version 1 under the names of version 2."""
    return _renamed(target, must="required")
