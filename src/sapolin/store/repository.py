"""What every store does alike: its transactions, getting a row, archiving it, saving it if nobody else did since."""

from collections.abc import Iterable, Iterator
from contextlib import AbstractContextManager, contextmanager
from typing import Any, ClassVar, Generic, TypeVar

from sqlalchemy import Engine, Select, delete, select, update
from sqlalchemy.orm import Session

from sapolin.store.clock import utc_now
from sapolin.store.tables import Base
from sapolin.store.transactions import writing

__all__ = ["ByOil", "ChangedElsewhereError", "Repository"]

_Row = TypeVar("_Row", bound=Base)


_Value = TypeVar("_Value")


class ChangedElsewhereError(Exception):
    """What was to be changed is no longer as it was when it was looked at."""


class Repository(Generic[_Row]):
    """The rows of one table in one database. Every public method is one transaction; when it returns, the change is on disk.

    A table whose rows can be archived has `archived_at`; one whose rows several screens may save has `revision`.
    """

    table: ClassVar[type[Any]]
    also_cleared: ClassVar[tuple[type[Base], ...]] = ()
    """Tables whose rows belong to those of `table`; they are cleared first."""
    unknown: ClassVar[type[LookupError]] = LookupError
    """Raised when there is no row of an id."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def clear(self) -> None:
        """Delete everything for good. Only the demo does this, to its own database."""
        with self._writing() as session:
            for table in (*self.also_cleared, self.table):
                session.execute(delete(table))

    def is_empty(self) -> bool:
        """Whether nothing is kept, not even something archived."""
        with self._reading() as session:
            return session.scalars(select(self.table).limit(1)).first() is None

    def name(self, id_: str | int) -> str:
        """What a row is called, whether or not the rest of it can be read. Raises what `unknown` says without such a row."""
        with self._reading() as session:
            name: str | None = session.scalar(select(self._called()).where(self._column("id") == id_))
        if name is None:
            raise self.unknown(id_)
        return name

    def _called(self) -> Any:
        """The column, or what takes its place, that holds what a row is called."""
        return self._column("name")

    @contextmanager
    def _reading(self) -> Iterator[Session]:
        """One look: whatever others write meanwhile, all of it is as it stood when the first of it was read."""
        with Session(self._engine) as session:
            session.connection().exec_driver_sql("BEGIN")
            yield session

    def _writing(self, *, alone: bool = False, is_noted: bool = True) -> AbstractContextManager[Session]:
        """A transaction that is on disk when it ends; `alone` when what it reads must stay true until it writes; not `is_noted`
        for what is only summed up on the way.
        """
        return writing(self._engine, alone=alone, is_noted=is_noted)

    def _row(self, session: Session, id_: str | int) -> _Row:
        row: _Row | None = session.get(self.table, id_, populate_existing=True)
        if row is None:
            raise self.unknown(id_)
        return row

    def _chosen(self, *, archived: bool | None = False) -> Select[_Row]:
        """The rows in use, those archived, or all (null)."""
        rows: Select[_Row] = select(self.table)
        if archived is None:
            return rows
        at = self._column("archived_at")
        return rows.where(at.is_not(None) if archived else at.is_(None))

    def _archived(self, session: Session, id_: str | int, archived: bool) -> _Row:
        """The row, now archived or restored."""
        session.execute(
            update(self.table).where(self._column("id") == id_).values(archived_at=utc_now() if archived else None)
        )
        return self._row(session, id_)

    def _saved(self, session: Session, id_: str, revision: int, values: dict[str, Any]) -> bool:
        """Whether the row was saved: only if `revision` is still the one kept."""
        saved = session.execute(
            update(self.table)
            .where(self._column("id") == id_, self._column("revision") == revision)
            .values(**values, revision=revision + 1, updated_at=utc_now())
            .returning(self._column("id"))
        )
        return saved.first() is not None

    def _column(self, name: str) -> Any:
        return getattr(self.table, name)


class ByOil(Repository[_Row], Generic[_Row, _Value]):
    """One value for each oil, by its id: changed only while it is as it was when looked at; forgotten, it is archived."""

    @staticmethod
    def _value(row: Any) -> _Value:
        """What a row holds."""
        raise NotImplementedError

    @staticmethod
    def _fill(row: Any, value: _Value) -> None:
        """Put a value into a row."""
        raise NotImplementedError

    def all(self) -> dict[str, _Value]:
        """Every value, by oil id."""
        with self._reading() as session:
            rows: Iterable[Any] = session.scalars(self._chosen().order_by(self._column("oil")))
            return {row.oil: self._value(row) for row in rows}

    def set(self, oil: str, value: _Value | None, *, was: tuple[_Value | None] | None = None) -> None:
        """Keep a value; null forgets it. `was` holds what it was when it was looked at, null for nothing.

        Raises ChangedElsewhereError when it is something else now.
        """
        with self._writing(alone=True) as session:
            row = session.get(self.table, oil)
            known = None if row is None or row.archived_at is not None else self._value(row)
            if was is not None and was[0] != known:
                raise ChangedElsewhereError(oil)
            if value == known:
                return
            if row is None:
                row = self.table(oil=oil, revision=0)
                session.add(row)
            row.revision += 1
            row.updated_at = utc_now()
            row.archived_at = row.updated_at if value is None else None
            if value is not None:
                self._fill(row, value)
