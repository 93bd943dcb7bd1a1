"""Formulas: kept, changed, duplicated, archived, restored, and their versions."""

from typing import Annotated

from fastapi import Body, Path, Query, Request, Response
from pydantic import Field
from starlette.concurrency import run_in_threadpool

from sapolin.api.devices import Devices
from sapolin.api.errors import Refusal
from sapolin.api.room import room
from sapolin.api.stores import AllStores, Formulas
from sapolin.core.formula.check import problems_of
from sapolin.core.formula.document import Formula
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.quantities.diagnostics import FormulaError
from sapolin.core.quantities.model import Model
from sapolin.exchange.formula_document import FormulaDocument, read_document, write_document
from sapolin.services.lists import FormulaPage, page_of_formulas
from sapolin.services.make_day import resume_devices
from sapolin.services.safekeeping import begin_anew
from sapolin.store.formulas import Adopted, FormulaFilter, FormulaOrder, FormulaRecord, VersionRecord

__all__ = ["router"]

router = room("/api", "formulas")

Revision = Annotated[int, Field(ge=0, lt=2**63)]


class FormulaUpdate(Model):
    """A save."""

    revision: Revision
    """The revision the change was made on; another one kept meanwhile refuses the save with 409."""
    formula: Formula


class DuplicateRequest(Model):
    """A copy under a name of its own."""

    name: Annotated[str, Field(min_length=1, max_length=120)]


class VersionRequest(Model):
    """Keep the draft as a version."""

    revision: Revision
    """The revision to keep; another one kept meanwhile refuses it with 409."""
    note: Annotated[str, Field(max_length=2000)] = ""
    """What changed and why."""


class AdoptRequest(Model):
    """Another bar in the place of the draft."""

    revision: Revision
    """The revision that the new bar came from; another one kept meanwhile refuses it with 409."""
    formula: Formula
    note: Annotated[str, Field(max_length=2000)] = ""
    """What changed and why."""


class ReturnRequest(Model):
    """Go back to a kept version."""

    revision: Revision
    """The revision of the draft; another one kept meanwhile refuses it with 409."""


def _refuse_unfinished(formula: Formula) -> None:
    """A version can always be made, so an unfinished formula is none."""
    stopping = [problem for problem in problems_of(formula, catalogue()) if problem.stops_calculation]
    if stopping:
        raise FormulaError(stopping)


@router.get("/formulas", summary="List formulas")
def list_formulas(
    store: Formulas,
    search: Annotated[str, Query(max_length=200, description="Words in name, notes, tags or oils.")] = "",
    deleted: Annotated[bool, Query(description="Those archived instead.")] = False,
    purpose: Annotated[str | None, Query(max_length=80, description="Of this purpose alone.")] = None,
    state: Annotated[str | None, Query(max_length=16, description="In this state alone.")] = None,
    can_be_mixed: Annotated[bool, Query(description="Pastes alone that can be mixed with others.")] = False,
    order: Annotated[FormulaOrder, Query(description="`changed`: the last changed first.")] = "changed",
    limit: Annotated[int, Query(ge=1, le=500)] = 100,
    offset: Annotated[int, Query(ge=0, lt=2**31)] = 0,
) -> FormulaPage:
    """Formulas whose name, notes or oils contain every word of `search`, in brief, a page at a time."""
    asked = FormulaFilter(
        words=search, archived=deleted, purpose=purpose, state=state, can_be_mixed=can_be_mixed, order=order
    )  # fmt: skip
    return page_of_formulas(store, asked, limit, offset)


@router.post("/formulas", status_code=201, summary="Keep a new formula")
def create_formula(formula: Formula, store: Formulas) -> FormulaRecord:
    """A formula with gaps is kept too; it just cannot be calculated yet."""
    return store.create(formula)


@router.post("/formulas/import", status_code=201, summary="Read a formula document")
async def import_formula(request: Request, store: Formulas) -> FormulaRecord:
    """Keep the formula in an open document (docs/formula.schema.json) of this version or an earlier one. 422 when it is
    malformed, too large, or of a later version.
    """
    content = await request.body()
    # Reading and keeping it happens outside the event loop, so that scales and screens go on meanwhile.
    return await run_in_threadpool(lambda: store.create(read_document(content)))


@router.get("/formulas/{formula_id}", summary="One formula")
def get_formula(formula_id: str, store: Formulas) -> FormulaRecord:
    """The draft with its revision, deleted or not. 404 when there is none of that id."""
    return store.get(formula_id)


@router.put("/formulas/{formula_id}", summary="Save a formula")
def update_formula(formula_id: str, change: FormulaUpdate, store: Formulas) -> FormulaRecord:
    """Durable when it answers. 409 when it was saved elsewhere since, 410 when it has been deleted."""
    return store.update(formula_id, change.revision, change.formula)


@router.post("/formulas/{formula_id}/duplicate", status_code=201, summary="Duplicate a formula")
def duplicate_formula(formula_id: str, request: DuplicateRequest, store: Formulas) -> FormulaRecord:
    """A new formula with the same content and no versions."""
    return store.duplicate(formula_id, request.name)


@router.delete("/formulas/{formula_id}", summary="Delete a formula")
def delete_formula(formula_id: str, store: Formulas) -> FormulaRecord:
    """It leaves the list and can be restored, with its versions."""
    return store.delete(formula_id)


@router.post("/formulas/{formula_id}/restore", summary="Restore a formula")
def restore_formula(formula_id: str, store: Formulas) -> FormulaRecord:
    """Back on the list, with its versions."""
    return store.restore(formula_id)


@router.get("/formulas/{formula_id}/document", summary="Write a formula document", response_model=FormulaDocument)
def export_formula(formula_id: str, store: Formulas) -> Response:
    """The draft as an open document, with the own materials that it uses in full: it can be read anywhere."""
    return Response(
        write_document(store.get(formula_id).formula),
        media_type="application/json",
        headers={"content-disposition": f'attachment; filename="formula-{formula_id[:8]}.json"'},
    )


@router.get("/formulas/{formula_id}/versions", summary="Versions of a formula")
def list_versions(formula_id: str, store: Formulas) -> list[VersionRecord]:
    """Kept versions, newest first, each with its note and its formula. They never change."""
    return store.versions(formula_id)


@router.post("/formulas/{formula_id}/versions", status_code=201, summary="Keep a version")
def keep_version(formula_id: str, request: VersionRequest, store: Formulas) -> VersionRecord:
    """Keep the draft as the next version. 422 when it cannot be calculated: a version can always be made."""
    _refuse_unfinished(store.get(formula_id).formula)
    return store.keep_version(formula_id, request.revision, request.note)


@router.post("/formulas/{formula_id}/adopt", status_code=201, summary="Take another bar over")
def adopt_formula(formula_id: str, request: AdoptRequest, store: Formulas) -> Adopted:
    """Put a formula, from a swap or a solve, in the place of the draft and keep it as a version.

    The draft is kept as a version first, in the same transaction. A formula in which something is still to be entered, such as
    the purity of a lye, becomes the draft and no version yet. 409 when it was saved elsewhere since, 422 when it is impossible.
    """
    problems = problems_of(request.formula, catalogue())
    impossible = [one for one in problems if one.stops_calculation and not one.is_open]
    if impossible:
        raise FormulaError(impossible)
    finished = not any(one.stops_calculation for one in problems)
    return store.adopt(formula_id, request.revision, request.formula, request.note, as_version=finished)


@router.post("/formulas/{formula_id}/versions/{number}/return", summary="Go back to a version")
def return_to_version(
    formula_id: str, number: Annotated[int, Path(ge=1, lt=2**63)], request: ReturnRequest, store: Formulas
) -> Adopted:
    """Put a kept version in the place of the draft, which is kept as a version first, in the same transaction."""
    return store.return_to(formula_id, request.revision, number)


@router.post("/demo/reset", summary="Reset the demo world")
def reset_demo(
    request: Request, stores: AllStores, devices: Devices, confirm: Annotated[bool, Body(embed=True)]
) -> FormulaPage:
    """Put the demo database back as it was shipped. Refused for any other database."""
    if request.app.state.fill_demo is None:
        raise Refusal(403, "not_demo", "This is your own data; only the demo world can be reset.")
    if not confirm:
        raise Refusal(422, "not_confirmed", "Send “confirm”: true to reset the demo world.")
    begin_anew(stores, request.app.state.settings.database, request.app.state.fill_demo)
    resume_devices(stores.batches, devices)
    return page_of_formulas(stores.formulas, FormulaFilter(), limit=100)
