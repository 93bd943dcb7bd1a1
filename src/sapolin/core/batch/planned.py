"""A batch worked out: its size, every weight, how it stands in the moulds, and what each portion takes."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from math import floor

from sapolin.core.bar.calculation import calculate
from sapolin.core.bar.result import FormulaResult
from sapolin.core.batch.cutting import CutPlan, Weigher, cut_plans
from sapolin.core.batch.heat import LyePeak, lye_peak, solution_density_g_per_ml
from sapolin.core.batch.moulds import Cavities, HalfSpheres, Mould, capacity_ml, height_mm
from sapolin.core.batch.plan import BatchPlan, ColourLine, as_chosen, colour_percent, plan_problems
from sapolin.core.batch.temperatures import TemperatureWindow, temperature_window
from sapolin.core.formula.blend import Component
from sapolin.core.formula.check import examine
from sapolin.core.formula.composition import Composition
from sapolin.core.formula.document import AdditiveLine, Blend, Formula, LiquidLine, PercentBlend
from sapolin.core.materials.catalogue import Catalogue, catalogue
from sapolin.core.materials.ingredients import Additive, Liquid, colorants, scents
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.diagnostics import FormulaError, Problem
from sapolin.core.quantities.model import Model

__all__ = [
    "BatchSize",
    "BatterVolume",
    "ColourWeights",
    "Cup",
    "MouldFill",
    "PlannedBatch",
    "PortionWeights",
    "ScentWeight",
    "as_poured",
    "plan_batch",
    "scaled",
]  # fmt: skip

DISPERSE_TIMES = 2.0
"""A colour is dispersed in this many times its weight (craft rule of thumb)."""
_GLYCERIN_DENSITY = 1.26


class BatterVolume(Model):
    """The batter by volume, worked out from what it is made of; an estimate."""

    oils_ml: float
    solution_ml: float
    """Lye in the water that dissolves it."""
    other_ml: float
    """Other liquids, additives, scent and colour."""
    total_ml: float
    low_ml: float
    high_ml: float
    density_g_per_ml: float
    cured_fraction: float
    """A cured bar weighs this part of what was poured."""


class BatchSize(Model):
    """How big the batch is, and how it fits."""

    oils_g: float
    batter_g: float
    """Everything that is poured, scent and colour too, g."""
    capacity_ml: float
    """Of the moulds to their fill, mL; 0 without moulds."""
    over_ml: float
    """Batter that finds no place, mL."""
    short_ml: float
    """Room left, mL."""
    limiting: str
    """Name of the oil that limits the size, if one does."""
    words: str


class MouldFill(Model):
    """How the batter stands in one mould."""

    name: str
    capacity_ml: float
    batter_ml: float
    batter_g: float
    height_mm: float | None
    cuts: tuple[CutPlan, ...]
    """The plan first, then alternatives; empty when nothing is said of cutting."""


class ScentWeight(Model):
    """One scent, weighed."""

    scent: str
    name: str
    weight_g: float
    ml: float
    percent_of_oils: float
    percent_of_product: float
    """Of the finished soap at its lightest, cured: this is what suppliers' limits are stated for."""
    limit_percent: float | None


class ColourWeights(Model):
    """One colour of one portion, weighed."""

    colorant: str
    name: str
    weight_g: float
    tsp: float
    """Level teaspoons."""
    disperse_in: str
    disperse_g: float
    """What it is stirred into first, g; oil and water are taken from the batch's own."""


class PortionWeights(Model):
    """A part of the batter."""

    name: str
    share_percent: float
    batter_g: float
    batter_ml: float
    colours: tuple[ColourWeights, ...]
    hue_degrees: float | None
    """Of its strongest colour."""


class Cup(Model):
    """A little water or oil, set aside before lye meets anything, that wets a colour, clay or powder."""

    item: str
    """`cup:0`, as it is weighed."""
    name: str
    source: str
    """Whose weight it is taken from: `water` or an oil such as `oil:2`; `glycerin` comes on top of the batch."""
    weight_g: float
    wets: str
    """Name of what it wets."""


class PlannedBatch(Model):
    """A batch with every quantity that the sheet, the screens and the making of it share."""

    formula: Formula
    """At the size of the batch."""
    result: FormulaResult
    """Weights in grams."""
    ounces: FormulaResult
    """The same weights rounded in ounces, so that they add up there too."""
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

    @property
    def unmould_hours(self) -> tuple[float, float] | None:
        """From when to when it may be unmoulded, h after it was poured; an estimate."""
        bar = self.result.bar
        return None if bar is None else (bar.unmould_hours_low, bar.unmould_hours_high)


def scaled(formula: Formula, factor: float) -> Formula:
    """The same bar at another size: everything told by weight times `factor`."""
    blend = formula.blend
    resized: Blend
    if isinstance(blend, PercentBlend):
        total = None if blend.total_oils_g is None else round(blend.total_oils_g * factor, 1)
        resized = blend.model_copy(update={"total_oils_g": total})
        # Other weights follow what the total was rounded to, so that shares of oils stay what they were.
        factor = factor if not total or not blend.total_oils_g else total / blend.total_oils_g
    else:
        resized = blend.model_copy(update={
            "lines": tuple(
                line.model_copy(update={"weight_g": None if line.weight_g is None else line.weight_g * factor})
                for line in blend.lines
            )
        })  # fmt: skip

    def grown(line: LiquidLine | AdditiveLine) -> LiquidLine | AdditiveLine:
        if line.by != "weight_g" or line.value is None:
            return line
        return line.model_copy(update={"value": line.value * factor})

    return formula.model_copy(
        update={
            "blend": resized,
            "liquids": tuple(grown(line) for line in formula.liquids),
            "additives": tuple(grown(line) for line in formula.additives),
        }
    )


@dataclass(frozen=True)
class _Extras:
    """Scent and colour of a batch with so much oil."""

    scents: tuple[ScentWeight, ...]
    portions: tuple[PortionWeights, ...]

    @property
    def added_g(self) -> float:
        """What they add to the pot; oil and water to disperse colours in are the batch's own."""
        return sum(scent.weight_g for scent in self.scents) + sum(
            colour.weight_g + (colour.disperse_g if colour.disperse_in == "glycerin" else 0.0)
            for portion in self.portions
            for colour in portion.colours
        )

    @property
    def added_ml(self) -> float:
        return sum(scent.ml for scent in self.scents) + sum(
            colour.weight_g / colorants()[colour.colorant].density_g_per_ml
            + (colour.disperse_g / _GLYCERIN_DENSITY if colour.disperse_in == "glycerin" else 0.0)
            for portion in self.portions
            for colour in portion.colours
        )


def _extras(plan: BatchPlan, oils_g: float) -> _Extras:
    smelling = []
    for line in plan.scents:
        known = scents()[line.scent]
        weight = oils_g * (line.percent_of_oils or 0.0) / 100
        smelling.append(
            ScentWeight(
                scent=known.id, name=known.name, weight_g=weight, ml=weight / known.density_g_per_ml,
                percent_of_oils=line.percent_of_oils or 0.0, percent_of_product=0.0, limit_percent=line.limit_percent,
            )
        )  # fmt: skip
    portions = []
    for portion in plan.portions:
        share = (portion.share_percent or 0.0) / 100
        colours = tuple(_colour(colour, oils_g * share) for colour in portion.colours)
        strongest = max(colours, key=lambda colour: colour.weight_g, default=None)
        portions.append(
            PortionWeights(
                name=portion.name, share_percent=portion.share_percent or 0.0, batter_g=0.0, batter_ml=0.0,
                colours=colours, hue_degrees=None if strongest is None else colorants()[strongest.colorant].hue_degrees,
            )
        )  # fmt: skip
    return _Extras(tuple(smelling), tuple(portions))


def _colour(line: ColourLine, oils_g: float) -> ColourWeights:
    known = colorants()[line.colorant]
    weight = oils_g * colour_percent(line) / 100
    carrier = line.disperse_in or known.disperse_in[0]
    return ColourWeights(
        colorant=known.id, name=known.name, weight_g=weight, tsp=weight / known.g_per_tsp, disperse_in=carrier,
        disperse_g=0.0 if carrier == "lye" else weight * DISPERSE_TIMES,
    )  # fmt: skip


def _volume(composition: Composition, components: Sequence[Component], extras: _Extras) -> BatterVolume:
    oils_ml = sum(component.weight_g / component.oil.density_g_per_ml for component in components)
    water = composition.plain_water_g + composition.master_water_g
    solution_g = composition.lye.total_g + water
    density = solution_density_g_per_ml(composition.lye.naoh_g, composition.lye.koh_g, water) if water > 0 else 1.3
    other_ml = extras.added_ml + sum(
        item.weight_g / coefficient("batter.liquid_density") for item in composition.liquids
    )
    for item in composition.additives:
        assert isinstance(item.of, Additive)
        other_ml += item.weight_g / item.of.density_g_per_ml
    total = oils_ml + solution_g / density + other_ml
    batter = composition.total_g + extras.added_g
    water_g = composition.water_g + sum(
        item.weight_g * 0.4
        for item in composition.additives
        if isinstance(item.of, Additive) and item.of.role == "lactate"
    )
    solids = batter - water_g
    spread = coefficient("batter.volume_spread")
    return BatterVolume(
        oils_ml=oils_ml,
        solution_ml=solution_g / density,
        other_ml=other_ml,
        total_ml=total,
        low_ml=total * (1 - spread),
        high_ml=total * (1 + spread),
        density_g_per_ml=batter / total,
        cured_fraction=min(1.0, solids / (1 - coefficient("cure.residual_water") / 100) / batter),
    )


def _factor(
    plan: BatchPlan, composition: Composition, volume: BatterVolume, batter_g: float, components: Sequence[Component]
) -> tuple[float, str]:
    """How many times the formula's own size the batch is, and the oil that limits it."""
    size = plan.size
    if size.by == "moulds":
        return sum(capacity_ml(use.mould, use.headroom_mm) for use in plan.moulds) / volume.total_ml, ""
    if size.by == "limiting":
        limits = [
            (size.available_g[component.oil.id] / component.weight_g, component.oil.name)
            for component in components
            if component.oil.id in size.available_g and component.weight_g > 0
        ]
        return min(limits)
    if size.by == "bars":
        return (size.value or 0.0) * (size.cured_bar_g or 0.0) / (batter_g * volume.cured_fraction), ""
    return (size.value or 0.0) / (composition.oils_g if size.by == "oils_g" else batter_g), ""


def plan_batch(plan: BatchPlan, base: Catalogue | None = None) -> PlannedBatch:
    """Work out the batch of `plan` over the catalogue `base` (the shipped one by default).

    Raises FormulaError with everything that stands in the way, the formula's own problems under `formula.`.
    """
    oils = catalogue() if base is None else base
    chosen = as_chosen(plan)
    seen = examine(chosen, oils)
    problems = [_of_the_formula(problem, plan) for problem in seen.problems if problem.stops_calculation]
    problems += [problem for problem in plan_problems(plan) if problem.stops_calculation]
    if problems or seen.composition is None:
        raise FormulaError(problems)
    extras = _extras(plan, seen.composition.oils_g)
    volume = _volume(seen.composition, seen.components, extras)
    factor, limiting = _factor(
        plan, seen.composition, volume, seen.composition.total_g + extras.added_g, seen.components
    )
    formula = scaled(chosen, factor)
    sized = examine(formula, oils)
    if sized.composition is None:
        raise FormulaError([_of_the_formula(problem, plan) for problem in sized.problems])
    composition, components = sized.composition, sized.components
    extras = _extras(plan, composition.oils_g)
    volume = _volume(composition, components, extras)
    batter_g = composition.total_g + extras.added_g
    portions = _shared_out(extras.portions, batter_g, volume.total_ml)
    fills = tuple(_fills(plan, volume))
    wetting = _wetting_oil(formula, components)
    finished_g = batter_g * volume.cured_fraction
    smelling = tuple(
        scent.model_copy(update={"percent_of_product": 100 * scent.weight_g / finished_g}) for scent in extras.scents
    )
    over = [*_over_their_limits(smelling, finished_g, composition.oils_g)]
    if over:
        raise FormulaError(over)
    result = calculate(formula, base)
    cups, short = _cups(plan, portions, composition, components, wetting, result.weighing.decimals)
    if short is not None:
        raise FormulaError([short])
    capacity_g = plan.choices.scale_capacity_g
    return PlannedBatch(
        formula=formula,
        result=result,
        ounces=calculate(formula, base, "oz"),
        volume=volume,
        size=_size(plan, composition, volume, batter_g, fills, limiting),
        moulds=fills,
        scents=smelling,
        portions=portions,
        disperse_from=components[wetting].oil.name,
        cups=cups,
        most_at_once_g=None if capacity_g is None else capacity_g * coefficient("scale.load_fraction"),
        room_c=plan.choices.room_c or 0.0,
        window=temperature_window(plan, components),
        lye_peak=_peak(plan, composition, sum(cup.weight_g for cup in cups if cup.source == "water")),
    )


def _over_their_limits(smelling: Sequence[ScentWeight], finished_g: float, oils_g: float) -> Iterator[Problem]:
    solids_fraction = 1 - coefficient("cure.residual_water") / 100
    for i, scent in enumerate(smelling):
        if scent.limit_percent is None or scent.percent_of_product <= scent.limit_percent * (1 + 1e-9):
            continue
        # With less of it the finished soap is lighter too.
        component = scent.limit_percent / 100
        most_g = component * (finished_g - scent.weight_g / solids_fraction) / (1 - component / solids_fraction)
        yield Problem(
            code="scent_over_limit", severity="impossible", field=f"scents[{i}].percent_of_oils",
            message=f"{scent.name} comes to {scent.percent_of_product:.2f} % of the finished soap, over its supplier's limit "
            f"of {scent.limit_percent:g} %.",
            remedy=f"Use {floor(10_000 * most_g / oils_g) / 100:g} % of oils at most.",
        )  # fmt: skip


def as_poured(
    plan: BatchPlan,
    planned: PlannedBatch,
    formula: Formula,
    weights: Mapping[str, float],
    base: Catalogue | None = None,
) -> PlannedBatch:
    """`planned` with its volume, portions and moulds as they follow from what is really in the pot.

    `formula` is the formula that the `weights` (g by item) amount to. What is more than planned goes into the headroom, as
    far as the rim; what cannot be calculated from such a pot stays as planned.
    """
    seen = examine(formula, catalogue() if base is None else base, as_weighed=True)
    if seen.composition is None:
        return planned
    scents_now = tuple(
        scent.model_copy(update={
            "weight_g": weights[f"scent:{i}"], "ml": weights[f"scent:{i}"] / scents()[scent.scent].density_g_per_ml,
        })
        for i, scent in enumerate(planned.scents)
    )  # fmt: skip
    colours_now = tuple(
        portion.model_copy(update={
            "colours": tuple(
                colour.model_copy(update={"weight_g": weights[f"colour:{i}:{j}"]})
                for j, colour in enumerate(portion.colours)
            )
        })
        for i, portion in enumerate(planned.portions)
    )  # fmt: skip
    extras = _Extras(scents_now, colours_now)
    volume = _volume(seen.composition, seen.components, extras)
    batter_g = seen.composition.total_g + extras.added_g
    fills = tuple(_fills(plan, volume, into_headroom=True))
    return planned.model_copy(update={
        "volume": volume,
        "size": _size(plan, seen.composition, volume, batter_g, fills, planned.size.limiting),
        "portions": _shared_out(colours_now, batter_g, volume.total_ml),
        "moulds": fills,
    })  # fmt: skip


def _shared_out(portions: Sequence[PortionWeights], batter_g: float, batter_ml: float) -> tuple[PortionWeights, ...]:
    """Portions with their part of the batter."""
    return tuple(
        portion.model_copy(update={
            "batter_g": batter_g * portion.share_percent / 100, "batter_ml": batter_ml * portion.share_percent / 100,
        })
        for portion in portions
    )  # fmt: skip


def _wetting_oil(formula: Formula, components: Sequence[Component]) -> int:
    """The line of the oil that colours are wetted with: of those that go in at the start the heaviest, a liquid one first."""
    started = [i for i, line in enumerate(formula.blend.lines) if line.added == "start"]
    return max(started, key=lambda i: (not components[i].oil.is_hard, components[i].weight_g))


def _cups(
    plan: BatchPlan,
    portions: Sequence[PortionWeights],
    composition: Composition,
    components: Sequence[Component],
    wetting: int,
    decimals: int,
) -> tuple[tuple[Cup, ...], Problem | None]:
    """What is set aside to wet colours and powders, weighed to `decimals` as what it is taken from; or why it cannot be."""
    oil = components[wetting].oil.name
    wet: list[tuple[str, str, float, str]] = []
    for i, portion in enumerate(portions):
        for j, colour in enumerate(portion.colours):
            wet.append(
                (
                    colour.disperse_in,
                    f"{colour.name} ({portion.name})",
                    colour.disperse_g,
                    f"portions[{i}].colours[{j}]",
                )
            )
    for i, item in enumerate(composition.additives):
        if isinstance(item.of, Additive) and item.of.wet_in:
            # A batch without plain water wets its powders with oil.
            carrier = item.of.wet_in if composition.plain_water_g > 0 else "oil"
            wet.append((carrier, item.of.name, item.weight_g * item.of.wet_times, f"formula.additives[{i}].value"))
    cups: list[Cup] = []
    for into, wets, grams, _ in wet:
        if into == "lye" or grams <= 0:
            continue
        source = f"oil:{wetting}" if into == "oil" else into
        name = f"{oil if into == 'oil' else into.capitalize()} for {wets[:1].lower()}{wets[1:]}"
        cups.append(
            Cup(
                item=f"cup:{len(cups)}",
                name=name,
                source=source,
                weight_g=max(round(grams, decimals), 10.0**-decimals),
                wets=wets.partition(" (")[0],
            )
        )
    at = {into: field for into, _, grams, field in wet if grams > 0}
    water_g = sum(cup.weight_g for cup in cups if cup.source == "water")
    if water_g > 0 and (
        composition.plain_water_g < water_g
        or composition.dissolving_water_g - water_g < composition.lye.total_g * (1 - 1e-9)
    ):
        return (), Problem(
            code="cups_take_the_water", severity="impossible", field=at["water"],
            message=f"Wetting colours and powders takes {water_g:,.1f} g of the {max(composition.plain_water_g, 0.0):,.1f} g of water, "
            f"and the lye needs its own weight of {composition.lye.total_g:,.1f} g at the least.",
            remedy="Wet them in oil or glycerin, use less of them, or plan more water.",
        )  # fmt: skip
    oil_g = sum(cup.weight_g for cup in cups if cup.source.startswith("oil:"))
    if oil_g > components[wetting].weight_g:
        return (), Problem(
            code="cups_take_the_oil", severity="impossible", field=at["oil"],
            message=f"Wetting colours and powders takes {oil_g:,.1f} g of {oil}, of which there are "
            f"{components[wetting].weight_g:,.1f} g.",
            remedy="Wet them in water or glycerin, or use less of them.",
        )  # fmt: skip
    return tuple(cups), None


def _of_the_formula(problem: Problem, plan: BatchPlan) -> Problem:
    """A problem of the formula at its place in the plan."""
    own = problem.field == "water.value" and plan.choices.lye_concentration_percent is not None
    field = "choices.lye_concentration_percent" if own else f"formula.{problem.field}"
    return problem.model_copy(update={"field": field})


def _peak(plan: BatchPlan, composition: Composition, cups_g: float) -> LyePeak:
    """How hot the lye gets in the water that is left for it when `cups_g` of it are set aside."""
    dissolving = [
        item for item in composition.liquids if isinstance(item.line, LiquidLine) and item.line.use == "dissolves_lye"
    ]
    frozen = sum(
        item.weight_g * item.of.water_percent / 100
        for item in dissolving
        if isinstance(item.of, Liquid) and item.of.scorches == "yes"
    )  # fmt: skip
    return lye_peak(
        composition.lye.naoh_pure_g,
        composition.lye.koh_pure_g,
        composition.dissolving_water_g - cups_g,
        start_c=plan.choices.room_c or 0.0,
        frozen_g=frozen if plan.choices.milk == "frozen" else 0.0,
        dissolved_in_g=composition.master_water_g,
    )


def _fills(plan: BatchPlan, volume: BatterVolume, *, into_headroom: bool = False) -> Iterator[MouldFill]:
    """The moulds filled one after the other; the batter is shared out evenly when the moulds give the size.

    `into_headroom`: what is over when all are filled as planned goes on up to their rims.
    """
    left = volume.total_ml
    weigher = Weigher(volume.density_g_per_ml, volume.cured_fraction)
    planned_ml = sum(capacity_ml(use.mould, use.headroom_mm) for use in plan.moulds)
    over = max(left - planned_ml, 0.0) if into_headroom else 0.0
    for use in plan.moulds:
        room = capacity_ml(use.mould, use.headroom_mm)
        more = min(over, capacity_ml(use.mould) - room)
        over -= more
        batter = min(left, room + more)
        left -= batter
        height = height_mm(use.mould, batter)
        yield MouldFill(
            name=use.mould.name, capacity_ml=room, batter_ml=batter, batter_g=batter * volume.density_g_per_ml,
            height_mm=height, cuts=cut_plans(use, batter, height, weigher),
        )  # fmt: skip


def _size(
    plan: BatchPlan, composition: Composition, volume: BatterVolume, batter_g: float, fills: Sequence[MouldFill], limiting: str
) -> BatchSize:  # fmt: skip
    room = max(sum(fill.capacity_ml for fill in fills), sum(fill.batter_ml for fill in fills))
    over = max(volume.total_ml - room, 0.0) if fills else 0.0
    short = max(room - volume.total_ml, 0.0) if fills else 0.0
    return BatchSize(
        oils_g=composition.oils_g,
        batter_g=batter_g,
        capacity_ml=room,
        over_ml=over if over > 0.5 else 0.0,
        short_ml=short if short > 0.5 else 0.0,
        limiting=limiting,
        words=_size_words(plan, volume, fills, over, short),
    )


def _size_words(
    plan: BatchPlan, volume: BatterVolume, fills: Sequence[MouldFill], over: float, short: float
) -> str:  # fmt: skip
    if not fills:
        return f"{volume.total_ml:,.0f} mL of batter; no mould is chosen for it yet."
    if over > 0.5:
        return f"{over:,.0f} mL more than the moulds take: {_place_for(plan, over)}"
    if short > 0.5:
        least = min((cut.bar_ml for fill in fills for cut in fill.cuts[:1] if cut.bar_ml > 0), default=0.0)
        bars = f", about {short / least:.1f} bars" if least else ""
        return f"{short:,.0f} mL short of the fill{bars}."
    spare = volume.high_ml - volume.total_ml
    return f"It fills the moulds. Up to {spare:,.0f} mL may be over, as batters go: {_place_for(plan, spare)}"


def _place_for(plan: BatchPlan, over_ml: float) -> str:
    """Where batter that is over could go."""
    singles: list[tuple[Mould, float]] = [
        (use.mould, capacity_ml(use.mould) / use.mould.shape.count)
        for use in plan.moulds
        if isinstance(use.mould.shape, Cavities | HalfSpheres)
    ]
    if singles:
        mould, cavity = singles[0]
        return f"{over_ml / cavity:.1f} more cavities of {mould.name} would take it."
    return f"have a spare cavity of {max(10 * round(over_ml / 10 + 0.5), 10):.0f} mL ready."
