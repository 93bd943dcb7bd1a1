"""What the record of a batch after its pour adds up to."""

from collections.abc import Sequence
from typing import Literal

from sapolin.core.cure.drying import Room, Weighing, days_between
from sapolin.core.cure.events import (
    CureNote,
    CureRecord,
    Cut,
    EntryStruck,
    Fault,
    FitTested,
    Judged,
    Left,
    LeftTo,
    Looked,
    Pictured,
    Placed,
    Pressed,
    RoomRead,
    Seen,
    Turned,
    Unmoulded,
    Weighed,
)
from sapolin.core.cure.unmould import Press
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.model import Model

__all__ = [
    "CureState",
    "FitStanding",
    "Gone",
    "JudgedSheet",
    "SeenFault",
    "counting",
    "cure_state",
    "fit_standing",
    "struck",
]

FitStanding = Literal["untested", "fit", "wait", "unfit"]
"""wait: over the limit, left to cure and tested again. unfit: it must not be used as it is."""


class SeenFault(Model):
    """What was seen, and when."""

    seq: int
    at: str
    fault: Fault
    where: Literal["outside", "inside"]
    text: str


class Gone(Model):
    """Bars that left."""

    seq: int
    at: str
    bars: int
    to: LeftTo
    where: str


class JudgedSheet(Model):
    """A sheet that counts, and how old the bar was."""

    seq: int
    at: str
    age_weeks: float
    """Since it was cut."""
    sheet: Judged


class BarPicture(Model):
    """A picture of the bars."""

    seq: int
    at: str
    file_id: int
    name: str


class CureState(Model):
    """How far a batch is after its pour."""

    seq: int
    """Of the last event; 0 when there is none."""
    presses: tuple[Press, ...]
    unmoulded_at: str | None
    unmoulded_how: str | None
    cut_at: str | None
    bars: int
    """As cut, all of them."""
    seconds: int
    samples: int
    pattern: str
    seen: tuple[SeenFault, ...]
    trays: dict[str, int]
    """Bars by the code of their tray."""
    on_table: int
    """Bars that are there and on no tray."""
    turned_at: str | None
    weighings: tuple[Weighing, ...]
    weighed_at: str | None
    room: Room
    fit: FitTested | None
    """The latest test before use."""
    fit_at: str | None
    gone: tuple[Gone, ...]
    looks: tuple[str, ...]
    """When kept bars were looked at."""
    judged: tuple[JudgedSheet, ...]
    pictures: tuple[BarPicture, ...]
    notes: tuple[str, ...]
    next_time: tuple[str, ...]

    @property
    def here(self) -> int:
        """Bars that are still in the workshop."""
        return self.on_table + sum(self.trays.values())


def struck(events: Sequence[CureRecord]) -> frozenset[int]:
    """The entries that do not count, by their numbers."""
    return frozenset(record.event.seq for record in events if isinstance(record.event, EntryStruck))


def counting(events: Sequence[CureRecord]) -> list[CureRecord]:
    """The entries that count, in the order in which things happened."""
    out = struck(events)
    kept = [one for one in events if one.seq not in out and not isinstance(one.event, EntryStruck)]
    return sorted(kept, key=lambda one: (one.at, one.seq))


def cure_state(events: Sequence[CureRecord], poured_at: str) -> CureState:
    """Add up `events` of a batch poured at `poured_at`."""
    counted = counting(events)
    presses, seen, weighed, gone, looks, judged, pictures = [], [], [], [], [], [], []
    notes: list[str] = []
    next_time: list[str] = []
    unmoulded: tuple[str, str] | None = None
    cut: tuple[str, Cut] | None = None
    trays: dict[str, int] = {}
    turned_at, weighed_at, fit, fit_at = None, None, None, None
    room = Room()
    for record in counted:
        event = record.event
        if isinstance(event, Pressed):
            hours = 24 * days_between(poured_at, record.at)
            presses.append(Press(hours=max(hours, 0.1), firmness=event.firmness))
        elif isinstance(event, Unmoulded):
            unmoulded = (record.at, event.how)
        elif isinstance(event, Cut):
            cut = (record.at, event)
        elif isinstance(event, Seen):
            seen.append(
                SeenFault(seq=record.seq, at=record.at, fault=event.fault, where=event.where, text=event.text)
            )  # fmt: skip
        elif isinstance(event, Placed):
            if event.from_tray is not None:
                _take(trays, event.from_tray, event.bars)
            trays[event.tray] = trays.get(event.tray, 0) + event.bars
        elif isinstance(event, Turned):
            turned_at = record.at
        elif isinstance(event, Weighed):
            weighed.append((record, event))
            weighed_at = record.at
        elif isinstance(event, RoomRead):
            room = Room(
                celsius=room.celsius if event.celsius is None else event.celsius,
                humidity_percent=room.humidity_percent if event.humidity_percent is None else event.humidity_percent,
            )
        elif isinstance(event, FitTested):
            fit, fit_at = event, record.at
        elif isinstance(event, Left):
            if event.tray is not None:
                _take(trays, event.tray, event.bars)
            gone.append(Gone(seq=record.seq, at=record.at, bars=event.bars, to=event.to, where=event.where))
        elif isinstance(event, Looked):
            looks.append(record.at)
        elif isinstance(event, Pictured):
            pictures.append(BarPicture(seq=record.seq, at=record.at, file_id=event.file_id, name=event.name))
        elif isinstance(event, Judged):
            judged.append((record, event))
        elif isinstance(event, CureNote):
            (next_time if event.next_time else notes).append(event.text)
    cut_at = cut[0] if cut else None
    bars = cut[1].bars if cut else 0
    samples = cut[1].samples if cut else 0
    return CureState(
        seq=events[-1].seq if events else 0,
        presses=tuple(presses),
        unmoulded_at=unmoulded[0] if unmoulded else cut_at,
        unmoulded_how=unmoulded[1] if unmoulded else None,
        cut_at=cut_at,
        bars=bars,
        seconds=cut[1].seconds if cut else 0,
        samples=samples,
        pattern=cut[1].pattern if cut else "",
        seen=tuple(seen),
        trays=trays,
        on_table=bars - samples - sum(trays.values()) - sum(one.bars for one in gone),
        turned_at=turned_at,
        weighings=tuple(
            Weighing(
                seq=record.seq,
                mark=event.mark,
                day=days_between(cut_at or poured_at, record.at),
                weight_g=event.weight_g / event.bars,
            )
            for record, event in weighed
        ),
        weighed_at=weighed_at,
        room=room,
        fit=fit,
        fit_at=fit_at,
        gone=tuple(gone),
        looks=tuple(looks),
        judged=tuple(
            JudgedSheet(
                seq=record.seq, at=record.at, age_weeks=days_between(cut_at or poured_at, record.at) / 7, sheet=event
            )
            for record, event in judged
        ),
        pictures=tuple(pictures),
        notes=tuple(notes),
        next_time=tuple(next_time),
    )


def _take(trays: dict[str, int], tray: str, bars: int) -> None:
    trays[tray] = trays.get(tray, 0) - bars
    if trays[tray] == 0:
        del trays[tray]


def fit_standing(test: FitTested | None) -> FitStanding:
    """Whether bars may be used, by their latest test. A sting on the tongue or a pH over the limit never passes.

    >>> fit_standing(FitTested(kind="fit_tested", ph=9.5))
    'fit'
    >>> fit_standing(FitTested(kind="fit_tested", ph=10.8))
    'wait'
    >>> fit_standing(FitTested(kind="fit_tested", zap=False, looks_right=False))
    'unfit'
    """
    if test is None or (test.ph is None and test.zap is None):
        return "untested"
    if test.zap or test.looks_right is False:
        return "unfit"
    if test.ph is not None and test.ph > coefficient("fit.ph_much_too_high"):
        return "unfit"
    if test.ph is not None and test.ph > coefficient("fit.ph_high"):
        return "wait"
    return "fit"
