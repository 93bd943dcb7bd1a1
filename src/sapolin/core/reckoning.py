"""From a formula to every figure: lye, water, fatty acids, qualities, readings and weights."""

from sapolin.core.acids import ACIDS, iodine_value_of
from sapolin.core.blend import Portion, mix, portions
from sapolin.core.catalogue import Catalogue, catalogue
from sapolin.core.check import State, problems_of, state_of
from sapolin.core.formula import Formula
from sapolin.core.lye import NAOH_PER_KOH, koh_need_g, naoh_to_weigh_g, superfat_left_percent, verify_naoh
from sapolin.core.model import Model
from sapolin.core.problems import FormulaError, Problem
from sapolin.core.qualities import Purpose, outside_by, points_of, purposes, qualities, standing
from sapolin.core.remarks import QualityFigures, Remark, remarks_on
from sapolin.core.units import WeightUnitId
from sapolin.core.water import lye_concentration_percent, water_g
from sapolin.core.weighing import Weighing, naoh_as_weighed_g, weighing

__all__ = ["AcidShare", "LyeFigures", "OilFigures", "Readings", "Reckoning", "WaterFigures", "reckon"]


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


class LyeFigures(Model):
    """The lye."""

    naoh_g: float
    """NaOH to weigh, as bought, g."""
    naoh_pure_g: float
    """NaOH in it, g."""
    naoh_full_g: float
    """Pure NaOH that would saponify everything, g."""
    koh_equivalent_g: float
    """Pure KOH that would saponify everything, g."""
    superfat_as_weighed_percent: float
    """Superfat that the rounded lye weight leaves, with the listed SAP values, %."""


class WaterFigures(Model):
    """The water, in all three ways."""

    water_g: float
    lye_concentration_percent: float
    """Lye / (lye + water), lye as weighed, %."""
    water_to_lye: float
    """g water per g lye as weighed."""
    percent_of_oils: float
    """g water per 100 g oils."""
    solution_g: float
    """Lye and water together, g."""


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
    batter_g: float
    """Oils, lye and water together, g."""
    acids: tuple[AcidShare, ...]
    qualities: tuple[QualityFigures, ...]
    remarks: tuple[Remark, ...]
    """What stands out; empty when nothing does."""
    readings: Readings
    weighing: Weighing


def _acid_shares(parts: tuple[Portion, ...]) -> tuple[AcidShare, ...]:
    profiles = [part.oil.profile for part in parts]
    shares = []
    for i, acid in enumerate(ACIDS):
        given = tuple(part.share_percent * profile[i] / 100 for part, profile in zip(parts, profiles, strict=True))
        shares.append(AcidShare(acid=acid.id, percent=sum(given), contributions=given))
    return tuple(shares)


def _qualities(parts: tuple[Portion, ...], purpose: Purpose) -> tuple[QualityFigures, ...]:
    points_by_oil = [points_of(part.oil.profile) for part in parts]
    figures = []
    for i, quality in enumerate(qualities().values()):
        given = tuple(part.share_percent * own[i] / 100 for part, own in zip(parts, points_by_oil, strict=True))
        band = purpose.band(quality.id)
        points = sum(given)
        figures.append(
            QualityFigures(
                quality=quality.id,
                points=points,
                band=band,
                standing=standing(points, band),
                outside_by=outside_by(points, band),
                contributions=given,
            )
        )
    return tuple(figures)


def _readings(parts: tuple[Portion, ...], acids: tuple[AcidShare, ...], koh_g: float, oils_g: float) -> Readings:
    saturated = sum(share.percent for share, acid in zip(acids, ACIDS, strict=True) if acid.double_bonds == 0)
    unsaturated = sum(share.percent for share, acid in zip(acids, ACIDS, strict=True) if acid.double_bonds > 0)
    hard = mix(parts, [100.0 if part.oil.is_hard else 0.0 for part in parts])
    sap = 1000 * koh_g / oils_g
    iodine_value = iodine_value_of([share.percent for share in acids])
    return Readings(
        saturated_percent=saturated,
        unsaturated_percent=unsaturated,
        other_percent=100 - saturated - unsaturated,
        hard_percent=hard,
        soft_percent=100 - hard,
        iodine_value=iodine_value,
        ins=sap - iodine_value,
        sap_koh_mg_per_g=sap,
    )


def reckon(formula: Formula, oils: Catalogue | None = None, weight_unit: WeightUnitId = "g") -> Reckoning:
    """Reckon `formula` against the catalogue `oils` (the shipped one by default).

    `weight_unit` sets the unit of the rounded weights in `weighing`; every other weight is in g.
    Raises FormulaError when an entry is missing or impossible, with every problem found.
    """
    known = catalogue() if oils is None else oils
    problems = problems_of(formula, known)
    if any(problem.stops_the_reckoning for problem in problems):
        raise FormulaError(problems)
    superfat, purity, asked_water = formula.superfat_percent, formula.lye.naoh_purity_percent, formula.water.value
    assert superfat is not None
    assert purity is not None
    assert asked_water is not None

    parts = portions(formula.blend, known)
    oils_g = sum(part.weight_g for part in parts)
    koh_g = koh_need_g(parts)
    naoh_g = naoh_to_weigh_g(koh_g, superfat, purity)
    verify_naoh(naoh_g, koh_g=koh_g, oils_g=oils_g, superfat_percent=superfat, purity_percent=purity)
    water_weight_g = water_g(formula.water.by, asked_water, lye_g=naoh_g, oils_g=oils_g)
    weights = weighing([part.weight_g for part in parts], naoh_g, water_weight_g, weight_unit)
    acids = _acid_shares(parts)
    purpose = purposes()[formula.purpose]
    figures = _qualities(parts, purpose)
    return Reckoning(
        state=state_of(formula, problems),
        cautions=problems,
        oils=tuple(
            OilFigures(
                oil=part.oil.id,
                name=part.oil.name,
                share_percent=part.share_percent,
                weight_g=part.weight_g,
                hard=part.oil.is_hard,
                group=part.oil.group,
            )
            for part in parts
        ),
        total_oils_g=oils_g,
        lye=LyeFigures(
            naoh_g=naoh_g,
            naoh_pure_g=naoh_g * purity / 100,
            naoh_full_g=koh_g * NAOH_PER_KOH,
            koh_equivalent_g=koh_g,
            superfat_as_weighed_percent=superfat_left_percent(koh_g, naoh_as_weighed_g(weights), purity),
        ),
        water=WaterFigures(
            water_g=water_weight_g,
            lye_concentration_percent=lye_concentration_percent(water_weight_g / naoh_g),
            water_to_lye=water_weight_g / naoh_g,
            percent_of_oils=100 * water_weight_g / oils_g,
            solution_g=water_weight_g + naoh_g,
        ),
        batter_g=oils_g + naoh_g + water_weight_g,
        acids=acids,
        qualities=figures,
        remarks=tuple(remarks_on(figures, [part.oil.name for part in parts], superfat, purpose)),
        readings=_readings(parts, acids, koh_g, oils_g),
        weighing=weights,
    )
