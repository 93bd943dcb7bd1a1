"""Make day: the record of a batch, added to event by event, and what it adds up to."""

from typing import Annotated

from fastapi import Path, Query, Request, Response
from pydantic import Field
from starlette.concurrency import run_in_threadpool

from sapolin.api.devices import Devices
from sapolin.api.errors import Refusal
from sapolin.api.pictures import PictureName, picture_answer, picture_of
from sapolin.api.room import room
from sapolin.api.stores import AllStores, Batches
from sapolin.core.production.corrections import Deviation
from sapolin.core.production.events import Event, RecordedEvent
from sapolin.core.quantities.model import Model, Truth
from sapolin.devices.protocol import UnpluggedError
from sapolin.services import make_day
from sapolin.services.make_day import NotWeighedError, Progress, Run
from sapolin.services.taking import ItemLots, lots_for_items

__all__ = ["router"]

router = room("/api/batches/{batch_id}", "making")

Key = Annotated[str, Field(min_length=8, max_length=64)]


class NewEvent(Model):
    """An event to add."""

    key: Key
    """Chosen by the device; sending the same key again adds nothing."""
    after_seq: Annotated[int | None, Field(ge=0, lt=2**63)] = None
    """The last event the device knows of; refused with 409 when there are newer ones. Null adds a note, a reading or an
    amendment anyway; what follows from how the record stands must say it."""
    event: Event


class TareRequest(Model):
    """The scale is to show zero for an item."""

    key: Key
    """Chosen by the device; sending the same key again tares nothing."""
    after_seq: Annotated[int | None, Field(ge=0, lt=2**63)] = None
    """The last event the device knows of; refused with 409 when there are newer ones. Null tares anyway."""
    item: Annotated[str, Field(min_length=1, max_length=40)]
    emptied: Truth = False
    """Nothing of the item is in the container: what is weighed from here on is all of it."""
    sure: Truth = False
    """What stands on the scale is the container alone."""


@router.get("/run", summary="How far a batch has come")
def get_run(batch_id: str, batches: Batches) -> Run:
    """The plan with its steps, what is done, what is weighed, and what comes next. Fetched once: events tell progress."""
    return make_day.run_of(batch_id, batches)


@router.get("/progress", summary="How far a batch has come, in short")
def get_progress(batch_id: str, batches: Batches) -> Progress:
    """What changes from event to event, without the plan: for a screen that has fetched the run and follows it."""
    return make_day.progress_of(batch_id, batches)


@router.get("/record", summary="The record of a batch")
def get_record(batch_id: str, batches: Batches) -> list[RecordedEvent]:
    """Every event in order with its number, its time (UTC) and its content; corrected ones too."""
    return batches.events(batch_id)


@router.post("/events", summary="Add to the record")
def add_event(batch_id: str, new: NewEvent, devices: Devices, stores: AllStores) -> Progress:
    """Durable when it answers. `key` names the event: the same key sent again adds nothing and answers the same. With
    `after_seq`, 409 when another device added to the record since. 422 with the diagnostic when it may not follow; one
    with `is_doubt` is taken when it is sent again with `sure`.
    """
    try:
        return make_day.add_event(batch_id, new.key, new.event, new.after_seq, stores=stores, devices=devices)
    except NotWeighedError as error:
        raise Refusal(404, "not_weighed", "That has not been weighed.") from error


@router.get("/lots", summary="The lots that a batch can be taken from")
def get_lots(batch_id: str, stores: AllStores) -> tuple[ItemLots, ...]:
    """For each thing to weigh, first to be used first; without those that are stopped or past their date. Record `lot_chosen`
    with the code that was typed or scanned before it is weighed.
    """
    return lots_for_items(batch_id, stores)


@router.post("/tare", summary="Tare the scale for a weighing")
def tare(batch_id: str, request: TareRequest, batches: Batches, devices: Devices) -> Progress:
    """Show zero for what is on the scale now, and record it.

    422 with code `material_on_scale` when a weight would be tared away that was not taken (send `sure` when it is the
    container), or `zero_lost` when the scale lost its zero in the middle of the weighing (send `emptied` once the container
    is empty). 409 when the scale does not answer.
    """
    try:
        return make_day.tare(
            batch_id, request.key, request.item, request.after_seq, emptied=request.emptied, sure=request.sure,
            batches=batches, devices=devices,
        )  # fmt: skip
    except UnpluggedError as error:
        raise Refusal(409, "unplugged", "The scale does not answer. Plug it in, or type the weight.") from error


@router.get("/deviation/{item}", summary="What to do about a weight that is off")
def get_deviation(batch_id: str, item: str, batches: Batches) -> Deviation:
    """Its effect on superfat and weights, and the corrections calculated from what is in the bowl by now, safest first.
    404 when it has not been weighed.
    """
    try:
        return make_day.deviation_of(batch_id, item, batches)
    except NotWeighedError as error:
        raise Refusal(404, "not_weighed", "That has not been weighed.") from error


@router.post("/photos", summary="Add a picture")
async def add_photo(
    batch_id: str,
    request: Request,
    batches: Batches,
    key: Annotated[str, Query(min_length=8, max_length=64)],
    name: PictureName = "picture",
) -> Progress:
    """JPEG, PNG or WebP as the body. Sending the same key again adds nothing."""
    media_type, content = await picture_of(request)
    # The database is written outside the event loop, so that scales and screens go on meanwhile.
    return await run_in_threadpool(make_day.add_photo, batch_id, key, name, media_type, content, batches)


@router.get("/photos/{file_id}", summary="A picture", response_class=Response)
def get_photo(
    batch_id: str,
    file_id: Annotated[int, Path(ge=1, lt=2**63)],
    batches: Batches,
    small: Annotated[bool, Query(description="As it is shown in a row: at most 360 px a side.")] = False,
) -> Response:
    """The picture as it is kept, with its media type."""
    file = batches.file(batch_id, file_id)
    return picture_answer(file.content, file.media_type, is_small=small)
