"""Make day: adding to the record of a batch, and what the record adds up to."""

from contextlib import suppress
from datetime import datetime, timedelta

from sqlalchemy.orm import Session

from sapolin.core.batch.heat import gel_onset_hours
from sapolin.core.batch.moulds import calibrated
from sapolin.core.batch.procedure import FIRST_AID
from sapolin.core.production.abandoned import what_to_do_with_the_bowls
from sapolin.core.production.actual import ActualBatch
from sapolin.core.production.cooling import CoolingForecast, cooling_forecast
from sapolin.core.production.corrections import Deviation, deviation
from sapolin.core.production.guard import refusal
from sapolin.core.production.record import (
    Captured,
    CorrectionTaken,
    EntryAmended,
    Event,
    Photographed,
    Poured,
    RecordedEvent,
    RunState,
    Started,
    Tared,
    begin,
    started_of,
    state_of,
)
from sapolin.core.production.weighing import WeighingNow, tare_refusal, weighing_now
from sapolin.core.quantities.diagnostics import FormulaError, Problem
from sapolin.core.quantities.model import Model
from sapolin.devices.workbench import Workbench
from sapolin.services.batch_work import BatchWork, PreparedBatch, frozen_json, work_of
from sapolin.store.batches import BatchRecord, BatchStore
from sapolin.store.clock import utc_now
from sapolin.store.moulds import MouldStore
from sapolin.store.reading import UnreadableError

__all__ = ["NotWeighedError", "Run", "add_event", "add_photo", "deviation_of", "resume_devices", "run_of", "tare"]


class NotWeighedError(LookupError):
    """There is no such weighing, or its weight has not been taken yet."""


class Run(Model):
    """A batch being made, as every device shows it."""

    record: BatchRecord
    work: PreparedBatch
    """As planned until it begins; from then on volume, portions and moulds follow what is in the pot."""
    state: RunState
    weighing: WeighingNow | None
    """The weighing it is at; null when the next step is none."""
    made: ActualBatch
    """As weighed so far; what is not weighed yet, or still to be topped up, at its target."""
    cooling_forecast: CoolingForecast
    now: str
    """The server's clock, UTC."""
    minute: float
    """Minutes since it was begun."""
    gel_onset_hours: float
    """About when gel is seen after pouring, insulated; an estimate."""
    unmould_from: str | None
    """When it may be unmoulded, UTC; an estimate, null until it is covered."""
    unmould_to: str | None
    given_up: tuple[str, ...]
    """Of an abandoned batch: what to do with what stands in the bowls."""
    first_aid: tuple[str, ...]


def _minutes(at: str, since: str | None) -> float:
    if since is None:
        return 0.0
    return (datetime.fromisoformat(at) - datetime.fromisoformat(since)).total_seconds() / 60


def _after(at: str, hours: float) -> str:
    return (datetime.fromisoformat(at) + timedelta(hours=hours)).isoformat(timespec="seconds")


def run_of(batch_id: str, batches: BatchStore, events: list[RecordedEvent] | None = None) -> Run:
    """The batch as far as it has come; `events` when they were just read. Raises UnknownBatchError, FormulaError."""
    record = batches.get(batch_id)
    events = batches.events(batch_id) if events is None else events
    batch = work_of(record, batches)
    state = batch.state(events)
    now = utc_now()
    minute = _minutes(now, state.started_at)
    bowls = {
        bowl: [(_minutes(r.at, state.started_at), r.celsius) for r in state.readings if r.bowl == bowl]
        for bowl in ("oils", "lye")
    }
    made = batch.made(state)
    work = batch.poured(state, made)
    started = started_of(events)
    unmould = (started.unmould_hours if started else None) or work.planned.unmould_hours
    covered = state.ended_at if state.status == "made" else None
    step = next((step for step in work.steps if step.id == state.current), None)
    with batch.in_force():
        gel_hours = gel_onset_hours(work.planned.result.water.lye_concentration_percent)
    return Run(
        record=record,
        work=work,
        state=state,
        weighing=weighing_now(step.weigh, state) if step is not None and step.weigh is not None else None,
        made=made,
        cooling_forecast=cooling_forecast(
            bowls["oils"], bowls["lye"], work.planned.window, work.planned.room_c, minute
        ),
        now=now,
        minute=minute,
        gel_onset_hours=gel_hours,
        unmould_from=_after(covered, unmould[0]) if covered and unmould else None,
        unmould_to=_after(covered, unmould[1]) if covered and unmould else None,
        given_up=what_to_do_with_the_bowls(work.steps, state) if state.status == "aborted" else (),
        first_aid=FIRST_AID,
    )


def _deviation(batch: BatchWork, state: RunState, item: str) -> Deviation:
    weigh = next((step.weigh for step in batch.work.steps if step.weigh and step.weigh.item == item), None)
    if weigh is None or item not in state.captured_g:
        raise NotWeighedError(item)
    with batch.in_force():
        return deviation(batch.record.plan, batch.work.planned, state.targets_g, state.captured_g, weigh)


def deviation_of(batch_id: str, item: str, batches: BatchStore) -> Deviation:
    """What a weight that is off does, and the corrections open. Raises UnknownBatchError, NotWeighedError."""
    batch = work_of(batches.get(batch_id), batches)
    return _deviation(batch, batch.state(batches.events(batch_id)), item)


def _refused(code: str, field: str, message: str, remedy: str) -> FormulaError:
    return FormulaError(
        [Problem(code=code, severity="impossible", field=field, message=message, remedy=remedy)]
    )  # fmt: skip


def _completed(event: CorrectionTaken, batch: BatchWork, state: RunState) -> CorrectionTaken:
    """The correction with the targets it leads to, calculated here whatever the device sent."""
    found = _deviation(batch, state, event.item)
    correction = next((one for one in found.corrections if one.correction == event.correction), None)
    if correction is None:
        raise _refused("no_such_correction", "correction", "That correction is not open here.", "Choose another.")
    if not correction.possible:
        raise _refused("not_possible", "correction", correction.why_not, "Choose another.")
    return event.model_copy(
        update={
            "targets_g": correction.targets_g,
            "words": f"{found.words} {correction.title}: {correction.text}"[:2000],
        }
    )


def _as_recorded(event: Event, batch: BatchWork, state: RunState) -> Event:
    """The event as the record keeps it: what the server knows better than the device is put in here."""
    if isinstance(event, Started):
        return begin(batch.work.planned)
    if isinstance(event, CorrectionTaken) and event.item in state.captured_g:
        return _completed(event, batch, state)
    if isinstance(event, Captured) and event.source == "scale":
        # A load comes on top of what is in the bowl, unless the bowl was emptied before the tare.
        return event.model_copy(update={"adds": not (state.tare is not None and state.tare.emptied)})
    if isinstance(event, Captured):
        return event.model_copy(update={"tare": ""})
    return event


def add_event(
    batch_id: str,
    key: str,
    event: Event,
    after_seq: int | None,
    *,
    batches: BatchStore,
    moulds: MouldStore,
    devices: Workbench,
) -> Run:
    """Add to the record, once for each `key`; what it teaches a mould and what a batch begins with is in the same commit.

    Raises UnknownBatchError, StaleRecordError, or FormulaError with why it cannot be.
    """
    if isinstance(event, Photographed | Tared):
        raise _refused(
            "not_by_itself", "kind", "That is recorded by what causes it.", "Add a picture, or tare the scale."
        )
    batch = work_of(batches.get(batch_id), batches)
    stops = [f"{finding.headline} {finding.remedy}" for finding in batch.work.findings if finding.level == "stop"]
    added: list[Event] = []

    def decide(events: list[RecordedEvent]) -> Event:
        state = batch.state(events)
        # How the moulds took it is held against what was in the pot.
        work = batch.poured(state, batch.made(state)) if isinstance(event, Poured) else batch.work
        problem = refusal(event, state, batch.work.steps, work.planned, events, stops)
        if problem is not None:
            raise FormulaError([problem])
        added.append(_as_recorded(event, batch, state))
        return added[0]

    def then(session: Session, before: list[RecordedEvent], after: list[RecordedEvent]) -> None:
        if isinstance(event, Started):
            batches.keep_start(session, batch_id, frozen_json(batch.record.plan))
        elif isinstance(event, Poured | EntryAmended):
            _learn(session, batch, before, after)

    events = batches.add_event(batch_id, key, decide, after_seq, then=then)
    if added:  # It was not there already.
        devices.follow(added[0], batch.work.planned)
    return run_of(batch_id, batches, events)


def tare(
    batch_id: str,
    key: str,
    item: str,
    after_seq: int | None,
    *,
    emptied: bool,
    sure: bool,
    batches: BatchStore,
    devices: Workbench,
) -> Run:
    """Set the scale to zero for an item, and record it. Asks before material is tared away or a lost zero is passed over.

    Raises UnpluggedError, UnknownBatchError, StaleRecordError, or FormulaError with what has to be answered first.
    """
    batch = work_of(batches.get(batch_id), batches)

    def decide(events: list[RecordedEvent]) -> Event:
        state = batch.state(events)
        reading = devices.scale.read()
        asked = Tared(kind="tared", item=item, tare="asked", emptied=emptied)
        problem = refusal(asked, state, batch.work.steps, batch.work.planned, events) or tare_refusal(
            item, state, reading.tare, reading.weight_g, emptied=emptied, sure=sure
        )
        if problem is not None:
            raise FormulaError([problem])
        return Tared(kind="tared", item=item, tare=devices.scale.tare(), emptied=emptied)

    return run_of(batch_id, batches, batches.add_event(batch_id, key, decide, after_seq))


def add_photo(batch_id: str, key: str, name: str, media_type: str, content: bytes, batches: BatchStore) -> Run:
    """Keep a picture with its event. Raises UnknownBatchError, or FormulaError before make day has begun."""

    def check() -> None:
        if not batches.events(batch_id):
            raise _refused("not_started", "kind", "Make day has not begun.", "Begin it first.")

    events = batches.add_photo(batch_id, key, name, media_type, content, check)
    return run_of(batch_id, batches, events)


def _learn(session: Session, batch: BatchWork, before: list[RecordedEvent], after: list[RecordedEvent]) -> None:
    """What a batch teaches about its moulds, in place of what it taught before."""
    was, now = batch.state(before), batch.state(after)
    fills = batch.poured(now, batch.made(now)).planned.moulds
    for i, use in enumerate(batch.record.plan.moulds):
        taught, teaches = was.poured_ml.get(i), now.poured_ml.get(i)
        kept = MouldStore.get_in(session, use.mould.id) if taught != teaches else None
        if kept is not None and fills[i].batter_ml > 0:
            MouldStore.put_in(session, calibrated(kept, fills[i].batter_ml, teaches or 0.0, taught or 0.0))


def resume_devices(batches: BatchStore, devices: Workbench) -> None:
    """Let the simulated devices take up the batches that are being made, the latest last."""
    for record in reversed(batches.find()):
        with suppress(UnreadableError):
            state = state_of(batches.events(record.id), ()) if record.events else None
            if state is not None and state.status == "making":
                devices.resume(state)
