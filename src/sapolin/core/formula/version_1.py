"""Documents of version 1: the same content under the names of version 2.

The names that changed: a locked oil was `held`, target ranges were `bands`, the components of a mixture were `parts`.
"""

from typing import Any

__all__ = ["event_from_version_1", "formula_from_version_1", "material_from_version_1", "plan_from_version_1", "target_from_version_1"]  # fmt: skip

Document = dict[str, Any]


def _renamed(entries: Document, **names: str) -> Document:
    """`entries` with new names for some, in their order; what is not there stays out."""
    return {names.get(name, name): value for name, value in entries.items()}


def formula_from_version_1(formula: Document) -> Document:
    """A formula of version 1 under the names of version 2; entries that are no formula's stay, to be refused by name.

    >>> formula_from_version_1({"blend": {"lines": [{"oil": "olive", "held": True}]}, "bands": None})
    {'blend': {'lines': [{'oil': 'olive', 'locked': True}]}, 'target_ranges': None}
    """
    upgraded = _renamed(formula, bands="target_ranges")
    blend, materials = formula.get("blend"), formula.get("materials")
    if isinstance(blend, dict) and isinstance(blend.get("lines"), list):
        lines = [_renamed(line, held="locked") if isinstance(line, dict) else line for line in blend["lines"]]
        upgraded["blend"] = blend | {"lines": lines}
    if isinstance(materials, list):
        upgraded["materials"] = [material_from_version_1(one) if isinstance(one, dict) else one for one in materials]
    return upgraded


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
    return upgraded | {"kind": _EVENT_KINDS.get(event["kind"], event["kind"])}


def target_from_version_1(target: Document) -> Document:
    """A target of a solve of version 1 under the names of version 2."""
    return _renamed(target, must="required")
