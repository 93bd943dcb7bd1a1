"""Levers beside the oils: offered only where they help, sized for the case, and each answers as it says."""

import pytest

from core.strategies import weight_formula
from sapolin.core.advice.report import report
from sapolin.core.bar.adjustments import effect_on
from sapolin.core.bar.calculation import calculate
from sapolin.core.formula.document import Formula
from sapolin.core.optimise.swap.levers import LEAST_SUPERFAT_PERCENT, MOST_LYE_CONCENTRATION_PERCENT, Lever, levers_of

FIRM = {"olive-refined": 340.0, "palm": 300.0, "coconut": 260.0, "shea": 50.0, "castor": 50.0}
SOFT = {"olive-refined": 640.0, "coconut": 260.0, "shea": 50.0, "castor": 50.0}
LATHERY = {"olive-refined": 600.0, "coconut": 350.0, "castor": 50.0}
FLAT = {"olive-refined": 900.0, "coconut": 50.0, "castor": 50.0}
LACTATE = {"additive": "sodium-lactate-60", "by": "percent_of_oils", "value": 2.0}
SUGAR = {"additive": "sugar", "by": "percent_of_oils", "value": 1.0}


def levers(before: dict[str, float], after: dict[str, float], **changes) -> dict[str, Lever]:
    formula = weight_formula(after, **changes)
    found = levers_of(formula, calculate(weight_formula(before)), calculate(formula))
    return {lever.id: lever for lever in found}


def points(formula: Formula, quality: str) -> float:
    """Of the finished bar: what its oils give and what the rest of the composition adds."""
    result = calculate(formula)
    of_the_oils = next(one.points for one in result.qualities if one.quality == quality)
    return of_the_oils + effect_on(result.adjustments, quality)


def lye_concentration(formula: Formula) -> float:
    return calculate(formula).water.lye_concentration_percent


class TestWhatIsOffered:
    def test_a_bar_that_went_soft_gets_every_lever_that_firms(self):
        assert {"superfat", "water", "sodium_lactate", "gel", "cure"} <= set(levers(FIRM, SOFT))

    def test_sugar_only_where_lather_was_lost(self):
        assert "sugar" in levers(LATHERY, FLAT)
        assert "sugar" not in levers(FLAT, LATHERY)

    @pytest.mark.parametrize(
        ("lever", "changes"),
        [
            ("superfat", {"superfat": LEAST_SUPERFAT_PERCENT}),
            ("superfat", {"superfat": LEAST_SUPERFAT_PERCENT + 0.9}),
            ("water", {"water": {"by": "lye_concentration_percent", "value": MOST_LYE_CONCENTRATION_PERCENT}}),
            ("sodium_lactate", {"additives": [LACTATE]}),
            ("sugar", {"additives": [SUGAR]}),
            ("gel", {"process": {"gel": "encouraged"}}),
            ("gel", {"process": {"gel": "prevented"}}),
            ("gel", {"process": {"method": "hot"}}),
        ],
    )
    def test_nothing_is_offered_that_is_there_already_or_goes_too_far(self, lever, changes):
        assert lever not in levers(LATHERY, FLAT, **changes)

    @pytest.mark.parametrize(("below_most", "is_offered"), [(2.0, True), (1.6, True), (1.4, False)])
    def test_about_two_points_less_water_must_still_fit(self, below_most, is_offered):
        water = {"by": "lye_concentration_percent", "value": MOST_LYE_CONCENTRATION_PERCENT - below_most}
        assert ("water" in levers(FIRM, SOFT, water=water)) is is_offered

    def test_milk_is_not_warmed_into_gel(self):
        milk = {"liquid": "goat-milk", "use": "dissolves_lye", "by": "percent_of_water", "value": 60.0}
        assert "gel" not in levers(FIRM, SOFT, liquids=[milk])


class TestWhatTheyDo:
    def test_each_changes_one_thing_and_still_calculates(self):
        formula = weight_formula(SOFT)
        for lever in levers_of(formula, calculate(weight_formula(FIRM)), calculate(formula)):
            before, after = formula.model_dump(), lever.formula.model_dump()
            assert len([entry for entry in before if before[entry] != after[entry]]) == 1, lever.id
            assert report(lever.formula).state == "complete"

    @pytest.mark.parametrize("superfat", [4.0, 5.0, 6.5, 9.0])
    def test_superfat_comes_down_but_never_below_its_least(self, superfat):
        lever = levers(FIRM, SOFT, superfat=superfat)["superfat"]
        assert LEAST_SUPERFAT_PERCENT <= lever.formula.superfat_percent < superfat
        assert f"{superfat:g} →" in lever.label

    def test_a_larger_loss_is_answered_by_a_larger_step(self):
        much, little = levers(FIRM, SOFT, superfat=7.0), levers(FIRM, FIRM, superfat=7.0)
        assert much["superfat"].formula.superfat_percent < little["superfat"].formula.superfat_percent
        assert "sodium lactate 2 %" in much["sodium_lactate"].label
        assert "sodium lactate 1.5 %" in little["sodium_lactate"].label

    def test_a_lower_superfat_firms_by_what_it_says(self):
        lever = levers(FIRM, SOFT, superfat=7.0)["superfat"]
        gained = points(lever.formula, "hardness") - points(weight_formula(SOFT, superfat=7.0), "hardness")
        said = float(lever.reason.split("About ")[1].split(" ")[0])
        assert gained == pytest.approx(said, abs=0.06)

    def test_stronger_lye_is_two_points_stronger(self):
        lever = levers(FIRM, SOFT)["water"]
        assert lye_concentration(lever.formula) == pytest.approx(lye_concentration(weight_formula(SOFT)) + 2, abs=0.6)

    def test_firming_levers_firm_the_bar_at_unmoulding(self):
        found = levers(FIRM, SOFT)
        plain = calculate(weight_formula(SOFT)).bar
        for lever in ("water", "sodium_lactate", "gel"):
            assert calculate(found[lever].formula).bar.firmness_at_unmould > plain.firmness_at_unmould, lever

    def test_sugar_gives_lather_back(self):
        lever = levers(LATHERY, FLAT)["sugar"]
        assert points(lever.formula, "open_lather") > points(weight_formula(FLAT), "open_lather")

    def test_a_longer_cure_is_longer_than_the_bar_needs(self):
        lever = levers(FIRM, SOFT)["cure"]
        assert lever.formula.process.cure_weeks > calculate(weight_formula(SOFT)).bar.usable_weeks


class TestCitrate:
    def test_it_gives_back_what_it_says_in_hard_water(self):
        lever = levers(LATHERY, LATHERY, wash_water="hard")["citrate"]
        hard = weight_formula(LATHERY, wash_water="hard")
        gained = points(lever.formula, "open_lather") - points(hard, "open_lather")
        assert f"about {gained:.1f} points" in lever.reason

    def test_it_is_offered_where_nothing_holds_the_calcium_yet(self):
        assert "citrate" not in levers(LATHERY, LATHERY)
        edta = [{"additive": "tetrasodium-edta", "by": "percent_of_oils", "value": 0.2}]
        assert "citrate" not in levers(LATHERY, LATHERY, wash_water="hard", additives=edta)
