"""The figures of a reckoned formula, as the API, the command line and the screen share them."""

from sapolin.core.check import State
from sapolin.core.effects import Modifier
from sapolin.core.expectations import Expectations
from sapolin.core.formula import LiquidUse
from sapolin.core.model import Model
from sapolin.core.paste import PasteFigures
from sapolin.core.problems import Problem
from sapolin.core.remarks import QualityFigures, Remark
from sapolin.core.uncertainty import SuperfatInterval
from sapolin.core.weighing import Weighing

__all__ = [
    "AcidShare",
    "AdditiveFigures",
    "EatenFigures",
    "LiquidFigures",
    "LyeFigures",
    "MasterLye",
    "OilFigures",
    "Readings",
    "Reckoning",
    "WaterFigures",
]


class OilFigures(Model):
    """One line of the blend, reckoned."""

    oil: str
    name: str
    share_percent: float
    """Share of the oils by weight, %; all lines sum to 100."""
    weight_g: float
    hard: bool
    """Solid at 20 C."""
    group: str
    """The group of fatty acids that makes it what it is."""


class MasterLye(Model):
    """Lye dissolved ahead: how much of its solution, and the water to add beside it."""

    strength_percent: float
    """Lye as bought in its solution, %."""
    naoh_solution_g: float
    koh_solution_g: float
    water_in_it_g: float


class LyeFigures(Model):
    """The lye."""

    naoh_g: float
    """NaOH to weigh, as bought, g."""
    koh_g: float
    """KOH to weigh, as bought, g."""
    naoh_pure_g: float
    koh_pure_g: float
    naoh_full_g: float
    """Pure NaOH that would saponify everything by itself, g."""
    koh_equivalent_g: float
    """Pure KOH that would saponify everything by itself, g."""
    koh_share_percent: float
    """KOH, % of the saponification (by moles)."""
    koh_weight_percent: float
    """KOH, % of the weight of all lye as bought."""
    superfat_total_percent: float
    """Superfat of the whole batch: what is left when late oils, fat of liquids and what eats lye are counted."""
    superfat_as_weighed_percent: float
    """The same with the rounded lye weight, %."""
    superfat_interval: SuperfatInterval
    master: MasterLye | None


class EatenFigures(Model):
    """Lye that something takes before the fats get it."""

    field: str
    """Entry of the formula that does it, such as `additives[0]`."""
    by: str
    """Name of the liquid or additive."""
    acid: str
    acid_g: float
    naoh_equivalent_g: float
    """Pure NaOH that does it, g."""
    compensated: bool
    """Added back to the lye; otherwise the superfat rises by `superfat_points`."""
    superfat_points: float
    salt: str
    """The salt formed."""
    salt_g: float
    """Anhydrous, g."""


class LiquidFigures(Model):
    """One liquid of the formula."""

    liquid: str
    name: str
    use: LiquidUse
    weight_g: float
    water_g: float
    fat_g: float
    sugar_g: float
    protein_g: float
    cautions: str


class AdditiveFigures(Model):
    """One additive of the formula."""

    additive: str
    name: str
    stage: str
    weight_g: float
    percent_of_oils: float
    effect: str
    cautions: str


class WaterFigures(Model):
    """The water, in all four ways."""

    water_g: float
    """All water, that of other liquids and of a master lye too, g."""
    plain_water_g: float
    """To weigh as plain water, g."""
    lye_concentration_percent: float
    """Lye / (lye + water), lye as weighed, %."""
    water_to_lye: float
    """g water per g lye as weighed."""
    percent_of_oils: float
    """g water per 100 g oils."""
    discount_percent: float
    """Less than full water, %; below 0 it is more."""
    solution_g: float
    """Lye and water together, g."""
    in_words: str
    """What so much water means at the pot."""


class AcidShare(Model):
    """One fatty acid in the blend."""

    acid: str
    percent: float
    """Mass percent of all fatty acids."""
    contributions: tuple[float, ...]
    """What each line of the blend gives to it, in its order; they sum to `percent`."""


class Readings(Model):
    """Quick readings makers use beside the qualities."""

    saturated_percent: float
    """Of all fatty acids, %."""
    unsaturated_percent: float
    """Of all fatty acids, %, ricinoleic included."""
    other_percent: float
    """Fatty acids outside the table and the unsaponifiable half of waxes, %."""
    hard_percent: float
    """Oils solid at 20 C, % of the oils."""
    soft_percent: float
    """Oils liquid at 20 C, % of the oils."""
    iodine_value: float
    """g I2 per 100 g, calculated from the fatty acids (AOCS Cd 1c-85)."""
    ins: float
    """SAP value less iodine value; a secondary reading."""
    sap_koh_mg_per_g: float
    """SAP value of the blend, mg KOH/g."""


class Reckoning(Model):
    """Everything that follows from a formula."""

    state: State
    cautions: tuple[Problem, ...]
    """What to know, or to put right, although it could be reckoned."""
    oils: tuple[OilFigures, ...]
    total_oils_g: float
    lye: LyeFigures
    water: WaterFigures
    liquids: tuple[LiquidFigures, ...]
    additives: tuple[AdditiveFigures, ...]
    eaten: tuple[EatenFigures, ...]
    """What takes lye before the fats get any."""
    batter_g: float
    """Everything in the pot, g."""
    acids: tuple[AcidShare, ...]
    qualities: tuple[QualityFigures, ...]
    remarks: tuple[Remark, ...]
    """What stands out; empty when nothing does."""
    readings: Readings
    modifiers: tuple[Modifier, ...]
    """What acts beside the fatty acids; estimates."""
    bar: Expectations | None
    """What to expect of the bar over time; null for paste."""
    paste: PasteFigures | None
    """What the pot holds as soft soap; null for a bar."""
    weighing: Weighing
