"""What is to be done about the batches there are, by the forecasts there are: what the day begins with."""

from collections.abc import Sequence
from datetime import datetime, timedelta
from typing import Literal

from sapolin.core.quantities.model import Model

__all__ = ["BatchFacts", "Due", "DueKind", "due_of"]

DueKind = Literal["go_on", "unmould", "make", "finish_plan", "curing", "usable"]
"""go_on: make day was begun. unmould: in the mould. make, finish_plan: planned, and with or without gaps. curing: out of the
mould, too young to use. usable: old enough, by its forecast."""
Standing = Literal["now", "later", "late"]

ORDER: tuple[DueKind, ...] = ("go_on", "unmould", "make", "finish_plan", "curing", "usable")
UNMOULD_LATE_HOURS = 48.0
"""After the end of its forecast a batch is told to be late for so long; then it must have left the mould."""


class BatchFacts(Model):
    """What is known of a batch."""

    id: str
    code: str
    name: str
    status: Literal["planned", "open", "making", "made"]
    at: str | None = None
    """Title of the step that make day is at."""
    ended_at: datetime | None = None
    unmould_hours: tuple[float, float] | None = None
    """After it was poured, an estimate."""
    usable_weeks: float | None = None
    """After it was poured, an estimate."""
    best_weeks: float | None = None
    """The same."""


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


def _timed(facts: BatchFacts, now: datetime) -> tuple[DueKind, Standing, datetime | None, datetime | None]:
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


def due_of(batches: Sequence[BatchFacts], now: datetime) -> tuple[Due, ...]:
    """What there is to do, what is waited for, the most pressing first.

    A batch in the mould is due from the beginning of its forecast to the end, then late for two days; later it must have left
    the mould. From then on it cures until the forecast says that it can be used.

    >>> from datetime import UTC
    >>> poured = datetime(2026, 3, 1, 12, tzinfo=UTC)
    >>> loaf = BatchFacts(id="a", code="B-1", name="Olive", status="made", ended_at=poured, unmould_hours=(18, 30))
    >>> [one] = due_of([loaf], datetime(2026, 3, 2, 9, tzinfo=UTC))
    >>> one.kind, one.standing, one.until_at.isoformat()
    ('unmould', 'now', '2026-03-02T18:00:00+00:00')
    """
    found = []
    for facts in batches:
        kind: DueKind
        standing: Standing
        from_at, until_at = None, None
        if facts.status == "made":
            kind, standing, from_at, until_at = _timed(facts, now)
        else:
            kind = "go_on" if facts.status == "making" else "make" if facts.status == "planned" else "finish_plan"
            standing = "now"
        found.append(
            Due(
                kind=kind, batch_id=facts.id, code=facts.code, name=facts.name, standing=standing, at=facts.at,
                from_at=from_at, until_at=until_at,
            )
        )  # fmt: skip
    pressing = {"late": 0, "now": 1, "later": 2}
    longest = datetime.max.replace(tzinfo=now.tzinfo)
    return tuple(
        sorted(
            found, key=lambda one: (ORDER.index(one.kind), pressing[one.standing], one.until_at or longest, one.code)
        )
    )
