"""The order of work: one step after the other, from gloves on to covered moulds. The sheet prints it, make day walks it."""

from collections.abc import Iterator, Sequence
from typing import Literal

from sapolin.core.batch.heat import gel_onset_hours
from sapolin.core.batch.plan import BatchPlan
from sapolin.core.batch.planned import PlannedBatch
from sapolin.core.batch.temperatures import apart_words, meets_milk
from sapolin.core.materials.ingredients import additives, liquids, scents
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.model import Model
from sapolin.core.quantities.units import in_spoons

__all__ = ["COMBINE_STEP", "FIRST_AID", "MAKE_LYE_STEP", "Role", "Step", "StepKind", "WeighTarget", "pouring_steps",
           "steps_of", "weigh_targets"]  # fmt: skip

StepKind = Literal["confirm", "weigh", "do", "temperature", "trace", "pour"]
Role = Literal["oil", "lye", "water", "liquid", "additive", "scent", "colour", "cup"]

COMBINE_STEP = "combine"
"""The step at which lye meets oils; trace is timed from it."""
MAKE_LYE_STEP = "make-lye"
"""The step at which lye meets its liquid."""

FIRST_AID = (
    "Skin: brush off dry beads, then running water for 15 to 20 minutes. Take off what it soaked.",
    "Eyes: rinse with running water for 20 minutes, lids held open, and get emergency care.",
    "Swallowed: rinse the mouth, drink nothing sour, do not be made to vomit; call the emergency or poison service.",
    "No vinegar on a burn: it heats. When in doubt, call for help first.",
)
"""Usual first aid for lye; local advice comes first."""


class WeighTarget(Model):
    """Something to weigh."""

    item: str
    """`oil:0`, `lye:naoh`, `water`, `liquid:0`, `additive:0`, `scent:0`, `colour:0:0`, or a cup set aside: `cup:0`."""
    name: str
    role: Role
    target_g: float
    tolerance_g: float
    """Off by no more than this, nothing is said."""
    decimals: int
    most_at_once_g: float | None = None
    """What the scale takes at once, beside a container, g: above it the weighing goes in loads. Null: there is no limit."""


class Step(Model):
    """One step."""

    id: str
    phase: str
    """What part of the work it belongs to."""
    kind: StepKind
    title: str
    text: str
    caustic: bool = False
    """Cannot be passed without saying that one is protected."""
    checks: tuple[str, ...] = ()
    """To be confirmed one by one."""
    weigh: WeighTarget | None = None


def _tolerance_g(role: Role, grams: float, step_g: float) -> float:
    if role == "lye":
        return max(grams * coefficient("tolerance.lye_percent") / 100, step_g)
    names: dict[Role, str] = {
        "oil": "tolerance.oil_percent",
        "water": "tolerance.water_percent",
        "liquid": "tolerance.water_percent",
    }
    return max(grams * coefficient(names.get(role, "tolerance.small_percent")) / 100, 2 * step_g)


def weigh_targets(planned: PlannedBatch) -> tuple[WeighTarget, ...]:
    """Everything to weigh: oils first, hardest fat first, lye last."""
    result, weighing = planned.result, planned.result.weighing
    step = planned.formula.scale_step_g

    def target(item: str, name: str, role: Role, grams: float, decimals: int) -> WeighTarget:
        tolerance = _tolerance_g(role, grams, step or 10.0**-decimals)
        most = planned.most_at_once_g
        return WeighTarget(
            item=item, name=name, role=role, target_g=grams, tolerance_g=tolerance, decimals=decimals,
            most_at_once_g=most if most is not None and grams > most else None,
        )  # fmt: skip

    def without_cups(item: str, grams: float, decimals: int) -> float:
        return round(grams - sum(cup.weight_g for cup in planned.cups if cup.source == item), decimals)

    oils = sorted(enumerate(result.oils), key=lambda pair: (not pair[1].hard, pair[0]))
    found = [
        target(
            f"oil:{i}",
            oil.name,
            "oil",
            without_cups(f"oil:{i}", weighing.oils[i], weighing.decimals),
            weighing.decimals,
        )
        for i, oil in oils
    ]
    found += [
        target(f"liquid:{i}", liquid.name, "liquid", weighing.liquids[i], weighing.decimals)
        for i, liquid in enumerate(result.liquids)
    ]
    water_g = without_cups("water", weighing.water, weighing.decimals)
    if water_g > 0:
        found.append(target("water", "Water", "water", water_g, weighing.decimals))
    found += [
        target(f"additive:{i}", additive.name, "additive", weighing.additives[i], weighing.lye_decimals)
        for i, additive in enumerate(result.additives)
    ]
    found += [
        target(f"scent:{i}", scent.name, "scent", round(scent.weight_g, weighing.lye_decimals), weighing.lye_decimals)
        for i, scent in enumerate(planned.scents)
    ]
    found += [
        target(f"colour:{i}:{j}", f"{colour.name} for {portion.name}", "colour", round(colour.weight_g, 2), 2)
        for i, portion in enumerate(planned.portions)
        for j, colour in enumerate(portion.colours)
    ]
    found += [target(cup.item, cup.name, "cup", cup.weight_g, weighing.decimals) for cup in planned.cups]
    for kind, dry, solution in (
        ("naoh", weighing.naoh, weighing.naoh_solution), ("koh", weighing.koh, weighing.koh_solution)
    ):  # fmt: skip
        grams = dry if result.lye.master is None else (solution or 0.0)
        if grams > 0:
            name = kind.upper().replace("NAOH", "NaOH") + (" master lye" if result.lye.master is not None else "")
            found.append(target(f"lye:{kind}", name, "lye", grams, weighing.lye_decimals))
    return tuple(found)


def steps_of(plan: BatchPlan, planned: PlannedBatch) -> tuple[Step, ...]:
    """The whole order of work of a planned batch."""
    return tuple(_steps(plan, planned))


def pouring_steps(plan: BatchPlan, planned: PlannedBatch) -> tuple[Step, ...]:
    """The steps that speak of portions and moulds, as `planned` has them: of a batch in work, as they follow from the pot."""
    return tuple(
        step for step in (*_after_trace(plan, planned), *_pouring(plan, planned)) if step.id in ("split", "pour")
    )


def _names(words: Sequence[str]) -> str:
    return words[0] if len(words) == 1 else ", ".join(words[:-1]) + " and " + words[-1]


def _at_stage(plan: BatchPlan, stage: str) -> list[str]:
    """Additives that go in at a stage, as sentences of how."""
    found = []
    for line in plan.formula.additives:
        additive = additives()[line.additive]
        own = additive.stage
        if plan.choices.extras_at == "lye" and own == "trace" and additive.role in ("protein", "sugar"):
            own = "lye"
        if own == stage:
            how = "stir in, wetted as it is in its cup" if additive.wet_in else additive.preparation
            found.append(f"{additive.name}: {how}.")
    return found


def _steps(plan: BatchPlan, planned: PlannedBatch) -> Iterator[Step]:
    yield from _before(plan)
    for target in weigh_targets(planned):
        if target.role != "lye":
            yield _weigh(plan, planned, target)
    yield Step(
        id="protect", phase="Weigh the lye", kind="confirm", title="Gloves and goggles on", caustic=True,
        text="From here until everything is washed up there is lye about. Put them on now, and keep them on.",
        checks=(
            "Goggles are on, not at hand.",
            "Gloves and long sleeves are on, shoes are closed.",
            "Nobody else is near, and running water is within reach.",
        ),
    )  # fmt: skip
    for target in weigh_targets(planned):
        if target.role == "lye":
            yield _weigh(plan, planned, target)
    yield from _lye(plan, planned)
    yield from _melting(plan, planned)
    yield from _combining(plan, planned)
    yield from _after_trace(plan, planned)
    yield from _pouring(plan, planned)


def _before(plan: BatchPlan) -> Iterator[Step]:
    yield Step(
        id="gear", phase="Gear and room", kind="confirm", title="Before anything is weighed",
        text="Lye burns skin and blinds. Each point must be true before the first weighing.",
        checks=(
            "Long sleeves and closed shoes are on. Goggles and gloves lie ready for the lye.",
            "Window open or fan on. Nobody else, no children, no pets, no food.",
            "An hour without being called away. Running water within reach.",
            "Containers are PP, HDPE or stainless steel. No aluminium; glass can crack.",
        ),
    )  # fmt: skip
    moulds = _names([use.mould.name for use in plan.moulds]) if plan.moulds else "The mould"
    ready = [f"{moulds}: lined, level, and where it can stay."]
    if any(portion.colours for portion in plan.portions):
        ready.append("Colours and a bowl for each portion are set out.")
    if plan.choices.milk == "frozen" and meets_milk(plan.formula.liquids):
        ready.append("The liquid is frozen in cubes; a bath of ice is ready.")
    yield Step(id="room", phase="Gear and room", kind="confirm", title="Moulds and tools ready",
               text="Once the lye meets the oils there is no time to look for things.", checks=tuple(ready))  # fmt: skip


def _weigh(plan: BatchPlan, planned: PlannedBatch, target: WeighTarget) -> Step:
    kind, _, index = target.item.partition(":")
    texts = {
        "oil": "Into the pot." if plan.choices.weigh_into == "one_bowl" else "Into a bowl of its own.",
        "water": "Into the jug that will take the lye.",
        "scent": "Into a small glass; cover it.",
    }
    text = texts.get(target.role, "")
    if kind == "liquid":
        line = plan.formula.liquids[int(index)]
        text = {
            "dissolves_lye": "Into the jug that will take the lye.",
            "into_oils": "Set aside for the oils.",
            "at_trace": "Set aside until trace.",
        }[line.use] + f" {liquids()[line.liquid].cautions[:1].upper()}{liquids()[line.liquid].cautions[1:]}."
    if kind == "additive":
        additive = additives()[plan.formula.additives[int(index)].additive]
        text = f"{additive.preparation[:1].upper()}{additive.preparation[1:]}."
        if additive.wet_in:
            text = "Into a cup of its own. What wets it is weighed next."
    if kind == "colour":
        portion, _, j = index.partition(":")
        colour = planned.portions[int(portion)].colours[int(j)]
        text = f"Into a cup of its own{in_spoons(colour.tsp)}."
        text += " It goes into the lye." if colour.disperse_in == "lye" else " What wets it is weighed next."
    if kind == "cup":
        cup = planned.cups[int(index)]
        text = f"Into the cup with {cup.wets[:1].lower()}{cup.wets[1:]}. Stir until it is smooth."
        if cup.source != "glycerin":
            text += " It is the batch's own, so the jug or the pot gets that much less."
    if target.role == "lye":
        text = "Own dry container, PP or steel, never aluminium. It will go into the liquid, never the other way."
        if planned.result.lye.master is not None:
            text = "Into a container of its own, PP or steel, never aluminium. It burns like dry lye."
    if target.most_at_once_g is not None:
        text += f" The scale takes about {target.most_at_once_g:,.0f} g at once: weigh it in loads, the scale tared for each."
    return Step(
        id=f"weigh-{target.item}", phase="Weigh the lye" if target.role == "lye" else "Weigh", kind="weigh",
        title=f"Weigh {target.name if target.role == 'lye' else target.name[:1].lower() + target.name[1:]}",
        text=text, caustic=target.role == "lye", weigh=target,
    )  # fmt: skip


def _lye(plan: BatchPlan, planned: PlannedBatch) -> Iterator[Step]:
    before = _at_stage(plan, "liquid")
    if before:
        yield Step(id="liquid-additives", phase="Make the lye", kind="do", title="Into the liquid first",
                   text=" ".join(before))  # fmt: skip
    peak = planned.lye_peak
    heat = f"It is estimated to come to {peak.low_c:.0f} to {peak.high_c:.0f} °C"
    heat += "; it may boil and spit, so go slowly." if peak.boils else "."
    if meets_milk(plan.formula.liquids):
        how = (
            "Jug in the ice bath. A spoonful of lye on the frozen cubes, stir until it is gone, then the next: cream to yellow "
            "is right; orange and curdled is scorched, and goes no further."
            if plan.choices.milk == "frozen"
            else "Jug in an ice bath, the liquid ice cold. A spoonful of lye at a time, stirring; orange is scorched."
        )
    elif planned.result.lye.master is not None:
        how = (
            "Pour the master lye into the water, slowly, stirring."
            if any(target.item == "water" for target in weigh_targets(planned))
            or any(line.use == "dissolves_lye" for line in plan.formula.liquids)
            else "The master lye is used as it is: there is no water to add. Stir it; it must be clear, with no crystals."
        )
    else:
        how = "Lye into the liquid, slowly, stirring, never the reverse. Cloudy, then clear; strain it if specks stay."
    extra = _at_stage(plan, "lye")
    if extra:
        how += " Into the hot lye: " + " ".join(extra)
    yield Step(
        id=MAKE_LYE_STEP, phase="Make the lye", kind="do", title="Lye into the liquid", text=f"{how} {heat}", caustic=True,
        checks=("Goggles and gloves are on.", "The jug stands firm, in the sink or a tray, away from the edge."),
    )  # fmt: skip


def _melting(plan: BatchPlan, planned: PlannedBatch) -> Iterator[Step]:
    hard = [oil.name.lower() for oil in planned.result.oils if oil.hard]
    soft = [oil.name.lower() for oil in planned.result.oils if not oil.hard]
    if hard:
        text = f"Melt {_names(hard)} gently until the last grain is gone ({planned.window.hardest_fat} melts at "
        text += f"{planned.window.melts_c:.0f} °C)."
        if soft and plan.choices.weigh_into == "separate":
            text += f" Then pour in {_names(soft)}: at room temperature they cool the pot."
        yield Step(id="melt", phase="Melt", kind="do", title="Melt the hard fats", text=text)
    into = _at_stage(plan, "oils")
    if plan.choices.scent_at == "oils" and plan.scents:
        into.append(f"Scent, {_names([scent.name for scent in planned.scents])}: stir in.")
    late = [liquids()[line.liquid].name for line in plan.formula.liquids if line.use == "into_oils"]
    if late:
        into.append(f"{_names(late)}: blend in.")
    if into:
        yield Step(id="into-oils", phase="Melt", kind="do", title="Into the oils", text=" ".join(into))
    window = planned.window
    yield Step(
        id="temperatures", phase="Cool", kind="temperature", title="Bring both to temperature",
        text=f"Oils and lye between {window.low_c:.0f} and {window.high_c:.0f} °C, at most {apart_words(window.apart_c)} apart."
        + (f" {window.conflict}" if window.conflict else ""),
    )  # fmt: skip
    cooled = _at_stage(plan, "cooled lye")
    if cooled:
        yield Step(id="cooled-lye", phase="Cool", kind="do", title="Into the cooled lye", text=" ".join(cooled), caustic=True,
                   checks=("Goggles and gloves are still on.",))  # fmt: skip


def _combining(plan: BatchPlan, planned: PlannedBatch) -> Iterator[Step]:
    yield Step(
        id=COMBINE_STEP, phase="Combine", kind="do", title="Lye into the oils",
        text="Tip the blender under the surface and tap the air out. Pour the lye in over a spatula, in a thin stream.",
        caustic=True, checks=("Goggles and gloves are on.",),
    )  # fmt: skip
    pace = planned.result.bar.trace if planned.result.bar else "slow"
    wanted = "a light trace" if len(plan.portions) > 1 else "a light to medium trace"
    yield Step(
        id="trace", phase="Trace", kind="trace", title="Blend to trace",
        text=f"Short bursts, then stir. Expect a {pace} trace; stop at {wanted}. A stable emulsion shows no oil at its edge.",
        caustic=True,
    )  # fmt: skip
    if plan.formula.process.method == "hot":
        yield Step(
            id="cook", phase="Trace", kind="do", title="Cook",
            text="Lid on, low heat, stir now and then: it swells, turns to jelly and settles, in one to three hours. A drop "
            "that no longer zaps is done.",
            caustic=True, checks=("Goggles and gloves are on: hot soap spits.",),
        )  # fmt: skip


def _after_trace(plan: BatchPlan, planned: PlannedBatch) -> Iterator[Step]:
    now = _at_stage(plan, "trace")
    now += [f"{liquids()[line.liquid].name}: stir in." for line in plan.formula.liquids if line.use == "at_trace"]
    late = [
        oil.name
        for oil, line in zip(planned.result.oils, planned.formula.blend.lines, strict=True)
        if line.added != "start"
    ]
    if late:
        now.append(f"{_names(late)}: stir in last.")
    if now:
        yield Step(id="additions", phase="Add", kind="do", title="Additions", text=" ".join(now), caustic=True)
    if plan.choices.scent_at == "trace" and plan.scents:
        hurried = [
            scents()[line.scent].name for line in plan.scents
            if {"accelerates", "rices", "seizes"} & set(scents()[line.scent].behaviour)
        ]  # fmt: skip
        text = f"{_names([scent.name for scent in planned.scents])}: by hand, with a spatula, not with the blender."
        if hurried:
            text += f" {_names(hurried)} may hurry or seize it: have the moulds in front of you."
        yield Step(id="scent", phase="Add", kind="do", title="Scent", text=text, caustic=True)
    if len(plan.portions) > 1 or any(portion.colours for portion in plan.portions):
        components = [f"{portion.name} {portion.batter_g:,.0f} g" for portion in planned.portions]
        yield Step(
            id="split", phase="Colour", kind="do", title="Split and colour",
            text=f"{'; '.join(components)}. Stir each colour in until no streak is left.", caustic=True,
        )  # fmt: skip


def _pouring(plan: BatchPlan, planned: PlannedBatch) -> Iterator[Step]:
    fills = [
        f"{fill.name}: {fill.batter_g:,.0f} g" + (f", {fill.height_mm:.0f} mm high" if fill.height_mm else "")
        for fill in planned.moulds
    ]
    order = f" In this order: {_names([portion.name for portion in plan.portions])}." if len(plan.portions) > 1 else ""
    yield Step(id="pour", phase="Pour", kind="pour", title="Pour",
               caustic=True,
               text=("; ".join(fills) + "." if fills else "Into the mould.") + order + " Tap the air out.")  # fmt: skip
    top = _at_stage(plan, "top")
    finish = ["Work the top into peaks once it holds them." if plan.choices.top == "textured" else "Smooth the top."]
    finish += top
    if plan.choices.alcohol_spray:
        finish.append("Spray the top with alcohol against ash: no flame near.")
    yield Step(id="finish", phase="Pour", kind="do", title="Finish the top", text=" ".join(finish), caustic=True)
    cover = {
        "insulate": "Cover it and wrap it in a blanket.",
        "cover": "Cover it, and leave it where it is.",
        "heat_pad": "Cover it, on a heat pad at low for an hour or two. Look after it: too hot cracks.",
        "fridge": "Into the fridge, covered, away from food.",
    }[plan.choices.cover]
    if plan.choices.cover != "fridge" and plan.formula.process.gel != "prevented":
        onset = gel_onset_hours(planned.result.water.lye_concentration_percent)
        cover += (
            f" Gel may be seen from about {onset:.1f} h on, darker and glossy from the middle (estimate): look then, and once "
            "an hour while it is warm. If it rises or cracks, take the covers off."
        )
    yield Step(id="cover", phase="Cover", kind="do", title="Cover", text=cover, caustic=True)
    yield Step(
        id="wash-up", phase="Wash up", kind="do", title="Wash up", caustic=True,
        text="Gloves and goggles stay on: raw batter burns until about a day after pouring. Wipe pots and tools with paper "
        "before they go into water, and keep them apart from what food touches. Lock the lye away, labelled.",
    )  # fmt: skip
