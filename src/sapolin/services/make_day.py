"""Make day: adding to the record of a batch, and what the record adds up to."""

from contextlib import suppress
from datetime import datetime, timedelta

from sqlalchemy.orm import Session

from sapolin.core.batch.frozen import PreparedBatch
from sapolin.core.batch.heat import gel_onset_hours
from sapolin.core.batch.moulds import calibrated
from sapolin.core.batch.procedure import closing_of, first_aid, process_of
from sapolin.core.batch.readiness import forbidden
from sapolin.core.production.abandoned import gone_items, what_to_do_with_the_bowls
from sapolin.core.production.actual import ActualBatch, expected_g
from sapolin.core.production.cooling import CoolingForecast, cooling_forecast
from sapolin.core.production.corrections import Deviation, deviation
from sapolin.core.production.events import (
    IN_STEP,
    Aborted,
    Captured,
    CorrectionTaken,
    EntryAmended,
    Event,
    Finished,
    LotChosen,
    Photographed,
    Poured,
    RecordedEvent,
    SoapTested,
    Started,
    StepDone,
    Tared,
    begin,
    started_of,
)
from sapolin.core.production.guard import amendable, passes, refusal
from sapolin.core.production.lots import lot_refusal, with_lots
from sapolin.core.production.state import LotInUse, RunState, state_of
from sapolin.core.production.weighing import WeighingNow, tare_refusal, weighing_now
from sapolin.core.quantities.diagnostics import FormulaError, stopping
from sapolin.core.quantities.model import Model
from sapolin.core.quantities.text import Text, plain
from sapolin.devices.protocol import UnpluggedError
from sapolin.devices.workbench import Workbench
from sapolin.services import batches as batch_work
from sapolin.services.batches import (
    BatchWork,
    Outcome,
    frozen_json,
    outcome_of,
    poured_batch,
    poured_steps,
    work_of,
)
from sapolin.services.followed import FollowedBatch
from sapolin.services.learning import keep_prediction_in
from sapolin.services.taking import chosen, lot_in_the_way, settle
from sapolin.store.batches import BatchConflictError, BatchRecord, BatchStore
from sapolin.store.clock import utc_now
from sapolin.store.cures import CureStore
from sapolin.store.moulds import MouldStore
from sapolin.store.reading import UnreadableError
from sapolin.store.stores import Stores

__all__ = ["NotWeighedError", "Progress", "Run", "add_event", "add_photo", "deviation_of", "progress_of", "resume_devices",
           "run_of", "tare"]  # fmt: skip


class NotWeighedError(LookupError):
    """There is no such weighing, or its weight has not been taken yet."""


class Progress(Model):
    """How far a batch has come: what changes from event to event."""

    events: int
    """How many its record holds."""
    state: RunState
    weighing: WeighingNow | None
    """The weighing it is at; null when the next step is none."""
    actual: ActualBatch
    """As weighed so far; what is not weighed yet, or still to be topped up, at its target."""
    poured: batch_work.Poured | None
    """What follows from the weights, when this event changed it; null: as it was."""
    cooling: CoolingForecast
    amendable: tuple[int, ...]
    """The entries of the record that can be amended, by their numbers."""
    now: str
    """The server's clock, UTC."""
    minute: float
    """Minutes since it was begun."""
    unmould_from: str | None
    """When it may be unmoulded, UTC; an estimate, null until it is covered."""
    unmould_to: str | None
    given_up: tuple[str, ...]
    """Of an abandoned batch: what to do with what is in the bowls."""


class Run(Model):
    """A batch being made, as every device shows it: what was planned, and how far it has come."""

    record: BatchRecord
    prepared: PreparedBatch
    """As planned until it begins; from then on volume, portions and moulds follow what was weighed."""
    phases: tuple[str, ...]
    """The stretches of the work, in order."""
    gel_onset_hours: float
    """About when gel is seen after pouring, insulated; an estimate."""
    first_aid: tuple[str, ...]
    closing: Text
    """What is said when the last step is done."""
    progress: Progress


def _minutes(at: str, since: str | None) -> float:
    if since is None:
        return 0.0
    return (datetime.fromisoformat(at) - datetime.fromisoformat(since)).total_seconds() / 60


def _after(at: str, hours: float) -> str:
    return (datetime.fromisoformat(at) + timedelta(hours=hours)).isoformat(timespec="seconds")


def run_of(batch_id: str, batches: BatchStore) -> Run:
    """The batch as far as it has come. Raises UnknownBatchError, FormulaError."""
    record = batches.get(batch_id)
    events = batches.events(batch_id)
    work = work_of(record, batches)
    progress, outcome = _progress(work, events, batches)
    prepared = work.prepared.model_copy(
        update={
            "planned": poured_batch(work.planned, outcome.poured),
            "steps": poured_steps(work.steps, outcome.poured),
        }
    )
    with work.in_force():
        gel_hours = gel_onset_hours(work.planned.result.water.lye_concentration_percent)
    return Run(
        record=record,
        prepared=prepared,
        phases=tuple(dict.fromkeys(step.phase for step in work.steps)),
        gel_onset_hours=gel_hours,
        first_aid=first_aid(),
        closing=closing_of(work.prepared.process or process_of(record.plan, work.planned)),
        progress=progress,
    )


def progress_of(batch_id: str, batches: BatchStore) -> Progress:
    """How far the batch has come, without what was planned. Raises UnknownBatchError, FormulaError."""
    work = work_of(batches.get(batch_id), batches)
    progress, outcome = _progress(work, batches.events(batch_id), batches)
    return progress.model_copy(update={"poured": outcome.poured})


def _progress(work: BatchWork, events: list[RecordedEvent], batches: BatchStore) -> tuple[Progress, Outcome]:
    state = work.state(events)
    outcome = outcome_of(work, state, batches)
    now = utc_now()
    minute = _minutes(now, state.started_at)
    oils, lye = (
        [(_minutes(r.at, state.started_at), r.celsius) for r in state.readings if r.bowl == bowl]
        for bowl in ("oils", "lye")
    )
    started = started_of(events)
    unmould = (started.unmould_hours if started else None) or work.planned.unmould_hours
    covered = state.ended_at if state.status == "made" else None
    step = next((step for step in work.steps if step.id == state.current), None)
    return Progress(
        events=len(events),
        state=state,
        weighing=weighing_now(step.weigh, state) if step is not None and step.weigh is not None else None,
        actual=outcome.actual,
        poured=None,
        cooling=cooling_forecast(oils, lye, work.planned.window, work.planned.room_c, minute),
        amendable=amendable(events),
        now=now,
        minute=minute,
        unmould_from=_after(covered, unmould[0]) if covered and unmould else None,
        unmould_to=_after(covered, unmould[1]) if covered and unmould else None,
        given_up=what_to_do_with_the_bowls(work.steps, state) if state.status == "aborted" else (),
    ), outcome  # fmt: skip


def _changed(work: BatchWork, before: list[RecordedEvent], after: list[RecordedEvent], batches: BatchStore) -> Progress:
    """How far the batch has come with `after`, and what that changed of what is to be poured."""
    progress, outcome = _progress(work, after, batches)
    was = work.state(before)
    if _pours_like(was) == _pours_like(progress.state) or outcome.poured == work.outcome(was).poured:
        return progress
    return progress.model_copy(update={"poured": outcome.poured})


def _pours_like(state: RunState) -> tuple[bool, dict[str, float], dict[str, LotInUse]]:
    """All of a record that what is poured follows from."""
    return state.status == "planned", expected_g(state), state.lots


def _deviation(work: BatchWork, state: RunState, item: str) -> Deviation:
    weigh = next((step.weigh for step in work.steps if step.weigh and step.weigh.item == item), None)
    if weigh is None or item not in state.captured_g:
        raise NotWeighedError(item)
    with work.in_force():
        planned = with_lots(work.planned, state.lots)
        return deviation(work.record.plan, planned, state.targets_g, state.captured_g, weigh)


def deviation_of(batch_id: str, item: str, batches: BatchStore) -> Deviation:
    """What a weight that is off does, and the corrections there are. Raises UnknownBatchError, NotWeighedError."""
    work = work_of(batches.get(batch_id), batches)
    return _deviation(work, work.state(batches.events(batch_id)), item)


def _completed(event: CorrectionTaken, work: BatchWork, state: RunState) -> CorrectionTaken:
    """The correction with the targets it leads to, calculated here whatever the device sent."""
    found = _deviation(work, state, event.item)
    chosen = next((one for one in found.corrections if one.correction == event.correction), None)
    if chosen is None:
        raise FormulaError([stopping("no_such_correction", "correction")])
    if not chosen.possible:
        raise FormulaError([stopping("correction_not_possible", "correction", why=plain(chosen.why_not))])
    words = (*found.words, " ", chosen.title, ": ", *chosen.text)
    return event.model_copy(update={"targets_g": chosen.targets_g, "words": words})


def _as_recorded(event: Event, work: BatchWork, state: RunState) -> Event:
    """The event as the record keeps it: what the server knows better than the device is put in here."""
    if isinstance(event, Started):
        return begin(work.planned, work.record.revision)
    if isinstance(event, CorrectionTaken) and event.item in state.captured_g:
        return _completed(event, work, state)
    if isinstance(event, Captured) and event.source == "scale":
        # A load comes on top of what is in the bowl, unless the bowl was emptied before the tare.
        return event.model_copy(update={"adds": not (state.tare is not None and state.tare.emptied)})
    if isinstance(event, Captured):
        return event.model_copy(update={"tare": ""})
    if isinstance(event, SoapTested):
        with work.in_force():
            return event.model_copy(update={"passed": passes(event, work.steps)})
    return event


def add_event(
    batch_id: str,
    key: str,
    event: Event,
    after_seq: int | None,
    *,
    stores: Stores,
    devices: Workbench,
) -> Progress:
    """Add to the record, once for each `key`; what it teaches a mould, what a batch begins with, what became of it when it is
    over and what it took from the shelf are in the same commit.

    Raises UnknownBatchError, StaleRecordError, BatchConflictError when another plan than the one shown would be begun, or
    FormulaError with why it cannot be.
    """
    if isinstance(event, Photographed | Tared):
        raise FormulaError([stopping("not_by_itself", "kind")])
    if after_seq is None and isinstance(event, IN_STEP):
        raise FormulaError([stopping("record_not_seen", "after_seq")])
    if isinstance(event, Started) and event.plan_revision is None:
        raise FormulaError([stopping("plan_not_seen", "plan_revision")])
    batches = stores.batches
    work = work_of(batches.get(batch_id), batches)
    forbids = forbidden(work.prepared.diagnostics)
    today = stores.today()
    added: list[Event] = []
    records: list[list[RecordedEvent]] = []

    def decide(events: list[RecordedEvent]) -> Event:
        state = work.state(events)
        # How the moulds took it is compared with what was weighed.
        planned = (
            work.planned if not isinstance(event, Poured) else poured_batch(work.planned, work.outcome(state).poured)
        )
        problem = refusal(event, state, work.steps, planned, events, forbids)
        known: Event = event
        if problem is None and isinstance(event, Captured):
            problem = lot_in_the_way(event.item, work.planned, state, stores)
        elif problem is None and isinstance(event, LotChosen):
            known = chosen(event, work.planned, stores)
            problem = lot_refusal(work.planned, state, known, work.state_after(events, known))
        elif problem is None and isinstance(event, StepDone | Finished):
            problem = next((one for one in work.outcome(state).actual.problems if one.stops), None)
        if problem is not None:
            raise FormulaError([problem])
        added.append(_as_recorded(known, work, state))
        return added[0]

    def then(session: Session, before: list[RecordedEvent], after: list[RecordedEvent]) -> None:
        records.append(before)
        if isinstance(event, Started):
            batches.keep_start(session, batch_id, frozen_json(work.record.plan))
            keep_prediction_in(session, batch_id, work.planned.result)
        elif isinstance(event, Poured | EntryAmended):
            _learn(session, work, before, after)
        state = work.state(after)
        if state.status in ("made", "aborted"):
            batches.keep_outcome(session, batch_id, state.seq, work.outcome(state).model_dump_json())
        if state.status == "made":
            followed = FollowedBatch(work, after, state, work.outcome(state), CureStore.events_in(session, batch_id))
            CureStore.keep_taught_in(session, batch_id, followed.add_up(followed.events).taught)
        if isinstance(event, Finished | EntryAmended) and state.status == "made":
            amends = not isinstance(event, Finished)
            settle(session, batch_id, work.planned, state, stores.stock, after[-1].at, today, amends=amends)

        if isinstance(event, Aborted):
            gone = gone_items(work.steps, state, event)
            settle(session, batch_id, work.planned, state, stores.stock, after[-1].at, today, only=gone)

    plan_revision = event.plan_revision if isinstance(event, Started) else None
    if plan_revision is not None and work.record.events == 0 and plan_revision != work.record.revision:
        raise BatchConflictError(batch_id)
    events = batches.add_event(batch_id, key, decide, after_seq, then=then, plan_revision=plan_revision)
    if added:  # It was not there already.
        devices.follow(added[0], work.planned)
    return _changed(work, records[0] if records else events, events, batches)


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
) -> Progress:
    """Set the scale to zero for an item, and record it. Asks before material is tared away or a lost zero is passed over.

    Raises UnpluggedError, UnknownBatchError, StaleRecordError, or FormulaError with what has to be answered first.
    """
    scale = devices.scale
    if scale is None:
        raise UnpluggedError
    work = work_of(batches.get(batch_id), batches)

    def decide(events: list[RecordedEvent]) -> Event:
        state = work.state(events)
        reading = scale.read()
        asked = Tared(kind="tared", item=item, tare="asked", emptied=emptied)
        problem = refusal(asked, state, work.steps, work.planned, events) or tare_refusal(
            item, state, reading.tare, reading.weight_g, emptied=emptied, sure=sure
        )
        if problem is not None:
            raise FormulaError([problem])
        return Tared(kind="tared", item=item, tare=scale.tare(), emptied=emptied)

    return _progress(work, batches.add_event(batch_id, key, decide, after_seq), batches)[0]


def add_photo(batch_id: str, key: str, name: str, media_type: str, content: bytes, batches: BatchStore) -> Progress:
    """Keep a picture with its event. Raises UnknownBatchError, or FormulaError before make day has begun."""
    work = work_of(batches.get(batch_id), batches)

    def check() -> None:
        if not batches.events(batch_id):
            raise FormulaError([stopping("not_started", "kind")])

    def then(session: Session, _before: list[RecordedEvent], after: list[RecordedEvent]) -> None:
        state = work.state(after)
        if state.status in ("made", "aborted"):
            batches.keep_outcome(session, batch_id, state.seq, work.outcome(state).model_dump_json())

    events = batches.add_photo(batch_id, key, name, media_type, content, check, then=then)
    return _progress(work, events, batches)[0]


def _learn(session: Session, work: BatchWork, before: list[RecordedEvent], after: list[RecordedEvent]) -> None:
    """What a batch teaches about its moulds, in place of what it taught before."""
    was, now = work.state(before), work.state(after)
    fills = work.outcome(now).poured.moulds
    for i, use in enumerate(work.record.plan.moulds):
        taught, teaches = was.poured_ml.get(i), now.poured_ml.get(i)
        kept = MouldStore.get_in(session, use.mould.id) if taught != teaches else None
        if kept is not None and fills[i].batter_ml > 0:
            MouldStore.put_in(session, calibrated(kept, fills[i].batter_ml, teaches or 0.0, taught or 0.0))


def resume_devices(batches: BatchStore, devices: Workbench) -> None:
    """Let the simulated devices take up the batches that are being made, the latest last."""
    for batch_id in batches.perhaps_being_made():
        with suppress(UnreadableError):
            state = state_of(batches.events(batch_id), ())
            if state.status == "making":
                devices.resume(state)
