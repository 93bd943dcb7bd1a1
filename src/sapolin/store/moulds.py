"""The moulds of the workshop, kept."""

from uuid import uuid4

from sqlalchemy.orm import Session

from sapolin.core.batch.moulds import Mould
from sapolin.core.quantities.model import Model
from sapolin.store.clock import utc_now
from sapolin.store.reading import parsed, readable
from sapolin.store.repository import ChangedElsewhereError, Repository
from sapolin.store.tables import MouldRow

__all__ = ["MouldRecord", "MouldStore", "UnknownMouldError"]


class UnknownMouldError(LookupError):
    """There is no such mould."""


class MouldRecord(Model):
    """A mould as kept."""

    mould: Mould
    revision: int
    """Counts every save, and what batches that were poured taught."""


def _record(row: MouldRow) -> MouldRecord:
    return MouldRecord(mould=parsed(Mould, row.content), revision=row.revision)


class MouldStore(Repository[MouldRow]):
    """Moulds, by id."""

    table = MouldRow
    unknown = UnknownMouldError

    def records(self) -> list[MouldRecord]:
        """Moulds in use with their revisions, by name."""
        with self._reading() as session:
            rows = session.scalars(self._chosen().order_by(MouldRow.name))
            return [*readable(rows, _record)]

    def all(self) -> list[Mould]:
        """Moulds in use, by name."""
        return [one.mould for one in self.records()]

    def save(self, mould: Mould, revision: int) -> MouldRecord:
        """Keep a mould under its id, if `revision` is still the one kept; without an id, a new one (`revision` 0).

        An archived mould comes back by it. Raises ChangedElsewhereError and UnknownMouldError.
        """
        with self._writing(alone=True) as session:
            row = session.get(MouldRow, mould.id) if mould.id else None
            if mould.id and row is None and revision:
                raise UnknownMouldError(mould.id)
            if (0 if row is None else row.revision) != revision:
                raise ChangedElsewhereError(mould.id)
            kept = mould if mould.id else mould.model_copy(update={"id": uuid4().hex[:12]})
            self.put_in(session, kept)
            session.flush()
            return _record(self._row(session, kept.id))

    def put(self, mould: Mould) -> Mould:
        """Keep a mould under its id, whatever is kept, or a new one under a fresh id. For the demo and what is brought in."""
        kept = mould if mould.id else mould.model_copy(update={"id": uuid4().hex[:12]})
        with self._writing() as session:
            self.put_in(session, kept)
        return kept

    @staticmethod
    def get_in(session: Session, mould_id: str) -> Mould | None:
        """A mould in use, within a transaction; null when there is none of that id."""
        row = session.get(MouldRow, mould_id)
        return None if row is None or row.archived_at is not None else parsed(Mould, row.content)

    @staticmethod
    def put_in(session: Session, mould: Mould) -> None:
        """Keep a mould that has an id, within a transaction."""
        row = session.get(MouldRow, mould.id)
        if row is None:
            row = MouldRow(id=mould.id, revision=0)
            session.add(row)
        row.name, row.content, row.updated_at, row.archived_at = mould.name, mould.model_dump_json(), utc_now(), None
        row.revision += 1

    def archive(self, mould_id: str) -> MouldRecord:
        """Archive a mould and return it, so that it can be kept again. Raises UnknownMouldError."""
        with self._writing() as session:
            return _record(self._archived(session, mould_id, True))
