"""The stock: lots, their ledger, what is promised and free, and where a lot went."""

from datetime import datetime
from typing import Annotated

from fastapi import Query, Response
from pydantic import Field

from sapolin.api.errors import Refusal
from sapolin.api.files import pdf_named
from sapolin.api.room import room
from sapolin.api.stores import AllStores
from sapolin.core.quantities.model import Model
from sapolin.core.stock.cost import BatchCost
from sapolin.core.stock.ledger import Lot, StockEvent
from sapolin.services.costs import MadeInAYear, book_packaging, cost_of_batch, made_in_a_year
from sapolin.services.mixing import LotMix, mix_lots
from sapolin.services.stock import LotFound, LotWhole, Stock, add_stock_event, find_lots, goods_in, lot_whole, stock_of
from sapolin.services.trace import LotTrace, trace_of, trace_page

__all__ = ["router"]

router = room("/api/stock", "stock")

Key = Annotated[str, Field(min_length=8, max_length=64)]


@router.get("", summary="The shelf")
def get_stock(stores: AllStores) -> Stock:
    """Each material with its lots, what planned batches were promised of it, and what is free: below 0 it runs short."""
    return stock_of(stores)


class GoodsIn(Model):
    """A lot that came in."""

    key: Key
    """Chosen by the device: sending it again adds nothing."""
    lot: Lot


@router.post("/lots", status_code=201, summary="Goods in")
def add_lot(new: GoodsIn, stores: AllStores) -> LotWhole:
    """422 with what is wrong: a code that was used, a purity that is missing, dates that cross, a certificate that cannot be of
    that material.
    """
    return goods_in(new.lot, new.key, stores)


class Mixing(Model):
    """Lots to be poured together."""

    key: Key
    """Chosen by the device: sending it again mixes nothing twice."""
    mix: LotMix


@router.post("/mixes", status_code=201, summary="Split a lot, or pour lots together")
def mix_stock(new: Mixing, stores: AllStores) -> LotWhole:
    """Tubs of one material become one tub, or a part of one a tub of its own; several oils become a master blend, which is kept
    as a material of one's own; dry lye and water a master lye. 422 with what stands in the way; nothing is poured then.
    """
    return mix_lots(new.mix, new.key, stores)


@router.get("/lots", summary="Find lots by their code")
def search_lots(stores: AllStores, search: Annotated[str, Query(min_length=1, max_length=60)]) -> tuple[LotFound, ...]:
    """Used up ones too, by the code on the tub or the supplier's; the newest first."""
    return find_lots(search, stores)


@router.get("/lots/{lot_id}", summary="A lot")
def get_lot(lot_id: str, stores: AllStores) -> LotWhole:
    """As it came in, how it stands, and every entry of its ledger."""
    return lot_whole(lot_id, stores)


class NewStockEvent(Model):
    """Something to add to the ledger of a lot."""

    key: Key
    after_seq: Annotated[int | None, Field(ge=0)] = None
    """The last entry known; null adds it whatever was added meanwhile."""
    at: datetime | None = None
    """When it happened, with its time zone; null is now."""
    event: StockEvent


@router.post("/lots/{lot_id}/events", summary="Add to the ledger")
def record_stock(lot_id: str, new: NewStockEvent, stores: AllStores) -> LotWhole:
    """Durable when it answers. 409 when another device added to it after `after_seq`."""
    if new.at is not None and new.at.tzinfo is None:
        raise Refusal(422, "no_time_zone", "The time has no time zone. Add one, such as Z.")
    return add_stock_event(lot_id, new.key, new.event, new.at, new.after_seq, stores)


@router.get("/cost/{batch_id}", summary="What a batch cost")
def get_cost(batch_id: str, stores: AllStores) -> BatchCost:
    """By the lots it was really taken from (landed prices), with packaging, energy and time; planned beside actual, for each
    good bar and each 100 g; and the price of a bar for the margin that is wanted.
    """
    return cost_of_batch(batch_id, stores)


@router.post("/cost/{batch_id}/packaging", summary="Book what wraps the bars of a batch")
def post_packaging(batch_id: str, stores: AllStores) -> BatchCost:
    """From the shelf, for its good bars, less what is booked already: sending it again books nothing twice. 422 when there is
    too little in hand.
    """
    return book_packaging(batch_id, stores)


@router.get("/year/{formula_id}", summary="What was made of a formula in a year")
def get_year(formula_id: str, stores: AllStores) -> MadeInAYear:
    """The last 365 days."""
    return made_in_a_year(formula_id, stores)


@router.get("/lots/{lot_id}/trace", summary="Where a lot went")
def get_trace(lot_id: str, stores: AllStores) -> LotTrace:
    """The batches that took from it, how many bars they made, and where those are; and how complete the record of it is."""
    return trace_of(lot_id, stores)


@router.get("/lots/{lot_id}/trace.pdf", summary="Where a lot went, on paper", response_class=Response)
def print_trace(lot_id: str, stores: AllStores) -> Response:
    """One page for a recall, with a column to tick who was told."""
    code, content = trace_page(lot_id, stores)
    return pdf_named(content, f"trace-{code}")
