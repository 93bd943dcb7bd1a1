"""From a formula to every quantity: lye, water, fatty acids, qualities, indices and weights."""

from collections.abc import Iterator
from math import sqrt

from sapolin.core.advice.rulebook import RULES
from sapolin.core.advice.rules import Facts, remarks_on
from sapolin.core.bar.adjustments import adjustments_of, conditions_of
from sapolin.core.bar.expectations import bar_expectations, cure_adjustment
from sapolin.core.bar.paste import paste_result
from sapolin.core.bar.qualities import Purpose, outside_by, points_of, purposes, qualities, standing
from sapolin.core.bar.remarks import QualityResult
from sapolin.core.bar.result import (
    AcidShare,
    AdditiveResult,
    FormulaResult,
    Indices,
    LiquidResult,
    LyeConsumed,
    LyeResult,
    MasterLye,
    OilResult,
    WaterResult,
)
from sapolin.core.bar.uncertainty import SuperfatInterval, superfat_interval
from sapolin.core.formula.blend import Component, pure_oils
from sapolin.core.formula.check import examine, state_of
from sapolin.core.formula.composition import Composition
from sapolin.core.formula.document import Formula, LiquidLine
from sapolin.core.formula.lye import NAOH_G_PER_MOL, NAOH_PER_KOH, superfat_left_percent
from sapolin.core.formula.water import discount_percent, lye_concentration_percent, water_in_words
from sapolin.core.formula.weights import Weighing, lye_as_weighed_mol, scale_steps_g, weighing
from sapolin.core.materials.catalogue import Catalogue, catalogue
from sapolin.core.materials.fatty_acids import ACIDS, iodine_value_of
from sapolin.core.materials.ingredients import Additive, Liquid
from sapolin.core.quantities.diagnostics import FormulaError
from sapolin.core.quantities.units import WeightUnitId

__all__ = ["calculate"]


def _acid_shares(components: tuple[Component, ...]) -> tuple[AcidShare, ...]:
    profiles = [component.oil.profile for component in components]
    shares = []
    for i, acid in enumerate(ACIDS):
        given = tuple(
            component.share_percent * profile[i] / 100 for component, profile in zip(components, profiles, strict=True)
        )
        shares.append(AcidShare(acid=acid.id, percent=sum(given), contributions=given))
    return tuple(shares)


def _qualities(
    components: tuple[Component, ...], pure_components: tuple[Component, ...], formula: Formula
) -> tuple[QualityResult, ...]:
    points_by_oil = [points_of(component.oil.profile) for component in components]
    own_points = [points_of(component.oil.profile) for component in pure_components]
    unknown_percent = (
        sum(component.share_percent * (100 - component.oil.known_profile_percent) for component in components) / 100
    )
    result = []
    for i, quality in enumerate(qualities().values()):
        given = tuple(
            component.share_percent * own[i] / 100 for component, own in zip(components, points_by_oil, strict=True)
        )
        target_range = formula.target_range(quality.id)
        points = sum(given)
        below = above = 0.0
        for component, own in zip(pure_components, own_points, strict=True):
            low, high = component.oil.quality_spans[i]
            below += (component.share_percent / 100 * (own[i] - low)) ** 2
            above += (component.share_percent / 100 * (high - own[i])) ** 2
        unknown = unknown_percent > 0
        result.append(
            QualityResult(
                quality=quality.id,
                points=points,
                low=points - sqrt(below),
                high=points + sqrt(above) + unknown_percent * max(quality.weights),
                target_range=target_range,
                standing="unknown" if unknown and target_range else standing(points, target_range),
                outside_by=0.0 if unknown else outside_by(points, target_range),
                contributions=given,
            )
        )
    return tuple(result)


def _indices(
    components: tuple[Component, ...],
    pure_components: tuple[Component, ...],
    acids: tuple[AcidShare, ...],
    koh_g: float,
) -> Indices:
    saturated = sum(share.percent for share, acid in zip(acids, ACIDS, strict=True) if acid.double_bonds == 0)
    unsaturated = sum(share.percent for share, acid in zip(acids, ACIDS, strict=True) if acid.double_bonds > 0)
    hard = sum(component.share_percent for component in pure_components if component.oil.is_hard)
    soft = sum(component.share_percent for component in pure_components if not component.oil.is_hard)
    sap = 1000 * koh_g / sum(component.weight_g for component in components)
    iodine_value = iodine_value_of([share.percent for share in acids])
    return Indices(
        saturated_percent=saturated,
        unsaturated_percent=unsaturated,
        other_percent=100 - saturated - unsaturated,
        hard_percent=hard,
        soft_percent=soft,
        iodine_value=iodine_value,
        ins=sap - iodine_value,
        sap_koh_mg_per_g=sap,
    )


def _lye_result(formula: Formula, composition: Composition, weights: Weighing, interval: SuperfatInterval) -> LyeResult:
    lye_concentration = formula.lye.master_percent
    master = None
    if lye_concentration is not None:
        naoh_solution_g, koh_solution_g = (
            composition.lye.naoh_g * 100 / lye_concentration,
            composition.lye.koh_g * 100 / lye_concentration,
        )
        master = MasterLye(
            lye_concentration_percent=lye_concentration,
            naoh_solution_g=naoh_solution_g,
            koh_solution_g=koh_solution_g,
            water_in_it_g=composition.master_water_g,
        )
    return LyeResult(
        naoh_g=composition.lye.naoh_g,
        koh_g=composition.lye.koh_g,
        naoh_pure_g=composition.lye.naoh_pure_g,
        koh_pure_g=composition.lye.koh_pure_g,
        naoh_full_g=composition.all_oils_koh_g * NAOH_PER_KOH,
        koh_equivalent_g=composition.all_oils_koh_g,
        koh_share_percent=composition.koh_share_percent,
        koh_weight_percent=100 * composition.lye.koh_g / composition.lye.total_g,
        superfat_total_percent=superfat_left_percent(
            composition.fats_mol, composition.lye_mol, composition.consumed_mol
        ),
        superfat_as_weighed_percent=superfat_left_percent(
            composition.fats_mol, lye_as_weighed_mol(weights, composition.lye), composition.consumed_mol
        ),
        superfat_interval=interval,
        master=master,
    )


def _water_result(composition: Composition, purpose: Purpose) -> WaterResult:
    lye_g = composition.lye.total_g
    concentration = lye_concentration_percent(composition.water_g / lye_g)
    percent_of_oils = 100 * composition.water_g / composition.oils_g
    return WaterResult(
        water_g=composition.water_g,
        plain_water_g=max(composition.plain_water_g, 0.0),
        lye_concentration_percent=concentration,
        water_to_lye=composition.water_g / lye_g,
        percent_of_oils=percent_of_oils,
        discount_percent=discount_percent(percent_of_oils),
        solution_g=composition.water_g + lye_g,
        in_words=water_in_words(concentration, purpose.makes),
    )


def _liquids(composition: Composition) -> Iterator[LiquidResult]:
    for item in composition.liquids:
        assert isinstance(item.line, LiquidLine)
        assert isinstance(item.of, Liquid)
        yield LiquidResult(
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


def _additives(composition: Composition) -> Iterator[AdditiveResult]:
    for item in composition.additives:
        assert isinstance(item.of, Additive)
        yield AdditiveResult(
            additive=item.of.id,
            name=item.of.name,
            stage=item.of.stage,
            weight_g=item.weight_g,
            percent_of_oils=100 * item.weight_g / composition.oils_g,
            effect=item.of.effect,
            cautions=item.of.cautions,
        )


def _consumed(composition: Composition) -> Iterator[LyeConsumed]:
    metals = {0.0: "sodium ", 100.0: "potassium "}
    metal = metals.get(round(composition.koh_share_percent, 9), "sodium and potassium ")
    for consumed in composition.consumed:
        yield LyeConsumed(
            field=consumed.field,
            by=consumed.name,
            acid=consumed.consumer.name,
            acid_g=consumed.acid_g,
            naoh_equivalent_g=consumed.mol * NAOH_G_PER_MOL,
            compensated=consumed.compensated,
            superfat_points=0.0 if consumed.compensated else 100 * consumed.mol / composition.fats_mol,
            salt=metal + consumed.consumer.salt,
            salt_g=consumed.consumer.salt_g(consumed.acid_g, composition.base_g_per_mol),
        )


def calculate(
    formula: Formula, oils: Catalogue | None = None, weight_unit: WeightUnitId = "g", *, as_weighed: bool = False
) -> FormulaResult:
    """Calculate `formula` against the catalogue `oils` (the shipped one by default) and its own materials.

    `weight_unit` sets the unit of the rounded weights in `weighing`; every other weight is in g.
    `as_weighed` takes whatever superfat a pot has come to. Raises FormulaError when an entry is missing or impossible, with
    every problem found.
    """
    seen = examine(formula, catalogue() if oils is None else oils, as_weighed=as_weighed)
    composition, components = seen.composition, seen.components
    if composition is None or any(problem.stops_calculation for problem in seen.problems):
        raise FormulaError(seen.problems)
    pure_components = pure_oils(components, seen.oils)
    weights = weighing(composition, formula.lye.master_percent, weight_unit)
    oils_step_g, lye_step_g = scale_steps_g(composition, formula.scale_step_g)
    interval = superfat_interval(composition, pure_components, seen.oils, formula.lye, oils_step_g, lye_step_g)
    lye = _lye_result(formula, composition, weights, interval)
    acids = _acid_shares(components)
    acids_by_id = {share.acid: share.percent for share in acids}
    purpose = purposes()[formula.purpose]
    result = _qualities(components, pure_components, formula)
    by_quality = {quantity.quality: quantity for quantity in result}
    work = conditions_of(composition, formula.process, lye.superfat_total_percent)
    adjustments = tuple(adjustments_of(work))
    makes_paste = purpose.makes == "paste"
    cure = None if makes_paste else cure_adjustment(acids_by_id, by_quality["hardness"].points, work, adjustments)
    free_acid = sum(component.share_percent for component in pure_components if component.oil.kind == "free_acid")
    bar = None if makes_paste else bar_expectations(
        acids_by_id, by_quality["hardness"].points, by_quality["oxidation_load"].points, free_acid, work, adjustments
    )  # fmt: skip
    asked = None if formula.dilution is None else formula.dilution.soap_percent
    facts = Facts(
        formula, purpose, components, pure_components, composition, acids_by_id, by_quality, work, interval, bar
    )
    return FormulaResult(
        state=state_of(formula, seen.problems),
        cautions=seen.problems,
        oils=tuple(
            OilResult(
                oil=component.oil.id,
                name=component.oil.name,
                share_percent=component.share_percent,
                weight_g=component.weight_g,
                hard=component.oil.is_hard,
                group=component.oil.group,
            )
            for component in components
        ),
        total_oils_g=composition.oils_g,
        lye=lye,
        water=_water_result(composition, purpose),
        liquids=tuple(_liquids(composition)),
        additives=tuple(_additives(composition)),
        consumed=tuple(_consumed(composition)),
        batter_g=composition.total_g,
        acids=acids,
        qualities=result,
        remarks=remarks_on(facts, RULES),
        indices=_indices(components, pure_components, acids, composition.all_oils_koh_g),
        adjustments=adjustments if cure is None else (*adjustments, cure),
        bar=bar,
        paste=paste_result(composition, lye.superfat_total_percent, asked) if makes_paste else None,
        weighing=weights,
    )
