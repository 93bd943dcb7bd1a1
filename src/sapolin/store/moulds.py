"""The moulds of the workshop, kept."""

from uuid import uuid4

from sqlalchemy.orm import Session

from sapolin.core.batch.moulds import Mould
from sapolin.store.clock import utc_now
from sapolin.store.reading import readable
from sapolin.store.repository import Repository
from sapolin.store.tables import MouldRow

__all__ = ["MouldStore", "UnknownMouldError"]


class UnknownMouldError(LookupError):
    """There is no such mould."""


class MouldStore(Repository[MouldRow]):
    """Moulds, by id."""

    table = MouldRow
    unknown = UnknownMouldError

    def all(self) -> list[Mould]:
        """Moulds in use, by name."""
        with self._reading() as session:
            rows = session.scalars(self._chosen().order_by(MouldRow.name))
            return [*readable(rows, lambda row: Mould.model_validate_json(row.content))]

    def put(self, mould: Mould) -> Mould:
        """Keep a mould under its id, or a new one under a fresh id."""
        kept = mould if mould.id else mould.model_copy(update={"id": uuid4().hex[:12]})
        with self._writing() as session:
            self.put_in(session, kept)
        return kept

    @staticmethod
    def get_in(session: Session, mould_id: str) -> Mould | None:
        """A mould in use, within a transaction; null when there is none of that id."""
        row = session.get(MouldRow, mould_id)
        return None if row is None or row.archived_at is not None else Mould.model_validate_json(row.content)

    @staticmethod
    def put_in(session: Session, mould: Mould) -> None:
        """Keep a mould that has an id, within a transaction."""
        session.merge(
            MouldRow(
                id=mould.id, name=mould.name, content=mould.model_dump_json(), updated_at=utc_now(), archived_at=None
            )
        )

    def archive(self, mould_id: str) -> Mould:
        """Archive a mould and return it, so that it can be kept again. Raises UnknownMouldError."""
        with self._writing() as session:
            return Mould.model_validate_json(self._archived(session, mould_id, True).content)
