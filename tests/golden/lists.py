# ruff: noqa: E501
"""Recipes and price lists as people write them, and what buying and a batch cost, for the texts that these tests hold them to."""

from collections.abc import Iterator
from datetime import date
from typing import Any

from core.test_stock import lot
from golden.plans import diagnostic_lines
from golden.rooms import lines_of
from sapolin.core.formula.recipe import read_recipe
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.quantities.text import plain
from sapolin.core.stock.buying import Offered, Supplier, cheapest_purchase
from sapolin.core.stock.certificate import certificate_problem
from sapolin.core.stock.cost import CostRates, PackPerBar, TakenFromLot, batch_cost
from sapolin.core.stock.keeping import keeping_of
from sapolin.core.stock.ledger import lot_problem
from sapolin.core.stock.matching import density_of, match_name
from sapolin.core.stock.packs import CannotReadError, pack_g, read_number, read_pack
from sapolin.core.stock.price_list import Columns, guess_columns, offers_of, read_list
from sapolin.core.stock.taking import Shelf, taken_from

__all__ = ["buying_lines", "cost_lines", "lot_lines", "price_list_lines", "recipe_lines"]

RECIPES = (
    "12 oz coconut oil, 2 lb lard, superfat 5%",
    "Olive oil 40%\nCocconut 25 %\nPalm: 30\nCastor oil - 5 %\nNaOH 141 g\nWater 300 ml\nSF 6",
    "1 1/2 lb olive oil; 1 lb 4 oz tallow and 3½ oz castor + 1 cup of water",
    "500 g pomace\n1,250 g shae butter\n12,5 g bees wax\n0/3 kg hemp\nmica to taste",
    "• organic extra virgin olive 400g (35%)\n• kokum 10 %\n• Unicorn fat 20 g\nlye 3 oz\n\n",
    "2 kg rice bran oil\n250 grams sunflower\nolive 30 % and coconut 30 % and something nice 40 %",
    "lard 500 g\n\n\n3/0 kg hemp\n- \ncoconut 0.25 kg",
    "sweet almond, 60 grams, cold pressed\nJojoba 1 tbsp\n-5 g castor\ncastor 5 castor",
)  # fmt: skip


def recipe_lines() -> Iterator[str]:
    for recipe in RECIPES:
        read = read_recipe(recipe, catalogue())
        yield f"== {recipe!r}: superfat {read.superfat_percent}"
        for line in read.lines:
            meant = ", ".join(one.oil for one in line.suggestions)
            yield f"{line.text!r}: {line.kind} {line.amount} {line.unit} {line.name!r} {line.oil} [{meant}]"


NAMES = (
    "Kokosöl raffiniert, 5 kg Eimer", "Shea butter (karité)", "Olivenöl nativ extra", "Olive oil", "Huile d'olive pomace", "Castor oil USP",
    "Palm kernel flakes", "Palm oil RSPO", "Sodium hydroxide 99 % micro pearls", "Caustic potash flakes 90%", "Ätznatron", "NaOH",
    "Titanium dioxide (water)", "Mica gold 50g", "Lavender essential oil", "Lavandin grosso", "Kaolin clay white", "Goat milk powder",
    "Sunflower high oleic", "Sunflower oil", "Beef tallow", "Stearic acid, plant", "Cardboard box", "Rice", "Zitronensäure", "Water, distilled",
)  # fmt: skip
PACKS = (
    "5 kg", "500g", "2,5 kg", "1.000 g", "1,000 g", "12 x 250 ml", "1 gal", "16 oz", "16 fl oz", "35 lb pail", "100 pcs", "1 l", "a few", "",
    "25", "0 kg", "6×1 kg", "1/2 kg",
)  # fmt: skip
HEADERS = ("SKU", "Article", "Pack size", "Price EUR", "Sold in multiples of")
ROWS = (
    ("A1", "Coconut oil 76", "25 kg", "87,50", "1"), ("A2", "Coconut oil 76", "5 kg", "24.90", ""), ("A2", "Coconut oil 76", "5 kg", "24.90", ""),
    ("A2", "Coconut oil 76", "5 kg", "26.90", ""), ("A3", "Olivenöl raffiniert", "10 l", "78,-", "2"), ("A4", "Mystery butter", "1 kg", "12.34567", ""),
    ("A5", "Shea butter", "a pail", "30", ""), ("A6", "Castor oil", "1 kg", "free", ""), ("A7", "Lavender oil", "100 ml", "19.80", "0"),
    ("A8", "NaOH pearls 99 %", "25 kg", "1.234,50", ""), ("A9", "", "1 kg", "3", ""), ("A10",),
)  # fmt: skip


def price_list_lines() -> Iterator[str]:
    for name in NAMES:
        found = match_name(name, {"own-rice": "Rice"})
        known = None if found.material is None else density_of(found.material)
        yield f"{name}: {found.material}, density {known}, or {found.suggestions}"
    for written in PACKS:
        for decimal in ("", ",", "."):
            try:
                pack = read_pack(written, decimal, "kg")
                yield f"{written!r} with {decimal!r}: {pack}, {pack_g(pack, 0.92)} g of oil, {pack_g(pack, None)} g of anything"
            except CannotReadError as refused:
                yield f"{written!r} with {decimal!r}: {refused}"
    for written in ("1.234,50", "1,234.50", "1'234.50", "12,-", "€ 12.5", "1,25", "1.250", "-3", "1e3", ""):
        for decimal in ("", ",", "."):
            try:
                yield f"{written!r} with {decimal!r}: {read_number(written, decimal):g}"
            except CannotReadError as refused:
                yield f"{written!r} with {decimal!r}: {refused}"
    fields = guess_columns(HEADERS)
    yield f"columns {fields}"
    for columns in (
        {}, {"priced_by": "kg"}, {"priced_by": "lb"}, {"decimal": ","}, {"chosen": {"Mystery butter": "mango", "Castor oil": ""}},
    ):  # fmt: skip
        read = read_list(HEADERS, [*enumerate(ROWS, 2)], Columns.model_validate({"fields": fields} | columns), {})
        yield f"== {columns}: {read.usable} usable, {read.unmatched} unmatched, {read.unreadable} unreadable"
        for row in read.rows:
            problem = "" if row.problem is None else f" {[*diagnostic_lines((row.problem,))]}"
            yield f"{row.line} {row.name} {row.pack} {row.price}: {row.material} {row.pack_g} g {row.pack_price} {row.per_kg} a kg, step {row.step}, left out {row.left_out}{problem}"
        yield from (
            f"offers {one.material} {one.pack_g:g} g at {one.price:g}, {one.per_kg:.4f} a kg"
            for one in offers_of(read, "Mill")
        )
    for headers in (("Article",), ("Price",), ("Pack", "Price")):
        read = read_list(headers, [], Columns(fields=guess_columns(headers)), {})
        yield from diagnostic_lines(read.problems)


def offer(supplier: str, material: str, grams: float, price: float, step: int = 1) -> Offered:
    return Offered(supplier=supplier, material=material, name=material.title(), pack_g=grams, price=price, step=step)


OFFERS = (
    offer("Mill", "shea", 500.0, 6.0), offer("Mill", "shea", 1000.0, 10.0), offer("Mill", "olive", 5000.0, 31.0), offer("Mill", "olive", 25_000.0, 120.0),
    offer("Store", "shea", 250.0, 2.5, 2), offer("Store", "olive", 1000.0, 7.2), offer("Store", "castor", 1000.0, 9.0), offer("Barrel", "olive", 200_000.0, 800.0),
)  # fmt: skip
SHOPS = (
    Supplier(name="Mill", freight=6.5, free_from=60.0),
    Supplier(name="Store", freight=4.0, least_order=15.0),
    Supplier(name="Barrel", freight=90.0),
)
WANTED: tuple[tuple[dict[str, float], dict[str, Any]], ...] = (
    ({"shea": 1400.0}, {}), ({"shea": 1400.0, "olive": 4200.0}, {}), ({"shea": 300.0, "olive": 900.0, "castor": 200.0}, {}),
    ({"olive": 9000.0, "castor": 1000.0}, {"used_per_year_g": {"olive": 40_000.0}, "keeps_months": {"olive": 15.0}}),
    ({"olive": 4000.0}, {"used_per_year_g": {"olive": 18_000.0}, "keeps_months": {"olive": 12.0}}), ({"hemp": 100.0}, {}), ({"hemp": 100.0, "shea": 0.0}, {}),
    ({"olive": 4000.0}, {"used_per_year_g": {"olive": 18_000.0}, "keeps_months": {"olive": 2.0}}), ({"olive": 4000.0}, {"used_per_year_g": {"olive": 400_000.0}}), ({"shea": 5000.0, "olive": 5000.0}, {}),
)  # fmt: skip


def buying_lines() -> Iterator[str]:
    for needs, more in WANTED:
        bought = cheapest_purchase(needs, OFFERS, SHOPS, **more)
        yield f"== {needs} {more}: {bought.goods:.2f} and {bought.freight:.2f} freight, {bought.total:.2f}, proven {bought.is_proven}, gap {bought.gap:.4f}, not offered {bought.not_offered}"
        for order in bought.orders:
            yield f"{order.supplier}: {order.goods:.2f} and {order.freight:.2f} freight, {order.to_free_freight} to free freight"
            for line in order.lines:
                yield f"    {line.packs} × {line.pack_g:g} g {line.material}, {line.grams:g} g for {line.needed_g:g} g, {line.cost:.2f}, landed {line.landed_per_kg:.4f} a kg. {plain(line.instead)}"
        yield from (f"    hint {hint.material} {hint.saves:.2f}: {plain(hint.words)}" for hint in bought.hints)


def taken(material: str, kind: Any, grams: float, per_kg: float | None, code: str) -> TakenFromLot:
    return TakenFromLot(material=material, name=material.title(), kind=kind, lot=code, grams=grams, per_kg=per_kg)


TAKEN = (
    taken("olive-refined", "oil", 400.0, 6.0, "O1"), taken("olive-refined", "oil", 100.0, 7.0, "O2"), taken("coconut", "oil", 250.0, 3.0, "C1"),
    taken("naoh", "lye", 100.0, 4.0, "N1"), taken("scent:lavender", "scent", 20.0, 90.0, "L1"),
)  # fmt: skip
PLANNED_G = {"olive-refined": 500.0, "coconut": 260.0, "naoh": 101.0, "scent:lavender": 20.0, "colorant:mica-gold": 2.0}
RATES = CostRates(
    currency="EUR", per_hour=18.0, minutes=90.0, minutes_after=45.0, energy=1.2, margin_percent=55.0,
    packs=(PackPerBar(material="packaging:Box"), PackPerBar(material="packaging:Label", pieces=2.0)),
)  # fmt: skip


def cost_lines() -> Iterator[str]:
    box = taken("packaging:Box", "packaging", 8.0, 250.0, "B1")
    asked: dict[str, tuple[tuple[TakenFromLot, ...], dict[str, Any]]] = {
        "made": (TAKEN, {"minutes": 110.0}), "not on record": (TAKEN, {"minutes": None}), "much too long": (TAKEN, {"minutes": 5000.0}),
        "two minutes": (TAKEN, {"minutes": 2.0}), "packed": ((*TAKEN, box), {"minutes": 110.0}), "nothing taken": ((), {"minutes": 110.0}),
        "no price": ((*TAKEN, taken("castor", "oil", 40.0, None, "K1")), {"minutes": 110.0}), "not cut": (TAKEN, {"minutes": 110.0, "good_bars": 0, "bar_g": None}),
        "no rates": (TAKEN, {"minutes": 110.0, "rates": CostRates()}),
    }  # fmt: skip
    for name, (uses, changes) in asked.items():
        entries: dict[str, Any] = {"good_bars": 8, "planned_bars": 9, "bar_g": 95.0, "rates": RATES} | changes
        prices = {"packaging:Box": 260.0, "packaging:Label": 40.0, "coconut": 3.1}
        cost = batch_cost(uses, PLANNED_G, prices, **entries)
        yield f"== {name}: {cost.price} a bar, by record {cost.minutes_by_record}, {cost.packaging_booked:g} booked, {cost.packaging_open:g} open"
        yield f"without a price: {cost.unpriced}; of the plan: {cost.planned_unpriced}"
        for line in cost.lines:
            yield f"{line.material} {line.grams:g} of {line.lots}: {line.cost}, {line.percent} %"
        yield ", ".join(f"{part.part} {part.cost:.4f} ({part.percent:.4f} %)" for part in cost.parts)
        for side, of in (("planned", cost.planned), ("made", cost.actual)):
            yield f"{side}: {' | '.join(lines_of(of))}"


LOTS: dict[str, dict[str, Any]] = {
    "sound": {}, "its code is taken": {"code": " c1 "}, "nothing": {"amount_g": 0.0}, "too much": {"amount_g": 3e6}, "a price below 0": {"price": -1.0},
    "freight below 0": {"freight": -1.0}, "comes tomorrow": {"arrived": date(2026, 6, 2)}, "past when it came": {"best_before": date(2026, 1, 4)},
    "purity of an oil": {"purity_percent": 99.0}, "lye without purity": {"kind": "lye", "material": "naoh"}, "lye of 9.9": {"kind": "lye", "material": "naoh", "purity_percent": 9.9},
    "weak lye": {"kind": "lye", "material": "naoh", "purity_percent": 89.0}, "potash": {"kind": "lye", "material": "koh", "purity_percent": 85.0},
    "weak potash": {"kind": "lye", "material": "koh", "purity_percent": 84.0}, "too many boxes": {"kind": "packaging", "material": "Box", "amount_g": 3e6},
    "a sheet of palm": {"certificate": {"sap_koh_mg_per_g": 199.0}}, "sheet told in grams": {"certificate": {"sap_koh_mg_per_g": 0.257}},
    "sheet told in NaOH": {"certificate": {"sap_koh_mg_per_g": 183.0}}, "allergens of an oil": {"certificate": {"allergens_percent": {"linalool": 2.0}}},
    "allergens over 100": {"kind": "scent", "material": "scent:lavender", "certificate": {"allergens_percent": {"linalool": 60.0, "limonene": 41.0}}},
    "an allergen of 120": {"kind": "scent", "material": "scent:lavender", "certificate": {"allergens_percent": {"linalool": 120.0}}},
    "most of 0": {"kind": "scent", "material": "scent:lavender", "certificate": {"most_percent": 0.0}}, "SAP of a scent": {"kind": "scent", "material": "scent:lavender", "certificate": {"sap_koh_mg_per_g": 190.0}},
}  # fmt: skip


def lot_lines() -> Iterator[str]:
    for name, changes in LOTS.items():
        shelf = lot(**changes)
        oil = catalogue().get(shelf.material) if shelf.kind == "oil" else None
        found = [one for one in (lot_problem(shelf, ("C1",), date(2026, 6, 1)), certificate_problem(shelf, oil)) if one]
        for line in diagnostic_lines(tuple(found)) if found else ("sound",):
            yield f"{name}: {line}"
        yield from (f"    offered {offer.value:g}" for one in found for offer in one.offers)
    for best_before in (None, date(2026, 6, 20), date(2026, 5, 31), date(2027, 6, 1)):
        for load in (None, 14.0, 90.0):
            for today in (date(2026, 6, 1), date(2027, 6, 1)):
                keeping = keeping_of(lot(best_before=best_before), load, date(2026, 3, 1), today)
                said = (
                    None
                    if keeping is None
                    else f"{keeping.until} estimate {keeping.is_estimate} past {keeping.is_past} soon {keeping.is_soon} stops {keeping.stops}"
                )
                yield f"best before {best_before}, load {load}, on {today}: {said}"
    tubs = [
        Shelf(lot_id="1", code="B", in_hand_g=300.0, until=date(2026, 9, 1), is_open=False), Shelf(lot_id="2", code="A", in_hand_g=300.0, until=date(2026, 9, 1), is_open=True),
        Shelf(lot_id="3", code="C", in_hand_g=0.0, until=date(2026, 7, 1), is_open=True), Shelf(lot_id="4", code="D", in_hand_g=900.0, until=None, is_open=True),
    ]  # fmt: skip
    for grams in (0.0, 299.0, 300.0, 450.0, 1500.0, 1501.0):
        takes, missing = taken_from(tubs, grams)
        yield f"{grams:g} g: {', '.join(f'{one.grams:g} g of {one.code}' for one in takes)}; {missing:g} g missing"
