"""Preparations: plans that change until they are begun, then a record that only grows."""

from collections.abc import Callable
from uuid import uuid4

from pydantic import TypeAdapter, ValidationError
from sqlalchemy import select, update
from sqlalchemy.orm import Session

from sapolin.core.preparations.plan import Preparation
from sapolin.core.production.events import Event, RecordedEvent
from sapolin.core.quantities.model import Model
from sapolin.store.batches import BatchBegunError, BatchConflictError, StaleRecordError
from sapolin.store.clock import utc_now
from sapolin.store.reading import UnreadableError, readable
from sapolin.store.repository import Repository
from sapolin.store.tables import PreparationEventRow, PreparationRow

__all__ = ["PreparationRecord", "PreparationStore", "UnknownPreparationError"]

_PLAN: TypeAdapter[Preparation] = TypeAdapter(Preparation)
Decide = Callable[[list[RecordedEvent]], Event]
"""The event as it is to be recorded after those given; raises when it may not follow them."""


class PreparationRecord(Model):
    """A preparation as kept."""

    id: str
    code: str
    """Short, to be written on a bottle."""
    revision: int
    is_begun: bool
    created_at: str
    updated_at: str
    archived_at: str | None
    plan: Preparation


class UnknownPreparationError(LookupError):
    """There is no preparation of that id."""


class _Wrapped(Model):
    event: Event


class PreparationStore(Repository[PreparationRow]):
    """Preparations and their records."""

    table = PreparationRow
    also_cleared = (PreparationEventRow,)
    unknown = UnknownPreparationError

    def all(self, *, archived: bool = False) -> list[PreparationRecord]:
        """Those in use, or those archived, the newest first."""
        with self._reading() as session:
            rows = session.scalars(
                self._chosen(archived=archived).order_by(PreparationRow.created_at.desc(), PreparationRow.code.desc())
            )
            return [*readable(rows, _record)]

    def get(self, preparation_id: str) -> PreparationRecord:
        """One of them. Raises UnknownPreparationError."""
        with self._reading() as session:
            return _record(self._row(session, preparation_id))

    def begun(self, preparation_id: str) -> str | None:
        """What followed from its plan when it was begun, as JSON; null while it is planned."""
        with self._reading() as session:
            return self._row(session, preparation_id).begun

    def create(self, plan: Preparation) -> PreparationRecord:
        """Keep a new one under the next free code."""
        now = utc_now()
        with self._writing(alone=True) as session:
            row = PreparationRow(
                id=uuid4().hex, code=_next_code(session), kind=plan.kind, name=plan.name, content=plan.model_dump_json(),
                begun=None, revision=1, created_at=now, updated_at=now, archived_at=None,
            )  # fmt: skip
            session.add(row)
            session.flush()
            return _record(row)

    def update(self, preparation_id: str, revision: int, plan: Preparation) -> PreparationRecord:
        """Replace the plan, if `revision` is still the one kept and it is not begun.

        Raises UnknownPreparationError, BatchBegunError or BatchConflictError.
        """
        with self._writing(alone=True) as session:
            row = self._row(session, preparation_id)
            if row.begun is not None:
                raise BatchBegunError(preparation_id)
            if row.revision != revision:
                raise BatchConflictError(preparation_id)
            row.content, row.kind, row.name = plan.model_dump_json(), plan.kind, plan.name
            row.revision, row.updated_at = revision + 1, utc_now()
            session.flush()
            return _record(row)

    def archive(self, preparation_id: str, *, archived: bool = True) -> PreparationRecord:
        """Take it off the list, or put it back. Raises UnknownPreparationError."""
        with self._writing() as session:
            return _record(self._archived(session, preparation_id, archived))

    def events(self, preparation_id: str) -> list[RecordedEvent]:
        """Its record, in order. Raises UnknownPreparationError."""
        with self._reading() as session:
            self._row(session, preparation_id)
            return _events(session, preparation_id)

    def add_event(
        self, preparation_id: str, key: str, decide: Decide, after_seq: int | None, begins_with: str
    ) -> list[RecordedEvent]:
        """Add to the record, once: the same `key` again changes nothing. Returns the whole record.

        With its first event it begins, and holds on to `begins_with`. With `after_seq` it is refused when another device added
        to the record since. Raises UnknownPreparationError or StaleRecordError.
        """
        with self._writing(alone=True) as session:
            row = self._row(session, preparation_id)
            record = _events(session, preparation_id)
            known = select(PreparationEventRow.seq).where(
                PreparationEventRow.preparation_id == preparation_id, PreparationEventRow.key == key
            )
            if session.scalar(known) is not None:
                return record
            last = record[-1].seq if record else 0
            if after_seq is not None and after_seq != last:
                raise StaleRecordError(last)
            event, now = decide(record), utc_now()
            added = PreparationEventRow(
                preparation_id=preparation_id, seq=last + 1, key=key, at=now,
                content=_Wrapped(event=event).model_dump_json(),
            )  # fmt: skip
            session.add(added)
            row.updated_at, row.begun = now, row.begun or begins_with
            session.flush()
            return [*record, _recorded(added)]

    def clear(self) -> None:
        """Forget everything. Only the demo does this, to its own database."""
        with self._writing() as session:
            session.execute(update(PreparationRow).values(archived_at="cleared"))
        super().clear()


def _events(session: Session, preparation_id: str) -> list[RecordedEvent]:
    rows = session.scalars(
        select(PreparationEventRow)
        .where(PreparationEventRow.preparation_id == preparation_id)
        .order_by(PreparationEventRow.seq)
    )
    return [_recorded(row) for row in rows]


def _recorded(row: PreparationEventRow) -> RecordedEvent:
    try:
        return RecordedEvent(seq=row.seq, at=row.at, event=_Wrapped.model_validate_json(row.content).event)
    except ValidationError as error:
        raise UnreadableError(f"event {row.seq} of preparation {row.preparation_id}") from error


def _next_code(session: Session) -> str:
    numbers = [int(code[2:]) for code in session.scalars(select(PreparationRow.code)) if code[2:].isdigit()]
    return f"P-{max(numbers, default=100) + 1}"


def _record(row: PreparationRow) -> PreparationRecord:
    try:
        plan = _PLAN.validate_json(row.content)
    except ValidationError as error:
        raise UnreadableError(f"preparation {row.code}") from error
    return PreparationRecord(
        id=row.id, code=row.code, revision=row.revision, is_begun=row.begun is not None, created_at=row.created_at,
        updated_at=row.updated_at, archived_at=row.archived_at, plan=plan,
    )  # fmt: skip
