"""A batch fits its moulds, its weights add up, and what cannot be is said at its place."""

from math import pi

import pytest
from hypothesis import given
from hypothesis import strategies as st

from core.batches import GUEST, MILK, loaf, plan
from core.strategies import formulas
from sapolin.core.bar.calculation import calculate
from sapolin.core.batch.additions import Additions
from sapolin.core.batch.moulds import (
    Cavities,
    Cylinder,
    HalfSpheres,
    Mould,
    Slab,
    capacity_ml,
    height_mm,
    mould_problems,
)
from sapolin.core.batch.plan import BatchPlan, Cut, MouldUse, as_chosen, plan_problems
from sapolin.core.batch.planned import plan_batch, scaled
from sapolin.core.batch.procedure import steps_of
from sapolin.core.batch.readiness import allergens_of, readiness
from sapolin.core.batch.sheet import sheet_of
from sapolin.core.batch.targets import weigh_targets
from sapolin.core.materials.ingredients import colorants, scents
from sapolin.core.production.actual import actual_batch
from sapolin.core.quantities.diagnostics import FormulaError
from sapolin.core.quantities.text import plain


class TestMoulds:
    @pytest.mark.parametrize(
        ("shape", "ml"),
        [
            (Slab(kind="slab", length_mm=300, width_mm=200, height_mm=40), 2400),
            (Cylinder(kind="cylinder", diameter_mm=80, length_mm=300), pi * 4 * 4 * 30),
            (HalfSpheres(kind="half_spheres", diameter_mm=60, count=2), 4 / 3 * pi * 27),
            (Cavities(kind="cavities", count=12, cavity_ml=95), 1140),
        ],
    )
    def test_volume(self, shape, ml):
        assert capacity_ml(Mould(name="m", shape=shape)) == pytest.approx(ml)

    def test_headroom_calibration_and_height_agree(self):
        use = loaf(headroom_mm=10)
        mould = use.mould.model_copy(update={"calibration_percent": 96.0})
        ml = capacity_ml(mould, 10)
        assert ml == pytest.approx(25 * 8 * 6 * 0.96)
        assert height_mm(mould, ml) == pytest.approx(60)

    @pytest.mark.parametrize(
        ("shape", "headroom", "code", "field"),
        [
            (Slab(kind="loaf", length_mm=0, width_mm=80, height_mm=70), 0, "absurd_mould", "shape.length_mm"),
            (Slab(kind="loaf", length_mm=-25, width_mm=80, height_mm=70), 0, "absurd_mould", "shape.length_mm"),
            (Slab(kind="loaf", length_mm=25000, width_mm=80, height_mm=70), 0, "absurd_mould", "shape.length_mm"),
            (Slab(kind="loaf", length_mm=None, width_mm=80, height_mm=70), 0, "missing", "shape.length_mm"),
            (Slab(kind="loaf", length_mm=250, width_mm=80, height_mm=70), -3, "above_the_rim", "headroom_mm"),
            (Slab(kind="loaf", length_mm=250, width_mm=80, height_mm=70), 70, "no_room_left", "headroom_mm"),
            (Cavities(kind="cavities", count=6, cavity_ml=90), 5, "no_headroom", "headroom_mm"),
            (Cavities(kind="cavities", count=0, cavity_ml=90), 0, "absurd_cavities", "shape.count"),
        ],
    )
    def test_what_cannot_be_is_said_where_it_is(self, shape, headroom, code, field):
        (problem,) = mould_problems(Mould(name="m", shape=shape), headroom)
        assert (problem.code, problem.path) == (code, field)

    def test_centimetres_are_recognised(self):
        shape = Slab(kind="loaf", length_mm=250, width_mm=80, height_mm=4)
        (problem,) = mould_problems(Mould(name="m", shape=shape))
        assert problem.code == "mould_in_centimetres"


class TestSize:
    def test_moulds_are_filled_and_nothing_is_over(self):
        planned = plan_batch(plan())
        assert planned.volume.total_ml == pytest.approx(1300, rel=2e-4)
        assert planned.moulds[0].height_mm == pytest.approx(65, rel=2e-4)
        assert (planned.size.over_ml, planned.size.short_ml) == (0, 0)
        assert 0.99 < planned.volume.density_g_per_ml < 1.06

    @given(formulas())
    def test_any_formula_fills_its_mould_and_stays_the_bar_it_is(self, formula):
        planned = plan_batch(BatchPlan(formula=formula, moulds=(loaf(),)))
        assert planned.volume.total_ml == pytest.approx(1300, rel=1e-3)
        before = [oil.share_percent for oil in calculate(formula).oils]
        assert [oil.share_percent for oil in planned.result.oils] == pytest.approx(before)
        assert planned.size.batter_g == pytest.approx(planned.volume.total_ml * planned.volume.density_g_per_ml)

    @pytest.mark.parametrize(
        ("size", "quantity", "value"),
        [
            ({"by": "oils_g", "value": 800.0}, "oils_g", 800),
            ({"by": "batter_g", "value": 1500.0}, "batter_g", 1500),
        ],
    )
    def test_by_weight(self, size, quantity, value):
        assert getattr(plan_batch(plan(size=size)).size, quantity) == pytest.approx(value)

    def test_by_bars_of_a_cured_weight(self):
        planned = plan_batch(plan(size={"by": "bars", "value": 10.0, "cured_bar_g": 110.0}))
        assert planned.size.batter_g * planned.volume.cured_fraction == pytest.approx(1100)

    def test_by_the_oil_that_runs_out_first(self):
        size = {"by": "limiting", "available_g": {"palm": 150.0, "shea": 100.0, "neem": 1.0}}
        planned = plan_batch(plan(size=size))
        assert planned.size.limiting == "Palm"
        assert planned.size.oils_g == pytest.approx(500)

    def test_over_and_short_are_told(self):
        over = plan_batch(plan(size={"by": "oils_g", "value": 1080.0}))
        assert over.size.over_ml > 150
        # 1.4213 mL of batter for each gram of oils in 1,300 mL: 235 mL are for a spare cavity, 548 mL for another mould.
        assert "have a spare cavity of 240" in plain(over.size.words)
        much = plan_batch(plan(size={"by": "oils_g", "value": 1300.0}))
        assert plain(much.size.words).endswith("have another mould for 550 mL ready, or make less.")
        short = plan_batch(plan(size={"by": "oils_g", "value": 700.0}))
        assert short.size.short_ml > 150
        assert "bars" in plain(short.size.words)
        assert any(one.code == "mould_too_small" for one in readiness(plan(), over))

    def test_a_solution_shrinks_what_water_alone_would_take(self):
        """A litre of oils at 0.915 and a third of lye: the guide's own sum."""
        formula = {"water": {"by": "water_to_lye", "value": 2.0}}
        planned = plan_batch(plan(formula=formula, size={"by": "oils_g", "value": 1000.0}))
        lye = planned.result.lye.naoh_g
        assert planned.volume.solution_ml == pytest.approx(3 * lye / 1.362, rel=0.01)
        assert planned.volume.oils_ml == pytest.approx(1000 / 0.915, rel=0.02)

    @given(st.floats(0.1, 20))
    def test_scaling_keeps_the_bar(self, factor):
        formula = plan(formula={"liquids": [MILK]}).formula
        one, other = calculate(formula), calculate(scaled(formula, factor)[0])
        assert other.lye.superfat_total_percent == pytest.approx(one.lye.superfat_total_percent)
        assert other.lye.naoh_g == pytest.approx(one.lye.naoh_g * factor, rel=1e-6)

    def test_weights_add_up_in_grams_and_ounces(self):
        planned = plan_batch(plan(formula={"liquids": [MILK]}))
        for weighing in (planned.result.weights, planned.ounces):
            assert sum(weighing.oils) == pytest.approx(weighing.oils_total, abs=1e-9)
            components = weighing.oils_total + weighing.naoh + weighing.water + sum(weighing.liquids)
            assert components == pytest.approx(weighing.batter, abs=1e-6)


class TestLyeAndWaterOfTheDay:
    def test_from_master_lye_the_batch_is_the_same(self):
        dry = plan_batch(plan(choices={"lye": "dry"})).result
        master = plan_batch(plan(choices={"lye": "master"})).result
        assert master.lye.naoh_g == pytest.approx(dry.lye.naoh_g)
        assert master.lye.master.naoh_solution_g == pytest.approx(2 * dry.lye.naoh_g)
        assert master.water.plain_water_g == pytest.approx(dry.water.plain_water_g - dry.lye.naoh_g)

    def test_less_water_than_the_formula_has(self):
        as_is = plan_batch(plan(size={"by": "oils_g", "value": 1000.0}))
        drier = plan_batch(plan(size={"by": "oils_g", "value": 1000.0}, choices={"lye_concentration_percent": 40.0}))
        assert drier.result.water.lye_concentration_percent == pytest.approx(40.0)
        assert drier.result.lye.naoh_g == pytest.approx(as_is.result.lye.naoh_g)
        assert drier.volume.total_ml < as_is.volume.total_ml
        assert drier.formula.water.value == 40.0

    def test_too_little_water_is_refused_at_its_own_place(self):
        with pytest.raises(FormulaError) as raised:
            plan_batch(plan(choices={"lye_concentration_percent": 60.0}))
        assert {problem.path for problem in raised.value.problems} == {"choices.lye_concentration_percent"}

    def test_nothing_chosen_is_the_formula(self):
        assert as_chosen(plan()) == plan().formula


class TestCutting:
    def test_a_loaf_is_cut_across_and_nothing_is_lost(self):
        planned = plan_batch(plan(moulds=(loaf(bar_mm=25, kerf_mm=1, trim_mm=5),)))
        cut = planned.moulds[0].cuts[0]
        assert cut.bars == 9
        assert [piece.kind for piece in cut.pieces] == ["trim"] + ["bar"] * 9 + ["trim"]
        lengths = sum(piece.width_mm for piece in cut.pieces) + 10 * 1
        assert lengths == pytest.approx(250)
        assert cut.bars * cut.wet_g + cut.left_over_g == pytest.approx(planned.moulds[0].batter_g)
        assert cut.cured_g < cut.wet_g

    @pytest.mark.parametrize(("bar_mm", "bars"), [(25.5, 9), (25.6, 8)])
    def test_each_trim_is_cut_off_as_well(self, bar_mm, bars):
        """250 mm less two trims of 5 and the cut behind each leave 238: nine bars of 25.5 with eight cuts take 237.5."""
        planned = plan_batch(plan(moulds=(loaf(bar_mm=bar_mm, kerf_mm=1, trim_mm=5),)))
        assert planned.moulds[0].cuts[0].bars == bars

    def test_a_slab_is_cut_in_a_grid_either_way(self):
        shape = Slab(kind="slab", length_mm=300, width_mm=200, height_mm=40)
        use = MouldUse(mould=Mould(name="Slab", shape=shape), cut=Cut(bar_mm=80, bar_width_mm=50, kerf_mm=0))
        first, turned = plan_batch(plan(moulds=(use,))).moulds[0].cuts
        assert (first.bars, turned.bars) == (12, 12)
        assert (first.bar_thickness_mm, first.bar_width_mm) == (80, 50)
        assert (turned.bar_thickness_mm, turned.bar_width_mm) == (50, 80)
        assert first.bar_ml == pytest.approx(80 * 50 * 40 / 1000)

    def test_alternatives_of_a_loaf_have_a_bar_more_or_fewer(self):
        cuts = plan_batch(plan(moulds=(loaf(bar_mm=25, kerf_mm=0),))).moulds[0].cuts
        assert [cut.bars for cut in cuts] == [10, 9, 11]
        for cut in cuts:
            assert all(piece.x_mm + piece.width_mm <= 250 + 1e-6 for piece in cut.pieces)

    @given(st.floats(6, 120), st.floats(0, 5), st.floats(0, 30))
    def test_pieces_never_overlap_nor_leave_the_mould(self, bar, kerf, trim):
        cut = plan_batch(plan(moulds=(loaf(bar_mm=bar, kerf_mm=kerf, trim_mm=trim),))).moulds[0].cuts[0]
        at = 0.0
        for piece in cut.pieces:
            assert piece.x_mm >= at - 1e-6
            at = piece.x_mm + piece.width_mm
        assert at <= 250 + 1e-6

    @given(st.floats(10, 60), st.floats(0, 4))
    def test_halved_lengthwise_every_slice_makes_two(self, bar, kerf):
        whole, halved = (
            plan_batch(plan(moulds=(loaf(bar_mm=bar, kerf_mm=kerf, halved=halved),))).moulds[0]
            for halved in (False, True)
        )  # fmt: skip
        one, two = whole.cuts[0], halved.cuts[0]
        assert two.bars == 2 * one.bars
        assert two.bar_width_mm == pytest.approx((80 - kerf) / 2)
        # What the lengthwise cut takes is missing from both.
        assert 2 * two.wet_g == pytest.approx(one.wet_g * (80 - kerf) / 80)
        assert two.bars * two.wet_g + two.left_over_g == pytest.approx(halved.batter_g)
        assert {cut.bars % 2 for cut in halved.cuts} == {0}

    def test_a_round_log_makes_half_rounds(self):
        shape = Cylinder(kind="cylinder", diameter_mm=76, length_mm=300)
        use = MouldUse(mould=Mould(name="Tube", shape=shape), cut=Cut(bar_mm=25, kerf_mm=0, halved=True))
        cut = plan_batch(plan(moulds=(use,))).moulds[0].cuts[0]
        assert plain(cut.label) == "24 half rounds of 25 mm"
        assert cut.bar_ml == pytest.approx(25 * 3.14159265 * 38**2 / 2 / 1000)

    def test_whole_rounds_are_bars(self):
        shape = Cylinder(kind="cylinder", diameter_mm=76, length_mm=300)
        use = MouldUse(mould=Mould(name="Tube", shape=shape), cut=Cut(bar_mm=25, kerf_mm=0))
        assert plain(plan_batch(plan(moulds=(use,))).moulds[0].cuts[0].label) == "12 bars of 25 mm"

    def test_both_ends_are_trimmed_with_a_kerf_each(self):
        """250 mm: 10 of trim and 2 of kerf at each end leave 226 for bars of 27 and 2 between them: 7 take 201, 8 would 230."""
        cut = plan_batch(plan(moulds=(loaf(bar_mm=27.0, kerf_mm=2.0, trim_mm=10.0),))).moulds[0].cuts[0]
        bars = [piece for piece in cut.pieces if piece.kind == "bar"]
        assert [piece.x_mm for piece in bars] == [12.0 + 29 * i for i in range(7)]
        assert [(piece.x_mm, piece.width_mm) for piece in cut.pieces if piece.kind == "trim"] == [
            (0.0, 10.0),
            (215.0, 35.0),
        ]

    def test_half_spheres_count_full_ones(self):
        use = MouldUse(mould=Mould(name="Domes", shape=HalfSpheres(kind="half_spheres", diameter_mm=70, count=6)))
        planned = plan_batch(plan(moulds=(use,), size={"by": "oils_g", "value": 250.0}))
        cut = planned.moulds[0].cuts[0]
        assert cut.bars == int(planned.volume.total_ml // cut.bar_ml)


class TestAdditions:
    def test_scent_adds_to_the_batter_and_colours_take_their_oil_from_the_batch(self):
        bare = plan_batch(plan(size={"by": "oils_g", "value": 1000.0}))
        portions = [
            {"name": "white", "share_percent": 60.0},
            {"name": "blue", "share_percent": 40.0, "colours": [{"colorant": "mica-blue", "value": 1.0}]},
        ]
        lines = [{"scent": "lavender", "percent_of_oils": 2.5, "limit_percent": 3.0}]
        both = plan_batch(plan(size={"by": "oils_g", "value": 1000.0}, portions=portions, scents=lines))
        (colour,) = both.portions[1].colours
        # One teaspoon of 2 g for 500 g, of 400 g of oils.
        assert colour.weight_g == pytest.approx(1.6)
        assert colour.tsp == pytest.approx(0.8)
        assert colour.disperse_g == pytest.approx(3.2)
        assert both.disperse_from == "Olive, refined"
        assert both.scents[0].weight_g == pytest.approx(25)
        # 25 g of lavender; grams of mica by their own density; oil to disperse in is the batch's own.
        lavender, mica = scents()["lavender"].density_g_per_ml, colorants()["mica-blue"].density_g_per_ml
        additions = Additions(both.scents, both.portions)
        assert (additions.added_g, additions.added_ml) == pytest.approx((26.6, 25 / lavender + 1.6 / mica))
        weighed = additions.with_weights({"scent:0": 20.0, "colour:1:0": 2.0})
        assert (weighed.added_g, weighed.added_ml) == pytest.approx((22.0, 20 / lavender + 2 / mica))
        assert both.size.batter_g == pytest.approx(bare.size.batter_g + 25 + 1.6)
        assert sum(portion.batter_g for portion in both.portions) == pytest.approx(both.size.batter_g)

    @pytest.mark.parametrize(
        ("changes", "code", "field"),
        [
            (
                {"portions": [{"name": "a", "share_percent": 50.0}, {"name": "b", "share_percent": 40.0}]},
                "portions_not_100", "portions",
            ),
            (
                {"portions": [{"name": "a", "share_percent": 100.0, "colours": [{"colorant": "mica-blue", "value": 10.0}]}]},
                "many_times_usual", "portions[0].colours[0].value",
            ),
            ({"scents": [{"scent": "clove", "percent_of_oils": None}]}, "missing", "scents[0].percent_of_oils"),
            ({"moulds": ()}, "no_mould_to_size", "moulds"),
            ({"size": {"by": "oils_g", "value": -5.0}}, "not_within", "size.value"),
            ({"size": {"by": "limiting", "available_g": {"neem": 10.0}}}, "nothing_limits", "size.available_g"),
            ({"choices": {"room_c": 68.0}}, "fahrenheit", "choices.room_c"),
            ({"choices": {"room_c": None}}, "missing", "choices.room_c"),
            ({"moulds": (loaf(headroom_mm=None),)}, "missing", "moulds[0].headroom_mm"),
            ({"moulds": (loaf(kerf_mm=None),)}, "missing", "moulds[0].cut.kerf_mm"),
            ({"moulds": (loaf(headroom_mm=-2),)}, "above_the_rim", "moulds[0].headroom_mm"),
            ({"moulds": (loaf(bar_mm=2),)}, "not_within", "moulds[0].cut.bar_mm"),
        ],
    )  # fmt: skip
    def test_what_cannot_be_is_refused_where_it_is(self, changes, code, field):
        asked = plan(**changes)
        assert (code, field) in {(problem.code, problem.path) for problem in plan_problems(asked)}
        with pytest.raises(FormulaError):
            plan_batch(asked)

    def test_the_formulas_own_problems_come_first_and_say_so(self):
        with pytest.raises(FormulaError) as refused:
            plan_batch(plan(formula={"lye": {"naoh_purity_percent": None}}))
        assert refused.value.problems[0].path == "formula.lye.naoh_purity_percent"


class TestReadiness:
    def codes(self, **changes) -> set[str]:
        asked = plan(**changes)
        return {one.code for one in readiness(asked, plan_batch(asked))}

    def test_a_plain_bar_in_a_roomy_mould_has_little_to_say(self):
        assert self.codes() == {"allergens"}

    @pytest.mark.parametrize(
        ("code", "changes"),
        [
            ("scorched_milk", {"formula": {"liquids": [MILK]}, "choices": {"milk": "chilled"}}),
            ("milk_overheats", {"formula": {"liquids": [MILK]}, "choices": {"cover": "insulate"}}),
            ("too_cool_for_fats", {"formula": {"liquids": [MILK]}}),
            ("no_bar_from_cut", {"moulds": (loaf(bar_mm=251),)}),
            ("gel_not_wanted", {"formula": {"process": {"gel": "prevented"}}, "choices": {"cover": "heat_pad"}}),
            ("gel_in_fridge", {"formula": {"process": {"gel": "encouraged"}}, "choices": {"cover": "fridge"}}),
            ("no_scent_limit", {"scents": [{"scent": "lavender", "percent_of_oils": 2.0}]}),
            ("scent_hurries", {"scents": [{"scent": "clove", "percent_of_oils": 0.5, "limit_percent": 1.0}]}),
            ("tight_mould", {"moulds": (loaf(headroom_mm=0),)}),
            ("no_room_for_peaks", {"choices": {"top": "textured"}}),
            (
                "muddy_colours",
                {
                    "portions": [
                        {"name": "a", "share_percent": 50.0, "colours": [{"colorant": "mica-blue", "value": 1.0}]},
                        {"name": "b", "share_percent": 50.0, "colours": [{"colorant": "mica-gold", "value": 1.0}]},
                    ]
                },
            ),
        ],
    )
    def test_each_risk_is_found_where_it_is_and_not_elsewhere(self, code, changes):
        assert code in self.codes(**changes)
        assert code not in self.codes()

    @pytest.mark.parametrize("cover", ["insulate", "cover", "heat_pad", "oven", "fridge"])
    @pytest.mark.parametrize("gel", ["natural", "encouraged", "prevented"])
    def test_warmth_and_gel_agree_or_it_is_said(self, gel, cover):
        found = self.codes(formula={"process": {"gel": gel}}, choices={"cover": cover})
        wrong = {
            "encouraged": {"fridge": "gel_in_fridge"},
            "prevented": dict.fromkeys(("insulate", "heat_pad", "oven"), "gel_not_wanted"),
        }
        assert found & {"gel_in_fridge", "gel_not_wanted"} == {one for one in [wrong.get(gel, {}).get(cover)] if one}

    @pytest.mark.parametrize(("portions", "code"), [(2, "scent_hurries"), (3, "scent_hurries_portions")])
    def test_a_scent_that_hurries_leaves_no_time_for_three_colours(self, portions, code):
        clove = {"scents": [{"scent": "clove", "percent_of_oils": 0.5, "limit_percent": 1.0}]}
        shares = [100.0 - 30.0 * (portions - 1), *[30.0] * (portions - 1)]
        named = [{"name": f"part {i}", "share_percent": share} for i, share in enumerate(shares)]
        found = self.codes(**clove, portions=named)
        assert {one for one in found if one.startswith("scent_hurries")} == {code}

    @pytest.mark.parametrize(
        ("lye_percent", "cover", "spray", "gel", "ashes"),
        [
            (27.0, "fridge", False, "natural", True), (28.9, "fridge", False, "natural", True),
            (29.1, "fridge", False, "natural", False), (33.0, "fridge", False, "natural", False),
            (27.0, "fridge", False, "prevented", True), (27.0, "fridge", False, "encouraged", False),
            (27.0, "fridge", True, "natural", False), (27.0, "cover", False, "natural", False),
            (27.0, "insulate", False, "natural", False), (27.0, "heat_pad", False, "natural", False),
            (27.0, "oven", False, "natural", False),
        ],
    )  # fmt: skip
    def test_a_thin_lye_kept_cold_turns_ashy(self, lye_percent, cover, spray, gel, ashes):
        formula = {"water": {"by": "lye_concentration_percent", "value": lye_percent}, "process": {"gel": gel}}
        assert ("ash" in self.codes(formula=formula, choices={"cover": cover, "alcohol_spray": spray})) is ashes

    def test_allergens_of_scents_liquids_and_oils_are_named_once(self):
        asked = plan(
            formula={
                "liquids": [MILK],
                "additives": [{"additive": "goat-milk-powder", "by": "percent_of_oils", "value": 1.0}],
            },
            scents=[{"scent": "lavender", "percent_of_oils": 2.0}],
        )
        found = allergens_of(asked)
        assert found.count("milk") == 1
        assert "linalool" in found


class TestScentLimits:
    """Suppliers state limits for the finished product."""

    def test_the_limit_is_held_against_the_finished_soap(self):
        lines = [{"scent": "lavender", "percent_of_oils": 3.0, "limit_percent": 2.5}]
        asked = plan(size={"by": "oils_g", "value": 1000.0}, scents=lines)
        planned = plan_batch(asked)
        # 30 g in 1000 g oils + lye + 11 % residual water: solids are oils, NaOH and scent.
        solids = 1000 + planned.result.lye.naoh_g + 30
        assert planned.scents[0].percent_of_product == pytest.approx(100 * 30 / (solids / 0.89), rel=1e-3)
        assert planned.scents[0].percent_of_product < 2.5

    def test_over_the_limit_it_cannot_be_planned_and_the_most_is_told(self):
        asked = plan(scents=[{"scent": "clove", "percent_of_oils": 2.0, "limit_percent": 0.5}])
        with pytest.raises(FormulaError) as refused:
            plan_batch(asked)
        (problem,) = refused.value.problems
        assert (problem.code, problem.path) == ("scent_over_limit", "scents[0].percent_of_oils")
        most = problem.params["most"].value
        allowed = plan(scents=[{"scent": "clove", "percent_of_oils": most, "limit_percent": 0.5}])
        assert plan_batch(allowed).scents[0].percent_of_product == pytest.approx(0.5, rel=0.02)

    def test_every_scent_over_its_limit_is_told(self):
        lines = [
            {"scent": scent, "percent_of_oils": 1.0, "limit_percent": limit}
            for scent, limit in (("lavender", 3.0), ("clove", 0.3), ("patchouli", None), ("peppermint", 0.4))
        ]
        with pytest.raises(FormulaError) as refused:
            plan_batch(plan(scents=lines))
        assert [one.path for one in refused.value.problems] == [
            "scents[1].percent_of_oils",
            "scents[3].percent_of_oils",
        ]

    def test_scents_that_share_a_limited_substance_add_up(self):
        shared = set(scents()["lavender"].declarable) & set(scents()["sweet-orange"].declarable)
        assert shared
        lines = [
            {"scent": scent, "percent_of_oils": 1.5, "limit_percent": 1.5} for scent in ("lavender", "sweet-orange")
        ]
        both, one = plan(scents=lines), plan(scents=lines[:1])
        codes = {one.code for one in readiness(both, plan_batch(both))}
        assert "shared_limit" in codes
        assert "shared_limit" not in {one.code for one in readiness(one, plan_batch(one))}


class TestMuch:
    def test_kilograms_of_lye_are_warned_of(self):
        few = plan(size={"by": "oils_g", "value": 5000.0}, moulds=())
        many = plan(size={"by": "oils_g", "value": 9000.0}, moulds=())
        assert plan_batch(many).result.lye.naoh_g > 1000 > plan_batch(few).result.lye.naoh_g
        assert "much_lye" in {one.code for one in readiness(many, plan_batch(many))}
        assert "much_lye" not in {one.code for one in readiness(few, plan_batch(few))}

    @pytest.mark.parametrize(("capacity", "codes"), [
        (2000.0, {"beyond_the_scale", "bowl_beyond_the_scale"}), (5000.0, {"bowl_beyond_the_scale"}), (None, set()),
    ])  # fmt: skip
    def test_what_the_scale_cannot_take_is_said(self, capacity, codes):
        asked = plan(size={"by": "oils_g", "value": 5200.0}, moulds=(), choices={"scale_capacity_g": capacity})
        found = {one.code for one in readiness(asked, plan_batch(asked))}
        assert found & {"beyond_the_scale", "bowl_beyond_the_scale"} == codes

    def test_a_lump_is_not_counted_in_teaspoons(self):
        portions = [{"name": "blue", "share_percent": 100.0,
                     "colours": [{"colorant": "mica-blue", "by": "tsp_per_500_g", "value": 2.0}]}]  # fmt: skip
        asked = plan(size={"by": "oils_g", "value": 9000.0}, moulds=(), portions=portions)
        step = next(step for step in steps_of(asked, plan_batch(asked)) if step.id == "weigh-colour:0:0")
        assert plan_batch(asked).portions[0].colours[0].tsp > 30
        assert "tsp" not in step.text


class TestOrderOfWork:
    def test_lye_is_weighed_last_and_caustic_steps_are_marked(self):
        asked = plan(formula={"liquids": [MILK]})
        steps = steps_of(asked, plan_batch(asked))
        weighings = [step.weigh.item for step in steps if step.weigh]
        assert weighings[-1] == "lye:naoh"
        assert [step.id for step in steps if step.caustic] == [
            "protect", "weigh-lye:naoh", "make-lye", "combine", "trace", "pour", "finish", "cover", "wash-up",
        ]  # fmt: skip
        ids = [step.id for step in steps]
        assert ids.index("gear") == 0
        assert ids.index("make-lye") < ids.index("temperatures") < ids.index("combine") < ids.index("pour")
        assert len(ids) == len(set(ids))

    def test_lye_has_the_strictest_tolerance(self):
        targets = {target.item: target for target in weigh_targets(plan_batch(plan()))}
        lye, oil = targets["lye:naoh"], targets["oil:0"]
        assert lye.tolerance_g / lye.target_g < oil.tolerance_g / oil.target_g
        assert lye.tolerance_g <= 0.3

    def test_targets_are_the_weights_of_the_sheet(self):
        planned = plan_batch(plan(formula={"liquids": [MILK]}))
        targets = {target.item: target.target_g for target in weigh_targets(planned)}
        assert sum(targets[f"oil:{i}"] for i in range(len(GUEST))) == pytest.approx(planned.result.weights.oils_total)
        assert targets["lye:naoh"] == planned.result.weights.naoh
        assert targets["liquid:0"] == planned.result.weights.liquids[0]

    def test_hot_process_cooks(self):
        asked = plan(formula={"process": {"method": "hot"}})
        assert "cook" in [step.id for step in steps_of(asked, plan_batch(asked))]


def test_what_there_is_nothing_of_is_no_step_no_row_and_stops_nothing():
    blend = {"total_oils_g": 1000.0, "lines": [
        {"oil": "olive-refined", "value": 70.0}, {"oil": "coconut", "value": 30.0}, {"oil": "castor", "value": 0.0},
    ]}  # fmt: skip
    liquids = [{"liquid": "goat-milk", "use": "dissolves_lye", "by": "percent_of_water", "value": 0.0}]
    planned = plan_batch(of := plan({"blend": blend, "liquids": liquids}))
    weighed = {target.item for target in weigh_targets(planned)}
    assert {"oil:0", "oil:1"} <= weighed
    assert not {"oil:2", "liquid:0"} & weighed
    assert all(step.weigh is None or step.weigh.target_g > 0 for step in steps_of(of, planned))
    names = [str(row.name) for section in sheet_of(of, planned, "B-1").sections for row in section.rows]
    assert not any("astor" in name for name in names)
    assert actual_batch(planned, {target.item: target.target_g for target in weigh_targets(planned)}).problems == ()
