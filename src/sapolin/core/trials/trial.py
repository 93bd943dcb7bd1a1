"""Trials: a set of test batches of one formula, with one change each or drawn by a design, and what is asked of them."""

from collections.abc import Mapping, Sequence
from typing import Annotated

from pydantic import Field

from sapolin.core.formula.blend import converted, one_line_each
from sapolin.core.formula.document import Formula
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.materials.own import with_materials
from sapolin.core.optimise.trial_set import TEST_BATCH_OILS_G
from sapolin.core.quantities.diagnostics import FormulaError, stopping
from sapolin.core.quantities.model import FiniteNumber, Model
from sapolin.core.quantities.text import number, percent, plain, text
from sapolin.core.trials.design import Design, DesignAsked, grid_of
from sapolin.core.trials.effects import (
    NextBatch,
    OilEffect,
    RunResult,
    RunSheet,
    StepResult,
    oil_effects,
    run_results,
    step_results,
)

__all__ = ["TrialResult", "TrialRun", "TrialSetup", "as_test_batch", "design_runs", "level_runs", "trial_result"]

MOST_RUNS = 16


class TrialRun(Model):
    """One test batch of a trial."""

    label: Annotated[str, Field(min_length=1, max_length=80)]
    """What is different in it."""
    formula: Formula
    """At the size of a test batch."""
    shares_percent: tuple[FiniteNumber, ...] = ()
    """Of the oils under trial, % of all oils; empty when it is no design."""


class TrialSetup(Model):
    """What is tried, and by what it is judged."""

    name: Annotated[str, Field(min_length=1, max_length=120)]
    formula_id: Annotated[str, Field(max_length=40)]
    """The formula that it starts from."""
    criterion: Annotated[str, Field(min_length=1, max_length=40)]
    """What its bars are judged by."""
    asked: DesignAsked | None = None
    """What the design was asked for; null when it is none."""
    runs: Annotated[tuple[TrialRun, ...], Field(min_length=2, max_length=MOST_RUNS)]


class TrialResult(Model):
    """What the sheets of a trial show so far; estimates."""

    runs: tuple[RunResult, ...]
    steps: tuple[StepResult, ...]
    """From each judged batch to the next; none for a design."""
    effects: tuple[OilEffect, ...]
    """What each oil does; none unless it is a design."""
    next: NextBatch | None
    """The batch to make next; null while no sheet is there."""


def as_test_batch(formula: Formula, shares_percent: Mapping[str, float], label: str) -> Formula:
    """`formula` at the size of a test batch with some oils at other shares; the rest keep theirs.

    Raises FormulaError when an oil is not in its blend, or on several of its lines.
    """
    blend = converted(formula.blend, "percent_of_oils")
    oils = with_materials(catalogue(), formula.materials)
    if unclear := [*one_line_each(blend, oils)]:
        raise FormulaError(unclear)
    missing = [oil for oil in shares_percent if all(line.oil != oil for line in blend.lines)]
    if missing:
        name = oils[missing[0]].name if missing[0] in oils else missing[0]
        raise FormulaError([stopping("oil_not_in_blend", "oils", oil=name)])
    lines = tuple(
        line.model_copy(update={"value": shares_percent.get(line.oil, line.value), "locked": False})
        for line in blend.lines
        # A blend without an oil has no line of it: there is nothing to weigh.
        if shares_percent.get(line.oil) != 0
    )
    name = plain(text("trials.named", name=formula.name[:80], change=label))[:120]
    kept = blend.model_copy(update={"lines": lines, "total_oils_g": TEST_BATCH_OILS_G})
    tags = (*(tag for tag in formula.tags if tag != "trial"), "trial")
    return formula.model_copy(update={"name": name, "blend": kept, "tags": tags})


def level_runs(formula: Formula, oil: str, name: str, levels_percent: Sequence[float]) -> tuple[TrialRun, ...]:
    """Test batches with one oil at each of some shares; the others of the blend give or take in proportion.

    Raises FormulaError when a level cannot be.
    """
    blend = converted(formula.blend, "percent_of_oils")
    now = {line.oil: line.value or 0.0 for line in blend.lines}
    if oil not in now:
        raise FormulaError([stopping("oil_not_in_blend", "oil", oil=name)])
    others = sum(share for one, share in now.items() if one != oil)
    if len(set(levels_percent)) < max(len(levels_percent), 2):
        raise FormulaError([stopping("levels_alike", "levels_percent")])
    runs = []
    for level in sorted(levels_percent):
        if not 0 <= level < 100 or others <= 0:
            raise FormulaError([stopping("level_not_a_share", "levels_percent", level=percent(level))])
        shares = {one: share * (100 - level) / others for one, share in now.items() if one != oil} | {oil: level}
        label = plain(text("trial.level", name=name.lower(), share=number(level)))
        runs.append(TrialRun(label=label, formula=as_test_batch(formula, shares, label)))
    return tuple(runs)


def design_runs(formula: Formula, design: Design, names: Mapping[str, str]) -> tuple[TrialRun, ...]:
    """Test batches of a design; `names` are those of its oils by id."""
    runs = []
    for shares in design.batches:
        label = ", ".join(
            f"{names.get(oil, oil).lower()} {share:g}" for oil, share in zip(design.oils, shares, strict=True)
        )  # fmt: skip
        chosen = dict(zip(design.oils, shares, strict=True))
        runs.append(TrialRun(label=label[:80], formula=as_test_batch(formula, chosen, label), shares_percent=shares))
    return tuple(runs)


def trial_result(setup: TrialSetup, sheets: Sequence[RunSheet], names: Mapping[str, str]) -> TrialResult:
    """What the `sheets` show; `names` are those of the oils by id."""
    labels = [run.label for run in setup.runs]
    effects: tuple[OilEffect, ...] = ()
    next_batch: NextBatch | None = None
    if setup.asked is not None:
        oils = [(one.oil, names.get(one.oil, one.oil)) for one in setup.asked.oils]
        step = setup.asked.step_percent
        grid = [[step * share for share in point] for point in grid_of(setup.asked)]
        effects, next_batch = oil_effects(oils, [run.shares_percent for run in setup.runs], sheets, grid)
    elif sheets:
        next_batch = _next_of(labels, step_results(labels, sheets))
    return TrialResult(
        runs=run_results(labels, sheets), steps=step_results(labels, sheets) if setup.asked is None else (),
        effects=effects, next=next_batch,
    )  # fmt: skip


def _next_of(labels: Sequence[str], steps: Sequence[StepResult]) -> NextBatch | None:
    """Where the least is known yet: the step that is not told; else the end that still gets better, or the last that did."""
    open_steps = [one for one in steps if one.told in ("not_yet", "probably")]
    if open_steps:
        widest = max(open_steps, key=lambda one: one.high - one.low)
        words = text("trial.again", one=labels[widest.from_run], other=labels[widest.to_run])
        return NextBatch(shares_percent=(), words=words)
    if not steps:
        return None
    scores = {steps[0].from_run: 0.0}
    for one in steps:
        scores[one.to_run] = scores[one.from_run] + (one.difference if one.told == "surely" else 0.0)
    best = max(scores, key=lambda run: (scores[run], -run))
    further = next((one for one in steps if one.from_run == best), None)
    if further is None:
        words = text("trial.beyond", best=labels[best])
    elif further.told == "surely":
        words = text("trial.best", best=labels[best])
    else:
        words = text("trial.enough", best=labels[best])
    return NextBatch(shares_percent=(), words=words)
