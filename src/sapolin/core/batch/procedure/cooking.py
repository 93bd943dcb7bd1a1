"""Hot process: the cook with its stages, the test before it leaves the heat, and what goes in after it."""

from collections.abc import Iterator

from sapolin.core.batch.plan import BatchPlan
from sapolin.core.batch.planned import PlannedBatch
from sapolin.core.batch.procedure.step import Step, additives_at, joined_sentences, outcome, say, stage, step
from sapolin.core.materials.ingredients import liquids
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.text import Temperature, listed, number, weight

__all__ = ["after_cook", "cook", "zap_test"]

COOK_STAGES = ("separation", "thin", "thick", "glassy")
STIR_MINUTES = 15.0


def cook(planned: PlannedBatch) -> Iterator[Step]:
    """The cook, with what it goes through."""
    low, high = number(coefficient("cook.hours_low"), 1), number(coefficient("cook.hours_high"), 1, "h")
    heat = Temperature(c=coefficient("cook.low_c"), to_c=coefficient("cook.high_c"))
    loosen_g = planned.result.total_oils_g * coefficient("cook.loosen_percent") / 100
    yield step(
        "cook", "cook", "stages", say("cook.text", heat=heat, low=low, high=high), caustic=True, checks=("protected",),
        stages=tuple(stage("cook", one) for one in COOK_STAGES), timer_minutes=(STIR_MINUTES,),
        if_needed=(
            say("cook.rises"), say("cook.too_stiff", grams=weight(loosen_g, 0)), say("cook.still_separate"),
        ),
    )  # fmt: skip


def zap_test(phase: str) -> Step:
    """The test for free lye that everything cooked passes before it leaves the heat."""
    return step(
        "zap", phase, "test", say("zap.text"), caustic=True, test="zap", if_needed=(say("zap.again"), say("zap.never")),
        outcomes=(outcome("zap", "none", passed=True), outcome("zap", "zaps", passed=False)),
        timer_minutes=(STIR_MINUTES,),
    )  # fmt: skip


def after_cook(plan: BatchPlan, planned: PlannedBatch) -> Iterator[Step]:
    """Kept fluid, cooled below what drives scent off, then late oils, extras and scent."""
    cooled_c = Temperature(c=coefficient("cook.add_below_c"))
    fluid = [say("fluid.text")]
    fluid += [say("additions.liquid", name=liquids()[line.liquid].name)
              for line in plan.formula.liquids if line.use == "at_trace"]  # fmt: skip
    yield step("fluid", "after_cook", "do", joined_sentences(fluid))
    lines = zip(planned.result.oils, planned.formula.blend.lines, strict=True)
    late = [oil.name for oil, line in lines if line.added != "start"]
    now = additives_at(plan, planned, "after cook")
    if late:
        now.append(say("after_cook.oils", names=listed(late)))
    if plan.scents:
        now.append(say("after_cook.scent", names=listed([scent.name for scent in planned.scents]), below=cooled_c))
    if now:
        yield step("after-cook", "after_cook", "do", joined_sentences([say("after_cook.below", below=cooled_c), *now]))
