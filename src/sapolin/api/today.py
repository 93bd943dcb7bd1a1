"""What the day begins with, and what can be found by words."""

from datetime import UTC, datetime
from typing import Annotated

from fastapi import APIRouter, Query, Request, Response

from sapolin.api.stores import AllStores
from sapolin.exchange.calendar import calendar_ics
from sapolin.services.find import Hit, find
from sapolin.services.today import Today, coming, today

__all__ = ["router"]

router = APIRouter(prefix="/api", tags=["today"])


@router.get("/today", summary="What the day begins with")
def get_today(stores: AllStores) -> Today:
    """What is due, the most pressing first; what is ready by its forecast; what earlier batches noted for those planned."""
    return today(stores)


@router.get("/calendar.ics", summary="What is due, as a calendar", response_class=Response)
def get_calendar(request: Request, stores: AllStores) -> Response:
    """iCalendar, UTF-8: what is due, and what comes due within six weeks if nothing is recorded meanwhile. Each thing keeps its
    identity, so that a calendar that follows this address moves it. Each has an alarm.
    """
    now = datetime.now(UTC)
    return Response(
        calendar_ics(coming(stores, now), now, str(request.base_url)),
        media_type="text/calendar; charset=utf-8",
        headers={"content-disposition": 'inline; filename="sapolin.ics"'},
    )


@router.get("/find", summary="Find something by words")
def find_by_words(
    stores: AllStores,
    words: Annotated[str, Query(max_length=200, description="All of them; the newest without any.")] = "",
) -> tuple[Hit, ...]:
    """Formulas, batches and own materials, each with the address at which the application shows it."""
    return find(stores, words)
