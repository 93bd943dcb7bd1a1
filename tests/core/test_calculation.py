"""Results worked by hand from the definitions, and what must hold for every formula."""

import math

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from core.strategies import PURITIES, formulas, weight_formula, weights_g
from sapolin.core.advice.report import report
from sapolin.core.bar.calculation import calculate
from sapolin.core.bar.result import FormulaResult
from sapolin.core.formula.document import Formula
from sapolin.core.quantities.diagnostics import FormulaError


def quality(result: FormulaResult, name: str) -> float:
    return next(quantity.points for quantity in result.qualities if quantity.quality == name)


def acid(result: FormulaResult, name: str) -> float:
    return next(share.percent for share in result.acids if share.acid == name)


class TestWorkedByHand:
    """Prepared on paper: SAP olive 190, coconut 257, castor 180 mg KOH/g; 39.997 / 56.1056 = 0.712887."""

    def test_lye_of_a_three_oil_bar(self, make_formula):
        # 700 g x 0.190 + 250 g x 0.257 + 50 g x 0.180 = 133 + 64.25 + 9 = 206.25 g KOH
        # x 0.712887 = 147.033 g NaOH, less 5 % = 139.681, at 99 % purity 141.092 g
        lye = calculate(make_formula()).lye
        assert lye.koh_equivalent_g == pytest.approx(206.25)
        assert lye.naoh_full_g == pytest.approx(147.033, abs=0.002)
        assert lye.naoh_pure_g == pytest.approx(139.681, abs=0.002)
        assert lye.naoh_g == pytest.approx(141.092, abs=0.002)

    def test_water_said_three_ways(self, make_formula):
        # 33 % lye: 141.092 x 67 / 33 = 286.460 g; 286.460 / 141.092 = 2.0303; 28.646 % of oils
        water = calculate(make_formula()).water
        assert water.water_g == pytest.approx(286.460, abs=0.005)
        assert water.water_to_lye == pytest.approx(2.0303, abs=1e-4)
        assert water.percent_of_oils == pytest.approx(28.646, abs=1e-3)

    def test_acids_and_qualities(self, make_formula):
        # lauric: 25 % of 47.8; ricinoleic: 5 % of 88.5; oleic: 70 % of 72.5 + 25 % of 6.7 + 5 % of 3.6
        bar = calculate(make_formula())
        assert acid(bar, "C12:0") == pytest.approx(11.95)
        assert acid(bar, "C18:1-OH") == pytest.approx(4.425)
        assert acid(bar, "C18:1") == pytest.approx(50.75 + 1.675 + 0.18)
        # cleansing: 25 % of (7 + 6.2 + 47.8 + 18.4); open lather: lauric + myristic + ricinoleic
        assert quality(bar, "cleansing") == pytest.approx(0.25 * 79.4)
        assert quality(bar, "open_lather") == pytest.approx(0.25 * 66.2 + 4.425)

    def test_oxidation_load_is_in_linoleic_equivalents(self, make_formula):
        # pure sunflower: (0.1 x 1.11 + 25 + 10.3 x 63.5 + 21.6 x 0.1 + 0.2 x 0.91) / 10.3
        bar = calculate(make_formula({"sunflower": 100.0}))
        assert quality(bar, "oxidation_load") == pytest.approx((0.111 + 25 + 654.05 + 2.16 + 0.182) / 10.3)

    def test_iodine_value_and_ins(self, make_formula):
        # pure castor: oleic 3.6 x 0.860 + ricinoleic 88.5 x 0.8157 + linoleic 4.4 x 1.732
        #              + linolenic 0.5 x 2.616 + gondoic 0.4 x 0.785
        indices = calculate(make_formula({"castor": 100.0})).indices
        by_hand = 3.6 * 0.860 + 88.5 * 0.8157 + 4.4 * 1.732 + 0.5 * 2.616 + 0.4 * 0.785
        assert indices.iodine_value == pytest.approx(by_hand, abs=0.05)
        assert indices.ins == pytest.approx(180 - by_hand, abs=0.05)

    def test_what_the_acids_leave_is_told(self, make_formula):
        # castor: 97.4 % of unsaturated acids, and stearic and palmitic acid; the rest is nothing that an acid is known for
        indices = calculate(make_formula({"castor": 100.0})).indices
        unsaturated = 3.6 + 88.5 + 4.4 + 0.5 + 0.4
        assert indices.unsaturated_percent == pytest.approx(unsaturated)
        assert indices.saturated_percent + unsaturated + indices.other_percent == pytest.approx(100)
        assert 0 <= indices.other_percent < 2

    def test_hard_and_soft_go_by_the_state_at_20_c(self, make_formula):
        indices = calculate(make_formula()).indices
        assert indices.hard_percent == pytest.approx(25)
        assert indices.soft_percent == pytest.approx(75)

    def test_negative_superfat_is_for_a_marked_purpose_and_called_unsafe(self, make_formula):
        with pytest.raises(FormulaError) as refused:
            calculate(make_formula(superfat_percent=-2.0))
        assert [problem.code for problem in refused.value.problems] == ["lye_heavy"]
        marked = make_formula(superfat_percent=-2.0, purpose="lye-heavy-paste")
        assert report(marked).state == "unsafe"
        bar = calculate(marked)
        assert bar.lye.naoh_pure_g == pytest.approx(147.033 * 1.02, abs=0.01)


class TestEveryFormula:
    @given(formulas())
    def test_masses_balance(self, formula: Formula):
        bar = calculate(formula)
        assert math.isclose(sum(oil.weight_g for oil in bar.oils), bar.total_oils_g, rel_tol=1e-12)
        assert math.isclose(sum(oil.share_percent for oil in bar.oils), 100, rel_tol=1e-12)
        assert math.isclose(bar.batter_g, bar.total_oils_g + bar.lye.naoh_g + bar.water.water_g, rel_tol=1e-12)

    @given(formulas())
    def test_acids_and_parts_sum_up(self, formula: Formula):
        bar = calculate(formula)
        indices = bar.indices
        everything = indices.saturated_percent + indices.unsaturated_percent + indices.other_percent
        assert math.isclose(everything, 100, abs_tol=0.06)
        for quantity in bar.qualities:
            assert math.isclose(sum(quantity.contributions), quantity.points, abs_tol=1e-9)
        for share in bar.acids:
            assert math.isclose(sum(share.contributions), share.percent, abs_tol=1e-9)

    @given(formulas())
    def test_lye_never_exceeds_what_the_fats_can_take(self, formula: Formula):
        bar = calculate(formula)
        assert bar.lye.naoh_pure_g <= bar.lye.naoh_full_g * (1 + 1e-12)
        assert bar.water.water_g >= bar.lye.naoh_g * (1 - 1e-9)

    @given(weights_g(), st.floats(0, 40), st.floats(0, 40))
    def test_lye_falls_as_superfat_rises(self, weights, one, other):
        assume(abs(one - other) > 1e-6)
        less, more = sorted((one, other))
        lyes = [calculate(weight_formula(weights, superfat=superfat)).lye.naoh_g for superfat in (less, more)]
        assert lyes[0] > lyes[1]

    @given(weights_g(), PURITIES, PURITIES)
    def test_weaker_lye_weighs_more_and_holds_the_same_hydroxide(self, weights, one, other):
        bars = [calculate(weight_formula(weights, purity=purity)) for purity in (one, other)]
        assert math.isclose(bars[0].lye.naoh_pure_g, bars[1].lye.naoh_pure_g, rel_tol=1e-9)
        assert (bars[0].lye.naoh_g - bars[1].lye.naoh_g) * (other - one) >= 0

    @given(weights_g(), weights_g(), st.floats(0.1, 0.9))
    def test_pouring_two_blends_together_is_linear(self, first, second, component):
        mixed = dict.fromkeys([*first, *second], 0.0)
        for weights, share in ((first, component), (second, 1 - component)):
            for oil, weight in weights.items():
                mixed[oil] += weight * share
        alone = [calculate(weight_formula(weights)) for weights in (first, second)]
        both = calculate(weight_formula(mixed))
        for quantity in ("koh_equivalent_g", "naoh_g"):
            separate = component * getattr(alone[0].lye, quantity) + (1 - component) * getattr(alone[1].lye, quantity)
            assert math.isclose(getattr(both.lye, quantity), separate, rel_tol=1e-9)
        mass = [bar.total_oils_g * share for bar, share in zip(alone, (component, 1 - component), strict=True)]
        for i, quantity in enumerate(both.qualities):
            mean = sum(m * bar.qualities[i].points for m, bar in zip(mass, alone, strict=True)) / sum(mass)
            assert math.isclose(quantity.points, mean, rel_tol=1e-9, abs_tol=1e-9)

    @given(formulas(), st.floats(0.1, 10))
    def test_scaling_a_batch_scales_every_weight(self, formula: Formula, factor):
        weights = {line.oil: line.value * factor for line in formula.blend.lines}
        assume(10 <= sum(weights.values()) <= 500_000)
        scaled = formula.model_copy(update={"blend": weight_formula(weights).blend})
        before, after = calculate(formula), calculate(scaled)
        assert math.isclose(after.lye.naoh_g, before.lye.naoh_g * factor, rel_tol=1e-9)
        assert math.isclose(after.water.water_g, before.water.water_g * factor, rel_tol=1e-9)

    @given(formulas())
    def test_each_of_the_three_waters_gives_back_the_same_weight(self, formula: Formula):
        water = calculate(formula).water
        for by in ("lye_concentration_percent", "water_to_lye", "percent_of_oils"):
            asked = formula.water.model_copy(update={"by": by, "value": getattr(water, by)})
            again = calculate(formula.model_copy(update={"water": asked})).water
            assert math.isclose(again.water_g, water.water_g, rel_tol=1e-9)
