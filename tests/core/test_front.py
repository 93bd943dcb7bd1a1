"""The picture of the choice: no point of it can be beaten, and more really buys what it says."""

import re
from itertools import pairwise

import pytest

from core.strategies import weight_formula
from sapolin.core.optimise.solve import SolveQuestion, answer_solve
from sapolin.core.optimise.solve.front import front_of
from sapolin.core.optimise.solve.question import Target, targets_of_purpose
from sapolin.core.quantities.diagnostics import FormulaError

PRICES = {
    "olive-refined": 6.5, "coconut": 3.2, "palm": 1.9, "lard": 2.2, "tallow-beef": 2.4, "castor": 5.5, "shea": 9.0,
    "canola": 2.0, "sunflower-high-oleic": 2.6, "cocoa": 14.0, "rice-bran": 3.4,
}  # fmt: skip
PRESENT = weight_formula({"olive-refined": 340.0, "palm": 300.0, "coconut": 260.0, "shea": 50.0, "castor": 50.0})


def ask(**changes) -> SolveQuestion:
    targets = changes.pop("targets", targets_of_purpose("everyday-body"))
    return SolveQuestion(formula=PRESENT, targets=targets, prices=PRICES, **changes)


def price(formula) -> float:
    return sum(PRICES[line.oil] * line.value / 100 for line in formula.blend.lines)


@pytest.mark.parametrize("axis", ["price_per_kg", "palm_percent", "changed_percent"])
def test_more_on_the_axis_always_buys_something(axis):
    points = front_of(ask(), axis).points
    assert points
    for before, after in pairwise(points):
        assert after.value > before.value
        assert after.miss < before.miss - 0.01 or after.chance_in_range_percent > before.chance_in_range_percent


def test_each_point_has_what_it_says():
    for point in front_of(ask(), "price_per_kg").points:
        assert price(point.formula) == pytest.approx(point.value, abs=1e-4)
        assert sum(line.value for line in point.formula.blend.lines) == pytest.approx(100)
    shares = {line.oil: line.value / 10 for line in PRESENT.blend.lines}
    for point in front_of(ask(), "changed_percent").points:
        now = {line.oil: line.value for line in point.formula.blend.lines}
        moved = sum(abs(now.get(oil, 0) - shares.get(oil, 0)) for oil in {*now, *shares}) / 2
        assert moved == pytest.approx(point.value, abs=1e-6)


def test_change_begins_at_the_blend_as_it_is_and_goes_on_to_where_more_buys_nothing():
    points = front_of(ask(), "changed_percent").points
    assert points[0].value == 0
    assert {line.oil: line.value for line in points[0].formula.blend.lines} == {
        line.oil: line.value / 10 for line in PRESENT.blend.lines
    }
    best = answer_solve(ask()).solutions[0]
    assert points[-1].miss <= best.miss + 1e-6
    assert len(points) > 2


def test_nothing_that_meets_everything_is_cheaper_than_the_first_that_does():
    points = front_of(ask(), "price_per_kg").points
    first = next(point for point in points if point.miss < 0.01)
    cheapest = answer_solve(ask(prefer="cheaper")).solutions[0]
    assert first.value <= cheapest.cost.per_kg + 1e-6


def test_without_palm_there_is_nothing_to_choose_about_palm():
    assert [point.value for point in front_of(ask(free_of=("palm",)), "palm_percent").points] == [0.0]


def test_one_more_oil_buys_what_it_says():
    tight = ask(most_oils=3, free_of=("palm", "animal"))
    more = [one for one in front_of(tight, "palm_percent").more if one.what == "one more oil"]
    assert len(more) == 1
    assert len(more[0].formula.blend.lines) == 4
    better = more[0].miss_after < more[0].miss_before - 0.01
    assert better or more[0].chance_after_percent > more[0].chance_before_percent


def test_one_more_point_of_coconut_buys_what_it_says():
    cleaning = Target(feature="cleansing", minimum=28, maximum=34)
    more = front_of(ask(free_of=("palm", "animal"), targets=(cleaning,)), "palm_percent").more
    [found] = [one for one in more if one.what == "one more point of coconut and its like"]
    now = {line.oil: line.value for line in found.formula.blend.lines}
    # Coconut and its like may take a third of a bar for everyday.
    assert sum(now.get(oil, 0.0) for oil in ("coconut", "babassu", "palm-kernel", "murumuru")) == pytest.approx(34.0)
    assert found.miss_after < found.miss_before - 0.3


def test_half_more_per_kg_buys_a_surer_bar():
    first = front_of(ask(), "price_per_kg").more[0]
    paid = float(re.fullmatch(r"0\.50 more than ([0-9.]+) per kg", first.what)[1])
    assert paid < price(first.formula) <= paid + 0.5 + 0.005
    assert (first.miss_before, first.miss_after) == pytest.approx((0, 0))
    assert first.chance_after_percent > first.chance_before_percent + 1


def test_price_is_asked_of_oils_that_have_one():
    with pytest.raises(FormulaError) as refused:
        front_of(ask().model_copy(update={"prices": {}}), "price_per_kg")
    assert refused.value.problems[0].code == "nothing_priced"
