"""The target ranges a soap is compared with: those of its purpose, or the maker's own in their place."""

import pytest

from core.strategies import weight_formula
from sapolin.core.advice.report import report
from sapolin.core.bar.calculation import calculate
from sapolin.core.formula.changes import changes_between
from sapolin.core.formula.purposes import purposes
from sapolin.core.optimise.swap import Outgoing, SwapQuestion, answer_swap
from sapolin.core.optimise.trades import best_trades
from sapolin.core.quantities.diagnostics import FormulaError

GUEST = {"olive-refined": 340.0, "palm": 300.0, "coconut": 260.0, "shea": 50.0, "castor": 50.0}


def guest(*target_ranges: tuple[str, float, float]):
    return weight_formula(
        GUEST,
        target_ranges=[{"quality": quality, "minimum": low, "maximum": high} for quality, low, high in target_ranges],
    )


def standing(formula, quality: str) -> tuple[str, float]:
    quantity = next(quantity for quantity in calculate(formula).qualities if quantity.quality == quality)
    return quantity.standing, quantity.outside_by


def test_without_own_target_ranges_those_of_the_purpose_hold():
    target_range = purposes()["everyday-body"].target_ranges[0]
    assert weight_formula(GUEST).target_range(target_range.quality) == target_range


def test_own_target_ranges_replace_all_of_the_purpose():
    assert standing(weight_formula(GUEST), "cleansing") == ("above", 2.0)
    own = guest(("cleansing", 18, 24), ("hardness", 50, 60))
    assert standing(own, "cleansing") == ("in", 0.0)
    assert standing(own, "hardness")[0] == "below"
    assert standing(own, "conditioning") == ("no target", 0.0)
    assert standing(guest(), "cleansing") == ("no target", 0.0)


def test_trades_and_swaps_go_by_the_own_target_ranges():
    assert best_trades(guest(("cleansing", 18, 24))) == ()
    assert best_trades(guest(("cleansing", 30, 40)))[0].take == "coconut"

    def cleansing_after(formula) -> float:
        question = SwapQuestion(formula=formula, outgoing=(Outgoing(oil="palm"),), others="one_moves", within_points=8)
        answer = answer_swap(question)
        return next(f.points for f in answer.candidates[0].result.qualities if f.quality == "cleansing")

    assert cleansing_after(guest(("cleansing", 25, 30))) > cleansing_after(guest(("cleansing", 5, 15))) + 1


@pytest.mark.parametrize(
    ("target_ranges", "field", "code"),
    [
        ([("hardness", 30, 40), ("sparkle", 1, 2)], "target_ranges[1]", "unknown_target_range"),
        ([("hardness", 30, 40), ("hardness", 35, 45)], "target_ranges[1]", "target_range_twice"),
    ],
)
def test_target_ranges_that_cannot_be_are_refused_where_they_are(target_ranges, field, code):
    with pytest.raises(FormulaError) as refused:
        calculate(guest(*target_ranges))
    assert [(problem.path, problem.code) for problem in refused.value.problems] == [(field, code)]


def test_a_target_range_the_wrong_way_round_is_asked_about_and_stops_no_lye():
    reported = report(guest(("hardness", 48, 36), ("cleansing", 5, 15)))
    assert ("target_ranges[0]", "target_range_reversed") in [(one.path, one.code) for one in reported.diagnostics]
    result = reported.result
    assert result.lye.naoh_g == calculate(weight_formula(GUEST)).lye.naoh_g
    target_ranges = {quantity.quality: quantity.target_range for quantity in result.qualities}
    assert target_ranges["hardness"] is None
    assert target_ranges["cleansing"] is not None


def test_a_change_of_target_ranges_is_told():
    assert changes_between(weight_formula(GUEST), guest(("hardness", 30, 40))) == (("own target ranges",),)
    assert changes_between(guest(("hardness", 30, 40)), weight_formula(GUEST)) == (("target ranges of the purpose",),)
