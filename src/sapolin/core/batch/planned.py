"""A planned batch: its size, every weight, how it stands in the moulds, and what each portion takes."""

from collections.abc import Mapping
from typing import TypeVar

from sapolin.core.advice.report import advice
from sapolin.core.bar.calculation import calculation_of_composition
from sapolin.core.bar.expectations import EXPECTATIONS
from sapolin.core.bar.result import FormulaResult
from sapolin.core.batch.additions import (
    Additions,
    Cup,
    PortionWeights,
    ScentWeight,
    additions_of,
    cups_of,
    limits_kept,
    wetting_oil,
)
from sapolin.core.batch.filling import BatchSize, BatterVolume, MouldFill, batter_volume, mould_fills, size_of
from sapolin.core.batch.gel import GelForecast, gel_forecast
from sapolin.core.batch.heat import LyePeak, lye_peak_of
from sapolin.core.batch.moulds import capacity_ml
from sapolin.core.batch.plan import BatchPlan, as_chosen, plan_problems
from sapolin.core.batch.temperatures import TemperatureWindow, temperature_window
from sapolin.core.formula.blend import by_oil
from sapolin.core.formula.check import examine, within
from sapolin.core.formula.composition import Composition
from sapolin.core.formula.document import AdditiveLine, Formula, LiquidLine, OilLine
from sapolin.core.formula.weights import Weights, weights_of
from sapolin.core.materials.catalogue import Catalogue, catalogue
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.diagnostics import Diagnostic, FormulaError
from sapolin.core.quantities.model import Model, given

__all__ = ["PlannedBatch", "as_poured", "plan_batch", "scaled"]


_Line = TypeVar("_Line", OilLine, LiquidLine, AdditiveLine)


class PlannedBatch(Model):
    """A batch with everything that the sheet, the screens and the making of it share."""

    formula: Formula
    """At the size of the batch."""
    result: FormulaResult
    """Its weights are rounded in grams."""
    ounces: Weights
    """The same weights rounded in ounces, so that they add up there too."""
    advice: tuple[Diagnostic, ...]
    """What the rule book says of the formula as it is made here."""
    volume: BatterVolume
    size: BatchSize
    moulds: tuple[MouldFill, ...]
    scents: tuple[ScentWeight, ...]
    portions: tuple[PortionWeights, ...]
    disperse_from: str
    """The oil of the batch that colours are dispersed in."""
    cups: tuple[Cup, ...] = ()
    """What wets colours, clays and powders, set aside beforehand."""
    most_at_once_g: float | None = None
    """What the scale takes at once beside a container, g; null when that is no limit."""
    room_c: float
    window: TemperatureWindow
    lye_peak: LyePeak
    brought: tuple[str, ...] = ()
    """What the customer brings, by the ids of the shelf."""
    trace_points: float | None = None
    """The pace of trace, points; null for batches that began before pastes had one."""
    gel: GelForecast | None = None
    """Whether it gels; null for hot process and without a mould, and for batches that began before this was forecast."""

    @property
    def unmould_hours(self) -> tuple[float, float] | None:
        """From when to when it may be unmoulded, h after it was poured; an estimate."""
        bar = self.result.bar
        return None if bar is None else (bar.unmould_hours_low, bar.unmould_hours_high)


def scaled(formula: Formula, factor: float) -> tuple[Formula, float]:
    """The same bar at another size, and the factor that it came to: a total of oils is rounded to 0.1 g.

    Everything entered by weight follows, so that shares of oils stay what they were.
    """
    blend = formula.blend
    weighed = any(line.by == "weight_g" for line in blend.lines)
    if not weighed and blend.total_oils_g:
        total_g = round(blend.total_oils_g * factor, 1)
        factor = total_g / blend.total_oils_g
        blend = blend.model_copy(update={"total_oils_g": total_g})

    def grown(line: _Line) -> _Line:
        if line.by != "weight_g" or line.value is None:
            return line
        return line.model_copy(update={"value": line.value * factor})

    changes = {
        "blend": blend.model_copy(update={"lines": tuple(grown(line) for line in blend.lines)}),
        "liquids": tuple(grown(line) for line in formula.liquids),
        "additives": tuple(grown(line) for line in formula.additives),
    }
    return formula.model_copy(update=changes), factor


def _factor(
    plan: BatchPlan, composition: Composition, volume: BatterVolume, batter_g: float
) -> tuple[float, str]:  # fmt: skip
    """How many times the formula's own size the batch is, and the oil that limits it."""
    size = plan.size
    if size.by == "moulds":
        return sum(capacity_ml(use.mould, use.headroom_mm) for use in plan.moulds) / volume.total_ml, ""
    if size.by == "limiting":
        needed_g = by_oil((component.oil.id, component.weight_g) for component in composition.oils)
        names = {component.oil.id: component.oil.name for component in composition.oils}
        return min(
            (size.available_g[oil] / grams, names[oil])
            for oil, grams in needed_g.items()
            if oil in size.available_g and grams > 0
        )
    if size.by == "bars":
        return given(size.value) * given(size.cured_bar_g) / (batter_g * volume.cured_fraction), ""
    return given(size.value) / (composition.oils_g if size.by == "oils_g" else batter_g), ""


def plan_batch(plan: BatchPlan, base: Catalogue | None = None) -> PlannedBatch:
    """Plan the batch of `plan` over the catalogue `base` (the shipped one by default): looked over once, calculated once.

    Raises FormulaError with everything that stands in the way, the formula's own problems under `formula.`.
    """
    chosen = as_chosen(plan)
    seen = examine(chosen, catalogue() if base is None else base)
    problems = [_of_the_formula(problem, plan) for problem in seen.problems if problem.stops_calculation]
    problems += [problem for problem in plan_problems(plan) if problem.stops_calculation]
    if problems or seen.composition is None:
        raise FormulaError(problems)
    at_its_own_size = additions_of(plan, seen.composition.oils_g)
    batter_g = seen.composition.total_g + at_its_own_size.added_g
    volume = batter_volume(seen.composition, at_its_own_size, chosen.process.batter_temperature_c)
    wanted, limiting = _factor(plan, seen.composition, volume, batter_g)
    formula, factor = scaled(chosen, wanted)
    composition = seen.composition.scaled(factor)
    too_much = [*within("total_oils_g", composition.oils_g, "size")]
    if too_much:
        raise FormulaError(too_much)
    return _planned(plan, formula, composition, limiting, seen.problems)


def _planned(
    plan: BatchPlan, formula: Formula, composition: Composition, limiting: str, problems: tuple[Diagnostic, ...]
) -> PlannedBatch:
    additions = additions_of(plan, composition.oils_g)
    volume = batter_volume(composition, additions, formula.process.batter_temperature_c)
    batter_g = composition.total_g + additions.added_g
    finished_g = batter_g * volume.cured_fraction
    scents = tuple(
        scent.model_copy(update={"percent_of_product": 100 * scent.weight_g / finished_g}) for scent in additions.scents
    )
    over = [*limits_kept(scents, finished_g, composition.oils_g)]
    if over:
        raise FormulaError(over)
    calculation = calculation_of_composition(composition, formula, "g", problems)
    portions = additions.shared_out(batter_g, volume.total_ml)
    cups, short = cups_of(portions, composition, calculation.result.weights.decimals)
    if short is not None:
        raise FormulaError([short])
    fills = tuple(mould_fills(plan, volume))
    window = temperature_window(plan, composition)
    capacity_g, room_c = plan.choices.scale_capacity_g, given(plan.choices.room_c)
    return PlannedBatch(
        formula=formula,
        result=calculation.result,
        ounces=weights_of(composition, "oz"),
        advice=advice(calculation),
        volume=volume,
        size=size_of(plan, composition.oils_g, batter_g, volume, fills, limiting),
        moulds=fills,
        scents=scents,
        portions=portions,
        disperse_from=composition.oils[wetting_oil(composition)].oil.name,
        cups=cups,
        most_at_once_g=None if capacity_g is None else capacity_g * coefficient("scale.load_fraction"),
        room_c=room_c,
        brought=plan.brought,
        window=window,
        lye_peak=lye_peak_of(
            composition, start_c=room_c, milk=plan.choices.milk, in_ice=plan.choices.ice_bath,
            set_aside_g=sum(cup.weight_g for cup in cups if cup.source == "water"),
        ),
        trace_points=EXPECTATIONS["trace_points"].of(calculation.bar).value,
        gel=gel_forecast(
            plan, composition, calculation.conditions, (window.low_c + window.high_c) / 2,
            [fill.height_mm for fill in fills],
        ),
    )  # fmt: skip


def as_poured(
    plan: BatchPlan, planned: PlannedBatch, composition: Composition, weights_g: Mapping[str, float]
) -> PlannedBatch:  # fmt: skip
    """`planned` with its volume, portions and moulds as they follow from what was really weighed.

    `composition` is what the `weights_g` (by item) amount to. What is more than planned goes into the headroom, as far as the
    rim.
    """
    additions = Additions(planned.scents, planned.portions).with_weights(weights_g)
    volume = batter_volume(composition, additions, planned.formula.process.batter_temperature_c)
    batter_g = composition.total_g + additions.added_g
    fills = tuple(mould_fills(plan, volume, into_headroom=True))
    return planned.model_copy(update={
        "volume": volume,
        "size": size_of(plan, composition.oils_g, batter_g, volume, fills, planned.size.limiting),
        "portions": additions.shared_out(batter_g, volume.total_ml),
        "moulds": fills,
    })  # fmt: skip


def _of_the_formula(problem: Diagnostic, plan: BatchPlan) -> Diagnostic:
    """A problem of the formula at its place in the plan."""
    own = problem.path == "water.value" and plan.choices.lye_concentration_percent is not None
    return problem.at("choices.lye_concentration_percent" if own else f"formula.{problem.path}")
