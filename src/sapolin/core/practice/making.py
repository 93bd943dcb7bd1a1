"""Exercises of make day: an overshoot put right, and trace read and decided on."""

from sapolin.core.bar.pace import minutes_to_trace
from sapolin.core.batch.moulds import Mould, Slab
from sapolin.core.batch.plan import BatchPlan, MouldUse, SizeBy
from sapolin.core.batch.planned import PlannedBatch, plan_batch
from sapolin.core.batch.targets import WeighTarget, weigh_targets
from sapolin.core.practice.exercise import BLENDS, Dice, Exercise, Made, Option, practice_formula
from sapolin.core.production.actual import actual_batch
from sapolin.core.production.corrections import Deviation, deviation
from sapolin.core.quantities.text import Temperature, Text, number, percent, template, text, weight

__all__ = ["overshoot", "trace"]

LEAST_SUPERFAT_PERCENT = 3.0
LARGE_PART = 0.2
"""Oils with less than this part of the blend are not overshot here: to go on would be a good answer too."""


def _batch(oils_g: int, blend: str) -> tuple[BatchPlan, PlannedBatch]:
    loaf = Mould(name="Loaf", shape=Slab(kind="loaf", length_mm=250, width_mm=80, height_mm=70))
    plan = BatchPlan(
        formula=practice_formula(blend), size=SizeBy(by="oils_g", value=float(oils_g)), moulds=(MouldUse(mould=loaf),)
    )  # fmt: skip
    return plan, plan_batch(plan)


def overshoot(seed: int) -> Made:
    """Every other time lye in a container of its own, on the scale; else an oil in the bowl that cannot be taken out."""
    dice = Dice("overshoot", seed)
    plan, planned = _batch(dice.between(600, 1200, 50), dice.one_of(tuple(BLENDS)))
    targets = {target.item: target for target in weigh_targets(planned)}
    if dice.between(0, 1):
        return _on_the_scale(seed, dice, planned, targets)
    return _in_the_bowl(seed, dice, plan, planned, targets)


def _on_the_scale(seed: int, dice: Dice, planned: PlannedBatch, targets: dict[str, WeighTarget]) -> Made:
    target = targets["lye:naoh"]
    shown = round(target.target_g * (1 + dice.between(3, 9) / 100), 1)
    over = shown - target.target_g
    weights = {name: one.target_g for name, one in targets.items()} | {target.item: shown}
    superfat = actual_batch(planned, weights).superfat_percent
    return Made(
        exercise=Exercise(
            kind="overshoot", seed=seed, title=template("practice.overshoot.title"),
            question=text("practice.overshoot.scale.question"),
            given=(
                text("practice.overshoot.scale.asked", name=target.name, target=weight(target.target_g),
                     tolerance=weight(target.tolerance_g, 2)),
                text("practice.overshoot.scale.shows", shown=weight(shown)),
            ),
            answered_by="scale", unit="g", starts_at=shown, aims_at=target.target_g,
        ),
        option=None, number=target.target_g, tolerance=target.tolerance_g,
        answer=text("practice.overshoot.scale.answer", over=weight(over)),
        why=(text("practice.overshoot.scale.why_burns" if superfat < 0 else "practice.overshoot.scale.why_1",
                  percent=percent(100 * over / target.target_g, 1), superfat=percent(superfat, 1)),
             text("practice.overshoot.scale.why_2")),
    )  # fmt: skip


def _in_the_bowl(
    seed: int, dice: Dice, plan: BatchPlan, planned: PlannedBatch, targets: dict[str, WeighTarget]
) -> Made:  # fmt: skip
    oils_g = planned.result.total_oils_g
    large = [one for one in targets if one.startswith("oil:") and targets[one].target_g >= LARGE_PART * oils_g]
    item = dice.one_of(large)
    target = targets[item]
    captured = round(target.target_g * (1 + dice.between(14, 30, 2) / 100), 1)
    found: Deviation = deviation(
        plan, planned, {name: one.target_g for name, one in targets.items()}, {item: captured}, target
    )
    after = {one.correction: one.after for one in found.corrections}
    superfat = found.now.superfat_percent
    keeps = superfat >= LEAST_SUPERFAT_PERCENT
    options = [
        Option(id=one, label=text(f"practice.overshoot.bowl.options.{one}"))
        for one in ("scale_up", "more_lye", "nothing", "less_lye")
    ]
    blend = after.get("keep_blend")
    return Made(
        exercise=Exercise(
            kind="overshoot", seed=seed, title=template("practice.overshoot.title"),
            question=text("practice.overshoot.bowl.question"),
            given=(
                text("practice.overshoot.bowl.asked", name=target.name, target=weight(target.target_g),
                     captured=weight(captured)),
                text("practice.overshoot.bowl.bowl"),
                text("practice.overshoot.bowl.superfat", superfat=percent(superfat, 1)),
            ),
            answered_by="choice", options=dice.shuffled(options),
        ),
        option="scale_up", number=None, tolerance=0.0, answer=text("practice.overshoot.bowl.options.scale_up"),
        why=(
            text("practice.overshoot.bowl.why_1", off=weight(found.off_g), superfat=percent(superfat, 1)),
            text("practice.overshoot.bowl.why_2" if keeps else "practice.overshoot.bowl.why_low",
                 after=percent(superfat if blend is None else blend.superfat_percent, 1)),
            text("practice.overshoot.bowl.why_3"),
        ),
    )  # fmt: skip


def trace(seed: int) -> Made:
    """What to do with a batter, from its temperature, its minutes and its look."""
    dice = Dice("trace", seed)
    _, planned = _batch(900, dice.one_of(tuple(BLENDS)))
    usual = minutes_to_trace(planned.trace_points or 22.0)
    case = dice.one_of(("wait", "pour", "warm", "press"))
    melts = planned.window.melts_c
    celsius = melts - dice.between(4, 8) if case == "warm" else max(melts + 4, 38.0)
    minutes = {"wait": usual * 0.35, "pour": usual, "warm": usual * 0.25, "press": usual * 0.6}[case]
    look = {"wait": "oil_rim", "pour": "trails", "warm": "grainy", "press": "lump"}[case]
    options = [Option(id=one, label=text(f"practice.trace.options.{one}")) for one in ("wait", "pour", "warm", "press")]
    said: tuple[Text, ...] = (
        text("practice.trace.blend", names=", ".join(oil.name for oil in planned.result.oils)),
        text(
            "practice.trace.temperature",
            oils=Temperature(c=celsius),
            melts=Temperature(c=melts),
            hardest=planned.window.hardest_fat,
        ),
        text("practice.trace.minutes", minutes=number(max(minutes, 1.0), 0, "min"), usual=number(usual, 0, "min")),
        text(f"practice.trace.looks.{look}"),
    )
    return Made(
        exercise=Exercise(
            kind="trace", seed=seed, title=template("practice.trace.title"), question=text("practice.trace.question"),
            given=said, answered_by="choice", options=dice.shuffled(options),
        ),
        option=case, number=None, tolerance=0.0, answer=text(f"practice.trace.options.{case}"),
        why=(text(f"practice.trace.why.{case}", oils=Temperature(c=celsius), melts=Temperature(c=melts),
                  usual=number(usual, 0, "min")),),
    )  # fmt: skip
