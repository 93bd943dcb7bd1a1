"""Make day: the record of a batch, added to event by event, and what it adds up to."""

from datetime import datetime, timedelta
from typing import Annotated

from fastapi import APIRouter, Query, Request, Response
from pydantic import Field

from sapolin.api.batches import WorkedOut, worked_out
from sapolin.api.devices import Devices, Workbench
from sapolin.api.errors import Refusal
from sapolin.api.stores import Batches, Moulds
from sapolin.core.batch.heat import gel_onset_hours
from sapolin.core.batch.moulds import calibrated
from sapolin.core.batch.steps import FIRST_AID
from sapolin.core.making.as_made import AsMade, as_made, expected_g
from sapolin.core.making.guard import refusal
from sapolin.core.making.outlook import Outlook, outlook
from sapolin.core.making.record import (
    Captured,
    Corrected,
    Event,
    Photographed,
    Poured,
    RecordedEvent,
    RunState,
    Started,
    WayTaken,
    begin,
    started_of,
    state_of,
)
from sapolin.core.making.ways import Deviation, deviation
from sapolin.core.model import Model
from sapolin.core.problems import FormulaError
from sapolin.store.batches import BatchRecord, BatchStore
from sapolin.store.clock import utc_now
from sapolin.store.moulds import MouldStore

__all__ = ["resume_devices", "router"]

router = APIRouter(prefix="/api/batches/{batch_id}", tags=["making"])

PICTURES = {"image/jpeg": b"\xff\xd8", "image/png": b"\x89PNG", "image/webp": b"RIFF"}
"""What may be kept, and how its bytes begin."""


class Run(Model):
    """A batch being made, as every device shows it."""

    record: BatchRecord
    work: WorkedOut
    state: RunState
    made: AsMade
    """As weighed so far; what is not weighed yet, or still to be topped up, at its target."""
    outlook: Outlook
    now: str
    """The server's clock, UTC."""
    minute: float
    """Minutes since it was begun."""
    gel_onset_hours: float
    """About when gel is seen after pouring, insulated; an estimate."""
    unmould_from: str | None
    """When it may be unmoulded, UTC; an estimate, null until it is covered."""
    unmould_to: str | None
    first_aid: tuple[str, ...]


class NewEvent(Model):
    """An event to add."""

    key: Annotated[str, Field(min_length=8, max_length=64)]
    """Chosen by the device; sending the same key again adds nothing."""
    after_seq: int | None = None
    """The last event the device knows of; refused with 409 when there are newer ones. Null adds it anyway."""
    event: Event


def _minutes(at: str, since: str | None) -> float:
    if since is None:
        return 0.0
    return (datetime.fromisoformat(at) - datetime.fromisoformat(since)).total_seconds() / 60


def _after(at: str, hours: float) -> str:
    return (datetime.fromisoformat(at) + timedelta(hours=hours)).isoformat(timespec="seconds")


def _run(record: BatchRecord, events: list[RecordedEvent]) -> Run:
    work = worked_out(record.plan)
    state = state_of(events, work.steps)
    now = utc_now()
    minute = _minutes(now, state.started_at)
    bowls = {
        bowl: [(_minutes(r.at, state.started_at), r.celsius) for r in state.readings if r.bowl == bowl]
        for bowl in ("oils", "lye")
    }
    started = started_of(events)
    unmould = (started.unmould_hours if started else None) or work.planned.unmould_hours
    covered = state.ended_at if state.status == "made" else None
    return Run(
        record=record,
        work=work,
        state=state,
        made=as_made(work.planned, expected_g(state)),
        outlook=outlook(bowls["oils"], bowls["lye"], work.planned.window, work.planned.room_c, minute),
        now=now,
        minute=minute,
        gel_onset_hours=gel_onset_hours(work.planned.figures.water.lye_concentration_percent),
        unmould_from=_after(covered, unmould[0]) if covered and unmould else None,
        unmould_to=_after(covered, unmould[1]) if covered and unmould else None,
        first_aid=FIRST_AID,
    )


def _off(record: BatchRecord, work: WorkedOut, state: RunState, item: str) -> Deviation:
    weigh = next((step.weigh for step in work.steps if step.weigh and step.weigh.item == item), None)
    if weigh is None or item not in state.captured_g:
        raise Refusal(404, "not_weighed", "That has not been weighed.")
    return deviation(record.plan, work.planned, state.targets_g, state.captured_g, weigh)


def _completed(event: WayTaken, record: BatchRecord, work: WorkedOut, events: list[RecordedEvent]) -> WayTaken:
    """The way with the targets it leads to, reckoned here whatever the device sent."""
    found = _off(record, work, state_of(events, work.steps), event.item)
    way = next((one for one in found.ways if one.way == event.way), None)
    if way is None:
        raise Refusal(422, "no_such_way", "That way out is not open here.")
    if not way.possible:
        raise Refusal(422, "not_possible", way.why_not)
    return event.model_copy(
        update={"targets_g": way.targets_g, "words": f"{found.words} {way.title}: {way.text}"[:2000]}
    )


def _stands_on_the_scale(item: str, events: list[RecordedEvent], work: WorkedOut) -> bool:
    """A weight taken from the scale that is right, or accepted, is on it until the next tare; one that is off may still be
    corrected there."""
    captures = [record.event for record in events if isinstance(record.event, Captured) and record.event.item == item]
    from_scale = bool(captures) and captures[-1].source == "scale"
    return from_scale and item in state_of(events, work.steps).settled


def _learn(before: RunState, after: RunState, record: BatchRecord, work: WorkedOut, moulds: MouldStore) -> None:
    """What a batch teaches about its moulds, in place of what it taught `before`."""
    kept = {mould.id: mould for mould in moulds.all()}
    for i, use in enumerate(record.plan.moulds):
        taught, teaches = before.poured_ml.get(i), after.poured_ml.get(i)
        planned_ml = work.planned.moulds[i].batter_ml
        if taught != teaches and use.mould.id in kept and planned_ml > 0:
            moulds.put(calibrated(kept[use.mould.id], planned_ml, teaches or 0.0, taught or 0.0))


def resume_devices(batches: BatchStore, devices: Workbench) -> None:
    """Let the simulated devices take up the batches that are being made, the latest last."""
    for record in reversed(batches.find()):
        state = state_of(batches.events(record.id), ()) if record.events else None
        if state is not None and state.status == "making":
            devices.resume(state)


@router.get("/run", summary="How far a batch has come")
def get_run(batch_id: str, batches: Batches) -> Run:
    """The steps, what is done, what is in the pot, and what comes next."""
    return _run(batches.get(batch_id), batches.events(batch_id))


@router.get("/record", summary="The record of a batch")
def get_record(batch_id: str, batches: Batches) -> list[RecordedEvent]:
    """Every event in order, corrected ones too."""
    return batches.events(batch_id)


@router.post("/events", summary="Add to the record")
def add_event(batch_id: str, new: NewEvent, batches: Batches, moulds: Moulds, devices: Devices) -> Run:
    """Durable when it answers. 409 when another device was faster; 422 when it cannot be."""
    record = batches.get(batch_id)
    work = worked_out(record.plan)
    event = new.event
    if isinstance(event, WayTaken):
        event = _completed(event, record, work, batches.events(batch_id))
    if isinstance(event, Started):
        event = begin(work.planned)
    stops = [f"{finding.headline} {finding.remedy}" for finding in work.findings if finding.level == "stop"]
    before: list[RunState] = []

    def check(events: list[RecordedEvent]) -> None:
        state = state_of(events, work.steps)
        problem = refusal(event, state, work.steps, work.planned, events, stops)
        if problem is not None:
            raise FormulaError([problem])
        before.append(state)

    events = batches.add_event(batch_id, new.key, event, check, new.after_seq)
    if before:  # It was not there already.
        devices.follow(event, work.planned)
        if isinstance(event, Captured | WayTaken) and _stands_on_the_scale(event.item, events, work):
            devices.scale.weight_taken()
        if isinstance(event, Poured | Corrected):
            _learn(before[0], state_of(events, work.steps), record, work, moulds)
    return _run(batches.get(batch_id), events)


@router.get("/deviation/{item}", summary="What to do about a weight that is off")
def get_deviation(batch_id: str, item: str, batches: Batches) -> Deviation:
    """Its effect, and the ways out reckoned from what is in the pot."""
    record = batches.get(batch_id)
    work = worked_out(record.plan)
    return _off(record, work, state_of(batches.events(batch_id), work.steps), item)


@router.post("/photos", summary="Add a picture")
async def add_photo(
    batch_id: str,
    request: Request,
    batches: Batches,
    key: Annotated[str, Query(min_length=8, max_length=64)],
    name: Annotated[str, Query(max_length=120)] = "picture",
) -> Run:
    """JPEG, PNG or WebP as the body."""
    media_type = request.headers.get("content-type", "").partition(";")[0].strip().lower()
    content = await request.body()
    if media_type not in PICTURES or not content.startswith(PICTURES[media_type]):
        raise Refusal(422, "not_a_picture", "Only JPEG, PNG and WebP pictures can be added.")
    if get_run(batch_id, batches).state.status == "planned":
        raise Refusal(422, "not_started", "Make day has not begun. Begin it first.")
    event = Photographed(kind="photographed", file_id=batches.add_file(batch_id, name, media_type, content), name=name)
    return _run(batches.get(batch_id), batches.add_event(batch_id, key, event, lambda _: None))


@router.get("/photos/{file_id}", summary="A picture", response_class=Response)
def get_photo(batch_id: str, file_id: int, batches: Batches) -> Response:
    """As it was added."""
    file = batches.file(batch_id, file_id)
    return Response(file.content, media_type=file.media_type)
