"""The plan of a batch: everything a maker decides beside the formula, and what cannot be decided so."""

from collections.abc import Iterator
from datetime import date
from typing import Annotated, Literal

from pydantic import Field

from sapolin.core.bar.pace import Mixing
from sapolin.core.batch.moulds import Mould, mould_problems
from sapolin.core.formula.document import Formula, Water
from sapolin.core.materials.ingredients import colorants, scents
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.diagnostics import Diagnostic, FormulaError, diagnostic, stopping
from sapolin.core.quantities.entries import entry_problems
from sapolin.core.quantities.model import EntryId, FiniteNumber, Model, Truth, given
from sapolin.core.quantities.text import Text, listed_with_or, number, percent, template, text, weight

__all__ = [
    "BatchPlan",
    "Choices",
    "ColourLine",
    "Cut",
    "Cutter",
    "MouldUse",
    "PortionPlan",
    "ScentDrops",
    "ScentLine",
    "SizeBy",
    "as_chosen",
    "colour_in_basis",
    "colour_percent",
    "cutter_problems",
    "drops_weighed",
    "plan_problems",
]

USUAL_MASTER_PERCENT = 50.0
"""Concentration at which lye is commonly dissolved ahead."""
MOST_PORTIONS = 8
MOST_DROPS = 5000
TSP_BASE_G = 500.0
"""Colour is commonly told in teaspoons for this much oil."""
MANY_TIMES_USUAL = 10.0
SHARE_TOLERANCE_PERCENT = 0.05


MOST_GAPS = 40


class Cutter(Model):
    """A cutter with gaps of its own, as a frame with wires."""

    name: Annotated[str, Field(min_length=1, max_length=40, pattern=r"\S")]
    gaps_mm: Annotated[tuple[FiniteNumber, ...], Field(min_length=1, max_length=MOST_GAPS)]
    """Between its wires, one after the other; the last one is followed by the first again."""
    kerf_mm: FiniteNumber = 0.5


def cutter_problems(cutter: Cutter, at: str) -> Iterator[Diagnostic]:
    """What cannot be about a cutter; `at` is its place."""
    for i, gap in enumerate(cutter.gaps_mm):
        yield from entry_problems(gap, f"{at}.gaps_mm[{i}]", "bar", 5, 500, "mm")
    yield from entry_problems(cutter.kerf_mm, f"{at}.kerf_mm", "kerf", 0, 10, "mm")


class Cut(Model):
    """How a mould is cut into bars."""

    bar_mm: FiniteNumber | None
    """Thickness of a bar: along a loaf or cylinder, or along the length of a slab."""
    bar_width_mm: FiniteNumber | None = None
    """Only for a slab: the bar's other side."""
    kerf_mm: FiniteNumber | None = 1.0
    """What the cutter itself takes."""
    trim_mm: FiniteNumber | None = 0.0
    """Cut off at either end, for samples."""
    cutter: Cutter | None = None
    """One of the workshop's own: its gaps and kerf count instead of `bar_mm` and `kerf_mm`."""
    halved: Truth = False
    """A loaf or cylinder is cut lengthwise too, so that every slice makes two bars."""


class MouldUse(Model):
    """A mould in this batch."""

    mould: Mould
    headroom_mm: FiniteNumber | None = 0.0
    """Batter stays this far below the rim."""
    cut: Cut | None = None


class SizeBy(Model):
    """What the size of the batch follows from."""

    by: Literal["moulds", "oils_g", "batter_g", "bars", "limiting"] = "moulds"
    value: FiniteNumber | None = None
    """Oils or batter, g; or how many bars."""
    cured_bar_g: FiniteNumber | None = None
    """Cured weight of a bar, g, when the size is told in bars."""
    available_g: dict[EntryId, FiniteNumber] = Field(default={}, max_length=40)
    """What is left of the oils that limit, g."""


class ScentLine(Model):
    """A scent in the batch."""

    scent: EntryId
    percent_of_oils: FiniteNumber | None
    limit_percent: FiniteNumber | None = None
    """The supplier's limit for what is rinsed off, % of the finished soap; null while it is not known."""


class ScentDrops(Model):
    """Drops of a scent, weighed: an estimate, for drops differ with the bottle and the oil."""

    weight_g: float
    low_g: float
    high_g: float
    percent_of_oils: float
    """Of `weight_g`, to a hundredth."""
    caution: Text


def drops_weighed(scent: str, drops: float, oils_g: float) -> ScentDrops:
    """What `drops` of a scent weigh, and how much of `oils_g` that is. Raises FormulaError for what no batch has.

    Forty drops of lavender (0.89 g/mL, about 0.035 mL each) in a kilogram of oils:

    >>> drops = drops_weighed("lavender", 40, 1000)
    >>> round(drops.weight_g, 2), round(drops.low_g, 2), round(drops.high_g, 2), drops.percent_of_oils
    (1.25, 0.89, 1.78, 0.12)
    """
    known = scents().get(scent)
    problems = [*entry_problems(drops, "drops", "drops", 1, MOST_DROPS, "")]
    problems += entry_problems(oils_g, "oils_g", "oils_weight", 1, 1_000_000, "g")
    if known is None:
        problems.append(stopping("unknown_scent", "scent", scent=scent))
    if problems or known is None:
        raise FormulaError(problems)
    usual, low, high = (drops * known.density_g_per_ml * coefficient(f"drop.ml{end}") for end in ("", "_low", "_high"))
    return ScentDrops(
        weight_g=usual, low_g=low, high_g=high, percent_of_oils=round(100 * usual / oils_g, 2),
        caution=text("drops.caution", drops=number(drops, 0), usual=weight(usual), low=weight(low), high=weight(high)),
    )  # fmt: skip


ColourBasis = Literal["tsp_per_500_g", "percent_of_oils"]
"""Level teaspoons for 500 g of oils, or percent of the oils of its portion."""


class ColourLine(Model):
    """A colorant in a portion; the rate is that of the portion."""

    colorant: EntryId
    by: ColourBasis = "tsp_per_500_g"
    value: FiniteNumber | None
    disperse_in: Literal["oil", "water", "glycerin", "lye"] | None = None
    """Null takes the usual one."""


class PortionPlan(Model):
    """A part of the batter with its own colour."""

    name: Annotated[str, Field(min_length=1, max_length=60)]
    share_percent: FiniteNumber | None
    colours: tuple[ColourLine, ...] = Field(default=(), max_length=6)


class Choices(Model):
    """How it is made, where schools differ; the defaults are the usual choice."""

    school: Literal["within_10_f", "within_5_f", "within_10_c", "room_temperature"] = "within_10_f"
    """How near oils and lye are brought to one another."""
    room_c: FiniteNumber | None = 20.0
    milk: Literal["frozen", "chilled"] = "frozen"
    """A liquid that dissolves the lye is frozen in cubes first, or only chilled."""
    ice_bath: Truth = False
    lye: Literal["as_formula", "dry", "master"] = "as_formula"
    """Weighed dry, or taken from lye dissolved ahead."""
    lye_concentration_percent: FiniteNumber | None = None
    """More or less water than the formula has, said as its lye concentration, %; null keeps the formula's."""
    scent_at: Literal["trace", "oils"] = "trace"
    extras_at: Literal["trace", "lye"] = "trace"
    """Fragile extras such as silk."""
    weigh_into: Literal["one_bowl", "separate"] = "one_bowl"
    top: Literal["level", "textured"] = "level"
    alcohol_spray: Truth = True
    cover: Literal["insulate", "cover", "heat_pad", "oven", "fridge"] = "cover"
    mixing: Mixing = "stick_blender"
    scale_capacity_g: FiniteNumber | None = 5000.0
    """The most that the scale shows, container included, g; null when every weighing stays far below it."""


class BatchPlan(Model):
    """A batch to be made."""

    formula: Formula
    formula_id: Annotated[str, Field(max_length=40)] = ""
    """The kept formula it came from, if any."""
    version: Annotated[int, Field(ge=0, le=100_000)] = 0
    """Its version; 0 when it was the draft."""
    size: SizeBy = SizeBy()
    moulds: tuple[MouldUse, ...] = Field(default=(), max_length=12)
    choices: Choices = Choices()
    scents: tuple[ScentLine, ...] = Field(default=(), max_length=12)
    portions: tuple[PortionPlan, ...] = Field(default=(), max_length=MOST_PORTIONS)
    """In the order they are poured; none is one colour throughout."""
    jar_g: FiniteNumber | None = None
    """What a jar of paste takes, g; null while no jar is chosen, and for bars."""
    make_on: date | None = None
    """The day it is to be made; null while that is open."""
    brought: tuple[EntryId, ...] = Field(default=(), max_length=40)
    """What the customer brings, by the ids of the shelf, as `olive-refined` or `liquid:goat-milk`: it is looked at first, and
    nothing of it is taken from the shelf. One that the batch has not says nothing."""
    notes: Annotated[str, Field(max_length=5000)] = ""


def as_chosen(plan: BatchPlan) -> Formula:
    """The formula with the lye and water chosen for this batch.

    Lye dissolved ahead of no stated concentration is 50 %, the usual one.
    """
    formula, choices = plan.formula, plan.choices
    lye = formula.lye
    if choices.lye == "dry":
        lye = lye.model_copy(update={"master_percent": None})
    elif choices.lye == "master":
        lye = lye.model_copy(update={"master_percent": lye.master_percent or USUAL_MASTER_PERCENT})
    water = formula.water
    if choices.lye_concentration_percent is not None:
        water = Water(by="lye_concentration_percent", value=choices.lye_concentration_percent)
    return formula.model_copy(update={"lye": lye, "water": water})


def colour_percent(line: ColourLine) -> float:
    """Rate of a colour, % of the oils of its portion.

    One teaspoon of mica (2 g) for 500 g of oils:

    >>> colour_percent(ColourLine(colorant="mica-blue", by="tsp_per_500_g", value=1.0))
    0.4
    """
    value = given(line.value)
    if line.by == "percent_of_oils":
        return value
    return 100 * value * colorants()[line.colorant].g_per_tsp / TSP_BASE_G


def colour_in_basis(line: ColourLine, to: ColourBasis) -> ColourLine:
    """The same rate of a colour given as `to`, to a ten-thousandth; an empty rate stays empty."""
    if line.value is None or line.by == to:
        return line.model_copy(update={"by": to})
    rate = colour_percent(line)
    value = rate if to == "percent_of_oils" else rate * TSP_BASE_G / (100 * colorants()[line.colorant].g_per_tsp)
    return line.model_copy(update={"by": to, "value": round(value, 4)})


def _size(plan: BatchPlan) -> Iterator[Diagnostic]:
    size = plan.size
    if size.by == "moulds":
        if not plan.moulds:
            yield stopping("no_mould_to_size", "moulds", is_open=True)
    elif size.by == "bars":
        yield from entry_problems(size.value, "size.value", "bars", 1, 2000, template("units.bars"))
        yield from entry_problems(size.cured_bar_g, "size.cured_bar_g", "cured_bar", 5, 2000, "g")
    elif size.by == "limiting":
        present = {line.oil for line in plan.formula.blend.lines}
        if not any(oil in present for oil in size.available_g):
            yield stopping("nothing_limits", "size.available_g", is_open=True)
        for oil, left in size.available_g.items():
            if oil in present:
                yield from entry_problems(left, f"size.available_g.{oil}", "what_is_left", 1, 200_000, "g")
    else:
        name = "oils_weight" if size.by == "oils_g" else "batter_weight"
        yield from entry_problems(size.value, "size.value", name, 1, 200_000, "g")


def _moulds(plan: BatchPlan) -> Iterator[Diagnostic]:
    for i, use in enumerate(plan.moulds):
        at = f"moulds[{i}]"
        if use.headroom_mm is None:
            yield from entry_problems(None, f"{at}.headroom_mm", "headroom", 0, 200, "mm")
        for problem in mould_problems(use.mould, use.headroom_mm):
            yield problem.at(f"{at}.{problem.path}" if problem.path == "headroom_mm" else f"{at}.mould.{problem.path}")
        if use.cut is not None:
            if use.cut.cutter is not None:
                yield from cutter_problems(use.cut.cutter, f"{at}.cut.cutter")
            yield from entry_problems(use.cut.bar_mm, f"{at}.cut.bar_mm", "bar", 5, 500, "mm")
            yield from entry_problems(use.cut.kerf_mm, f"{at}.cut.kerf_mm", "kerf", 0, 10, "mm")
            yield from entry_problems(use.cut.trim_mm, f"{at}.cut.trim_mm", "trim", 0, 200, "mm")
            if use.mould.shape.kind == "slab":
                yield from entry_problems(use.cut.bar_width_mm, f"{at}.cut.bar_width_mm", "bar_width", 5, 500, "mm")


def _scents(plan: BatchPlan) -> Iterator[Diagnostic]:
    for i, line in enumerate(plan.scents):
        at = f"scents[{i}]"
        known = scents().get(line.scent)
        if known is None:
            yield stopping("unknown_scent", f"{at}.scent", scent=line.scent)
            continue
        yield from entry_problems(
            line.percent_of_oils, f"{at}.percent_of_oils", known.name, 0, 10, template("units.of_oils")
        )
        if line.limit_percent is not None:
            yield from entry_problems(line.limit_percent, f"{at}.limit_percent", "supplier_limit", 0.001, 100, "%")


def _portions(plan: BatchPlan) -> Iterator[Diagnostic]:
    for i, portion in enumerate(plan.portions):
        at = f"portions[{i}]"
        name = template("entries.portion_share").format(name=portion.name)
        yield from entry_problems(portion.share_percent, f"{at}.share_percent", name, 0.5, 100, "%")
        for j, line in enumerate(portion.colours):
            yield from _colour(line, f"{at}.colours[{j}]")
    shares = [portion.share_percent for portion in plan.portions]
    if plan.portions and all(share is not None for share in shares):
        total = sum(map(given, shares))
        if abs(total - 100) > SHARE_TOLERANCE_PERCENT:
            code = "portions_over_100" if total > 100 else "portions_not_100"
            yield stopping(code, "portions", sum=percent(round(total, 4)), gap=number(round(abs(total - 100), 4)))


def _colour(line: ColourLine, path: str) -> Iterator[Diagnostic]:
    known = colorants().get(line.colorant)
    if known is None:
        yield stopping("unknown_colorant", f"{path}.colorant", colorant=line.colorant)
        return
    usual = colour_percent(ColourLine(colorant=line.colorant, by="tsp_per_500_g", value=known.usual_tsp_per_500_g))
    if line.value is None or line.value < 0:
        yield from entry_problems(line.value, f"{path}.value", known.name, 0, 100, "")
    elif colour_percent(line) >= MANY_TIMES_USUAL * usual:
        yield stopping(
            "many_times_usual", f"{path}.value", name=known.name, rate=percent(colour_percent(line), 2),
            times=number(colour_percent(line) / usual, 0), spoons=number(known.usual_tsp_per_500_g), usual=percent(usual, 2),
        )  # fmt: skip
    if line.disperse_in is not None and line.disperse_in not in known.disperse_in:
        yield diagnostic(
            "wrong_carrier", "warning", f"{path}.disperse_in", name=known.name, carrier=line.disperse_in,
            carriers=listed_with_or(known.disperse_in),
        )  # fmt: skip


def plan_problems(plan: BatchPlan) -> tuple[Diagnostic, ...]:
    """Everything that stands in the way of a batch, beside its formula; each problem at its entry."""
    found = [*_size(plan), *_moulds(plan), *_scents(plan), *_portions(plan)]
    room_c, capacity_g = plan.choices.room_c, plan.choices.scale_capacity_g
    found += entry_problems(room_c, "choices.room_c", "room", -5, 45, "°C")
    if plan.jar_g is not None:
        found += entry_problems(plan.jar_g, "jar_g", "jar", 10, 50_000, "g")
    if capacity_g is not None:
        found += entry_problems(capacity_g, "choices.scale_capacity_g", "scale_capacity", 100, 300_000, "g")
    if room_c is not None and 50 <= room_c <= 110:
        found.append(stopping("fahrenheit", "choices.room_c", celsius=number((room_c - 32) / 1.8, 0)))
    return tuple(found)
