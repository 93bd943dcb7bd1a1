"""Tables that were brought in, so that each can be undone."""

import json
from typing import Literal
from uuid import uuid4

from sqlalchemy import select

from sapolin.core.quantities.model import Model
from sapolin.store.clock import utc_now
from sapolin.store.repository import Repository
from sapolin.store.tables import ImportRow

__all__ = ["ImportKept", "ImportKind", "ImportStore", "UnknownImportError"]

ImportKind = Literal["formulas", "stock", "batches"]


class UnknownImportError(LookupError):
    """There is no such import."""


class ImportKept(Model):
    """What was brought in."""

    id: str
    kind: ImportKind
    file_name: str
    made: tuple[str, ...]
    """Ids of what was made."""
    at: str
    undone_at: str | None


class ImportStore(Repository[ImportRow]):
    """Imports, by id."""

    table = ImportRow
    unknown = UnknownImportError

    def all(self) -> list[ImportKept]:
        """The latest twenty, the newest first."""
        with self._reading() as session:
            return [_kept(row) for row in session.scalars(select(ImportRow).order_by(ImportRow.at.desc()).limit(20))]

    def get(self, import_id: str) -> ImportKept:
        """One import. Raises UnknownImportError."""
        with self._reading() as session:
            return _kept(self._row(session, import_id))

    def begin(self, key: str, kind: ImportKind, file_name: str) -> tuple[ImportKept, bool]:
        """Keep that a table is being brought in, and whether it is new: the same `key` again gives what is kept."""
        with self._writing(alone=True) as session:
            row = session.scalar(select(ImportRow).where(ImportRow.key == key))
            if row is not None:
                return _kept(row), False
            row = ImportRow(
                id=uuid4().hex,
                key=key,
                kind=kind,
                file_name=file_name[:200],
                content="[]",
                at=utc_now(),
                undone_at=None,
            )
            session.add(row)
            return _kept(row), True

    def made(self, import_id: str, id_: str) -> None:
        """Keep that something was made."""
        with self._writing(alone=True) as session:
            row = self._row(session, import_id)
            row.content = json.dumps([*json.loads(row.content), id_])

    def undone(self, import_id: str) -> ImportKept:
        """Keep that it was undone."""
        with self._writing() as session:
            row = self._row(session, import_id)
            row.undone_at = utc_now()
            return _kept(row)


def _kept(row: ImportRow) -> ImportKept:
    return ImportKept.model_validate(
        {"id": row.id, "kind": row.kind, "file_name": row.file_name, "made": json.loads(row.content), "at": row.at,
         "undone_at": row.undone_at}
    )  # fmt: skip
