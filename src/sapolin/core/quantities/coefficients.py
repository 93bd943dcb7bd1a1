"""Rules of thumb as named numbers: one place, each with its unit, its usual span and what it stands for.

Everything calculated with them is an estimate and is called one wherever it is shown.
"""

from functools import cache

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
    """Every coefficient by id, in the order of the table."""
    return {entry["id"]: Coefficient.model_validate(entry) for entry in read_json("coefficients")}


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
