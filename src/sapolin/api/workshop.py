"""The workshop itself: whom to call."""

from typing import Annotated

from fastapi import APIRouter
from pydantic import Field

from sapolin.api.stores import WorkshopKept
from sapolin.core.quantities.model import Model
from sapolin.store.workshop import Workshop

__all__ = ["router"]

router = APIRouter(prefix="/api/workshop", tags=["workshop"])

Number = Annotated[str, Field(max_length=60)]


class WorkshopChange(Model):
    """What is to be kept of the workshop."""

    emergency_number: Number = ""
    """Of the local emergency service."""
    poison_number: Number = ""
    """Of the local poison information service."""


@router.get("", summary="The workshop")
def get_workshop(store: WorkshopKept) -> Workshop:
    """Numbers to call in an emergency, as the maker wrote them; empty while not entered."""
    return store.get()


@router.put("", summary="Change the workshop")
def put_workshop(change: WorkshopChange, store: WorkshopKept) -> Workshop:
    """All of it at once; durable when it answers."""
    return store.put(Workshop(**{name: value.strip() for name, value in change.model_dump().items()}))
