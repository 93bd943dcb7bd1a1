"""A batch with everything that follows from its plan: from the plan while it is planned, from what it began with afterwards."""

from contextlib import AbstractContextManager, nullcontext, suppress
from dataclasses import dataclass
from functools import lru_cache

from sapolin.core.batch.frozen import FrozenBatch, freeze
from sapolin.core.batch.plan import BatchPlan
from sapolin.core.batch.planned import PlannedBatch, as_poured, plan_batch
from sapolin.core.batch.procedure import Step, pouring_steps, steps_of
from sapolin.core.batch.readiness import Finding, readiness
from sapolin.core.batch.sheet import Sheet, sheet_from
from sapolin.core.batch.temperatures import usual_choices
from sapolin.core.production.actual import ActualBatch, actual_batch, expected_g
from sapolin.core.production.record import RecordedEvent, RunState, state_of
from sapolin.core.production.sheet import actual_sheet
from sapolin.core.quantities.diagnostics import FormulaError
from sapolin.core.quantities.model import Model
from sapolin.store.batches import BatchRecord, BatchStore
from sapolin.store.formulas import FormulaRecord

__all__ = [
    "BatchWork",
    "PreparedBatch",
    "frozen_json",
    "keep_missing_starts",
    "plan_of",
    "prepared",
    "sheet_of_batch",
    "work_of",
]


class PreparedBatch(Model):
    """A plan with everything that follows from it."""

    planned: PlannedBatch
    findings: tuple[Finding, ...]
    steps: tuple[Step, ...]


@lru_cache(maxsize=128)
def _prepared(plan_json: str) -> PreparedBatch:
    plan = BatchPlan.model_validate_json(plan_json)
    planned = plan_batch(plan)
    return PreparedBatch(planned=planned, findings=readiness(plan, planned), steps=steps_of(plan, planned))


def prepared(plan: BatchPlan) -> PreparedBatch:
    """The plan worked out. Raises FormulaError with what stands in the way."""
    return _prepared(plan.model_dump_json())


def plan_of(formula: FormulaRecord, batches: BatchStore) -> BatchPlan:
    """The plan that a new batch of a formula starts from: as its last one was made, or the usual choices."""
    last = next(iter(batches.find(formula.id)), None)
    now = {"formula": formula.formula, "formula_id": formula.id, "version": 0, "notes": ""}
    if last is not None:
        return last.plan.model_copy(update=now)
    return BatchPlan(formula=formula.formula, formula_id=formula.id, choices=usual_choices(formula.formula))


def frozen_json(plan: BatchPlan) -> str:
    """What a batch of `plan` begins with, as JSON. Raises FormulaError."""
    work = prepared(plan)
    return freeze(plan, work.planned, work.findings, work.steps).model_dump_json()


@lru_cache(maxsize=32)
def _thawed(content: str) -> FrozenBatch:
    return FrozenBatch.model_validate_json(content)


@dataclass(frozen=True)
class BatchWork:
    """One kept batch and all that follows from it."""

    record: BatchRecord
    work: PreparedBatch
    frozen: FrozenBatch | None
    """Null while it is planned."""

    def in_force(self) -> AbstractContextManager[None]:
        """Calculate with what the batch began with."""
        return nullcontext() if self.frozen is None else self.frozen.in_force()

    def state(self, events: list[RecordedEvent]) -> RunState:
        """What its `events` add up to."""
        return state_of(events, self.work.steps)

    def made(self, state: RunState) -> ActualBatch:
        """The batch as weighed so far; what is still to come at its target."""
        with self.in_force():
            return actual_batch(self.work.planned, expected_g(state))

    def poured(self, state: RunState, made: ActualBatch) -> PreparedBatch:
        """What follows from the pot rather than from the plan: volume, portions, moulds, and the steps that speak of them."""
        if state.status == "planned" or made.formula is None:
            return self.work
        with self.in_force():
            planned = as_poured(self.record.plan, self.work.planned, made.formula, expected_g(state))
            told = {step.id: step for step in pouring_steps(self.record.plan, planned)}
        steps = tuple(told.get(step.id, step) for step in self.work.steps)
        return self.work.model_copy(update={"planned": planned, "steps": steps})


def work_of(record: BatchRecord, batches: BatchStore) -> BatchWork:
    """A kept batch worked out. Raises FormulaError with what stands in the way of one that has not begun."""
    content = batches.start(record.id) if record.events else None
    if content is None:
        return BatchWork(record, prepared(record.plan), None)
    frozen = _thawed(content)
    return BatchWork(
        record, PreparedBatch(planned=frozen.planned, findings=frozen.findings, steps=frozen.steps), frozen
    )


def sheet_of_batch(record: BatchRecord, batches: BatchStore, next_time: tuple[str, ...]) -> Sheet:
    """The sheet of a kept batch: as planned, or from the moment it begins as it is made.

    Raises FormulaError with what stands in the way of one that has not begun.
    """
    batch = work_of(record, batches)
    work = batch.work
    if batch.frozen is None:
        return sheet_from(record.plan, work.planned, work.findings, work.steps, record.code, next_time)
    state = batch.state(batches.events(record.id))
    made = batch.made(state)
    poured = batch.poured(state, made)
    earlier = tuple(note for note in next_time if note not in state.next_time)
    with batch.in_force():
        sheet = sheet_from(record.plan, work.planned, work.findings, poured.steps, record.code, earlier)
        return actual_sheet(sheet, poured.planned, state, made)


def keep_missing_starts(batches: BatchStore) -> None:
    """Keep what batches stand on that began before such things were kept, so that nothing moves them from here on."""
    for record in batches.find():
        if record.events and batches.start(record.id) is None:
            with suppress(FormulaError):  # It could not be calculated before either.
                batches.keep_missing_start(record.id, frozen_json(record.plan))
