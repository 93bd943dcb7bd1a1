"""The maker's own materials, kept. Formulas carry copies, so changing one here changes no formula."""

import re
from uuid import uuid4

from sqlalchemy import Engine, delete, select, update
from sqlalchemy.orm import Session

from sapolin.core.materials.own import OwnMaterial
from sapolin.core.quantities.model import Model
from sapolin.store.clock import utc_now
from sapolin.store.reading import readable
from sapolin.store.tables import MaterialRow

__all__ = ["MaterialConflictError", "MaterialRecord", "MaterialStore", "UnknownMaterialError", "new_material_id"]


class MaterialRecord(Model):
    """An own material as kept."""

    revision: int
    """Counts every save."""
    updated_at: str
    """UTC, ISO 8601."""
    archived_at: str | None
    """UTC, ISO 8601; null unless archived."""
    material: OwnMaterial


class UnknownMaterialError(LookupError):
    """There is no own material of that id."""


class MaterialConflictError(Exception):
    """Someone else saved since."""


def new_material_id(name: str) -> str:
    """A fresh id that still tells what it names, such as `own-winter-blend-3f2a`."""
    slug = re.sub(r"[^a-z0-9]+", "-", name.casefold()).strip("-")[:50] or "material"
    return f"own-{slug}-{uuid4().hex[:4]}"


def _record(row: MaterialRow) -> MaterialRecord:
    return MaterialRecord(
        revision=row.revision,
        updated_at=row.updated_at,
        archived_at=row.archived_at,
        material=OwnMaterial.model_validate_json(row.content),
    )


class MaterialStore:
    """Own materials in one database. Every method is one transaction; when it returns, the change is on disk."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def find(self, *, deleted: bool | None = False) -> list[MaterialRecord]:
        """Materials by name: those in use, those archived (`deleted` true), or all (null)."""
        chosen = select(MaterialRow).order_by(MaterialRow.name)
        if deleted is not None:
            chosen = chosen.where(
                (MaterialRow.archived_at.is_not(None)) if deleted else MaterialRow.archived_at.is_(None)
            )
        with Session(self._engine) as session:
            return [*readable(session.scalars(chosen), _record)]

    def create(self, material: OwnMaterial) -> MaterialRecord:
        """Keep a new material under its id."""
        now = utc_now()
        with Session(self._engine) as session, session.begin():
            row = MaterialRow(
                id=material.id,
                name=material.name,
                content=material.model_dump_json(),
                revision=1,
                created_at=now,
                updated_at=now,
                archived_at=None,
            )
            session.add(row)
            session.flush()
            return _record(row)

    def update(self, revision: int, material: OwnMaterial) -> MaterialRecord:
        """Replace a material, if `revision` is still the one kept.

        Raises UnknownMaterialError or MaterialConflictError.
        """
        with Session(self._engine) as session, session.begin():
            replaced = session.execute(
                update(MaterialRow)
                .where(MaterialRow.id == material.id, MaterialRow.revision == revision)
                .values(
                    name=material.name,
                    content=material.model_dump_json(),
                    revision=revision + 1,
                    updated_at=utc_now(),
                )
                .returning(MaterialRow.id)
            ).first()
            record = self._read(session, material.id)
            if replaced is None:
                raise MaterialConflictError(material.id)
            return record

    def archive(self, material_id: str, *, aside: bool) -> MaterialRecord:
        """Take a material off the shelf, or put it back. Raises UnknownMaterialError."""
        with Session(self._engine) as session, session.begin():
            session.execute(
                update(MaterialRow)
                .where(MaterialRow.id == material_id)
                .values(archived_at=utc_now() if aside else None)
            )
            return self._read(session, material_id)

    def clear(self) -> None:
        """Remove everything for good. Only the demo does this, to its own database."""
        with Session(self._engine) as session, session.begin():
            session.execute(delete(MaterialRow))

    @staticmethod
    def _read(session: Session, material_id: str) -> MaterialRecord:
        row = session.get(MaterialRow, material_id, populate_existing=True)
        if row is None:
            raise UnknownMaterialError(material_id)
        return _record(row)
