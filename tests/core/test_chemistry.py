"""The chemistry beside the fatty acids, redone by hand: firmness by age, cure and keeping, solubility, hard water, what paste
and salt bars are made of."""

from math import exp

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from core.strategies import formulas, weight_formula, weights_g
from sapolin.core.bar.calculation import calculate, calculation_of
from sapolin.core.bar.explanations import explain
from sapolin.core.bar.soap import soap_of
from sapolin.core.batch.additions import Additions
from sapolin.core.batch.filling import batter_volume
from sapolin.core.batch.gel import kept_fraction, saponification_warms_k
from sapolin.core.batch.moulds import Cavities, HalfSpheres, Measured, Mould, Slab
from sapolin.core.batch.plan import BatchPlan, Choices, MouldUse, SizeBy
from sapolin.core.batch.planned import plan_batch
from sapolin.core.batch.readiness import readiness
from sapolin.core.formula.document import Formula, Process
from sapolin.core.materials.fatty_acids import ACID_INDEX
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.text import plain

OLIVE_COCONUT = {"olive-refined": 700.0, "coconut": 300.0}


def water(concentration: float) -> dict:
    return {"water": {"by": "lye_concentration_percent", "value": concentration}}


def added(additive: str, percent: float, **changes) -> dict:
    line = {"additive": additive, "by": "percent_of_oils", "value": percent} | changes
    return {"additives": [line]}


def effects(formula: Formula, adjustment: str) -> dict[str, float]:
    found = [one for one in calculate(formula).adjustments if one.id == adjustment]
    return {effect.on: effect.points for one in found for effect in one.effects}


class TestFirmness:
    def test_three_ages_by_hand(self):
        """Coconut alone: hardness 47 + 18 + 9.3 + 3.1 + 0.1 of its acids; no ricinoleic; superfat and water usual."""
        bar = calculate(weight_formula({"coconut": 1000.0}, **water(33.0)))
        acids = {one.acid: one.percent for one in bar.acids}
        lasting = sum(acids[acid] for acid in ("C12:0", "C14:0", "C16:0", "C18:0", "C20:0", "C22:0"))
        late = 0.4 * (acids["C18:1"] + acids["C20:1"] + acids["C22:1"])
        assert bar.bar.firmness_at_unmould == pytest.approx(0.75 * lasting)
        assert bar.bar.firmness_after_cure == pytest.approx(lasting + late * (1 - exp(-6 / 16)))
        assert bar.bar.firmness_at_best == pytest.approx(lasting + late * (1 - exp(-52 / 16)))

    def test_castor_sets_glassy(self):
        plain_bar = calculate(weight_formula({"olive-refined": 1000.0}))
        castor = calculate(weight_formula({"castor": 1000.0}, **water(33.0)))
        acids = {one.acid: one.percent for one in castor.acids}
        saturated = sum(acids[acid] for acid in ("C12:0", "C14:0", "C16:0", "C18:0", "C20:0", "C22:0"))
        assert castor.bar.firmness_at_unmould == pytest.approx(0.75 * (saturated + 0.25 * acids["C18:1-OH"]))
        assert castor.bar.firmness_at_unmould > plain_bar.bar.firmness_at_unmould

    @settings(max_examples=40)
    @given(weights_g(), st.floats(25.0, 40.0), st.floats(0.5, 10.0))
    def test_a_bar_never_softens_and_a_drier_one_is_never_softer(self, weights, concentration, drier):
        wet, dry = (
            calculate(weight_formula(weights, **water(lye))).bar for lye in (concentration, concentration + drier)
        )  # fmt: skip
        for bar in (wet, dry):
            assert 0 <= bar.firmness_at_unmould <= bar.firmness_after_cure <= bar.firmness_at_best
        assert dry.firmness_at_unmould >= wet.firmness_at_unmould - 1e-9
        assert dry.firmness_after_cure == pytest.approx(wet.firmness_after_cure)
        assert dry.usable_weeks <= wet.usable_weeks

    def test_what_firms_it_early_never_makes_it_firmer_than_it_will_be(self):
        lactate = added("sodium-lactate-60", 3.0) | {"process": {"gel": "encouraged"}}
        bar = calculate(weight_formula({"olive-refined": 1000.0}, **water(40.0), **lactate))
        lasting = next(one.points for one in bar.qualities if one.quality == "hardness")
        assert bar.bar.firmness_at_unmould == pytest.approx(lasting)
        explained = explain(weight_formula({"olive-refined": 1000.0}, **water(40.0), **lactate), "firmness_at_unmould")
        assert explained.terms[-1].label == "No firmer than it will be"


class TestUnmoulding:
    def test_salt_counts(self):
        """2 % of salt: 1 − 0.06 × 2 of the hours."""
        bare = calculate(weight_formula(OLIVE_COCONUT))
        salted = calculate(weight_formula(OLIVE_COCONUT, **added("salt", 2.0)))
        assert salted.bar.unmould_hours_high == pytest.approx(0.88 * bare.bar.unmould_hours_high)

    def test_lactic_acid_becomes_lactate(self):
        """1 % of lactic acid, 90.08 g/mol, makes 1.244 % of sodium lactate, 112.06 g/mol: 2.073 % of the 60 % solution."""
        sour = weight_formula(OLIVE_COCONUT, additives=[
            {"additive": "lactic-acid-80", "by": "percent_of_oils", "value": 1.0, "compensated": True},
        ])  # fmt: skip
        content = calculation_of(sour).composition.consumed[0].acid_g / 1000
        assert calculation_of(sour).conditions.lactate_percent == pytest.approx(100 * content * 112.06 / 90.08 / 0.6)
        assert effects(sour, "sodium_lactate")["firmness_at_unmould"] == pytest.approx(
            4 * 100 * content * 2.0734, rel=1e-3
        )

    def test_a_salt_bar_is_out_within_hours(self):
        """3 hours, 30 % to either side."""
        bar = calculate(weight_formula({"coconut": 1000.0}, superfat=18.0, **added("salt", 50.0))).bar
        assert (bar.unmould_hours_low, bar.unmould_hours_high) == pytest.approx((2.1, 3.9))


class TestCureAndKeeping:
    @settings(max_examples=60)
    @given(formulas())
    def test_they_never_contradict_each_other(self, formula):
        bar = calculate(formula).bar
        assert 2.0 <= bar.usable_weeks <= bar.best_weeks + 1e-9
        # No bar is at its best after it has turned, but for one that turns before it has cured: that is told.
        assert bar.best_weeks <= max(bar.shelf_months * 52 / 12, bar.usable_weeks) + 1e-9

    def test_a_bar_that_turns_before_it_cures_is_told(self):
        formula = weight_formula({"flax": 1000.0})
        bar = calculate(formula).bar
        assert bar.shelf_months * 52 / 12 < bar.usable_weeks
        assert bar.best_weeks == pytest.approx(bar.usable_weeks)

    @pytest.mark.parametrize("sunflower_g", range(20, 540, 10))
    def test_it_is_at_its_best_until_it_turns_at_the_latest(self, sunflower_g):
        bar = calculate(weight_formula({"olive-refined": 1000.0 - sunflower_g, "sunflower": sunflower_g})).bar
        turns = bar.shelf_months * 52 / 12
        assert bar.best_weeks <= turns + 1e-9
        # What is left of olive's 36 weeks or so; from about a ninth of sunflower on it turns before that.
        assert (bar.best_weeks == pytest.approx(turns)) == (sunflower_g >= 120)

    def test_a_very_dry_hard_bar_cures_two_weeks_at_least(self):
        """5 − 0.1 × (50 − 33) = 3.3 weeks; nothing drier is possible than equal weights."""
        assert calculate(weight_formula({"coconut": 1000.0}, **water(50.0))).bar.usable_weeks == pytest.approx(3.3)

    def test_a_chelator_keeps_it_longer(self):
        """Half a percent of EDTA is its full rate: 1.15 times; a tenth of that, a tenth of the 15 %."""
        bare = calculate(weight_formula(OLIVE_COCONUT)).bar.shelf_months
        full = calculate(weight_formula(OLIVE_COCONUT, **added("tetrasodium-edta", 0.5))).bar.shelf_months
        little = calculate(weight_formula(OLIVE_COCONUT, **added("tetrasodium-edta", 0.05))).bar.shelf_months
        assert (full / bare, little / bare) == pytest.approx((1.15, 1.015))

    def test_citric_acid_makes_the_citrate_that_chelates(self):
        """1 % of the anhydrous acid, 192.12, makes 1.531 % of the dihydrate, 294.10; 2 % are full."""
        sour = weight_formula(OLIVE_COCONUT, **added("citric-acid", 1.0, compensated=True))
        assert calculation_of(sour).conditions.chelated == pytest.approx(1.5308 / 2, rel=1e-3)
        crystal = weight_formula(OLIVE_COCONUT, **added("citric-acid-monohydrate", 210.14 / 192.12, compensated=True))
        assert calculation_of(crystal).conditions.chelated == pytest.approx(1.5308 / 2, rel=1e-3)


class TestSolubility:
    def test_long_saturated_soap_lathers_only_beside_soluble_soap(self):
        formula = weight_formula({"soy-wax": 900.0, "coconut": 100.0})
        acids = {one.acid: one.percent for one in calculate(formula).acids}
        soluble = 100 - sum(acids[acid] for acid in ("C16:0", "C18:0", "C20:0", "C22:0"))
        lost = (1 - soluble / 33.3) * (acids["C16:0"] + acids["C18:0"])
        assert effects(formula, "solubility")["dense_lather"] == pytest.approx(-lost)

    def test_a_third_of_soluble_soap_is_enough_and_so_is_potassium(self):
        assert effects(weight_formula({"soy-wax": 600.0, "coconut": 400.0}), "solubility") == {}
        koh = {"by": "saponification_percent", "value": 40.0, "purity_percent": 90.0}
        dual = {"lye": {"naoh_purity_percent": 99.0, "koh": koh}}
        assert effects(weight_formula({"soy-wax": 900.0, "coconut": 100.0}, **dual), "solubility") == {}

    def test_hard_water_takes_most_of_stearates(self):
        """Hard: 30 %, of palmitic and stearic 1.5 times as much."""
        formula = weight_formula(OLIVE_COCONUT, wash_water="hard")
        acids = {one.acid: one.percent for one in calculate(formula).acids}
        found = effects(formula, "hard_water")
        assert found["open_lather"] == pytest.approx(-0.3 * (acids["C12:0"] + acids["C14:0"] + acids["C18:1-OH"]))
        assert found["dense_lather"] == pytest.approx(
            -0.45 * (acids["C16:0"] + acids["C18:0"]) - 0.3 * acids["C18:1-OH"]
        )

    def test_a_full_chelator_holds_seven_tenths_of_it_off(self):
        bare = effects(weight_formula(OLIVE_COCONUT, wash_water="hard"), "hard_water")
        held = effects(weight_formula(OLIVE_COCONUT, wash_water="hard", **added("sodium-citrate", 2.0)), "hard_water")
        assert held["open_lather"] == pytest.approx(0.3 * bare["open_lather"])
        medium = effects(weight_formula(OLIVE_COCONUT, wash_water="medium"), "hard_water")
        assert medium["open_lather"] == pytest.approx(0.12 / 0.3 * bare["open_lather"])

    def test_soft_water_takes_nothing(self):
        assert effects(weight_formula(OLIVE_COCONUT), "hard_water") == {}


class TestTrace:
    def test_warmth_hurries_it(self):
        """48 °C is 10 warmer than the reference: 5 points."""
        cool = calculate(weight_formula(OLIVE_COCONUT)).bar.trace_points
        warm = calculate(weight_formula(OLIVE_COCONUT, process={"batter_temperature_c": 48.0})).bar.trace_points
        assert warm - cool == pytest.approx(5.0)

    def test_it_is_never_slower_than_nothing(self):
        wet = weight_formula({"olive-refined": 1000.0}, process={"batter_temperature_c": 15.0}, **water(18.0))
        assert calculate(wet).bar.trace_points == 0.0


class TestGlycerolAndPaste:
    def test_glycerol_by_hand(self):
        """1 kg of olive at 190: 3.38647 mol of KOH, 95 % of it spent; a third as much glycerol, 92.094 g/mol."""
        formula = weight_formula({"olive-refined": 1000.0})
        expected = 0.95 * 190_000 / 56.1056 / 1000 / 3 * 92.094
        assert calculate(formula).glycerol_g == pytest.approx(expected, rel=1e-4)
        assert explain(formula, "glycerol_g").value == pytest.approx(expected, rel=1e-4)

    def test_free_acids_react_first(self):
        """Half stearic acid, 208, half olive, 190, at 20 % superfat: 3.7073 mol and 3.3864 mol could be taken by a kilogram of
        each; of 5.6749 mol of lye the acid takes 3.7073, so olive gets 1.9676 of its 3.3864."""
        formula = weight_formula({"stearic-acid": 1000.0, "olive-refined": 1000.0}, superfat=20.0)
        soap = soap_of(calculation_of(formula).composition)
        acid, fat = 208 / 56.1056, 190 / 56.1056
        left = 0.8 * (acid + fat) - acid
        assert soap.glycerol_g == pytest.approx(left / 3 * 92.094, rel=1e-4)
        assert soap.water_formed_g == pytest.approx(acid * 18.015, rel=1e-4)
        assert soap.free_fat_g == pytest.approx(1000 * (1 - left / fat), rel=1e-4)

    def test_fat_of_the_milk_is_fat(self):
        """200 g of goat milk with 4.1 % fat at 228 beside 1 kg of olive: 8.2 g more fat, 0.033 mol more that it can take."""
        milk = [{"liquid": "goat-milk", "use": "dissolves_lye", "by": "weight_g", "value": 200.0}]
        formula = weight_formula({"olive-refined": 1000.0}, liquids=milk)
        composition = calculation_of(formula).composition
        spent = 0.95 * 190 / 56.1056
        takes = (190 + 8.2 * 0.228) / 56.1056
        assert soap_of(composition).free_fat_g == pytest.approx(1008.2 * (1 - spent / takes), rel=2e-3)
        acids = {one.acid: one.percent for one in calculate(formula).acids}
        olive, butter = composition.fats[0].oil.profile, composition.fats[1].oil.profile
        lauric = ACID_INDEX["C12:0"]
        assert acids["C12:0"] == pytest.approx((1000 * olive[lauric] + 8.2 * butter[lauric]) / 1008.2)
        result = calculate(formula)
        assert result.contributors == ("Olive, refined", "fat of the goat milk")
        assert all(sum(one.contributions) == pytest.approx(one.points) for one in result.qualities)


class TestVolumeAndSalt:
    def test_oils_are_poured_melted_and_warm(self):
        """1 kg of olive, 0.915 g/mL at 20 °C, at 38 °C: 1.35 % more."""
        composition = calculation_of(weight_formula({"olive-refined": 1000.0})).composition
        warm = batter_volume(composition, Additions((), ()))
        density = composition.oils[0].oil.density_g_per_ml
        assert warm.oils_ml == pytest.approx(1000 / density * (1 + 0.00075 * 18))
        assert batter_volume(composition, Additions((), ()), 20.0).oils_ml == pytest.approx(1000 / density)

    def test_salt_holds_no_water_and_takes_its_room(self):
        """Half as much salt as oil: 500 g at 2.16 g/mL are 231.5 mL, and weigh the same cured."""
        bare = calculation_of(weight_formula({"coconut": 1000.0}, superfat=18.0)).composition
        salted = calculation_of(weight_formula({"coconut": 1000.0}, superfat=18.0, **added("salt", 50.0))).composition
        without, with_salt = (batter_volume(one, Additions((), ())) for one in (bare, salted))
        assert with_salt.total_ml - without.total_ml == pytest.approx(500 / 2.16, abs=0.1)
        cured = [volume.cured_fraction * one.total_g for volume, one in ((without, bare), (with_salt, salted))]
        assert cured[1] - cured[0] == pytest.approx(500.0)

    def test_the_water_of_lactate_dries_off_with_the_rest(self):
        """30 g of 60 % sodium lactate are 12 g of water, which dries off, and 18 g that stay and keep their part of the water
        that a cured bar still has."""
        oils = {"olive-refined": 700.0, "coconut": 300.0}
        bare = calculation_of(weight_formula(oils)).composition
        firm = calculation_of(weight_formula(oils, **added("sodium-lactate-60", 3.0))).composition
        cured = [batter_volume(one, Additions((), ())).cured_fraction * one.total_g for one in (bare, firm)]
        kept = 1 - coefficient("cure.residual_water") / 100
        assert cured[1] - cured[0] == pytest.approx(18.0 / kept)

    def test_so_much_salt_goes_in_at_trace(self):
        stages = {
            percent: calculate(weight_formula({"coconut": 1000.0}, superfat=18.0, **added("salt", percent)))
            .additives[0]
            .stage
            for percent in (1.0, 25.0)
        }
        assert stages == {1.0: "liquid", 25.0: "trace"}

    def test_the_salt_of_brine_counts(self):
        """100 g of brine of 20 % on 1 kg of oils is 2 % of salt: 3 points each."""
        brine = [{"liquid": "brine", "use": "dissolves_lye", "by": "weight_g", "value": 100.0}]
        assert effects(weight_formula(OLIVE_COCONUT, liquids=brine), "salt")["firmness_at_unmould"] == pytest.approx(
            6.0
        )


def test_hard_water_is_told_in_words():
    found = calculate(weight_formula(OLIVE_COCONUT, wash_water="medium")).adjustments
    said = next(plain(one.state) for one in found if one.id == "hard_water")
    assert said == "medium-hard water takes 12 % of the soap"


class TestGel:
    """1 kg of olive oil at superfat 5 and 33 % lye, in a loaf 250 mm long and 80 wide that it fills to about 72 mm."""

    def test_saponification_warms_it(self):
        """3.2171 mol at 55 kJ warm 1000 g of oil at 2 J/g K and the rest at 3.5."""
        calculation = calculation_of(weight_formula({"olive-refined": 1000.0}, **water(33.0)))
        others = calculation.composition.total_g - 1000
        expected = 0.95 * 190 / 56.1056 * 55_000 / (2000 + 3.5 * others)
        assert saponification_warms_k(calculation.composition, calculation.conditions) == pytest.approx(
            expected, rel=1e-4
        )

    def test_sugar_warms_it_more(self):
        bare, sweet = (
            calculation_of(weight_formula({"olive-refined": 1000.0}, **changes)) for changes in ({}, added("sugar", 2.0))
        )  # fmt: skip
        warms = [saponification_warms_k(one.composition, one.conditions) for one in (bare, sweet)]
        # 2 % at 3 °C each, less what 20 g of sugar take to warm.
        assert warms[1] - warms[0] == pytest.approx(6.0, abs=1.2)

    def test_what_a_loaf_keeps(self):
        """A time constant of 1 / (π² 1e-7 (1/0.25² + 1/0.08² + 1/0.065²)) s = 0.688 h, times 4 in a blanket, beside 1.5 h."""
        loaf = Slab(kind="loaf", length_mm=250, width_mm=80, height_mm=70)
        assert kept_fraction(loaf, 65, "insulate") == pytest.approx(4 * 0.6882 / (4 * 0.6882 + 1.5), rel=1e-3)
        assert kept_fraction(loaf, 65, "fridge") == pytest.approx(0.3441 / (0.3441 + 1.5), rel=1e-3)

    def test_single_cavities_keep_hardly_any(self):
        """100 mL is a cube of 46.4 mm: 1 / (π² 1e-7 × 3 / 0.0464²) s = 0.202 h."""
        cavity = Cavities(kind="cavities", cavity_ml=100, count=12)
        assert kept_fraction(cavity, None, "cover") == pytest.approx(1.5 * 0.2021 / (1.5 * 0.2021 + 1.5), rel=1e-3)
        assert kept_fraction(HalfSpheres(kind="half_spheres", diameter_mm=70), None, "cover") < 0.2
        assert kept_fraction(Measured(kind="measured", volume_ml=1000), None, "cover") > 0.4

    def test_wrapped_it_gels_and_in_the_fridge_it_does_not(self):
        forecast = {}
        for cover in ("heat_pad", "cover", "fridge"):
            planned = plan_batch(guest_plan(cover))
            forecast[cover] = planned.gel
        assert [forecast[cover].outcome for cover in ("heat_pad", "cover", "fridge")] == ["full", "partial", "none"]
        assert forecast["heat_pad"].gels_from_c == pytest.approx(68.0, abs=0.6)
        assert "It should gel" in plain(forecast["heat_pad"].words)
        middles = [forecast[cover].middle_high_c for cover in ("fridge", "cover", "heat_pad")]
        assert middles == sorted(middles)

    def test_hot_process_and_no_mould_say_nothing(self):
        hot = guest_plan("cover")
        hot = hot.model_copy(update={"formula": hot.formula.model_copy(update={"process": Process(method="hot")})})
        assert plan_batch(hot).gel is None
        assert (
            plan_batch(
                guest_plan("cover").model_copy(update={"moulds": (), "size": SizeBy(by="oils_g", value=900.0)})
            ).gel
            is None
        )

    def test_a_thick_wrapped_slab_of_sugared_batter_overheats(self):
        thick = guest_plan("heat_pad", height_mm=200, **added("honey", 4.0))
        codes = {one.code for one in readiness(thick, plan_batch(thick))}
        assert "middle_overheats" in codes
        thin = guest_plan("cover")
        assert "middle_overheats" not in {one.code for one in readiness(thin, plan_batch(thin))}


def guest_plan(cover: str, height_mm: float = 70.0, **changes) -> BatchPlan:
    formula = weight_formula(
        {"olive-refined": 400.0, "palm": 300.0, "coconut": 250.0, "castor": 50.0}, **water(33.0), **changes
    )
    wide = 80.0 if height_mm < 100 else 250.0
    loaf = Mould(name="Loaf", shape=Slab(kind="loaf", length_mm=250, width_mm=wide, height_mm=height_mm))
    return BatchPlan(
        formula=formula, size=SizeBy(by="moulds"), moulds=(MouldUse(mould=loaf, headroom_mm=5.0),),
        choices=Choices(cover=cover),
    )  # fmt: skip
