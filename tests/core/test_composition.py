"""What a batch holds beside oils, worked by hand from molar masses and SAP values, and what must always hold."""

import math
from dataclasses import FrozenInstanceError, replace

import pytest
from hypothesis import given, settings

from core.strategies import codes_of, laden_formulas, weight_formula
from sapolin.core.advice.report import report
from sapolin.core.bar.calculation import calculate, calculation_of
from sapolin.core.formula.composition import Composition
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.materials.ingredients import additives, liquids, lye_consumers
from sapolin.core.quantities.diagnostics import FormulaError

OLIVE = {"olive-refined": 1000.0}
"""SAP 190: 190 g KOH, 190 / 56.1056 = 3.386471 mol of hydroxide."""


def koh(value: float, purity: float | None = 90.0, by: str = "saponification_percent") -> dict:
    return {"naoh_purity_percent": 99.0, "koh": {"by": by, "value": value, "purity_percent": purity}}


def codes(error: pytest.ExceptionInfo[FormulaError]) -> list[str]:
    return [problem.code for problem in error.value.problems]


def test_a_composition_never_changes():
    found = calculation_of(weight_formula(OLIVE)).composition
    with pytest.raises(FrozenInstanceError):
        found.oils = ()


class TestTwoLyes:
    def test_a_tenth_of_the_saponification_by_koh(self):
        # 3.386471 mol x 0.95 = 3.217147 mol; a tenth: 0.3217147 x 56.1056 / 0.90 = 20.0555 g KOH;
        # the rest: 2.895433 x 39.997 / 0.99 = 116.9777 g NaOH; KOH is 20.0555 / 137.0332 = 14.6355 % of the weight
        lye = calculate(weight_formula(OLIVE, lye=koh(10))).lye
        assert lye.koh_g == pytest.approx(20.0555, abs=1e-3)
        assert lye.naoh_g == pytest.approx(116.9777, abs=1e-3)
        assert lye.koh_weight_percent == pytest.approx(14.6355, abs=1e-3)
        assert lye.superfat_total_percent == pytest.approx(5)

    def test_eight_to_two_by_weight(self):
        # G (0.8 x 0.9 / 56.1056 + 0.2 x 0.99 / 39.997) = 3.217147 -> G (0.01283295 + 0.00495037) = 3.217147
        # G = 180.9082; KOH 144.7266, NaOH 36.1816; share 0.01283295 / 0.01778332 = 72.1628 %
        lye = calculate(weight_formula(OLIVE, lye=koh(80, by="lye_weight_percent"))).lye
        assert lye.koh_g == pytest.approx(144.7266, abs=2e-3)
        assert lye.naoh_g == pytest.approx(36.1816, abs=2e-3)
        assert lye.koh_share_percent == pytest.approx(72.1628, abs=1e-3)

    def test_all_koh_asks_for_no_naoh_purity(self):
        # 190 g x 0.95 / 0.90 = 200.5556 g
        lye = {"naoh_purity_percent": None, "koh": {"by": "saponification_percent", "value": 100, "purity_percent": 90}}
        result = calculate(weight_formula(OLIVE, lye=lye)).lye
        assert (result.naoh_g, result.koh_g) == (0.0, pytest.approx(200.5556, abs=1e-3))
        # The NaOH that is not there has no purity, whatever may stand in its field.
        assert Composition.of_formula(weight_formula(OLIVE, lye=lye), catalogue()).naoh.purity_percent == 0.0

    def test_koh_that_is_not_there_has_no_purity(self):
        assert Composition.of_formula(weight_formula(OLIVE), catalogue()).koh.purity_percent == 0.0

    def test_purity_of_koh_is_never_assumed(self):
        with pytest.raises(FormulaError) as error:
            calculate(weight_formula(OLIVE, lye=koh(10, purity=None)))
        assert (error.value.problems[0].code, error.value.problems[0].path) == ("missing", "lye.koh.purity_percent")

    def test_purity_typed_as_a_part_is_asked_about(self):
        with pytest.raises(FormulaError) as error:
            calculate(weight_formula(OLIVE, lye=koh(10, purity=0.9)))
        problem = error.value.problems[0]
        assert problem.code == "out_of_range_fraction"
        assert [offer.value for offer in problem.offers] == [90.0]


class TestMasterLye:
    def test_twice_the_lye_as_solution_and_the_rest_as_water(self):
        # lye 129.98 g at water 2 : 1 -> 259.96 g water; 50 % master: 259.96 g solution holds 129.98 g water
        bar = calculate(weight_formula(OLIVE, lye={"naoh_purity_percent": 99.0, "master_percent": 50.0}))
        assert bar.lye.naoh_g == pytest.approx(129.98, abs=0.01)
        assert bar.lye.master.naoh_solution_g == pytest.approx(2 * bar.lye.naoh_g)
        assert bar.water.plain_water_g == pytest.approx(bar.lye.naoh_g)
        assert bar.weights.naoh_solution == pytest.approx(260.0, abs=0.05)
        assert bar.batter_g == pytest.approx(1000 + 3 * bar.lye.naoh_g)

    def test_a_weak_master_lye_brings_too_much_water(self):
        with pytest.raises(FormulaError) as error:
            calculate(weight_formula(OLIVE, lye={"naoh_purity_percent": 99.0, "master_percent": 25.0}))
        assert codes(error) == ["master_beyond_water"]


class TestWhatConsumesLye:
    def citric(self, compensated: bool) -> list[dict]:
        return [{"additive": "citric-acid", "by": "percent_of_oils", "value": 1.0, "compensated": compensated}]

    def test_added_back(self):
        # 10 g / 192.12 x 3 = 0.156152 mol: 6.2456 g NaOH pure, 6.3087 g at 99 %, on top of 129.976
        bar = calculate(weight_formula(OLIVE, additives=self.citric(True)))
        assert bar.lye.naoh_g == pytest.approx(129.976 + 6.309, abs=0.005)
        assert bar.lye.superfat_total_percent == pytest.approx(5)
        assert bar.consumed[0].superfat_points == 0
        # trisodium citrate, 258.07 g/mol: 10 / 192.12 x 258.07 = 13.433 g
        assert bar.consumed[0].salt == "sodium citrate"
        assert bar.consumed[0].salt_g == pytest.approx(13.433, abs=0.005)

    def test_left_out_the_superfat_rises(self):
        # 0.156152 / 3.386471 = 4.6110 points
        formula = weight_formula(OLIVE, additives=self.citric(False))
        bar = calculate(formula)
        assert bar.lye.naoh_g == pytest.approx(129.976, abs=0.005)
        assert bar.lye.superfat_total_percent == pytest.approx(9.611, abs=1e-3)
        assert bar.consumed[0].superfat_points == pytest.approx(4.611, abs=1e-3)
        assert "lye_consumed" in codes_of(formula)

    @pytest.mark.parametrize(("percent", "severity"), [(0.02, None), (0.03, "note"), (0.42, "note"), (0.44, "warning")])
    def test_from_two_points_on_it_is_a_warning(self, percent, severity):
        # 1 % of citric acid takes 4.611 points: a tenth of a point from 0.0217 % on, two points from 0.434 %.
        line = {"additive": "citric-acid", "by": "percent_of_oils", "value": percent}
        found = report(weight_formula(OLIVE, additives=[line])).diagnostics
        assert next((one.severity for one in found if one.code == "lye_consumed"), None) == severity

    def test_with_koh_the_salt_is_of_potassium(self):
        # tripotassium citrate, 306.39 g/mol: 10 / 192.12 x 306.39 = 15.948 g
        lye = {"naoh_purity_percent": None, "koh": {"by": "saponification_percent", "value": 100, "purity_percent": 90}}
        consumed = calculate(weight_formula(OLIVE, lye=lye, additives=self.citric(True))).consumed[0]
        assert (consumed.salt, consumed.salt_g) == ("potassium citrate", pytest.approx(15.948, abs=0.01))

    @pytest.mark.parametrize("consumer", lye_consumers().values(), ids=lambda consumer: consumer.id)
    def test_tables_and_moles_agree(self, consumer):
        assert consumer.hydroxide_mol_per_g * 39.997 == pytest.approx(consumer.naoh_g_per_g, abs=1.5e-4)

    def test_vinegar_for_water(self):
        # 100 g of 5 % vinegar hold 5 g acetic acid: 5 / 60.05 = 0.083264 mol = 2.4587 points of 3.386471 mol
        vinegar = [{"liquid": "vinegar", "use": "dissolves_lye", "by": "weight_g", "value": 100.0}]
        bar = calculate(weight_formula(OLIVE, liquids=vinegar))
        assert bar.lye.superfat_total_percent == pytest.approx(5 + 2.4587, abs=1e-3)
        assert bar.consumed[0].naoh_equivalent_g == pytest.approx(3.3303, abs=1e-3)


class TestLiquids:
    def milk(self, **changes) -> list[dict]:
        return [{"liquid": "goat-milk", "use": "dissolves_lye", "by": "weight_g", "value": 200.0} | changes]

    def test_water_joins_the_water_and_fat_the_superfat(self):
        # 200 g hold 174 g water and 8.2 g fat of SAP 228: 1.8696 g KOH on 190 -> 0.95 x 190 of 191.8696 is spent
        bar = calculate(weight_formula(OLIVE, liquids=self.milk()))
        assert bar.water.plain_water_g == pytest.approx(bar.water.water_g - 174)
        assert bar.liquids[0].fat_g == pytest.approx(8.2)
        assert bar.lye.superfat_total_percent == pytest.approx(100 * (1 - 0.95 * 190 / 191.8696), abs=1e-3)

    def test_a_drop_of_fat_is_fat_too(self):
        """20 g of milk hold 0.82 g: 0.082 % of all fats beside a kilogram of oil."""
        fats = Composition.of_formula(weight_formula(OLIVE, liquids=self.milk(value=20.0)), catalogue()).fats
        assert [round(component.share_percent, 4) for component in fats] == [
            round(100 * 1000 / 1000.82, 4), round(100 * 0.82 / 1000.82, 4)
        ]  # fmt: skip

    def test_milk_of_which_nothing_is_weighed_has_no_fat_in_it(self):
        made = Composition.of_formula(weight_formula(OLIVE, liquids=self.milk()), catalogue())
        assert len(made.fats) == 2
        left_out = replace(made, liquids=tuple(replace(one, weight_g=0.0) for one in made.liquids))
        assert left_out.fats == left_out.oils

    def test_acid_of_which_nothing_is_weighed_takes_no_lye(self):
        acid = [{"additive": "citric-acid", "by": "weight_g", "value": 10.0}]
        made = Composition.of_formula(weight_formula(OLIVE, additives=acid), catalogue())
        assert [one.path for one in made.consumed] == ["additives[0]"]
        left_out = replace(made, additives=tuple(replace(one, weight_g=0.0) for one in made.additives))
        assert left_out.consumed == ()

    def test_a_share_of_the_water(self):
        bar = calculate(weight_formula(OLIVE, liquids=self.milk(by="percent_of_water", value=60.0)))
        assert bar.liquids[0].water_g == pytest.approx(0.6 * bar.water.water_g)
        assert bar.liquids[0].weight_g == pytest.approx(0.6 * bar.water.water_g / 0.87)

    def test_more_than_all_the_water_is_refused(self):
        with pytest.raises(FormulaError) as error:
            calculate(weight_formula(OLIVE, liquids=self.milk(value=400.0)))
        assert error.value.problems[0].path == "liquids"

    def test_the_lye_keeps_its_own_weight_of_water(self):
        with pytest.raises(FormulaError) as error:
            calculate(weight_formula(OLIVE, liquids=self.milk(use="at_trace", value=200.0)))
        assert codes(error) == ["lye_water_below_floor"]

    @pytest.mark.parametrize("liquid", liquids().values(), ids=lambda liquid: liquid.id)
    def test_every_liquid_holds_no_more_than_itself(self, liquid):
        locked = liquid.water_percent + liquid.fat_percent.maximum + liquid.sugar_percent + liquid.protein_percent
        assert 50 <= locked + liquid.consumer_percent <= 106
        assert bool(liquid.consumer) == (liquid.consumer_percent > 0)

    def test_there_are_enough_of_both(self):
        assert len(liquids()) >= 15
        assert len(additives()) >= 20


class TestLateOils:
    def test_no_lye_for_what_goes_in_late(self):
        # 950 g olive at 0 % superfat, 50 g shea (SAP 179) at trace: 8.95 of 180.5 + 8.95 g KOH stay free
        lines = [
            {"oil": "olive-refined", "by": "weight_g", "value": 950.0},
            {"oil": "shea", "by": "weight_g", "value": 50.0, "added": "at_trace"},
        ]
        formula = weight_formula(OLIVE, superfat=0.0, blend={"lines": lines})
        bar = calculate(formula)
        assert bar.lye.naoh_pure_g == pytest.approx(180.5 * 0.712887, abs=2e-3)
        assert bar.lye.superfat_total_percent == pytest.approx(100 * 8.95 / 189.45, abs=1e-6)
        assert "late_oil" in codes_of(formula)

    @pytest.mark.parametrize(
        ("naoh_g", "superfat_percent"),
        [
            # All of it taken by the olive oil, 950 x 190 / 56105.6 mol of it: what it leaves counts, shea or not.
            (125.0, 100 * (1 - 125.0 / 39.997 / (950 * 0.190 / 56.1056))),
            # Half a percent more than olive oil can take goes on to the shea (50 g of SAP 179), so then all of it counts.
            (1.005 * 950 * 0.190 / 56.1056 * 39.997, 100 * (1 - 1.005 * 950 * 0.190 / (950 * 0.190 + 50 * 0.179))),
        ],
    )
    def test_lye_that_the_first_oils_cannot_take_goes_on_to_the_late(self, naoh_g, superfat_percent):
        lines = [
            {"oil": "olive-refined", "by": "weight_g", "value": 950.0},
            {"oil": "shea", "by": "weight_g", "value": 50.0, "added": "at_trace"},
        ]
        made = Composition.of_formula(weight_formula(OLIVE, blend={"lines": lines}), catalogue())
        pure, _ = made.lyes
        weighed = replace(made, lyes=(pure._replace(weight_g=naoh_g, purity_percent=100.0), made.koh))
        assert weighed.superfat_of_first_oils_percent == pytest.approx(superfat_percent, abs=1e-6)

    def test_some_oil_must_meet_the_lye(self):
        lines = [{"oil": "shea", "by": "weight_g", "value": 50.0, "added": "after_cook"}]
        with pytest.raises(FormulaError, match="no lye is calculated for any"):
            calculate(weight_formula(OLIVE, blend={"lines": lines}))


class TestWhateverIsInIt:
    @given(laden_formulas())
    @settings(max_examples=150)
    def test_masses_balance(self, formula):
        bar = calculate(formula)
        extras = sum(item.weight_g for item in (*bar.liquids, *bar.additives))
        whole = bar.total_oils_g + bar.lye.naoh_g + bar.lye.koh_g + bar.water.plain_water_g + extras
        assert math.isclose(bar.batter_g, whole, rel_tol=1e-9)
        in_liquids = sum(liquid.water_g for liquid in bar.liquids)
        assert math.isclose(bar.water.plain_water_g + in_liquids, bar.water.water_g, rel_tol=1e-9)

    @given(laden_formulas())
    @settings(max_examples=150)
    def test_lye_never_exceeds_what_fats_and_acids_can_take(self, formula):
        bar = calculate(formula)
        hydroxide = bar.lye.naoh_pure_g / 39.997 + bar.lye.koh_pure_g / 56.1056
        fats = bar.lye.koh_equivalent_g / 56.1056 * (1 - formula.superfat_percent / 100)
        acids = sum(consumed.naoh_equivalent_g for consumed in bar.consumed if consumed.compensated) / 39.997
        assert hydroxide <= (fats + acids) * (1 + 1e-9)
        assert bar.lye.superfat_total_percent >= formula.superfat_percent - 1e-9

    @given(laden_formulas())
    @settings(max_examples=100)
    def test_scaling_the_batch_leaves_every_proportion(self, formula):
        doubled = formula.model_dump(mode="json")
        for line in doubled["blend"]["lines"]:
            line["value"] *= 2
        before, after = calculate(formula), calculate(type(formula).model_validate(doubled))
        for quantity in ("naoh_g", "koh_g"):
            assert math.isclose(getattr(after.lye, quantity), 2 * getattr(before.lye, quantity), rel_tol=1e-9)
        assert math.isclose(after.lye.superfat_total_percent, before.lye.superfat_total_percent, abs_tol=1e-9)
        assert math.isclose(after.batter_g, 2 * before.batter_g, rel_tol=1e-9)


def test_spoons_for_500_g_become_a_weight_by_the_additives_density(make_formula):
    """Two level teaspoons of kaolin, 2.6 g each, for 500 g: 10.4 g in a kilogram of oils."""
    line = {"additive": "kaolin", "by": "tsp_per_500_g", "value": 2.0}
    assert calculate(make_formula(additives=[line])).additives[0].weight_g == pytest.approx(10.4)
    told = {"additive": "kaolin", "by": "percent_of_oils", "value": 1.04}
    assert calculate(make_formula(additives=[told])).additives[0].weight_g == pytest.approx(10.4)
    with pytest.raises(FormulaError) as refused:
        calculate(make_formula(additives=[line | {"value": 5000.0}]))
    assert refused.value.problems[0].path == "additives[0].value"


def test_milk_alone_takes_the_lye_and_no_water_is_left_to_pour():
    milk = [{"liquid": "goat-milk", "use": "dissolves_lye", "by": "percent_of_water", "value": 100.0}]
    water = calculate(weight_formula(OLIVE, liquids=milk)).water
    assert water.plain_water_g == pytest.approx(0.0, abs=1e-9)
    assert water.water_g > 100
