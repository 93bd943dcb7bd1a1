"""The stock: what is in hand, promised to planned batches and free; goods in, and entries of the ledger."""

from collections import defaultdict
from collections.abc import Sequence
from datetime import UTC, date, datetime

from sapolin.core.bar.qualities import qualities
from sapolin.core.cure.guard import AHEAD
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.quantities.diagnostics import FormulaError, stopping
from sapolin.core.quantities.model import Model, Truth
from sapolin.core.stock.certificate import certificate_problem
from sapolin.core.stock.keeping import Keeping, keeping_of
from sapolin.core.stock.ledger import (
    LedgerEntry,
    Lot,
    LotNow,
    MaterialKind,
    Returned,
    StockEvent,
    Used,
    lot_now,
    lot_problem,
    stock_refusal,
)
from sapolin.services.lists import every_batch
from sapolin.services.materials_named import name_of, own_names
from sapolin.store.clock import utc_now
from sapolin.store.stock import LotKept
from sapolin.store.stores import Stores

__all__ = [
    "LotFound",
    "LotView",
    "LotWhole",
    "Need",
    "Stock",
    "StockMaterial",
    "add_stock_event",
    "find_lots",
    "goods_in",
    "keeping_now",
    "lot_whole",
    "needs_now",
    "stock_of",
    "view_of",
]  # fmt: skip

SHORT_G = 0.05
"""Less missing than this is nothing."""


class LotView(Model):
    """A lot as it stands."""

    id: str
    lot: Lot
    per_kg: float | None
    """Landed, in the maker's own currency."""
    now: LotNow
    keeping: Keeping | None
    is_first: Truth = False
    """The next to be taken."""

    @property
    def is_usable(self) -> bool:
        """Nothing speaks against taking from it."""
        return not self.now.is_stopped and not (self.keeping is not None and self.keeping.stops)


class LotWhole(LotView):
    """A lot with its ledger."""

    entries: tuple[LedgerEntry, ...]


class Need(Model):
    """What a planned batch needs of a material."""

    batch_id: str
    code: str
    name: str
    grams: float
    by: date | None
    """The day it is to be made; null while that is open."""


class StockMaterial(Model):
    """One material on the shelf."""

    material: str
    name: str
    kind: MaterialKind
    in_hand_g: float
    """What can be used: stopped lots are left out."""
    promised_g: float
    """To planned batches."""
    free_g: float
    """Below 0 it runs short."""
    is_short: Truth
    """More is promised than is in hand."""
    is_kept: Truth
    """Lots are kept of it; of what no lot is kept, nothing is known."""
    per_kg: float | None
    """Of what is in hand, by lots; null while no price is known."""
    lots: tuple[LotView, ...]
    """Those with something in them, first to be used first."""
    needs: tuple[Need, ...]


class Stock(Model):
    """The shelf."""

    materials: tuple[StockMaterial, ...]
    use_first: tuple[LotView, ...]
    """Lots that near their date or are past it, with something in them."""
    worth: float | None
    """What is in hand was paid so much; null while nothing has a price."""


class LotFound(Model):
    """A lot found by its code, used up or not."""

    id: str
    code: str
    name: str
    supplier_code: str
    arrived: date


def keeping_now(lot: Lot, now: LotNow, today: date) -> Keeping | None:
    """Until when a lot can be used, as it stands."""
    load = None
    if lot.kind == "oil" and lot.material in catalogue():
        load = qualities()["oxidation_load"].points(catalogue()[lot.material].profile)
    opened = None if now.opened_at is None else datetime.fromisoformat(now.opened_at).date()
    return keeping_of(lot, load, opened, today)


def view_of(lot_id: str, lot: Lot, now: LotNow, today: date) -> LotView:
    """A lot as it stands `today`."""
    return LotView(id=lot_id, lot=lot, per_kg=lot.per_kg, now=now, keeping=keeping_now(lot, now, today))


def stock_of(stores: Stores) -> Stock:
    """The shelf, with what planned batches need."""
    today = stores.today()
    own, needs = own_names(stores), needs_now(stores)
    by_material: dict[str, list[LotView]] = defaultdict(list)
    for one in stores.stock.standing():
        by_material[one.lot.material].append(view_of(one.id, one.lot, one.now, today))
    kept = stores.stock.materials()
    found = []
    for material in dict.fromkeys([*kept, *needs]):
        named = name_of(material, own)
        if named is None or (material not in kept and named[1] not in ("oil", "lye")):
            continue
        found.append(
            _material(material, named, by_material[material], tuple(needs.get(material, ())), is_kept=material in kept)
        )
    everything = [lot for one in found for lot in one.lots]
    worth = [one.per_kg * one.now.in_hand_g / 1000 for one in everything if one.per_kg is not None]
    soon = [one for one in everything if one.keeping is not None and one.keeping.is_soon]
    return Stock(
        materials=tuple(sorted(found, key=lambda one: (_KINDS.index(one.kind), one.name))),
        use_first=tuple(sorted(soon, key=lambda one: one.keeping.until if one.keeping else date.max)),
        worth=sum(worth) if worth else None,
    )


_KINDS: tuple[MaterialKind, ...] = ("oil", "lye", "liquid", "additive", "scent", "colorant", "packaging")


def _material(
    material: str, named: tuple[str, MaterialKind], lots: list[LotView], needs: tuple[Need, ...], *, is_kept: bool
) -> StockMaterial:
    lots = sorted(lots, key=_first)
    usable = [one for one in lots if one.is_usable]
    if usable:
        first = usable[0].id
        lots = [one.model_copy(update={"is_first": one.id == first}) for one in lots]
    in_hand = sum(one.now.in_hand_g for one in usable)
    promised = sum(one.grams for one in needs)
    priced = [(one.per_kg, one.now.in_hand_g) for one in usable if one.per_kg is not None]
    weight_g = sum(grams for _, grams in priced)
    return StockMaterial(
        material=material, name=named[0], kind=named[1], in_hand_g=in_hand, promised_g=promised, free_g=in_hand - promised,
        is_short=is_kept and promised > in_hand + SHORT_G, is_kept=is_kept,
        per_kg=sum(price * grams for price, grams in priced) / weight_g if weight_g else None, lots=tuple(lots), needs=needs,
    )  # fmt: skip


def _first(lot: LotView) -> tuple[bool, date, bool, str]:
    until = date.max if lot.keeping is None else lot.keeping.until
    return not lot.is_usable, until, lot.now.opened_at is None, lot.lot.code


def needs_now(stores: Stores) -> dict[str, list[Need]]:
    """What planned batches, and those being made, need, by material."""
    found: dict[str, list[Need]] = defaultdict(list)
    for batch in every_batch(stores, ("planned", "making")):
        for material, grams in batch.needs.items():
            found[material].append(
                Need(batch_id=batch.id, code=batch.code, name=batch.name, grams=grams, by=batch.make_on)
            )
    return found


def goods_in(lot: Lot, key: str, stores: Stores) -> LotWhole:
    """Keep a lot that came in. Raises FormulaError with why it cannot."""
    if name_of(lot.material, own_names(stores)) is None:
        raise FormulaError([stopping("unknown_stock_material", "material")])
    if lot.parts:
        raise FormulaError([stopping("mixed_by_itself", "parts")])
    today = stores.today()

    def check(codes: Sequence[str]) -> None:
        problem = lot_problem(lot, codes, today) or certificate_problem(lot, catalogue().get(lot.material))
        if problem is not None:
            raise FormulaError([problem])

    return _whole(stores.stock.add_lot(lot, key, check), today)


def add_stock_event(
    lot_id: str, key: str, event: StockEvent, at: datetime | None, after_seq: int | None, stores: Stores
) -> LotWhole:
    """Add to the ledger of a lot, once for each `key`. Raises UnknownLotError, StaleRecordError or FormulaError."""
    happened = utc_now() if at is None else at.astimezone(UTC).isoformat(timespec="milliseconds")
    if isinstance(event, Used | Returned) and event.batch_id:
        stores.batches.get(event.batch_id)
    local, latest = stores.local(happened), stores.now() + AHEAD

    def check(lot: Lot, entries: Sequence[LedgerEntry]) -> None:
        if local > latest:
            raise FormulaError([stopping("in_the_future", "at")])
        problem = stock_refusal(event, lot, entries, local.isoformat())
        if problem is not None:
            raise FormulaError([problem])

    kept = stores.stock.add_event(lot_id, key, event, check, happened, after_seq)
    return _whole(kept, stores.today())


def lot_whole(lot_id: str, stores: Stores) -> LotWhole:
    """A lot with its ledger. Raises UnknownLotError."""
    return _whole(stores.stock.get(lot_id), stores.today())


def find_lots(words: str, stores: Stores) -> tuple[LotFound, ...]:
    """Lots by their code or that of their supplier, used up ones too."""
    own = own_names(stores)
    return tuple(
        LotFound(
            id=lot_id, code=lot.code, name=(name_of(lot.material, own) or (lot.material, lot.kind))[0],
            supplier_code=lot.supplier_code, arrived=lot.arrived,
        )
        for lot_id, lot in stores.stock.find(words)
    )  # fmt: skip


def _whole(kept: LotKept, today: date) -> LotWhole:
    view = view_of(kept.id, kept.lot, lot_now(kept.entries), today)
    return LotWhole(**dict(view), entries=kept.entries)
