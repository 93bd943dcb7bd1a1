"""The weights as a scale can show them: rounded in the maker's unit, and still adding up."""

from collections.abc import Sequence
from math import floor

from sapolin.core.model import Model
from sapolin.core.units import WEIGHT_UNITS, WeightUnit, WeightUnitId, from_grams, to_grams

__all__ = ["HEAVY_WEIGHING_G", "TEST_BATCH_OILS_G", "Weighing", "rounded_to_total", "weighing"]

HEAVY_WEIGHING_G = 1000.0
"""Above this, one step of the scale is coarser."""
TEST_BATCH_OILS_G = 500.0
"""Up to this much oil, lye is weighed one decimal finer."""


class Weighing(Model):
    """What to weigh, in one unit, rounded so that the oils sum to their total."""

    unit: WeightUnitId
    oils: tuple[float, ...]
    """One weight per line of the blend, in its order."""
    oils_total: float
    naoh: float
    """NaOH as bought."""
    water: float
    batter: float
    """Everything in the pot: the sum of the rounded weights above."""
    decimals: int
    """Decimals of oils, water and batter."""
    lye_decimals: int


def rounded_to_total(parts: Sequence[float], decimals: int) -> tuple[float, ...]:
    """`parts` rounded to `decimals` so that they sum to the rounded total (largest remainders are rounded up).

    >>> rounded_to_total([33.35, 33.35, 33.3], 1)
    (33.4, 33.3, 33.3)
    """
    steps_per_unit = 10**decimals
    exact = [part * steps_per_unit for part in parts]
    steps = [floor(value + 1e-9) for value in exact]
    missing = round(sum(exact)) - sum(steps)
    by_remainder = sorted(range(len(exact)), key=lambda i: (steps[i] - exact[i], i))
    for i in by_remainder[:missing]:
        steps[i] += 1
    return tuple(step / steps_per_unit for step in steps)


def _decimals(unit: WeightUnit, heaviest_g: float) -> int:
    return unit.decimals_when_heavy if heaviest_g > HEAVY_WEIGHING_G else unit.decimals


def weighing(oils_g: Sequence[float], naoh_g: float, water_weight_g: float, unit_id: WeightUnitId) -> Weighing:
    """Round the weights of a batch, given in g, for a scale reading in `unit_id`."""
    unit = WEIGHT_UNITS[unit_id]
    decimals = _decimals(unit, max(*oils_g, water_weight_g))
    in_test_batch = sum(oils_g) <= TEST_BATCH_OILS_G
    lye_decimals = unit.lye_decimals_in_test_batch if in_test_batch else unit.lye_decimals
    oils = rounded_to_total([from_grams(weight, unit_id) for weight in oils_g], decimals)
    oils_total = round(sum(oils), decimals)
    naoh = round(from_grams(naoh_g, unit_id), lye_decimals)
    water = round(from_grams(water_weight_g, unit_id), decimals)
    return Weighing(
        unit=unit_id,
        oils=oils,
        oils_total=oils_total,
        naoh=naoh,
        water=water,
        batter=round(oils_total + naoh + water, lye_decimals),
        decimals=decimals,
        lye_decimals=lye_decimals,
    )


def naoh_as_weighed_g(weights: Weighing) -> float:
    """The rounded NaOH of `weights`, g."""
    return to_grams(weights.naoh, weights.unit)
