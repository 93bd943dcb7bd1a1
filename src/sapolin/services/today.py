"""What the day begins with: what is due, what waits, what is ready, and what earlier batches said of those planned next."""

from datetime import UTC, datetime, timedelta

from sapolin.core.cure.due import BatchFacts, Due, DueKind, due_of
from sapolin.core.quantities.model import Model
from sapolin.services.lessons import next_time_of
from sapolin.services.lists import BatchSummary, every_batch, page_of_formulas
from sapolin.store.formulas import FormulaFilter
from sapolin.store.stores import Stores

__all__ = ["Lesson", "Today", "coming", "put_off", "today"]


COMING_DAYS = 42
"""A calendar tells so far ahead."""
PUT_OFF = "put off "
"""So begin the marks of what was put off."""
READY = ("usable", "fit")


class Lesson(Model):
    """What earlier batches noted for the next one of a formula that is planned."""

    formula_id: str
    name: str
    code: str
    """Of the batch that is planned."""
    batch_id: str
    notes: tuple[str, ...]


class Today(Model):
    """What the day begins with."""

    due: tuple[Due, ...]
    """What is to be done or waited for, the most pressing first."""
    ready: tuple[Due, ...]
    """What can be used: tested and fit, or old enough by its forecast; the newest first."""
    lessons: tuple[Lesson, ...]
    formulas: int
    """How many formulas there are."""


def _facts(summary: BatchSummary) -> BatchFacts | None:
    if summary.status not in ("planned", "open", "making", "made"):
        return None
    low, high = summary.unmould_hours_low, summary.unmould_hours_high
    return BatchFacts(
        id=summary.id, code=summary.code, name=summary.name, status=summary.status, at=summary.current,
        make_on=summary.make_on,
        ended_at=None if summary.ended_at is None else datetime.fromisoformat(summary.ended_at),
        unmould_hours=None if low is None or high is None else (low, high),
        usable_weeks=summary.usable_weeks, best_weeks=summary.best_weeks, cure=summary.cure,
    )  # fmt: skip


def _batches(stores: Stores) -> tuple[tuple[BatchSummary, ...], list[BatchFacts]]:
    """The batches that are begun or planned, and what is known of all that count."""
    begun = every_batch(stores, ("planned", "open", "making"))
    made = every_batch(stores, ("made",))
    return begun, [one for one in map(_facts, (*begun, *made)) if one is not None]


def coming(stores: Stores, now: datetime, days: int = COMING_DAYS) -> tuple[Due, ...]:
    """What is due at `now`, and what comes due within `days` if nothing is recorded meanwhile; each once, by its time."""
    _, facts = _batches(stores)
    found: dict[tuple[str, str], Due] = {}
    for day in range(days + 1):
        for one in due_of(facts, now + timedelta(days=day)):
            if one.standing != "later":
                found.setdefault((one.batch_id, one.kind), one)
    return tuple(sorted(found.values(), key=lambda one: one.from_at or now))


def put_off(batch_id: str, kind: DueKind, until: datetime | None, stores: Stores) -> None:
    """Put something that is due off `until` a time; null takes that back. Raises UnknownBatchError."""
    stores.batches.get(batch_id)
    name = f"{PUT_OFF}{kind} {batch_id}"
    if until is None:
        stores.workshop.drop_mark(name)
    else:
        stores.workshop.set_mark(name, until.astimezone(UTC).isoformat())


def today(stores: Stores, now: datetime | None = None) -> Today:
    """What there is to do and to know at `now`, the present moment by default."""
    now = stores.now() if now is None else now
    begun, facts = _batches(stores)
    waits = {name for name, until in stores.workshop.marks(PUT_OFF).items() if datetime.fromisoformat(until) > now}
    due = [one for one in due_of(facts, now) if f"{one.kind} {one.batch_id}" not in waits]
    ready = sorted((one for one in due if one.kind in READY), key=lambda one: one.from_at or datetime.max, reverse=True)
    lessons = [
        Lesson(formula_id=one.formula_id, name=one.name, code=one.code, batch_id=one.id, notes=notes)
        for one in begun
        if one.status != "making" and (notes := next_time_of(one.formula_id, stores))
    ]
    return Today(
        due=tuple(one for one in due if one.kind not in READY),
        ready=tuple(ready),
        lessons=tuple(lessons),
        formulas=page_of_formulas(stores.formulas, FormulaFilter(), limit=1).total,
    )
