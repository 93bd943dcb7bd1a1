"""The maker's own materials, kept. Formulas carry copies, so changing one here changes no formula."""

import re
from uuid import uuid4

from sqlalchemy.orm import Session

from sapolin.core.materials.own import OwnMaterial
from sapolin.core.quantities.model import Model
from sapolin.store.clock import utc_now
from sapolin.store.reading import readable
from sapolin.store.repository import Repository
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


class MaterialStore(Repository[MaterialRow]):
    """Own materials, by id."""

    table = MaterialRow
    unknown = UnknownMaterialError

    def find(self, *, archived: bool | None = False) -> list[MaterialRecord]:
        """Materials by name: those in use, those archived, or all (null)."""
        with self._reading() as session:
            rows = session.scalars(self._chosen(archived=archived).order_by(MaterialRow.name))
            return [*readable(rows, _record)]

    def named(self, words: str, limit: int) -> list[tuple[str, str]]:
        """Id and name of materials in use whose name holds every one of `words`, at most `limit`."""
        chosen = self._chosen().with_only_columns(MaterialRow.id, MaterialRow.name).order_by(MaterialRow.name)
        for word in words.split():
            chosen = chosen.where(MaterialRow.name.icontains(word, autoescape=True))
        with self._reading() as session:
            return [(row.id, row.name) for row in session.execute(chosen.limit(limit))]

    def create(self, material: OwnMaterial) -> MaterialRecord:
        """Keep a new material under its id."""
        with self._writing() as session:
            return self.create_in(session, material)

    @staticmethod
    def create_in(session: Session, material: OwnMaterial) -> MaterialRecord:
        """The same, in a transaction."""
        now = utc_now()
        row = MaterialRow(
            id=material.id, name=material.name, content=material.model_dump_json(), revision=1, created_at=now,
            updated_at=now, archived_at=None,
        )  # fmt: skip
        session.add(row)
        session.flush()
        return _record(row)

    def update(self, revision: int, material: OwnMaterial) -> MaterialRecord:
        """Replace a material, if `revision` is still the one kept.

        Raises UnknownMaterialError or MaterialConflictError.
        """
        with self._writing() as session:
            values = {"name": material.name, "content": material.model_dump_json()}
            is_saved = self._saved(session, material.id, revision, values)
            record = _record(self._row(session, material.id))
            if not is_saved:
                raise MaterialConflictError(material.id)
            return record

    def archive(self, material_id: str) -> MaterialRecord:
        """Take a material off the shelf. Raises UnknownMaterialError."""
        with self._writing() as session:
            return _record(self._archived(session, material_id, True))

    def restore(self, material_id: str) -> MaterialRecord:
        """Put a material back on the shelf. Raises UnknownMaterialError."""
        with self._writing() as session:
            return _record(self._archived(session, material_id, False))
