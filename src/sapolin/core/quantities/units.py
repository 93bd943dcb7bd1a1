"""Units of weight and temperature. The core calculates in grams and °C; a maker may read and type another unit.

Factors are exact by definition (international avoirdupois pound, 1959).
"""

from typing import Literal

from sapolin.core.quantities.model import Model

__all__ = [
    "WEIGHT_UNITS",
    "TemperatureUnitId",
    "WeightUnit",
    "WeightUnitId",
    "from_grams",
    "in_spoons",
    "to_grams",
]

WeightUnitId = Literal["g", "kg", "oz", "lb"]
TemperatureUnitId = Literal["C", "F"]


class WeightUnit(Model):
    """A unit of weight and how finely a maker's scale reads it."""

    id: WeightUnitId
    name: str
    grams: float
    """Grams in one unit, exact."""
    decimals: int
    """Decimals to show when no single weighing exceeds 1 kg."""
    decimals_when_heavy: int
    """Decimals to show when one does."""
    lye_decimals: int
    """Decimals for lye, never coarser than for oils."""
    lye_decimals_in_test_batch: int
    """Decimals for lye when the oils are at most 500 g."""

    def decimals_as_fine_as(self, decimals_of_a_gram: int) -> int:
        """Decimals of this unit that say as much as so many of a gram."""
        if decimals_of_a_gram == 0:
            return self.decimals_when_heavy
        return self.lye_decimals if decimals_of_a_gram == 1 else self.lye_decimals_in_test_batch


WEIGHT_UNITS: dict[WeightUnitId, WeightUnit] = {
    unit.id: unit
    for unit in (
        WeightUnit(id="g", name="grams", grams=1.0, decimals=1, decimals_when_heavy=0,
                   lye_decimals=1, lye_decimals_in_test_batch=2),
        WeightUnit(id="kg", name="kilograms", grams=1000.0, decimals=4, decimals_when_heavy=3,
                   lye_decimals=4, lye_decimals_in_test_batch=5),
        WeightUnit(id="oz", name="ounces", grams=28.349523125, decimals=2, decimals_when_heavy=2,
                   lye_decimals=2, lye_decimals_in_test_batch=3),
        WeightUnit(id="lb", name="pounds", grams=453.59237, decimals=3, decimals_when_heavy=3,
                   lye_decimals=4, lye_decimals_in_test_batch=5),
    )
}  # fmt: skip


def from_grams(grams: float, unit: WeightUnitId) -> float:
    """`grams` expressed in `unit`.

    >>> from_grams(453.59237, "oz")
    16.0
    """
    return grams / WEIGHT_UNITS[unit].grams


def to_grams(value: float, unit: WeightUnitId) -> float:
    """`value` in `unit` expressed in grams.

    >>> to_grams(1, "lb")
    453.59237
    """
    return value * WEIGHT_UNITS[unit].grams


SPOONED_TSP = (0.2, 12.0)
"""Less than this no spoon measures; more is a lump that nobody counts out in teaspoons."""


def in_spoons(tsp: float) -> str:
    """Level teaspoons as an afterthought, where a spoon can measure them at all.

    >>> in_spoons(1.1), in_spoons(35.0), in_spoons(0.05)
    (', about 1 tsp', '', '')
    """
    low, high = SPOONED_TSP
    return f", about {round(4 * tsp) / 4:g} tsp" if low <= tsp <= high else ""
