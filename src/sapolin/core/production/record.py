"""The record of a batch being made: events that are only ever added, and the state they add up to.

A scale shows what lies on it since its last tare, so each tare is an event too: only from it can be known whether a weight
that is read comes on top of what is in the bowl already, or is all of it.
"""

from collections.abc import Container, Mapping, Sequence
from typing import Annotated, Literal

from pydantic import Field

from sapolin.core.batch.planned import PlannedBatch
from sapolin.core.batch.procedure import COMBINE_STEP, MAKE_LYE_STEP, Role, Step, weigh_targets
from sapolin.core.quantities.model import FiniteNumber, Model

__all__ = [
    "Aborted",
    "Burst",
    "Captured",
    "Chose",
    "CorrectionTaken",
    "EntryAmended",
    "Event",
    "Finished",
    "Noted",
    "Photographed",
    "Poured",
    "RecordedEvent",
    "RunState",
    "Started",
    "StepDone",
    "Tare",
    "Tared",
    "Temperature",
    "TraceStage",
    "Traced",
    "begin",
    "is_used",
    "started_of",
    "state_of",
]

Item = Annotated[str, Field(min_length=1, max_length=40)]
Text = Annotated[str, Field(max_length=2000)]
TraceStage = Literal["emulsion", "light", "medium", "heavy", "seized"]


class Started(Model):
    """Make day begins."""

    kind: Literal["started"]
    targets_g: dict[Item, FiniteNumber] = Field(default={}, max_length=120)
    """What is to be weighed, g, as it stood then: a newer catalogue or rule does not move the targets of a batch in work."""
    unmould_from_h: FiniteNumber | None = None
    """When it may be unmoulded after pouring, from and to, as it was expected then."""
    unmould_to_h: FiniteNumber | None = None

    @property
    def oils_g(self) -> float:
        """All oils together, g."""
        return sum(grams for item, grams in self.targets_g.items() if item.startswith("oil:"))

    @property
    def unmould_hours(self) -> tuple[float, float] | None:
        """From when to when it may be unmoulded, h after pouring."""
        if self.unmould_from_h is None or self.unmould_to_h is None:
            return None
        return self.unmould_from_h, self.unmould_to_h


class StepDone(Model):
    """A step is done."""

    kind: Literal["step_done"]
    step: Item
    confirmed: tuple[Text, ...] = Field(default=(), max_length=20)
    """What was confirmed, word by word."""


class Tared(Model):
    """The scale was set to zero for an item."""

    kind: Literal["tared"]
    item: Item
    tare: Annotated[str, Field(min_length=1, max_length=64)]
    """Names this zero of the scale; readings name the zero they count from."""
    emptied: bool = False
    """Nothing of the item was in the container: what is read from here on is all of it."""


class Captured(Model):
    """A weight was taken."""

    kind: Literal["captured"]
    item: Item
    weight_g: FiniteNumber
    """What was read: of the load alone when it `adds`."""
    source: Literal["scale", "typed"]
    tared: bool = True
    """Of older records: the scale showed nothing but this item."""
    tare: Annotated[str, Field(max_length=64)] = ""
    """The zero that a scale counted from; empty for a typed weight and in older records."""
    adds: bool = False
    """It comes on top of what is in the bowl. For a weight from the scale this follows from the tares, whatever is sent; for
    a typed one it is as the maker said."""
    sure: bool = False
    """It was asked about, and stands."""


class CorrectionTaken(Model):
    """What was done about a weight that is off."""

    kind: Literal["correction_taken"]
    item: Item
    correction: Literal["pour_on", "remove", "keep_blend", "keep_size", "match_lye", "accept"]
    targets_g: dict[Item, FiniteNumber] = Field(default={}, max_length=120)
    """Targets from now on, g; those not named stay."""
    words: Text = ""


class Temperature(Model):
    """A temperature was read."""

    kind: Literal["temperature"]
    bowl: Literal["oils", "lye"]
    celsius: FiniteNumber
    read_in: Literal["C", "F"] = "C"
    """The unit it was read in."""
    source: Literal["thermometer", "typed"]
    sure: bool = False
    """It was asked about, and stands."""


class Chose(Model):
    """Something was decided on the way."""

    kind: Literal["chose"]
    what: Literal["ice_bath", "heat_pad", "fridge"]


class Traced(Model):
    """The batter reached a stage."""

    kind: Literal["traced"]
    stage: TraceStage


class Burst(Model):
    """A burst of the blender."""

    kind: Literal["burst"]


class Noted(Model):
    """A note."""

    kind: Literal["noted"]
    text: Annotated[str, Field(min_length=1, max_length=2000)]
    next_time: bool = False
    """It comes back with the formula."""


class Photographed(Model):
    """A picture was added."""

    kind: Literal["photographed"]
    file_id: int
    name: Text


class Poured(Model):
    """How the moulds really took it."""

    kind: Literal["poured"]
    mould: Annotated[int, Field(ge=0, le=20)]
    difference_ml: FiniteNumber
    """Left over (above 0) or missing to the planned fill (below 0), mL."""


class EntryAmended(Model):
    """An earlier event does not count, or counts with another weight; it stays in the record."""

    kind: Literal["amended"]
    seq: int
    reason: Annotated[str, Field(min_length=1, max_length=500)]
    in_bowl: bool | None = None
    """Of a weight: what was weighed is in the bowl or the pot. False: it is not, and is weighed anew."""
    weight_g: FiniteNumber | None = None
    """Of a weight that is in there: the true one, g, of that load alone."""


class Aborted(Model):
    """The batch was given up."""

    kind: Literal["aborted"]
    reason: Annotated[str, Field(min_length=1, max_length=500)]


class Finished(Model):
    """Poured and covered."""

    kind: Literal["finished"]


Event = Annotated[
    Started | StepDone | Tared | Captured | CorrectionTaken | Temperature | Chose | Traced | Burst | Noted | Photographed | Poured
    | EntryAmended | Aborted | Finished,
    Field(discriminator="kind"),
]  # fmt: skip


class RecordedEvent(Model):
    """An event as kept."""

    seq: int
    """Counts the events of a batch from 1."""
    at: str
    """UTC, ISO 8601."""
    event: Event


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
    emptied: bool
    """Nothing of the item was in the container then."""


class Mark(Model):
    """Something that happened at a time."""

    seq: int
    at: str
    what: str


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


def begin(planned: PlannedBatch) -> Started:
    """The event with which the making of a planned batch begins."""
    targets_g = {target.item: target.target_g for target in weigh_targets(planned)}
    low_h, high_h = planned.unmould_hours or (None, None)
    return Started(kind="started", targets_g=targets_g, unmould_from_h=low_h, unmould_to_h=high_h)


def started_of(events: Sequence[RecordedEvent]) -> Started | None:
    """What stood when it was begun; null when it is not."""
    return next((record.event for record in events if isinstance(record.event, Started)), None)


def state_of(events: Sequence[RecordedEvent], steps: Sequence[Step]) -> RunState:
    """Add up `events`, of which corrected ones no longer count, over the `steps` of the batch."""
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
    captured: dict[str, float] = {}
    tare: Tare | None = None
    on_scale: dict[str, float] = {}
    said_done: set[str] = set()
    readings, marks, notes, next_time, photos = [], [], [], [], []
    poured: dict[int, float] = {}
    started = ended = combined = None
    reason, bursts = "", 0
    for record in counting:
        event = record.event
        if isinstance(event, Started):
            started = started or record.at
            targets |= {item: grams for item, grams in event.targets_g.items() if item in targets}
        elif isinstance(event, StepDone):
            said_done.add(event.step)
            combined = record.at if event.step == COMBINE_STEP else combined
        elif isinstance(event, Tared):
            tare, on_scale = Tare(tare=event.tare, item=event.item, emptied=event.emptied), {}
        elif isinstance(event, Captured):
            before = captured.get(event.item, 0.0) if event.adds else 0.0
            weight_g = true_g.get(record.seq, event.weight_g)
            if not event.adds or event.source == "typed":
                captured[event.item] = before + weight_g
            else:
                # The same zero read again: what it showed before is in what it shows now.
                captured[event.item] = before + weight_g - on_scale.get(event.item, 0.0)
            if event.source == "typed":
                # What the scale shows is no longer what the record counts.
                tare, on_scale = None, {}
            elif event.tare:
                on_scale[event.item] = weight_g
        elif isinstance(event, CorrectionTaken):
            targets |= {item: grams for item, grams in event.targets_g.items() if item in targets}
            if event.correction in ("remove", "pour_on"):
                # What is in the bowl is weighed again once the excess is out, or the rest is in.
                said_done.discard(f"weigh-{event.item}")
            elif event.item in captured and event.item in targets:
                # What is accepted is the target from then on: whatever follows it follows what is really there.
                targets[event.item] = captured[event.item]
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
        if item in captured and (_fits(captured[item], target, tolerances[item]) or is_used(item, roles, said_done))
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


def _fits(captured: float, target: float, tolerance: float) -> bool:
    return abs(captured - target) <= tolerance + 1e-9


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
        if item in captured and (_fits(captured[item], target, tolerances[item]) or is_used(item, roles, said_done)):
            continue
        said_done.discard(f"weigh-{item}")


def is_used(item: str, roles: Mapping[str, Role], done: Container[str]) -> bool:
    """Whether what was weighed of `item` has gone where no more of it can follow: into the lye, or to where lye met oil."""
    if COMBINE_STEP in done:
        return True
    return MAKE_LYE_STEP in done and roles.get(item) in ("lye", "water", "liquid")
