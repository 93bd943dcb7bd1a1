"""The record of a batch being made: events that are only ever added, and the state they add up to."""

from collections.abc import Mapping, Sequence
from typing import Annotated, Literal

from pydantic import Field

from sapolin.core.batch.planned import PlannedBatch
from sapolin.core.batch.steps import COMBINE_STEP, Step, weigh_targets
from sapolin.core.model import FiniteNumber, Model

__all__ = [
    "Aborted",
    "Burst",
    "Captured",
    "Chose",
    "Corrected",
    "Event",
    "Finished",
    "Noted",
    "Photographed",
    "Poured",
    "RecordedEvent",
    "RunState",
    "Started",
    "StepDone",
    "Temperature",
    "TraceStage",
    "Traced",
    "WayTaken",
    "begin",
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


class Captured(Model):
    """A weight was taken."""

    kind: Literal["captured"]
    item: Item
    weight_g: FiniteNumber
    source: Literal["scale", "typed"]
    tared: bool = True
    """The scale showed nothing but this item."""
    adds: bool = False
    """It comes on top of what was captured before; otherwise it takes its place."""


class WayTaken(Model):
    """What was done about a weight that is off."""

    kind: Literal["way_taken"]
    item: Item
    way: Literal["remove", "keep_blend", "keep_size", "match_lye", "accept"]
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


class Corrected(Model):
    """An earlier event does not count; it stays in the record."""

    kind: Literal["corrected"]
    seq: int
    reason: Annotated[str, Field(min_length=1, max_length=500)]


class Aborted(Model):
    """The batch was given up."""

    kind: Literal["aborted"]
    reason: Annotated[str, Field(min_length=1, max_length=500)]


class Finished(Model):
    """Poured and covered."""

    kind: Literal["finished"]


Event = Annotated[
    Started | StepDone | Captured | WayTaken | Temperature | Chose | Traced | Burst | Noted | Photographed | Poured
    | Corrected | Aborted | Finished,
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
    settled: tuple[str, ...]
    """Items whose weight is right, or was accepted: then it is the target itself."""
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
    void = {record.event.seq for record in events if isinstance(record.event, Corrected)}
    counting = [record for record in events if record.seq not in void]
    targets = {step.weigh.item: step.weigh.target_g for step in steps if step.weigh}
    tolerances = {step.weigh.item: step.weigh.tolerance_g for step in steps if step.weigh}
    captured: dict[str, float] = {}
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
        elif isinstance(event, Captured):
            before = captured.get(event.item, 0.0) if event.adds else 0.0
            captured[event.item] = before + event.weight_g
        elif isinstance(event, WayTaken):
            targets |= {item: grams for item, grams in event.targets_g.items() if item in targets}
            if event.way == "remove":
                # What is in the bowl is weighed again once the excess is out.
                said_done.discard(f"weigh-{event.item}")
            elif event.item in captured and event.item in targets:
                # What is accepted is the target from then on: whatever follows it follows what is really there.
                targets[event.item] = captured[event.item]
            _reopen(targets, tolerances, captured, said_done)
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
        elif isinstance(event, Corrected):
            _reopen(targets, tolerances, captured, said_done)
        elif isinstance(event, Aborted):
            ended, reason = record.at, event.reason
        elif isinstance(event, Finished):
            ended = record.at
    settled = tuple(
        item for item, target in targets.items() if item in captured and _fits(captured[item], target, tolerances[item])
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


def _fits(captured: float, target: float, tolerance: float) -> bool:
    return abs(captured - target) <= tolerance + 1e-9


def _reopen(
    targets: Mapping[str, float],
    tolerances: Mapping[str, float],
    captured: Mapping[str, float],
    said_done: set[str],
) -> None:
    """Weighings whose weight no longer stands, or whose target has moved away from it, are to be done again."""
    for item, target in targets.items():
        if item not in captured or not _fits(captured[item], target, tolerances[item]):
            said_done.discard(f"weigh-{item}")
