"""What the day begins with, and what can be found by words."""

from datetime import datetime
from typing import Annotated

from fastapi import Query, Request, Response
from pydantic import Field

from sapolin.api.errors import Refusal
from sapolin.api.room import room
from sapolin.api.stores import AllStores
from sapolin.core.cure.due import MAY_WAIT, Due, DueKind
from sapolin.core.quantities.model import Model
from sapolin.exchange.calendar import calendar_ics
from sapolin.services.find import Hit, find
from sapolin.services.today import Today, coming, put_off, today

__all__ = ["router"]

router = room("/api", "today")


@router.get("/today", summary="What the day begins with")
def get_today(stores: AllStores) -> Today:
    """What is due, the most pressing first; what is ready by its forecast; what earlier batches noted for those planned."""
    return today(stores)


class PutOff(Model):
    """Something due, put off."""

    batch_id: Annotated[str, Field(max_length=40)]
    kind: DueKind
    until: datetime | None
    """With its time zone; null takes it back."""


@router.post("/today/put-off", summary="Put something off")
def put_off_due(what: PutOff, stores: AllStores) -> Today:
    """It is not told as due until then. Nothing else changes: no forecast, no record. Answers with what is due now."""
    if what.until is not None and what.until.tzinfo is None:
        raise Refusal(422, "no_time_zone", "The time has no time zone. Add one, such as Z.")
    if what.until is not None and what.kind not in MAY_WAIT:
        raise Refusal(
            422, "cannot_wait", "This cannot be put off. Soap in its mould and bars that must not be used do not wait."
        )
    put_off(what.batch_id, what.kind, what.until, stores)
    return today(stores)


@router.get("/calendar.ics", summary="What is due, as a calendar", response_class=Response)
def get_calendar(request: Request, stores: AllStores) -> Response:
    """iCalendar, UTF-8: what is due, and what comes due within six weeks if nothing is recorded meanwhile. Each thing keeps its
    identity, so that a calendar that follows this address moves it. Each has an alarm.
    """
    now = stores.now()
    return Response(
        calendar_ics(coming(stores, now), now, str(request.base_url)),
        media_type="text/calendar; charset=utf-8",
        headers={"content-disposition": 'inline; filename="sapolin.ics"'},
    )


@router.get("/coming", summary="What comes due")
def get_coming(
    stores: AllStores, days: Annotated[int, Query(ge=1, le=60, description="From now on.")] = 7
) -> tuple[Due, ...]:
    """What is due, and what comes due within so many days if nothing is recorded meanwhile; each once, by its time."""
    return coming(stores, stores.now(), days)


@router.get("/find", summary="Find something by words")
def find_by_words(
    stores: AllStores,
    words: Annotated[str, Query(max_length=200, description="All of them; the newest without any.")] = "",
) -> tuple[Hit, ...]:
    """Formulas, batches and own materials, each with the address at which the application shows it."""
    return find(stores, words)
