"""A batch with everything that follows from its plan: from the plan while it is planned, from what it began with afterwards."""

from contextlib import AbstractContextManager, nullcontext, suppress
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from sapolin.core.bar.calculation import CALCULATION_VERSION
from sapolin.core.batch.additions import PortionWeights
from sapolin.core.batch.filling import BatchSize, BatterVolume, MouldFill
from sapolin.core.batch.frozen import FrozenBatch, FrozenRows, PreparedBatch, freeze, prepare, rows_of
from sapolin.core.batch.plan import BatchPlan
from sapolin.core.batch.planned import PlannedBatch, as_poured
from sapolin.core.batch.procedure import Step, pouring_steps
from sapolin.core.batch.sheet import Sheet, sheet_from
from sapolin.core.batch.starting import starting_size
from sapolin.core.batch.temperatures import usual_choices
from sapolin.core.guide.schools import Schools, chosen_choices
from sapolin.core.production.actual import ActualBatch, actual_batch, expected_g, weighed_composition
from sapolin.core.production.events import Event, RecordedEvent
from sapolin.core.production.lots import planned_purities, with_lots
from sapolin.core.production.sheet import actual_sheet
from sapolin.core.production.state import RunState, state_of
from sapolin.core.quantities.diagnostics import FormulaError
from sapolin.core.quantities.model import Model
from sapolin.store.batches import BatchRecord, BatchStore
from sapolin.store.clock import utc_now
from sapolin.store.formulas import FormulaRecord
from sapolin.store.reading import UnreadableError, parsed

__all__ = [
    "BatchWork",
    "Outcome",
    "Poured",
    "frozen_json",
    "keep_missing_outcomes",
    "keep_missing_starts",
    "outcome_of",
    "plan_of",
    "poured_batch",
    "poured_steps",
    "prepared",
    "sheet_of_batch",
    "work_of",
]


@lru_cache(maxsize=128)
def _prepared(plan_json: str) -> PreparedBatch:
    return prepare(BatchPlan.model_validate_json(plan_json))


def prepared(plan: BatchPlan) -> PreparedBatch:
    """Everything that follows from `plan`, remembered. Raises FormulaError with what stands in the way."""
    return _prepared(plan.model_dump_json())


def plan_of(
    formula: FormulaRecord, batches: BatchStore, scale_capacity_g: float | None = None, schools: Schools | None = None
) -> BatchPlan:
    """The plan that a new batch of a formula starts from: as its last one was made, or the usual choices of the workshop on its
    scale."""
    last = next(iter(batches.find(formula.id)), None)
    now = {"formula": formula.formula, "formula_id": formula.id, "version": 0, "notes": "", "make_on": None}
    if last is not None:
        return last.plan.model_copy(update=now)
    choices = chosen_choices(schools or Schools(), usual_choices(formula.formula))
    if scale_capacity_g is not None:
        choices = choices.model_copy(update={"scale_capacity_g": scale_capacity_g})
    size = starting_size(formula.formula)
    return BatchPlan(formula=formula.formula, formula_id=formula.id, choices=choices, size=size)


def frozen_json(plan: BatchPlan) -> str:
    """What a batch of `plan` begins with, as JSON. Raises FormulaError."""
    return freeze(plan, prepared(plan)).model_dump_json()


@lru_cache(maxsize=32)
def _thawed(content: str) -> FrozenBatch:
    return parsed(FrozenBatch, content)


class Poured(Model):
    """What follows from the weights rather than from the plan: volume, portions, moulds, and the steps about them."""

    volume: BatterVolume
    size: BatchSize
    portions: tuple[PortionWeights, ...]
    moulds: tuple[MouldFill, ...]
    steps: tuple[Step, ...]


class Outcome(Model):
    """What became of a batch that is over, as it was calculated when it ended: no later code changes it."""

    actual: ActualBatch
    poured: Poured


@dataclass(frozen=True)
class BatchWork:
    """One kept batch and all that follows from it."""

    record: BatchRecord
    prepared: PreparedBatch
    frozen: FrozenBatch | None
    """Null while it is planned."""

    @property
    def planned(self) -> PlannedBatch:
        """The batch as planned."""
        return self.prepared.planned

    @property
    def steps(self) -> tuple[Step, ...]:
        """Its order of work."""
        return self.prepared.steps

    def in_force(self) -> AbstractContextManager[None]:
        """Calculate with what the batch began with."""
        return nullcontext() if self.frozen is None else self.frozen.rows.in_force()

    def state(self, events: list[RecordedEvent]) -> RunState:
        """What its `events` add up to."""
        return state_of(events, self.steps, planned_purities(self.planned))

    def state_after(self, events: list[RecordedEvent], event: Event) -> RunState:
        """What `events` would add up to if `event` followed them now."""
        seq = events[-1].seq + 1 if events else 1
        return self.state([*events, RecordedEvent(seq=seq, at=utc_now(), event=event)])

    def outcome(self, state: RunState) -> Outcome:
        """The batch as weighed so far, what is still to come at its target; and what follows from those weights."""
        with self.in_force():
            weights_g = expected_g(state)
            planned = with_lots(self.planned, state.lots)
            actual = actual_batch(planned, weights_g)
            if state.status != "planned" and actual.result is not None:
                composition = weighed_composition(planned, weights_g)
                planned = as_poured(self.record.plan, planned, composition, weights_g)
            return Outcome(
                actual=actual,
                poured=Poured(
                    volume=planned.volume,
                    size=planned.size,
                    portions=planned.portions,
                    moulds=planned.moulds,
                    steps=pouring_steps(self.record.plan, planned),
                ),
            )


def poured_batch(planned: PlannedBatch, poured: Poured) -> PlannedBatch:
    """`planned` with what was poured in the place of what was to be."""
    return planned.model_copy(
        update={"volume": poured.volume, "size": poured.size, "portions": poured.portions, "moulds": poured.moulds}
    )


def poured_steps(steps: tuple[Step, ...], poured: Poured) -> tuple[Step, ...]:
    """`steps` with those about portions and moulds as they follow from the weights."""
    changed = {step.id: step for step in poured.steps}
    return tuple(changed.get(step.id, step) for step in steps)


def work_of(record: BatchRecord, batches: BatchStore) -> BatchWork:
    """A kept batch with what follows from it. Raises FormulaError with what stands in the way of one that has not begun."""
    content = batches.start(record.id) if record.events else None
    if content is None:
        return BatchWork(record, prepared(record.plan), None)
    frozen = _thawed(content)
    return BatchWork(record, frozen.prepared, frozen)


def outcome_of(work: BatchWork, state: RunState, batches: BatchStore) -> Outcome:
    """What became of a batch: as it was calculated when it ended, or as it is now while it is being made."""
    if state.status in ("made", "aborted"):
        content = batches.outcome(work.record.id, state.seq)
        if content is not None:
            with suppress(UnreadableError):  # It is calculated once more, on what the batch began with.
                return parsed(Outcome, content)
    return work.outcome(state)


def sheet_of_batch(record: BatchRecord, batches: BatchStore, next_time: tuple[str, ...]) -> Sheet:
    """The sheet of a kept batch: as planned, or from the moment it begins as it is made.

    Raises FormulaError with what stands in the way of one that has not begun.
    """
    work = work_of(record, batches)
    prepared_batch = work.prepared
    if work.frozen is None:
        return sheet_from(
            record.plan, work.planned, prepared_batch.diagnostics, work.steps, record.code, next_time
        )  # fmt: skip
    state = work.state(batches.events(record.id))
    outcome = outcome_of(work, state, batches)
    earlier = tuple(note for note in next_time if note not in state.next_time)
    steps = poured_steps(work.steps, outcome.poured)
    with work.in_force():
        sheet = sheet_from(record.plan, work.planned, prepared_batch.diagnostics, steps, record.code, earlier)
        return actual_sheet(sheet, poured_batch(work.planned, outcome.poured), state, outcome.actual)


def keep_missing_outcomes(batches: BatchStore) -> None:
    """Keep what became of batches that ended before such things were kept, so that nothing moves them from here on."""
    for batch_id in batches.without_outcome():
        with suppress(FormulaError, UnreadableError):
            work = work_of(batches.get(batch_id), batches)
            record = work.record
            state = work.state(batches.events(record.id))
            if state.status in ("made", "aborted") and batches.outcome(record.id, state.seq) is None:
                batches.keep_missing_outcome(record.id, state.seq, work.outcome(state).model_dump_json())


def keep_missing_starts(batches: BatchStore) -> None:
    """Keep what batches rest on that began before such things were kept, so that nothing moves them from here on."""
    for batch_id in batches.without_start():
        with suppress(FormulaError, UnreadableError):  # It could not be calculated before either.
            record, rows = batches.get(batch_id), batches.rows_alone(batch_id)
            batches.keep_missing_start(
                batch_id, frozen_json(record.plan) if rows is None else _frozen_json_of(record.plan, rows)
            )


def _frozen_json_of(plan: BatchPlan, rows: dict[str, Any]) -> str:
    """A batch that an earlier release kept the `rows` of, with what follows from them; the rest as the tables have it."""
    frozen = FrozenRows.model_validate(rows_of(plan).model_dump() | rows)
    with frozen.in_force():
        return FrozenBatch(
            calculation_version=CALCULATION_VERSION, prepared=prepare(plan), rows=frozen
        ).model_dump_json()  # fmt: skip
