"""What a batch takes beside its formula: scents, colours by portion, and the cups in which powders are wetted beforehand."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from math import floor

from sapolin.core.batch.plan import BatchPlan, ColourLine, colour_percent
from sapolin.core.formula.composition import Composition
from sapolin.core.materials.ingredients import colorants, scents
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.diagnostics import Diagnostic, stopping
from sapolin.core.quantities.model import Model, given
from sapolin.core.quantities.text import percent, template, weight, within_sentence

__all__ = [
    "Additions",
    "ColourWeights",
    "Cup",
    "PortionWeights",
    "ScentWeight",
    "additions_of",
    "cups_of",
    "limits_kept",
]

DISPERSE_TIMES = 2.0
"""A colour is dispersed in this many times its weight (craft rule of thumb)."""
GLYCERIN_G_PER_ML = 1.26


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
    """A portion of the batter."""

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


@dataclass(frozen=True)
class Additions:
    """Scent and colour of a batch."""

    scents: tuple[ScentWeight, ...]
    portions: tuple[PortionWeights, ...]

    @property
    def added_g(self) -> float:
        """What they add to the batter; oil and water to disperse colours in are the batch's own."""
        return sum(scent.weight_g for scent in self.scents) + sum(
            colour.weight_g + (colour.disperse_g if colour.disperse_in == "glycerin" else 0.0)
            for portion in self.portions
            for colour in portion.colours
        )

    @property
    def added_ml(self) -> float:
        """The same by volume, mL."""
        return sum(scent.ml for scent in self.scents) + sum(
            colour.weight_g / colorants()[colour.colorant].density_g_per_ml
            + (colour.disperse_g / GLYCERIN_G_PER_ML if colour.disperse_in == "glycerin" else 0.0)
            for portion in self.portions
            for colour in portion.colours
        )

    def with_weights(self, weights_g: Mapping[str, float]) -> "Additions":
        """The same with what was really weighed, g by item (`scent:0`, `colour:0:0`)."""
        scents_now = tuple(
            scent.model_copy(update={
                "weight_g": weights_g[f"scent:{i}"],
                "ml": weights_g[f"scent:{i}"] / scents()[scent.scent].density_g_per_ml,
            })
            for i, scent in enumerate(self.scents)
        )  # fmt: skip
        portions_now = tuple(
            portion.model_copy(update={
                "colours": tuple(
                    colour.model_copy(update={"weight_g": weights_g[f"colour:{i}:{j}"]})
                    for j, colour in enumerate(portion.colours)
                )
            })
            for i, portion in enumerate(self.portions)
        )  # fmt: skip
        return Additions(scents_now, portions_now)

    def shared_out(self, batter_g: float, batter_ml: float) -> tuple[PortionWeights, ...]:
        """The portions with their part of the batter."""
        return tuple(
            portion.model_copy(update={
                "batter_g": batter_g * portion.share_percent / 100, "batter_ml": batter_ml * portion.share_percent / 100,
            })
            for portion in self.portions
        )  # fmt: skip


def additions_of(plan: BatchPlan, oils_g: float) -> Additions:
    """The scent and colour that a plan asks for with so much oil, g."""
    return Additions(tuple(_scents(plan, oils_g)), tuple(_portions(plan, oils_g)))


def _scents(plan: BatchPlan, oils_g: float) -> Iterator[ScentWeight]:
    for line in plan.scents:
        known = scents()[line.scent]
        grams = oils_g * given(line.percent_of_oils) / 100
        yield ScentWeight(
            scent=known.id, name=known.name, weight_g=grams, ml=grams / known.density_g_per_ml,
            percent_of_oils=given(line.percent_of_oils), percent_of_product=0.0, limit_percent=line.limit_percent,
        )  # fmt: skip


def _portions(plan: BatchPlan, oils_g: float) -> Iterator[PortionWeights]:
    for portion in plan.portions:
        share_percent = given(portion.share_percent)
        colours = tuple(_colour(colour, oils_g * share_percent / 100) for colour in portion.colours)
        strongest = max(colours, key=lambda colour: colour.weight_g, default=None)
        yield PortionWeights(
            name=portion.name, share_percent=share_percent, batter_g=0.0, batter_ml=0.0, colours=colours,
            hue_degrees=None if strongest is None else colorants()[strongest.colorant].hue_degrees,
        )  # fmt: skip


def _colour(line: ColourLine, oils_g: float) -> ColourWeights:
    known = colorants()[line.colorant]
    grams = oils_g * colour_percent(line) / 100
    carrier = line.disperse_in or known.disperse_in[0]
    return ColourWeights(
        colorant=known.id, name=known.name, weight_g=grams, tsp=grams / known.g_per_tsp, disperse_in=carrier,
        disperse_g=0.0 if carrier == "lye" else grams * DISPERSE_TIMES,
    )  # fmt: skip


def limits_kept(found: Sequence[ScentWeight], finished_g: float, oils_g: float) -> Iterator[Diagnostic]:
    """Scents beyond their supplier's limit, with the most that `oils_g` of oils may take; `finished_g` is cured."""
    solids = 1 - coefficient("cure.residual_water") / 100
    for i, scent in enumerate(found):
        if scent.limit_percent is None or scent.percent_of_product <= scent.limit_percent * (1 + 1e-9):
            continue
        # With less of it the finished soap is lighter too.
        part = scent.limit_percent / 100
        most_g = part * (finished_g - scent.weight_g / solids) / (1 - part / solids)
        yield stopping(
            "scent_over_limit", f"scents[{i}].percent_of_oils", name=scent.name, rate=percent(scent.percent_of_product, 2),
            limit=percent(scent.limit_percent), most=percent(floor(10_000 * most_g / oils_g) / 100),
        )  # fmt: skip


@dataclass(frozen=True)
class _Wetted:
    """Something to be wetted beforehand."""

    carrier: str
    name: str
    carrier_g: float
    path: str


def wetting_oil(composition: Composition) -> int:
    """The line of the oil that colours are wetted with: of those that go in at the start the heaviest, a liquid one first."""
    oils = composition.oils
    started = [i for i, component in enumerate(oils) if component.added == "start"]
    return max(started, key=lambda i: (not oils[i].oil.is_hard, oils[i].weight_g))


def _to_wet(portions: Sequence[PortionWeights], composition: Composition) -> Iterator[_Wetted]:
    for i, portion in enumerate(portions):
        for j, colour in enumerate(portion.colours):
            name = f"{colour.name} ({portion.name})"
            yield _Wetted(colour.disperse_in, name, colour.disperse_g, f"portions[{i}].colours[{j}]")
    for i, item in enumerate(composition.additives):
        if item.additive.wet_in:
            # A batch without plain water wets its powders with oil.
            carrier = item.additive.wet_in if composition.plain_water_g > 0 else "oil"
            grams = item.weight_g * item.additive.wet_times
            yield _Wetted(carrier, item.additive.name, grams, f"formula.additives[{i}].value")


def cups_of(
    portions: Sequence[PortionWeights], composition: Composition, decimals: int
) -> tuple[tuple[Cup, ...], Diagnostic | None]:
    """What is set aside to wet colours and powders, weighed to `decimals` as what it is taken from; or why it cannot be."""
    wetting = wetting_oil(composition)
    oil = composition.oils[wetting]
    wetted = [one for one in _to_wet(portions, composition) if one.carrier != "lye" and one.carrier_g > 0]
    cups = tuple(
        Cup(
            item=f"cup:{i}",
            name=template("cups.name").format(
                carrier=oil.oil.name if one.carrier == "oil" else template(f"cups.{one.carrier}"),
                wets=within_sentence(one.name),
            ),
            source=f"oil:{wetting}" if one.carrier == "oil" else one.carrier,
            weight_g=max(round(one.carrier_g, decimals), 10.0**-decimals),
            wets=one.name.partition(" (")[0],
        )
        for i, one in enumerate(wetted)
    )
    at = {one.carrier: one.path for one in wetted}
    water_g = sum(cup.weight_g for cup in cups if cup.source == "water")
    left_g = composition.dissolving_water_g - water_g
    if water_g > 0 and (composition.plain_water_g < water_g or left_g < composition.lye_g * (1 - 1e-9)):
        return (), stopping(
            "cups_take_the_water", at["water"], taken=weight(water_g), water=weight(max(composition.plain_water_g, 0.0)),
            lye=weight(composition.lye_g),
        )  # fmt: skip
    oil_g = sum(cup.weight_g for cup in cups if cup.source.startswith("oil:"))
    if oil_g > oil.weight_g:
        return (), stopping(
            "cups_take_the_oil", at["oil"], taken=weight(oil_g), oil=oil.oil.name, present=weight(oil.weight_g)
        )  # fmt: skip
    return cups, None
