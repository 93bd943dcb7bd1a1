"""The events of make day, which are only ever added to the record of a batch.

A scale shows what lies on it since its last tare, so each tare is an event too: only from it can be known whether a weight
that is read comes on top of what is in the bowl already, or is all of it.
"""

from collections.abc import Sequence
from typing import Annotated, Literal

from pydantic import Field

from sapolin.core.batch.planned import PlannedBatch
from sapolin.core.batch.procedure import SoapTestKind
from sapolin.core.batch.targets import weigh_targets
from sapolin.core.quantities.model import FiniteNumber, Model, Truth
from sapolin.core.quantities.text import Text

__all__ = [
    "IN_STEP",
    "Aborted",
    "Burst",
    "Captured",
    "Chose",
    "CorrectionTaken",
    "EntryAmended",
    "Event",
    "Finished",
    "LotChosen",
    "Noted",
    "Packed",
    "Photographed",
    "Poured",
    "RecordedEvent",
    "SaltStepped",
    "SoapTested",
    "StageReached",
    "Started",
    "StepDone",
    "Tared",
    "Temperature",
    "TraceStage",
    "Traced",
    "begin",
    "started_of",
]  # fmt: skip

Item = Annotated[str, Field(min_length=1, max_length=40)]
Line = Annotated[str, Field(max_length=2000)]
TraceStage = Literal["emulsion", "light", "medium", "heavy", "seized"]


class Started(Model):
    """Make day begins."""

    kind: Literal["started"]
    targets_g: dict[Item, FiniteNumber] = Field(default={}, max_length=120)
    """What is to be weighed, g, as it stood then: a newer catalogue or rule does not move the targets of a batch in work."""
    unmould_from_h: FiniteNumber | None = None
    """When it may be unmoulded after pouring, from and to, as it was expected then."""
    unmould_to_h: FiniteNumber | None = None
    plan_revision: Annotated[int, Field(ge=1)] | None = None
    """Of the plan that was shown when it was begun; no other is begun. Null for work that is no batch, and in older records."""

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
    confirmed: tuple[Line, ...] = Field(default=(), max_length=20)
    """What was confirmed, word by word."""


class Tared(Model):
    """The scale was set to zero for an item."""

    kind: Literal["tared"]
    item: Item
    tare: Annotated[str, Field(min_length=1, max_length=64)]
    """Names this zero of the scale; readings name the zero they count from."""
    emptied: Truth = False
    """Nothing of the item was in the container: what is read from here on is all of it."""


class Captured(Model):
    """A weight was taken."""

    kind: Literal["captured"]
    item: Item
    weight_g: FiniteNumber
    """What was read: of the load alone when it `adds`."""
    source: Literal["scale", "typed"]
    tared: Truth = True
    """Of older records: the scale showed nothing but this item."""
    tare: Annotated[str, Field(max_length=64)] = ""
    """The zero that a scale counted from; empty for a typed weight and in older records."""
    adds: Truth = False
    """It comes on top of what is in the bowl. For a weight from the scale this follows from the tares, whatever is sent; for
    a typed one it is as the maker said."""
    sure: Truth = False
    """It was asked about, and stands."""


class LotChosen(Model):
    """From now on an item is taken from this lot: its code was typed or scanned."""

    kind: Literal["lot_chosen"]
    item: Item
    code: Annotated[str, Field(max_length=24)]
    """As it was read; empty: from no lot that is kept."""
    lot_id: Annotated[str, Field(max_length=32)] = ""
    """Found by its code, whatever is sent."""
    purity_percent: FiniteNumber | None = None
    """Of a lot of lye, from its label; null of all else. Found by its code, whatever is sent. What is to be weighed of a lye
    follows from it and is never part of the record."""
    sure: Truth = False
    """It was asked about, and stands."""


class CorrectionTaken(Model):
    """What was done about a weight that is off."""

    kind: Literal["correction_taken"]
    item: Item
    correction: Literal["pour_on", "remove", "keep_blend", "keep_size", "match_lye", "accept"]
    targets_g: dict[Item, FiniteNumber] = Field(default={}, max_length=120)
    """Targets from now on, g; those not named stay."""
    words: Text = ()
    """What it did, as it was said then."""


class Temperature(Model):
    """A temperature was read."""

    kind: Literal["temperature"]
    bowl: Literal["oils", "lye"]
    celsius: FiniteNumber
    read_in: Literal["C", "F"] = "C"
    """The unit it was read in."""
    source: Literal["thermometer", "typed"]
    sure: Truth = False
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
    next_time: Truth = False
    """It comes back with the formula."""


class Photographed(Model):
    """A picture was added."""

    kind: Literal["photographed"]
    file_id: int
    name: Line


class StageReached(Model):
    """What is cooked, or left to saponify, was seen to have come to a stage of its step."""

    kind: Literal["stage_reached"]
    stage: Item


class SoapTested(Model):
    """Soap was tested before the work goes on."""

    kind: Literal["tested"]
    test: SoapTestKind
    outcome: Annotated[str, Field(max_length=20)] = ""
    """One of those that its step names; empty where a pH was read."""
    ph: FiniteNumber | None = None
    """As read from a strip or meter."""
    passed: Truth = False
    """The work may go on. It follows from the outcome or the pH, whatever is sent."""


class SaltStepped(Model):
    """A step of a salt test of diluted soap."""

    kind: Literal["salt_step"]
    sample_g: FiniteNumber
    """The sample without brine, g."""
    brine_g: FiniteNumber
    """All the brine in it by now, g."""
    seconds: FiniteNumber
    """For the same spoon or funnel to run empty."""


class Packed(Model):
    """What went into jars."""

    kind: Literal["packed"]
    jars: Annotated[int, Field(ge=1, le=2000)]
    weight_g: FiniteNumber
    """All of it together, without the jars, g."""


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
    in_bowl: Truth | None = None
    """Of a weight: what was weighed is in the bowl. False: it is not, and is weighed again."""
    weight_g: FiniteNumber | None = None
    """Of a weight that is in there: the true one, g, of that load alone."""


class Aborted(Model):
    """The batch was given up."""

    kind: Literal["aborted"]
    reason: Annotated[str, Field(min_length=1, max_length=500)]
    weighed: Literal["put_back", "wasted"] = "wasted"
    """What becomes of what was weighed and is not mixed with lye yet: back into its tubs, or gone. What is mixed is gone."""


class Finished(Model):
    """Poured and covered."""

    kind: Literal["finished"]


Event = Annotated[
    Started | StepDone | Tared | LotChosen | Captured | CorrectionTaken | Temperature | Chose | Traced | Burst | Noted
    | Photographed | StageReached | SoapTested | SaltStepped | Packed | Poured | EntryAmended | Aborted | Finished,
    Field(discriminator="kind"),
]  # fmt: skip


IN_STEP = (Started, StepDone, LotChosen, Captured, CorrectionTaken, Finished)
"""What follows from how the record stands, so that whoever adds it must have seen its last entry."""


class RecordedEvent(Model):
    """An event as kept."""

    seq: int
    """Counts the events of a batch from 1."""
    at: str
    """UTC, ISO 8601."""
    event: Event


def begin(planned: PlannedBatch, plan_revision: int | None = None) -> Started:
    """The event with which the making of a planned batch begins, of a plan as of `plan_revision`."""
    targets_g = {target.item: target.target_g for target in weigh_targets(planned)}
    low_h, high_h = planned.unmould_hours or (None, None)
    return Started(
        kind="started", targets_g=targets_g, unmould_from_h=low_h, unmould_to_h=high_h, plan_revision=plan_revision
    )


def started_of(events: Sequence[RecordedEvent]) -> Started | None:
    """What stood when it was begun; null when it is not."""
    return next((record.event for record in events if isinstance(record.event, Started)), None)
