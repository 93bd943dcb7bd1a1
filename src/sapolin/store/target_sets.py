"""Targets that the maker saved under a name, for any formula."""

from typing import Annotated

from pydantic import Field, TypeAdapter
from sqlalchemy import func
from sqlalchemy.orm import Session

from sapolin.core.optimise.solve.question import MAX_TARGETS, Target
from sapolin.core.quantities.model import Model
from sapolin.store.clock import utc_now
from sapolin.store.reading import readable
from sapolin.store.repository import ChangedElsewhereError, Repository
from sapolin.store.tables import TargetSetRow

__all__ = ["NameTakenError", "TargetSet", "TargetSetRecord", "TargetSetStore", "UnknownTargetSetError"]

_TARGETS = TypeAdapter(tuple[Target, ...])


class TargetSet(Model):
    """Targets under a name."""

    name: Annotated[str, Field(min_length=1, max_length=80, pattern=r"\S")]
    targets: Annotated[tuple[Target, ...], Field(min_length=1, max_length=MAX_TARGETS)]


class TargetSetRecord(TargetSet):
    """A target set as kept."""

    id: int
    revision: int
    """Counts every save; a save that names another is refused."""
    updated_at: str
    """UTC, ISO 8601."""


class NameTakenError(Exception):
    """Another set has that name; `id` is its id."""

    def __init__(self, id_: int) -> None:
        super().__init__(id_)
        self.id = id_


class UnknownTargetSetError(LookupError):
    """There is no such set."""


def _record(row: TargetSetRow) -> TargetSetRecord:
    return TargetSetRecord(
        id=row.id,
        name=row.name,
        targets=_TARGETS.validate_json(row.content),
        revision=row.revision,
        updated_at=row.updated_at,
    )


class TargetSetStore(Repository[TargetSetRow]):
    """Target sets, by id."""

    table = TargetSetRow
    unknown = UnknownTargetSetError

    def all(self) -> list[TargetSetRecord]:
        """Every set in use, by name."""
        with self._reading() as session:
            rows = session.scalars(self._chosen().order_by(func.lower(TargetSetRow.name)))
            return [*readable(rows, _record)]

    def create(self, targets: TargetSet) -> TargetSetRecord:
        """Keep a new set; one that was archived under its name comes back with these targets.

        Raises NameTakenError when its name, in whatever case, is another's.
        """
        name = targets.name.strip()
        with self._writing(alone=True) as session:
            row = session.scalar(self._chosen(archived=None).where(func.lower(TargetSetRow.name) == name.lower()))
            if row is not None and row.archived_at is None:
                raise NameTakenError(row.id)
            if row is None:
                row = TargetSetRow(revision=0)
                session.add(row)
            row.name, row.archived_at = name, None
            return self._written(session, row, targets)

    def replace(self, set_id: int, revision: int, targets: TargetSet) -> TargetSetRecord:
        """Give a set other targets, if `revision` is still the one kept; its name stays.

        Raises UnknownTargetSetError and ChangedElsewhereError.
        """
        with self._writing(alone=True) as session:
            row = self._in_use(session, set_id)
            if row.revision != revision:
                raise ChangedElsewhereError(set_id)
            return self._written(session, row, targets)

    def archive(self, set_id: int) -> TargetSetRecord:
        """Archive a set and return it. Raises UnknownTargetSetError."""
        with self._writing(alone=True) as session:
            self._in_use(session, set_id)
            return _record(self._archived(session, set_id, True))

    def restore(self, set_id: int) -> TargetSetRecord:
        """Bring an archived set back as it was. Raises UnknownTargetSetError."""
        with self._writing() as session:
            return _record(self._archived(session, set_id, False))

    def _in_use(self, session: Session, set_id: int) -> TargetSetRow:
        row = self._row(session, set_id)
        if row.archived_at is not None:
            raise UnknownTargetSetError(set_id)
        return row

    @staticmethod
    def _written(session: Session, row: TargetSetRow, targets: TargetSet) -> TargetSetRecord:
        row.content, row.updated_at = _TARGETS.dump_json(targets.targets).decode(), utc_now()
        row.revision += 1
        session.flush()
        return _record(row)
