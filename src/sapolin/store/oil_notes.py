"""What the maker says of the oils in the workshop."""

from sqlalchemy import delete, select

from sapolin.core.optimise.own_oils import OilNote
from sapolin.store.clock import utc_now
from sapolin.store.repository import Repository
from sapolin.store.tables import OilNoteRow

__all__ = ["OilNoteStore"]


class OilNoteStore(Repository[OilNoteRow]):
    """Notes, by oil."""

    table = OilNoteRow

    def all(self) -> dict[str, OilNote]:
        """Every note, by oil id."""
        with self._reading() as session:
            rows = session.scalars(select(OilNoteRow).order_by(OilNoteRow.oil))
            return {row.oil: OilNote.model_validate_json(row.content) for row in rows}

    def set(self, oil: str, note: OilNote) -> None:
        """Keep what is said of an oil, or forget it when nothing is."""
        with self._writing() as session:
            session.execute(delete(OilNoteRow).where(OilNoteRow.oil == oil))
            if not note.says_nothing:
                session.add(OilNoteRow(oil=oil, content=note.model_dump_json(), updated_at=utc_now()))
