"""From trace into the mould: additions, scent, portions, pouring, the top, and how it is kept afterwards."""

from collections.abc import Iterator

from sapolin.core.batch.heat import gel_onset_hours
from sapolin.core.batch.plan import BatchPlan
from sapolin.core.batch.planned import PlannedBatch
from sapolin.core.batch.procedure.process import BatchProcess
from sapolin.core.batch.procedure.step import (
    HURRIES,
    Step,
    additives_at,
    joined_sentences,
    parted,
    say,
    step,
)
from sapolin.core.materials.ingredients import liquids, scents
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.text import Temperature, listed, number, weight

__all__ = ["additions", "covering", "into_moulds", "portions", "washing_up"]


def additions(plan: BatchPlan, planned: PlannedBatch) -> Iterator[Step]:
    """What goes in at trace, before the batter is split."""
    now = additives_at(plan, planned, "trace")
    now += [
        say("additions.tempered" if liquids()[line.liquid].is_egg else "additions.liquid",
            name=liquids()[line.liquid].name)
        for line in plan.formula.liquids
        if line.use == "at_trace"
    ]  # fmt: skip
    lines = zip(planned.result.oils, planned.formula.blend.lines, strict=True)
    late = [oil.name for oil, line in lines if line.added != "start"]
    if late:
        now.append(say("additions.late_oils", names=listed(late)))
    if now:
        yield step("additions", "add", "do", joined_sentences(now), caustic=True)
    if plan.choices.scent_at == "trace" and plan.scents:
        hurried = [
            scents()[line.scent].name for line in plan.scents if set(HURRIES) & set(scents()[line.scent].behaviour)
        ]
        said = [say("scent.text", names=listed([scent.name for scent in planned.scents]))]
        if hurried:
            said.append(say("scent.hurries", names=listed(hurried)))
        yield step("scent", "add", "do", joined_sentences(said), caustic=True)


def portions(plan: BatchPlan, planned: PlannedBatch, process: BatchProcess) -> Iterator[Step]:
    """The batter parted and coloured."""
    if len(plan.portions) > 1 or any(portion.colours for portion in plan.portions):
        parts = [
            say("split.portion", name=portion.name, grams=weight(portion.batter_g, 0)) for portion in planned.portions
        ]
        how = say("split.text" if process.is_poured else "split.hot")
        yield step("split", "colour", "do", joined_sentences([parted(parts), how]), caustic=process.is_poured)


def into_moulds(plan: BatchPlan, planned: PlannedBatch, process: BatchProcess) -> Iterator[Step]:
    """Into the moulds, in the order of the portions."""
    fills = [
        say("pour.fill_to", name=fill.name, grams=weight(fill.batter_g, 0), height=number(fill.height_mm, 0, "mm"))
        if fill.height_mm
        else say("pour.fill", name=fill.name, grams=weight(fill.batter_g, 0))
        for fill in planned.moulds
    ]
    said = [parted(fills) if fills else say("pour.into_the_mould")]
    if len(plan.portions) > 1:
        said.append(say("pour.order", names=listed([portion.name for portion in plan.portions])))
    if process.is_big and process.is_poured and len(planned.moulds) > 1:
        said.append(say("pour.split"))
    said.append(say("pour.tap" if process.is_poured else "pour.press"))
    yield step("pour", "pour", "pour", joined_sentences(said), caustic=process.is_poured)


def covering(plan: BatchPlan, planned: PlannedBatch, process: BatchProcess) -> Iterator[Step]:
    """The top, and how the mould is kept until it is firm."""
    top = additives_at(plan, planned, "top")
    if not process.is_poured:
        yield step("finish", "pour", "do", joined_sentences([say("finish.rough"), *top]))
        hours = number(coefficient("unmould.hot_process_hours"), 0, "h")
        yield step("cover", "cover", "do", say("cover.cooked", hours=hours))
        return
    finish = [say("finish.textured" if plan.choices.top == "textured" else "finish.level"), *top]
    if plan.choices.alcohol_spray:
        finish.append(say("finish.spray"))
    yield step("finish", "pour", "do", joined_sentences(finish), caustic=True)
    if process.is_salt_bar:
        # It heats itself and sets: nobody wraps it, and who looks too late cannot cut it.
        hours = number(coefficient("unmould.salt_bar_hours"), 0, "h")
        yield step("cover", "cover", "do", say("cover.salt", hours=hours), caustic=True, timer_minutes=(60.0,))
        return
    cover = [say(f"cover.{plan.choices.cover}", oven=Temperature(c=coefficient("oven.warmth_c")))]
    if process.is_big and plan.choices.cover != "fridge":
        cover.append(say("cover.big"))
    if plan.choices.cover != "fridge" and plan.formula.process.gel != "prevented":
        onset = gel_onset_hours(planned.result.water.lye_concentration_percent)
        cover.append(say("cover.gel", onset=number(onset, 1, "h")))
    watched = {"heat_pad": (20.0, 60.0), "oven": (60.0,)}.get(plan.choices.cover, ())
    needed = (say("cover.ends"), say("cover.cracks")) if plan.choices.cover in ("heat_pad", "oven") else ()
    yield step("cover", "cover", "do", joined_sentences(cover), caustic=True, timer_minutes=watched, if_needed=needed)


def washing_up(process: BatchProcess) -> Step:
    """Bowls and tools: what touched it before its lye was spent still burns."""
    said = say("wash_up.text" if process.is_poured else "wash_up.cooked")
    return step("wash-up", "wash_up", "do", said, caustic=True)
