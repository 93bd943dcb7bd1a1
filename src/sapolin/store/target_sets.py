"""Targets that the maker saved under a name, for any formula."""

from typing import Annotated

from pydantic import Field, TypeAdapter
from sqlalchemy import func

from sapolin.core.optimise.solve.question import MAX_TARGETS, Target
from sapolin.core.quantities.model import Model
from sapolin.store.clock import utc_now
from sapolin.store.reading import readable
from sapolin.store.repository import Repository
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
        id=row.id, name=row.name, targets=_TARGETS.validate_json(row.content), updated_at=row.updated_at
    )


class TargetSetStore(Repository[TargetSetRow]):
    """Target sets, by id."""

    table = TargetSetRow
    unknown = UnknownTargetSetError

    def all(self) -> list[TargetSetRecord]:
        """Every set, by name."""
        with self._reading() as session:
            rows = session.scalars(self._chosen(archived=None).order_by(func.lower(TargetSetRow.name)))
            return [*readable(rows, _record)]

    def create(self, targets: TargetSet) -> TargetSetRecord:
        """Keep a new set. Raises NameTakenError when its name, in whatever case, is another's."""
        name = targets.name.strip()
        with self._writing() as session:
            taken = session.scalar(
                self._chosen(archived=None)
                .with_only_columns(TargetSetRow.id)
                .where(func.lower(TargetSetRow.name) == name.lower())
            )
            if taken is not None:
                raise NameTakenError(taken)
            row = TargetSetRow(name=name, content=_TARGETS.dump_json(targets.targets).decode(), updated_at=utc_now())
            session.add(row)
            session.flush()
            return _record(row)

    def replace(self, set_id: int, targets: TargetSet) -> TargetSetRecord:
        """Give a set other targets; its name stays. Raises UnknownTargetSetError."""
        with self._writing() as session:
            row = self._row(session, set_id)
            row.content, row.updated_at = _TARGETS.dump_json(targets.targets).decode(), utc_now()
            return _record(row)

    def remove(self, set_id: int) -> TargetSetRecord:
        """Remove a set and return it, so that it can be kept again. Raises UnknownTargetSetError."""
        with self._writing() as session:
            row = self._row(session, set_id)
            record = _record(row)
            session.delete(row)
            return record
