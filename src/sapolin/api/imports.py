"""Bringing things in: tables of formulas, lots and batches made before, seen before they are kept, and undone."""

from typing import Annotated

from pydantic import Field

from sapolin.api.buying import SentFile
from sapolin.api.room import room
from sapolin.api.stores import AllStores
from sapolin.core.quantities.model import Model
from sapolin.services.import_reading import TableMapping
from sapolin.services.imports import ImportPreview, ImportUndone, import_table, preview_table, undo_import
from sapolin.store.imports import ImportKept, ImportKind

__all__ = ["router"]

router = room("/api/imports", "imports")


class TableAsked(Model):
    """A table to look at."""

    kind: ImportKind
    file: SentFile
    mapping: TableMapping | None = None
    """Null: as its headings suggest."""


class TableToKeep(Model):
    """A table to bring in."""

    key: Annotated[str, Field(min_length=8, max_length=64)]
    """Chosen by the device: sending it again brings nothing in twice."""
    kind: ImportKind
    file: SentFile
    mapping: TableMapping


@router.post("/preview", summary="Look at a table")
def preview_import(asked: TableAsked, stores: AllStores) -> ImportPreview:
    """CSV or XLSX. What would be made of it, and what is left out and why. Nothing is kept."""
    return preview_table(asked.kind, asked.file.name, asked.file.content, asked.mapping, stores)


@router.post("", status_code=201, summary="Bring a table in")
def bring_table_in(new: TableToKeep, stores: AllStores) -> ImportKept:
    """What can be read is kept; what cannot is left out. Batches of before get the weights of their plan, and say so."""
    return import_table(new.kind, new.file.name, new.file.content, new.mapping, new.key, stores)


@router.get("", summary="What was brought in")
def get_imports(stores: AllStores) -> list[ImportKept]:
    """The latest twenty, the newest first."""
    return stores.imports.all()


@router.post("/{import_id}/undo", summary="Take away what was brought in")
def take_import_back(import_id: str, stores: AllStores) -> ImportUndone:
    """Formulas and batches are archived, lots that nothing was taken from are taken away; what was used since stays."""
    return undo_import(import_id, stores)
