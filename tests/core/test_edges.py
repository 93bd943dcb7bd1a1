"""Arithmetic at its edges, redone by hand: where a sign, a default or a bound could turn and a round number would hide it."""

from dataclasses import replace

import pytest
from scipy.optimize import minimize

from core.batches import loaf, plan
from core.strategies import weight_formula
from core.test_swapping import seeded_question
from sapolin.core.advice.report import report
from sapolin.core.bar.calculation import calculation_of
from sapolin.core.batch.moulds import Cavities, Cylinder, HalfSpheres, Mould, capacity_ml, rim_ml
from sapolin.core.batch.plan import Cut, MouldUse, SizeBy
from sapolin.core.batch.planned import plan_batch, scaled
from sapolin.core.formula.blend import converted
from sapolin.core.formula.changes import changes_between
from sapolin.core.formula.document import Blend, OilLine
from sapolin.core.formula.verify import CausticCheckError, verify_lye
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.materials.own import material_problems
from sapolin.core.optimise.swap.search import _corners, _triangle_bounds
from sapolin.core.optimise.trial_set import trial_set
from sapolin.core.quantities.diagnostics import FormulaError
from sapolin.core.quantities.text import plain


class TestTheBoundOfThreeOils:
    @pytest.mark.parametrize("seed", range(12))
    def test_it_is_the_least_over_the_whole_triangle(self, seed):
        """Against a general minimiser, from every corner and the middle."""
        question = replace(seeded_question(seed), share=12.0, most_oils=3, movers=())
        corners = _corners(len(question.rows))
        pull, rest = question.rows @ question.target, float(question.target @ question.target)
        bounds = _triangle_bounds(question.gram, pull, rest, corners, question)
        for three, bound in list(zip(corners, bounds, strict=True))[::7]:
            rows = question.rows[three]

            def square(shares, rows=rows):
                off = shares @ rows - question.target
                return float(off @ off)

            starts = [[8.0, 2.0, 2.0], [2.0, 8.0, 2.0], [2.0, 2.0, 8.0], [4.0, 4.0, 4.0]]
            found = min(
                minimize(
                    square, start, method="SLSQP", bounds=[(2.0, 8.0)] * 3, options={"maxiter": 500, "ftol": 1e-14},
                    constraints={"type": "eq", "fun": lambda shares: sum(shares) - 12.0},
                ).fun
                for start in starts
            )  # fmt: skip
            assert bound == pytest.approx(found, rel=1e-4, abs=1e-6)


class TestBlends:
    def test_weights_beside_shares_are_what_the_shares_leave(self):
        """300 g beside 40 %: they are the other 60 %, so all is 500 g and the 40 % are 200 g."""
        lines = (OilLine(oil="olive-refined", value=40.0), OilLine(oil="coconut", by="weight_g", value=300.0))
        grams = converted(Blend(total_oils_g=None, lines=lines), "weight_g")
        assert [line.value for line in grams.lines] == pytest.approx([200.0, 300.0])

    def test_an_empty_weight_weighs_nothing(self):
        before = weight_formula({"olive-refined": 600.0, "coconut": 400.0})
        lines = (*before.blend.lines, OilLine(oil="shea", by="weight_g", value=None))
        after = before.model_copy(update={"blend": before.blend.model_copy(update={"lines": lines})})
        assert [plain(change) for change in changes_between(before, after)] == ["Shea butter in at 0 %"]


class TestTrials:
    def test_water_goes_four_points_either_way(self):
        base = weight_formula(
            {"olive-refined": 600.0, "coconut": 400.0}, water={"by": "lye_concentration_percent", "value": 33.0}
        )
        asked = {trial.id: trial.formula.water.value for trial in trial_set(base)}
        assert (asked["water+4"], asked["water-4"]) == (37.0, 29.0)

    def test_every_single_change_is_offered(self):
        base = weight_formula({"olive-refined": 600.0, "coconut": 400.0}, superfat=2.0)
        ids = [trial.id for trial in trial_set(base)]
        # Superfat two lower would be none, so that one is left out and the rest goes on.
        assert ids[:2] == ["base", "superfat+3"]
        assert {"sodium-lactate-60", "sugar", "gel-encouraged", "gel-prevented"} <= set(ids)

    def test_a_trade_moves_the_points_it_says(self):
        base = weight_formula({"olive-refined": 500.0, "coconut": 400.0, "castor": 100.0})
        trade = next(trial for trial in trial_set(base) if trial.id.startswith("trade"))
        shares = {line.oil: line.value for line in trade.formula.blend.lines}
        assert sum(shares.values()) == pytest.approx(100.0)
        assert (
            sum(abs(shares[oil] - was) for oil, was in (("olive-refined", 50), ("coconut", 40), ("castor", 10))) == 10.0
        )


def test_weights_beside_shares_grow_as_they_are():
    """The total of a blend that is partly weighed follows from it: nothing is rounded to 0.1 g."""
    formula = weight_formula({"olive-refined": 700.0, "coconut": 300.0})
    lines = (formula.blend.lines[0], OilLine(oil="coconut", by="percent_of_oils", value=30.0))
    mixed = formula.model_copy(update={"blend": Blend(total_oils_g=1234.56, lines=lines)})
    half, factor = scaled(mixed, 0.33333)
    assert (factor, half.blend.total_oils_g) == (0.33333, 1234.56)
    assert [line.value for line in half.blend.lines] == [pytest.approx(700 * 0.33333), 30.0]
    shares, factor = scaled(formula.model_copy(update={"blend": Blend(total_oils_g=1000.0, lines=lines[1:])}), 0.33333)
    assert (factor, shares.blend.total_oils_g) == (0.3333, 333.3)


class TestMoulds:
    def test_a_tray_has_one_cavity_unless_it_says_more(self):
        """Half a ball of 80 mm: π / 12 × 8³ cm³."""
        assert rim_ml(HalfSpheres(kind="half_spheres", diameter_mm=80.0)) == pytest.approx(134.04, abs=0.01)
        assert capacity_ml(Mould(name="One", shape=HalfSpheres(kind="half_spheres", diameter_mm=80.0))) > 0

    def test_what_comes_out_of_cavities_has_no_cut_sides(self):
        """Twelve cavities of 95 mL for 1000 g of oils: as many are full as the batter fills, and nothing is cut."""
        tray = MouldUse(mould=Mould(name="Tray", shape=Cavities(kind="cavities", count=12, cavity_ml=95.0)))
        planned = plan_batch(plan(moulds=(tray,), size=SizeBy(by="oils_g", value=700.0)))
        [single] = planned.moulds[0].cuts
        assert single.bars == int(planned.moulds[0].batter_ml / 95) < 12
        assert (single.length_mm, single.width_mm, single.pieces) == (0, 0, ())
        assert (single.bar_thickness_mm, single.bar_width_mm, single.bar_height_mm) == (0, 0, 0)

    def test_another_number_of_bars_shares_what_both_trims_leave(self):
        """250 mm less 7 at each end, with a cut of 1 mm each: 234; less 10 cuts between 11 bars, 224 / 11 = 20.3 mm; less 8
        between 9, 226 / 9 = 25.1."""
        planned = plan_batch(plan(moulds=(loaf(bar_mm=22.0, trim_mm=7.0, kerf_mm=1.0),)))
        first, *others = planned.moulds[0].cuts
        assert first.bars == 10
        assert [plain(cut.label) for cut in others] == ["9 bars of 25.1 mm", "11 bars of 20.3 mm"]

    def test_a_tube_is_cut_as_far_as_it_is_filled(self):
        """One bar more shares what is filled, not the empty part."""
        shape = Cylinder(kind="cylinder", diameter_mm=76.0, length_mm=300.0)
        use = MouldUse(mould=Mould(name="Tube", shape=shape), headroom_mm=60.0, cut=Cut(bar_mm=24.0, kerf_mm=1.0))
        fill = plan_batch(plan(moulds=(use,))).moulds[0]
        first, *others = fill.cuts
        assert fill.height_mm == pytest.approx(240.0, abs=0.5)
        assert {cut.bars for cut in others} == {first.bars - 1, first.bars + 1}


class TestTemperatures:
    def test_above_the_hardest_fat_the_window_is_half_as_wide(self):
        """Stearic acid at 56 °C: from 58, and half of the usual 11 degrees up."""
        weights = {"olive-refined": 600.0, "coconut": 350.0, "stearic-acid": 50.0}
        window = plan_batch(plan(formula={"blend": weight_formula(weights).blend.model_dump()})).window
        assert (window.low_c, window.high_c) == (58.0, 63.5)


class TestScents:
    def test_the_most_that_a_limit_allows(self):
        """All else is F g of finished soap; p g of scent weigh p / 0.89 cured with it. The most is 0.01 (F + p / 0.89)."""
        asked = plan(scents=[{"scent": "clove", "percent_of_oils": 3.0, "limit_percent": 1.0}])
        with pytest.raises(FormulaError) as refused:
            plan_batch(asked)
        problem = next(one for one in refused.value.problems if one.code == "scent_over_limit")
        most = problem.params["most"].value
        allowed = plan(scents=[{"scent": "clove", "percent_of_oils": most, "limit_percent": 1.0}])
        assert plan_batch(allowed).scents[0].percent_of_product == pytest.approx(1.0, abs=0.01)


class TestSuperfat:
    @pytest.mark.parametrize(("superfat", "said"), [(4.0, False), (7.0, False), (7.2, True), (3.8, True)])
    def test_it_is_unusual_outside_the_ends_of_the_purpose_and_not_on_them(self, superfat, said):
        codes = {
            one.code
            for one in report(weight_formula({"olive-refined": 600.0, "coconut": 400.0}, superfat=superfat)).diagnostics
        }
        assert ("unusual_superfat" in codes) == said


class TestProfiles:
    @pytest.mark.parametrize(("oleic", "problem"), [(15.0, False), (14.9, True), (21.0, False), (21.1, True)])
    def test_acids_sum_to_95_to_101(self, oleic, problem):
        material = {
            "id": "own-one", "name": "One",
            "content": {"kind": "profile", "sap_koh_mg_per_g": 200.0, "unsaponifiable_percent": 0.5, "solid_at_20_c": False,
                        "acids_percent": {"C12:0": 40.0, "C16:0": 40.0, "C18:1": oleic}},
        }  # fmt: skip
        formula = weight_formula({"own-one": 100.0}, materials=[material])
        codes = {one.code for one in material_problems(formula.materials, catalogue())}
        assert ("profile_sum" in codes) == problem


class TestTheCheckOfLye:
    def test_no_lye_weighs_less_than_nothing(self):
        """Half a gram too little KOH balanced by NaOH: every sum holds, and it is refused all the same."""
        formula = weight_formula({"olive-refined": 1000.0})
        composition = calculation_of(formula).composition
        naoh, koh = composition.lyes
        more = naoh._replace(weight_g=naoh.weight_g + 0.5 * 0.9 * 39.997 / 56.1056 / (naoh.purity_percent / 100))
        odd = replace(composition, lyes=(more, koh._replace(weight_g=-0.5, purity_percent=90.0)))
        with pytest.raises(CausticCheckError, match="no lye weighs"):
            verify_lye(odd, formula)

    def test_what_is_right_passes(self):
        formula = weight_formula({"olive-refined": 1000.0})
        verify_lye(calculation_of(formula).composition, formula)
