"""Whether a poured batch gels: how hot its middle gets, against the temperature at which soap of its water gels.

Saponification gives off about 55 kJ per mol of ester; the mould keeps a part of it, the more the thicker it is and the better
it is wrapped. A box loses the warmth of its middle with the time constant 1 / (π² D (1/a² + 1/b² + 1/c²)). Estimates by
rules of thumb, shown with their range.
"""

from math import pi
from typing import Literal

from sapolin.core.bar.adjustments import Conditions
from sapolin.core.bar.soap import soap_of
from sapolin.core.batch.moulds import Cavities, Cylinder, HalfSpheres, Shape, Slab
from sapolin.core.batch.plan import BatchPlan
from sapolin.core.formula.composition import Composition
from sapolin.core.formula.purposes import purposes
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.model import Model, given
from sapolin.core.quantities.text import Temperature, Text, text

__all__ = ["GelForecast", "gel_forecast", "gel_temperature_c", "kept_fraction", "saponification_warms_k"]

OILS_CP_J_PER_G_K = 2.0
SOLUTION_CP_J_PER_G_K = 3.5
WRAPPED = {"fridge": 0.5, "cover": 1.5, "insulate": 4.0, "heat_pad": 6.0, "oven": 8.0}
"""How many times as long a mould keeps its warmth as one that stands bare (rule of thumb)."""


class GelForecast(Model):
    """What the middle of the batch does; an estimate."""

    gels_from_c: float
    """Soap with so much water turns translucent from here on."""
    middle_low_c: float
    middle_high_c: float
    """How hot the middle of the thickest mould gets."""
    outcome: Literal["full", "partial", "none"]
    """Partial: it may stop short of the edges, and leave a ring."""
    words: Text


def gel_temperature_c(lye_concentration_percent: float) -> float:
    """Temperature from which soap of a lye concentration gels: the drier, the hotter.

    >>> gel_temperature_c(33.0), gel_temperature_c(38.0)
    (68.0, 75.5)
    """
    drier = lye_concentration_percent - coefficient("water.usual_lye_concentration")
    return coefficient("gel.temperature_c") + coefficient("gel.temperature_per_lye_concentration") * drier


def saponification_warms_k(composition: Composition, conditions: Conditions) -> float:
    """By how much the batter would warm itself if it lost nothing, K; sugars add to it."""
    heat_j = soap_of(composition).spent_mol * 1000 * coefficient("exotherm.kj_per_mol")
    others_g = composition.total_g - composition.oils_g
    capacity_j_per_k = composition.oils_g * OILS_CP_J_PER_G_K + others_g * SOLUTION_CP_J_PER_G_K
    return heat_j / capacity_j_per_k + coefficient("exotherm.k_per_sugar_percent") * conditions.sugar_percent


def kept_fraction(shape: Shape, height_mm: float | None, cover: str) -> float:
    """The part of the heat that the middle of a mould still holds when saponification is over, by its size and wrapping.

    A loaf of 80 by 65 mm and a slab twice as thick and wide, both covered:

    >>> loaf = Slab(kind="loaf", length_mm=250, width_mm=80, height_mm=70)
    >>> slab = Slab(kind="slab", length_mm=300, width_mm=200, height_mm=120)
    >>> round(kept_fraction(loaf, 65, "cover"), 2), round(kept_fraction(slab, 120, "cover"), 2)
    (0.41, 0.73)
    """
    sides_m = [side / 1000 for side in _sides_mm(shape, height_mm)]
    bare_h = 1 / (pi**2 * coefficient("exotherm.diffusivity") * sum(side**-2 for side in sides_m)) / 3600
    keeps_h = bare_h * WRAPPED[cover]
    return keeps_h / (keeps_h + coefficient("exotherm.reaction_hours"))


def _sides_mm(shape: Shape, height_mm: float | None) -> tuple[float, float, float]:
    """Sides of the soap in one mould, or of a cube that holds as much where the shape is another."""
    if isinstance(shape, Slab):
        return given(shape.length_mm), given(shape.width_mm), height_mm or given(shape.height_mm)
    if isinstance(shape, Cylinder):
        side = given(shape.diameter_mm) * pi**0.5 / 2
        return side, side, height_mm or given(shape.length_mm)
    if isinstance(shape, HalfSpheres):
        side = given(shape.diameter_mm) * (pi / 12) ** (1 / 3)
    else:
        ml = shape.cavity_ml if isinstance(shape, Cavities) else shape.volume_ml
        side = 10 * given(ml) ** (1 / 3)
    return side, side, side


def gel_forecast(
    plan: BatchPlan, composition: Composition, conditions: Conditions, start_c: float, heights_mm: list[float | None]
) -> GelForecast | None:  # fmt: skip
    """Whether the batch of `plan` gels when it is poured at `start_c`; null when nothing says how thick it stands.

    `heights_mm` is how high it stands in each mould. A hot process bar has gelled while it cooked.
    """
    if not plan.moulds or plan.formula.process.method == "hot" or purposes()[plan.formula.purpose].makes == "paste":
        return None
    kept = max(
        kept_fraction(use.mould.shape, height, plan.choices.cover)
        for use, height in zip(plan.moulds, heights_mm, strict=True)
    )
    warmer = kept * saponification_warms_k(composition, conditions)
    spread = coefficient("exotherm.spread")
    low, high = start_c + warmer * (1 - spread), start_c + warmer * (1 + spread)
    from_c = gel_temperature_c(conditions.lye_concentration_percent)
    outcome: Literal["full", "partial", "none"] = "full" if low >= from_c else "none" if high < from_c else "partial"
    words = text(f"gel.{outcome}", middle=Temperature(c=low, to_c=high), start=Temperature(c=from_c))
    return GelForecast(gels_from_c=from_c, middle_low_c=low, middle_high_c=high, outcome=outcome, words=words)
