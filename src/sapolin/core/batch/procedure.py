"""The order of work: one step after the other, from gloves on to covered moulds. The sheet prints it, make day walks it."""

from collections.abc import Iterator
from typing import Literal

from sapolin.core.batch.heat import gel_onset_hours
from sapolin.core.batch.plan import BatchPlan
from sapolin.core.batch.planned import PlannedBatch
from sapolin.core.batch.targets import WeighTarget, weigh_targets
from sapolin.core.batch.temperatures import meets_milk
from sapolin.core.materials.ingredients import additives, liquids, scents
from sapolin.core.quantities.model import Model
from sapolin.core.quantities.text import Param, Temperature, Text, listed, number, template, text, weight
from sapolin.core.quantities.units import in_spoons

__all__ = [
    "COMBINE_STEP",
    "FIRST_AID_POINTS",
    "MAKE_LYE_STEP",
    "Step",
    "StepKind",
    "first_aid",
    "pouring_steps",
    "steps_of",
]

StepKind = Literal["confirm", "weigh", "do", "temperature", "trace", "pour"]

COMBINE_STEP = "combine"
"""The step at which lye meets oils; trace is timed from it."""
MAKE_LYE_STEP = "make-lye"
"""The step at which lye meets its liquid."""
HURRIES = ("accelerates", "rices", "seizes")
"""What a scent may do that leaves little time."""
FIRST_AID_POINTS = ("skin", "eyes", "swallowed", "no_vinegar")


def first_aid() -> tuple[str, ...]:
    """Usual first aid for lye; local advice comes first."""
    return tuple(template(f"first_aid.{point}") for point in FIRST_AID_POINTS)


class Step(Model):
    """One step."""

    id: str
    phase: str
    """What stretch of the work it belongs to."""
    kind: StepKind
    title: str
    text: Text
    caustic: bool = False
    """Cannot be passed without saying that one is protected."""
    checks: tuple[str, ...] = ()
    """To be confirmed one by one."""
    weigh: WeighTarget | None = None


def steps_of(plan: BatchPlan, planned: PlannedBatch) -> tuple[Step, ...]:
    """The whole order of work of a planned batch."""
    return tuple(_steps(plan, planned))


def pouring_steps(plan: BatchPlan, planned: PlannedBatch) -> tuple[Step, ...]:
    """The steps about portions and moulds, as `planned` has them: of a batch in work, as they follow from what was weighed."""
    return tuple(
        step for step in (*_after_trace(plan, planned), *_pouring(plan, planned)) if step.id in ("split", "pour")
    )


def _step(
    step_id: str,
    phase: str,
    kind: StepKind,
    said: Text,
    *,
    caustic: bool = False,
    checks: tuple[str, ...] = (),
    weigh: WeighTarget | None = None,
    title: str | None = None,
) -> Step:
    """A step with its title and the name of its phase from the catalogue of messages."""
    key = step_id.replace("-", "_")
    return Step(
        id=step_id, phase=template(f"phases.{phase}"), kind=kind, title=title or template(f"steps.{key}.title"), text=said,
        caustic=caustic, checks=tuple(template(f"steps.{key}.{check}") for check in checks), weigh=weigh,
    )  # fmt: skip


def _say(code: str, **params: Param) -> Text:
    return text(f"steps.{code}", **params)


def _joined(sentences: list[Text]) -> Text:
    """Sentences one after the other."""
    joined: list[Text] = []
    for i, sentence in enumerate(sentences):
        joined.append(sentence if i == 0 else (" ", *sentence))
    return tuple(segment for sentence in joined for segment in sentence)


def _at_stage(plan: BatchPlan, planned: PlannedBatch, stage: str) -> list[Text]:
    """Additives that go in at a stage, as sentences of how."""
    found = []
    for line, result in zip(plan.formula.additives, planned.result.additives, strict=True):
        additive = additives()[line.additive]
        own = result.stage
        if plan.choices.extras_at == "lye" and own == "trace" and additive.role in ("protein", "sugar"):
            own = "lye"
        if own == stage:
            how = template("steps.wetted") if additive.wet_in else additive.preparation
            if own != additive.stage and additive.role == "salt":
                how = template("steps.salt_at_trace")
            found.append(_say("additive", name=additive.name, how=how))
    return found


def _steps(plan: BatchPlan, planned: PlannedBatch) -> Iterator[Step]:
    yield from _before(plan)
    targets = weigh_targets(planned)
    yield from (_weigh(plan, planned, target) for target in targets if target.role != "lye")
    yield _step(
        "protect", "weigh_lye", "confirm", _say("protect.text"), caustic=True, checks=("goggles", "gloves", "alone")
    )  # fmt: skip
    yield from (_weigh(plan, planned, target) for target in targets if target.role == "lye")
    yield from _lye(plan, planned)
    yield from _melting(plan, planned)
    yield from _combining(plan, planned)
    yield from _after_trace(plan, planned)
    yield from _pouring(plan, planned)


def _before(plan: BatchPlan) -> Iterator[Step]:
    yield _step("gear", "gear", "confirm", _say("gear.text"), checks=("clothes", "air", "time", "containers"))
    moulds = listed([use.mould.name for use in plan.moulds]) if plan.moulds else template("steps.room.the_mould")
    ready = [template("steps.room.moulds").format(moulds=moulds)]
    if any(portion.colours for portion in plan.portions):
        ready.append(template("steps.room.colours"))
    if plan.choices.milk == "frozen" and meets_milk(plan.formula.liquids):
        ready.append(template("steps.room.cubes"))
    yield _step("room", "gear", "confirm", _say("room.text")).model_copy(update={"checks": tuple(ready)})


def _capitalised(words: str) -> str:
    return words[:1].upper() + words[1:]


def _where_to(plan: BatchPlan, planned: PlannedBatch, target: WeighTarget) -> list[Text]:
    """What to weigh something into, and what happens with it."""
    kind, _, index = target.item.partition(":")
    if kind == "oil":
        return [_say("weigh.one_bowl" if plan.choices.weigh_into == "one_bowl" else "weigh.own_bowl")]
    if kind == "liquid":
        liquid = plan.formula.liquids[int(index)]
        cautions = liquids()[liquid.liquid].cautions
        return [_say(f"weigh.{liquid.use}"), (f"{_capitalised(cautions)}.",)]
    if kind == "additive":
        additive = additives()[plan.formula.additives[int(index)].additive]
        return [_say("weigh.own_cup")] if additive.wet_in else [(f"{_capitalised(additive.preparation)}.",)]
    if kind == "colour":
        portion, _, j = index.partition(":")
        colour = planned.portions[int(portion)].colours[int(j)]
        goes = "weigh.colour_into_lye" if colour.disperse_in == "lye" else "weigh.wets_next"
        return [_say("weigh.colour_cup", spoons=in_spoons(colour.tsp)), _say(goes)]
    if kind == "cup":
        cup = planned.cups[int(index)]
        wets = cup.wets[:1].lower() + cup.wets[1:]
        return [_say("weigh.cup", wets=wets), *([] if cup.source == "glycerin" else [_say("weigh.cup_is_own")])]
    if kind == "lye":
        return [_say("weigh.lye" if planned.result.lye.master is None else "weigh.master_lye")]
    return [_say(f"weigh.{kind}")]


def _weigh(plan: BatchPlan, planned: PlannedBatch, target: WeighTarget) -> Step:
    sentences = _where_to(plan, planned, target)
    if target.most_at_once_g is not None:
        sentences.append(_say("weigh.in_loads", most=weight(target.most_at_once_g, 0)))
    name = target.name if target.role == "lye" else target.name[:1].lower() + target.name[1:]
    return _step(
        f"weigh-{target.item}", "weigh_lye" if target.role == "lye" else "weigh", "weigh", _joined(sentences),
        caustic=target.role == "lye", weigh=target, title=template("steps.weigh.title").format(name=name),
    )  # fmt: skip


def _lye_and_liquid(plan: BatchPlan, planned: PlannedBatch) -> Text:
    """How lye and liquid come together."""
    if meets_milk(plan.formula.liquids):
        return _say("make_lye.frozen" if plan.choices.milk == "frozen" else "make_lye.chilled")
    if planned.result.lye.master is not None:
        thinned = any(target.item == "water" for target in weigh_targets(planned))
        thinned = thinned or any(line.use == "dissolves_lye" for line in plan.formula.liquids)
        return _say("make_lye.master" if thinned else "make_lye.master_as_it_is")
    return _say("make_lye.dry")


def _lye(plan: BatchPlan, planned: PlannedBatch) -> Iterator[Step]:
    before = _at_stage(plan, planned, "liquid")
    if before:
        yield _step("liquid-additives", "make_lye", "do", _joined(before))
    peak = planned.lye_peak
    sentences = [_lye_and_liquid(plan, planned)]
    extra = _at_stage(plan, planned, "lye")
    if extra:
        sentences += [_say("make_lye.extras"), *extra]
    rise = Temperature(c=peak.low_c, to_c=peak.high_c)
    sentences.append(_say("make_lye.boils" if peak.boils else "make_lye.peak", peak=rise))
    yield _step(MAKE_LYE_STEP, "make_lye", "do", _joined(sentences), caustic=True, checks=("protected", "stands_firm"))


def _melting(plan: BatchPlan, planned: PlannedBatch) -> Iterator[Step]:
    hard = [oil.name.lower() for oil in planned.result.oils if oil.hard]
    soft = [oil.name.lower() for oil in planned.result.oils if not oil.hard]
    window = planned.window
    if hard:
        said = [_say("melt.text", names=listed(hard), hardest=window.hardest_fat, melts=Temperature(c=window.melts_c))]
        if soft and plan.choices.weigh_into == "separate":
            said.append(_say("melt.soft", names=listed(soft)))
        yield _step("melt", "melt", "do", _joined(said))
    into = _at_stage(plan, planned, "oils")
    if plan.choices.scent_at == "oils" and plan.scents:
        into.append(_say("into_oils.scent", names=listed([scent.name for scent in planned.scents])))
    late = [liquids()[line.liquid].name for line in plan.formula.liquids if line.use == "into_oils"]
    if late:
        into.append(_say("into_oils.liquid", names=listed(late)))
    if into:
        yield _step("into-oils", "melt", "do", _joined(into))
    said = [_say("temperatures.text", range=window.range, apart=window.apart)]
    yield _step(
        "temperatures", "cool", "temperature", _joined([*said, *([window.conflict] if window.conflict else [])])
    )
    cooled = _at_stage(plan, planned, "cooled lye")
    if cooled:
        yield _step("cooled-lye", "cool", "do", _joined(cooled), caustic=True, checks=("protected",))


def _combining(plan: BatchPlan, planned: PlannedBatch) -> Iterator[Step]:
    yield _step(COMBINE_STEP, "combine", "do", _say("combine.text"), caustic=True, checks=("protected",))
    pace = planned.result.bar.trace if planned.result.bar else "slow"
    wanted = template("steps.trace.light" if len(plan.portions) > 1 else "steps.trace.light_to_medium")
    yield _step("trace", "trace", "trace", _say("trace.text", pace=pace, wanted=wanted), caustic=True)
    if plan.formula.process.method == "hot":
        yield _step("cook", "trace", "do", _say("cook.text"), caustic=True, checks=("protected",))


def _after_trace(plan: BatchPlan, planned: PlannedBatch) -> Iterator[Step]:
    now = _at_stage(plan, planned, "trace")
    now += [
        _say("additions.liquid", name=liquids()[line.liquid].name)
        for line in plan.formula.liquids
        if line.use == "at_trace"
    ]
    lines = zip(planned.result.oils, planned.formula.blend.lines, strict=True)
    late = [oil.name for oil, line in lines if line.added != "start"]
    if late:
        now.append(_say("additions.late_oils", names=listed(late)))
    if now:
        yield _step("additions", "add", "do", _joined(now), caustic=True)
    if plan.choices.scent_at == "trace" and plan.scents:
        hurried = [
            scents()[line.scent].name for line in plan.scents if set(HURRIES) & set(scents()[line.scent].behaviour)
        ]
        said = [_say("scent.text", names=listed([scent.name for scent in planned.scents]))]
        if hurried:
            said.append(_say("scent.hurries", names=listed(hurried)))
        yield _step("scent", "add", "do", _joined(said), caustic=True)
    if len(plan.portions) > 1 or any(portion.colours for portion in plan.portions):
        portions = [
            _say("split.portion", name=portion.name, grams=weight(portion.batter_g, 0)) for portion in planned.portions
        ]
        yield _step("split", "colour", "do", _joined([_parted(portions), _say("split.text")]), caustic=True)


def _parted(phrases: list[Text]) -> Text:
    """Phrases parted by semicolons, as one sentence."""
    segments: list[Text] = []
    for i, phrase in enumerate(phrases):
        segments.append(phrase if i == 0 else ("; ", *phrase))
    return (*(segment for phrase in segments for segment in phrase), ".")


def _pouring(plan: BatchPlan, planned: PlannedBatch) -> Iterator[Step]:
    fills = [
        _say("pour.fill_to", name=fill.name, grams=weight(fill.batter_g, 0), height=number(fill.height_mm, 0, "mm"))
        if fill.height_mm
        else _say("pour.fill", name=fill.name, grams=weight(fill.batter_g, 0))
        for fill in planned.moulds
    ]
    said = [_parted(fills) if fills else _say("pour.into_the_mould")]
    if len(plan.portions) > 1:
        said.append(_say("pour.order", names=listed([portion.name for portion in plan.portions])))
    yield _step("pour", "pour", "pour", _joined([*said, _say("pour.tap")]), caustic=True)
    finish = [
        _say("finish.textured" if plan.choices.top == "textured" else "finish.level"),
        *_at_stage(plan, planned, "top"),
    ]
    if plan.choices.alcohol_spray:
        finish.append(_say("finish.spray"))
    yield _step("finish", "pour", "do", _joined(finish), caustic=True)
    cover = [_say(f"cover.{plan.choices.cover}")]
    if plan.choices.cover != "fridge" and plan.formula.process.gel != "prevented":
        onset = gel_onset_hours(planned.result.water.lye_concentration_percent)
        cover.append(_say("cover.gel", onset=number(onset, 1, "h")))
    yield _step("cover", "cover", "do", _joined(cover), caustic=True)
    yield _step("wash-up", "wash_up", "do", _say("wash_up.text"), caustic=True)
