"""The maker's own materials: oils the catalogue does not hold, certificates, mixtures."""

from typing import Annotated

from fastapi import Query
from pydantic import Field

from sapolin.api.errors import Refusal
from sapolin.api.reference import OilSummary, summary_of
from sapolin.api.room import room
from sapolin.api.stores import Materials
from sapolin.core.materials.catalogue import Oil, catalogue
from sapolin.core.materials.own import OwnMaterial, material_problems, named_materials, with_materials
from sapolin.core.quantities.diagnostics import Diagnostic, FormulaError
from sapolin.core.quantities.model import Model
from sapolin.store.materials import MaterialRecord, MaterialStore, new_material_id

__all__ = ["router"]

router = room("/api/materials", "materials")


class ShelfMaterial(Model):
    """An own material, ready to be used in a formula."""

    record: MaterialRecord
    definitions: tuple[OwnMaterial, ...]
    """What a formula that names it has to carry: the material, and those its recipe names."""
    summary: OilSummary
    """As the picker of oils shows it."""


class MaterialCheck(Model):
    """What is to be said about a material before it is kept."""

    problems: tuple[Diagnostic, ...]
    """Fields start with `content`, `name` and so on."""
    oil: Oil | None
    """The material as the calculation sees it; null while something stops it."""


class MaterialUpdate(Model):
    """A save."""

    revision: Annotated[int, Field(ge=0, lt=2**63)]
    """The revision the change was made on; another one kept meanwhile refuses the save with 409."""
    material: OwnMaterial


def _shelf(records: list[MaterialRecord], all_records: list[MaterialRecord]) -> list[ShelfMaterial]:
    materials = [record.material for record in all_records]
    oils = with_materials(catalogue(), materials)
    return [
        ShelfMaterial(
            record=record,
            definitions=named_materials([record.material.id], materials),
            summary=summary_of(oils[record.material.id]),
        )
        for record in records
    ]


def _one(record: MaterialRecord, store: MaterialStore) -> ShelfMaterial:
    return _shelf([record], store.find(archived=None))[0]


def _checked(material: OwnMaterial, store: MaterialStore) -> MaterialCheck:
    others = [record.material for record in store.find(archived=None) if record.material.id != material.id]
    everything = [material, *others]
    found = [
        problem.at(problem.path.removeprefix("materials[0]."))
        for problem in material_problems(everything, catalogue())
        if problem.path.startswith("materials[0].")
    ]
    if any(problem.stops_calculation for problem in found):
        return MaterialCheck(problems=tuple(found), oil=None)
    return MaterialCheck(problems=tuple(found), oil=with_materials(catalogue(), everything)[material.id])


def _refuse_unsound(material: OwnMaterial, store: MaterialStore) -> None:
    stopping = [problem for problem in _checked(material, store).problems if problem.stops_calculation]
    if stopping:
        raise FormulaError(stopping)


@router.get("", summary="List own materials")
def list_materials(
    store: Materials, deleted: Annotated[bool, Query(description="Those archived instead.")] = False
) -> list[ShelfMaterial]:
    """Own materials by name, each with its diagnostics and the oil that it makes."""
    return _shelf(store.find(archived=deleted), store.find(archived=None))


@router.post("/check", summary="Check a material")
def check_material(material: OwnMaterial, store: Materials) -> MaterialCheck:
    """What is missing, impossible or doubtful, and the oil it makes. Nothing is kept."""
    return _checked(material, store)


@router.post("", status_code=201, summary="Keep a new material")
def create_material(material: OwnMaterial, store: Materials) -> ShelfMaterial:
    """It gets a new id. 422 with every problem when it is not sound."""
    named = material.model_copy(update={"id": new_material_id(material.name)})
    _refuse_unsound(named, store)
    return _one(store.create(named), store)


@router.put("/{material_id}", summary="Save a material")
def update_material(material_id: str, change: MaterialUpdate, store: Materials) -> ShelfMaterial:
    """Name the revision you read. 409 when it was saved elsewhere since. Formulas carry a copy and do not change."""
    if change.material.id != material_id:
        raise Refusal(422, "other_material", "The material sent has another id than the address.")
    _refuse_unsound(change.material, store)
    return _one(store.update(change.revision, change.material), store)


@router.delete("/{material_id}", summary="Archive a material")
def delete_material(material_id: str, store: Materials) -> ShelfMaterial:
    """It leaves the shelf and can be restored; formulas that use it keep it."""
    return _one(store.archive(material_id), store)


@router.post("/{material_id}/restore", summary="Restore a material")
def restore_material(material_id: str, store: Materials) -> ShelfMaterial:
    """Back on the shelf."""
    return _one(store.restore(material_id), store)
