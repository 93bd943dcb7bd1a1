"""The work before the lye: gear, room, what is prepared ahead, and every weighing."""

from collections.abc import Iterator

from sapolin.core.batch.plan import BatchPlan
from sapolin.core.batch.planned import PlannedBatch
from sapolin.core.batch.procedure.process import BatchProcess
from sapolin.core.batch.procedure.step import Step, goes_in, joined_sentences, say, step
from sapolin.core.batch.targets import WeighTarget, weigh_targets
from sapolin.core.batch.temperatures import meets_milk
from sapolin.core.materials.ingredients import additives, liquids
from sapolin.core.quantities.text import Text, as_sentence, listed, template, weight, within_sentence
from sapolin.core.quantities.units import in_spoons

__all__ = ["before_weighing", "weighing"]

PREPARED_AHEAD = {"tea": "infusion", "coffee": "infusion", "beer": "boiled_down", "wine": "boiled_down"}
"""Liquids that are made ready hours before, and how."""


def before_weighing(plan: BatchPlan, planned: PlannedBatch, process: BatchProcess) -> Iterator[Step]:
    """Gear on, the room ready, and what is to be prepared ahead."""
    yield step("gear", "gear", "confirm", say("gear.text"), checks=("clothes", "air", "time", "containers"))
    if process.is_big:
        yield step("spill-plan", "gear", "confirm", say("spill_plan.text"), checks=("second_person", "spill", "rinse"))
    ready = [*_vessels(plan, process)]
    if any(portion.colours for portion in plan.portions):
        ready.append(template("steps.room.colours"))
    if plan.choices.milk == "frozen" and meets_milk(plan.formula.liquids):
        ready.append(template("steps.room.cubes"))
    if plan.choices.cover == "oven" and process.is_poured:
        ready.append(template("steps.room.oven"))
    yield step("room", "gear", "confirm", say("room.text")).model_copy(update={"checks": tuple(ready)})
    brought = _brought(planned)
    if brought:
        yield step(
            "brought", "gear", "confirm", say("brought.text", names=listed(brought)),
            checks=("label", "good", "whose", "sample"),
        )  # fmt: skip
    ahead = [*_prepared_ahead(plan)]
    if ahead:
        yield step("ahead", "gear", "do", joined_sentences(ahead))


def _brought(planned: PlannedBatch) -> tuple[str, ...]:
    """What of the batch the customer brings, by name, each once."""
    result = planned.result
    listed = (
        *((one.oil, one.name) for one in result.oils),
        *((f"liquid:{one.liquid}", one.name) for one in result.liquids),
        *((f"additive:{one.additive}", one.name) for one in result.additives),
        *((f"scent:{one.scent}", one.name) for one in planned.scents),
    )
    return tuple(dict.fromkeys(name for material, name in listed if material in planned.brought))


def _vessels(plan: BatchPlan, process: BatchProcess) -> Iterator[str]:
    if process.makes == "paste":
        yield template("steps.room.jars")
    else:
        moulds = listed([use.mould.name for use in plan.moulds]) if plan.moulds else template("steps.room.the_mould")
        yield template("steps.room.moulds").format(moulds=moulds)
    if process.method == "hot":
        yield template("steps.room.cooker")
    elif plan.choices.mixing == "whisk":
        yield template("steps.room.whisk")


def _prepared_ahead(plan: BatchPlan) -> Iterator[Text]:
    for line in plan.formula.liquids:
        row = liquids()[line.liquid]
        kind = PREPARED_AHEAD.get(line.liquid)
        if kind is not None:
            yield say(f"ahead.{kind}", name=row.name)
        elif row.is_egg:
            yield say("ahead.egg", name=row.name)
    infused = [material.name for material in plan.formula.materials if "infus" in material.name.lower()]
    if infused:
        yield say("ahead.infused", names=listed(infused))


def _where_to(plan: BatchPlan, planned: PlannedBatch, target: WeighTarget) -> list[Text]:
    """What to weigh something into, and what happens with it."""
    kind, _, index = target.item.partition(":")
    if kind == "oil":
        return [say("weigh.one_bowl" if plan.choices.weigh_into == "one_bowl" else "weigh.own_bowl")]
    if kind == "liquid":
        liquid = planned.result.liquids[int(index)]
        return [say(f"weigh.{liquid.use}"), *([(liquid.cautions,)] if liquid.cautions else [])]
    if kind == "additive":
        additive = additives()[plan.formula.additives[int(index)].additive]
        _, how = goes_in(plan, planned.result.additives[int(index)])
        return [say("weigh.own_cup")] if additive.wet_in else [(as_sentence(how),)]
    if kind == "colour":
        portion, _, j = index.partition(":")
        colour = planned.portions[int(portion)].colours[int(j)]
        goes = "weigh.colour_into_lye" if colour.disperse_in == "lye" else "weigh.wets_next"
        return [say("weigh.colour_cup", spoons=in_spoons(colour.tsp)), say(goes)]
    if kind == "cup":
        cup = planned.cups[int(index)]
        return [
            say("weigh.cup", wets=within_sentence(cup.wets)),
            *([] if cup.source == "glycerin" else [say("weigh.cup_is_own")]),
        ]
    if kind == "lye":
        return [say("weigh.lye" if planned.result.lye.master is None else "weigh.master_lye")]
    return [say(f"weigh.{kind}")]


def _weigh(plan: BatchPlan, planned: PlannedBatch, target: WeighTarget) -> Step:
    sentences = _where_to(plan, planned, target)
    if target.most_at_once_g is not None:
        sentences.append(say("weigh.in_loads", most=weight(target.most_at_once_g, 0)))
    name = target.name if target.role == "lye" else within_sentence(target.name)
    return step(
        f"weigh-{target.item}", "weigh_lye" if target.role == "lye" else "weigh", "weigh", joined_sentences(sentences),
        caustic=target.role == "lye", weigh=target, title=template("steps.weigh.title").format(name=name),
    )  # fmt: skip


def weighing(plan: BatchPlan, planned: PlannedBatch) -> Iterator[Step]:
    """Everything that is weighed, lye last and protected."""
    targets = weigh_targets(planned)
    yield from (_weigh(plan, planned, target) for target in targets if target.role != "lye")
    yield step(
        "protect", "weigh_lye", "confirm", say("protect.text"), caustic=True, checks=("goggles", "gloves", "alone")
    )
    yield from (_weigh(plan, planned, target) for target in targets if target.role == "lye")
