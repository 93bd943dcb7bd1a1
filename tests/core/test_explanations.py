"""Every quantity can be explained, and the explanation gives the quantity."""

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from core.strategies import codes_of, formulas, laden_formulas, weight_formula
from sapolin.core.bar.calculation import calculate
from sapolin.core.bar.explanations import UnknownQuantityError, explain, quantity_ids
from sapolin.core.bar.result import FormulaResult
from sapolin.core.quantities.coefficients import coefficient, coefficient_values
from sapolin.core.quantities.tables import tables_as
from sapolin.core.quantities.text import plain


def calculated(bar: FormulaResult, quantity: str) -> float:
    if quantity.startswith("acid:"):
        return next(share.percent for share in bar.acids if share.acid == quantity.removeprefix("acid:"))
    if quantity == "superfat_expected_percent":
        return bar.lye.superfat_interval.middle_percent
    for holder in (bar, bar.lye, bar.water, bar.indices, bar.bar, bar.paste):
        if hasattr(holder, quantity):
            return getattr(holder, quantity)
    return next(entry.points for entry in bar.qualities if entry.quality == quantity)


@given(
    st.one_of(
        laden_formulas(), laden_formulas().map(lambda formula: formula.model_copy(update={"purpose": "liquid-soap"}))
    )
)
@settings(max_examples=25)
def test_every_explanation_ends_at_the_quantity_on_screen(formula):
    bar = calculate(formula)
    for quantity in quantity_ids(formula):
        assert math.isclose(explain(formula, quantity).value, calculated(bar, quantity), rel_tol=1e-12, abs_tol=1e-12)


# The parts of these sum to something that the rule then turns into the quantity.
SUMS_TO = {
    "naoh_g": lambda bar: bar.lye.koh_equivalent_g,
    "koh_g": lambda bar: bar.lye.koh_equivalent_g,
    "sap_koh_mg_per_g": lambda bar: bar.lye.koh_equivalent_g,
    "superfat_expected_percent": lambda bar: 100.0,
}


@given(formulas())
@settings(max_examples=15)
def test_the_parts_of_a_explanation_sum_to_what_it_says(formula):
    bar = calculate(formula)
    for quantity in quantity_ids(formula):
        explanation = explain(formula, quantity)
        # Where a bound took hold, the terms sum to what it holds back.
        if explanation.terms and "never" not in plain(explanation.substituted):
            total = SUMS_TO.get(quantity, lambda _, value=explanation.value: value)(bar)
            assert math.isclose(sum(term.value for term in explanation.terms), total, rel_tol=1e-9, abs_tol=1e-9)


def test_a_explanation_shows_the_numbers_that_went_in(make_formula):
    explanation = explain(make_formula(), "naoh_g")
    assert plain(explanation.terms[1].expression) == "250.0 g × 257 / 1000"
    assert plain(explanation.terms[1].expression, "oz") == "8.82 oz × 257 / 1000"
    assert plain(explanation.substituted) == "206.25 g KOH × 0.71289 × (1 − 5/100) / (99/100)"
    assert any("99 % pure" in plain(line) for line in explanation.assumes)
    assert {"iso-3657", "ciaaw", "codex-210"} <= {source.id for source in explanation.sources}


def test_what_a_bound_holds_back_is_told_on_its_side():
    """No bar is said to keep for longer than 36 months, nor for less than one."""
    rosemary = [{"additive": "rosemary-extract", "by": "percent_of_oils", "value": 0.3}]
    long = explain(weight_formula({"coconut-hydrogenated": 1000.0}, superfat=0.0, additives=rosemary), "shelf_months")
    assert long.value == 36
    assert plain(long.substituted).endswith("; never more than 36")
    short = explain(weight_formula({"hemp": 1000.0}), "shelf_months")
    assert short.value == 1
    assert plain(short.substituted).endswith("; never less than 1")


class TestExplanationsAreMadeOfWhatWasUsed:
    def test_a_hot_process_bar_is_explained_by_its_own_hours(self, make_formula):
        hot = make_formula(process={"method": "hot"})
        explanation = explain(hot, "unmould_hours_low")
        assert "16 h to cool and set" in plain(explanation.rule)
        assert "24 h" not in plain(explanation.rule + explanation.substituted)
        # 16 h less 30 %.
        assert explanation.value == pytest.approx(11.2)
        assert plain(explanation.substituted) == "16 × 0.7"

    def test_a_cold_process_bar_by_every_factor_that_counts(self, make_formula):
        cold = make_formula(process={"gel": "encouraged"}, additives=[
            {"additive": "sodium-lactate-60", "by": "percent_of_oils", "value": 2.0}
        ])  # fmt: skip
        explanation = explain(cold, "unmould_hours_low")
        for words in ("24 h at hardness 43 and 33 % lye", "sodium lactate: 1 − 0.1 × 2.0 %", "gel encouraged: 0.65"):
            assert words in plain(explanation.rule)

    @pytest.mark.parametrize(
        "quantity", ["unmould_hours_low", "usable_weeks", "best_weeks", "shelf_months", "trace_points"]
    )
    def test_another_rule_of_thumb_is_another_explanation(self, make_formula, quantity):
        formula = make_formula()
        before = explain(formula, quantity)
        with tables_as({"coefficients": {key: value * 1.07 for key, value in coefficient_values().items()}}):
            after = explain(formula, quantity)
            for key in {"unmould_hours_low": ["unmould.per_hardness", "unmould.spread"], "usable_weeks": ["cure.usual_weeks"],
                        "best_weeks": ["best.base_weeks"], "shelf_months": ["shelf.per_load"],
                        "trace_points": ["trace.base", "trace.oleic"]}[quantity]:  # fmt: skip
                assert f"Here {coefficient(key):g} ".replace("-", "−") in " ".join(
                    plain(line) for line in after.assumes
                )
        assert (after.rule, after.substituted, after.assumes) != (before.rule, before.substituted, before.assumes)
        assert after.value != before.value

    def test_the_factors_multiply_to_the_quantity(self, make_formula):
        explanation = explain(make_formula(), "shelf_months")
        factors = plain(explanation.substituted).partition(" = ")[0].split(" × ")
        assert math.prod(float(factor) for factor in factors) == pytest.approx(explanation.value, rel=0.01)

    def test_no_purity_is_assumed_of_lye_that_is_not_weighed(self, make_formula):
        potash = make_formula(
            purpose="liquid-soap",
            lye={
                "naoh_purity_percent": None,
                "koh": {"by": "saponification_percent", "value": 100, "purity_percent": 90},
            },
        )
        explanation = explain(potash, "naoh_g")
        assert explanation.value == 0
        assert not any("pure" in plain(line) for line in explanation.assumes)


def test_a_shelf_life_is_never_told_in_nothing(make_formula):
    flax = make_formula(blend={"lines": [{"oil": "flax", "by": "weight_g", "value": 1000.0}]})
    result = calculate(flax)
    assert result.bar.shelf_months == coefficient("shelf.least_months")
    assert "rancid_after_months" not in codes_of(flax)


def test_an_unknown_quantity_is_refused(make_formula):
    with pytest.raises(UnknownQuantityError):
        explain(make_formula(), "magic")


@pytest.mark.parametrize("quantity", ["firmness_at_best", "trace_points"])
def test_a_paste_has_no_bar_to_explain(make_formula, quantity):
    with pytest.raises(UnknownQuantityError):
        explain(make_formula(purpose="liquid-soap", superfat_percent=2.0), quantity)


def test_hard_oils_are_summed_to_four_digits():
    """333.3 of 1000 g are coconut, 55.56 g are shea butter; olive is liquid."""
    formula = weight_formula({"coconut": 333.3, "olive-refined": 611.14, "shea": 55.56})
    assert plain(explain(formula, "hard_percent").substituted) == "33.33 + 5.556"
    assert plain(explain(weight_formula({"olive-refined": 1000.0}), "hard_percent").substituted) == "0"
