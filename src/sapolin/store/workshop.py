"""What there is to know about the workshop itself, kept."""

from sqlalchemy import select

from sapolin.core.quantities.model import Model
from sapolin.store.clock import utc_now
from sapolin.store.repository import Repository
from sapolin.store.tables import WorkshopRow

__all__ = ["Workshop", "WorkshopStore"]


class Workshop(Model):
    """The workshop. Texts are as the maker wrote them; empty while not entered."""

    emergency_number: str = ""
    """Of the local emergency service."""
    poison_number: str = ""
    """Of the local poison information service."""


class WorkshopStore(Repository[WorkshopRow]):
    """What is known about the workshop, by name."""

    table = WorkshopRow

    def get(self) -> Workshop:
        """What is kept."""
        with self._reading() as session:
            kept = {row.name: row.value for row in session.scalars(select(WorkshopRow))}
        return Workshop(**{name: kept[name] for name in Workshop.model_fields if name in kept})

    def put(self, workshop: Workshop) -> Workshop:
        """Keep all of it."""
        with self._writing() as session:
            for name, value in workshop.model_dump().items():
                session.merge(WorkshopRow(name=name, value=value, updated_at=utc_now()))
        return workshop

    def mark(self, name: str) -> str | None:
        """A mark that the application left for itself; null when there is none."""
        with self._reading() as session:
            row = session.get(WorkshopRow, f"mark:{name}")
            return None if row is None else row.value

    def set_mark(self, name: str, value: str) -> None:
        """Leave a mark for the application itself."""
        with self._writing() as session:
            session.merge(WorkshopRow(name=f"mark:{name}", value=value, updated_at=utc_now()))
