"""The result of a calculated formula, as the API, the command line and the screen share them."""

from sapolin.core.bar.adjustments import Adjustment
from sapolin.core.bar.expectations import Expectations
from sapolin.core.bar.paste import PasteResult
from sapolin.core.bar.qualities import Standing
from sapolin.core.bar.uncertainty import SuperfatInterval
from sapolin.core.formula.document import LiquidUse
from sapolin.core.formula.purposes import TargetRange
from sapolin.core.formula.weights import Weights
from sapolin.core.quantities.model import Model, Truth

__all__ = [
    "AcidShare",
    "AdditiveResult",
    "FormulaResult",
    "Indices",
    "LiquidResult",
    "LyeConsumed",
    "LyeResult",
    "MasterLye",
    "OilResult",
    "QualityResult",
    "WaterResult",
]


class QualityResult(Model):
    """One predicted quality: an estimate from the fatty acids alone."""

    quality: str
    points: float
    """Percent of all fatty acids at this work; of those known, when some are not."""
    low: float
    """Low end of what nature's spread allows; the spreads of the oils are independent and add in quadrature."""
    high: float
    """High end of it; oils whose fatty acids are unknown could all be at this work."""
    target_range: TargetRange | None
    """The target range of the formula's purpose, if it sets one."""
    standing: Standing
    outside_by: float
    """Points outside the target range; 0 inside it, and while it is unknown."""
    contributions: tuple[float, ...]
    """Points that each line of the blend gives, in its order, then the fat of each liquid; they sum to `points`."""


class OilResult(Model):
    """One line of the blend, calculated."""

    oil: str
    name: str
    share_percent: float
    """Share of the oils by weight, %; all lines sum to 100."""
    weight_g: float
    hard: Truth
    """Solid at 20 C."""
    group: str
    """The group of fatty acids that makes it what it is."""


class MasterLye(Model):
    """Lye dissolved ahead: how much of its solution, and the water to add beside it."""

    lye_concentration_percent: float
    """Lye as bought in its solution, %."""
    naoh_solution_g: float
    koh_solution_g: float
    water_in_it_g: float


class LyeResult(Model):
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
    """Superfat of the whole batch: what is left when late oils, fat of liquids and what consumes lye are counted."""
    superfat_as_weighed_percent: float
    """The same with the rounded lye weight, %."""
    superfat_interval: SuperfatInterval
    master: MasterLye | None


class LyeConsumed(Model):
    """Lye that something takes before the fats get it."""

    field: str
    """Entry of the formula that does it, such as `additives[0]`."""
    by: str
    """Name of the liquid or additive."""
    acid: str
    acid_g: float
    naoh_equivalent_g: float
    """Pure NaOH that does it, g."""
    compensated: Truth
    """Added back to the lye; otherwise the superfat rises by `superfat_points`."""
    superfat_points: float
    salt: str
    """The salt formed."""
    salt_g: float
    """Anhydrous, g."""


class LiquidResult(Model):
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
    """What is to be minded of it in this use, as sentences; empty when nothing is."""


class AdditiveResult(Model):
    """One additive of the formula."""

    additive: str
    name: str
    stage: str
    weight_g: float
    percent_of_oils: float
    effect: str
    cautions: str
    """What is to be minded of it, as sentences; empty when nothing is."""


class WaterResult(Model):
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
    """What so much water means while making."""


class AcidShare(Model):
    """One fatty acid in the blend."""

    acid: str
    percent: float
    """Mass percent of all fatty acids."""
    contributions: tuple[float, ...]
    """What each line of the blend gives to it, in its order, then the fat of each liquid; they sum to `percent`."""


class Indices(Model):
    """Quick indices makers use beside the qualities."""

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
    """SAP value less iodine value; a secondary index."""
    sap_koh_mg_per_g: float
    """SAP value of the blend, mg KOH/g."""


class FormulaResult(Model):
    """Everything that follows from a formula."""

    oils: tuple[OilResult, ...]
    total_oils_g: float
    lye: LyeResult
    water: WaterResult
    liquids: tuple[LiquidResult, ...]
    additives: tuple[AdditiveResult, ...]
    consumed: tuple[LyeConsumed, ...]
    """What takes lye before the fats get any."""
    batter_g: float
    """Everything together, g."""
    acids: tuple[AcidShare, ...]
    qualities: tuple[QualityResult, ...]
    indices: Indices
    adjustments: tuple[Adjustment, ...]
    """What acts beside the fatty acids; estimates."""
    bar: Expectations | None
    """What to expect of the bar over time; null for paste."""
    paste: PasteResult | None
    """What it makes as soft soap; null for a bar."""
    weights: Weights
    """As a scale can show them, adding up."""
    contributors: tuple[str, ...] = ()
    """Names of what the contributions to acids and qualities are of, in their order."""
    glycerol_g: float = 0.0
    """Glycerol that forms and stays in the soap, g."""
