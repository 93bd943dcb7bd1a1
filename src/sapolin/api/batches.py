"""Batches: planned, kept, and on paper."""

from contextlib import suppress
from typing import Annotated

from fastapi import APIRouter, Query, Request, Response
from pydantic import Field

from sapolin.api.stores import Batches, Formulas, WorkshopKept
from sapolin.core.batch.frozen import PreparedBatch
from sapolin.core.batch.plan import MOST_PORTIONS, BatchPlan, PortionPlan
from sapolin.core.batch.sheet import Sheet
from sapolin.core.batch.starting import with_portion, without_portion
from sapolin.core.production.events import started_of
from sapolin.core.production.state import state_of
from sapolin.core.quantities.diagnostics import Diagnostic, FormulaError
from sapolin.core.quantities.model import Model
from sapolin.core.quantities.units import TemperatureUnitId
from sapolin.exchange.batch_sheet import PaperSize, sheet_csv, sheet_markdown, sheet_pdf
from sapolin.services.batches import plan_of, prepared, sheet_of_batch, work_of
from sapolin.store.batches import BatchRecord, BatchStore
from sapolin.store.reading import UnreadableError
from sapolin.store.workshop import WorkshopStore

__all__ = ["next_time_of", "router"]

router = APIRouter(prefix="/api", tags=["batches"])


class BatchSummary(Model):
    """A batch in the list."""

    id: str
    code: str
    name: str
    formula_id: str
    version: int
    status: str
    """`planned`, `making`, `aborted` or `made`; `open` while something stands in the way of making it; `unreadable`."""
    oils_g: float | None
    created_at: str
    started_at: str | None
    ended_at: str | None
    current: str | None
    """Title of the step it is at."""
    unmould_hours_low: float | None
    """After it was poured; an estimate."""
    unmould_hours_high: float | None


class BatchUpdate(Model):
    """A save."""

    revision: Annotated[int, Field(ge=0, lt=2**63)]
    plan: BatchPlan


def _summary(record: BatchRecord, store: BatchStore) -> BatchSummary:
    """What the list shows. A batch that is over needs no explanation out: its record says what was begun."""
    events = store.events(record.id) if record.events else []
    state = state_of(events, ())
    started = started_of(events)
    status: str = state.status
    current, oils_g, hours = None, None, None
    if started is not None and started.targets_g:
        oils_g, hours = started.oils_g, started.unmould_hours
    if status in ("planned", "making") or oils_g is None:
        try:
            work = work_of(record, store)
        except FormulaError:
            status = "open" if status == "planned" else status
        else:
            oils_g, hours = oils_g or work.planned.size.oils_g, hours or work.planned.unmould_hours
            at = state_of(events, work.steps).current
            current = next((step.title for step in work.steps if step.id == at), "everything is done")
    low, high = hours or (None, None)
    return BatchSummary(
        id=record.id,
        code=record.code,
        name=record.plan.formula.name,
        formula_id=record.formula_id,
        version=record.plan.version,
        status=status,
        oils_g=oils_g,
        created_at=record.created_at,
        started_at=state.started_at,
        ended_at=state.ended_at,
        current=current if status == "making" else None,
        unmould_hours_low=low,
        unmould_hours_high=high,
    )


def _unreadable(batch_id: str, code: str, created_at: str) -> BatchSummary:
    """A batch whose row is damaged: it stays in the list, so that nobody takes it for lost."""
    return BatchSummary(
        id=batch_id, code=code, name="cannot be read", formula_id="", version=0, status="unreadable", oils_g=None,
        created_at=created_at, started_at=None, ended_at=None, current=None, unmould_hours_low=None,
        unmould_hours_high=None,
    )  # fmt: skip


def next_time_of(formula_id: str, store: BatchStore) -> tuple[str, ...]:
    """The notes for next time that earlier batches of a formula left, newest first, each once."""
    if not formula_id:
        return ()
    said: list[str] = []
    for record in store.find(formula_id):
        with suppress(UnreadableError):
            said += reversed(state_of(store.events(record.id), ()).next_time)
    return tuple(dict.fromkeys(said))


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


@router.post("/batch-plan", summary="Calculate a batch")
def prepare_plan(plan: BatchPlan) -> PreparedBatch:
    """Size, weights (g), fill (ml), cutting (mm), order of work and diagnostics. Nothing is kept. 422 with the problems that
    stop the calculation.
    """
    return prepared(plan)


@router.get("/batches", summary="Every batch")
def list_batches(batches: Batches, formula_id: str | None = None) -> list[BatchSummary]:
    """Batches in use, newest first, in brief. One that cannot be read has the status `unreadable` and its code alone."""
    damaged = batches.unreadable()
    damaged_ids = {batch_id for batch_id, _, _ in damaged}
    found = [_summary(record, batches) for record in batches.find(formula_id) if record.id not in damaged_ids]
    return found if formula_id is not None else [*found, *(_unreadable(*one) for one in damaged)]


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
def next_time(formula_id: str, batches: Batches, formulas: Formulas) -> tuple[str, ...]:
    """The notes for next time that earlier batches of this formula left, newest first, each once."""
    formulas.get(formula_id)
    return next_time_of(formula_id, batches)


@router.get("/formulas/{formula_id}/batch-plan", summary="The plan that a new batch starts from")
def new_batch_plan(formula_id: str, batches: Batches, formulas: Formulas) -> BatchPlan:
    """Size, moulds, choices, scents and colours of the formula's last batch, or the usual choices. Nothing is kept."""
    return plan_of(formulas.get(formula_id), batches)


TemperatureUnit = Annotated[TemperatureUnitId, Query(description="Unit of the temperatures.")]


def _sheet(batch_id: str, batches: BatchStore, workshop: WorkshopStore) -> tuple[BatchRecord, Sheet]:
    record = batches.get(batch_id)
    numbers = workshop.get()
    sheet = sheet_of_batch(record, batches, next_time_of(record.formula_id, batches)).model_copy(
        update={"emergency_number": numbers.emergency_number, "poison_number": numbers.poison_number}
    )
    return record, sheet


@router.get("/batches/{batch_id}/sheet", summary="The sheet of a batch")
def get_sheet(batch_id: str, batches: Batches, workshop: WorkshopKept) -> Sheet:
    """Gear, weights, order of work, safety, as it is printed; of a batch that has begun, as it was made."""
    return _sheet(batch_id, batches, workshop)[1]


@router.get("/batches/{batch_id}/sheet.pdf", summary="The sheet as PDF", response_class=Response)
def get_sheet_pdf(
    batch_id: str,
    request: Request,
    batches: Batches,
    workshop: WorkshopKept,
    paper: Annotated[PaperSize, Query(description="Size of the paper.")] = "a4",
    temperature: TemperatureUnit = "C",
) -> Response:
    """A4. Gear, first aid and weights on the first page, then the order of work; its QR code opens the batch. Weights in
    g and oz, temperatures in the unit asked for.
    """
    record, sheet = _sheet(batch_id, batches, workshop)
    return Response(
        sheet_pdf(sheet, paper, f"{request.base_url}batches/{batch_id}", temperature),
        media_type="application/pdf",
        headers={"content-disposition": f'inline; filename="batch-{record.code}.pdf"'},
    )


@router.get("/batches/{batch_id}/sheet.md", summary="The sheet as Markdown", response_class=Response)
def get_sheet_markdown(
    batch_id: str, batches: Batches, workshop: WorkshopKept, temperature: TemperatureUnit = "C"
) -> Response:
    """The same content as the PDF, UTF-8."""
    record, sheet = _sheet(batch_id, batches, workshop)
    return Response(
        sheet_markdown(sheet, temperature),
        media_type="text/markdown; charset=utf-8",
        headers={"content-disposition": f'attachment; filename="batch-{record.code}.md"'},
    )


@router.get("/batches/{batch_id}/sheet.csv", summary="The weights as CSV", response_class=Response)
def get_sheet_csv(batch_id: str, batches: Batches, workshop: WorkshopKept) -> Response:
    """One line a weight: section, name, weight in g and oz, note, weight really taken in g. UTF-8, comma separated, safe to
    open in a spreadsheet.
    """
    record, sheet = _sheet(batch_id, batches, workshop)
    return Response(
        sheet_csv(sheet),
        media_type="text/csv; charset=utf-8",
        headers={"content-disposition": f'attachment; filename="batch-{record.code}.csv"'},
    )
