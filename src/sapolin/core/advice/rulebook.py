"""The rule book: what can go wrong with a batch, each with its condition, severity, reason and remedy.

Quiet when nothing is wrong. Limits are rules of thumb and live in :mod:`sapolin.core.quantities.coefficients`.
"""

from collections.abc import Callable, Iterator, Sequence

from sapolin.core.advice.rules import Condition, Facts, Found, Rule, Severity
from sapolin.core.bar.paste import paste_result
from sapolin.core.bar.qualities import qualities
from sapolin.core.formula.document import LiquidLine
from sapolin.core.materials.ingredients import Additive, Liquid
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.units import short

__all__ = ["RULES"]

RULES: list[Rule] = []
"""Every rule, in the order they are asked."""


def _rule(rule_id: str, severity: Severity, reason: str, remedy: str) -> Callable[[Condition], Condition]:
    def add(condition: Condition) -> Condition:
        RULES.append(Rule(rule_id, severity, reason, remedy, condition))
        return condition

    return add


def _names(components: Sequence[str]) -> str:
    return components[0] if len(components) == 1 else ", ".join(components[:-1]) + " and " + components[-1]


# -- lye and superfat -------------------------------------------------------------------------------------------------


@_rule(
    "true_superfat_below_zero", "watch",
    "SAP values vary in nature, lye loses lye concentration and scales step; together they reach below zero.",
    "Raise the superfat, weigh on a finer scale, or use the supplier's certificate for what is least sure.",
)  # fmt: skip
def _true_superfat(facts: Facts) -> Iterator[Found]:
    chance = facts.superfat.chance_lye_heavy_percent
    if facts.purpose.negative_superfat or chance < coefficient("lye_heavy.watch_chance"):
        return
    danger = chance >= coefficient("lye_heavy.danger_chance")
    likely = f"about 1 batch in {round(100 / chance)}" if chance < 40 else f"about {chance:.0f} in 100 batches"
    largest = facts.superfat.contributors[0]
    yield Found(
        f"{likely[0].upper()}{likely[1:]} would be lye-heavy.",
        severity="danger" if danger else "watch", quantity="superfat_total_percent",
        reason=f"The true superfat may be as low as {facts.superfat.low_percent:.1f} %. Most of it comes from "
        f"{largest.label} ({largest.percent:.0f} %).".replace("-", "−"),
    )  # fmt: skip


@_rule(
    "strong_lye", "watch", "Crystals may stay behind in the solution, and trace comes fast.",
    "Dissolve patiently, strain the lye, and have the moulds ready; or use a little more water.",
)  # fmt: skip
def _strong_lye(facts: Facts) -> Iterator[Found]:
    concentration = facts.work.lye_concentration_percent
    if concentration > coefficient("limit.strong_lye_concentration"):
        yield Found(
            f"A {concentration:.0f} % lye is near the most that dissolves.", quantity="lye_concentration_percent"
        )


@_rule(
    "unusual_superfat", "note", "More is milder, softer and lathers less; less washes harder.",
    "Keep it if you mean it.",
)  # fmt: skip
def _unusual_superfat(facts: Facts) -> Iterator[Found]:
    total, purpose = facts.work.superfat_percent, facts.purpose
    low, high = purpose.usual_superfat_minimum_percent, purpose.usual_superfat_maximum_percent
    if total >= 0 and not low - 0.05 <= total <= high + 0.05:
        yield Found(
            f"Superfat {short(total)} % is unusual for {purpose.name.lower()}: {low:g} to {high:g} % is usual.",
            quantity="superfat_total_percent",
        )  # fmt: skip


@_rule(
    "lye_consumed", "note", "It takes lye before the fats get any, so more oil stays free.",
    "Add the lye back, or count it as superfat.",
)  # fmt: skip
def _lye_consumed(facts: Facts) -> Iterator[Found]:
    for consumed in facts.composition.consumed:
        raised = 100 * consumed.mol / facts.composition.fats_mol
        if not consumed.compensated and raised >= 0.1:
            yield Found(
                f"{consumed.name} raises the superfat by {raised:.1f} points.", quantity="superfat_total_percent",
                severity="watch" if raised >= 2 else "note",
            )  # fmt: skip


@_rule(
    "late_oil", "note", "In cold process the lye does not choose: the total superfat is what counts.",
    "Count the total; after a cook, what goes in late mostly stays whole.",
)  # fmt: skip
def _late_oil(facts: Facts) -> Iterator[Found]:
    late = [
        component for component, line in zip(facts.components, facts.formula.blend.lines, strict=True) if line.added != "start"
    ]  # fmt: skip
    if late:
        names = _names([component.oil.name for component in late])
        share = sum(component.share_percent for component in late)
        yield Found(f"{names}, going in late, brings {short(share)} % of oil without lye of its own.",
                    quantity="superfat_total_percent")  # fmt: skip


@_rule(
    "lye_heavy_on_purpose", "danger", "There is more lye than fat can take. It burns skin and eyes.",
    "Neutralise it, and test that it no longer zaps, before anyone touches it.",
)  # fmt: skip
def _lye_heavy_on_purpose(facts: Facts) -> Iterator[Found]:
    if facts.work.superfat_percent < 0:
        yield Found(f"Lye-heavy by {short(-facts.work.superfat_percent)} %.", quantity="superfat_total_percent")


# -- the blend --------------------------------------------------------------------------------------------------------


@_rule("outside_target_range", "watch", "", "")
def _outside_target_range(facts: Facts) -> Iterator[Found]:
    names = [component.oil.name for component in facts.components]
    for quality, result in facts.qualities.items():
        target_range = result.target_range
        if target_range is None or result.outside_by <= 0:
            continue
        above = result.standing == "above"
        given, giver = max(zip(result.contributions, names, strict=True))
        yield Found(
            f"{qualities()[quality].name} is {result.outside_by:.1f} {'over' if above else 'under'} your target range.",
            quantity=quality,
            reason=f"{giver} gives {given:.1f} of the {result.points:.1f} points." if above
            else f"The most comes from {giver}: {given:.1f} of {result.points:.1f} points.",
            remedy=f"The target range is {target_range.minimum:g} to {target_range.maximum:g}.",
        )  # fmt: skip


@_rule(
    "see_saw", "note", "Settle one and the other nearly follows; both cannot be raised together.",
    "Choose which of them matters more for this bar.",
)  # fmt: skip
def _see_saw(facts: Facts) -> Iterator[Found]:
    stands = {facts.qualities["hardness"].standing, facts.qualities["conditioning"].standing}
    if stands == {"above", "below"}:
        yield Found("Hardness and conditioning are two ends of one see-saw.")


@_rule(
    "unknown_profile", "watch", "Its lye can be calculated, its part in the qualities cannot.",
    "Enter its fatty acids; the certificate or the supplier has them.",
)  # fmt: skip
def _unknown_profile(facts: Facts) -> Iterator[Found]:
    unknown = [component for component in facts.components if component.oil.known_profile_percent < 100]
    share = sum(component.share_percent * (100 - component.oil.known_profile_percent) / 100 for component in unknown)
    if share > 0:
        names = _names([component.oil.name for component in unknown])
        yield Found(f"The fatty acids of {short(share)} % of the blend are unknown ({names}).")


@_rule(
    "rancidity", "watch", "Linoleic and linolenic acid go rancid: orange spots and an off smell.",
    "Swap some of the oils that bring them, lower the superfat, or add an antioxidant to the oils.",
)  # fmt: skip
def _rancidity(facts: Facts) -> Iterator[Found]:
    load = facts.points("oxidation_load")
    target_range = facts.qualities["oxidation_load"].target_range
    if load > coefficient("limit.rancid_load") and (target_range is None or load <= target_range.maximum):
        yield Found(f"An oxidation load of {load:.0f} is high.", quantity="oxidation_load")
    elif load > coefficient("limit.rancid_load") and facts.bar is not None:
        months = facts.bar.shelf_months
        when = f"after about {months:.0f} months" if months > coefficient("shelf.least_months") else "within weeks"
        yield Found(f"Expect orange spots {when}.", quantity="oxidation_load")


@_rule(
    "much_castor", "watch", "Bars turn sticky and trace comes fast.", "5 to 8 % hold the lather as well.",
)  # fmt: skip
def _much_castor(facts: Facts) -> Iterator[Found]:
    castor = facts.share_percent(lambda component: component.oil.group == "ricinoleic")
    if facts.bar is not None and castor > coefficient("limit.castor_percent"):
        yield Found(f"Castor at {short(castor)} % is a lot.", quantity="acid:C18:1-OH")


@_rule(
    "brittle", "watch", "Saturated bars set hard and crack or crumble under the wire.",
    "Cut early and warm, pour into single cavities, or give more share to a liquid oil.",
)  # fmt: skip
def _brittle(facts: Facts) -> Iterator[Found]:
    hardness, lasting = facts.points("hardness"), facts.points("wear_life")
    if facts.bar is None:
        return
    if lasting > coefficient("limit.brittle_long_saturated"):
        yield Found(f"Long saturated acids at {lasting:.0f} points make a brittle bar.", quantity="wear_life")
    elif hardness > coefficient("limit.brittle_hardness"):
        yield Found(f"At {hardness:.0f} points of hardness the bar crumbles if cut late.", quantity="hardness")


@_rule(
    "slimy", "note", "Sodium oleate swells to a gel in a wet dish.",
    "5 to 10 % KOH, a few points of coconut, or a year's cure take the slime away.",
)  # fmt: skip
def _slimy(facts: Facts) -> Iterator[Found]:
    oleic = facts.acids["C18:1"]
    if (
        facts.bar is not None
        and oleic > coefficient("limit.slimy_oleic")
        and facts.points("cleansing") < coefficient("limit.slimy_cleansing")
        and facts.work.koh_percent < coefficient("limit.slimy_koh_percent")
    ):
        yield Found(f"{oleic:.0f} % oleic acid: the bar will string and slime.", quantity="acid:C18:1")


@_rule(
    "drying", "watch", "Strong cleansing lifts the skin's own oil.",
    "Lower the coconut-like oils, or raise the superfat: each point covers about one of cleansing.",
)  # fmt: skip
def _drying(facts: Facts) -> Iterator[Found]:
    spare = max(facts.work.superfat_percent - coefficient("superfat.usual"), 0.0)
    allowed = coefficient("limit.drying_cleansing") + coefficient("limit.drying_per_superfat") * spare
    cleansing = facts.points("cleansing")
    target_range = facts.qualities["cleansing"].target_range
    wanted = target_range is not None and target_range.maximum >= cleansing
    if facts.purpose.for_skin and cleansing > allowed and not wanted:
        yield Found(f"Cleansing at {cleansing:.0f} dries skin at this superfat.", quantity="cleansing")


@_rule(
    "sticky", "note", "Soft, wet batter clings to its mould.",
    "Less water, sodium lactate, a warm gel, or simply more days before unmoulding.",
)  # fmt: skip
def _sticky(facts: Facts) -> Iterator[Found]:
    if (
        facts.bar is not None
        and facts.points("hardness") < coefficient("limit.sticky_hardness")
        and facts.work.lye_concentration_percent < coefficient("limit.sticky_lye_concentration")
    ):
        yield Found("A soft blend in much water will stick to its mould.", quantity="hardness")


@_rule(
    "much_wax", "watch", "Waxes hold half of themselves back from the soap: they drag on the skin and still the lather.",
    "1 to 2 % is plenty.",
)  # fmt: skip
def _much_wax(facts: Facts) -> Iterator[Found]:
    wax = facts.share_percent(lambda component: component.oil.kind == "wax" and component.oil.is_hard)
    if wax > coefficient("limit.wax_percent"):
        yield Found(f"{short(wax)} % of hard wax is a lot.")


@_rule(
    "free_acids", "watch", "Free fatty acids make soap at once: the batter seizes in cold process.",
    "Soap hot, add them last and melted, or keep them under a few percent.",
)  # fmt: skip
def _free_acids(facts: Facts) -> Iterator[Found]:
    acid = facts.share_percent(lambda component: component.oil.kind == "free_acid")
    if facts.work.method == "cold" and acid > coefficient("limit.free_acid_percent"):
        yield Found(f"{short(acid)} % of free fatty acids.")


@_rule(
    "soft_koh_bar", "note", "Potassium soap stays soft.", "Choose a paste as the purpose, or 5 to 10 % KOH for a bar.",
)  # fmt: skip
def _soft_koh_bar(facts: Facts) -> Iterator[Found]:
    koh = facts.work.koh_percent
    shaving = facts.purpose.id == "shaving"
    if facts.purpose.makes == "bar" and koh > coefficient("limit.soft_koh_percent") and not shaving:
        yield Found(f"With {koh:.0f} % KOH this is not going to be a hard bar.")


# -- what must not be in it --------------------------------------------------------------------------------------------


def _holders(facts: Facts, unwanted: str) -> tuple[list[str], list[str]]:
    """Names of what holds `unwanted`, and of what may hold it."""
    surely: list[str] = []
    perhaps: list[str] = []
    for component in facts.pure_components:
        oil = component.oil
        if unwanted == "palm":
            (surely if oil.palm_derived == "yes" else perhaps if oil.palm_derived == "maybe" else []).append(oil.name)
        elif unwanted == "animal":
            (surely if oil.vegan == "no" else perhaps if oil.vegan == "maybe" else []).append(oil.name)
        elif unwanted in oil.allergen_groups:
            surely.append(oil.name)
    for component in facts.components:
        if component.oil.components and unwanted in component.oil.allergen_groups and not surely:
            surely.append(component.oil.name)
    for item in (*facts.composition.liquids, *facts.composition.additives):
        groups = {word.strip().partition(" (")[0] for word in item.of.allergens.split(";")}
        if unwanted == "animal":
            (surely if item.of.vegan == "no" else perhaps if item.of.vegan == "maybe" else []).append(item.of.name)
        elif unwanted in groups:
            surely.append(item.of.name)
    return surely, perhaps


@_rule(
    "unwanted", "danger", "This soap is meant to do without it.", "Swap it for something else, or ask whoever it is for.",
)  # fmt: skip
def _unwanted(facts: Facts) -> Iterator[Found]:
    words = {"palm": "Palm", "animal": "Animal fat or product"}
    for unwanted in facts.formula.free_of:
        surely, perhaps = _holders(facts, unwanted)
        name = words.get(unwanted, unwanted.capitalize())
        severity: Severity = "watch" if unwanted in words else "danger"
        if surely:
            yield Found(f"{name} is in this soap: {_names(surely)}.", severity=severity)
        if perhaps:
            yield Found(f"{name} may be in this soap: {_names(perhaps)}.", severity="watch",
                        remedy="Ask the supplier where it comes from.")  # fmt: skip


# -- liquids, additives and heat ---------------------------------------------------------------------------------------


@_rule(
    "scorching", "watch", "Sugar and protein brown and curdle in hot lye: orange and curdled is scorched.",
    "Freeze it and add the lye slowly in an ice bath; or dissolve the lye in its own weight of water and add the rest "
    "to the oils or at trace.",
)  # fmt: skip
def _scorching(facts: Facts) -> Iterator[Found]:
    for item in facts.composition.liquids:
        meets_lye = isinstance(item.line, LiquidLine) and item.line.use == "dissolves_lye"
        if meets_lye and isinstance(item.of, Liquid) and item.weight_g > 0 and item.of.scorches == "yes":
            yield Found(f"{item.of.name} meets the lye: it scorches.")


@_rule(
    "milk_too_warm", "watch", "Milk browns and smells in a warm batter.", "Soap below 32 °C, and keep the mould cool.",
)  # fmt: skip
def _milk_too_warm(facts: Facts) -> Iterator[Found]:
    temperature = facts.formula.process.batter_temperature_c
    milks = [
        item.of.name for item in facts.composition.liquids
        if isinstance(item.of, Liquid) and item.of.scorches == "yes" and item.weight_g > 0
    ]  # fmt: skip
    limit = coefficient("limit.milk_temperature_c")
    cold = facts.work.method == "cold"
    if cold and milks and temperature is not None and temperature > limit:
        yield Found(f"{_names(milks)} at {temperature:g} °C will brown: above {limit:g} °C is too warm.")


@_rule(
    "overheating", "watch", "Sugars heat the batter: cracks, a soap volcano, separation.",
    "Soap cool, do not insulate, do not force a gel; use single cavities or a fridge.",
)  # fmt: skip
def _overheating(facts: Facts) -> Iterator[Found]:
    work = facts.work
    forced = work.gel == "encouraged" or work.method == "hot"
    limit = coefficient("limit.heat_sugar_with_gel_percent" if forced else "limit.heat_sugar_percent")
    if work.sugar_percent > limit:
        yield Found(f"Sugars at {work.sugar_percent:.1f} % of oils overheat{' with a forced gel' if forced else ''}.")


@_rule(
    "false_trace", "watch", "Below its melting point a fat sets in the pot and looks like trace, with lye still free.",
    "Soap warmer than the hardest fat melts.",
)  # fmt: skip
def _false_trace(facts: Facts) -> Iterator[Found]:
    temperature = facts.formula.process.batter_temperature_c
    if temperature is None:
        return
    setting = [
        component.oil for component in facts.pure_components
        if component.oil.melting_c.typical > temperature
        and (component.share_percent >= 5 or component.oil.kind != "triglyceride")
    ]  # fmt: skip
    if setting:
        hardest = max(setting, key=lambda oil: oil.melting_c.typical)
        yield Found(f"{hardest.name} melts at {hardest.melting_c.typical:.0f} °C and sets at {temperature:g} °C.")


@_rule(
    "additive_over_usual", "watch", "Above its usual rate it does more harm than good.", "Check the rate.",
)  # fmt: skip
def _additive_over_usual(facts: Facts) -> Iterator[Found]:
    for item in facts.composition.additives:
        if isinstance(item.of, Additive) and item.of.role != "salt":
            rate = 100 * item.weight_g / facts.composition.oils_g
            if rate > item.of.usual_maximum_percent * 1.0001:
                usual = f"{item.of.usual_minimum_percent:g} to {item.of.usual_maximum_percent:g}"
                caution = f"{item.of.cautions[:1].upper()}{item.of.cautions[1:]}." if item.of.cautions else None
                yield Found(f"{item.of.name} at {short(rate)} % of oils: {usual} % is usual.", reason=caution)


@_rule(
    "thinner_already", "note", "Water thins a paste; nothing but boiling it down takes water out again.",
    "Plan less water for the paste, or settle for what it holds.",
)  # fmt: skip
def _thinner_already(facts: Facts) -> Iterator[Found]:
    asked = facts.formula.dilution.soap_percent if facts.formula.dilution is not None else None
    if facts.purpose.makes == "paste" and asked is not None:
        paste = paste_result(facts.composition, facts.work.superfat_percent, asked)
        if paste.diluted is None:
            yield Found(f"The paste itself holds {paste.soap_percent:.0f} % soap: it cannot be thinned to {asked:g} %.")


@_rule(
    "preservative", "note", "Diluted soap is water that microbes like.",
    "Use a preservative that works at pH 9 to 10, at its supplier's rate, and have it tested.",
)  # fmt: skip
def _preservative(facts: Facts) -> Iterator[Found]:
    if facts.formula.dilution is not None:
        yield Found("Diluted soap needs a preservative.")
