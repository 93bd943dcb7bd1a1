"""Buying: what planned batches are short of, price lists of suppliers, and the cheapest way to buy it."""

from datetime import UTC, date, timedelta

from sapolin.core.bar.qualities import qualities
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.quantities.diagnostics import FormulaError
from sapolin.core.quantities.model import Model, Truth
from sapolin.core.stock.buying import Purchase, Supplier, cheapest_purchase
from sapolin.core.stock.keeping import DAYS_A_MONTH, keeps_until
from sapolin.core.stock.ledger import MaterialKind
from sapolin.core.stock.price_list import (
    Columns,
    ListRead,
    PriceList,
    guess_columns,
    guess_priced_by,
    offers_of,
    price_doubts,
    read_list,
)
from sapolin.exchange.sheets import SheetTable, read_sheet
from sapolin.exchange.shopping_list import ShoppingLine, ShoppingList
from sapolin.services.materials_named import name_of, own_names
from sapolin.services.stock import stock_of
from sapolin.services.workshop_oils import landed_prices
from sapolin.store.price_lists import PriceListKept
from sapolin.store.stores import Stores

__all__ = ["BuyNeed", "Buying", "ListBrief", "ListPreview", "MaterialName", "brief_of", "buying_of", "keep_list",
           "preview_list", "shopping_list"]  # fmt: skip

SHOWN_ROWS = 400
"""So many rows of a list are shown; all of them are read."""


class MaterialName(Model):
    """A material by its name."""

    material: str
    name: str


class BuyNeed(Model):
    """Something to buy."""

    material: str
    name: str
    kind: MaterialKind
    short_g: float
    """What planned batches are short of."""
    also_g: float
    """What the maker wants beside it."""
    batches: tuple[str, ...]
    """Codes of those that need it."""
    by: date | None
    """When the first of them is to be made; null while that is open."""

    @property
    def grams(self) -> float:
        """In all."""
        return self.short_g + self.also_g


class ListBrief(Model):
    """A price list in use."""

    id: str
    supplier: str
    freight: float
    free_from: float | None
    least_order: float
    offers: int
    read_at: str
    file_name: str


class Buying(Model):
    """What to buy, and how it costs least."""

    needs: tuple[BuyNeed, ...]
    purchase: Purchase
    names: tuple[MaterialName, ...]
    """Of every material in it."""
    lists: tuple[ListBrief, ...]


class ListPreview(Model):
    """A price list before it is kept."""

    headers: tuple[str, ...]
    columns: Columns
    """As sent; or as remembered of the supplier, or guessed from the headings."""
    is_remembered: Truth
    read: ListRead
    """Rows with something to settle first; no more than 400."""
    names: tuple[MaterialName, ...]
    """Of every material that its rows name or may mean."""
    packaging: tuple[MaterialName, ...]
    """What packaging there is on the shelf."""


def buying_of(stores: Stores) -> Buying:
    """What to buy now."""
    needs = _needs(stores)
    lists = stores.price_lists.all()
    now = stores.now()
    since = (now - timedelta(days=365)).astimezone(UTC).isoformat(timespec="seconds")
    used = stores.stock.used_since(since)
    purchase = cheapest_purchase(
        {one.material: one.grams for one in needs},
        [offer for one in lists for offer in one.list.offers],
        [_supplier(one) for one in lists],
        used, {material: _keeps_months(material, now.date()) for material in used if material in catalogue()},
    )  # fmt: skip
    materials = {line.material for order in purchase.orders for line in order.lines} | {one.material for one in needs}
    return Buying(
        needs=needs, purchase=purchase, names=_named(materials, stores),
        lists=tuple(brief_of(one) for one in lists),
    )  # fmt: skip


def _supplier(kept: PriceListKept) -> Supplier:
    return Supplier(
        name=kept.list.supplier,
        freight=kept.list.freight,
        free_from=kept.list.free_from,
        least_order=kept.list.least_order,
    )


def _needs(stores: Stores) -> tuple[BuyNeed, ...]:
    own, also = own_names(stores), {one.material: one.grams for one in stores.workshop.get().also_buy}
    found = {
        one.material: BuyNeed(
            material=one.material, name=one.name, kind=one.kind, short_g=-one.free_g,
            also_g=also.get(one.material, 0.0), batches=tuple(need.code for need in one.needs),
            by=min((need.by for need in one.needs if need.by is not None), default=None),
        )
        for one in stock_of(stores).materials
        if one.is_short
    }  # fmt: skip
    for material, grams in also.items():
        named = name_of(material, own)
        if material not in found and named is not None:
            found[material] = BuyNeed(
                material=material, name=named[0], kind=named[1], short_g=0.0, also_g=grams, batches=(), by=None
            )
    return tuple(sorted(found.values(), key=lambda one: (one.by or date.max, one.short_g <= 0)))


def _keeps_months(material: str, today: date) -> float:
    load = qualities()["oxidation_load"].points(catalogue()[material].profile)
    return (keeps_until(today, load, None, has_antioxidant=False) - today).days / DAYS_A_MONTH


def _named(materials: set[str], stores: Stores) -> tuple[MaterialName, ...]:
    own = own_names(stores)
    return tuple(
        MaterialName(material=one, name=(name_of(one, own) or (one, "oil"))[0]) for one in sorted(materials)
    )  # fmt: skip


def preview_list(file_name: str, content: bytes, supplier: str, columns: Columns | None, stores: Stores) -> ListPreview:
    """Read a list and keep nothing. Without `columns` it is read as the supplier's last one was, where that fits, or as its
    headings suggest. Raises FormulaError when it is no table.
    """
    table = read_sheet(file_name, content)
    before = stores.price_lists.of(supplier) if supplier.strip() else None
    remembered = False
    if columns is None:
        fields = guess_columns(table.headers)
        columns = Columns(fields=fields, priced_by=guess_priced_by(fields.get("price", "")))
        if before is not None and set(before.list.columns.fields.values()) <= set(table.headers):
            columns, remembered = before.list.columns, True
    read = _read(table, columns, stores)
    read = read.model_copy(update={"doubts": price_doubts(read, landed_prices(stores))})
    first = sorted(read.rows, key=lambda row: (row.problem is None, row.material is not None, row.line))
    materials = {row.material for row in first if row.material} | {id_ for row in first for id_ in row.suggestions}
    return ListPreview(
        headers=table.headers, columns=columns, is_remembered=remembered,
        read=read.model_copy(update={"rows": tuple(first[:SHOWN_ROWS])}), names=_named(materials, stores),
        packaging=_named({one for one in stores.stock.materials() if one.startswith("packaging:")}, stores),
    )  # fmt: skip


def keep_list(file_name: str, content: bytes, new: PriceList, stores: Stores) -> ListBrief:
    """Keep what a list offers, in the place of the supplier's last one. Raises FormulaError when it cannot be read."""
    read = _read(read_sheet(file_name, content), new.columns, stores)
    if read.problems:
        raise FormulaError(read.problems)
    supplier = " ".join(new.supplier.split())
    offers = offers_of(read, supplier)
    kept = stores.price_lists.keep(
        new.model_copy(update={"supplier": supplier, "offers": offers, "file_name": file_name[:200]})
    )
    return brief_of(kept)


def brief_of(kept: PriceListKept) -> ListBrief:
    """A price list in brief."""
    one = kept.list
    return ListBrief(
        id=kept.id, supplier=one.supplier, freight=one.freight, free_from=one.free_from, least_order=one.least_order,
        offers=len(one.offers), read_at=kept.read_at, file_name=one.file_name,
    )  # fmt: skip


def _read(table: SheetTable, columns: Columns, stores: Stores) -> ListRead:
    return read_list(table.headers, table.rows, columns, own_names(stores))


def shopping_list(stores: Stores) -> ShoppingList:
    """What to buy, for paper and spreadsheets."""
    buying = buying_of(stores)
    names = {one.material: one.name for one in buying.names}
    kinds = {one.material: one.kind for one in buying.needs}
    lines = tuple(
        ShoppingLine(
            supplier=order.supplier, article=line.name, material=names.get(line.material, line.material), packs=line.packs,
            pack=line.pack_g, unit="pieces" if kinds.get(line.material) == "packaging" else "g", needed=line.needed_g,
            cost=line.cost,
        )
        for order in buying.purchase.orders
        for line in order.lines
    )  # fmt: skip
    return ShoppingList(
        lines=lines, freight={order.supplier: order.freight for order in buying.purchase.orders},
        total=buying.purchase.total, not_offered=tuple(names.get(one, one) for one in buying.purchase.not_offered),
        printed=stores.today(),
    )  # fmt: skip
