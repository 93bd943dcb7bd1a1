"""A step of the work, and how steps are put into words from the catalogue of messages."""

from collections.abc import Sequence
from typing import Literal

from sapolin.core.bar.result import AdditiveResult
from sapolin.core.batch.plan import BatchPlan
from sapolin.core.batch.planned import PlannedBatch
from sapolin.core.batch.targets import WeighTarget
from sapolin.core.materials.ingredients import additives
from sapolin.core.quantities.model import Model, Truth
from sapolin.core.quantities.text import Param, Text, template, text

__all__ = [
    "COMBINE_STEP",
    "HURRIES",
    "MAKE_LYE_STEP",
    "SoapTestKind",
    "SoapTestOutcome",
    "Step",
    "StepKind",
    "StepStage",
    "additives_at",
    "goes_in",
    "joined_sentences",
    "outcome",
    "parted",
    "say",
    "stage",
    "step",
]

StepKind = Literal["confirm", "weigh", "do", "temperature", "trace", "pour", "stages", "test", "pack"]
SoapTestKind = Literal["zap", "clarity", "ph"]
"""A taste for free lye; a spoonful dissolved in hot water; a strip or meter."""

COMBINE_STEP = "combine"
"""The step at which lye meets oils; trace is timed from it."""
MAKE_LYE_STEP = "make-lye"
"""The step at which lye meets its liquid."""
HURRIES = ("accelerates", "rices", "seizes")
"""What a scent may do that leaves little time."""


class StepStage(Model):
    """What the soap goes through within a step, as it is seen."""

    id: str
    name: str
    looks: str
    """How one knows it."""


class SoapTestOutcome(Model):
    """How a test may come out."""

    id: str
    label: str
    passed: Truth
    """The work may go on."""


class Step(Model):
    """One step."""

    id: str
    phase: str
    """What stretch of the work it belongs to."""
    kind: StepKind
    title: str
    text: Text
    caustic: Truth = False
    """Cannot be passed without saying that one is protected."""
    checks: tuple[str, ...] = ()
    """To be confirmed one by one."""
    weigh: WeighTarget | None = None
    stages: tuple[StepStage, ...] = ()
    """In the order they are seen; each is noted when it is reached."""
    test: SoapTestKind | None = None
    """Passed before the step is done."""
    outcomes: tuple[SoapTestOutcome, ...] = ()
    """What can be said of the test; a pH is read instead."""
    if_needed: tuple[Text, ...] = ()
    """What to do when it does not go as it should."""
    timer_minutes: tuple[float, ...] = ()
    """Times that are worth a timer, min."""


def say(code: str, **params: Param) -> Text:
    """A sentence of the steps."""
    return text(f"steps.{code}", **params)


def step(
    step_id: str,
    phase: str,
    kind: StepKind,
    said: Text,
    *,
    caustic: bool = False,
    checks: tuple[str, ...] = (),
    weigh: WeighTarget | None = None,
    title: str | None = None,
    stages: tuple[StepStage, ...] = (),
    test: SoapTestKind | None = None,
    outcomes: tuple[SoapTestOutcome, ...] = (),
    if_needed: Sequence[Text] = (),
    timer_minutes: tuple[float, ...] = (),
) -> Step:
    """A step with its title, its checks and the name of its phase from the catalogue of messages."""
    key = step_id.replace("-", "_")
    return Step(
        id=step_id, phase=template(f"phases.{phase}"), kind=kind, title=title or template(f"steps.{key}.title"), text=said,
        caustic=caustic, checks=tuple(template(f"steps.{key}.{check}") for check in checks), weigh=weigh, stages=stages,
        test=test, outcomes=outcomes, if_needed=tuple(if_needed), timer_minutes=timer_minutes,
    )  # fmt: skip


def stage(of: str, stage_id: str) -> StepStage:
    """A stage of a step from the catalogue of messages."""
    at = f"steps.{of}.stages.{stage_id}"
    return StepStage(id=stage_id, name=template(f"{at}.name"), looks=template(f"{at}.looks"))


def outcome(of: str, outcome_id: str, *, passed: bool) -> SoapTestOutcome:
    """An outcome of a test from the catalogue of messages."""
    return SoapTestOutcome(id=outcome_id, label=template(f"steps.{of}.outcomes.{outcome_id}"), passed=passed)


def joined_sentences(sentences: Sequence[Text]) -> Text:
    """Sentences one after the other."""
    joined: list[Text] = []
    for i, sentence in enumerate(sentences):
        joined.append(sentence if i == 0 else (" ", *sentence))
    return tuple(segment for sentence in joined for segment in sentence)


def parted(phrases: Sequence[Text]) -> Text:
    """Phrases parted by semicolons, as one sentence."""
    segments: list[Text] = []
    for i, phrase in enumerate(phrases):
        segments.append(phrase if i == 0 else ("; ", *phrase))
    return (*(segment for phrase in segments for segment in phrase), ".")


def goes_in(plan: BatchPlan, result: AdditiveResult) -> tuple[str, str]:
    """The stage at which an additive goes in, and how.

    What is cooked takes its fragile extras, and what keeps it fluid, after the cook: their stage is `after cook` then.
    """
    additive, stage = additives()[result.additive], result.stage
    is_hot = plan.formula.process.method == "hot"
    if is_hot and (stage == "trace" or additive.role == "lactate"):
        stage = "after cook"
    elif plan.choices.extras_at == "lye" and stage == "trace" and additive.role in ("protein", "sugar"):
        stage = "lye"
    if additive.role == "lactate" and is_hot:
        return stage, template("steps.lactate_after_cook")
    if additive.role == "salt" and stage != additive.stage:
        return stage, template("steps.salt_at_trace")
    return stage, additive.preparation


def additives_at(plan: BatchPlan, planned: PlannedBatch, at: str) -> list[Text]:
    """Additives that go in at a stage, as sentences of how."""
    found = []
    for result in planned.result.additives:
        stage, how = goes_in(plan, result)
        if stage == at:
            wetted = additives()[result.additive].wet_in
            found.append(say("additive", name=result.name, how=template("steps.wetted") if wetted else how))
    return found
