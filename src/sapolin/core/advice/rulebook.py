"""The rule book: what can go wrong with a batch, each with its condition and how grave it is.

Quiet when nothing is wrong. Limits are rules of thumb and live in :mod:`sapolin.core.quantities.coefficients`; the words (what
it is, why it matters, what to do) in the catalogue of messages.
"""

from collections.abc import Callable, Iterator

from sapolin.core.advice.rules import Condition, Facts, Rule
from sapolin.core.bar.expectations import WEEKS_OF_A_YEAR
from sapolin.core.bar.paste import paste_result
from sapolin.core.bar.qualities import qualities
from sapolin.core.formula.composition import AdditiveComponent
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.diagnostics import Diagnostic, Severity, diagnostic
from sapolin.core.quantities.text import Temperature, as_sentence, listed, number, percent, template

__all__ = ["RULES", "TARGET_RANGE_CODES"]

RULES: list[Rule] = []
"""Every rule, in the order they are asked."""

SUPERFAT = "superfat_total_percent"


def _rule(rule_id: str) -> Callable[[Condition], Condition]:
    def add(condition: Condition) -> Condition:
        RULES.append(Rule(rule_id, condition))
        return condition

    return add


# -- lye and superfat -------------------------------------------------------------------------------------------------


@_rule("may_be_lye_heavy")
def _may_be_lye_heavy(facts: Facts) -> Iterator[Diagnostic]:
    superfat = facts.result.lye.superfat_interval
    if facts.purpose.negative_superfat or superfat.low_percent >= 0:
        return
    grave = superfat.chance_lye_heavy_percent >= coefficient("lye_heavy.danger_chance")
    largest = superfat.contributors[0]
    # What is never meant for skin, or made to be clear, is usually that near to zero: its test decides before it is used.
    if facts.purpose.usual_superfat_minimum_percent <= 0 <= round(facts.conditions.superfat_percent, 2):
        yield diagnostic(
            "near_zero_superfat", "warning" if grave else "note", quantity=SUPERFAT, low=percent(superfat.low_percent, 1),
            high=percent(superfat.high_percent, 1), purpose=facts.purpose.name.lower(),
            test=template("near_zero_test.ph" if facts.purpose.makes == "paste" else "near_zero_test.zap"),
        )  # fmt: skip
        return
    yield diagnostic(
        "may_be_lye_heavy", "problem" if grave else "warning", stops="making" if grave else "", quantity=SUPERFAT,
        low=percent(superfat.low_percent, 1), high=percent(superfat.high_percent, 1), largest=largest.label,
        part=percent(largest.percent, 0),
    )  # fmt: skip


@_rule("coarse_scale")
def _coarse_scale(facts: Facts) -> Iterator[Diagnostic]:
    interval = facts.result.lye.superfat_interval
    part = next((cause.percent for cause in interval.contributors if cause.cause == "scale"), 0.0)
    width = interval.high_percent - interval.low_percent
    if part >= coefficient("scale.matters_from_part") and width >= coefficient("scale.matters_from_width"):
        known = facts.formula.scale_step_g is not None
        yield diagnostic(
            "coarse_scale" if known else "scale_not_entered", "warning" if known else "note", "scale_step_g",
            quantity=SUPERFAT, part=percent(part, 0), low=percent(interval.low_percent, 1),
            high=percent(interval.high_percent, 1),
        )  # fmt: skip


@_rule("strong_lye")
def _strong_lye(facts: Facts) -> Iterator[Diagnostic]:
    concentration = facts.conditions.lye_concentration_percent
    if concentration > coefficient("limit.strong_lye_concentration"):
        yield diagnostic(
            "strong_lye", "warning", quantity="lye_concentration_percent", concentration=percent(concentration, 0)
        )


@_rule("unusual_superfat")
def _unusual_superfat(facts: Facts) -> Iterator[Diagnostic]:
    total, purpose = facts.conditions.superfat_percent, facts.purpose
    low, high = purpose.usual_superfat_minimum_percent, purpose.usual_superfat_maximum_percent
    if not facts.composition.is_lye_heavy and not low - 0.05 <= total <= high + 0.05:
        yield diagnostic(
            "unusual_superfat", "note", quantity=SUPERFAT, superfat=percent(total, 1), purpose=purpose.name.lower(),
            low=number(low), high=percent(high),
        )  # fmt: skip


@_rule("lye_consumed")
def _lye_consumed(facts: Facts) -> Iterator[Diagnostic]:
    for consumed in facts.composition.consumed:
        raised = 100 * consumed.mol / facts.composition.fats_mol
        if not consumed.compensated and raised >= 0.1:
            yield diagnostic(
                "lye_consumed", "warning" if raised >= 2 else "note", consumed.path, quantity=SUPERFAT,
                name=consumed.name, points=number(raised, 1),
            )  # fmt: skip


@_rule("late_oil")
def _late_oil(facts: Facts) -> Iterator[Diagnostic]:
    late = [component for component in facts.composition.oils if component.added != "start"]
    if late:
        names = listed([component.oil.name for component in late])
        share = percent(sum(component.share_percent for component in late), 1)
        yield diagnostic("late_oil", "note", quantity=SUPERFAT, names=names, share=share)


# -- the blend --------------------------------------------------------------------------------------------------------


TARGET_RANGE_CODES = ("above_target_range", "below_target_range", "missing_from_blend")
"""What says that a quality lies outside its target range."""
LEAST_GIVEN_POINTS = 0.05
"""What is shown as no points is given by no oil."""


@_rule("outside_target_range")
def _outside_target_range(facts: Facts) -> Iterator[Diagnostic]:
    names = [component.oil.name for component in facts.composition.fats]
    for quality, result in facts.qualities.items():
        target_range = result.target_range
        if target_range is None or result.outside_by <= 0:
            continue
        given, giver = max(zip(result.contributions, names, strict=True))
        below = "below_target_range" if result.points >= LEAST_GIVEN_POINTS else "missing_from_blend"
        yield diagnostic(
            "above_target_range" if result.standing == "above" else below, "warning", quantity=quality,
            quality=qualities()[quality].name, gap=number(result.outside_by, 1), oil=giver, given=number(given, 1),
            points=number(result.points, 1), minimum=number(target_range.minimum), maximum=number(target_range.maximum),
        )  # fmt: skip


@_rule("see_saw")
def _see_saw(facts: Facts) -> Iterator[Diagnostic]:
    stands = {facts.qualities["hardness"].standing, facts.qualities["conditioning"].standing}
    if stands == {"above", "below"}:
        yield diagnostic("see_saw", "note")


@_rule("unknown_profile")
def _unknown_profile(facts: Facts) -> Iterator[Diagnostic]:
    unknown = [component for component in facts.composition.oils if component.oil.known_profile_percent < 100]
    share = sum(component.share_percent * (100 - component.oil.known_profile_percent) / 100 for component in unknown)
    if share > 0:
        names = listed([component.oil.name for component in unknown])
        yield diagnostic("unknown_profile", "warning", share=percent(share, 1), names=names)


@_rule("rancidity")
def _rancidity(facts: Facts) -> Iterator[Diagnostic]:
    load = facts.points("oxidation_load")
    target_range = facts.qualities["oxidation_load"].target_range
    bar = facts.result.bar
    if bar is not None and bar.shelf_months * WEEKS_OF_A_YEAR / 12 < bar.usable_weeks:
        yield diagnostic(
            "rancid_within_weeks", "warning", quantity="oxidation_load", months=number(bar.shelf_months, 0)
        )
        return
    if load <= coefficient("limit.rancid_load"):
        return
    if target_range is None or load <= target_range.maximum:
        yield diagnostic("rancidity", "warning", quantity="oxidation_load", load=number(load, 0))
    elif facts.result.bar is not None:
        months = facts.result.bar.shelf_months
        code = "rancid_after_months" if months > coefficient("shelf.least_months") else "rancid_within_weeks"
        yield diagnostic(code, "warning", quantity="oxidation_load", months=number(months, 0))


@_rule("much_castor")
def _much_castor(facts: Facts) -> Iterator[Diagnostic]:
    castor = facts.share_percent(lambda component: component.oil.group == "ricinoleic")
    if facts.makes_bar and castor > coefficient("limit.castor_percent"):
        yield diagnostic("much_castor", "warning", quantity="acid:C18:1-OH", share=percent(castor, 1))


@_rule("brittle")
def _brittle(facts: Facts) -> Iterator[Diagnostic]:
    hardness, lasting = facts.points("hardness"), facts.points("wear_life")
    if not facts.makes_bar:
        return
    if lasting > coefficient("limit.brittle_long_saturated"):
        yield diagnostic("brittle", "warning", quantity="wear_life", points=number(lasting, 0))
    elif hardness > coefficient("limit.brittle_hardness"):
        target_range = facts.qualities["hardness"].target_range
        wanted = target_range is not None and target_range.maximum >= hardness
        severity: Severity = "note" if wanted else "warning"
        yield diagnostic("crumbles_if_cut_late", severity, quantity="hardness", points=number(hardness, 0))


@_rule("slimy")
def _slimy(facts: Facts) -> Iterator[Diagnostic]:
    oleic = facts.acids["C18:1"]
    if (
        facts.makes_bar
        and oleic > coefficient("limit.slimy_oleic")
        and facts.points("cleansing") < coefficient("limit.slimy_cleansing")
        and facts.conditions.koh_percent < coefficient("limit.slimy_koh_percent")
    ):
        yield diagnostic("slimy", "note", quantity="acid:C18:1", oleic=percent(oleic, 0))


@_rule("drying")
def _drying(facts: Facts) -> Iterator[Diagnostic]:
    spare = max(facts.conditions.superfat_percent - coefficient("superfat.usual"), 0.0)
    allowed = coefficient("limit.drying_cleansing") + coefficient("limit.drying_per_superfat") * spare
    cleansing = facts.points("cleansing")
    target_range = facts.qualities["cleansing"].target_range
    wanted = target_range is not None and target_range.maximum >= cleansing
    if facts.purpose.for_skin and cleansing > allowed and not wanted:
        yield diagnostic("drying", "warning", quantity="cleansing", points=number(cleansing, 0))


@_rule("sticky")
def _sticky(facts: Facts) -> Iterator[Diagnostic]:
    if (
        facts.makes_bar
        and facts.points("hardness") < coefficient("limit.sticky_hardness")
        and facts.conditions.lye_concentration_percent < coefficient("limit.sticky_lye_concentration")
    ):
        yield diagnostic("sticky", "note", quantity="hardness")


@_rule("much_wax")
def _much_wax(facts: Facts) -> Iterator[Diagnostic]:
    wax = facts.share_percent(lambda component: component.oil.kind == "wax" and component.oil.is_hard)
    if wax > coefficient("limit.wax_percent"):
        yield diagnostic("much_wax", "warning", share=percent(wax, 1))


@_rule("hardly_dissolves")
def _hardly_dissolves(facts: Facts) -> Iterator[Diagnostic]:
    soluble, needed = facts.conditions.soluble_percent, coefficient("solubility.needs_percent")
    if facts.makes_bar and soluble < needed:
        yield diagnostic(
            "hardly_dissolves",
            "warning",
            quantity="dense_lather",
            soluble=percent(soluble, 0),
            needed=percent(needed, 0),
        )


@_rule("lime_soap")
def _lime_soap(facts: Facts) -> Iterator[Diagnostic]:
    taken, water = facts.conditions.calcium_takes, facts.conditions.wash_water
    if taken >= coefficient("lime.medium_loss"):
        yield diagnostic(
            "lime_soap", "note", quantity="open_lather",
            water=template(f"waters.{water}"), taken=percent(100 * taken, 0),
        )  # fmt: skip


@_rule("free_acids")
def _free_acids(facts: Facts) -> Iterator[Diagnostic]:
    acid = facts.share_percent(lambda component: component.oil.kind == "free_acid")
    if facts.conditions.method == "cold" and acid > coefficient("limit.free_acid_percent"):
        yield diagnostic("free_acids", "warning", share=percent(acid, 1))


@_rule("soft_koh_bar")
def _soft_koh_bar(facts: Facts) -> Iterator[Diagnostic]:
    koh = facts.conditions.koh_percent
    shaving = facts.purpose.id == "shaving"
    if facts.purpose.makes == "bar" and koh > coefficient("limit.soft_koh_percent") and not shaving:
        yield diagnostic("soft_koh_bar", "note", koh=percent(koh, 0))


# -- what must not be in it -------------------------------------------------------------------------------------------


def _holders(facts: Facts, unwanted: str) -> tuple[list[str], list[str]]:
    """Names of what holds `unwanted`, and of what may hold it."""
    surely: list[str] = []
    perhaps: list[str] = []
    for component in facts.composition.pure_oils:
        oil = component.oil
        if unwanted == "palm":
            (surely if oil.palm_derived == "yes" else perhaps if oil.palm_derived == "maybe" else []).append(oil.name)
        elif unwanted == "animal":
            (surely if oil.vegan == "no" else perhaps if oil.vegan == "maybe" else []).append(oil.name)
        elif unwanted in oil.allergen_groups:
            surely.append(oil.name)
    for component in facts.composition.oils:
        if component.oil.components and unwanted in component.oil.allergen_groups and not surely:
            surely.append(component.oil.name)
    for item in (*facts.composition.liquids, *facts.composition.additives):
        if unwanted == "palm" and isinstance(item, AdditiveComponent):
            origin = item.additive.palm_derived
            (surely if origin == "yes" else perhaps if origin == "maybe" else []).append(item.row.name)
        groups = {word.strip().partition(" (")[0] for word in item.row.allergens.split(";")}
        if unwanted == "animal":
            (surely if item.row.vegan == "no" else perhaps if item.row.vegan == "maybe" else []).append(item.row.name)
        elif unwanted in groups:
            surely.append(item.row.name)
    return surely, perhaps


MATTERS_OF_PRINCIPLE = ("palm", "animal")
"""What is left out on principle; all else that a soap is free of may make someone ill."""


@_rule("unwanted")
def _unwanted(facts: Facts) -> Iterator[Diagnostic]:
    for unwanted in facts.formula.free_of:
        surely, perhaps = _holders(facts, unwanted)
        name = template(f"unwanted.{unwanted}")
        if surely and unwanted in MATTERS_OF_PRINCIPLE:
            yield diagnostic("unwanted", "warning", name=name, holders=listed(surely))
        elif surely:
            yield diagnostic("unwanted", "problem", stops="making", name=name, holders=listed(surely))
        if perhaps:
            yield diagnostic("perhaps_unwanted", "warning", name=name, holders=listed(perhaps))


# -- liquids, additives and heat --------------------------------------------------------------------------------------


@_rule("scorching")
def _scorching(facts: Facts) -> Iterator[Diagnostic]:
    for i, item in enumerate(facts.composition.liquids):
        if (
            item.use == "dissolves_lye"
            and item.weight_g > 0
            and item.liquid.scorches == "yes"
            and not item.liquid.is_egg
        ):
            yield diagnostic("scorching", "warning", f"liquids[{i}]", name=item.liquid.name)


@_rule("egg_in_lye")
def _egg_in_lye(facts: Facts) -> Iterator[Diagnostic]:
    for i, item in enumerate(facts.composition.liquids):
        if item.use == "dissolves_lye" and item.weight_g > 0 and item.liquid.is_egg:
            yield diagnostic("egg_in_lye", "warning", f"liquids[{i}]", name=item.liquid.name)


@_rule("milk_too_warm")
def _milk_too_warm(facts: Facts) -> Iterator[Diagnostic]:
    celsius = facts.formula.process.batter_temperature_c
    milks = [
        item.liquid.name for item in facts.composition.liquids if item.liquid.scorches == "yes" and item.weight_g > 0
    ]
    limit = coefficient("limit.milk_temperature_c")
    if facts.conditions.method == "cold" and milks and celsius is not None and celsius > limit:
        yield diagnostic(
            "milk_too_warm", "warning", "process.batter_temperature_c", names=listed(milks), temperature=Temperature(c=celsius),
            limit=Temperature(c=limit),
        )  # fmt: skip


@_rule("overheating")
def _overheating(facts: Facts) -> Iterator[Diagnostic]:
    conditions = facts.conditions
    forced = conditions.gel == "encouraged" or conditions.method == "hot"
    limit = coefficient("limit.heat_sugar_with_gel_percent" if forced else "limit.heat_sugar_percent")
    if conditions.sugar_percent > limit:
        code = "overheating_with_gel" if forced else "overheating"
        yield diagnostic(code, "warning", sugar=percent(conditions.sugar_percent, 1))


@_rule("false_trace")
def _false_trace(facts: Facts) -> Iterator[Diagnostic]:
    celsius = facts.formula.process.batter_temperature_c
    if celsius is None:
        return
    setting = [
        component.oil for component in facts.composition.pure_oils
        if component.oil.melting_c.typical > celsius
        and (component.share_percent >= 5 or component.oil.kind != "triglyceride")
    ]  # fmt: skip
    if setting:
        hardest = max(setting, key=lambda oil: oil.melting_c.typical)
        yield diagnostic(
            "false_trace", "warning", "process.batter_temperature_c", name=hardest.name,
            melts=Temperature(c=hardest.melting_c.typical), temperature=Temperature(c=celsius),
        )  # fmt: skip


@_rule("additive_over_usual")
def _additive_over_usual(facts: Facts) -> Iterator[Diagnostic]:
    for i, item in enumerate(facts.composition.additives):
        row, rate = item.additive, 100 * item.weight_g / facts.composition.oils_g
        if row.role != "salt" and rate > row.usual_maximum_percent * 1.0001:
            caution = as_sentence(row.cautions)
            yield diagnostic(
                "additive_over_usual" if caution else "additive_over_usual_plain", "warning", f"additives[{i}].value",
                name=row.name, rate=percent(rate, 2), low=number(row.usual_minimum_percent),
                high=percent(row.usual_maximum_percent), caution=caution,
            )  # fmt: skip


@_rule("thinner_already")
def _thinner_already(facts: Facts) -> Iterator[Diagnostic]:
    asked = facts.formula.dilution.soap_percent if facts.formula.dilution is not None else None
    if facts.purpose.makes == "paste" and asked is not None:
        paste = paste_result(facts.composition, asked)
        if paste.diluted is None:
            yield diagnostic(
                "thinner_already", "note", "dilution.soap_percent", soap=percent(paste.soap_percent, 0), asked=percent(asked)
            )  # fmt: skip


@_rule("preservative")
def _preservative(facts: Facts) -> Iterator[Diagnostic]:
    if facts.formula.dilution is not None:
        yield diagnostic("preservative", "note", "dilution")
