"""The order of work of a preparation, from gear to label, as make day shows it."""

from collections.abc import Iterator

from sapolin.core.batch.procedure.cooking import zap_test
from sapolin.core.batch.procedure.step import Step, joined_sentences, say, stage, step
from sapolin.core.batch.targets import Role, WeighTarget
from sapolin.core.preparations.dilution import DilutedBatch
from sapolin.core.preparations.others import BlendedOils, DissolvedLye, MeltedSoap
from sapolin.core.preparations.plan import DilutionPlan, MasterBlendPlan, MasterLyePlan, RebatchPlan
from sapolin.core.preparations.preservatives import preservatives
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.model import given
from sapolin.core.quantities.text import Temperature, Text, listed, number, percent, template, weight, within_sentence

__all__ = ["blending_steps", "diluting_steps", "dissolving_steps", "melting_steps"]

LYE_TOLERANCE_PERCENT = 0.2
ABOVE_MELTING_C = 10.0
PROTECTED = ("goggles", "gloves", "alone")


def _target(item: str, name: str, role: Role, grams: float, tolerance_percent: float = 0.0) -> WeighTarget:
    """Something to weigh, rounded as a kitchen scale shows it."""
    decimals = 0 if grams >= 1000 else 1
    step_g = 10.0**-decimals
    rounded = round(grams, decimals)
    return WeighTarget(
        item=item, name=name, role=role, target_g=rounded, decimals=decimals,
        tolerance_g=max(rounded * (tolerance_percent or coefficient("tolerance.water_percent")) / 100, 2 * step_g),
    )  # fmt: skip


def _weigh(target: WeighTarget, said: str, *, caustic: bool = False, phase: str = "weigh") -> Step:
    name = target.name if target.role == "lye" else within_sentence(target.name)
    return step(
        f"weigh-{target.item}", phase, "weigh", say(said), weigh=target, caustic=caustic,
        title=template("steps.weigh.title").format(name=name),
    )  # fmt: skip


def diluting_steps(plan: DilutionPlan, made: DilutedBatch) -> Iterator[Step]:
    """Paste into hot water in stages, tested, preserved, bottled."""
    hot = Temperature(c=coefficient("liquid.water_low_c"), to_c=coefficient("liquid.water_high_c"))
    yield step("dilute-ready", "gear", "confirm", say("dilute_ready.text"), checks=("vessel", "bottles", "water"))
    for i, paste in enumerate(made.pastes):
        target = _target(f"paste:{i}", f"{paste.name}, {paste.code}", "oil", paste.weight_g)
        yield _weigh(target, "dilute_ready.paste")
    for water in made.water[:2]:
        target = _target(f"water:{water.stage}", template(f"steps.dilute_water.{water.stage}"), "water", water.weight_g)
        yield _weigh(target, f"dilute_water.{water.stage}_how", phase="dilute")
        title = f"dilute-{water.stage}"
        yield step(
            title, "dilute", "stages", say(f"{title.replace('-', '_')}.text", hot=hot),
            stages=tuple(stage(title.replace("-", "_"), one) for one in ("lumps", "smooth")), timer_minutes=(30.0,),
            if_needed=(say("dilute_first.skin"), say("dilute_first.foam")),
        )  # fmt: skip
    last = made.water[-1]
    target = _target("water:last", template("steps.dilute_water.last"), "water", last.weight_g)
    yield _weigh(target, "dilute_water.last_how", phase="dilute")
    thick = joined_sentences([say("dilute_thickness.text"), made.thickness.words])
    brine = [say("dilute_thickness.brine")] if made.thickness.salt_thickens else []
    too_thin = joined_sentences([say("dilute_thickness.too_thin"), *brine])
    yield step("dilute-thickness", "dilute", "do", thick, if_needed=(too_thin,))
    yield step("dilute-ph", "test", "test", _ph_words(plan), test="ph", if_needed=(say("dilute_ph.high"),))
    below = Temperature(c=coefficient("liquid.add_below_c"))
    yield step("dilute-cool", "add", "do", say("dilute_cool.text", below=below))
    if plan.preservative is not None:
        row = preservatives()[plan.preservative.preservative]
        yield _weigh(
            _target("preservative", row.name, "additive", made.preservative_g), "dilute_add.preservative", phase="add"
        )
    for i, scent in enumerate(made.scents):
        yield _weigh(_target(f"scent:{i}", scent.name, "scent", scent.weight_g), "dilute_add.scent", phase="add")
    if made.brine_g > 0:
        yield _weigh(_target("brine", template("steps.dilute_add.brine_name"), "water", made.brine_g), "dilute_add.brine",
                     phase="add")  # fmt: skip
    said = say(
        "dilute_bottle.text", bottles=number(made.bottles), volume=number(made.bottle_ml, 0, "mL"),
        grams=weight(made.bottle_ml * made.density_g_per_ml, 0),
    )  # fmt: skip
    yield step("dilute-bottle", "pack", "pack", joined_sentences([said, say(f"dilute_bottle.{plan.style}")]))
    months = (
        number(made.shelf_months, 0, "months")
        if made.shelf_months >= 1
        else number(30.44 * made.shelf_months, 0, "days")
    )
    yield step("dilute-label", "pack", "do", say("dilute_label.text", keeps=months))


def _ph_words(plan: DilutionPlan) -> Text:
    if plan.preservative is None:
        return say("dilute_ph.text")
    row = preservatives()[plan.preservative.preservative]
    high = row.ph_high if plan.preservative.ph_high is None else plan.preservative.ph_high
    return joined_sentences([say("dilute_ph.text"), say("dilute_ph.preservative", name=row.name, high=number(high))])


def melting_steps(plan: RebatchPlan, made: MeltedSoap) -> Iterator[Step]:
    """Soap grated, melted slowly, tested if it was cooked, pressed into moulds."""
    checks = ("grater", "cooker", "moulds")
    caustic = plan.is_lye_heavy
    if caustic:
        yield step(
            "protect",
            "gear",
            "confirm",
            say("rebatch_protect.text"),
            caustic=True,
            checks=("goggles", "gloves", "alone"),
        )
    yield step("rebatch-ready", "gear", "confirm", say("rebatch_ready.text"), checks=checks, caustic=caustic)
    yield _weigh(
        _target("soap", template("steps.rebatch_ready.soap_name"), "oil", made.soap_g),
        "rebatch_ready.soap",
        caustic=caustic,
    )
    if made.liquid_g > 0:
        name = template(f"steps.rebatch_ready.{plan.liquid}")
        yield _weigh(_target("liquid", name, "liquid", made.liquid_g), "rebatch_ready.liquid", caustic=caustic)
    if made.oil_g > 0:
        yield _weigh(
            _target("oil", template("steps.rebatch_ready.oil_name"), "oil", made.oil_g),
            "rebatch_ready.oil",
            caustic=caustic,
        )
    heat = Temperature(c=coefficient("cook.low_c"), to_c=coefficient("cook.high_c"))
    yield step(
        "rebatch-melt", "cook", "stages", say("rebatch_melt.text", heat=heat), caustic=caustic,
        stages=tuple(stage("rebatch_melt", one) for one in ("dry", "wet", "even")), timer_minutes=(15.0,),
        if_needed=(say("rebatch_melt.dry_now"), say("rebatch_melt.foams")),
    )  # fmt: skip
    if caustic:
        yield zap_test("cook")
    yield step("rebatch-mould", "pour", "do", say("rebatch_mould.text"))
    yield step("rebatch-dry", "wash_up", "do", say("rebatch_dry.text"))


def dissolving_steps(plan: MasterLyePlan, made: DissolvedLye) -> Iterator[Step]:
    """Lye into water, slowly, cooled, labelled and locked away."""
    kind = {"naoh": "NaOH", "koh": "KOH"}[plan.lye]
    if made.lye_g >= coefficient("lye.much_g"):
        yield step("spill-plan", "gear", "confirm", say("spill_plan.text"), checks=("second_person", "spill", "rinse"))
    yield step("gear", "gear", "confirm", say("gear.text"), checks=("clothes", "air", "time", "containers"))
    yield _weigh(_target("water", template("steps.water"), "water", made.water_g), "weigh.water")
    yield step(
        "protect", "weigh_lye", "confirm", say("protect.text"), caustic=True, checks=("goggles", "gloves", "alone")
    )
    yield _weigh(_target(f"lye:{plan.lye}", kind, "lye", made.lye_g, LYE_TOLERANCE_PERCENT), "weigh.lye", caustic=True,
                 phase="weigh_lye")  # fmt: skip
    peak = Temperature(c=made.peak.low_c, to_c=made.peak.high_c)
    said = [say("make_lye.dry"), say("make_lye.boils" if made.peak.boils else "make_lye.peak", peak=peak)]
    yield step("make-lye", "make_lye", "do", joined_sentences(said), caustic=True, checks=("protected", "stands_firm"))
    yield step("master-cool", "cool", "do", say("master_cool.text"), caustic=True)
    yield step(
        "master-store", "wash_up", "do",
        say("master_store.text", name=kind, concentration=percent(made.concentration_percent, 0),
            purity=percent(given(plan.purity_percent), 1)),
        caustic=True,
    )  # fmt: skip


def blending_steps(plan: MasterBlendPlan, made: BlendedOils) -> Iterator[Step]:
    """Hard fats melted, the rest stirred in, labelled with its shares."""
    yield step("blend-ready", "gear", "confirm", say("blend_ready.text"), checks=("vessel", "clean"))
    for i, oil in enumerate(made.oils):
        yield _weigh(_target(f"oil:{i}", oil.name, "oil", oil.weight_g), "blend_ready.oil")
    names = listed([oil.name.lower() for oil in made.oils if oil.is_hard] or [made.hardest.lower()])
    warm = Temperature(c=made.melts_c + ABOVE_MELTING_C)
    yield step("blend-melt", "melt", "do", say("blend_melt.text", names=names, warm=warm))
    shares = listed([f"{part.name} {100 * part.weight_g / made.total_g:.1f} %" for part in made.oils])
    yield step("blend-label", "wash_up", "do", say("blend_label.text", name=plan.name, shares=shares))
