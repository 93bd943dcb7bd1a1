"""Batches: plans that change until they are begun, then a record that only grows."""

import json
from collections.abc import Callable, Collection, Sequence
from typing import Any
from uuid import uuid4

from pydantic import ValidationError
from sqlalchemy import ColumnElement, Select, func, or_, select, true, update
from sqlalchemy.orm import Session

from sapolin.core.batch.plan import BatchPlan
from sapolin.core.production.events import Event, Photographed, RecordedEvent
from sapolin.core.quantities.model import Model
from sapolin.store.clock import utc_now
from sapolin.store.pictures import keep_picture
from sapolin.store.reading import UnreadableError, json_at, readable
from sapolin.store.repository import Repository
from sapolin.store.tables import BatchEventRow, BatchFileRow, BatchOutcomeRow, BatchRow, BatchStartRow, CureEventRow

__all__ = [
    "BatchBegunError",
    "BatchConflictError",
    "BatchEntry",
    "BatchFile",
    "BatchRecord",
    "BatchStore",
    "StaleRecordError",
    "UnknownBatchError",
    "noting_next_time",
]

ROWS_ALONE = '{"rows_alone"'
"""So begins what a batch of an earlier release began with: its rows, and nothing of what follows from them."""
Decide = Callable[[list[RecordedEvent]], Event]
"""The event as it is to be recorded after those given; raises when it may not follow them."""
Then = Callable[[Session, list[RecordedEvent], list[RecordedEvent]], None]
"""What belongs to the same transaction, told the record before and after."""


class BatchRecord(Model):
    """A batch as kept."""

    id: str
    code: str
    """Short, to be written on a tray."""
    formula_id: str
    revision: int
    events: int
    """How many events its record holds."""
    created_at: str
    updated_at: str
    archived_at: str | None
    plan: BatchPlan


class BatchEntry(Model):
    """A row of a list of batches."""

    id: str
    code: str
    created_at: str
    summary: str | None
    """What was kept of it for lists, as JSON; null when it has not been summed up since its last change."""
    forgotten: int
    """How often that was forgotten."""


class BatchFile(Model):
    """A picture of a batch."""

    id: int
    name: str
    media_type: str
    content: bytes


class UnknownBatchError(LookupError):
    """There is no such batch, or no such picture of it."""


class BatchConflictError(Exception):
    """Its plan was saved elsewhere since."""


class BatchBegunError(Exception):
    """Its plan can no longer change."""


class StaleRecordError(Exception):
    """Another device added to the record since; `seq` is its last."""

    def __init__(self, seq: int) -> None:
        super().__init__(seq)
        self.seq = seq


class BatchStore(Repository[BatchRow]):
    """Batches, by id."""

    table = BatchRow
    also_cleared = (BatchFileRow, BatchEventRow, BatchStartRow, BatchOutcomeRow)
    unknown = UnknownBatchError

    def find(self, formula_id: str | None = None) -> list[BatchRecord]:
        """Batches, newest first; those of one formula when it is named."""
        chosen = self._chosen().order_by(BatchRow.created_at.desc())
        if formula_id is not None:
            chosen = chosen.where(BatchRow.formula_id == formula_id)
        with self._reading() as session:
            return [*readable(session.scalars(chosen), lambda row: self._record(session, row))]

    def perhaps_being_made(self) -> list[str]:
        """Ids of the batches that are begun and not known to be over, oldest first."""
        begun = select(BatchEventRow.id).where(BatchEventRow.batch_id == BatchRow.id).exists()
        is_open = BatchRow.status.is_(None) | (BatchRow.status == "making")
        chosen = self._chosen().with_only_columns(BatchRow.id).where(begun, is_open)
        with self._reading() as session:
            return [*session.scalars(chosen.order_by(BatchRow.created_at))]

    def page(
        self, words: str, statuses: Sequence[str] = (), formula_id: str | None = None, *, limit: int, offset: int = 0
    ) -> tuple[int, list[BatchEntry]]:
        """How many batches there are whose code or name holds every one of `words`, of one of `statuses` as kept (any when
        none is named), and `limit` of them from `offset` on, newest first. No batch is read for it.
        """
        chosen = self._chosen()
        for word in words.casefold().split():
            chosen = chosen.where(BatchRow.search_text.contains(word, autoescape=True))
        if statuses:
            chosen = chosen.where(BatchRow.status.in_(statuses))
        if formula_id is not None:
            chosen = chosen.where(BatchRow.formula_id == formula_id)
        with self._reading() as session:
            total = session.scalar(chosen.with_only_columns(func.count())) or 0
            newest = chosen.with_only_columns(BatchRow.id).order_by(BatchRow.created_at.desc(), BatchRow.code.desc())
            ids = [*session.scalars(newest.limit(limit).offset(offset))]
            read = self._entries(select(BatchRow).where(BatchRow.id.in_(ids)))
            found = {row.id: BatchEntry(**row._mapping) for row in session.execute(read)}
            return total, [found[batch_id] for batch_id in ids]

    def noted_for_next_time(self, formula_id: str) -> list[list[RecordedEvent]]:
        """The records of those batches of a formula in use that noted something for next time, the newest batch first."""
        with self._reading() as session:
            return [
                *readable(
                    session.scalars(noting_next_time(formula_id, BatchEventRow)),
                    lambda batch_id: self._events(session, batch_id),
                )
            ]

    def _called(self) -> Any:
        return json_at(BatchRow.content, "$.formula.name")

    @staticmethod
    def _entries(chosen: Select[BatchRow]) -> Select[str, str, str, str | None, int]:
        return chosen.with_only_columns(
            BatchRow.id, BatchRow.code, BatchRow.created_at, BatchRow.summary, BatchRow.forgotten
        )

    @staticmethod
    def forget_curing_in(session: Session) -> None:
        """Batches that still set or dry are to be summed up anew: another batch taught something about that."""
        fit, ready = (json_at(BatchRow.summary, f"$.cure.{name}") for name in ("fit", "ready_to"))
        _forget(session, (fit == "untested") | (ready > utc_now()))

    @staticmethod
    def forget_poured_in(session: Session) -> None:
        """All that were poured are to be summed up anew: how it is told when bars are ready has changed."""
        _forget(session, json_at(BatchRow.summary, "$.cure.fit").is_not(None))

    def entries(self, ids: Collection[str]) -> list[BatchEntry]:
        """Rows of a list of batches, for those of `ids`, archived or not. No batch is read for it."""
        with self._reading() as session:
            chosen = self._entries(select(BatchRow).where(BatchRow.id.in_(ids)))
            return [BatchEntry(**row._mapping) for row in session.execute(chosen)]

    def unsummed(self, limit: int) -> list[BatchEntry]:
        """Batches that were not summed up for lists since their last change, at most `limit`."""
        with self._reading() as session:
            chosen = self._entries(self._chosen(archived=None).where(BatchRow.summary.is_(None)))
            return [BatchEntry(**row._mapping) for row in session.execute(chosen.limit(limit))]

    def keep_summaries(self, summaries: Sequence[tuple[BatchEntry, str, str]]) -> None:
        """Keep what lists show of each: its status, and its summary as JSON. One of which that was forgotten meanwhile, because
        it was changed or because of what its summary is made from, is left alone."""
        with self._writing(alone=True, is_noted=False) as session:
            for entry, status, summary in summaries:
                row = session.get(BatchRow, entry.id)
                if row is not None and row.forgotten == entry.forgotten:
                    row.status, row.summary = status, summary

    def forget_summaries(self) -> None:
        """All are to be summed up anew: what they are made from has changed."""
        with self._writing() as session:
            _forget(session, true())

    def get(self, batch_id: str) -> BatchRecord:
        """One batch. Raises UnknownBatchError."""
        with self._reading() as session:
            return self._record(session, self._row(session, batch_id))

    def create(self, plan: BatchPlan, code: str | None = None) -> BatchRecord:
        """Keep a new batch, under the next free code unless one is given."""
        now = utc_now()
        with self._writing(alone=True) as session:
            row = BatchRow(
                id=uuid4().hex,
                code=code or self._next_code(session),
                formula_id=plan.formula_id,
                content=plan.model_dump_json(),
                search_text="",
                revision=1,
                created_at=now,
                updated_at=now,
                archived_at=None,
                forgotten=0,
            )
            _changed(row, plan)
            session.add(row)
            session.flush()
            return self._record(session, row)

    def codes(self) -> set[str]:
        """The codes of all batches, in lower case."""
        with self._reading() as session:
            return {code.casefold() for code in session.scalars(select(BatchRow.code))}

    def update(self, batch_id: str, revision: int, plan: BatchPlan) -> BatchRecord:
        """Replace the plan, if `revision` is still the one kept and the batch is not begun.

        Raises UnknownBatchError, BatchBegunError or BatchConflictError.
        """
        with self._writing(alone=True) as session:
            row = self._row(session, batch_id)
            if self._count(session, batch_id):
                raise BatchBegunError(batch_id)
            if row.revision != revision:
                raise BatchConflictError(batch_id)
            row.content, row.formula_id = plan.model_dump_json(), plan.formula_id
            row.revision, row.updated_at = revision + 1, utc_now()
            _changed(row, plan)
            session.flush()
            return self._record(session, row)

    def archive(self, batch_id: str) -> BatchRecord:
        """Take a batch off the list. Raises UnknownBatchError."""
        with self._writing() as session:
            return self._record(session, self._archived(session, batch_id, True))

    def restore(self, batch_id: str) -> BatchRecord:
        """Put a batch back on the list. Raises UnknownBatchError."""
        with self._writing() as session:
            return self._record(session, self._archived(session, batch_id, False))

    def events(self, batch_id: str) -> list[RecordedEvent]:
        """The record of a batch, in order. Raises UnknownBatchError."""
        with self._reading() as session:
            self._row(session, batch_id)
            return self._events(session, batch_id)

    def add_event(
        self,
        batch_id: str,
        key: str,
        decide: Decide,
        after_seq: int | None = None,
        *,
        at: str | None = None,
        then: Then | None = None,
        plan_revision: int | None = None,
    ) -> list[RecordedEvent]:
        """Add to the record, once: the same `key` again changes nothing. Returns the whole record.

        `decide` is asked for the event within the transaction. With `after_seq` it is refused when another device added to
        the record since, with `plan_revision` when the plan was saved since. Raises UnknownBatchError, StaleRecordError or
        BatchConflictError.
        """
        with self._writing(alone=True) as session:
            return self._append(session, batch_id, key, decide, after_seq, at, then, plan_revision)

    def take_over(self, batch_id: str, key: str, events: Sequence[RecordedEvent]) -> None:
        """Keep a whole record at once, of a batch that has none. Raises UnknownBatchError or BatchBegunError."""
        with self._writing(alone=True) as session:
            row = self._row(session, batch_id)
            if self._count(session, batch_id):
                raise BatchBegunError(batch_id)
            row.updated_at = utc_now()
            row.forget_summary()
            session.add_all(
                BatchEventRow(
                    batch_id=batch_id,
                    seq=i,
                    key=f"{key}-{i:04d}",
                    at=one.at,
                    content=_Wrapped(event=one.event).model_dump_json(),
                )
                for i, one in enumerate(events, start=1)
            )

    def add_photo(
        self,
        batch_id: str,
        key: str,
        name: str,
        media_type: str,
        content: bytes,
        check: Callable[[], None],
        *,
        then: Then | None = None,
    ) -> list[RecordedEvent]:
        """Keep a picture and its event together, once: the same `key` again changes nothing.

        `check` raises when no picture may be added now. Raises UnknownBatchError.
        """
        with self._writing(alone=True) as session:

            def decide(_: list[RecordedEvent]) -> Event:
                check()
                number = keep_picture(session, batch_id, name, media_type, content)
                return Photographed(kind="photographed", file_id=number, name=name)

            return self._append(session, batch_id, key, decide, None, None, then)

    def _append(
        self,
        session: Session,
        batch_id: str,
        key: str,
        decide: Decide,
        after_seq: int | None,
        at: str | None,
        then: Then | None,
        plan_revision: int | None = None,
    ) -> list[RecordedEvent]:
        row_of_batch = self._row(session, batch_id)
        row_of_batch.updated_at = utc_now()
        row_of_batch.forget_summary()
        record = self._events(session, batch_id)
        known = session.scalar(
            select(BatchEventRow.seq).where(BatchEventRow.batch_id == batch_id, BatchEventRow.key == key)
        )
        if known is not None:
            return record
        last = record[-1].seq if record else 0
        if after_seq is not None and after_seq != last:
            raise StaleRecordError(last)
        if plan_revision is not None and plan_revision != row_of_batch.revision:
            raise BatchConflictError(batch_id)
        event = decide(record)
        row = BatchEventRow(
            batch_id=batch_id,
            seq=last + 1,
            key=key,
            at=at or utc_now(),
            content=_Wrapped(event=event).model_dump_json(),
        )
        session.add(row)
        session.flush()
        grown = [*record, _recorded(row)]
        if then is not None:
            then(session, record, grown)
        return grown

    def packed(self) -> list[str]:
        """Batches in use of which something went into jars, the newest first."""
        with self._reading() as session:
            rows = (
                self._chosen()
                .where(BatchRow.id.in_(
                    select(BatchEventRow.batch_id).where(BatchEventRow.content.contains('"kind":"packed"', autoescape=True))
                ))
                .order_by(BatchRow.created_at.desc(), BatchRow.code.desc())
            )  # fmt: skip
            return [row.id for row in session.scalars(rows)]

    def without_start(self) -> list[str]:
        """Batches that have begun and of which is not kept what they began with, or less than is now."""
        kept = select(BatchStartRow.batch_id).where(~BatchStartRow.content.startswith(ROWS_ALONE))
        return self._begun_but_not(kept)

    def without_outcome(self) -> list[str]:
        """Batches that have begun and of which no outcome is kept: those still being made among them."""
        return self._begun_but_not(select(BatchOutcomeRow.batch_id))

    def _begun_but_not(self, kept: Select[Any]) -> list[str]:
        begun = select(BatchEventRow.batch_id).distinct().where(BatchEventRow.batch_id.not_in(kept))
        with self._reading() as session:
            return [*session.scalars(select(BatchRow.id).where(BatchRow.id.in_(begun)).order_by(BatchRow.created_at))]

    @staticmethod
    def keep_start(session: Session, batch_id: str, content: str) -> None:
        """Keep what a batch began with, in the transaction of its first event."""
        session.add(BatchStartRow(batch_id=batch_id, content=content, at=utc_now()))

    def start(self, batch_id: str) -> str | None:
        """What a batch began with, as JSON; null when it has not begun."""
        content = self._start(batch_id)
        return None if content is None or content.startswith(ROWS_ALONE) else content

    def rows_alone(self, batch_id: str) -> dict[str, Any] | None:
        """The rows that a batch of an earlier release began with, as long as what follows from them is not kept with them."""
        content = self._start(batch_id)
        alone = content is not None and content.startswith(ROWS_ALONE)
        return json.loads(content)["rows_alone"] if content is not None and alone else None

    def _start(self, batch_id: str) -> str | None:
        with self._reading() as session:
            row = session.get(BatchStartRow, batch_id)
            return None if row is None else row.content

    def keep_missing_start(self, batch_id: str, content: str) -> None:
        """Keep what a batch stands on that began before such things were kept, or with less of it."""
        with self._writing(alone=True, is_noted=False) as session:
            row = session.get(BatchStartRow, batch_id)
            if row is None:
                self.keep_start(session, batch_id, content)
            elif row.content.startswith(ROWS_ALONE):
                row.content = content

    @staticmethod
    def keep_outcome(session: Session, batch_id: str, seq: int, content: str) -> None:
        """Keep what became of a batch that is over, in the transaction of the event that ended or amended it."""
        session.merge(BatchOutcomeRow(batch_id=batch_id, seq=seq, content=content, at=utc_now()))

    def outcome(self, batch_id: str, seq: int) -> str | None:
        """What became of a batch by event `seq`, as JSON; null when that was not kept."""
        with self._reading() as session:
            row = session.get(BatchOutcomeRow, (batch_id, seq))
            return None if row is None else row.content

    def keep_missing_outcome(self, batch_id: str, seq: int, content: str) -> None:
        """Keep what became of a batch that ended before such things were kept."""
        with self._writing(alone=True, is_noted=False) as session:
            self.keep_outcome(session, batch_id, seq, content)

    def file(self, batch_id: str, file_id: int) -> BatchFile:
        """One picture. Raises UnknownBatchError."""
        with self._reading() as session:
            row = session.get(BatchFileRow, file_id)
            if row is None or row.batch_id != batch_id:
                raise UnknownBatchError(batch_id)
            return BatchFile(id=row.id, name=row.name, media_type=row.media_type, content=row.content)

    def let_go(self) -> None:
        """Let the triggers that guard the records of batches let go of them. Only the demo does this, to clear its own."""
        with self._writing() as session:
            session.execute(update(BatchRow).values(archived_at="cleared"))

    def clear(self) -> None:
        """Forget everything. Only the demo does this, to its own database."""
        self.let_go()
        super().clear()

    @staticmethod
    def _count(session: Session, batch_id: str) -> int:
        counted = select(func.count()).select_from(BatchEventRow).where(BatchEventRow.batch_id == batch_id)
        return session.scalar(counted) or 0

    @staticmethod
    def _events(session: Session, batch_id: str) -> list[RecordedEvent]:
        rows = session.scalars(
            select(BatchEventRow).where(BatchEventRow.batch_id == batch_id).order_by(BatchEventRow.seq)
        )
        return [_recorded(row) for row in rows]

    @staticmethod
    def _next_code(session: Session) -> str:
        numbers = [int(code[2:]) for code in session.scalars(select(BatchRow.code)) if code[2:].isdigit()]
        return f"B-{max(numbers, default=100) + 1}"

    def _record(self, session: Session, row: BatchRow) -> BatchRecord:
        return BatchRecord(
            id=row.id,
            code=row.code,
            formula_id=row.formula_id,
            revision=row.revision,
            events=self._count(session, row.id),
            created_at=row.created_at,
            updated_at=row.updated_at,
            archived_at=row.archived_at,
            plan=_plan(row),
        )


def noting_next_time(formula_id: str, table: type[BatchEventRow] | type[CureEventRow]) -> Select[str]:
    """The batches of a formula in use of which a record in `table` notes something for next time, the newest first."""
    return (
        select(BatchRow.id)
        .join(table, table.batch_id == BatchRow.id)
        .where(
            BatchRow.formula_id == formula_id,
            BatchRow.archived_at.is_(None),
            table.content.contains('"next_time":true', autoescape=True),
        )
        .group_by(BatchRow.id)
        .order_by(BatchRow.created_at.desc(), BatchRow.code.desc())
    )


def _changed(row: BatchRow, plan: BatchPlan) -> None:
    """Its plan is another one: what lists find it by, and what they show of it, is too."""
    row.search_text = f"{row.code} {plan.formula.name}".casefold()
    row.forget_summary()


def _forget(session: Session, which: ColumnElement[bool]) -> None:
    """Batches are to be summed up anew: those of which `which` holds, and those that may be being summed up in this moment."""
    chosen = update(BatchRow).where(or_(which, BatchRow.summary.is_(None)))
    session.execute(chosen.values(status=None, summary=None, forgotten=BatchRow.forgotten + 1))


def _plan(row: BatchRow) -> BatchPlan:
    try:
        return BatchPlan.model_validate_json(row.content)
    except ValidationError as error:
        raise UnreadableError(f"batch {row.code}") from error


class _Wrapped(Model):
    event: Event


def _recorded(row: BatchEventRow) -> RecordedEvent:
    try:
        return RecordedEvent(seq=row.seq, at=row.at, event=_Wrapped.model_validate_json(row.content).event)
    except ValidationError as error:
        raise UnreadableError(f"event {row.seq} of batch {row.batch_id}") from error
