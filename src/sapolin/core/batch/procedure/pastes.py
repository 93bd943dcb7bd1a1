"""Paste of KOH: blended and rested until it is one mass, cooked or left, tested clear and mild, packed in jars."""

from collections.abc import Iterator
from math import exp

from sapolin.core.batch.plan import BatchPlan
from sapolin.core.batch.planned import PlannedBatch
from sapolin.core.batch.procedure.cooking import STIR_MINUTES, zap_test
from sapolin.core.batch.procedure.process import BatchProcess
from sapolin.core.batch.procedure.step import Step, additives_at, joined_sentences, outcome, say, stage, step
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.materials.ingredients import liquids, lye_consumers
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.molar_masses import KOH_G_PER_MOL
from sapolin.core.quantities.text import Number, Temperature, Text, listed, number, percent, weight

__all__ = ["packing", "paste_hours", "saponifying"]

PASTE_STAGES = ("thin", "sauce", "mash", "jelly")
REST_MINUTES = 5.0


def paste_hours(planned: PlannedBatch, *, is_hot: bool) -> tuple[float, float]:
    """From when to when the paste is jelly, h after the lye met the oils: quicker with what hurries trace; an estimate."""
    middle = coefficient("paste.hot_hours" if is_hot else "paste.cold_hours")
    points = planned.trace_points
    pace = 0.0 if points is None else points - coefficient("trace.moderate_from")
    hours = middle * exp(coefficient("paste.hours_per_trace_point") * pace)
    spread = coefficient("paste.hours_spread")
    return hours / spread, hours * spread


def _span(hours: tuple[float, float]) -> tuple[Number, Number]:
    low, high = hours
    if high > 48:
        return number(low / 24, 1), number(high / 24, 1, "days")
    return number(low, 1), number(high, 1, "h")


def saponifying(plan: BatchPlan, planned: PlannedBatch, process: BatchProcess) -> Iterator[Step]:
    """From thin to jelly, then clear and without a zap."""
    is_hot = process.method == "hot"
    low, high = _span(paste_hours(planned, is_hot=is_hot))
    said: list[Text] = [say("paste.blend_and_rest", rest=number(REST_MINUTES, 0, "min"))]
    if is_hot:
        heat = Temperature(c=coefficient("cook.low_c"), to_c=coefficient("cook.high_c"))
        said.append(say("paste.hot", heat=heat, low=low, high=high))
    else:
        said.append(say("paste.cold", low=low, high=high))
    yield step(
        "paste", "paste", "stages", joined_sentences(said), caustic=True, checks=("protected",),
        stages=tuple(stage("paste", one) for one in PASTE_STAGES), timer_minutes=(REST_MINUTES, STIR_MINUTES),
        if_needed=(say("paste.separates"), say("paste.stiff"), say("paste.cold_again")),
    )  # fmt: skip
    if not process.is_lye_heavy:
        yield zap_test("paste")
    haze = [*_stays_hazy(planned)]
    yield step(
        "clarity", "paste", "test", joined_sentences([say("clarity.text"), *haze]), test="clarity",
        caustic=process.is_lye_heavy,
        outcomes=(
            outcome("clarity", "clear", passed=True), outcome("clarity", "haze", passed=bool(haze)),
            outcome("clarity", "milky", passed=False),
        ),
        if_needed=(say("clarity.milky"),), timer_minutes=(STIR_MINUTES,),
    )  # fmt: skip
    if process.is_lye_heavy:
        yield from _neutralising(planned)
    now = [one for at in ("trace", "after cook", "top") for one in additives_at(plan, planned, at)]
    now += [say("additions.liquid", name=liquids()[line.liquid].name)
            for line in plan.formula.liquids if line.use == "at_trace"]  # fmt: skip
    lines = zip(planned.result.oils, planned.formula.blend.lines, strict=True)
    late = [oil.name for oil, line in lines if line.added != "start"]
    if late:
        now.append(say("after_cook.oils", names=listed(late)))
    if plan.scents:
        now.append(say("after_cook.scent", names=listed([scent.name for scent in planned.scents]),
                       below=Temperature(c=coefficient("cook.add_below_c"))))  # fmt: skip
    if now:
        yield step("after-cook", "after_cook", "do", joined_sentences(now))


def _stays_hazy(planned: PlannedBatch) -> Iterator[Text]:
    """Why such a paste is never quite clear."""
    superfat = planned.result.lye.superfat_total_percent
    if round(superfat, 1) > coefficient("paste.clear_superfat_percent"):
        yield say("clarity.superfat", superfat=percent(superfat, 1))
    unsaponifiable = sum(
        oil.share_percent * catalogue()[oil.oil].unsaponifiable_percent.typical / 100
        for oil in planned.result.oils
        if oil.oil in catalogue()
    )
    if unsaponifiable > coefficient("paste.clear_unsaponifiable_percent"):
        yield say("clarity.unsaponifiable", share=percent(unsaponifiable, 1))


def _neutralising(planned: PlannedBatch) -> Iterator[Step]:
    """Lye to spare, taken away by citric acid: half of it first, tested, then the rest in small parts."""
    lye = planned.result.lye
    spare_g = -lye.superfat_total_percent / 100 * lye.koh_equivalent_g
    citric_g = spare_g / (KOH_G_PER_MOL * lye_consumers()["citric-anhydrous"].hydroxide_mol_per_g)
    yield step(
        "neutralise", "paste", "test",
        say("neutralise.text", superfat=percent(lye.superfat_total_percent, 1), spare=weight(spare_g, 1),
            citric=weight(citric_g, 1)),
        caustic=True, test="ph", if_needed=(say("neutralise.cloudy"),),
    )  # fmt: skip


def packing(plan: BatchPlan, planned: PlannedBatch) -> Iterator[Step]:
    """Into jars, labelled, and its rest."""
    paste = planned.result.paste
    assert paste is not None
    said = [say("pack.text", grams=weight(planned.size.batter_g, 0), soap=percent(paste.soap_percent, 0))]
    if plan.jar_g:
        said.append(say("pack.jars", jars=number(jars_for(planned.size.batter_g, plan.jar_g), 0),
                        each=weight(plan.jar_g, 0)))  # fmt: skip
    said.append(say("pack.label"))
    yield step("pack", "pack", "pack", joined_sentences(said))
    weeks = number(coefficient("paste.rest_weeks_low")), number(coefficient("paste.rest_weeks_high"), unit="weeks")
    yield step("rest", "pack", "do", say("rest.text", low=weeks[0], high=weeks[1]))


def jars_for(paste_g: float, jar_g: float) -> int:
    """How many jars take so much paste, the last one perhaps not full.

    >>> jars_for(1450.0, 500.0), jars_for(1500.0, 500.0)
    (3, 3)
    """
    return int(-(-(paste_g - 1e-6) // jar_g))
