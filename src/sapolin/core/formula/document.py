"""The formula: what a maker decides about a bar. Everything else is calculated from it.

A quantity that has not been entered yet is null. A formula with gaps can be kept, never calculated.
"""

from typing import Annotated, Literal

from pydantic import Field

from sapolin.core.formula.purposes import TargetRange, purposes
from sapolin.core.materials.own import OwnMaterial
from sapolin.core.quantities.model import EntryId, FiniteNumber, Model, Truth

__all__ = [
    "FREE_OF_TOGETHER",
    "AddedWhen",
    "AdditiveBasis",
    "AdditiveLine",
    "AmountBasis",
    "Blend",
    "Dilution",
    "Formula",
    "FreeOf",
    "Koh",
    "LiquidBasis",
    "LiquidLine",
    "LiquidUse",
    "Lye",
    "OilLine",
    "Process",
    "Water",
    "WaterRule",
]

MAX_LINES = 40

WaterRule = Literal["lye_concentration_percent", "water_to_lye", "percent_of_oils", "discount_percent"]
"""lye / (lye + water) in percent; g water per g lye; g water per 100 g oils; percent less than full water.
Lye counts as weighed, impurities included; water is all water, that of other liquids too."""


AddedWhen = Literal["start", "at_trace", "after_cook"]
"""When an oil goes in. No lye is calculated for one that goes in late: all of it joins the superfat."""

AmountBasis = Literal["percent_of_oils", "weight_g"]


class OilLine(Model):
    """One oil of a blend."""

    oil: EntryId
    """Id of an oil in the catalogue, or of one of the formula's own materials."""
    by: AmountBasis = "percent_of_oils"
    """How its amount is entered: its share of the oils by weight, or its weight."""
    value: FiniteNumber | None
    """In the unit that `by` names."""
    locked: Truth = False
    """Locked amounts do not move when others are scaled or traded."""
    added: AddedWhen = "start"


class Blend(Model):
    """The oils. Entered by share they need a total to become weights; entered by weight they make their own."""

    total_oils_g: FiniteNumber | None = None
    """Weight of all oils together, g; not asked for when every oil is entered by weight."""
    lines: tuple[OilLine, ...] = Field(default=(), max_length=MAX_LINES)

    @property
    def by(self) -> AmountBasis:
        """What leads: weights when every oil is entered by weight, else shares."""
        if not self.lines:
            return "weight_g" if self.total_oils_g is None else "percent_of_oils"
        return "weight_g" if all(line.by == "weight_g" for line in self.lines) else "percent_of_oils"


class Koh(Model):
    """Potassium hydroxide beside or instead of sodium hydroxide."""

    by: Literal["saponification_percent", "lye_weight_percent"]
    """Share of the saponification (by moles), or of the weight of all lye as bought."""
    value: FiniteNumber | None
    """In the unit that `by` names; 100 is all KOH."""
    purity_percent: FiniteNumber | None
    """Potassium hydroxide in what is weighed, %, as its label or certificate states. Never assumed."""


class Lye(Model):
    """The lye the maker has."""

    naoh_purity_percent: FiniteNumber | None
    """Sodium hydroxide in what is weighed, %, as its label or certificate states. Never assumed."""
    koh: Koh | None = None
    """Null: all NaOH."""
    master_percent: FiniteNumber | None = None
    """Lye concentration of lye dissolved ahead, lye as bought in its solution, %; null when lye is weighed dry."""
    purity_tolerance_percent: FiniteNumber | None = None
    """How far the purity may be off, points either way; null takes the rule of thumb for each lye."""


class Water(Model):
    """How much water, said in one of four ways; the others follow."""

    by: WaterRule
    value: FiniteNumber | None
    """In the unit that `by` names."""


LiquidUse = Literal["dissolves_lye", "into_oils", "at_trace"]
LiquidBasis = Literal["percent_of_water", "percent_of_oils", "weight_g"]
AdditiveBasis = Literal["percent_of_oils", "tsp_per_500_g", "weight_g"]


class LiquidLine(Model):
    """A liquid in the place of some of the water."""

    liquid: EntryId
    """Id of a liquid in the table."""
    use: LiquidUse
    by: LiquidBasis
    """Percent of the batch's water that comes with it; its weight per 100 g oils; its weight."""
    value: FiniteNumber | None
    """In the unit that `by` names."""
    compensated: Truth = False
    """The lye that its acid consumes is added back; otherwise the superfat rises by it."""


class AdditiveLine(Model):
    """An additive."""

    additive: EntryId
    """Id of an additive in the table."""
    by: AdditiveBasis
    """Of the oils; level teaspoons for 500 g of oils, by the additive's own density; its weight."""
    value: FiniteNumber | None
    """In the unit that `by` names."""
    compensated: Truth = False
    """The lye it consumes is added back; otherwise the superfat rises by it."""


WashWater = Literal["soft", "medium", "hard"]
"""How much calcium the water has that the soap is used with."""


class Process(Model):
    """How the bar is made, as far as its results depend on it."""

    method: Literal["cold", "hot"] = "cold"
    gel: Literal["natural", "encouraged", "prevented"] = "natural"
    batter_temperature_c: FiniteNumber | None = None
    """Oils and lye when they meet, C; null when it is not decided."""
    cure_weeks: FiniteNumber | None = None
    """Planned cure; null takes the usual one for the bar."""


class Dilution(Model):
    """Paste thinned with water."""

    soap_percent: FiniteNumber | None
    """Soap in the diluted soap, %."""


FreeOf = Literal[
    "palm", "animal", "coconut", "tree nuts", "peanut", "soy", "sesame", "wheat", "barley", "mustard", "oats", "egg", "milk",
    "bee products", "lanolin",
]  # fmt: skip


Tag = Annotated[str, Field(min_length=1, max_length=40)]


FREE_OF_TOGETHER: dict[str, tuple[FreeOf, ...]] = {
    "vegan": ("animal", "milk", "egg", "bee products", "lanolin"),
    "gluten": ("wheat", "barley", "oats"),
    "nuts": ("tree nuts", "peanut"),
}
"""What a choice made in one word covers."""


class Formula(Model):
    """A soap formula."""

    name: str = Field(min_length=1, max_length=120)
    purpose: str = Field(default="everyday-body", max_length=80)
    """Id of the purpose whose target ranges the bar is compared with, unless it has its own."""
    target_ranges: tuple[TargetRange, ...] | None = Field(default=None, max_length=MAX_LINES)
    """The maker's own target ranges, in the place of all those of the purpose; null takes the purpose's."""
    notes: str = Field(default="", max_length=20_000)
    tags: tuple[Tag, ...] = Field(default=(), max_length=12)
    """Words of the maker's own to find it by."""
    blend: Blend
    lye: Lye
    superfat_percent: FiniteNumber | None
    """Share of the oils left without lye, %; the lye is reduced by it."""
    water: Water
    liquids: tuple[LiquidLine, ...] = Field(default=(), max_length=MAX_LINES)
    additives: tuple[AdditiveLine, ...] = Field(default=(), max_length=MAX_LINES)
    process: Process = Process()
    dilution: Dilution | None = None
    """For paste: how far it is diluted; null when it stays paste."""
    free_of: tuple[FreeOf, ...] = Field(default=(), max_length=20)
    """What this soap must do without."""
    wash_water: WashWater = "soft"
    """The water that the soap is used with."""
    scale_step_g: FiniteNumber | None = None
    """Smallest step of the scale, g; null takes the step that the weights are shown to."""
    materials: tuple[OwnMaterial, ...] = Field(default=(), max_length=MAX_LINES)
    """The maker's own materials that the blend names, as they were when it was written."""

    def target_range(self, quality_id: str) -> TargetRange | None:
        """The target range that a quality of this soap is wanted in, if any. An unknown purpose wants nothing."""
        meant = purposes().get(self.purpose)
        usual = () if meant is None else meant.target_ranges
        target_ranges = usual if self.target_ranges is None else self.target_ranges
        # One whose ends are the wrong way round is asked about, and wants nothing meanwhile.
        sound = (
            target_range
            for target_range in target_ranges
            if target_range.quality == quality_id and target_range.minimum <= target_range.maximum
        )
        return next(sound, None)
