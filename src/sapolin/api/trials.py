"""Bars put to the test: sheets, blind comparisons, trials, and what the workshop's own bars say of the rules."""

from datetime import datetime
from typing import Annotated

from pydantic import Field

from sapolin.api.errors import Refusal
from sapolin.api.room import room
from sapolin.api.stores import AllStores
from sapolin.core.formula.document import Formula
from sapolin.core.optimise.trial_set import Trial, trial_set
from sapolin.core.quantities.model import Model
from sapolin.core.trials.comparison import ComparisonEvent, ComparisonSetup, Round
from sapolin.core.trials.criteria import Criterion, criteria
from sapolin.core.trials.trial import TrialSetup
from sapolin.services.comparisons import (
    ComparisonView,
    add_comparison_event,
    comparison_of,
    comparisons_of,
    key_of,
    start_comparison,
)
from sapolin.services.judging import TestsView, tests_of
from sapolin.services.learning import Learning, learning_of
from sapolin.services.trial_sets import (
    TrialAsked,
    TrialBrief,
    TrialView,
    draw_up,
    plan_run,
    start_trial,
    trial_of,
    trials_of,
)

__all__ = ["router"]

router = room("/api", "trials")

Key = Annotated[str, Field(min_length=8, max_length=64)]


@router.get("/batches/{batch_id}/tests", summary="The tests of a batch")
def get_tests(batch_id: str, stores: AllStores) -> TestsView:
    """Its sheets, what was predicted of its bars and what they were judged to be, its comparisons and trials. A sheet is added
    to the record after the pour, as an event of the kind `judged`.
    """
    return tests_of(batch_id, stores)


class NewCriterion(Model):
    """Something of one's own to judge bars by."""

    name: Annotated[str, Field(min_length=1, max_length=60, pattern=r"\S")]
    words: Annotated[
        tuple[Annotated[str, Field(min_length=1, max_length=24, pattern=r"\S")], ...], Field(min_length=5, max_length=5)
    ]
    """Five, from the least to the most."""
    asks: Annotated[str, Field(max_length=160)] = ""


@router.get("/criteria", summary="What bars are judged by")
def get_criteria(stores: AllStores) -> tuple[Criterion, ...]:
    """In the order of the sheet, the workshop's own last."""
    return (*criteria().values(), *stores.criteria.all())


@router.post("/criteria", status_code=201, summary="Add a criterion")
def add_criterion(new: NewCriterion, stores: AllStores) -> Criterion:
    """It stands on every sheet from now on. Its words never change, so that what was judged by it keeps its meaning."""
    return stores.criteria.create(Criterion(id="own", name=new.name.strip(), words=new.words, asks=new.asks.strip()))


@router.delete("/criteria/{criterion_id}", status_code=204, summary="Take a criterion off the sheet")
def archive_criterion(criterion_id: str, stores: AllStores) -> None:
    """What was judged by it stays."""
    stores.criteria.archive(criterion_id)


@router.post("/criteria/{criterion_id}/restore", status_code=204, summary="Put a criterion back on the sheet")
def restore_criterion(criterion_id: str, stores: AllStores) -> None:
    """The other way round."""
    stores.criteria.archive(criterion_id, archived=False)


@router.get("/comparisons", summary="Blind comparisons")
def get_comparisons(stores: AllStores) -> tuple[ComparisonView, ...]:
    """The newest first; who is who only of those that are over."""
    return comparisons_of(stores)


@router.post("/comparisons", status_code=201, summary="Start a blind comparison")
def add_comparison(setup: ComparisonSetup, stores: AllStores) -> ComparisonView:
    """Codes and order are drawn here. 422 when a bar is not fit to use."""
    return start_comparison(setup, stores)


@router.get("/comparisons/{comparison_id}", summary="A blind comparison")
def get_comparison(comparison_id: str, stores: AllStores) -> ComparisonView:
    """The next round of each tester; the verdict, and who was who, once all is judged."""
    return comparison_of(comparison_id, stores)


class NewComparisonEvent(Model):
    """Something to add to the record of a comparison."""

    key: Key
    """Chosen by the device: sending it again adds nothing."""
    after_seq: Annotated[int | None, Field(ge=0)] = None
    """The last event known; null adds it whatever was added meanwhile."""
    at: datetime | None = None
    """When it happened, with its time zone; null is now."""
    event: ComparisonEvent


@router.post("/comparisons/{comparison_id}/events", summary="Record a choice")
def record_choice(comparison_id: str, new: NewComparisonEvent, stores: AllStores) -> ComparisonView:
    """Durable when it answers. 409 when another device added to the record after `after_seq`."""
    if new.at is not None and new.at.tzinfo is None:
        raise Refusal(422, "no_time_zone", "The time has no time zone. Add one, such as Z.")
    return add_comparison_event(comparison_id, new.key, new.event, new.at, new.after_seq, stores)


class KeyAsked(Model):
    """Who is who, before all is judged."""

    key: Key


@router.post("/comparisons/{comparison_id}/key", summary="Who stands where, for a helper")
def show_key(comparison_id: str, asked: KeyAsked, stores: AllStores) -> tuple[Round, ...]:
    """For somebody who lays the bars out and does not judge. That it was seen stands in the record."""
    return key_of(comparison_id, asked.key, stores)


@router.delete("/comparisons/{comparison_id}", status_code=204, summary="Archive a comparison")
def archive_comparison(comparison_id: str, stores: AllStores) -> None:
    """It can be restored."""
    stores.comparisons.archive(comparison_id)


@router.post("/comparisons/{comparison_id}/restore", status_code=204, summary="Restore a comparison")
def restore_comparison(comparison_id: str, stores: AllStores) -> None:
    """The other way round."""
    stores.comparisons.archive(comparison_id, archived=False)


@router.post("/trial-set", summary="Single changes worth trying")
def get_trial_set(formula: Formula) -> tuple[Trial, ...]:
    """The base and single changes, each at the size of a test batch. Nothing is kept."""
    return trial_set(formula)


@router.get("/trials", summary="Trials")
def get_trials(stores: AllStores, formula_id: str | None = None) -> tuple[TrialBrief, ...]:
    """Those in use, the newest first; those of a formula."""
    return trials_of(stores, formula_id=formula_id)


@router.post("/trials/draw-up", summary="Draw up a trial")
def preview_trial(asked: TrialAsked, stores: AllStores) -> TrialSetup:
    """Its test batches: one oil at several shares, or the few batches that teach most about three to five oils inside their
    limits. Nothing is kept.
    """
    return draw_up(asked, stores)


@router.post("/trials", status_code=201, summary="Start a trial")
def add_trial(asked: TrialAsked, stores: AllStores) -> TrialView:
    """Kept with its test batches, which are planned one by one."""
    return start_trial(asked, stores)


@router.get("/trials/{trial_id}", summary="A trial")
def get_trial(trial_id: str, stores: AllStores) -> TrialView:
    """Its batches, and what their sheets show so far: estimates with their ranges."""
    return trial_of(trial_id, stores)


@router.post("/trials/{trial_id}/runs/{run}/plan", summary="Plan a test batch")
def plan_trial_run(trial_id: str, run: int, stores: AllStores) -> TrialView:
    """A formula of its own and a batch of it, at test size, in the smallest mould that takes it."""
    return plan_run(trial_id, run, stores)


@router.delete("/trials/{trial_id}", status_code=204, summary="Archive a trial")
def archive_trial(trial_id: str, stores: AllStores) -> None:
    """Its batches stay. It can be restored."""
    stores.trials.archive(trial_id)


@router.post("/trials/{trial_id}/restore", status_code=204, summary="Restore a trial")
def restore_trial(trial_id: str, stores: AllStores) -> None:
    """The other way round."""
    stores.trials.archive(trial_id, archived=False)


@router.get("/learning", summary="What this workshop's bars say")
def get_learning(stores: AllStores) -> Learning:
    """How far its batches lie off each rule of thumb, with how many batches and how sure; and how what was predicted before
    each batch has held.
    """
    return learning_of(stores)
