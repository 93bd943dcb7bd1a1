"""What the day begins with, and what can be found by words."""

from typing import Annotated

from fastapi import APIRouter, Query

from sapolin.api.stores import AllStores
from sapolin.services.find import Hit, find
from sapolin.services.today import Today, today

__all__ = ["router"]

router = APIRouter(prefix="/api", tags=["today"])


@router.get("/today", summary="What the day begins with")
def get_today(stores: AllStores) -> Today:
    """What is due, the most pressing first; what is ready by its forecast; what earlier batches noted for those planned."""
    return today(stores)


@router.get("/find", summary="Find something by words")
def find_by_words(
    stores: AllStores,
    words: Annotated[str, Query(max_length=200, description="All of them; the newest without any.")] = "",
) -> tuple[Hit, ...]:
    """Formulas, batches and own materials, each with the address at which the application shows it."""
    return find(stores, words)
