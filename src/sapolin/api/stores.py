"""What the routers are handed of the stores. Handed over in the event loop: a thread is not asked for what is there already."""

from collections.abc import Awaitable, Callable
from typing import Annotated, TypeVar

from fastapi import Depends, Request

from sapolin.store.batches import BatchStore
from sapolin.store.cures import CureStore, TrayStore
from sapolin.store.formulas import FormulaStore
from sapolin.store.materials import MaterialStore
from sapolin.store.moulds import MouldStore
from sapolin.store.oil_notes import OilNoteStore
from sapolin.store.prices import PriceStore
from sapolin.store.stores import Stores
from sapolin.store.target_sets import TargetSetStore
from sapolin.store.workshop import WorkshopStore

__all__ = [
    "AllStores",
    "Batches",
    "Cures",
    "Formulas",
    "Materials",
    "Moulds",
    "OilNotes",
    "Prices",
    "TargetSets",
    "Trays",
    "WorkshopKept",
]


_Part = TypeVar("_Part")


async def _stores(request: Request) -> Stores:
    stores = request.app.state.stores
    assert isinstance(stores, Stores)
    return stores


AllStores = Annotated[Stores, Depends(_stores)]


def _of(part: Callable[[Stores], _Part]) -> Callable[[Stores], Awaitable[_Part]]:
    async def handed(stores: AllStores) -> _Part:
        return part(stores)

    return handed


Formulas = Annotated[FormulaStore, Depends(_of(lambda stores: stores.formulas))]
Materials = Annotated[MaterialStore, Depends(_of(lambda stores: stores.materials))]
OilNotes = Annotated[OilNoteStore, Depends(_of(lambda stores: stores.oil_notes))]
Prices = Annotated[PriceStore, Depends(_of(lambda stores: stores.prices))]
TargetSets = Annotated[TargetSetStore, Depends(_of(lambda stores: stores.target_sets))]
Moulds = Annotated[MouldStore, Depends(_of(lambda stores: stores.moulds))]
Batches = Annotated[BatchStore, Depends(_of(lambda stores: stores.batches))]
WorkshopKept = Annotated[WorkshopStore, Depends(_of(lambda stores: stores.workshop))]
Cures = Annotated[CureStore, Depends(_of(lambda stores: stores.cures))]
Trays = Annotated[TrayStore, Depends(_of(lambda stores: stores.trays))]
