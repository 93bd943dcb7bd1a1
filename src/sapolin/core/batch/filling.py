"""The batter by volume, and how it stands in the moulds. Volumes in mL, weights in g; estimates."""

from collections.abc import Iterator, Sequence
from math import ceil

from sapolin.core.batch.additions import Additions
from sapolin.core.batch.cutting import CutPlan, Weigher, cut_plans
from sapolin.core.batch.heat import solution_density_g_per_ml
from sapolin.core.batch.moulds import Cavities, HalfSpheres, capacity_ml, height_mm
from sapolin.core.batch.plan import BatchPlan
from sapolin.core.formula.composition import Composition
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.model import Model
from sapolin.core.quantities.text import Number, Text, number, text

__all__ = ["BatchSize", "BatterVolume", "MouldFill", "batter_volume", "mould_fills", "size_of"]

LACTATE_WATER = 0.4
"""Sodium lactate is a solution of 60 %."""
ROOM_C = 20.0
"""Densities are listed at it."""
MOST_IN_A_CAVITY_ML = 250.0
"""What is more than that goes into a mould, not into a spare cavity."""
NOTHING_ML = 0.5
"""Less than this over or short is none."""


class BatterVolume(Model):
    """The batter by volume, calculated from what it is made of; an estimate."""

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
    """A cured bar weighs this fraction of what was poured."""


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
    words: Text


class MouldFill(Model):
    """How the batter stands in one mould."""

    name: str
    capacity_ml: float
    batter_ml: float
    batter_g: float
    height_mm: float | None
    cuts: tuple[CutPlan, ...]
    """The plan first, then alternatives; empty when nothing is said of cutting."""


def batter_volume(composition: Composition, additions: Additions, warmth_c: float | None = None) -> BatterVolume:
    """The volume of a batter at the warmth it fills its moulds with (null for the usual one), °C, from the densities of what is
    in it; oils are melted and expanded.
    """
    warmer = (coefficient("batter.warmth_c") if warmth_c is None else warmth_c) - ROOM_C
    oils_ml = sum(component.weight_g / component.oil.density_g_per_ml for component in composition.oils)
    oils_ml *= 1 + coefficient("batter.oil_expansion") * warmer
    water_g = composition.plain_water_g + composition.master_water_g
    solution_g = composition.lye_g + water_g
    naoh_g, koh_g = composition.naoh.weight_g, composition.koh.weight_g
    density = solution_density_g_per_ml(naoh_g, koh_g, water_g) if water_g > 0 else 1.3
    density /= 1 + coefficient("batter.solution_expansion") * warmer
    liquid_density = coefficient("batter.liquid_density")
    other_ml = (
        additions.added_ml
        + sum(item.weight_g / liquid_density for item in composition.liquids)
        + sum(item.weight_g / item.additive.density_g_per_ml for item in composition.additives)
    )
    total_ml = oils_ml + solution_g / density + other_ml
    batter_g = composition.total_g + additions.added_g
    lactate_g = sum(item.weight_g for item in composition.additives if item.additive.role == "lactate")
    solids_g = batter_g - composition.water_g - LACTATE_WATER * lactate_g
    # Salt and sugar hold none of the water that a cured bar still has.
    dry_g = sum(item.weight_g for item in composition.additives if item.additive.role in ("salt", "sugar"))
    cured_g = dry_g + (solids_g - dry_g) / (1 - coefficient("cure.residual_water") / 100)
    spread = coefficient("batter.volume_spread")
    return BatterVolume(
        oils_ml=oils_ml,
        solution_ml=solution_g / density,
        other_ml=other_ml,
        total_ml=total_ml,
        low_ml=total_ml * (1 - spread),
        high_ml=total_ml * (1 + spread),
        density_g_per_ml=batter_g / total_ml,
        cured_fraction=min(1.0, cured_g / batter_g),
    )


def mould_fills(plan: BatchPlan, volume: BatterVolume, *, into_headroom: bool = False) -> Iterator[MouldFill]:
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


def size_of(
    plan: BatchPlan, oils_g: float, batter_g: float, volume: BatterVolume, fills: Sequence[MouldFill], limiting: str
) -> BatchSize:
    """How a batch of so much oil and batter, g, fits into its moulds."""
    room = max(sum(fill.capacity_ml for fill in fills), sum(fill.batter_ml for fill in fills))
    over = volume.total_ml - room if fills else 0.0
    return BatchSize(
        oils_g=oils_g,
        batter_g=batter_g,
        capacity_ml=room,
        over_ml=over if over > NOTHING_ML else 0.0,
        short_ml=-over if over < -NOTHING_ML else 0.0,
        limiting=limiting,
        words=_words(plan, volume, fills, over),
    )


def _words(plan: BatchPlan, volume: BatterVolume, fills: Sequence[MouldFill], over: float) -> Text:
    """How it fits, with `over` mL that find no place; below 0 so much is missing to fill them."""
    if not fills:
        return text("size.no_mould", volume=_ml(volume.total_ml))
    if over > NOTHING_ML:
        return (*text("size.over", over=_ml(over)), *_place_for(plan, over))
    if over < -NOTHING_ML:
        short = -over
        least = min((cut.bar_ml for fill in fills for cut in fill.cuts[:1] if cut.bar_ml > 0), default=0.0)
        if least:
            return text("size.short_of_bars", short=_ml(short), bars=number(short / least, 1))
        return text("size.short", short=_ml(short))
    spare = volume.high_ml - volume.total_ml
    return (*text("size.fits", spare=_ml(spare)), *_place_for(plan, spare))


def _place_for(plan: BatchPlan, over_ml: float) -> Text:
    """Where batter that is over could go."""
    for use in plan.moulds:
        if isinstance(use.mould.shape, Cavities | HalfSpheres):
            cavity_ml = capacity_ml(use.mould) / use.mould.shape.count
            cavities = ceil(over_ml / cavity_ml)
            code = "size.one_more_cavity" if cavities == 1 else "size.more_cavities"
            return text(code, cavities=number(cavities, 0), name=use.mould.name)
    volume = _ml(10 * ceil(over_ml / 10))
    return text("size.spare_cavity" if over_ml <= MOST_IN_A_CAVITY_ML else "size.another_mould", volume=volume)


def _ml(volume: float) -> Number:
    return number(volume, 0, "mL")
