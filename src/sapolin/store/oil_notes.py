"""What the maker says of the oils in the workshop."""

from sapolin.core.optimise.own_oils import OilNote
from sapolin.store.clock import utc_now
from sapolin.store.repository import ChangedElsewhereError, Repository
from sapolin.store.tables import OilNoteRow

__all__ = ["OilNoteStore"]


class OilNoteStore(Repository[OilNoteRow]):
    """Notes, by oil."""

    table = OilNoteRow

    def all(self) -> dict[str, OilNote]:
        """Every note, by oil id."""
        with self._reading() as session:
            rows = session.scalars(self._chosen().order_by(OilNoteRow.oil))
            return {row.oil: OilNote.model_validate_json(row.content) for row in rows}

    def set(self, oil: str, note: OilNote, was: OilNote | None = None) -> None:
        """Keep what is said of an oil; a note that says nothing is archived.

        `was` is the note as it was when it was looked at. Raises ChangedElsewhereError when it is another now.
        """
        with self._writing(alone=True) as session:
            row = session.get(OilNoteRow, oil)
            is_there = row is not None and row.archived_at is None
            known = OilNote.model_validate_json(row.content) if row is not None and is_there else OilNote()
            if was is not None and was != known:
                raise ChangedElsewhereError(oil)
            if note == known:
                return
            if row is None:
                row = OilNoteRow(oil=oil, revision=0)
                session.add(row)
            row.revision += 1
            row.updated_at = utc_now()
            row.content = note.model_dump_json()
            row.archived_at = row.updated_at if note.says_nothing else None
