"""The order of work: one step after the other, from gloves on to what is washed up, built from the process.

The sheet prints it, make day walks it. No step is shown that a process has not: no gel or ash where there is none, no mould for
paste.
"""

from collections.abc import Iterator

from sapolin.core.batch.plan import BatchPlan
from sapolin.core.batch.planned import PlannedBatch
from sapolin.core.batch.procedure.combining import blending, dissolving, warming
from sapolin.core.batch.procedure.cooking import after_cook, cook, zap_test
from sapolin.core.batch.procedure.pastes import packing, saponifying
from sapolin.core.batch.procedure.pouring import additions, covering, into_moulds, portions, washing_up
from sapolin.core.batch.procedure.process import BatchProcess, process_of
from sapolin.core.batch.procedure.step import (
    COMBINE_STEP,
    HURRIES,
    MAKE_LYE_STEP,
    SoapTestKind,
    Step,
    StepKind,
    StepStage,
)
from sapolin.core.batch.procedure.weighing import before_weighing, weighing
from sapolin.core.quantities.text import Text, template, text

__all__ = [
    "COMBINE_STEP",
    "FIRST_AID_POINTS",
    "HURRIES",
    "MAKE_LYE_STEP",
    "BatchProcess",
    "SoapTestKind",
    "Step",
    "StepKind",
    "StepStage",
    "closing_of",
    "first_aid",
    "pouring_steps",
    "process_of",
    "steps_of",
]

FIRST_AID_POINTS = ("skin", "eyes", "swallowed", "no_vinegar")


def first_aid() -> tuple[str, ...]:
    """Usual first aid for lye; local advice comes first."""
    return tuple(template(f"first_aid.{point}") for point in FIRST_AID_POINTS)


def closing_of(process: BatchProcess) -> Text:
    """What is said when the last step is done."""
    return text(f"closing.{'poured' if process.is_poured else 'cooked' if process.makes == 'bar' else 'paste'}")


def steps_of(plan: BatchPlan, planned: PlannedBatch) -> tuple[Step, ...]:
    """The whole order of work of a planned batch."""
    return tuple(_steps(plan, planned, process_of(plan, planned)))


def pouring_steps(plan: BatchPlan, planned: PlannedBatch) -> tuple[Step, ...]:
    """The steps about portions and moulds, as `planned` has them: of a batch in work, as they follow from what was weighed."""
    process = process_of(plan, planned)
    if process.makes == "paste":
        return tuple(step for step in packing(plan, planned) if step.id == "pack")
    return (*portions(plan, planned, process), *into_moulds(plan, planned, process))


def _steps(plan: BatchPlan, planned: PlannedBatch, process: BatchProcess) -> Iterator[Step]:
    yield from before_weighing(plan, planned, process)
    yield from weighing(plan, planned)
    yield from dissolving(plan, planned, process)
    yield from warming(plan, planned, process)
    yield from blending(plan, planned, process)
    if process.makes == "paste":
        yield from saponifying(plan, planned, process)
        yield from portions(plan, planned, process)
        yield from packing(plan, planned)
        yield washing_up(process)
        return
    if process.method == "hot":
        yield from cook(planned)
        yield zap_test("cook")
        yield from after_cook(plan, planned)
    else:
        yield from additions(plan, planned)
    yield from portions(plan, planned, process)
    yield from into_moulds(plan, planned, process)
    yield from covering(plan, planned, process)
    yield washing_up(process)
