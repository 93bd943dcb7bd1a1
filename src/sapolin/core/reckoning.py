"""From a formula to every figure: lye, water, fatty acids, qualities, readings and weights."""

from collections.abc import Iterator
from math import sqrt

from sapolin.core.acids import ACIDS, iodine_value_of
from sapolin.core.blend import Portion, unmixed
from sapolin.core.catalogue import Catalogue, catalogue
from sapolin.core.check import examine, state_of
from sapolin.core.effects import at_work, modifiers_of
from sapolin.core.expectations import bar_expectations, cure_modifier
from sapolin.core.figures import (
    AcidShare,
    AdditiveFigures,
    EatenFigures,
    LiquidFigures,
    LyeFigures,
    MasterLye,
    OilFigures,
    Readings,
    Reckoning,
    WaterFigures,
)
from sapolin.core.formula import Formula, LiquidLine
from sapolin.core.ingredients import Additive, Liquid
from sapolin.core.lye import NAOH_G_PER_MOL, NAOH_PER_KOH, superfat_left_percent
from sapolin.core.paste import paste_figures
from sapolin.core.pot import Pot
from sapolin.core.problems import FormulaError
from sapolin.core.qualities import Purpose, outside_by, points_of, purposes, qualities, standing
from sapolin.core.remarks import QualityFigures
from sapolin.core.rulebook import RULES
from sapolin.core.rules import Facts, remarks_on
from sapolin.core.uncertainty import SuperfatInterval, superfat_interval
from sapolin.core.units import WeightUnitId
from sapolin.core.water import discount_percent, lye_concentration_percent, water_in_words
from sapolin.core.weighing import Weighing, lye_as_weighed_mol, scale_steps_g, weighing

__all__ = ["reckon"]


def _acid_shares(parts: tuple[Portion, ...]) -> tuple[AcidShare, ...]:
    profiles = [part.oil.profile for part in parts]
    shares = []
    for i, acid in enumerate(ACIDS):
        given = tuple(part.share_percent * profile[i] / 100 for part, profile in zip(parts, profiles, strict=True))
        shares.append(AcidShare(acid=acid.id, percent=sum(given), contributions=given))
    return tuple(shares)


def _qualities(
    parts: tuple[Portion, ...], pure_parts: tuple[Portion, ...], formula: Formula
) -> tuple[QualityFigures, ...]:
    points_by_oil = [points_of(part.oil.profile) for part in parts]
    own_points = [points_of(part.oil.profile) for part in pure_parts]
    unknown_percent = sum(part.share_percent * (100 - part.oil.known_profile_percent) for part in parts) / 100
    figures = []
    for i, quality in enumerate(qualities().values()):
        given = tuple(part.share_percent * own[i] / 100 for part, own in zip(parts, points_by_oil, strict=True))
        band = formula.band(quality.id)
        points = sum(given)
        below = above = 0.0
        for part, own in zip(pure_parts, own_points, strict=True):
            low, high = part.oil.quality_spans[i]
            below += (part.share_percent / 100 * (own[i] - low)) ** 2
            above += (part.share_percent / 100 * (high - own[i])) ** 2
        unknown = unknown_percent > 0
        figures.append(
            QualityFigures(
                quality=quality.id,
                points=points,
                low=points - sqrt(below),
                high=points + sqrt(above) + unknown_percent * max(quality.weights),
                band=band,
                standing="unknown" if unknown and band else standing(points, band),
                outside_by=0.0 if unknown else outside_by(points, band),
                contributions=given,
            )
        )
    return tuple(figures)


def _readings(
    parts: tuple[Portion, ...], pure_parts: tuple[Portion, ...], acids: tuple[AcidShare, ...], koh_g: float
) -> Readings:
    saturated = sum(share.percent for share, acid in zip(acids, ACIDS, strict=True) if acid.double_bonds == 0)
    unsaturated = sum(share.percent for share, acid in zip(acids, ACIDS, strict=True) if acid.double_bonds > 0)
    hard = sum(part.share_percent for part in pure_parts if part.oil.is_hard)
    soft = sum(part.share_percent for part in pure_parts if not part.oil.is_hard)
    sap = 1000 * koh_g / sum(part.weight_g for part in parts)
    iodine_value = iodine_value_of([share.percent for share in acids])
    return Readings(
        saturated_percent=saturated,
        unsaturated_percent=unsaturated,
        other_percent=100 - saturated - unsaturated,
        hard_percent=hard,
        soft_percent=soft,
        iodine_value=iodine_value,
        ins=sap - iodine_value,
        sap_koh_mg_per_g=sap,
    )


def _lye_figures(formula: Formula, pot: Pot, weights: Weighing, interval: SuperfatInterval) -> LyeFigures:
    strength = formula.lye.master_percent
    master = None
    if strength is not None:
        naoh_solution_g, koh_solution_g = pot.lye.naoh_g * 100 / strength, pot.lye.koh_g * 100 / strength
        master = MasterLye(
            strength_percent=strength,
            naoh_solution_g=naoh_solution_g,
            koh_solution_g=koh_solution_g,
            water_in_it_g=pot.master_water_g,
        )
    return LyeFigures(
        naoh_g=pot.lye.naoh_g,
        koh_g=pot.lye.koh_g,
        naoh_pure_g=pot.lye.naoh_pure_g,
        koh_pure_g=pot.lye.koh_pure_g,
        naoh_full_g=pot.all_oils_koh_g * NAOH_PER_KOH,
        koh_equivalent_g=pot.all_oils_koh_g,
        koh_share_percent=pot.koh_share_percent,
        koh_weight_percent=100 * pot.lye.koh_g / pot.lye.total_g,
        superfat_total_percent=superfat_left_percent(pot.fats_mol, pot.lye_mol, pot.eaten_mol),
        superfat_as_weighed_percent=superfat_left_percent(
            pot.fats_mol, lye_as_weighed_mol(weights, pot.lye), pot.eaten_mol
        ),
        superfat_interval=interval,
        master=master,
    )


def _water_figures(pot: Pot, purpose: Purpose) -> WaterFigures:
    lye_g = pot.lye.total_g
    concentration = lye_concentration_percent(pot.water_g / lye_g)
    percent_of_oils = 100 * pot.water_g / pot.oils_g
    return WaterFigures(
        water_g=pot.water_g,
        plain_water_g=max(pot.plain_water_g, 0.0),
        lye_concentration_percent=concentration,
        water_to_lye=pot.water_g / lye_g,
        percent_of_oils=percent_of_oils,
        discount_percent=discount_percent(percent_of_oils),
        solution_g=pot.water_g + lye_g,
        in_words=water_in_words(concentration, purpose.makes),
    )


def _liquids(pot: Pot) -> Iterator[LiquidFigures]:
    for item in pot.liquids:
        assert isinstance(item.line, LiquidLine)
        assert isinstance(item.of, Liquid)
        yield LiquidFigures(
            liquid=item.of.id,
            name=item.of.name,
            use=item.line.use,
            weight_g=item.weight_g,
            water_g=item.weight_g * item.of.water_percent / 100,
            fat_g=item.weight_g * item.of.fat_percent.typical / 100,
            sugar_g=item.weight_g * item.of.sugar_percent / 100,
            protein_g=item.weight_g * item.of.protein_percent / 100,
            cautions=item.of.cautions,
        )


def _additives(pot: Pot) -> Iterator[AdditiveFigures]:
    for item in pot.additives:
        assert isinstance(item.of, Additive)
        yield AdditiveFigures(
            additive=item.of.id,
            name=item.of.name,
            stage=item.of.stage,
            weight_g=item.weight_g,
            percent_of_oils=100 * item.weight_g / pot.oils_g,
            effect=item.of.effect,
            cautions=item.of.cautions,
        )


def _eaten(pot: Pot) -> Iterator[EatenFigures]:
    metals = {0.0: "sodium ", 100.0: "potassium "}
    metal = metals.get(round(pot.koh_share_percent, 9), "sodium and potassium ")
    for eaten in pot.eaten:
        yield EatenFigures(
            field=eaten.field,
            by=eaten.name,
            acid=eaten.eater.name,
            acid_g=eaten.acid_g,
            naoh_equivalent_g=eaten.mol * NAOH_G_PER_MOL,
            compensated=eaten.compensated,
            superfat_points=0.0 if eaten.compensated else 100 * eaten.mol / pot.fats_mol,
            salt=metal + eaten.eater.salt,
            salt_g=eaten.eater.salt_g(eaten.acid_g, pot.base_g_per_mol),
        )


def reckon(
    formula: Formula, oils: Catalogue | None = None, weight_unit: WeightUnitId = "g", *, as_weighed: bool = False
) -> Reckoning:
    """Reckon `formula` against the catalogue `oils` (the shipped one by default) and its own materials.

    `weight_unit` sets the unit of the rounded weights in `weighing`; every other weight is in g.
    `as_weighed` takes whatever superfat a pot has come to. Raises FormulaError when an entry is missing or impossible, with
    every problem found.
    """
    seen = examine(formula, catalogue() if oils is None else oils, as_weighed=as_weighed)
    pot, parts = seen.pot, seen.parts
    if pot is None or any(problem.stops_the_reckoning for problem in seen.problems):
        raise FormulaError(seen.problems)
    pure_parts = unmixed(parts, seen.oils)
    weights = weighing(pot, formula.lye.master_percent, weight_unit)
    oils_step_g, lye_step_g = scale_steps_g(pot, formula.scale_step_g)
    interval = superfat_interval(pot, pure_parts, seen.oils, formula.lye, oils_step_g, lye_step_g)
    lye = _lye_figures(formula, pot, weights, interval)
    acids = _acid_shares(parts)
    acids_by_id = {share.acid: share.percent for share in acids}
    purpose = purposes()[formula.purpose]
    figures = _qualities(parts, pure_parts, formula)
    by_quality = {figure.quality: figure for figure in figures}
    work = at_work(pot, formula.process, lye.superfat_total_percent)
    modifiers = tuple(modifiers_of(work))
    makes_paste = purpose.makes == "paste"
    cure = None if makes_paste else cure_modifier(acids_by_id, by_quality["hardness"].points, work, modifiers)
    free_acid = sum(part.share_percent for part in pure_parts if part.oil.kind == "free_acid")
    bar = None if makes_paste else bar_expectations(
        acids_by_id, by_quality["hardness"].points, by_quality["oxidation_load"].points, free_acid, work, modifiers
    )  # fmt: skip
    asked = None if formula.dilution is None else formula.dilution.soap_percent
    facts = Facts(formula, purpose, parts, pure_parts, pot, acids_by_id, by_quality, work, interval, bar)
    return Reckoning(
        state=state_of(formula, seen.problems),
        cautions=seen.problems,
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
        total_oils_g=pot.oils_g,
        lye=lye,
        water=_water_figures(pot, purpose),
        liquids=tuple(_liquids(pot)),
        additives=tuple(_additives(pot)),
        eaten=tuple(_eaten(pot)),
        batter_g=pot.total_g,
        acids=acids,
        qualities=figures,
        remarks=remarks_on(facts, RULES),
        readings=_readings(parts, pure_parts, acids, pot.all_oils_koh_g),
        modifiers=modifiers if cure is None else (*modifiers, cure),
        bar=bar,
        paste=paste_figures(pot, lye.superfat_total_percent, asked) if makes_paste else None,
        weighing=weights,
    )
