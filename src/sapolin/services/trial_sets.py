"""Trials: drawn up, kept, planned batch by batch, and told from the sheets of their batches."""

from collections.abc import Sequence
from typing import Annotated

from pydantic import Field

from sapolin.core.batch.moulds import capacity_ml
from sapolin.core.batch.plan import BatchPlan, MouldUse, SizeBy
from sapolin.core.batch.planned import plan_batch
from sapolin.core.cure.state import cure_state
from sapolin.core.formula.document import Formula
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.materials.own import with_materials
from sapolin.core.optimise.trial_set import TEST_BATCH_OILS_G
from sapolin.core.quantities.diagnostics import FormulaError, stopping
from sapolin.core.quantities.model import FiniteNumber, Model, Truth
from sapolin.core.trials.criteria import Criterion, criteria
from sapolin.core.trials.design import DesignAsked, design_of
from sapolin.core.trials.effects import RunSheet
from sapolin.core.trials.trial import TrialResult, TrialSetup, design_runs, level_runs, trial_result
from sapolin.services.batches import plan_of
from sapolin.services.lists import batches_of
from sapolin.store.stores import Stores
from sapolin.store.trials import TrialKept

__all__ = ["TrialAsked", "TrialBrief", "TrialView", "draw_up", "plan_run", "start_trial", "trial_of", "trials_of"]


class Levels(Model):
    """One oil at each of some shares."""

    oil: Annotated[str, Field(min_length=1, max_length=80)]
    levels_percent: Annotated[tuple[FiniteNumber, ...], Field(min_length=2, max_length=8)]


class TrialAsked(Model):
    """What a trial is to try: one oil at several shares, or a design."""

    formula_id: Annotated[str, Field(min_length=1, max_length=40)]
    name: Annotated[str, Field(min_length=1, max_length=120, pattern=r"\S")]
    criterion: Annotated[str, Field(min_length=1, max_length=40)]
    levels: Levels | None = None
    design: DesignAsked | None = None


class TrialBatch(Model):
    """The batch of one run."""

    run: int
    batch_id: str
    code: str
    status: str
    fit: Truth


class TrialView(Model):
    """A trial with its batches and what they show so far."""

    id: str
    created_at: str
    setup: TrialSetup
    criterion: Criterion
    batches: tuple[TrialBatch, ...]
    result: TrialResult


class TrialBrief(Model):
    """A trial in a list."""

    id: str
    name: str
    formula_id: str
    created_at: str
    runs: int
    planned: int
    result: TrialResult
    criterion: Criterion
    run: int | None
    """The run that the batch in question is."""


def draw_up(asked: TrialAsked, stores: Stores) -> TrialSetup:
    """The test batches of a trial; nothing is kept. Raises UnknownFormulaError, or FormulaError when it cannot be."""
    formula = stores.formulas.get(asked.formula_id).formula
    _criterion(asked.criterion, stores)
    names = _names(formula)
    common = {"name": asked.name.strip(), "formula_id": asked.formula_id, "criterion": asked.criterion}
    if asked.levels is not None and asked.design is None:
        oil = asked.levels.oil
        return TrialSetup(**common, runs=level_runs(formula, oil, names.get(oil, oil), asked.levels.levels_percent))
    if asked.design is None or asked.levels is not None:
        raise FormulaError([stopping("one_kind_of_trial", "levels")])
    return TrialSetup(**common, asked=asked.design, runs=design_runs(formula, design_of(asked.design), names))


def start_trial(asked: TrialAsked, stores: Stores, at: str | None = None) -> TrialView:
    """Draw up a trial and keep it; `at` is when, now by default."""
    return _view(stores.trials.create(draw_up(asked, stores), at), stores)


def trial_of(trial_id: str, stores: Stores) -> TrialView:
    """A trial. Raises UnknownTrialError."""
    return _view(stores.trials.get(trial_id), stores)


def trials_of(stores: Stores, *, batch_id: str | None = None, formula_id: str | None = None) -> tuple[TrialBrief, ...]:
    """The trials in use, the newest first."""
    found = []
    for kept in stores.trials.all(batch_id=batch_id, formula_id=formula_id):
        run = next((run for run, linked in kept.batches.items() if linked == batch_id), None)
        found.append(
            TrialBrief(
                id=kept.id, name=kept.setup.name, formula_id=kept.setup.formula_id, created_at=kept.created_at,
                runs=len(kept.setup.runs), planned=len(kept.batches), result=_result(kept, stores),
                criterion=_criterion(kept.setup.criterion, stores), run=run,
            )
        )  # fmt: skip
    return tuple(found)


def plan_run(trial_id: str, run: int, stores: Stores) -> TrialView:
    """Plan the batch of a run, at test size, in the smallest mould of the workshop that takes it.

    Raises UnknownTrialError, or FormulaError when there is no such run or it is planned already.
    """
    kept = stores.trials.get(trial_id)
    if not 0 <= run < len(kept.setup.runs):
        raise FormulaError([stopping("no_such_run", "run")])
    if run in kept.batches:
        raise FormulaError([stopping("run_planned_already", "run")])
    formula = stores.formulas.create(kept.setup.runs[run].formula)
    workshop = stores.workshop.get()
    plan = plan_of(formula, stores.batches, workshop.scale_capacity_g, workshop.schools)
    batch = stores.batches.create(_in_small_mould(plan, stores))
    return _view(stores.trials.link(trial_id, run, batch.id), stores)


def _in_small_mould(plan: BatchPlan, stores: Stores) -> BatchPlan:
    plan = plan.model_copy(update={"size": SizeBy(by="oils_g", value=TEST_BATCH_OILS_G), "moulds": ()})
    try:
        needed_ml = plan_batch(plan).volume.total_ml
    except FormulaError:
        return plan  # Its own page says what is missing.
    takes = [(capacity_ml(mould, 0.0), mould) for mould in stores.moulds.all()]
    fitting = sorted((one for one in takes if one[0] >= needed_ml), key=lambda one: one[0])
    return plan if not fitting else plan.model_copy(update={"moulds": (MouldUse(mould=fitting[0][1]),)})


def _criterion(criterion_id: str, stores: Stores) -> Criterion:
    known = criteria() | {one.id: one for one in stores.criteria.all(archived=None)}
    if criterion_id not in known:
        raise FormulaError([stopping("unknown_criterion", "criterion")])
    return known[criterion_id]


def _names(formula: Formula) -> dict[str, str]:
    return {id_: oil.name for id_, oil in with_materials(catalogue(), formula.materials).items()}


def _result(kept: TrialKept, stores: Stores) -> TrialResult:
    names = _names(kept.setup.runs[0].formula)
    return trial_result(kept.setup, _sheets(kept, stores), names)


def _sheets(kept: TrialKept, stores: Stores) -> Sequence[RunSheet]:
    found = []
    for run, batch_id in kept.batches.items():
        events = stores.cures.events(batch_id)
        if not events:
            continue
        for one in cure_state(events, events[0].at).judged:
            if kept.setup.criterion in one.sheet.scores:
                found.append(
                    RunSheet(run=run, tester=one.sheet.tester.strip(), score=one.sheet.scores[kept.setup.criterion])
                )
    return found


def _view(kept: TrialKept, stores: Stores) -> TrialView:
    batches = batches_of(stores, set(kept.batches.values()))
    return TrialView(
        id=kept.id, created_at=kept.created_at, setup=kept.setup, criterion=_criterion(kept.setup.criterion, stores),
        batches=tuple(
            TrialBatch(
                run=run, batch_id=batch_id, code=batches[batch_id].code, status=batches[batch_id].status,
                fit=(cure := batches[batch_id].cure) is not None and cure.fit == "fit",
            )
            for run, batch_id in sorted(kept.batches.items())
            if batch_id in batches
        ),
        result=_result(kept, stores),
    )  # fmt: skip
