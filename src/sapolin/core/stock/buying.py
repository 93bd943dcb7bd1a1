"""The cheapest way to buy what is needed: whole packs, steps, freight and its thresholds, solved exactly.

The model: for each offer a whole number of steps of packs; for each supplier whether anything is bought there and whether its
freight is free. Every need is covered; goods and freight together cost as little as can be. HiGHS proves the optimum.
"""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from math import ceil

import numpy as np

from sapolin.core.quantities.model import Model, Truth
from sapolin.core.quantities.text import Text, number, text, weight

__all__ = ["BuyHint", "Offered", "Order", "OrderLine", "Purchase", "Supplier", "cheapest_purchase"]

SECONDS = 10.0
"""What is not proven by then is said to be within a gap."""
ENOUGH_G = 1e-6
LEAST_SAVING = 0.5
"""Smaller savings are not worth a word."""


class Supplier(Model):
    """Who sells."""

    name: str
    freight: float = 0.0
    """For one delivery, in the maker's own currency."""
    free_from: float | None = None
    """Goods worth so much come free of freight; null: never."""
    least_order: float = 0.0
    """The least worth of goods that is delivered at all."""


class Offered(Model):
    """A pack that can be bought."""

    supplier: str
    material: str
    name: str
    """As the list calls it."""
    pack_g: float
    """What one holds, g; of packaging, pieces."""
    price: float
    """Of one pack."""
    step: int = 1
    """Sold in multiples of so many packs."""

    @property
    def per_kg(self) -> float:
        """Price per kg of goods, freight not counted."""
        return 1000 * self.price / self.pack_g


class OrderLine(Model):
    """Packs to buy."""

    material: str
    name: str
    packs: int
    pack_g: float
    grams: float
    needed_g: float
    """Of the material, in all lines together."""
    cost: float
    landed_per_kg: float
    """With its share of the freight, by worth."""
    instead: Text
    """What the next best pack alone would cost more, goods only; empty when there is no other."""


class Order(Model):
    """What to buy from one supplier."""

    supplier: str
    lines: tuple[OrderLine, ...]
    goods: float
    freight: float
    to_free_freight: float | None
    """Goods worth so much more would come free of freight; null when they do, or never do."""


class BuyHint(Model):
    """What another choice would save."""

    material: str
    """Empty when it is about a whole order."""
    saves: float
    """In the maker's own currency; a year where a year's use is known."""
    words: Text


class Purchase(Model):
    """The cheapest purchase."""

    orders: tuple[Order, ...]
    goods: float
    freight: float
    total: float
    is_proven: Truth
    """No purchase of these offers is cheaper."""
    gap: float
    """Otherwise: it is at most so much dearer than the cheapest."""
    not_offered: tuple[str, ...]
    """Materials that nobody offers."""
    hints: tuple[BuyHint, ...]


def cheapest_purchase(
    needs: Mapping[str, float],
    offers: Sequence[Offered],
    suppliers: Sequence[Supplier],
    used_per_year_g: Mapping[str, float] | None = None,
    keeps_months: Mapping[str, float] | None = None,
) -> Purchase:
    """Cover `needs` (g by material) as cheaply as `offers` allow.

    `used_per_year_g` and `keeps_months` tell whether a larger pack would be used up in time, and what it saves in a year.

    >>> shop = Supplier(name="Mill", freight=6.0, free_from=30.0)
    >>> mill = {"supplier": "Mill", "material": "shea", "name": "Shea"}
    >>> packs = [Offered(**mill, pack_g=grams, price=price) for grams, price in ((500, 6.0), (1000, 10.0))]
    >>> bought = cheapest_purchase({"shea": 1400.0}, packs, [shop])
    >>> [(line.packs, line.pack_g) for line in bought.orders[0].lines], bought.total, bought.is_proven
    ([(1, 500.0), (1, 1000.0)], 22.0, True)
    """
    wanted = {material: grams for material, grams in needs.items() if grams > ENOUGH_G}
    known = {one.name: one for one in suppliers}
    usable = _worth_a_look([one for one in offers if one.material in wanted and one.supplier in known])
    offered = {one.material for one in usable}
    not_offered = tuple(material for material in wanted if material not in offered)
    reachable = {material: grams for material, grams in wanted.items() if material in offered}
    if not reachable:
        return Purchase(orders=(), goods=0.0, freight=0.0, total=0.0, is_proven=True, gap=0.0, not_offered=not_offered,
                        hints=())  # fmt: skip
    counts, proven, gap = _solved(reachable, usable, known)
    orders = _orders(counts, usable, known, reachable)
    goods, freight = sum(one.goods for one in orders), sum(one.freight for one in orders)
    bought = [(one, count * one.step) for one, count in zip(usable, counts, strict=True) if count > 0]
    hints = [
        *_larger_packs(bought, usable, used_per_year_g or {}, keeps_months or {}),
        *_free_freight(orders),
        *_one_supplier(reachable, usable, known, goods + freight, len(orders)),
    ]
    return Purchase(
        orders=orders, goods=goods, freight=freight, total=goods + freight, is_proven=proven, gap=gap,
        not_offered=not_offered, hints=tuple(sorted(hints, key=lambda one: -one.saves)),
    )  # fmt: skip


def _worth_a_look(offers: Sequence[Offered]) -> list[Offered]:
    """Without those that the same supplier sells cheaper in the very same pack and step."""
    best: dict[tuple[str, str, float, int], Offered] = {}
    for one in offers:
        key = (one.supplier, one.material, one.pack_g, one.step)
        if key not in best or one.price < best[key].price:
            best[key] = one
    return list(best.values())


def _solved(
    needs: Mapping[str, float], offers: Sequence[Offered], known: Mapping[str, Supplier]
) -> tuple[list[int], bool, float]:
    """Steps of each offer; whether no cheaper choice is possible; and by how much it may be dearer."""
    from scipy.optimize import Bounds, LinearConstraint, milp  # type: ignore[import-untyped]
    from scipy.sparse import lil_matrix  # type: ignore[import-untyped]

    names = sorted({one.supplier for one in offers})
    place = {name: i for i, name in enumerate(names)}
    count, shops = len(offers), len(names)
    # Variables: steps of each offer, then for each supplier whether it is ordered from, then whether its freight is free.
    cost = np.zeros(count + 2 * shops)
    most = np.ones(count + 2 * shops)
    for i, one in enumerate(offers):
        cost[i] = one.price * one.step
        most[i] = ceil(needs[one.material] / (one.pack_g * one.step)) + _spare(one, known)
    for name, j in place.items():
        cost[count + j], cost[count + shops + j] = known[name].freight, -known[name].freight
        if known[name].free_from is None:
            most[count + shops + j] = 0
    materials = sorted(needs)
    rows = lil_matrix((len(materials) + count + 3 * shops, count + 2 * shops))
    low = np.full(rows.shape[0], -np.inf)
    high = np.full(rows.shape[0], np.inf)
    for r, material in enumerate(materials):
        low[r] = needs[material] - ENOUGH_G
        for i, one in enumerate(offers):
            if one.material == material:
                rows[r, i] = one.pack_g * one.step
    r = len(materials)
    for i, one in enumerate(offers):  # Nothing is bought where nothing is ordered.
        rows[r, i], rows[r, count + place[one.supplier]], high[r] = 1, -most[i], 0
        r += 1
    for name, j in place.items():
        shop, ordered, free = known[name], count + j, count + shops + j
        rows[r, free], rows[r, ordered], high[r] = 1, -1, 0
        for i, one in enumerate(offers):
            if one.supplier == name:
                rows[r + 1, i] = rows[r + 2, i] = one.price * one.step
        rows[r + 1, free], low[r + 1] = -(shop.free_from or 0.0), 0
        rows[r + 2, ordered], low[r + 2] = -shop.least_order, 0
        r += 3
    found = milp(
        cost, constraints=LinearConstraint(rows.tocsr(), low, high), bounds=Bounds(np.zeros_like(cost), most),
        integrality=np.ones_like(cost), options={"time_limit": SECONDS, "mip_rel_gap": 0.0},
    )  # fmt: skip
    if found.x is None:
        raise RuntimeError("no purchase was found in time")
    gap = 0.0 if found.mip_dual_bound is None else max(float(found.fun - found.mip_dual_bound), 0.0)
    return [round(value) for value in found.x[:count]], bool(found.status == 0), gap if gap > 1e-6 else 0.0


def _spare(one: Offered, known: Mapping[str, Supplier]) -> int:
    """Steps beyond the need that could pay: to reach a threshold of freight or the least order."""
    shop = known[one.supplier]
    threshold = max(shop.free_from or 0.0, shop.least_order)
    return ceil(threshold / (one.price * one.step)) if threshold > 0 and one.price > 0 else 0


def _orders(
    counts: Sequence[int], offers: Sequence[Offered], known: Mapping[str, Supplier], needs: Mapping[str, float]
) -> tuple[Order, ...]:
    by_supplier: dict[str, list[tuple[Offered, int]]] = defaultdict(list)
    for one, count in zip(offers, counts, strict=True):
        if count > 0:
            by_supplier[one.supplier].append((one, count * one.step))
    orders = []
    told: set[str] = set()
    for name, packs in sorted(by_supplier.items()):
        shop = known[name]
        goods = sum(one.price * count for one, count in packs)
        is_free = shop.free_from is not None and goods >= shop.free_from - ENOUGH_G
        freight = 0.0 if is_free else shop.freight
        orders.append(
            Order(
                supplier=name, goods=goods, freight=freight,
                to_free_freight=None if is_free or shop.free_from is None or shop.freight == 0 else shop.free_from - goods,
                lines=tuple(
                    OrderLine(
                        material=one.material, name=one.name, packs=count, pack_g=one.pack_g, grams=count * one.pack_g,
                        needed_g=needs[one.material], cost=count * one.price,
                        landed_per_kg=one.per_kg * (1 + freight / goods) if goods > 0 else 0.0,
                        instead=_instead(one, counts, offers, needs[one.material], told),
                    )
                    for one, count in sorted(packs, key=lambda pair: (pair[0].material, pair[0].pack_g))
                ),
            )
        )  # fmt: skip
    return tuple(orders)


def _instead(one: Offered, counts: Sequence[int], offers: Sequence[Offered], need_g: float, told: set[str]) -> Text:
    """What covering the need with one other pack alone would cost more; told once for each material."""
    if one.material in told:
        return ()
    told.add(one.material)
    chosen = [(other, count) for other, count in zip(offers, counts, strict=True) if other.material == one.material]
    paid = sum(other.price * other.step * count for other, count in chosen)
    others = []
    for other, count in chosen:
        if count == 0:
            packs = other.step * ceil((need_g - ENOUGH_G) / (other.pack_g * other.step))
            others.append((packs * other.price - paid, packs, other))
    if not others:
        return ()
    more, packs, other = min(others, key=lambda found: found[0])
    if more < LEAST_SAVING:
        return ()
    return text(
        "stock.buying.instead", packs=number(packs), pack=weight(other.pack_g, 0), supplier=other.supplier,
        more=number(more, 2),
    )  # fmt: skip


def _larger_packs(
    bought: Sequence[tuple[Offered, int]],
    offers: Sequence[Offered],
    used: Mapping[str, float],
    keeps: Mapping[str, float],
) -> list[BuyHint]:
    """For each material, the cheapest larger pack that would be used up before it turns; where none would, the cheapest."""
    hints = []
    for material in dict.fromkeys(one.material for one, _ in bought):
        mine = [(one, count) for one, count in bought if one.material == material]
        grams = sum(one.pack_g * count for one, count in mine)
        per_kg = 1000 * sum(one.price * count for one, count in mine) / grams
        yearly = used.get(material, 0.0)
        larger = [one for one in offers if one.material == material and one.pack_g > grams and one.per_kg < per_kg]
        if not larger or yearly <= 0:
            continue
        keeps_for = keeps.get(material)
        lasting = [one for one in larger if keeps_for is None or 12 * one.pack_g / yearly <= keeps_for]
        best = min(lasting or larger, key=lambda one: one.per_kg)
        months = 12 * best.pack_g / yearly
        saves = yearly * (per_kg - best.per_kg) / 1000
        if saves < LEAST_SAVING:
            continue
        words = text(
            "stock.buying.larger_pack" if lasting else "stock.buying.larger_pack_turns", pack=weight(best.pack_g, 0),
            supplier=best.supplier, per_kg=number(best.per_kg, 2), instead=number(per_kg, 2), months=number(months, 0),
            saves=number(saves, 2), keeps=number(keeps_for or 0.0, 0),
        )  # fmt: skip
        hints.append(BuyHint(material=material, saves=saves if lasting else 0.0, words=words))
    return hints


def _free_freight(orders: Sequence[Order]) -> list[BuyHint]:
    """An order that nearly comes free: waiting until more is needed saves its freight."""
    return [
        BuyHint(
            material="", saves=order.freight,
            words=text("stock.buying.wait", supplier=order.supplier, more=number(order.to_free_freight, 2),
                       freight=number(order.freight, 2)),
        )
        for order in orders
        if order.to_free_freight is not None and order.freight >= LEAST_SAVING
    ]  # fmt: skip


def _one_supplier(
    needs: Mapping[str, float], offers: Sequence[Offered], known: Mapping[str, Supplier], total: float, shops: int
) -> list[BuyHint]:
    """What it would cost from one alone, where one has everything: the price of less paperwork."""
    hints: list[BuyHint] = []
    if shops < 2:
        return hints
    for name in sorted({one.supplier for one in offers}):
        own = [one for one in offers if one.supplier == name]
        if {one.material for one in own} != set(needs):
            continue
        counts, _, _ = _solved(needs, own, known)
        cost = sum(one.goods + one.freight for one in _orders(counts, own, known, needs))
        hints.append(
            BuyHint(material="", saves=0.0, words=text("stock.buying.one_supplier", supplier=name,
                                                       more=number(cost - total, 2)))
        )  # fmt: skip
    return hints
