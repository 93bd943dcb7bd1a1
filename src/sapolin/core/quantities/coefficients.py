"""Rules of thumb as named numbers: one place, each with its unit, its usual span and what it stands for.

Everything calculated with them is an estimate and is called one wherever it is shown.
"""

from functools import cache
from typing import Any

from sapolin.core.quantities.model import Model
from sapolin.core.quantities.tables import table
from sapolin.data import read_json

__all__ = ["Coefficient", "coefficient", "coefficient_values", "coefficients"]


class Coefficient(Model):
    """One rule of thumb."""

    id: str
    value: float
    unit: str
    minimum: float
    """Low end of what makers use or report."""
    maximum: float
    meaning: str
    source: str


@cache
def coefficients() -> dict[str, Coefficient]:
    """Every coefficient by id, in the order of the table; those that belong to a quality are declared with it."""
    entries = [*read_json("coefficients"), *(_swap_weight(quality) for quality in read_json("qualities"))]
    return {entry["id"]: Coefficient.model_validate(entry) for entry in entries}


def _swap_weight(quality: dict[str, Any]) -> dict[str, Any]:
    """How much a quality counts in a swap, from its declaration."""
    declared = quality["swap_weight"]
    why = f": {declared['why']}" if "why" in declared else ""
    return {
        "id": f"swap.weight.{quality['id']}",
        "value": declared["value"],
        "unit": "per point",
        "minimum": declared["minimum"],
        "maximum": declared["maximum"],
        "meaning": f"How much a point of {quality['name'].lower()} counts when a swap goes by role{why}.",
        "source": "craft",
    }


@cache
def coefficient_values() -> dict[str, float]:
    """The shipped value of every coefficient by id."""
    return {entry.id: entry.value for entry in coefficients().values()}


def coefficient(coefficient_id: str) -> float:
    """Value of one coefficient, in the unit its entry states.

    >>> coefficient("superfat.usual")
    5.0
    """
    return table("coefficients", coefficient_values())[coefficient_id]
