"""Cutting plans, drawn to scale: bars, trims and what is left over. Lengths in mm, weights in g."""

from collections.abc import Iterator, Sequence
from itertools import cycle
from math import floor, pi
from typing import Literal

from sapolin.core.batch.moulds import Cavities, Cylinder, HalfSpheres, Measured, Slab, capacity_ml
from sapolin.core.batch.plan import Cut, MouldUse
from sapolin.core.quantities.model import Model, given
from sapolin.core.quantities.text import Text, number, text

__all__ = ["CutPlan", "Piece", "cut_plan", "cut_plans"]

_DUST = 1e-9


class Piece(Model):
    """A rectangle of the drawing, seen from above; a cylinder is seen from its side."""

    kind: Literal["bar", "trim"]
    x_mm: float
    y_mm: float
    width_mm: float
    height_mm: float


class CutPlan(Model):
    """One way to cut one mould."""

    label: Text
    length_mm: float
    """Of the drawing."""
    width_mm: float
    pieces: tuple[Piece, ...]
    bars: int
    bar_thickness_mm: float
    bar_width_mm: float
    bar_height_mm: float
    bar_ml: float
    wet_g: float
    """A bar as cut; an estimate."""
    cured_g: float
    """A bar when cured; an estimate."""
    left_over_g: float
    """Trims and what does not make a bar, wet."""


class Weigher:
    """Turns volumes of batter into weights."""

    def __init__(self, density_g_per_ml: float, cured_fraction: float) -> None:
        self.density = density_g_per_ml
        self.cured_fraction = cured_fraction


def cut_plans(use: MouldUse, batter_ml: float, height_mm: float | None, weigher: Weigher) -> tuple[CutPlan, ...]:
    """The plan of `use` first, then alternatives worth comparing; one plan for what needs no cutting.

    `batter_ml` is what the mould holds, `height_mm` how high it stands in it.
    """
    shape = use.mould.shape
    if batter_ml <= 0:
        return ()
    if isinstance(shape, Cavities | HalfSpheres):
        return (_single(shape.count, batter_ml, capacity_ml(use.mould) / shape.count, weigher),)
    if isinstance(shape, Measured) or use.cut is None or (use.cut.bar_mm is None and use.cut.cutter is None):
        return ()
    plans = [cut_plan(use, use.cut, batter_ml, height_mm, weigher)]
    if use.cut.cutter is not None:
        return tuple(plans)
    for cut in _alternatives(use, plans[0]):
        other = cut_plan(use, cut, batter_ml, height_mm, weigher)
        if other.bars > 0 and all(
            other.bars != plan.bars or other.bar_thickness_mm != plan.bar_thickness_mm for plan in plans
        ):
            plans.append(other)
    return tuple(plans)


def _single(count: int, batter_ml: float, cavity_ml: float, weigher: Weigher) -> CutPlan:
    full = min(count, floor(batter_ml / cavity_ml + 1e-6))
    wet = cavity_ml * weigher.density
    return CutPlan(
        label=text("cutting.cavities", full=number(full), count=number(count)), length_mm=0, width_mm=0, pieces=(), bars=full,
        bar_thickness_mm=0, bar_width_mm=0, bar_height_mm=0,
        bar_ml=cavity_ml, wet_g=wet, cured_g=wet * weigher.cured_fraction,
        left_over_g=max(batter_ml - full * cavity_ml, 0.0) * weigher.density,
    )  # fmt: skip


def _alternatives(use: MouldUse, first: CutPlan) -> Iterator[Cut]:
    """One bar fewer and one more; a slab the other way round."""
    cut, shape = use.cut, use.mould.shape
    assert cut is not None
    assert cut.bar_mm is not None
    if isinstance(shape, Slab) and shape.kind == "slab":
        if cut.bar_width_mm and cut.bar_width_mm != cut.bar_mm:
            yield cut.model_copy(update={"bar_mm": cut.bar_width_mm, "bar_width_mm": cut.bar_mm})
        return
    assert isinstance(shape, Slab | Cylinder)
    # What there is to cut: of a cylinder what is filled; each trim costs a kerf too.
    trim, kerf = given(cut.trim_mm), given(cut.kerf_mm)
    usable = first.length_mm - 2 * (trim + (kerf if trim > 0 else 0.0))
    slices = first.bars // (2 if cut.halved else 1)
    for count in (slices - 1, slices + 1):
        if count >= 1:
            thickness = (usable - (count - 1) * kerf) / count
            if thickness >= 8:
                yield cut.model_copy(update={"bar_mm": floor(thickness * 10) / 10})


def cut_plan(use: MouldUse, cut: Cut, batter_ml: float, height_mm: float | None, weigher: Weigher) -> CutPlan:
    """Cut a loaf or cylinder across its length, a slab in a grid, as `cut` says."""
    shape = use.mould.shape
    assert isinstance(shape, Slab | Cylinder)
    kerf = given(cut.kerf_mm) if cut.cutter is None else cut.cutter.kerf_mm
    trim = given(cut.trim_mm)
    gaps = (given(cut.bar_mm),) if cut.cutter is None else cut.cutter.gaps_mm
    if isinstance(shape, Cylinder):
        # A cylinder stands while it is filled: what is not filled is missing from its length.
        length, width = given(height_mm), given(shape.diameter_mm)
        height = width
        section_mm2 = pi / 4 * width * width
    else:
        length, width, height = given(shape.length_mm), given(shape.width_mm), given(height_mm)
        section_mm2 = width * height
    across = _row(length, gaps, kerf, trim)
    slices = [width for _, width, kind in across if kind == "bar"]
    # A cutter with unlike gaps makes unlike bars: weights are told of their mean.
    thickness = sum(slices) / len(slices) if slices else gaps[0]
    if isinstance(shape, Slab) and shape.kind == "slab":
        side = cut.bar_width_mm or width
        down = _row(width, (side,), kerf, trim)
        bar_width = side
        bar_ml = thickness * side * height / 1000
    else:
        bar_width = (width - kerf) / 2 if cut.halved else width
        down = _row(width, (bar_width,), kerf, 0.0)
        sawn_mm2 = kerf * height if cut.halved else 0.0
        bar_ml = thickness * (section_mm2 - sawn_mm2) / len(down) / 1000
    pieces = tuple(
        Piece(kind="bar" if over == under == "bar" else "trim", x_mm=x, y_mm=y, width_mm=w, height_mm=h)
        for x, w, over in across
        for y, h, under in down
    )
    bars = sum(piece.kind == "bar" for piece in pieces)
    # The walls of a calibrated mould are not quite where its measures say: bars share what is really in it.
    drawn_ml = length * section_mm2 / 1000
    bar_ml *= batter_ml / drawn_ml if drawn_ml > 0 else 0.0
    wet = bar_ml * weigher.density
    is_grid = len(down) > 1 and not isinstance(shape, Cylinder)
    code = "half_rounds" if cut.halved and isinstance(shape, Cylinder) else "grid_bars" if is_grid else "bars"
    label = text(
        f"cutting.one_{code}" if bars == 1 else f"cutting.{code}", bars=number(bars),
        thickness=number(thickness, unit="" if is_grid else "mm"),
        width=number(bar_width, unit="mm"),
    )  # fmt: skip
    return CutPlan(
        label=label, length_mm=length, width_mm=width, pieces=pieces, bars=bars,
        bar_thickness_mm=thickness, bar_width_mm=bar_width, bar_height_mm=height,
        bar_ml=bar_ml,
        wet_g=wet, cured_g=wet * weigher.cured_fraction, left_over_g=(batter_ml - bars * bar_ml) * weigher.density,
    )  # fmt: skip


def _row(
    length: float, gaps: Sequence[float], kerf: float, trim: float
) -> list[tuple[float, float, Literal["bar", "trim"]]]:
    """Cut a length by gaps that come one after the other, again and again: where each piece starts, how long it is, and what it
    is; the rest is a trim at the end.
    """
    row: list[tuple[float, float, Literal["bar", "trim"]]] = []
    at = 0.0
    if trim > 0:
        row.append((0.0, min(trim, length), "trim"))
        at = trim + kerf
    end = length - trim - (kerf if trim > 0 else 0.0)
    for bar in cycle(gaps):
        if bar <= 0 or at + bar > end + _DUST:
            break
        row.append((at, bar, "bar"))
        at += bar + kerf
    if length - at > _DUST:
        row.append((at, length - at, "trim"))
    return row
