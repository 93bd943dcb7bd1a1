"""Batches: planned, kept, and on paper."""

from typing import Annotated

from fastapi import Query, Request, Response
from pydantic import Field

from sapolin.api.room import room
from sapolin.api.stores import AllStores, Batches
from sapolin.core.batch.frozen import PreparedBatch
from sapolin.core.batch.plan import MOST_PORTIONS, BatchPlan, PortionPlan
from sapolin.core.batch.sheet import Sheet
from sapolin.core.batch.starting import with_portion, without_portion
from sapolin.core.quantities.diagnostics import Diagnostic, FormulaError
from sapolin.core.quantities.model import Model, Truth
from sapolin.core.quantities.units import TemperatureUnitId
from sapolin.exchange.batch_sheet import PaperSize, sheet_csv, sheet_markdown, sheet_pdf
from sapolin.services.batches import plan_of, prepared, sheet_of_batch
from sapolin.services.lessons import NoteForNextTime, heed, next_time_of, notes_of
from sapolin.services.lists import BatchPage, BatchStatus, page_of_batches
from sapolin.services.taking import LotForPlan, lots_for_plan
from sapolin.store.batches import BatchRecord
from sapolin.store.stores import Stores

__all__ = ["router"]

router = room("/api", "batches")


class BatchUpdate(Model):
    """A save."""

    revision: Annotated[int, Field(ge=0, lt=2**63)]
    plan: BatchPlan


class PlanReport(Model):
    """What can be said of a plan while it is being written."""

    prepared: PreparedBatch | None
    """Null while something is missing or impossible."""
    problems: tuple[Diagnostic, ...]
    """What stands in the way, entry by entry."""


@router.post("/batch-plan/report", summary="Calculate a batch as it is being planned")
def report_plan(plan: BatchPlan) -> PlanReport:
    """Everything that follows from the plan, or what still stands in the way: an unfinished plan is no error here."""
    try:
        return PlanReport(prepared=prepared(plan), problems=())
    except FormulaError as error:
        return PlanReport(prepared=None, problems=error.problems)


class PortionsEdit(Model):
    """The portions of a plan, and what to do to them."""

    portions: Annotated[tuple[PortionPlan, ...], Field(max_length=MOST_PORTIONS)]
    leave_out: Annotated[int | None, Field(ge=0, lt=MOST_PORTIONS)] = None
    """Position of the portion to leave out; null adds one."""


@router.post("/batch-plan/portions", summary="Add a portion of the batter, or leave one out")
def edit_portions(edit: PortionsEdit) -> tuple[PortionPlan, ...]:
    """The portions with shares that sum to 100 %: evened out when one is added; when one is left out, its share goes to the
    largest that stays. Nothing is kept.
    """
    if edit.leave_out is None:
        return with_portion(edit.portions)
    return without_portion(edit.portions, edit.leave_out)


@router.post("/batch-plan/lots", summary="What the next lots say otherwise than a plan")
def plan_lots(plan: BatchPlan, stores: AllStores) -> tuple[LotForPlan, ...]:
    """The purity of the lye and the SAP values of certificates that differ from the plan's, each with the plan by what the lot
    says. Nothing is kept. 422 while the plan cannot be calculated.
    """
    return lots_for_plan(plan, stores)


@router.post("/batch-plan", summary="Calculate a batch")
def prepare_plan(plan: BatchPlan) -> PreparedBatch:
    """Size, weights (g), fill (ml), cutting (mm), order of work and diagnostics. Nothing is kept. 422 with the problems that
    stop the calculation.
    """
    return prepared(plan)


@router.get("/batches", summary="List batches")
def list_batches(
    stores: AllStores,
    search: Annotated[str, Query(max_length=200, description="Words in code or name.")] = "",
    status: Annotated[tuple[BatchStatus, ...], Query(description="Of these alone; any when none is named.")] = (),
    formula_id: Annotated[str | None, Query(max_length=40)] = None,
    limit: Annotated[int, Query(ge=1, le=500)] = 100,
    offset: Annotated[int, Query(ge=0, lt=2**31)] = 0,
) -> BatchPage:
    """Batches in use, newest first, in brief, a page at a time. One that cannot be read has the status `unreadable` and its
    code alone.
    """
    return page_of_batches(stores, search, status, formula_id, limit=limit, offset=offset)


@router.post("/batches", status_code=201, summary="Keep a new batch")
def create_batch(plan: BatchPlan, batches: Batches) -> BatchRecord:
    """A plan with gaps is kept too; it cannot be started with them. The batch gets the next free code."""
    return batches.create(plan)


@router.get("/batches/{batch_id}", summary="One batch")
def get_batch(batch_id: str, batches: Batches) -> BatchRecord:
    """Its plan, its revision, and how many events its record holds. 404 when there is none of that id."""
    return batches.get(batch_id)


@router.put("/batches/{batch_id}", summary="Change the plan of a batch")
def update_batch(batch_id: str, change: BatchUpdate, batches: Batches) -> BatchRecord:
    """Name the revision you read. 409 when it was saved elsewhere since, or when the batch has started: its plan no
    longer changes then.
    """
    return batches.update(batch_id, change.revision, change.plan)


@router.delete("/batches/{batch_id}", summary="Archive a batch")
def delete_batch(batch_id: str, batches: Batches) -> BatchRecord:
    """It leaves the list and can be restored; its record stays whole."""
    return batches.archive(batch_id)


@router.post("/batches/{batch_id}/restore", summary="Restore a batch")
def restore_batch(batch_id: str, batches: Batches) -> BatchRecord:
    """Back on the list, with the plan and the record that it had."""
    return batches.restore(batch_id)


@router.get("/formulas/{formula_id}/next-time", summary="What to do differently next time")
def next_time(formula_id: str, stores: AllStores) -> tuple[NoteForNextTime, ...]:
    """The notes for next time that earlier batches of this formula left, newest first, each once; those ticked off too."""
    stores.formulas.get(formula_id)
    return notes_of(formula_id, stores)


class HeededNote(Model):
    """A note for next time, to be ticked off or brought to mind again."""

    text: Annotated[str, Field(min_length=1, max_length=2000)]
    heeded: Truth


@router.put("/formulas/{formula_id}/next-time", summary="Tick a note off")
def heed_note(formula_id: str, note: HeededNote, stores: AllStores) -> tuple[NoteForNextTime, ...]:
    """A note that was heeded no longer comes back, until a batch notes it again; `heeded: false` takes that back."""
    return heed(formula_id, note.text, stores, heeded=note.heeded)


@router.get("/formulas/{formula_id}/batch-plan", summary="The plan that a new batch starts from")
def new_batch_plan(formula_id: str, stores: AllStores) -> BatchPlan:
    """Size, moulds, choices, scents and colours of the formula's last batch, or the usual choices. Nothing is kept."""
    workshop = stores.workshop.get()
    return plan_of(stores.formulas.get(formula_id), stores.batches, workshop.scale_capacity_g, workshop.schools)


@router.post("/batches/{batch_id}/again", summary="Plan the same batch again")
def plan_again(batch_id: str, stores: AllStores) -> BatchRecord:
    """A new batch with the plan of that one: its formula as it was then, size, moulds, choices, scents and colours; its day and
    its notes left out. What earlier batches noted for next time comes back with its formula.
    """
    plan = stores.batches.get(batch_id).plan
    return stores.batches.create(plan.model_copy(update={"make_on": None, "notes": ""}))


TemperatureUnit = Annotated[TemperatureUnitId, Query(description="Unit of the temperatures.")]


def _sheet(batch_id: str, stores: Stores) -> tuple[BatchRecord, Sheet]:
    record = stores.batches.get(batch_id)
    numbers = stores.workshop.get()
    notes = next_time_of(record.formula_id, stores)
    sheet = sheet_of_batch(record, stores.batches, notes).model_copy(
        update={"emergency_number": numbers.emergency_number, "poison_number": numbers.poison_number}
    )
    return record, sheet


@router.get("/batches/{batch_id}/sheet", summary="The sheet of a batch")
def get_sheet(batch_id: str, stores: AllStores) -> Sheet:
    """Gear, weights, order of work, safety, as it is printed; of a batch that has begun, with what was weighed."""
    return _sheet(batch_id, stores)[1]


@router.get("/batches/{batch_id}/sheet.pdf", summary="The sheet as PDF", response_class=Response)
def get_sheet_pdf(
    batch_id: str,
    request: Request,
    stores: AllStores,
    paper: Annotated[PaperSize, Query(description="Size of the paper.")] = "a4",
    temperature: TemperatureUnit = "C",
) -> Response:
    """A4. Gear, first aid and weights on the first page, then the order of work; its QR code opens the batch. Weights in
    g and oz, temperatures in the unit asked for.
    """
    record, sheet = _sheet(batch_id, stores)
    return Response(
        sheet_pdf(sheet, paper, f"{request.base_url}batches/{batch_id}", temperature),
        media_type="application/pdf",
        headers={"content-disposition": f'inline; filename="batch-{record.code}.pdf"'},
    )


@router.get("/batches/{batch_id}/sheet.md", summary="The sheet as Markdown", response_class=Response)
def get_sheet_markdown(batch_id: str, stores: AllStores, temperature: TemperatureUnit = "C") -> Response:
    """The same content as the PDF, UTF-8."""
    record, sheet = _sheet(batch_id, stores)
    return Response(
        sheet_markdown(sheet, temperature),
        media_type="text/markdown; charset=utf-8",
        headers={"content-disposition": f'attachment; filename="batch-{record.code}.md"'},
    )


@router.get("/batches/{batch_id}/sheet.csv", summary="The weights as CSV", response_class=Response)
def get_sheet_csv(batch_id: str, stores: AllStores) -> Response:
    """One line a weight: section, name, weight in g and oz, note, weight really taken in g. UTF-8, comma separated, safe to
    open in a spreadsheet.
    """
    record, sheet = _sheet(batch_id, stores)
    return Response(
        sheet_csv(sheet),
        media_type="text/csv; charset=utf-8",
        headers={"content-disposition": f'attachment; filename="batch-{record.code}.csv"'},
    )
