"""What happens to a batch after the pour, event by event. They are only ever added to its record, like those of make day."""

from typing import Annotated, Literal, get_args

from pydantic import Field

from sapolin.core.cure.unmould import Firmness
from sapolin.core.quantities.model import FiniteNumber, Model, Truth

__all__ = [
    "FAULTS",
    "CureEvent",
    "CureNote",
    "CureRecord",
    "Cut",
    "EntryStruck",
    "Fault",
    "FitTested",
    "Judged",
    "Left",
    "LeftTo",
    "Looked",
    "Pictured",
    "Placed",
    "Pressed",
    "RoomRead",
    "Seen",
    "Turned",
    "Unmoulded",
    "Weighed",
]  # fmt: skip

Bars = Annotated[int, Field(ge=0, le=100_000)]
Code = Annotated[str, Field(min_length=1, max_length=12, pattern=r"^[^\x00-\x1f]+$")]
Note = Annotated[str, Field(max_length=500)]
Fault = Literal[
    "ash", "gel_ring", "rivers", "pockets", "bubbles", "separation", "crumble", "colour_shift", "spots", "sticky", "cracks",
    "sweat", "muddy",
]  # fmt: skip
FAULTS: tuple[Fault, ...] = get_args(Fault)
LeftTo = Literal["sold", "given", "kept", "lost"]


class Pressed(Model):
    """The loaf was pressed in its mould, to see how far it is."""

    kind: Literal["pressed"]
    firmness: Firmness
    sure: Truth = False
    """It was asked about, and stands."""


class Unmoulded(Model):
    """It left the mould."""

    kind: Literal["unmoulded"]
    how: Literal["clean", "stuck", "broke"]
    sure: Truth = False
    """It was asked about, and stands."""


class Cut(Model):
    """It was cut, or taken from its cavities, and counted."""

    kind: Literal["cut"]
    bars: Bars
    """All bars, seconds and samples among them."""
    seconds: Bars = 0
    """Of those, not good enough for their purpose."""
    samples: Bars = 0
    """Of those, used up for tests."""
    trims_g: FiniteNumber | None = None
    pattern: Annotated[str, Field(max_length=80)] = ""
    """Name of the pattern or technique, so that two batches can be compared."""
    sure: Truth = False
    """It was asked about, and stands."""


class Seen(Model):
    """Something was seen on or in the bars."""

    kind: Literal["seen"]
    fault: Fault
    where: Literal["outside", "inside"] = "outside"
    text: Note = ""


class Placed(Model):
    """Bars were put on a tray, or moved from one to another."""

    kind: Literal["placed"]
    bars: Annotated[int, Field(ge=1, le=100_000)]
    tray: Code
    from_tray: Code | None = None
    """Null: from the table, on no tray yet."""


class Turned(Model):
    """The bars were turned over."""

    kind: Literal["turned"]


class Weighed(Model):
    """A marked bar was weighed, or all bars of a tray together."""

    kind: Literal["weighed"]
    mark: Code
    """Letter of the bar, or code of the tray."""
    weight_g: FiniteNumber
    bars: Annotated[int, Field(ge=1, le=10_000)] = 1
    """So many bars lay on the scale, without their tray."""
    source: Literal["scale", "typed"]
    sure: Truth = False
    """It was asked about, and stands."""


class RoomRead(Model):
    """The curing room was measured."""

    kind: Literal["room"]
    celsius: FiniteNumber | None = None
    humidity_percent: FiniteNumber | None = None


class FitTested(Model):
    """A bar was tested before use."""

    kind: Literal["fit_tested"]
    ph: FiniteNumber | None = None
    zap: Truth | None = None
    """It stung the tongue."""
    looks_right: Truth | None = None
    """No wet or oily spots, no crystals, no bad smell."""
    sure: Truth = False
    """It was asked about, and stands."""


class Left(Model):
    """Bars left the rack."""

    kind: Literal["left"]
    bars: Annotated[int, Field(ge=1, le=100_000)]
    to: LeftTo
    where: Annotated[str, Field(max_length=120)] = ""
    tray: Code | None = None
    """The tray they were taken from; null when they stood on none."""


class Looked(Model):
    """Kept bars were looked at months later."""

    kind: Literal["looked"]
    scent: Literal["as_new", "weaker", "gone", "off"]
    colour: Literal["as_new", "paler", "darker", "changed"]
    spots: Truth
    text: Note = ""


class Judged(Model):
    """Someone washed with a bar and judged it on a sheet."""

    kind: Literal["judged"]
    tester: Annotated[str, Field(min_length=1, max_length=40, pattern=r"^[^\x00-\x1f]*\S[^\x00-\x1f]*$")]
    scores: dict[Annotated[str, Field(max_length=40)], Annotated[int, Field(ge=1, le=5)]] = Field(default={})
    """By criterion: which of its five words, from 1."""
    measures: dict[Annotated[str, Field(max_length=40)], FiniteNumber] = Field(default={})
    """By measure, in its unit."""
    way: Literal["hand", "cloth", "brush"] = "hand"
    """What the lather was made with."""
    wetting: Literal["first", "second"] = "first"
    """Some bars start slowly, and lather at the second."""
    water: Literal["soft", "medium", "hard", "unknown"] = "unknown"
    water_c: FiniteNumber | None = None
    text: Note = ""


class Pictured(Model):
    """A picture was taken of the bars."""

    kind: Literal["pictured"]
    file_id: int
    name: Annotated[str, Field(max_length=120)]


class CureNote(Model):
    """A note."""

    kind: Literal["noted"]
    text: Annotated[str, Field(min_length=1, max_length=2000)]
    next_time: Truth = False
    """It comes back with the formula."""


class EntryStruck(Model):
    """An earlier entry does not count; it stays in the record."""

    kind: Literal["struck"]
    seq: int
    reason: Annotated[str, Field(min_length=1, max_length=500)]


CureEvent = Annotated[
    Pressed
    | Unmoulded
    | Cut
    | Seen
    | Placed
    | Turned
    | Weighed
    | RoomRead
    | FitTested
    | Left
    | Looked
    | Judged
    | Pictured
    | CureNote
    | EntryStruck,
    Field(discriminator="kind"),
]


class CureRecord(Model):
    """An event as kept."""

    seq: int
    """Counts the events of a batch after its pour, from 1."""
    at: str
    """When it happened, UTC, ISO 8601."""
    recorded_at: str
    """When it was recorded."""
    event: CureEvent
