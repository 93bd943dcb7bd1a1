"""The stock: what is in hand, promised to planned batches and free; goods in, entries, and what make day takes."""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from datetime import UTC, date, datetime

from sqlalchemy.orm import Session

from sapolin.core.bar.qualities import qualities
from sapolin.core.batch.planned import PlannedBatch
from sapolin.core.cure.state import Gone, cure_state
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.materials.ingredients import additives, colorants, liquids, scents
from sapolin.core.production.state import RunState
from sapolin.core.quantities.diagnostics import FormulaError, stopping
from sapolin.core.quantities.model import Model
from sapolin.core.quantities.text import template
from sapolin.core.stock.cost import BatchCost, batch_cost
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
from sapolin.core.stock.needs import material_of
from sapolin.core.stock.taking import Shelf, taken_from
from sapolin.services.lists import batches_of, page_of_batches
from sapolin.store.clock import utc_now
from sapolin.store.stock import LotKept, LotUse, StockStore
from sapolin.store.stores import Stores

__all__ = [
    "LotTrace",
    "LotView",
    "Need",
    "Stock",
    "StockMaterial",
    "add_stock_event",
    "cost_of_batch",
    "goods_in",
    "lot_view",
    "stock_of",
    "take_for",
    "trace_of",
]  # fmt: skip

MOST_PLANNED = 100


class LotView(Model):
    """A lot as it stands."""

    id: str
    lot: Lot
    per_kg: float | None
    """Landed, in the maker's own currency."""
    now: LotNow
    keeping: Keeping | None
    is_first: bool
    """The next to be taken."""
    entries: tuple[LedgerEntry, ...]


class Need(Model):
    """What a planned batch needs of a material."""

    batch_id: str
    code: str
    name: str
    grams: float


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
    per_kg: float | None
    """Of what is in hand, by lots; null while no price is known."""
    lots: tuple[LotView, ...]
    """First to be used first."""
    needs: tuple[Need, ...]


class Stock(Model):
    """The shelf."""

    materials: tuple[StockMaterial, ...]
    use_first: tuple[LotView, ...]
    """Lots that near their date or are past it, with something in them."""
    worth: float | None
    """What is in hand was paid so much; null while nothing has a price."""


class TraceStop(Model):
    """A batch that took from a lot, and where its bars are."""

    batch_id: str
    code: str
    name: str
    grams: float
    at: str
    bars: int
    here: int
    gone: tuple[str, ...]
    """Where bars went, in a few words each."""


class LotTrace(Model):
    """From a lot to the bars that were made of it."""

    lot: LotView
    batches: tuple[TraceStop, ...]
    explained_percent: float
    """Of what came in: in hand, used in batches or booked as waste."""


def name_of(material: str, own: Mapping[str, str]) -> tuple[str, MaterialKind] | None:
    """Name and kind of a material by its id; null when there is none."""
    if material in ("naoh", "koh"):
        return template(f"stock.lye.{material}"), "lye"
    if material in catalogue():
        return catalogue()[material].name, "oil"
    tables: dict[str, tuple[Mapping[str, object], MaterialKind]] = {
        "liquid": (liquids(), "liquid"), "additive": (additives(), "additive"), "scent": (scents(), "scent"),
        "colorant": (colorants(), "colorant"),
    }  # fmt: skip
    prefix, _, id_ = material.partition(":")
    if prefix in tables and id_ in tables[prefix][0]:
        table, kind = tables[prefix]
        return str(getattr(table[id_], "name", id_)), kind
    return (own[material], "oil") if material in own else None


def take_for(
    session: Session, batch_id: str, planned: PlannedBatch, state: RunState, stock: StockStore, at: str
) -> None:
    """Take what was captured from the lots that expire first, in the transaction that ends the make day `at` a time.

    A material of which no lot is kept is left alone; what is missing in the lots is not taken from anywhere.
    """
    day = datetime.fromisoformat(at).date()
    for item, grams in state.captured_g.items():
        found = material_of(item, planned)
        if found is None:
            continue
        material, part = found
        takes, _missing = taken_from(_shelf(session, stock, material, day), grams * part)
        for take in takes:
            used = Used(kind="used", grams=round(take.grams, 3), batch_id=batch_id, item=item)
            stock.use_in(session, take.lot_id, f"{batch_id}-{item}", used, at)


def _shelf(session: Session, stock: StockStore, material: str, today: date) -> list[Shelf]:
    shelf = []
    for lot_id, lot, grams in stock.in_hand_in(session, material):
        now = lot_now(stock.entries_in(session, lot_id))
        keeping = _keeping(lot, now, today)
        if grams > 0 and lot.arrived <= today and not now.is_stopped and not (keeping is not None and keeping.stops):
            until = None if keeping is None else keeping.until
            shelf.append(
                Shelf(lot_id=lot_id, code=lot.code, in_hand_g=grams, until=until, is_open=now.opened_at is not None)
            )
    return shelf


def _keeping(lot: Lot, now: LotNow, today: date) -> Keeping | None:
    load = None
    if lot.kind == "oil" and lot.material in catalogue():
        load = qualities()["oxidation_load"].points(catalogue()[lot.material].profile)
    opened = None if now.opened_at is None else datetime.fromisoformat(now.opened_at).date()
    return keeping_of(lot, load, opened, today)


def stock_of(stores: Stores) -> Stock:
    """The shelf, with what planned batches need."""
    today = datetime.now(UTC).date()
    own = _own_names(stores)
    needs = _needs(stores)
    by_material: dict[str, list[LotView]] = defaultdict(list)
    for kept in stores.stock.all():
        by_material[kept.lot.material].append(_lot_view(kept, today))
    found = []
    for material in dict.fromkeys([*by_material, *needs]):
        named = name_of(material, own)
        if named is None or (material not in by_material and named[1] not in ("oil", "lye")):
            continue
        lots = sorted(by_material[material], key=_first)
        usable = [one for one in lots if _is_usable(one)]
        if usable:
            first = usable[0].id
            lots = [one.model_copy(update={"is_first": one.id == first}) for one in lots]
        in_hand = sum(one.now.in_hand_g for one in usable)
        promised = sum(one.grams for one in needs.get(material, ()))
        priced = [(one.per_kg, one.now.in_hand_g) for one in usable if one.per_kg is not None and one.now.in_hand_g > 0]
        weight_g = sum(grams for _, grams in priced)
        found.append(
            StockMaterial(
                material=material, name=named[0], kind=named[1], in_hand_g=in_hand, promised_g=promised,
                free_g=in_hand - promised,
                per_kg=sum(price * grams for price, grams in priced) / weight_g if weight_g else None,
                lots=tuple(lots), needs=tuple(needs.get(material, ())),
            )
        )  # fmt: skip
    everything = [lot for one in found for lot in one.lots]
    worth = [one.per_kg * one.now.in_hand_g / 1000 for one in everything if one.per_kg is not None]
    return Stock(
        materials=tuple(sorted(found, key=lambda one: (_KINDS.index(one.kind), one.name))),
        use_first=tuple(
            sorted(
                (one for one in everything if one.keeping is not None and one.keeping.is_soon and one.now.in_hand_g > 0),
                key=lambda one: one.keeping.until if one.keeping else date.max,
            )
        ),
        worth=sum(worth) if worth else None,
    )  # fmt: skip


_KINDS: tuple[MaterialKind, ...] = ("oil", "lye", "liquid", "additive", "scent", "colorant", "packaging")


def _is_usable(lot: LotView) -> bool:
    return not lot.now.is_stopped and not (lot.keeping is not None and lot.keeping.stops)


def _first(lot: LotView) -> tuple[bool, date, bool, str]:
    until = date.max if lot.keeping is None else lot.keeping.until
    return lot.now.in_hand_g <= 0 or not _is_usable(lot), until, lot.now.opened_at is None, lot.lot.code


def _lot_view(kept: LotKept, today: date) -> LotView:
    now = lot_now(kept.entries)
    return LotView(
        id=kept.id, lot=kept.lot, per_kg=kept.lot.per_kg, now=now, keeping=_keeping(kept.lot, now, today), is_first=False,
        entries=kept.entries,
    )  # fmt: skip


def _own_names(stores: Stores) -> dict[str, str]:
    return {one.material.id: one.material.name for one in stores.materials.find()}


def _needs(stores: Stores) -> dict[str, list[Need]]:
    """What planned batches, and those being made, need, by material."""
    found: dict[str, list[Need]] = defaultdict(list)
    for batch in page_of_batches(stores, statuses=("planned", "making"), limit=MOST_PLANNED).batches:
        for material, grams in batch.needs.items():
            found[material].append(Need(batch_id=batch.id, code=batch.code, name=batch.name, grams=grams))
    return found


def goods_in(lot: Lot, key: str, stores: Stores) -> LotView:
    """Keep a lot that came in. Raises FormulaError with why it cannot."""
    if lot.kind != "packaging" and name_of(lot.material, _own_names(stores)) is None:
        raise FormulaError([stopping("unknown_stock_material", "material")])
    today = datetime.now(UTC).date()

    def check(codes: Sequence[str]) -> None:
        problem = lot_problem(lot, codes, today)
        if problem is not None:
            raise FormulaError([problem])

    return _lot_view(stores.stock.add_lot(lot, key, check), today)


def add_stock_event(
    lot_id: str, key: str, event: StockEvent, at: datetime | None, after_seq: int | None, stores: Stores
) -> LotView:
    """Add to the ledger of a lot, once for each `key`. Raises UnknownLotError, StaleRecordError or FormulaError."""
    happened = utc_now() if at is None else at.astimezone(UTC).isoformat(timespec="milliseconds")
    if isinstance(event, Used | Returned) and event.batch_id:
        stores.batches.get(event.batch_id)

    def check(lot: Lot, entries: Sequence[LedgerEntry]) -> None:
        problem = stock_refusal(event, lot, entries, happened)
        if problem is not None:
            raise FormulaError([problem])

    kept = stores.stock.add_event(lot_id, key, event, check, happened, after_seq)
    return _lot_view(kept, datetime.now(UTC).date())


def lot_view(lot_id: str, stores: Stores) -> LotView:
    """A lot. Raises UnknownLotError."""
    return _lot_view(stores.stock.get(lot_id), datetime.now(UTC).date())


def trace_of(lot_id: str, stores: Stores) -> LotTrace:
    """From a lot to batches, to bars, to where they went. Raises UnknownLotError."""
    view = lot_view(lot_id, stores)
    uses: dict[str, LotUse] = {}
    for use in stores.stock.uses(lot_id=lot_id):
        before = uses.get(use.batch_id)
        uses[use.batch_id] = use if before is None else before.model_copy(update={"grams": before.grams + use.grams})
    batches = batches_of(stores, set(uses))
    stops = []
    for batch_id, use in uses.items():
        events = stores.cures.events(batch_id)
        state = cure_state(events, events[0].at) if events else None
        gone = () if state is None else state.gone
        batch = batches.get(batch_id)
        stops.append(
            TraceStop(
                batch_id=batch_id, code=batch.code if batch else "-", name=batch.name if batch else "", grams=use.grams,
                at=use.at, bars=state.bars if state else 0, here=state.here if state else 0,
                gone=tuple(_where(one) for one in gone),
            )
        )  # fmt: skip
    wasted = sum(-one.change_g for one in view.entries if one.event.kind in ("wasted", "counted"))
    explained = view.now.in_hand_g + sum(stop.grams for stop in stops) + wasted
    return LotTrace(lot=view, batches=tuple(stops), explained_percent=min(100 * explained / view.lot.amount_g, 100.0))


def cost_of_batch(batch_id: str, stores: Stores) -> BatchCost:
    """What a batch cost in materials, by the lots it was taken from. Raises UnknownBatchError."""
    stores.batches.get(batch_id)
    own, prices, taken = _own_names(stores), {}, []
    for use in stores.stock.uses(batch_id=batch_id):
        if use.lot_id not in prices:
            prices[use.lot_id] = stores.stock.get(use.lot_id).lot.per_kg
        named = name_of(use.material, own)
        taken.append((use.material, named[0] if named else use.material, use.code, use.grams, prices[use.lot_id]))
    events = stores.cures.events(batch_id)
    state = cure_state(events, events[0].at) if events else None
    good = 0 if state is None else max(state.bars - state.seconds - state.samples, 0)
    return batch_cost(taken, good)


def _where(gone: Gone) -> str:
    """Where bars went, such as “6 sold: Larch Hut”."""
    return f"{gone.bars} {gone.to}: {gone.where}" if gone.where else f"{gone.bars} {gone.to}"
