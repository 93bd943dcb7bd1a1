"""What a batch cost, from the lots that it was really taken from."""

from collections.abc import Sequence

from sapolin.core.quantities.model import Model

__all__ = ["BatchCost", "CostLine", "TakenFromLot", "batch_cost"]


class TakenFromLot(Model):
    """What was taken from one lot."""

    material: str
    name: str
    lot: str
    """Its code."""
    grams: float
    per_kg: float | None
    """Landed price; null while it has none."""


class CostLine(Model):
    """What was taken of one material, and what that was paid."""

    material: str
    name: str
    grams: float
    lots: tuple[str, ...]
    """Their codes."""
    cost: float | None
    """In the maker's own currency; null while a lot of it has no price."""
    percent: float | None
    """Of all that has a price."""


class BatchCost(Model):
    """What a batch cost in materials, by the lots it was taken from."""

    lines: tuple[CostLine, ...]
    """The dearest first."""
    total: float
    """Of what has a price."""
    unpriced: tuple[str, ...]
    """Materials of which a lot has no price."""
    good_bars: int
    """Bars cut, less seconds and samples; 0 while none was cut."""
    per_bar: float | None
    """Of each good bar: those that are none are paid by the others; null while none was cut."""


def batch_cost(taken: Sequence[TakenFromLot], good_bars: int) -> BatchCost:
    """Add up what was `taken`.

    >>> lots = (("a", "A", "A1", 500, 8.0), ("a", "A", "A2", 100, 10.0), ("b", "B", "B1", 50, None))
    >>> names = ("material", "name", "lot", "grams", "per_kg")
    >>> cost = batch_cost([TakenFromLot(**dict(zip(names, one, strict=True))) for one in lots], 10)
    >>> cost.total, cost.per_bar, cost.unpriced, cost.lines[0].lots
    (5.0, 0.5, ('B',), ('A1', 'A2'))
    """
    grams: dict[str, float] = {}
    costs: dict[str, float] = {}
    names: dict[str, str] = {}
    lots: dict[str, dict[str, None]] = {}
    unpriced: dict[str, None] = {}
    for one in taken:
        names[one.material] = one.name
        lots.setdefault(one.material, {})[one.lot] = None
        grams[one.material] = grams.get(one.material, 0.0) + one.grams
        if one.per_kg is None:
            unpriced[one.material] = None
        else:
            costs[one.material] = costs.get(one.material, 0.0) + one.grams * one.per_kg / 1000
    total = sum(costs.values())
    lines = [
        CostLine(
            material=material, name=names[material], grams=weight_g, lots=tuple(lots[material]),
            cost=None if material in unpriced else costs.get(material),
            percent=None if material in unpriced or total == 0 else 100 * costs.get(material, 0.0) / total,
        )
        for material, weight_g in grams.items()
    ]  # fmt: skip
    return BatchCost(
        lines=tuple(sorted(lines, key=lambda one: -(one.cost or 0.0))), total=total,
        unpriced=tuple(names[material] for material in unpriced), good_bars=good_bars,
        per_bar=total / good_bars if good_bars > 0 else None,
    )  # fmt: skip
