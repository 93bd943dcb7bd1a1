"""Amounts given another way, and what every new line begins with, calculated by hand."""

import pytest

from conftest import formula_json
from sapolin.core.batch.moulds import Cavities, Cylinder, Mould, Slab, mould_problems
from sapolin.core.batch.plan import ColourLine, PortionPlan, colour_in_basis, drops_weighed
from sapolin.core.batch.starting import (
    starting_colour,
    starting_scent,
    starting_shapes,
    starting_use,
    with_portion,
    without_portion,
)
from sapolin.core.formula.amounts import additive_in_basis, liquid_in_basis
from sapolin.core.formula.blend import entered_shares
from sapolin.core.formula.document import Formula
from sapolin.core.formula.starting import starting_additive, starting_liquid
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.materials.ingredients import additives, colorants, liquids, scents
from sapolin.core.quantities.choices import choices
from sapolin.core.quantities.diagnostics import FormulaError
from sapolin.core.quantities.text import plain


def formula(**changes) -> Formula:
    return Formula.model_validate(formula_json(**changes))


class TestAdditives:
    """Kaolin: a level teaspoon weighs 2.6 g, so one for 500 g of oils is 0.52 % of them, and 5.2 g for 1000 g."""

    WAYS = (("percent_of_oils", 0.52), ("tsp_per_500_g", 1.0), ("weight_g", 5.2))

    @pytest.mark.parametrize("given", WAYS)
    @pytest.mark.parametrize("wanted", WAYS)
    def test_the_amount_is_the_same(self, given, wanted):
        line = {"additive": "kaolin", "by": given[0], "value": given[1], "compensated": True}
        converted = additive_in_basis(formula(additives=[line]), 0, wanted[0])
        assert (converted.by, converted.value) == (wanted[0], pytest.approx(wanted[1]))
        assert converted.compensated

    def test_an_empty_amount_stays_empty(self):
        line = {"additive": "kaolin", "by": "weight_g", "value": None}
        assert additive_in_basis(formula(additives=[line]), 0, "percent_of_oils").value is None

    def test_a_weight_needs_the_weight_of_the_oils(self):
        unfinished = formula(additives=[{"additive": "kaolin", "by": "percent_of_oils", "value": 1.0}])
        unfinished = unfinished.model_copy(update={"blend": unfinished.blend.model_copy(update={"total_oils_g": None})})
        with pytest.raises(FormulaError) as refused:
            additive_in_basis(unfinished, 0, "weight_g")
        assert refused.value.problems[0].code == "total_missing"
        assert additive_in_basis(unfinished, 0, "tsp_per_500_g").value == pytest.approx(1 / 0.52, abs=1e-4)

    def test_there_is_no_such_line(self):
        with pytest.raises(FormulaError) as refused:
            additive_in_basis(formula(), 0, "weight_g")
        assert refused.value.problems[0].code == "no_such_line"


class TestLiquids:
    """Water is 30 % of 1000 g of oils here: 300 g. Goat milk is 87 % water."""

    MILK_G = 100.0

    @pytest.mark.parametrize("given", ["weight_g", "percent_of_oils", "percent_of_water"])
    @pytest.mark.parametrize("wanted", ["weight_g", "percent_of_oils", "percent_of_water"])
    def test_the_amount_is_the_same(self, given, wanted):
        water_percent = liquids()["goat-milk"].water_percent
        ways = {"weight_g": 100.0, "percent_of_oils": 10.0, "percent_of_water": water_percent / 3}
        milk = {"liquid": "goat-milk", "use": "at_trace", "by": given, "value": ways[given]}
        asked = formula(water={"by": "percent_of_oils", "value": 30.0}, liquids=[milk])
        converted = liquid_in_basis(asked, 0, wanted, catalogue())
        assert converted.value == pytest.approx(ways[wanted], abs=1e-3)
        assert converted.use == "at_trace"

    @pytest.mark.parametrize("wanted", ["weight_g", "percent_of_oils", "percent_of_water"])
    def test_an_empty_amount_stays_empty(self, wanted):
        milk = {"liquid": "goat-milk", "use": "at_trace", "by": "weight_g", "value": None}
        converted = liquid_in_basis(formula(liquids=[milk]), 0, wanted, catalogue())
        assert (converted.by, converted.value) == (wanted, None)

    def test_the_same_basis_changes_no_digit(self):
        milk = {"liquid": "goat-milk", "use": "at_trace", "by": "weight_g", "value": 33.333333}
        assert liquid_in_basis(formula(liquids=[milk]), 0, "weight_g", catalogue()).value == 33.333333

    def test_a_share_of_the_water_waits_for_the_water(self):
        milk = {"liquid": "goat-milk", "use": "at_trace", "by": "weight_g", "value": 50.0}
        asked = formula(water={"by": "percent_of_oils", "value": None}, liquids=[milk])
        with pytest.raises(FormulaError) as refused:
            liquid_in_basis(asked, 0, "percent_of_water", catalogue())
        assert [one.code for one in refused.value.problems] == ["missing_water"]
        assert liquid_in_basis(asked, 0, "percent_of_oils", catalogue()).value == pytest.approx(5.0)


class TestColours:
    def test_a_teaspoon_for_500_g_is_a_fifth_of_its_grams_in_percent(self):
        grams = colorants()["mica-blue"].g_per_tsp
        line = ColourLine(colorant="mica-blue", by="tsp_per_500_g", value=2.0)
        percent = colour_in_basis(line, "percent_of_oils")
        assert percent.value == pytest.approx(2 * grams / 5)
        assert colour_in_basis(percent, "tsp_per_500_g") == line

    def test_an_empty_rate_stays_empty(self):
        line = ColourLine(colorant="mica-blue", by="tsp_per_500_g", value=None)
        assert colour_in_basis(line, "percent_of_oils").value is None


class TestSharesEntered:
    def test_weights_beside_shares_fill_what_the_shares_leave(self):
        blend = formula(
            blend={
                "lines": [
                    {"oil": "olive-refined", "by": "percent_of_oils", "value": 70.0},
                    {"oil": "coconut", "by": "weight_g", "value": 200.0},
                    {"oil": "castor", "by": "weight_g", "value": 100.0},
                ]
            }
        ).blend
        shares = [one.share_percent for one in entered_shares(blend, catalogue())]
        assert shares == pytest.approx([70.0, 20.0, 10.0])

    def test_a_small_share_leaves_the_rest_to_the_weights(self):
        """Half a percent of castor beside 300 g and 100 g: three quarters and one of 99.5 %."""
        lines = [
            {"oil": "castor", "by": "percent_of_oils", "value": 0.5}, {"oil": "palm", "by": "weight_g", "value": 300.0},
            {"oil": "coconut", "by": "weight_g", "value": 100.0},
        ]  # fmt: skip
        shares = [one.share_percent for one in entered_shares(formula(blend={"lines": lines}).blend, catalogue())]
        assert shares == pytest.approx([0.5, 74.625, 24.875])


class TestBeginnings:
    def test_an_additive_begins_at_the_low_end_and_its_lye_is_added_back(self):
        acid = starting_additive(additives()["citric-acid"])
        assert (acid.value, acid.compensated) == (additives()["citric-acid"].usual_minimum_percent, True)
        assert not starting_additive(additives()["kaolin"]).compensated

    def test_a_liquid_begins_without_an_amount(self):
        assert starting_liquid(liquids()["goat-milk"]).value is None

    def test_scents_and_colours_begin_at_what_is_usual(self):
        assert starting_scent(scents()["lavender"]).limit_percent is None
        assert starting_colour(colorants()["mica-blue"]).value == colorants()["mica-blue"].usual_tsp_per_500_g

    def test_a_new_mould_is_measured_before_it_takes_anything(self):
        assert [choice.value for choice in choices()["mould_shape"]] == list(starting_shapes())
        for kind, shape in starting_shapes().items():
            assert shape.kind == kind
            measures = shape.model_dump(exclude={"kind", "count"})
            assert set(measures.values()) == {None}
            found = {(one.code, one.path) for one in mould_problems(Mould(name="New", shape=shape))}
            assert found == {("missing", f"shape.{measure}") for measure in measures}
        assert [getattr(shape, "count", None) for shape in starting_shapes().values()] == [None, None, None, 6, 6, None]

    @pytest.mark.parametrize(
        ("shape", "bar_mm", "bar_width_mm", "headroom_mm"),
        [
            (Slab(kind="loaf", length_mm=250, width_mm=80, height_mm=70), 25, None, 5),
            (Slab(kind="slab", length_mm=300, width_mm=200, height_mm=40), 80, 55, 5),
            (Cylinder(kind="cylinder", diameter_mm=70, length_mm=250), 25, None, 0),
            (Cavities(kind="cavities", count=6, cavity_ml=90), None, None, 0),
        ],
    )
    def test_a_mould_comes_with_a_way_to_cut_it(self, shape, bar_mm, bar_width_mm, headroom_mm):
        use = starting_use(Mould(name="One", shape=shape))
        cut = (use.cut.bar_mm, use.cut.bar_width_mm) if use.cut else (None, None)
        assert (cut, use.headroom_mm) == ((bar_mm, bar_width_mm), headroom_mm)


class TestPortions:
    def test_one_alone_is_none(self):
        assert [portion.share_percent for portion in with_portion(())] == [50.0, 50.0]

    def test_they_always_sum_to_100(self):
        portions = with_portion(())
        while len(portions) < 8:
            portions = with_portion(portions)
            assert sum(portion.share_percent for portion in portions) == pytest.approx(100, abs=1e-9)
            # A thousandth is not told: what is left over goes to the last.
            assert portions[0].share_percent == int(1000 / len(portions)) / 10 <= portions[-1].share_percent
        assert len({portion.name for portion in portions}) == 8
        with pytest.raises(FormulaError):
            with_portion(portions)
        while len(portions) > 1:
            portions = without_portion(portions, 0)
            assert sum(portion.share_percent for portion in portions) == pytest.approx(100, abs=1e-9)
        assert without_portion(portions, 0) == ()

    def test_what_is_left_out_goes_to_the_largest(self):
        portions = [PortionPlan(name=name, share_percent=share) for name, share in (("a", 50), ("b", 30), ("c", 20))]
        assert [one.share_percent for one in without_portion(portions, 1)] == [80.0, 20.0]
        assert [one.share_percent for one in without_portion(portions[::-1], 0)] == [30.0, 70.0]

    @pytest.mark.parametrize("index", [-1, 3, 4])
    def test_a_portion_that_is_not_there_is_said(self, index):
        portions = [PortionPlan(name=name, share_percent=share) for name, share in (("a", 50), ("b", 30), ("c", 20))]
        with pytest.raises(FormulaError) as refused:
            without_portion(portions, index)
        assert [one.code for one in refused.value.problems] == ["no_such_line"]

    def test_names_and_colours_stay(self):
        blue = PortionPlan(name="sea", share_percent=100, colours=(starting_colour(colorants()["mica-blue"]),))
        first, second = with_portion([blue])
        assert (first.name, first.colours, second.name) == ("sea", blue.colours, "second")


class TestDrops:
    def test_twenty_to_forty_drops_are_a_millilitre_and_the_weight_is_what_is_planned(self):
        drops = drops_weighed("lavender", 60, 500)
        density = scents()["lavender"].density_g_per_ml
        assert (drops.low_g, drops.high_g) == pytest.approx((60 / 40 * density, 60 / 20 * density))
        assert drops.low_g < drops.weight_g < drops.high_g
        assert drops.percent_of_oils == pytest.approx(100 * drops.weight_g / 500, abs=0.005)
        assert "weigh the weight" in plain(drops.caution)

    @pytest.mark.parametrize(
        ("scent", "drops", "oils_g", "paths"),
        [("nothing", 10, 500, ["scent"]), ("lavender", 0, 500, ["drops"]), ("lavender", 5001, 0, ["drops", "oils_g"])],
    )
    def test_what_cannot_be_is_refused(self, scent, drops, oils_g, paths):
        with pytest.raises(FormulaError) as refused:
            drops_weighed(scent, drops, oils_g)
        assert [one.path for one in refused.value.problems] == paths
