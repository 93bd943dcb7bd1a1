"""The formula: what a maker decides about a bar. Everything else is reckoned from it.

A figure that has not been entered yet is null. A formula with gaps can be kept, never reckoned.
"""

from typing import Annotated, Literal

from pydantic import Field

from sapolin.core.model import FiniteNumber, Model

__all__ = [
    "Blend",
    "Formula",
    "Line",
    "Lye",
    "PercentBlend",
    "PercentLine",
    "Water",
    "WaterRule",
    "WeightBlend",
    "WeightLine",
]

OilId = Annotated[str, Field(min_length=1, max_length=80)]
MAX_LINES = 40

WaterRule = Literal["lye_concentration_percent", "water_to_lye", "percent_of_oils"]
"""lye / (lye + water) in percent; g water per g lye; g water per 100 g oils.
Lye counts as weighed, impurities included."""


class Line(Model):
    """One oil of a blend."""

    oil: OilId
    """Id of an oil in the catalogue."""
    held: bool = False
    """Held amounts do not move when others are scaled or traded."""


class PercentLine(Line):
    """One oil, by its share."""

    share_percent: FiniteNumber | None
    """Share of the oils by weight, %."""


class WeightLine(Line):
    """One oil, by its weight."""

    weight_g: FiniteNumber | None
    """Weight, g."""


class PercentBlend(Model):
    """Shares lead; weights follow from the total."""

    by: Literal["percent"]
    total_oils_g: FiniteNumber | None
    """Weight of all oils together, g."""
    lines: tuple[PercentLine, ...] = Field(max_length=MAX_LINES)


class WeightBlend(Model):
    """Weights lead; shares and the total follow."""

    by: Literal["weight"]
    lines: tuple[WeightLine, ...] = Field(max_length=MAX_LINES)


Blend = Annotated[PercentBlend | WeightBlend, Field(discriminator="by")]


class Lye(Model):
    """The lye the maker has."""

    naoh_purity_percent: FiniteNumber | None
    """Sodium hydroxide in what is weighed, %, as its label or certificate states. Never assumed."""


class Water(Model):
    """How much water, said in one of three ways; the other two follow."""

    by: WaterRule
    value: FiniteNumber | None
    """In the unit that `by` names."""


class Formula(Model):
    """A soap formula."""

    name: str = Field(min_length=1, max_length=120)
    purpose: str = Field(default="everyday-body", max_length=80)
    """Id of the purpose whose bands the bar is held against."""
    notes: str = Field(default="", max_length=20_000)
    blend: Blend
    lye: Lye
    superfat_percent: FiniteNumber | None
    """Share of the oils left without lye, %; the lye is reduced by it."""
    water: Water
