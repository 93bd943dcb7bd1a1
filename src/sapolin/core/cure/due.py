"""What is to be done about the batches there are, by the forecasts there are: what the day begins with."""

from collections.abc import Iterator, Sequence
from datetime import date, datetime, time, timedelta
from typing import Literal

from pydantic import computed_field

from sapolin.core.cure.state import FitStanding
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.model import Model

__all__ = ["MAY_WAIT", "BatchFacts", "CureFacts", "Due", "DueKind", "due_of"]

DueKind = Literal[
    "go_on",
    "unmould",
    "cut",
    "fit_test",
    "unfit",
    "weigh",
    "turn",
    "make",
    "finish_plan",
    "look",
    "judge",
    "curing",
    "usable",
    "fit",
]
"""go_on: make day was begun. unmould: in the mould. cut: out of it, not counted yet. fit_test: dry, and to be tested. unfit:
the last test failed. weigh, turn: while it dries. make, finish_plan: planned, and with or without gaps. look: kept bars, months
later. judge: fit, and on no sheet yet. curing: too young to use. usable: old enough, by its forecast, and not followed after
its pour. fit: tested, in stock."""
Standing = Literal["now", "later", "late"]

ORDER: tuple[DueKind, ...] = (
    "go_on", "unmould", "cut", "unfit", "fit_test", "make", "weigh", "turn", "judge", "look", "finish_plan", "curing",
    "usable", "fit",
)  # fmt: skip
MAY_WAIT: frozenset[DueKind] = frozenset({"fit_test", "weigh", "turn", "look", "judge", "make", "finish_plan"})
"""What can be put off without harm: a loaf in its mould cannot, nor bars that must not be used."""
UNMOULD_LATE_HOURS = 48.0
"""After the end of its forecast a batch is told to be late for so long; then it must have left the mould."""


LOOK_MONTHS = (3, 6, 12)
"""Kept bars are looked at so long after cutting."""
LOOK_LATE_DAYS = 45
JUDGE_WEEKS = 4
"""A bar tells what it is from this age on."""
JUDGE_LATE_WEEKS = 20
"""It is asked for so long."""
DAYS_A_MONTH = 30.44


class CureFacts(Model):
    """What is known of a batch after its pour, from its record: dates alone, so that it holds whatever the day."""

    seq: int
    """Of the last entry; 0 when nothing was recorded."""
    unmould_from: datetime | None
    unmould_to: datetime | None
    unmoulded_at: datetime | None
    cut_at: datetime | None
    bars: int = 0
    here: int = 0
    """Bars still in the workshop."""
    ready_from: datetime | None = None
    ready_at: datetime | None = None
    ready_to: datetime | None = None
    """When they are dry, from, about and to; an estimate."""
    fit: FitStanding = "untested"
    fit_at: datetime | None = None
    turned_at: datetime | None = None
    weighed_at: datetime | None = None
    looked_at: datetime | None = None
    judged_at: datetime | None = None


class BatchFacts(Model):
    """What is known of a batch."""

    id: str
    code: str
    name: str
    status: Literal["planned", "open", "making", "made"]
    at: str | None = None
    """Title of the step that make day is at."""
    make_on: date | None = None
    """The day it is planned for."""
    ended_at: datetime | None = None
    unmould_hours: tuple[float, float] | None = None
    """After it was poured, an estimate."""
    usable_weeks: float | None = None
    """After it was poured, an estimate."""
    best_weeks: float | None = None
    """The same."""
    cure: CureFacts | None = None


class Due(Model):
    """One thing to do, or to wait for."""

    kind: DueKind
    batch_id: str
    code: str
    name: str
    standing: Standing
    """now: it can be done. later: from `from_at` on. late: it should have been done by `until_at`."""
    at: str | None
    """Title of the step that make day is at."""
    from_at: datetime | None
    until_at: datetime | None

    @computed_field  # type: ignore[prop-decorator]
    @property
    def may_wait(self) -> bool:
        """Whether it can be put off: it is due, and nothing comes to harm."""
        return self.standing != "later" and self.kind in MAY_WAIT


_Timed = tuple[DueKind, Standing, datetime | None, datetime | None]


def _planned_for(facts: BatchFacts, now: datetime) -> tuple[Standing, datetime | None, datetime | None]:
    """From the morning of the day it is planned for; late from the day after. A batch that is being made goes on now."""
    if facts.make_on is None or facts.status == "making":
        return "now", None, None
    morning = datetime.combine(facts.make_on, time(), tzinfo=now.tzinfo)
    if now < morning:
        return "later", morning, None
    return ("now" if now < morning + timedelta(days=1) else "late"), morning, morning + timedelta(days=1)


def _timed(facts: BatchFacts, now: datetime) -> _Timed:
    """By forecasts alone: nothing was recorded after the pour."""
    ended = facts.ended_at
    if ended is None:
        return "curing", "now", None, None
    if facts.unmould_hours is not None:
        low, high = (ended + timedelta(hours=hours) for hours in facts.unmould_hours)
        if now < high + timedelta(hours=UNMOULD_LATE_HOURS):
            return "unmould", "later" if now < low else "now" if now <= high else "late", low, high
    if facts.usable_weeks is None:
        return "curing", "now", None, None
    usable = ended + timedelta(weeks=facts.usable_weeks)
    best = None if facts.best_weeks is None else ended + timedelta(weeks=facts.best_weeks)
    return ("curing", "later", usable, best) if now < usable else ("usable", "now", usable, best)


def _followed(cure: CureFacts, now: datetime) -> Iterator[_Timed]:
    """What there is to do for a batch whose record goes on after its pour."""
    if cure.unmoulded_at is None:
        low, high = cure.unmould_from, cure.unmould_to
        late = high is not None and now > high
        yield "unmould", "later" if low is not None and now < low else "late" if late else "now", low, high
        return
    if cure.cut_at is None:
        yield "cut", "now", cure.unmoulded_at, None
        return
    if cure.here <= 0:
        return
    if cure.fit == "fit":
        yield "fit", "now", cure.fit_at, None
        old_enough = cure.cut_at + timedelta(weeks=JUDGE_WEEKS)
        if cure.judged_at is None and old_enough <= now <= old_enough + timedelta(weeks=JUDGE_LATE_WEEKS):
            yield "judge", "now", old_enough, None
        yield from _look(cure, cure.cut_at, now)
        return
    ready = cure.ready_at
    if cure.fit != "untested" and cure.fit_at is not None:
        again = cure.fit_at + timedelta(days=coefficient("fit.test_again_days"))
        kind: DueKind = "unfit" if cure.fit == "unfit" else "fit_test"
        yield (
            kind,
            "later" if cure.fit == "wait" and now < again else "now",
            again if cure.fit == "wait" else None,
            None,
        )
        return
    if ready is not None and now >= ready:
        yield "fit_test", "now", ready, None
        return
    yield "curing", "later", ready, cure.ready_to
    for kind, last, every in (
        ("weigh", cure.weighed_at, "rack.weigh_days"),
        ("turn", cure.turned_at, "rack.turn_days"),
    ):
        at = (
            cure.cut_at
            if last is None and kind == "weigh"
            else (last or cure.cut_at) + timedelta(days=coefficient(every))
        )
        if now >= at:
            yield kind, "now", at, None


def _look(cure: CureFacts, cut_at: datetime, now: datetime) -> Iterator[_Timed]:
    for months in LOOK_MONTHS:
        at = cut_at + timedelta(days=months * DAYS_A_MONTH)
        looked = cure.looked_at is not None and cure.looked_at >= at - timedelta(days=LOOK_LATE_DAYS)
        if at <= now <= at + timedelta(days=LOOK_LATE_DAYS) and not looked:
            yield "look", "now", at, None


def due_of(batches: Sequence[BatchFacts], now: datetime) -> tuple[Due, ...]:
    """What there is to do, what is waited for, the most pressing first.

    A batch in the mould is due from the beginning of its forecast to the end, then late for two days; later it must have left
    the mould. From then on it cures until the forecast says that it can be used. A batch whose record goes on after its pour is
    followed by that record instead.

    >>> from datetime import UTC
    >>> poured = datetime(2026, 3, 1, 12, tzinfo=UTC)
    >>> loaf = BatchFacts(id="a", code="B-1", name="Olive", status="made", ended_at=poured, unmould_hours=(18, 30))
    >>> [one] = due_of([loaf], datetime(2026, 3, 2, 9, tzinfo=UTC))
    >>> one.kind, one.standing, one.until_at.isoformat()
    ('unmould', 'now', '2026-03-02T18:00:00+00:00')
    """
    found = []
    for facts in batches:
        timed: list[_Timed]
        if facts.status != "made":
            kind: DueKind = (
                "go_on" if facts.status == "making" else "make" if facts.status == "planned" else "finish_plan"
            )  # fmt: skip
            timed = [(kind, *_planned_for(facts, now))]
        elif facts.cure is None or facts.cure.seq == 0:
            timed = [_timed(facts, now)]
        else:
            timed = [*_followed(facts.cure, now)]
        found += [
            Due(
                kind=kind, batch_id=facts.id, code=facts.code, name=facts.name, standing=standing, at=facts.at,
                from_at=from_at, until_at=until_at,
            )
            for kind, standing, from_at, until_at in timed
        ]  # fmt: skip
    pressing = {"late": 0, "now": 1, "later": 2}
    longest = datetime.max.replace(tzinfo=now.tzinfo)
    return tuple(
        sorted(
            found, key=lambda one: (ORDER.index(one.kind), pressing[one.standing], one.until_at or longest, one.code)
        )
    )
