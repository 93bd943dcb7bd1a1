"""What the record of a batch adds up to: which steps are done, what was weighed, and what comes next."""

from collections.abc import Container, Mapping, Sequence
from typing import Literal, NamedTuple

from pydantic import Field

from sapolin.core.batch.procedure import COMBINE_STEP, MAKE_LYE_STEP, SoapTestKind, Step
from sapolin.core.batch.targets import Role, is_within
from sapolin.core.production.events import (
    Aborted,
    Burst,
    Captured,
    Chose,
    CorrectionTaken,
    EntryAmended,
    Finished,
    LotChosen,
    Noted,
    Packed,
    Photographed,
    Poured,
    RecordedEvent,
    SoapTested,
    StageReached,
    Started,
    StepDone,
    Tared,
    Temperature,
    Traced,
)
from sapolin.core.quantities.model import Model, Truth

__all__ = ["LotInUse", "Mark", "PackedSeen", "Reading", "RunState", "SoapTestSeen", "Tare", "is_used", "state_of"]


class Reading(Model):
    """A temperature at its time."""

    seq: int
    at: str
    bowl: Literal["oils", "lye"]
    celsius: float


class Tare(Model):
    """The zero that the scale counts from, and what it was set for."""

    tare: str
    item: str
    emptied: Truth
    """Nothing of the item was in the container then."""


class LotInUse(Model):
    """The lot that an item is taken from."""

    lot_id: str
    code: str
    """Empty: from no lot that is kept."""
    purity_percent: float | None
    """Of lye."""


class Mark(Model):
    """Something that happened at a time."""

    seq: int
    at: str
    what: str


class SoapTestSeen(Model):
    """A test and how it came out."""

    seq: int
    at: str
    test: SoapTestKind
    outcome: str
    passed: Truth
    ph: float | None


class PackedSeen(Model):
    """What went into jars."""

    seq: int
    at: str
    jars: int
    weight_g: float


class RunState(Model):
    """What the events add up to."""

    status: Literal["planned", "making", "aborted", "made"]
    seq: int
    """Of the last event; 0 when there is none."""
    started_at: str | None
    ended_at: str | None
    done: tuple[str, ...]
    """Ids of the steps that are done, in order of work."""
    current: str | None
    """Id of the first step that is not; null when all are."""
    targets_g: dict[str, float]
    captured_g: dict[str, float]
    tare: Tare | None
    """The zero that the next reading of the scale counts from; null when the scale has to be tared first."""
    on_scale_g: dict[str, float]
    """What each item weighed when it was last read from the scale under the present zero, g: the scale shows it still."""
    settled: tuple[str, ...]
    """Items whose weight is right, or was accepted (then it is the target itself), or can no longer change."""
    readings: tuple[Reading, ...]
    marks: tuple[Mark, ...]
    """Stages of trace and choices, in order."""
    combined_at: str | None
    """When the lye met the oils."""
    bursts: int
    notes: tuple[Mark, ...]
    next_time: tuple[str, ...]
    photos: tuple[Mark, ...]
    poured_ml: dict[int, float]
    """Left over or missing, by mould, mL."""
    abort_reason: str
    stages: tuple[Mark, ...] = ()
    """Stages of what is cooked or left to saponify, as they were reached."""
    tests: tuple[SoapTestSeen, ...] = ()
    packed: PackedSeen | None = None
    """Null while nothing is in jars."""
    lots: dict[str, LotInUse] = Field(default={})
    """The lot that each item is taken from, where one was chosen."""
    taken_g: dict[str, dict[str, float]] = Field(default={})
    """What was weighed of each item by the id of the lot chosen then, g; under an empty id where none was."""


class _LyeTarget(NamedTuple):
    """How much lye is to be weighed, for the purity it was calculated with: the plan's, or that of a lot."""

    grams: float
    purity_percent: float


def state_of(
    events: Sequence[RecordedEvent], steps: Sequence[Step], purities_percent: Mapping[str, float] | None = None
) -> RunState:
    """Add up `events`, of which corrected ones no longer count, over the `steps` of the batch.

    `purities_percent` holds what the plan was calculated with, by item (`lye:naoh`). From a lot of another purity as much is
    to be weighed as holds the same hydroxide; without that lot the target is the planned one again.
    """
    planned_percent = purities_percent or {}
    true_g = {
        record.event.seq: record.event.weight_g
        for record in events
        if isinstance(record.event, EntryAmended) and record.event.weight_g is not None
    }
    void = {record.event.seq for record in events if isinstance(record.event, EntryAmended)} - set(true_g)
    counting = [record for record in events if record.seq not in void]
    unfounded = _decided_on_a_wrong_weight(events)
    counting = [record for record in counting if record.seq not in unfounded]
    roles = {step.weigh.item: step.weigh.role for step in steps if step.weigh}
    targets = {step.weigh.item: step.weigh.target_g for step in steps if step.weigh}
    tolerances = {step.weigh.item: step.weigh.tolerance_g for step in steps if step.weigh}
    decimals = {step.weigh.item: step.weigh.decimals for step in steps if step.weigh}
    captured: dict[str, float] = {}
    lots: dict[str, LotInUse] = {}
    lye_targets: dict[str, _LyeTarget] = {}
    taken: dict[str, dict[str, float]] = {}
    tare: Tare | None = None
    on_scale: dict[str, float] = {}
    said_done: set[str] = set()
    readings, marks, notes, next_time, photos = [], [], [], [], []
    poured: dict[int, float] = {}
    stages: list[Mark] = []
    tests: list[SoapTestSeen] = []
    packed: PackedSeen | None = None
    started = ended = combined = None
    reason, bursts = "", 0

    def purity_percent(item: str) -> float | None:
        chosen = lots[item].purity_percent if item in lots else None
        return planned_percent.get(item) if chosen is None else chosen

    def aim(targets_g: Mapping[str, float]) -> None:
        """From now on these are to be weighed; of a lye, of the purity it has now."""
        for item, grams in targets_g.items():
            if item not in targets:
                continue
            targets[item], percent = grams, purity_percent(item)
            if percent is not None:
                lye_targets[item] = _LyeTarget(grams, percent)

    aim(dict(targets))
    for record in counting:
        event = record.event
        if isinstance(event, Started):
            started = started or record.at
            aim(event.targets_g)
        elif isinstance(event, StepDone):
            said_done.add(event.step)
            combined = record.at if event.step == COMBINE_STEP else combined
        elif isinstance(event, Tared):
            tare, on_scale = Tare(tare=event.tare, item=event.item, emptied=event.emptied), {}
        elif isinstance(event, LotChosen):
            lots[event.item] = LotInUse(lot_id=event.lot_id, code=event.code, purity_percent=event.purity_percent)
            lye, percent = lye_targets.get(event.item), purity_percent(event.item)
            if lye is not None and percent is not None:
                same = percent == lye.purity_percent
                holding_as_much = lye.grams * lye.purity_percent / percent
                targets[event.item] = lye.grams if same else round(holding_as_much, decimals[event.item])
        elif isinstance(event, Captured):
            before = captured.get(event.item, 0.0) if event.adds else 0.0
            weight_g = true_g.get(record.seq, event.weight_g)
            if not event.adds or event.source == "typed":
                captured[event.item] = before + weight_g
            else:
                # The same zero read again: what it showed before is in what it shows now.
                captured[event.item] = before + weight_g - on_scale.get(event.item, 0.0)
            lot_id = lots[event.item].lot_id if event.item in lots else ""
            by_lot = taken.setdefault(event.item, {}) if event.adds else {}
            by_lot[lot_id] = by_lot.get(lot_id, 0.0) + captured[event.item] - before
            taken[event.item] = by_lot
            if event.source == "typed":
                # What the scale shows is no longer what the record counts.
                tare, on_scale = None, {}
            elif event.tare:
                on_scale[event.item] = weight_g
        elif isinstance(event, CorrectionTaken):
            aim(event.targets_g)
            if event.correction in ("remove", "pour_on"):
                # What is in the bowl is weighed again once the excess is out, or the rest is in.
                said_done.discard(f"weigh-{event.item}")
            elif event.item in captured and event.item in targets:
                # What is accepted is the target from then on: whatever follows it follows what is really there.
                aim({event.item: captured[event.item]})
            _reopen(targets, tolerances, captured, said_done, roles)
        elif isinstance(event, Temperature):
            readings.append(Reading(seq=record.seq, at=record.at, bowl=event.bowl, celsius=event.celsius))
        elif isinstance(event, Traced):
            marks.append(Mark(seq=record.seq, at=record.at, what=event.stage))
        elif isinstance(event, Chose):
            marks.append(Mark(seq=record.seq, at=record.at, what=event.what))
        elif isinstance(event, Burst):
            bursts += 1
        elif isinstance(event, Noted):
            notes.append(Mark(seq=record.seq, at=record.at, what=event.text))
            if event.next_time:
                next_time.append(event.text)
        elif isinstance(event, Photographed):
            photos.append(Mark(seq=record.seq, at=record.at, what=f"{event.file_id}:{event.name}"))
        elif isinstance(event, StageReached):
            stages.append(Mark(seq=record.seq, at=record.at, what=event.stage))
        elif isinstance(event, SoapTested):
            tests.append(
                SoapTestSeen(
                    seq=record.seq, at=record.at, test=event.test, outcome=event.outcome, passed=event.passed, ph=event.ph
                )
            )  # fmt: skip
        elif isinstance(event, Packed):
            packed = PackedSeen(seq=record.seq, at=record.at, jars=event.jars, weight_g=event.weight_g)
        elif isinstance(event, Poured):
            poured[event.mould] = event.difference_ml
        elif isinstance(event, EntryAmended):
            _reopen(targets, tolerances, captured, said_done, roles)
        elif isinstance(event, Aborted):
            ended, reason = record.at, event.reason
        elif isinstance(event, Finished):
            ended = record.at
    settled = tuple(
        item
        for item, target in targets.items()
        if item in captured
        and (is_within(captured[item] - target, tolerances[item]) or is_used(item, roles, said_done))
    )
    done = tuple(step.id for step in steps if step.id in said_done)
    ended_by = next((r.event.kind for r in reversed(counting) if isinstance(r.event, Aborted | Finished)), None)
    status: Literal["planned", "making", "aborted", "made"] = "planned" if started is None else "making"
    if ended_by is not None:
        status = "aborted" if ended_by == "aborted" else "made"
    return RunState(
        status=status,
        seq=events[-1].seq if events else 0,
        started_at=started,
        ended_at=ended,
        done=done,
        current=next((step.id for step in steps if step.id not in said_done), None),
        targets_g=targets,
        captured_g=captured,
        tare=tare,
        on_scale_g=on_scale,
        settled=settled,
        readings=tuple(readings),
        marks=tuple(marks),
        combined_at=combined,
        bursts=bursts,
        notes=tuple(notes),
        next_time=tuple(next_time),
        photos=tuple(photos),
        poured_ml=poured,
        abort_reason=reason,
        stages=tuple(stages),
        tests=tuple(tests),
        packed=packed,
        lots=lots,
        taken_g=taken,
    )


def _decided_on_a_wrong_weight(events: Sequence[RecordedEvent]) -> set[int]:
    """Decisions about a weight that was corrected afterwards: nothing was decided about the true one."""
    weights = {record.seq: record.event.item for record in events if isinstance(record.event, Captured)}
    corrections = [
        (record.seq, record.event.seq, weights[record.event.seq])
        for record in events
        if isinstance(record.event, EntryAmended) and record.event.seq in weights
    ]
    return {
        record.seq
        for record in events
        if isinstance(record.event, CorrectionTaken)
        and any(
            weighed < record.seq < corrected and item == record.event.item for corrected, weighed, item in corrections
        )
    }


def _reopen(
    targets: Mapping[str, float],
    tolerances: Mapping[str, float],
    captured: Mapping[str, float],
    said_done: set[str],
    roles: Mapping[str, Role],
) -> None:
    """Weighings whose weight no longer stands, or whose target has moved away from it, are to be done again.

    What is in the lye, or has met it, is not poured a second time: its weight counts as it is.
    """
    for item, target in targets.items():
        if item in captured and (
            is_within(captured[item] - target, tolerances[item]) or is_used(item, roles, said_done)
        ):
            continue
        said_done.discard(f"weigh-{item}")


def is_used(item: str, roles: Mapping[str, Role], done: Container[str]) -> bool:
    """Whether what was weighed of `item` has gone where no more of it can follow: into the lye, or to where lye met oil."""
    if COMBINE_STEP in done:
        return True
    return MAKE_LYE_STEP in done and roles.get(item) in ("lye", "water", "liquid")
