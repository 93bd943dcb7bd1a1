"""Every rule of the rule book, both ways: it speaks when it should and keeps quiet when it should not."""

import pytest
from hypothesis import given, settings

from core.strategies import laden_formulas, weight_formula
from sapolin.core.advice.rulebook import RULES
from sapolin.core.bar.calculation import calculate

BALANCED = {"olive-refined": 420.0, "tallow-beef": 320.0, "coconut": 200.0, "castor": 60.0}
"""Within every target range of an everyday bar."""


def milk(use: str, liquid: str = "goat-milk", g: float = 100.0) -> dict:
    return {"liquids": [{"liquid": liquid, "use": use, "by": "weight_g", "value": g}]}


def with_additive(additive: str, percent: float, *, compensated: bool = False, **changes) -> dict:
    line = {"additive": additive, "by": "percent_of_oils", "value": percent, "compensated": compensated}
    return {"additives": [line]} | changes


def process(**choices) -> dict:
    return {"process": choices}


def koh(share: float) -> dict:
    koh = {"by": "saponification_percent", "value": share, "purity_percent": 90.0}
    return {"lye": {"naoh_purity_percent": 99.0, "koh": koh}}


def late(oil: str, when: str) -> dict:
    lines = [{"oil": name, "weight_g": g} for name, g in BALANCED.items()]
    return {"blend": {"by": "weight", "lines": [*lines, {"oil": oil, "weight_g": 50.0, "added": when}]}}


SEED = {
    "id": "own-seed", "name": "Seed",
    "content": {"kind": "sap", "sap_koh_mg_per_g": 192.0, "solid_at_20_c": False},
}  # fmt: skip
OLIVE = {"olive-refined": 1000.0}

# rule: (weights, changes) that make it speak, then (weights, changes) next door that do not.
BOTH_WAYS = {
    "true_superfat_below_zero": ((BALANCED, {"superfat_percent": 1.0}), (BALANCED, {"superfat_percent": 4.0})),
    "strong_lye": (
        (BALANCED, {"water": {"by": "lye_concentration_percent", "value": 42.0}}),
        (BALANCED, {"water": {"by": "lye_concentration_percent", "value": 38.0}}),
    ),
    "unusual_superfat": ((BALANCED, {"superfat_percent": 12.0}), (BALANCED, {})),
    "lye_consumed": (
        (BALANCED, with_additive("citric-acid", 1.0)),
        (BALANCED, with_additive("citric-acid", 1.0, compensated=True)),
    ),
    "late_oil": ((BALANCED, late("shea", "at_trace")), (BALANCED, late("shea", "start"))),
    "lye_heavy_on_purpose": (
        (OLIVE, {"superfat_percent": -2.0, "purpose": "lye-heavy-paste"}),
        (OLIVE, {"superfat_percent": 0.0, "purpose": "lye-heavy-paste"}),
    ),
    "outside_target_range": ((OLIVE, {}), (BALANCED, {})),
    "see_saw": (({"coconut": 600.0, "olive-refined": 400.0}, {}), (OLIVE, {"purpose": "high-olive"})),
    "unknown_profile": (({**BALANCED, "own-seed": 100.0}, {"materials": [SEED]}), (BALANCED, {})),
    "rancidity": (({"sunflower": 500.0, "coconut": 500.0}, {}), (BALANCED, {})),
    "much_castor": (({**BALANCED, "castor": 200.0}, {}), (BALANCED, {})),
    "brittle": (({"cocoa": 500.0, "tallow-beef": 200.0, "stearic-acid": 60.0}, {}), (BALANCED, {})),
    "slimy": ((OLIVE, {}), (OLIVE, koh(8))),
    "drying": (({"coconut": 400.0, "olive-refined": 600.0}, {}), (BALANCED, {})),
    "sticky": (
        (OLIVE, {"water": {"by": "lye_concentration_percent", "value": 26.0}}),
        (OLIVE, {"water": {"by": "lye_concentration_percent", "value": 33.0}}),
    ),
    "much_wax": (({**BALANCED, "beeswax": 60.0}, {}), ({**BALANCED, "beeswax": 10.0}, {})),
    "free_acids": (({**BALANCED, "stearic-acid": 150.0}, {}), ({**BALANCED, "stearic-acid": 30.0}, {})),
    "soft_koh_bar": ((BALANCED, koh(40)), (BALANCED, koh(10))),
    "unwanted": (({"palm": 1000.0}, {"free_of": ["palm"]}), (BALANCED, {"free_of": ["palm"]})),
    "scorching": ((BALANCED, milk("dissolves_lye")), (BALANCED, milk("at_trace"))),
    "milk_too_warm": (
        (BALANCED, milk("at_trace") | process(batter_temperature_c=42.0)),
        (BALANCED, milk("at_trace") | process(batter_temperature_c=30.0)),
    ),
    "overheating": (
        (BALANCED, with_additive("honey", 2.0, process={"gel": "encouraged"})),
        (BALANCED, with_additive("honey", 2.0, process={"gel": "prevented"})),
    ),
    "false_trace": (
        ({**BALANCED, "stearic-acid": 30.0}, process(batter_temperature_c=45.0)),
        (BALANCED, process(batter_temperature_c=48.0)),
    ),
    "additive_over_usual": (
        (BALANCED, with_additive("sodium-lactate-60", 5.0)),
        (BALANCED, with_additive("sodium-lactate-60", 3.0)),
    ),
    "thinner_already": (
        (
            OLIVE,
            {
                "purpose": "liquid-soap",
                "superfat_percent": 2.0,
                "dilution": {"soap_percent": 59.0},
                "water": {"by": "water_to_lye", "value": 5.0},
            },
        ),
        (OLIVE, {"purpose": "liquid-soap", "superfat_percent": 2.0, "dilution": {"soap_percent": 25.0}}),
    ),
    "preservative": (
        (OLIVE, {"purpose": "liquid-soap", "superfat_percent": 2.0, "dilution": {"soap_percent": 25.0}}),
        (OLIVE, {"purpose": "liquid-soap", "superfat_percent": 2.0}),
    ),
}


def codes(weights: dict[str, float], changes: dict) -> set[str]:
    return {remark.code for remark in calculate(weight_formula(weights, **changes)).remarks}


def test_every_rule_is_held_both_ways():
    assert {rule.id for rule in RULES} == set(BOTH_WAYS)
    assert len(RULES) == len(BOTH_WAYS)


@pytest.mark.parametrize("rule", BOTH_WAYS)
def test_a_rule_speaks(rule):
    assert rule in codes(*BOTH_WAYS[rule][0])


@pytest.mark.parametrize("rule", BOTH_WAYS)
def test_a_rule_keeps_quiet(rule):
    assert rule not in codes(*BOTH_WAYS[rule][1])


def test_nothing_is_said_about_a_sound_bar():
    assert calculate(weight_formula(BALANCED)).remarks == ()


def test_an_overstepped_band_is_named_with_its_largest_giver():
    remarks = calculate(weight_formula({"olive-refined": 600.0, "coconut": 400.0})).remarks
    cleansing = next(remark for remark in remarks if remark.quantity == "cleansing")
    assert cleansing.headline == "Cleansing is 12.8 over your target range."
    assert "Coconut gives 31.8 of the 31.8 points" in cleansing.reason


def test_the_warning_grows_with_the_chance():
    def severity(superfat: float) -> str:
        remarks = calculate(weight_formula(BALANCED, superfat=superfat)).remarks
        return next((r.severity for r in remarks if r.code == "true_superfat_below_zero"), "none")

    assert [severity(superfat) for superfat in (0.0, 2.0, 5.0)] == ["danger", "watch", "none"]


def test_dangers_come_first():
    remarks = calculate(weight_formula({"peanut": 600.0, "coconut": 400.0}, free_of=["peanut"])).remarks
    assert (remarks[0].code, remarks[0].severity) == ("unwanted", "danger")


@given(laden_formulas())
@settings(max_examples=60)
def test_every_remark_is_a_whole_sentence_with_a_way_out(formula):
    for remark in calculate(formula).remarks:
        assert remark.headline[0].isupper() or remark.headline[0].isdigit()
        assert remark.headline.endswith((".", ")", "%"))
        assert remark.reason
        assert remark.remedy
