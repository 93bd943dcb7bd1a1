"""From a composition to everything that follows from it: lye, water, fatty acids, qualities, indices and weights."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from math import sqrt

from sapolin.core.bar.adjustments import Adjustment, Conditions, adjustments_of, conditions_of
from sapolin.core.bar.expectations import BarFacts, bar_expectations, cure_adjustment
from sapolin.core.bar.paste import paste_result
from sapolin.core.bar.qualities import outside_by, points_of, qualities, spans_of_oil, standing
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
    QualityResult,
    WaterResult,
)
from sapolin.core.bar.soap import soap_of
from sapolin.core.bar.uncertainty import superfat_interval
from sapolin.core.formula.check import examine
from sapolin.core.formula.composition import Composition
from sapolin.core.formula.document import Formula
from sapolin.core.formula.purposes import Purpose, purposes
from sapolin.core.formula.water import discount_percent, water_in_words
from sapolin.core.formula.weights import Weights, lye_as_rounded_mol, scale_steps_g, weights_of
from sapolin.core.materials.catalogue import Catalogue, catalogue
from sapolin.core.materials.fatty_acids import ACIDS, iodine_value_of
from sapolin.core.materials.ingredients import Additive
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.diagnostics import Diagnostic, FormulaError
from sapolin.core.quantities.molar_masses import NAOH_G_PER_MOL, NAOH_PER_KOH
from sapolin.core.quantities.text import as_sentence, plain, template, text
from sapolin.core.quantities.units import WeightUnitId

__all__ = ["CALCULATION_VERSION", "Calculation", "calculate", "calculation_of", "calculation_of_composition"]


CALCULATION_VERSION = 3
"""Raised whenever the same composition and the same tables would give another result than before."""


@dataclass(frozen=True)
class Calculation:
    """A composition with everything that was calculated from it, and what it was calculated for."""

    formula: Formula
    """What surrounds the composition: purpose, target ranges, process, and how pure the lye is."""
    composition: Composition
    conditions: Conditions
    bar: BarFacts
    result: FormulaResult
    problems: tuple[Diagnostic, ...]
    """What the check found that does not stop the calculation."""

    @property
    def purpose(self) -> Purpose:
        """What the bar is for."""
        return purposes()[self.formula.purpose]


def calculate(formula: Formula, oils: Catalogue | None = None, weight_unit: WeightUnitId = "g") -> FormulaResult:
    """Everything that follows from `formula`, over the catalogue `oils` (the shipped one by default) and its own materials.

    `weight_unit` sets the unit of the rounded `weights`; every other weight is in g. Raises FormulaError with every problem
    found when an entry is missing or impossible.

    >>> lines = [{"oil": "olive-refined", "value": 70}, {"oil": "coconut", "value": 30}]
    >>> formula = Formula.model_validate({
    ...     "name": "Bar", "blend": {"total_oils_g": 1000, "lines": lines}, "superfat_percent": 5,
    ...     "lye": {"naoh_purity_percent": 99}, "water": {"by": "water_to_lye", "value": 2},
    ... })
    >>> result = calculate(formula)
    >>> round(result.lye.naoh_g, 1)  # (700 × 190 + 300 × 257) / 1000 × 0.71289 × 0.95 / 0.99
    143.7
    """
    return calculation_of(formula, oils, weight_unit).result


def calculation_of(formula: Formula, oils: Catalogue | None = None, weight_unit: WeightUnitId = "g") -> Calculation:
    """The same as :func:`calculate`, with the composition and all that stands between it and the result."""
    seen = examine(formula, catalogue() if oils is None else oils)
    if seen.composition is None or any(problem.stops_calculation for problem in seen.problems):
        raise FormulaError(seen.problems)
    return calculation_of_composition(seen.composition, formula, weight_unit, seen.problems)


def calculation_of_composition(
    composition: Composition, formula: Formula, weight_unit: WeightUnitId = "g", problems: tuple[Diagnostic, ...] = ()
) -> Calculation:
    """Everything that follows from a `composition`, designed or weighed; `formula` says what surrounds it.

    Nothing is checked here: a designed composition comes from :func:`sapolin.core.formula.check.examine`, and one that was
    weighed is what it is.
    """
    purpose = purposes()[formula.purpose]
    weights = weights_of(composition, weight_unit)
    acids = _acid_shares(composition)
    quality_results = tuple(_qualities(composition, formula))
    conditions = conditions_of(composition, formula.process, formula.wash_water)
    adjustments = adjustments_of(conditions)
    bar = BarFacts(
        acids={share.acid: share.percent for share in acids},
        points={one.quality: one.points for one in quality_results},
        free_acid_percent=sum(one.share_percent for one in composition.pure_oils if one.oil.kind == "free_acid"),
        conditions=conditions,
        adjustments=adjustments,
    )
    makes_paste = purpose.makes == "paste"
    asked = None if formula.dilution is None else formula.dilution.soap_percent
    result = FormulaResult(
        oils=tuple(
            OilResult(
                oil=component.oil.id,
                name=component.oil.name,
                share_percent=component.share_percent,
                weight_g=component.weight_g,
                hard=component.oil.is_hard,
                group=component.oil.group,
            )
            for component in composition.oils
        ),
        total_oils_g=composition.oils_g,
        lye=_lye(composition, formula, weights),
        water=_water(composition, purpose),
        liquids=tuple(_liquids(composition)),
        additives=tuple(_additives(composition)),
        consumed=tuple(_consumed(composition)),
        batter_g=composition.total_g,
        acids=acids,
        qualities=quality_results,
        indices=_indices(composition, bar.acids),
        adjustments=adjustments if makes_paste else _with_cure(adjustments, bar),
        bar=None if makes_paste else bar_expectations(bar),
        paste=paste_result(composition, asked) if makes_paste else None,
        weights=weights,
        contributors=tuple(_contributors(composition)),
        glycerol_g=soap_of(composition).glycerol_g,
    )
    return Calculation(formula, composition, conditions, bar, result, problems)


def _contributors(composition: Composition) -> Iterator[str]:
    yield from (component.oil.name for component in composition.oils)
    for liquid in composition.liquids:
        if liquid.fat is not None and liquid.fat_g > 0:
            yield plain(text("causes.fat", liquid=liquid.liquid.name.lower()))


def _with_cure(adjustments: tuple[Adjustment, ...], bar: BarFacts) -> tuple[Adjustment, ...]:
    cure = cure_adjustment(bar)
    return adjustments if cure is None else (*adjustments, cure)


def _acid_shares(composition: Composition) -> tuple[AcidShare, ...]:
    profiles = [(component.share_percent, component.oil.profile) for component in composition.fats]
    shares = []
    for i, acid in enumerate(ACIDS):
        given = tuple(share * profile[i] / 100 for share, profile in profiles)
        shares.append(AcidShare(acid=acid.id, percent=sum(given), contributions=given))
    return tuple(shares)


def _qualities(composition: Composition, formula: Formula) -> Iterator[QualityResult]:
    """Points with the range that natural spread allows; the spreads of the oils are independent and add in quadrature."""
    fats, from_liquids = composition.fats, composition.fats[len(composition.oils) :]
    by_oil = [(component.share_percent, points_of(component.oil.profile)) for component in fats]
    oils_fraction = 1 - sum(component.share_percent for component in from_liquids) / 100
    pure = [
        (component.share_percent / 100 * fraction, points_of(component.oil.profile), spans_of_oil(component.oil))
        for components, fraction in ((composition.pure_oils, oils_fraction), (from_liquids, 1.0))
        for component in components
    ]
    unknown_percent = sum(one.share_percent * (100 - one.oil.known_profile_percent) for one in fats) / 100
    for i, quality in enumerate(qualities().values()):
        given = tuple(share * points[i] / 100 for share, points in by_oil)
        points = sum(given)
        below = sum((fraction * (own[i] - spans[i][0])) ** 2 for fraction, own, spans in pure)
        above = sum((fraction * (spans[i][1] - own[i])) ** 2 for fraction, own, spans in pure)
        target_range = formula.target_range(quality.id)
        unknown = unknown_percent > 0
        yield QualityResult(
            quality=quality.id,
            points=points,
            low=points - sqrt(below),
            high=points + sqrt(above) + unknown_percent * max(quality.weights),
            target_range=target_range,
            standing="unknown" if unknown and target_range else standing(points, target_range),
            outside_by=0.0 if unknown else outside_by(points, target_range),
            contributions=given,
        )


def _indices(composition: Composition, acids: Mapping[str, float]) -> Indices:
    saturated = sum(acids[acid.id] for acid in ACIDS if acid.double_bonds == 0)
    unsaturated = sum(acids[acid.id] for acid in ACIDS if acid.double_bonds > 0)
    sap = 1000 * composition.all_oils_koh_g / composition.oils_g
    iodine_value = iodine_value_of([acids[acid.id] for acid in ACIDS])
    return Indices(
        saturated_percent=saturated,
        unsaturated_percent=unsaturated,
        other_percent=100 - saturated - unsaturated,
        hard_percent=sum(one.share_percent for one in composition.pure_oils if one.oil.is_hard),
        soft_percent=sum(one.share_percent for one in composition.pure_oils if not one.oil.is_hard),
        iodine_value=iodine_value,
        ins=sap - iodine_value,
        sap_koh_mg_per_g=sap,
    )


def _lye(composition: Composition, formula: Formula, weights: Weights) -> LyeResult:
    naoh, koh, master = composition.naoh, composition.koh, composition.master_percent
    oils_step_g, lye_step_g = scale_steps_g(composition, formula.scale_step_g)
    return LyeResult(
        naoh_g=naoh.weight_g,
        koh_g=koh.weight_g,
        naoh_pure_g=naoh.pure_g,
        koh_pure_g=koh.pure_g,
        naoh_full_g=composition.all_oils_koh_g * NAOH_PER_KOH,
        koh_equivalent_g=composition.all_oils_koh_g,
        koh_share_percent=composition.koh_share_percent,
        koh_weight_percent=100 * koh.weight_g / composition.lye_g,
        superfat_total_percent=composition.superfat_percent,
        superfat_as_weighed_percent=composition.superfat_with(lye_as_rounded_mol(weights, composition)),
        superfat_interval=superfat_interval(
            composition, formula.lye.purity_tolerance_percent, oils_step_g, lye_step_g
        ),
        master=None if master is None else MasterLye(
            lye_concentration_percent=master,
            naoh_solution_g=naoh.weight_g * 100 / master,
            koh_solution_g=koh.weight_g * 100 / master,
            water_in_it_g=composition.master_water_g,
        ),
    )  # fmt: skip


def _water(composition: Composition, purpose: Purpose) -> WaterResult:
    percent_of_oils = 100 * composition.water_g / composition.oils_g
    return WaterResult(
        water_g=composition.water_g,
        plain_water_g=max(composition.plain_water_g, 0.0),
        lye_concentration_percent=composition.lye_concentration_percent,
        water_to_lye=composition.water_g / composition.lye_g,
        percent_of_oils=percent_of_oils,
        discount_percent=discount_percent(percent_of_oils),
        solution_g=composition.water_g + composition.lye_g,
        in_words=water_in_words(composition.lye_concentration_percent, purpose.makes),
    )


def _liquids(composition: Composition) -> Iterator[LiquidResult]:
    for component in composition.liquids:
        grams, liquid = component.weight_g, component.liquid
        yield LiquidResult(
            liquid=liquid.id,
            name=liquid.name,
            use=component.use,
            weight_g=grams,
            water_g=component.water_g,
            fat_g=component.fat_g,
            sugar_g=grams * liquid.sugar_percent / 100,
            protein_g=grams * liquid.protein_percent / 100,
            cautions=as_sentence(liquid.cautions_of(component.use)),
        )


def _additives(composition: Composition) -> Iterator[AdditiveResult]:
    for component in composition.additives:
        additive = component.additive
        yield AdditiveResult(
            additive=additive.id,
            name=additive.name,
            stage=_stage(additive, 100 * component.weight_g / composition.oils_g),
            weight_g=component.weight_g,
            percent_of_oils=100 * component.weight_g / composition.oils_g,
            effect=additive.effect,
            cautions=as_sentence(additive.cautions),
        )


def _stage(additive: Additive, percent_of_oils: float) -> str:
    """When an additive goes in: so much salt as makes a salt bar does not dissolve, and is stirred in at trace."""
    much_salt = additive.role == "salt" and percent_of_oils >= coefficient("salt.bar_from_percent")
    return "trace" if much_salt else additive.stage


def _consumed(composition: Composition) -> Iterator[LyeConsumed]:
    metals = {0.0: "sodium", 100.0: "potassium"}
    metal = template(f"metals.{metals.get(round(composition.koh_share_percent, 9), 'both')}")
    for consumed in composition.consumed:
        yield LyeConsumed(
            field=consumed.path,
            by=consumed.name,
            acid=consumed.consumer.name,
            acid_g=consumed.acid_g,
            naoh_equivalent_g=consumed.mol * NAOH_G_PER_MOL,
            compensated=consumed.compensated,
            superfat_points=0.0 if consumed.compensated else 100 * consumed.mol / composition.fats_mol,
            salt=f"{metal} {consumed.consumer.salt}",
            salt_g=consumed.consumer.salt_g(consumed.acid_g, composition.base_g_per_mol),
        )
