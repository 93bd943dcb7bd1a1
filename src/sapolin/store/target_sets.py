"""Targets that the maker saved under a name, for any formula."""

from typing import Annotated

from pydantic import Field, TypeAdapter
from sqlalchemy import Engine, delete, func, select
from sqlalchemy.orm import Session

from sapolin.core.optimise.solve.question import MAX_TARGETS, Target
from sapolin.core.quantities.model import Model
from sapolin.store.clock import utc_now
from sapolin.store.reading import readable
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


class TargetSetStore:
    """Target sets in one database. Every method is one transaction; when it returns, the change is on disk."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def all(self) -> list[TargetSetRecord]:
        """Every set, by name."""
        with Session(self._engine) as session:
            rows = session.scalars(select(TargetSetRow).order_by(func.lower(TargetSetRow.name)))
            return [*readable(rows, _record)]

    def create(self, targets: TargetSet) -> TargetSetRecord:
        """Keep a new set. Raises NameTakenError when its name, in whatever case, is another's."""
        name = targets.name.strip()
        with Session(self._engine) as session, session.begin():
            taken = session.scalar(select(TargetSetRow.id).where(func.lower(TargetSetRow.name) == name.lower()))
            if taken is not None:
                raise NameTakenError(taken)
            row = TargetSetRow(name=name, content=_TARGETS.dump_json(targets.targets).decode(), updated_at=utc_now())
            session.add(row)
            session.flush()
            return _record(row)

    def replace(self, set_id: int, targets: TargetSet) -> TargetSetRecord:
        """Give a set other targets; its name stays. Raises UnknownTargetSetError."""
        with Session(self._engine) as session, session.begin():
            row = session.get(TargetSetRow, set_id)
            if row is None:
                raise UnknownTargetSetError(set_id)
            row.content, row.updated_at = _TARGETS.dump_json(targets.targets).decode(), utc_now()
            return _record(row)

    def remove(self, set_id: int) -> TargetSetRecord:
        """Remove a set and return it, so that it can be kept again. Raises UnknownTargetSetError."""
        with Session(self._engine) as session, session.begin():
            row = session.get(TargetSetRow, set_id)
            if row is None:
                raise UnknownTargetSetError(set_id)
            record = _record(row)
            session.delete(row)
            return record

    def clear(self) -> None:
        """Forget everything. Only the demo does this, to its own database."""
        with Session(self._engine) as session, session.begin():
            session.execute(delete(TargetSetRow))
