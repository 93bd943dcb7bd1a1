"""What the routers are handed of the stores."""

from typing import Annotated

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


def _stores(request: Request) -> Stores:
    stores = request.app.state.stores
    assert isinstance(stores, Stores)
    return stores


AllStores = Annotated[Stores, Depends(_stores)]
Formulas = Annotated[FormulaStore, Depends(lambda stores=Depends(_stores): stores.formulas)]
Materials = Annotated[MaterialStore, Depends(lambda stores=Depends(_stores): stores.materials)]
OilNotes = Annotated[OilNoteStore, Depends(lambda stores=Depends(_stores): stores.oil_notes)]
Prices = Annotated[PriceStore, Depends(lambda stores=Depends(_stores): stores.prices)]
TargetSets = Annotated[TargetSetStore, Depends(lambda stores=Depends(_stores): stores.target_sets)]
Moulds = Annotated[MouldStore, Depends(lambda stores=Depends(_stores): stores.moulds)]
Batches = Annotated[BatchStore, Depends(lambda stores=Depends(_stores): stores.batches)]
WorkshopKept = Annotated[WorkshopStore, Depends(lambda stores=Depends(_stores): stores.workshop)]
Cures = Annotated[CureStore, Depends(lambda stores=Depends(_stores): stores.cures)]
Trays = Annotated[TrayStore, Depends(lambda stores=Depends(_stores): stores.trays)]
