"""The weights as a scale can show them: rounded in the maker's unit, and still adding up."""

from collections.abc import Sequence
from math import floor

from sapolin.core.formula.composition import Composition
from sapolin.core.quantities.model import Model
from sapolin.core.quantities.units import WEIGHT_UNITS, WeightUnit, WeightUnitId, from_grams, to_grams

__all__ = ["HEAVY_WEIGHING_G", "TEST_BATCH_OILS_G", "Weights", "lye_as_rounded_mol", "rounded_to_total", "scale_steps_g",
           "weights_of"]  # fmt: skip

HEAVY_WEIGHING_G = 1000.0
"""Above this, one step of the scale is coarser."""
TEST_BATCH_OILS_G = 500.0
"""Up to this much oil, lye is weighed one decimal finer."""


class Weights(Model):
    """What to weigh, in one unit, rounded so that the oils sum to their total."""

    unit: WeightUnitId
    oils: tuple[float, ...]
    """One weight per line of the blend, in its order."""
    oils_total: float
    naoh: float
    """NaOH as bought; 0 when the lye is all KOH."""
    koh: float
    """KOH as bought; 0 when the lye is all NaOH."""
    naoh_solution: float | None
    """Master lye that holds the NaOH, when lye is dissolved ahead: weigh this instead."""
    koh_solution: float | None
    """Master lye that holds the KOH."""
    water: float
    """Plain water to weigh, beside other liquids and what a master lye already holds."""
    liquids: tuple[float, ...]
    """One weight per liquid of the formula, in its order."""
    additives: tuple[float, ...]
    """One weight per additive of the formula, in its order."""
    batter: float
    """Everything together: the sum of the rounded weights above."""
    decimals: int
    """Decimals of oils, water and batter."""
    lye_decimals: int


def rounded_to_total(components: Sequence[float], decimals: int) -> tuple[float, ...]:
    """`parts` rounded to `decimals` so that they sum to the rounded total (largest remainders are rounded up).

    >>> rounded_to_total([33.35, 33.35, 33.3], 1)
    (33.4, 33.3, 33.3)
    """
    steps_per_unit = 10**decimals
    exact = [component * steps_per_unit for component in components]
    steps = [floor(value + 1e-9) for value in exact]
    missing = round(sum(exact)) - sum(steps)
    by_remainder = sorted(range(len(exact)), key=lambda i: (steps[i] - exact[i], i))
    for i in by_remainder[:missing]:
        steps[i] += 1
    return tuple(step / steps_per_unit for step in steps)


def _resolution(composition: Composition, unit: WeightUnit) -> tuple[int, int]:
    """Decimals of oils and liquids, and of lye."""
    liquids_g = (composition.plain_water_g, *(item.weight_g for item in composition.liquids))
    heaviest_g = max(*(component.weight_g for component in composition.oils), *liquids_g)
    decimals = unit.decimals_when_heavy if heaviest_g > HEAVY_WEIGHING_G else unit.decimals
    in_test_batch = composition.oils_g <= TEST_BATCH_OILS_G
    return decimals, unit.lye_decimals_in_test_batch if in_test_batch else unit.lye_decimals


def weights_of(composition: Composition, unit_id: WeightUnitId) -> Weights:
    """The weights of a `composition` as a scale reading in `unit_id` can show them."""
    unit = WEIGHT_UNITS[unit_id]
    oils_g = [component.weight_g for component in composition.oils]
    decimals, lye_decimals = _resolution(composition, unit)

    def rounded(weight_g: float, to: int) -> float:
        return round(from_grams(weight_g, unit_id), to)

    oils = rounded_to_total([from_grams(weight, unit_id) for weight in oils_g], decimals)
    oils_total = round(sum(oils), decimals)
    dry = [rounded(weight_g, lye_decimals) for weight_g in (composition.naoh.weight_g, composition.koh.weight_g)]
    solutions: list[float | None] = [None, None]
    if composition.master_percent is not None:
        solutions = [
            rounded(weight_g * 100 / composition.master_percent, lye_decimals) if weight_g > 0 else None
            for weight_g in (composition.naoh.weight_g, composition.koh.weight_g)
        ]
    water = rounded(max(composition.plain_water_g, 0.0), decimals)
    liquids = tuple(rounded(item.weight_g, decimals) for item in composition.liquids)
    additives = tuple(rounded(item.weight_g, lye_decimals) for item in composition.additives)
    lyes = dry if composition.master_percent is None else [weight or 0.0 for weight in solutions]
    return Weights(
        unit=unit_id,
        oils=oils,
        oils_total=oils_total,
        naoh=dry[0],
        koh=dry[1],
        naoh_solution=solutions[0],
        koh_solution=solutions[1],
        water=water,
        liquids=liquids,
        additives=additives,
        batter=round(oils_total + sum(lyes) + water + sum(liquids) + sum(additives), lye_decimals),
        decimals=decimals,
        lye_decimals=lye_decimals,
    )


def lye_as_rounded_mol(weights: Weights, composition: Composition) -> float:
    """Hydroxide in the rounded lye of `weights`, mol, at the purities of the `composition`."""
    rounded = zip(composition.lyes, (weights.naoh, weights.koh), strict=True)
    return sum(lye._replace(weight_g=to_grams(weight, weights.unit)).mol for lye, weight in rounded)


def scale_steps_g(composition: Composition, own_step_g: float | None) -> tuple[float, float]:
    """Smallest steps, g, of the scales that oils and lye are weighed on: the maker's own, or what is shown in grams."""
    if own_step_g is not None:
        return own_step_g, own_step_g
    decimals, lye_decimals = _resolution(composition, WEIGHT_UNITS["g"])
    return 10.0**-decimals, 10.0**-lye_decimals
