"""Buying: price lists of suppliers, and the cheapest way to buy what batches are short of."""

from typing import Annotated

from fastapi import Response
from pydantic import Base64Bytes, Field

from sapolin.api.files import csv_named, pdf_named
from sapolin.api.room import room
from sapolin.api.stores import AllStores
from sapolin.core.quantities.model import FiniteNumber, Model
from sapolin.core.stock.price_list import Columns, PriceList
from sapolin.exchange.shopping_list import shopping_csv, shopping_pdf
from sapolin.services.buying import (
    Buying,
    ListBrief,
    ListPreview,
    brief_of,
    buying_of,
    keep_list,
    preview_list,
    shopping_list,
)

__all__ = ["router"]

router = room("/api", "buying")


class SentFile(Model):
    """A file as it was chosen."""

    name: Annotated[str, Field(max_length=200)]
    content: Base64Bytes
    """Its bytes, as base64."""


class ListAsked(Model):
    """A price list to look at."""

    file: SentFile
    supplier: Annotated[str, Field(max_length=80)] = ""
    columns: Columns | None = None
    """Null: as the supplier's last list was read, or as its headings suggest."""


class ListToKeep(Model):
    """A price list to keep."""

    file: SentFile
    supplier: Annotated[str, Field(min_length=1, max_length=80, pattern=r"\S")]
    columns: Columns
    freight: Annotated[FiniteNumber, Field(ge=0, le=100_000)] = 0.0
    free_from: Annotated[FiniteNumber, Field(ge=0, le=1_000_000)] | None = None
    least_order: Annotated[FiniteNumber, Field(ge=0, le=1_000_000)] = 0.0


@router.get("/buying", summary="What to buy")
def get_buying(stores: AllStores) -> Buying:
    """What planned batches are short of and what else is wanted, and the purchase of it that costs least, proven; with what a
    larger pack, waiting or one supplier alone would change.
    """
    return buying_of(stores)


@router.get("/buying/list.csv", summary="What to buy, for a spreadsheet", response_class=Response)
def get_shopping_csv(stores: AllStores) -> Response:
    """One row a line."""
    return csv_named(shopping_csv(shopping_list(stores)), "to-buy")


@router.get("/buying/list.pdf", summary="What to buy, on paper", response_class=Response)
def get_shopping_pdf(stores: AllStores) -> Response:
    """With boxes to tick."""
    return pdf_named(shopping_pdf(shopping_list(stores)), "to-buy")


@router.post("/price-lists/preview", summary="Look at a price list")
def preview_price_list(asked: ListAsked, stores: AllStores) -> ListPreview:
    """CSV or XLSX. Which column is what, and each row as it was read, those with something to settle first. Nothing is kept.
    422 when it is no table.
    """
    return preview_list(asked.file.name, asked.file.content, asked.supplier, asked.columns, stores)


@router.post("/price-lists", status_code=201, summary="Keep a price list")
def add_price_list(new: ListToKeep, stores: AllStores) -> ListBrief:
    """In the place of the supplier's last one, which is archived. How its columns were read is remembered."""
    return keep_list(
        new.file.name, new.file.content,
        PriceList(
            supplier=new.supplier, columns=new.columns, freight=new.freight, free_from=new.free_from,
            least_order=new.least_order,
        ),
        stores,
    )  # fmt: skip


@router.delete("/price-lists/{list_id}", summary="Buy no more by a price list")
def archive_price_list(list_id: str, stores: AllStores) -> ListBrief:
    """It is archived, and can be restored."""
    return brief_of(stores.price_lists.archive(list_id))


@router.post("/price-lists/{list_id}/restore", summary="Buy by a price list again")
def restore_price_list(list_id: str, stores: AllStores) -> ListBrief:
    """In the place of the one in use of the same supplier."""
    return brief_of(stores.price_lists.restore(list_id))
