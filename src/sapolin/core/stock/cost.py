"""What a batch costs: materials by the lots they were taken from, packaging, energy and time; planned beside actual.

Bars that are no good are paid by those that are. A price for a margin is cost / (1 − margin): it is a part of the price.
"""

from collections.abc import Mapping, Sequence
from typing import Annotated, Literal

from pydantic import Field

from sapolin.core.quantities.model import FiniteNumber, Model, Truth
from sapolin.core.stock.ledger import MaterialKind

__all__ = ["BatchCost", "CostLine", "CostRates", "CostSide", "PackPerBar", "PartOfCost", "TakenFromLot", "batch_cost",
           "price_for"]  # fmt: skip

DAY_MINUTES = (5, 8 * 60)
"""A make day on record for longer was left open, one for less was entered afterwards: the usual minutes count instead."""
Part = Literal["oil", "lye", "liquid", "additive", "scent", "colorant", "packaging", "energy", "time"]
PARTS: tuple[Part, ...] = ("oil", "lye", "liquid", "additive", "scent", "colorant", "packaging", "energy", "time")


class PackPerBar(Model):
    """What wraps a bar."""

    material: Annotated[str, Field(pattern=r"^packaging:.{1,60}$")]
    pieces: Annotated[FiniteNumber, Field(gt=0, le=100)] = 1.0


class CostRates(Model):
    """What a workshop counts beside materials, in its own currency."""

    currency: Annotated[str, Field(max_length=6)] = ""
    per_hour: Annotated[FiniteNumber, Field(ge=0, le=10_000)] = 0.0
    minutes: Annotated[FiniteNumber, Field(ge=0, le=10_000)] = 90.0
    """Usual make day, where none is on record."""
    minutes_after: Annotated[FiniteNumber, Field(ge=0, le=10_000)] = 0.0
    """Cutting, turning, wrapping: usual minutes for a batch."""
    energy: Annotated[FiniteNumber, Field(ge=0, le=10_000)] = 0.0
    """For one batch."""
    margin_percent: Annotated[FiniteNumber, Field(ge=0, lt=100)] = 50.0
    """Of the price."""
    packs: Annotated[tuple[PackPerBar, ...], Field(max_length=10)] = ()


class TakenFromLot(Model):
    """What was taken from one lot."""

    material: str
    name: str
    kind: MaterialKind
    lot: str
    """Its code."""
    grams: float
    """Of packaging, pieces."""
    per_kg: float | None
    """Landed price; null while it has none."""


class CostLine(Model):
    """What was taken of one material, and what that was paid."""

    material: str
    name: str
    kind: MaterialKind
    grams: float
    lots: tuple[str, ...]
    """Their codes."""
    cost: float | None
    """In the maker's own currency; null while a lot of it has no price."""
    percent: float | None
    """Of all that the batch cost."""


class PartOfCost(Model):
    """A part of what a batch costs."""

    part: Part
    cost: float
    percent: float
    """Of all."""


class CostSide(Model):
    """A batch as planned, or as it was made."""

    materials: float
    packaging: float
    energy: float
    time: float
    minutes: float
    total: float
    bars: int
    """Good ones: as planned all of them; actual less seconds and samples. 0 while none was cut."""
    per_bar: float | None
    per_100_g: float | None
    """Of a cured bar; null while nothing is known of its weight."""


class BatchCost(Model):
    """What a batch cost."""

    lines: tuple[CostLine, ...]
    """The dearest first."""
    unpriced: tuple[str, ...]
    """Materials of which a lot has no price."""
    materials_known: Truth
    """Something that went into it is on record with its price. Without it nothing is said of what it cost."""
    planned_unpriced: tuple[str, ...]
    """Materials of the plan that no price is known of: it costs more than is said."""
    parts: tuple[PartOfCost, ...]
    """Of what it really cost, by kind."""
    planned: CostSide
    actual: CostSide
    price: float | None
    """Of a bar, for the margin that is wanted."""
    rates: CostRates
    minutes_by_record: Truth
    """The make day is on record; otherwise the usual minutes count."""
    packaging_booked: float
    """Pieces that were booked for it."""
    packaging_open: float
    """Pieces that its good bars still need."""


def price_for(cost: float, margin_percent: float) -> float:
    """The price of which `margin_percent` stays when the cost is paid.

    >>> price_for(1.5, 50), round(price_for(2.0, 60), 2)
    (3.0, 5.0)
    """
    return cost / (1 - margin_percent / 100)


def batch_cost(
    taken: Sequence[TakenFromLot],
    planned_g: Mapping[str, float],
    prices: Mapping[str, float],
    *,
    good_bars: int,
    planned_bars: int,
    bar_g: float | None,
    minutes: float | None,
    rates: CostRates,
) -> BatchCost:
    """Add up what was `taken` and what goes with it.

    `planned_g` is what the plan asks for, by material, without packaging; `prices` are per kg (per 1000 pieces of packaging),
    for what the plan needs and nothing was taken of. `minutes` is the make day on record, null without one.
    """
    lines, unpriced = _lines(taken)
    of_material = {
        line.material: 1000 * line.cost / line.grams for line in lines if line.cost is not None and line.grams > 0
    }
    per_kg = dict(prices) | of_material
    by_record = minutes is not None and DAY_MINUTES[0] <= minutes <= DAY_MINUTES[1]
    spent = (minutes or 0.0) if by_record else rates.minutes
    wanted = sum(pack.pieces for pack in rates.packs) * good_bars
    booked = sum(line.grams for line in lines if line.kind == "packaging")

    def packs(bars: int) -> float:
        return sum(bars * pack.pieces * per_kg.get(pack.material, 0.0) / 1000 for pack in rates.packs)

    def side(materials: float, packaging: float, day: float, bars: int) -> CostSide:
        time = (day + rates.minutes_after) / 60 * rates.per_hour
        total = materials + packaging + rates.energy + time
        per_bar = total / bars if bars > 0 else None
        return CostSide(
            materials=materials, packaging=packaging, energy=rates.energy, time=time, minutes=day + rates.minutes_after,
            total=total, bars=bars, per_bar=per_bar,
            per_100_g=None if per_bar is None or not bar_g else 100 * per_bar / bar_g,
        )  # fmt: skip

    materials = sum(line.cost or 0.0 for line in lines if line.kind != "packaging")
    packaging = sum(line.cost or 0.0 for line in lines if line.kind == "packaging") if booked > 0 else packs(good_bars)
    known = any(line.cost is not None for line in lines if line.kind != "packaging")
    actual = side(materials, packaging, spent, good_bars)
    if not known:
        actual = actual.model_copy(update={"per_bar": None, "per_100_g": None})
    planned = side(
        sum(grams * per_kg.get(material, 0.0) / 1000 for material, grams in planned_g.items()), packs(planned_bars),
        rates.minutes, planned_bars,
    )  # fmt: skip
    of_all = [line.model_copy(update={"percent": _percent(line.cost, actual.total)}) for line in lines]
    return BatchCost(
        lines=tuple(sorted(of_all, key=lambda one: -(one.cost or 0.0))), unpriced=unpriced, materials_known=known,
        planned_unpriced=tuple(material for material in planned_g if material not in per_kg),
        parts=_parts(lines, actual) if known else (),
        planned=planned, actual=actual,
        price=None if actual.per_bar is None else price_for(actual.per_bar, rates.margin_percent), rates=rates,
        minutes_by_record=by_record, packaging_booked=booked, packaging_open=max(wanted - booked, 0.0),
    )  # fmt: skip


def _percent(cost: float | None, total: float) -> float | None:
    return None if cost is None or total <= 0 else 100 * cost / total


def _lines(taken: Sequence[TakenFromLot]) -> tuple[list[CostLine], tuple[str, ...]]:
    """What was taken, material by material, and the names of those without a price."""
    by_material: dict[str, list[TakenFromLot]] = {}
    for one in taken:
        by_material.setdefault(one.material, []).append(one)
    lines, unpriced = [], []
    for material, uses in by_material.items():
        priced = [use.grams * use.per_kg / 1000 for use in uses if use.per_kg is not None]
        is_priced = len(priced) == len(uses)
        if not is_priced:
            unpriced.append(uses[0].name)
        lines.append(
            CostLine(
                material=material, name=uses[0].name, kind=uses[0].kind, grams=sum(use.grams for use in uses),
                lots=tuple(dict.fromkeys(use.lot for use in uses)), cost=sum(priced) if is_priced else None, percent=None,
            )
        )  # fmt: skip
    return lines, tuple(unpriced)


def _parts(lines: Sequence[CostLine], actual: CostSide) -> tuple[PartOfCost, ...]:
    costs: dict[Part, float] = {}
    for line in lines:
        if line.kind != "packaging":
            costs[line.kind] = costs.get(line.kind, 0.0) + (line.cost or 0.0)
    costs |= {"packaging": actual.packaging, "energy": actual.energy, "time": actual.time}
    return tuple(
        PartOfCost(part=part, cost=costs[part], percent=100 * costs[part] / actual.total)
        for part in PARTS
        if costs.get(part, 0.0) > 0
    )
