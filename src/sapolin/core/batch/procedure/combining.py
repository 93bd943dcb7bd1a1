"""Lye and oils: dissolving, melting, bringing both to temperature, and blending to trace."""

from collections.abc import Iterator

from sapolin.core.bar.pace import minutes_to_trace
from sapolin.core.batch.plan import BatchPlan
from sapolin.core.batch.planned import PlannedBatch
from sapolin.core.batch.procedure.process import BatchProcess
from sapolin.core.batch.procedure.step import (
    COMBINE_STEP,
    MAKE_LYE_STEP,
    Step,
    additives_at,
    joined_sentences,
    say,
    step,
)
from sapolin.core.batch.targets import weigh_targets
from sapolin.core.batch.temperatures import meets_milk
from sapolin.core.materials.ingredients import liquids
from sapolin.core.quantities.text import Temperature, Text, listed, number, template

__all__ = ["blending", "dissolving", "warming"]

PACE_SPREAD = 1.6
"""Minutes to trace are told from so many times less to so many times more (rule of thumb)."""


def _lye_and_liquid(plan: BatchPlan, planned: PlannedBatch) -> Text:
    """How lye and liquid come together."""
    if meets_milk(plan.formula.liquids):
        return say("make_lye.frozen" if plan.choices.milk == "frozen" else "make_lye.chilled")
    if planned.result.lye.master is not None:
        thinned = any(target.item == "water" for target in weigh_targets(planned))
        thinned = thinned or any(line.use == "dissolves_lye" for line in plan.formula.liquids)
        return say("make_lye.master" if thinned else "make_lye.master_as_it_is")
    return say("make_lye.dry")


def dissolving(plan: BatchPlan, planned: PlannedBatch, process: BatchProcess) -> Iterator[Step]:
    """Lye into its liquid."""
    before = additives_at(plan, planned, "liquid")
    if before:
        yield step("liquid-additives", "make_lye", "do", joined_sentences(before))
    peak = planned.lye_peak
    sentences = [_lye_and_liquid(plan, planned)]
    if process.is_big and planned.result.lye.master is None:
        sentences.append(say("make_lye.big"))
    extra = additives_at(plan, planned, "lye")
    if extra:
        sentences += [say("make_lye.extras"), *extra]
    rise = Temperature(c=peak.low_c, to_c=peak.high_c)
    sentences.append(say("make_lye.boils" if peak.boils else "make_lye.peak", peak=rise))
    yield step(
        MAKE_LYE_STEP, "make_lye", "do", joined_sentences(sentences), caustic=True, checks=("protected", "stands_firm")
    )  # fmt: skip


def warming(plan: BatchPlan, planned: PlannedBatch, process: BatchProcess) -> Iterator[Step]:
    """Fats melted, what goes into the oils stirred in, and both bowls at temperature."""
    hard = [oil.name.lower() for oil in planned.result.oils if oil.hard and oil.weight_g > 0]
    soft = [oil.name.lower() for oil in planned.result.oils if not oil.hard and oil.weight_g > 0]
    window = planned.window
    if hard:
        said = [say("melt.text", names=listed(hard), hardest=window.hardest_fat, melts=Temperature(c=window.melts_c))]
        if soft and plan.choices.weigh_into == "separate":
            said.append(say("melt.soft", names=listed(soft)))
        yield step("melt", "melt", "do", joined_sentences(said))
    into = additives_at(plan, planned, "oils")
    if plan.choices.scent_at == "oils" and plan.scents and process.method == "cold":
        into.append(say("into_oils.scent", names=listed([scent.name for scent in planned.scents])))
    late = [liquids()[line.liquid].name for line in plan.formula.liquids if line.use == "into_oils"]
    if late:
        into.append(say("into_oils.liquid", names=listed(late)))
    if into:
        yield step("into-oils", "melt", "do", joined_sentences(into))
    if process.method == "hot":
        said = [say("temperatures.hot", range=window.range)]
    else:
        said = [say("temperatures.text", range=window.range, apart=window.apart)]
    yield step(
        "temperatures", "cool", "temperature", joined_sentences([*said, *([window.conflict] if window.conflict else [])])
    )  # fmt: skip
    cooled = additives_at(plan, planned, "cooled lye")
    if cooled:
        yield step("cooled-lye", "cool", "do", joined_sentences(cooled), caustic=True, checks=("protected",))


def blending(plan: BatchPlan, planned: PlannedBatch, process: BatchProcess) -> Iterator[Step]:
    """Lye into the oils, and blending until it holds together."""
    said = say("combine.text" if plan.choices.mixing == "stick_blender" else f"combine.{plan.choices.mixing}")
    yield step(COMBINE_STEP, "combine", "do", said, caustic=True, checks=("protected",))
    wanted = _wanted_trace(plan, process)
    sentences = [say(f"trace.{plan.choices.mixing}", wanted=template(f"steps.trace.{wanted}"))]
    if planned.trace_points is not None:
        minutes = minutes_to_trace(planned.trace_points, plan.choices.mixing)
        low, high = number(minutes / PACE_SPREAD, 0), number(minutes * PACE_SPREAD, 0, "min")
        sentences.append(say("trace.expected", low=low, high=high))
    sentences.append(say("trace.stable"))
    yield step("trace", "trace", "trace", joined_sentences(sentences), caustic=True)


def _wanted_trace(plan: BatchPlan, process: BatchProcess) -> str:
    if process.makes == "paste" or process.method == "hot":
        return "cooked"
    if process.is_salt_bar or len(plan.portions) > 1:
        return "light"
    return "light_to_medium"
