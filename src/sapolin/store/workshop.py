"""What there is to know about the workshop itself, kept."""

from sqlalchemy import Engine, delete, select
from sqlalchemy.orm import Session

from sapolin.core.quantities.model import Model
from sapolin.store.clock import utc_now
from sapolin.store.tables import WorkshopRow

__all__ = ["Workshop", "WorkshopStore"]


class Workshop(Model):
    """The workshop. Texts are as the maker wrote them; empty while not entered."""

    emergency_number: str = ""
    """Of the local emergency service."""
    poison_number: str = ""
    """Of the local poison information service."""


class WorkshopStore:
    """The workshop in one database. Every method is one transaction; when it returns, the change is on disk."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def get(self) -> Workshop:
        """What is kept."""
        with Session(self._engine) as session:
            kept = {row.name: row.value for row in session.scalars(select(WorkshopRow))}
        return Workshop(**{name: kept[name] for name in Workshop.model_fields if name in kept})

    def put(self, workshop: Workshop) -> Workshop:
        """Keep all of it."""
        with Session(self._engine) as session, session.begin():
            for name, value in workshop.model_dump().items():
                session.merge(WorkshopRow(name=name, value=value, updated_at=utc_now()))
        return workshop

    def mark(self, name: str) -> str | None:
        """A mark that the application left for itself; null when there is none."""
        with Session(self._engine) as session:
            row = session.get(WorkshopRow, f"mark:{name}")
            return None if row is None else row.value

    def set_mark(self, name: str, value: str) -> None:
        """Leave a mark for the application itself."""
        with Session(self._engine) as session, session.begin():
            session.merge(WorkshopRow(name=f"mark:{name}", value=value, updated_at=utc_now()))

    def clear(self) -> None:
        """Forget everything. Only the demo does this, to its own database."""
        with Session(self._engine) as session, session.begin():
            session.execute(delete(WorkshopRow))
