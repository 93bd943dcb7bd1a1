"""Whether a planned batch is ready: what is doubtful, what this way of making it risks, and the remedy.

What is missing or impossible never gets here: :func:`sapolin.core.batch.planned.plan_batch` refuses it.
"""

from collections.abc import Iterator
from itertools import pairwise
from typing import Literal

from sapolin.core.batch.plan import BatchPlan
from sapolin.core.batch.planned import PlannedBatch
from sapolin.core.batch.procedure import weigh_targets
from sapolin.core.batch.temperatures import meets_milk
from sapolin.core.materials.catalogue import Catalogue, catalogue
from sapolin.core.materials.ingredients import additives, colorants, liquids, scents
from sapolin.core.materials.own import with_materials
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.model import Model

__all__ = ["Finding", "allergens_of", "hue_gap_degrees", "readiness"]

OPPOSITE_DEGREES = 110.0
"""Hues farther apart than this blend to brown."""
MANY_PORTIONS = 3


Level = Literal["stop", "doubt", "risk", "note"]


class Finding(Model):
    """One thing to settle or to know before the batch is made."""

    level: Level
    """stop: not safe as it stands. doubt: look again. risk: this way of making it brings it. note: good to know."""
    code: str
    headline: str
    remedy: str


def hue_gap_degrees(one: float, other: float) -> float:
    """How far two hues are apart on the colour wheel.

    >>> hue_gap_degrees(350.0, 20.0)
    30.0
    """
    gap = abs(one - other) % 360
    return min(gap, 360 - gap)


def allergens_of(plan: BatchPlan, base: Catalogue | None = None) -> tuple[str, ...]:
    """Everything in the batch that some must avoid, once each, in words."""
    oils = with_materials(catalogue() if base is None else base, plan.formula.materials)
    words = [word for line in plan.formula.blend.lines for word in oils[line.oil].allergen_groups]
    words += [liquids()[line.liquid].allergens for line in plan.formula.liquids]
    words += [additives()[line.additive].allergens for line in plan.formula.additives]
    words += [word for line in plan.scents for word in scents()[line.scent].declarable]
    return tuple(dict.fromkeys(word for word in words if word))


def readiness(plan: BatchPlan, planned: PlannedBatch, base: Catalogue | None = None) -> tuple[Finding, ...]:
    """Everything to say before the batch is made, the gravest first."""
    order = ("stop", "doubt", "risk", "note")
    return tuple(sorted(_findings(plan, planned, base), key=lambda finding: order.index(finding.level)))


def _findings(plan: BatchPlan, planned: PlannedBatch, base: Catalogue | None) -> Iterator[Finding]:
    # What is said about the bar itself, or better below, is left out.
    elsewhere = {"outside_target_range"} | ({"scorching"} if plan.choices.milk == "frozen" else set())
    elsewhere |= {"false_trace"} if planned.window.conflict else set()
    for remark in planned.result.remarks:
        if remark.severity in ("danger", "watch") and remark.code not in elsewhere:
            yield Finding(level="stop" if remark.severity == "danger" else "risk", code=remark.code,
                          headline=remark.headline, remedy=remark.remedy or remark.reason)  # fmt: skip
    yield from _amounts(plan, planned)
    yield from _moulds(plan, planned)
    yield from _heat(plan, planned)
    yield from _scents(plan)
    yield from _shared_limits(planned)
    yield from _colours(plan, planned)
    allergens = allergens_of(plan, base)
    if allergens:
        yield _finding("note", "allergens", f"To be named on the label: {', '.join(allergens)}.",
                      "Keep its tools apart from a batch that must do without.")  # fmt: skip


def _finding(level: Level, code: str, headline: str, remedy: str) -> Finding:
    return Finding(level=level, code=code, headline=headline, remedy=remedy)


def _amounts(plan: BatchPlan, planned: PlannedBatch) -> Iterator[Finding]:
    """What is dangerous, or too much for the scale, because there is so much of it."""
    lye_g = planned.result.lye.naoh_g + planned.result.lye.koh_g
    if lye_g >= coefficient("lye.much_g"):
        yield _finding("risk", "much_lye", f"{lye_g / 1000:,.2f} kg of caustic lye in one batch.",
                      "Work with a second person, have a plan for a spill, add the lye slower than usual, and watch for "
                      "gel and overheating: so large a mass holds its heat.")  # fmt: skip
    most_g, capacity_g = planned.most_at_once_g, plan.choices.scale_capacity_g
    if most_g is None or capacity_g is None:
        return
    heavy = [target.name for target in weigh_targets(planned) if target.most_at_once_g is not None]
    if heavy:
        yield _finding("doubt", "beyond_the_scale", f"{_and(heavy)}: more than a scale of {capacity_g:,.0f} g takes at once, "
                      "container included.", "Make day weighs it in loads, the scale tared for each.")  # fmt: skip
    if plan.choices.weigh_into == "one_bowl" and planned.result.total_oils_g > most_g:
        yield _finding("doubt", "bowl_beyond_the_scale", f"All {planned.result.total_oils_g:,.0f} g of oils in one pot on the "
                      f"scale would pass the {capacity_g:,.0f} g that it takes.",
                      "Weigh each oil into a bowl of its own and tip it into the pot.")  # fmt: skip


def _moulds(plan: BatchPlan, planned: PlannedBatch) -> Iterator[Finding]:
    size, spare_ml = planned.size, planned.volume.high_ml - planned.volume.total_ml
    if not plan.moulds:
        yield _finding("doubt", "no_mould", f"No mould is chosen for {planned.volume.total_ml:,.0f} mL of batter.",
                      "Choose one, or have something lined that takes it.")  # fmt: skip
    elif size.over_ml > 0:
        yield _finding("doubt", "mould_too_small", f"The moulds are {size.over_ml:,.0f} mL too small.",
                      size.words)  # fmt: skip
    elif planned.volume.high_ml > sum(fill.capacity_ml for fill in planned.moulds) and all(
        use.headroom_mm == 0 for use in plan.moulds
    ):
        yield _finding("risk", "tight_mould", f"Filled to the rim: up to {spare_ml:,.0f} mL may be over.",
            "Leave a few millimetres of headroom, or have a spare cavity ready.",
        )  # fmt: skip
    if plan.choices.top == "textured" and any(
        (use.headroom_mm or 0.0) < 8 for use in plan.moulds if use.mould.shape.kind in ("loaf", "slab")
    ):
        yield _finding("doubt", "no_room_for_peaks", "A textured top stands above the rim.",
                      "Leave about 12 mm of headroom.")  # fmt: skip


def _heat(plan: BatchPlan, planned: PlannedBatch) -> Iterator[Finding]:
    window = planned.window
    if window.conflict:
        yield _finding("doubt", "too_cool_for_fats", window.conflict,
            "Go a little warmer, keep that fat low, or be sure it stays clear in the cooled oils: else it sets as a "
            "false trace.",
        )  # fmt: skip
    if meets_milk(plan.formula.liquids) and plan.choices.milk == "chilled":
        yield _finding("risk", "scorched_milk", f"The liquid may scorch: the lye comes to about "
                      f"{planned.lye_peak.high_c:.0f} °C.", "Freeze it in cubes, or dissolve the lye in its own weight "
                      "of water and add the rest to the oils.")  # fmt: skip
    if planned.lye_peak.boils:
        yield _finding("risk", "lye_boils", "The lye may boil and spit as it dissolves.",
                      "Start with ice-cold water, in a tall jug, and take your time.")  # fmt: skip
    warm = plan.formula.process.gel == "encouraged" or plan.choices.cover in ("insulate", "heat_pad")
    if window.milk and warm:
        yield _finding("risk", "milk_overheats", "Milk and warmth: it may crack, rise or brown.",
                      "Into the fridge, no blanket.")  # fmt: skip
    if plan.formula.process.gel == "encouraged" and plan.choices.cover == "fridge":
        yield _finding("doubt", "gel_in_fridge", "Gel is wanted, and the fridge prevents it.",
                      "Cover and insulate, or give up the gel.")  # fmt: skip
    thin_and_cool = planned.result.water.lye_concentration_percent < 29 and not warm and not plan.choices.alcohol_spray
    if thin_and_cool and plan.choices.cover not in ("cover", "insulate"):
        yield _finding("risk", "ash", "Cool, wet and open to the air: ash is likely.",
                      "Cover it, spray the top, or use a little less water.")  # fmt: skip


def _scents(plan: BatchPlan) -> Iterator[Finding]:
    busy = len(plan.portions) >= MANY_PORTIONS
    for line in plan.scents:
        scent = scents()[line.scent]
        if line.limit_percent is None:
            yield _finding("doubt", "no_scent_limit", f"The supplier's limit for {scent.name.lower()} is not entered.",
                          "It is on the bottle or in its papers: in % of the finished product, rinsed off.")  # fmt: skip
        if (line.percent_of_oils or 0.0) > scent.usual_maximum_percent:
            yield _finding("doubt", "much_scent", f"{scent.name} at {line.percent_of_oils:g} % is more than the usual "
                          f"{scent.usual_minimum_percent:g} to {scent.usual_maximum_percent:g} %.",
                          "More is seldom smelled, and irritates sooner.")  # fmt: skip
        hurries = {"accelerates", "rices", "seizes"} & set(scent.behaviour)
        if hurries:
            yield _finding("doubt" if busy else "risk", "scent_hurries", f"{scent.name} {_and(sorted(hurries))}"
                          + (f", and there are {len(plan.portions)} portions to colour." if busy else "."),
                          "A small test batch first; add it last, by hand; pour fewer colours.")  # fmt: skip
        pale = any(
            colorants()[colour.colorant].kind == "white" for portion in plan.portions for colour in portion.colours
        )
        if "discolours" in scent.behaviour and pale:
            yield _finding("risk", "scent_browns", f"{scent.name} browns what should stay white.",
                          "Keep the white portion free of it.")  # fmt: skip


def _shared_limits(planned: PlannedBatch) -> Iterator[Finding]:
    """Scents that hold the same limited substance add up: each may use only the part of its limit that others leave."""
    limited = [scent for scent in planned.scents if scent.limit_percent]
    told: set[tuple[str, ...]] = set()
    for substance in dict.fromkeys(word for scent in limited for word in scents()[scent.scent].declarable):
        sharing = [scent for scent in limited if substance in scents()[scent.scent].declarable]
        used = sum(scent.percent_of_product / (scent.limit_percent or 1.0) for scent in sharing)
        names = tuple(scent.name for scent in sharing)
        if len(sharing) > 1 and used > 1 and names not in told:
            told.add(names)
            yield _finding("doubt", "shared_limit", f"{_and(list(names))} share {substance}: together they use "
                          f"{100 * used:.0f} % of what their limits allow.",
                          "Use less of them, unless their papers show that another substance sets the limit.")  # fmt: skip


def _colours(plan: BatchPlan, planned: PlannedBatch) -> Iterator[Finding]:
    for one, other in pairwise(planned.portions):
        if one.hue_degrees is None or other.hue_degrees is None:
            continue
        gap = hue_gap_degrees(one.hue_degrees, other.hue_degrees)
        if gap > OPPOSITE_DEGREES:
            yield _finding("doubt", "muddy_colours", f"{one.name} beside {other.name}: where they meet they turn brown.",
                          "Put a white or black portion between them, or neighbours on the colour wheel.")  # fmt: skip
    kinds = {colorants()[colour.colorant].kind for portion in plan.portions for colour in portion.colours}
    gel = plan.formula.process.gel
    if "charcoal" in kinds and gel == "prevented":
        yield _finding("risk", "grey_black", "Black without gel turns out grey.",
                      "Let it gel, if nothing in the pot forbids it.")  # fmt: skip
    wet = planned.result.water.lye_concentration_percent < 30
    if "white" in kinds and wet and gel != "prevented":
        yield _finding("risk", "rivers", "Titanium dioxide, much water and warmth draw rivers.",
                      "Less water, less white, or keep it cool.")  # fmt: skip
    pace = planned.result.bar.trace if planned.result.bar else "slow"
    if pace in ("brisk", "fast") and len(plan.portions) >= MANY_PORTIONS:
        yield _finding("doubt", "fast_for_colours", f"A {pace} trace leaves little time for {len(plan.portions)} portions.",
                      "More water, cooler, more oleic oils; or fewer colours.")  # fmt: skip


def _and(words: list[str]) -> str:
    return words[0] if len(words) == 1 else ", ".join(words[:-1]) + " and " + words[-1]
