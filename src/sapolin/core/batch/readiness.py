"""Whether a planned batch is ready: what is doubtful, what this way of making it risks, and the remedy.

What is missing or impossible never gets here: :func:`sapolin.core.batch.planned.plan_batch` refuses it.
"""

from collections.abc import Iterator
from itertools import pairwise

from sapolin.core.advice.rulebook import TARGET_RANGE_CODES
from sapolin.core.advice.rules import gravest_first
from sapolin.core.batch.plan import BatchPlan
from sapolin.core.batch.planned import PlannedBatch
from sapolin.core.batch.procedure import HURRIES, process_of
from sapolin.core.batch.targets import weigh_targets
from sapolin.core.batch.temperatures import meets_milk, that_scorch
from sapolin.core.materials.catalogue import Catalogue, catalogue
from sapolin.core.materials.ingredients import additives, colorants, liquids, scents
from sapolin.core.materials.own import with_materials
from sapolin.core.quantities.coefficients import coefficient, coefficients
from sapolin.core.quantities.diagnostics import Diagnostic, diagnostic
from sapolin.core.quantities.model import given
from sapolin.core.quantities.text import Temperature, listed, number, percent, plain, template, weight, within_sentence

__all__ = ["allergens_of", "forbidden", "hue_gap_degrees", "readiness"]

OPPOSITE_DEGREES = 110.0
"""Hues farther apart than this blend to brown."""
MANY_PORTIONS = 3
RIVERS_BELOW_LYE_PERCENT = 30.0
"""Lye weaker than this leaves so much water that titanium dioxide shows streaks where it gels (rule of thumb)."""


def hue_gap_degrees(one: float, other: float) -> float:
    """How far two hues, each from 0 up to 360, are apart on the colour wheel.

    >>> hue_gap_degrees(350.0, 20.0)
    30.0
    """
    gap = abs(one - other)
    return min(gap, 360 - gap)


def allergens_of(plan: BatchPlan, base: Catalogue | None = None) -> tuple[str, ...]:
    """Everything in the batch that some must avoid, once each, in words."""
    oils = with_materials(catalogue() if base is None else base, plan.formula.materials)
    words = [word for line in plan.formula.blend.lines for word in oils[line.oil].allergen_groups]
    words += [liquids()[line.liquid].allergens for line in plan.formula.liquids]
    words += [additives()[line.additive].allergens for line in plan.formula.additives]
    words += [word for line in plan.scents for word in scents()[line.scent].declarable]
    return tuple(dict.fromkeys(word for word in words if word))


def forbidden(found: tuple[Diagnostic, ...]) -> tuple[Diagnostic, ...]:
    """What forbids making the batch at all."""
    return tuple(one for one in found if one.stops)


def readiness(plan: BatchPlan, planned: PlannedBatch, base: Catalogue | None = None) -> tuple[Diagnostic, ...]:
    """Everything to say before the batch is made, the gravest first."""
    return gravest_first([*_found(plan, planned, base)])


def _found(plan: BatchPlan, planned: PlannedBatch, base: Catalogue | None) -> Iterator[Diagnostic]:
    # What is said about the bar itself, or better below, is left out.
    elsewhere = {*TARGET_RANGE_CODES} | ({"scorching"} if plan.choices.milk == "frozen" else set())
    elsewhere |= {"false_trace"} if planned.window.conflict else set()
    for one in planned.advice:
        if one.severity != "note" and one.code not in elsewhere:
            yield one.at(f"formula.{one.path}") if one.path else one
    yield from _amounts(plan, planned)
    yield from _moulds(plan, planned)
    yield from _heat(plan, planned)
    yield from _scents(plan)
    yield from _shared_limits(planned)
    yield from _colours(plan, planned)
    allergens = allergens_of(plan, base)
    if allergens:
        yield diagnostic("allergens", "note", names=", ".join(allergens))


def _amounts(plan: BatchPlan, planned: PlannedBatch) -> Iterator[Diagnostic]:
    """What is dangerous, or too much for the scale, because there is so much of it."""
    lye_g = planned.result.lye.naoh_g + planned.result.lye.koh_g
    if lye_g >= coefficient("lye.much_g"):
        yield diagnostic("much_lye", "warning", lye=weight(lye_g, 0))
    most_g, capacity_g = planned.most_at_once_g, plan.choices.scale_capacity_g
    if most_g is None or capacity_g is None:
        return
    heavy = [target.name for target in weigh_targets(planned) if target.most_at_once_g is not None]
    capacity = weight(capacity_g, 0)
    if heavy:
        yield diagnostic("beyond_the_scale", "warning", names=listed(heavy), capacity=capacity)
    if plan.choices.weigh_into == "one_bowl" and planned.result.total_oils_g > most_g:
        oils = weight(planned.result.total_oils_g, 0)
        yield diagnostic("bowl_beyond_the_scale", "warning", "choices.weigh_into", oils=oils, capacity=capacity)


def _moulds(plan: BatchPlan, planned: PlannedBatch) -> Iterator[Diagnostic]:
    process = process_of(plan, planned)
    if process.makes == "paste":
        return
    size, spare_ml = planned.size, planned.volume.high_ml - planned.volume.total_ml
    if process.is_salt_bar and any(use.cut is not None for use in plan.moulds):
        yield diagnostic("salt_bar_in_a_loaf", "warning", "moulds")
    for i, fill in enumerate(planned.moulds):
        if fill.cuts and fill.cuts[0].bars == 0:
            thickness = number(fill.cuts[0].bar_thickness_mm, 1, "mm")
            yield diagnostic("no_bar_from_cut", "warning", f"moulds[{i}].cut", name=fill.name, thickness=thickness)
    if not plan.moulds:
        yield diagnostic("no_mould", "warning", "moulds", volume=number(planned.volume.total_ml, 0, "mL"))
    elif size.over_ml > 0:
        yield diagnostic(
            "mould_too_small", "warning", "moulds", over=number(size.over_ml, 0, "mL"), place=plain(size.words)
        )  # fmt: skip
    elif planned.volume.high_ml > sum(fill.capacity_ml for fill in planned.moulds) and all(
        use.headroom_mm == 0 for use in plan.moulds
    ):
        yield diagnostic("tight_mould", "warning", "moulds", spare=number(spare_ml, 0, "mL"))
    peaks_need_mm = coefficients()["mould.textured_headroom_mm"].minimum
    if plan.choices.top == "textured" and any(
        given(use.headroom_mm) < peaks_need_mm for use in plan.moulds if use.mould.shape.kind in ("loaf", "slab")
    ):
        yield diagnostic(
            "no_room_for_peaks", "warning", "choices.top",
            least=number(peaks_need_mm, 0, "mm"), usual=number(coefficient("mould.textured_headroom_mm"), 0, "mm"),
        )  # fmt: skip


def _heat(plan: BatchPlan, planned: PlannedBatch) -> Iterator[Diagnostic]:
    window, peak = planned.window, planned.lye_peak
    process = process_of(plan, planned)
    if window.conflict:
        yield diagnostic("too_cool_for_fats", "warning").model_copy(update={"message": window.conflict})
    if meets_milk(plan.formula.liquids) and plan.choices.milk == "chilled":
        yield diagnostic("scorched_milk", "warning", "choices.milk", peak=Temperature(c=peak.high_c))
    if peak.boils:
        yield diagnostic("lye_boils", "warning", peak=Temperature(c=peak.high_c))
    if not process.is_poured:
        return
    gel = planned.gel
    if gel is not None and gel.middle_high_c >= coefficient("limit.middle_c"):
        middle = Temperature(c=gel.middle_low_c, to_c=gel.middle_high_c)
        yield diagnostic("middle_overheats", "warning", "choices.cover", middle=middle)
    warm = plan.formula.process.gel == "encouraged" or plan.choices.cover in ("insulate", "heat_pad", "oven")
    if window.milk and warm:
        names = listed([within_sentence(name) for name in that_scorch(plan.formula.liquids)])
        yield diagnostic("milk_overheats", "warning", "choices.cover", names=names)
    if plan.formula.process.gel == "encouraged" and plan.choices.cover == "fridge":
        yield diagnostic("gel_in_fridge", "warning", "choices.cover")
    if plan.formula.process.gel == "prevented" and plan.choices.cover in ("insulate", "heat_pad", "oven"):
        yield diagnostic("gel_not_wanted", "warning", "choices.cover")
    is_thin = planned.result.water.lye_concentration_percent < coefficient("limit.ash_lye_percent")
    thin_and_cool = is_thin and not warm and not plan.choices.alcohol_spray
    if thin_and_cool and plan.choices.cover not in ("cover", "insulate"):
        yield diagnostic("ash", "warning", "choices.cover")


def _scents(plan: BatchPlan) -> Iterator[Diagnostic]:
    busy = len(plan.portions) >= MANY_PORTIONS
    for i, line in enumerate(plan.scents):
        scent, path = scents()[line.scent], f"scents[{i}]"
        if line.limit_percent is None:
            yield diagnostic("no_scent_limit", "warning", f"{path}.limit_percent", name=scent.name.lower())
        if given(line.percent_of_oils) > scent.usual_maximum_percent:
            yield diagnostic(
                "much_scent", "warning", f"{path}.percent_of_oils", name=scent.name, rate=percent(given(line.percent_of_oils)),
                low=number(scent.usual_minimum_percent), high=percent(scent.usual_maximum_percent),
            )  # fmt: skip
        hurries = [template(f"behaviour.{one}") for one in HURRIES if one in scent.behaviour]
        if hurries:
            code = "scent_hurries_portions" if busy else "scent_hurries"
            yield diagnostic(
                code, "warning", path, name=scent.name, does=listed(hurries), portions=number(len(plan.portions))
            )  # fmt: skip
        pale = any(
            colorants()[colour.colorant].kind == "white" for portion in plan.portions for colour in portion.colours
        )
        if "discolours" in scent.behaviour and pale:
            yield diagnostic("scent_browns", "warning", path, name=scent.name)


def _shared_limits(planned: PlannedBatch) -> Iterator[Diagnostic]:
    """Scents that hold the same limited substance add up: each may use only the part of its limit that others leave."""
    limited = [scent for scent in planned.scents if scent.limit_percent]
    said: set[tuple[str, ...]] = set()
    for substance in dict.fromkeys(word for scent in limited for word in scents()[scent.scent].declarable):
        sharing = [scent for scent in limited if substance in scents()[scent.scent].declarable]
        used = sum(scent.percent_of_product / (scent.limit_percent or 1.0) for scent in sharing)
        names = tuple(scent.name for scent in sharing)
        if len(sharing) > 1 and used > 1 and names not in said:
            said.add(names)
            yield diagnostic(
                "shared_limit", "warning", names=listed(names), substance=substance, used=percent(100 * used, 0)
            )  # fmt: skip


def _colours(plan: BatchPlan, planned: PlannedBatch) -> Iterator[Diagnostic]:
    for one, other in pairwise(planned.portions):
        if one.hue_degrees is None or other.hue_degrees is None:
            continue
        if hue_gap_degrees(one.hue_degrees, other.hue_degrees) > OPPOSITE_DEGREES:
            yield diagnostic("muddy_colours", "warning", one=one.name, other=other.name)
    kinds = {colorants()[colour.colorant].kind for portion in plan.portions for colour in portion.colours}
    gel = plan.formula.process.gel
    if "charcoal" in kinds and gel == "prevented":
        yield diagnostic("grey_black", "warning")
    wet = planned.result.water.lye_concentration_percent < RIVERS_BELOW_LYE_PERCENT
    if "white" in kinds and wet and gel != "prevented":
        yield diagnostic("rivers", "warning")
    pace = planned.result.bar.trace if planned.result.bar else "slow"
    if pace in ("brisk", "fast") and len(plan.portions) >= MANY_PORTIONS:
        yield diagnostic("fast_for_colours", "warning", pace=pace, portions=number(len(plan.portions)))
