"""Values by hand where a slip of the pen would not be seen elsewhere."""

import pytest
from pydantic import ValidationError

from core.batches import loaf, plan
from core.strategies import weight_formula
from core.test_levers import FIRM, SOFT, levers
from core.test_solving import ask, target_range
from sapolin.core.bar.calculation import calculate
from sapolin.core.batch.moulds import Slab
from sapolin.core.batch.plan import Choices
from sapolin.core.batch.planned import plan_batch
from sapolin.core.formula.check import problems_of
from sapolin.core.formula.recipe import read_recipe
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.optimise.solve import ShareLimit, answer_solve
from sapolin.core.optimise.solve.question import targets_like
from sapolin.core.quantities.diagnostics import FormulaError, malformed
from sapolin.core.quantities.text import number, plain
from sapolin.data import read_json


def test_less_water_firms_by_what_it_is_less():
    # Lye at 33.3 %, two points more and rounded: 35 %; 1.67 points x 1.2 a point.
    assert levers(FIRM, SOFT)["water"].reason == "About 2.0 points firmer at unmoulding, less ash."


def test_spoons_beyond_any_use_and_spoons_still_open():
    def codes(value):
        sugar = {"additive": "sugar", "by": "tsp_per_500_g", "value": value}
        return [one.code for one in problems_of(weight_formula(SOFT, additives=[sugar]), catalogue())]

    assert (codes(None), codes(5000.0), codes(2.0)) == (["missing_amount"], ["spoons_out_of_range"], [])


@pytest.mark.parametrize(
    ("written", "grams"), [("⅔ lb", 302.39), ("⅓ lb", 151.20), ("1 ½ lb", 680.39), ("¼ lb", 113.40), ("⅛ lb", 56.70)]
)
def test_fractions_on_paper(written, grams):
    [line] = read_recipe(f"{written} lard", catalogue()).lines
    assert line.amount == pytest.approx(grams, abs=0.01)


def test_what_must_give_at_the_upper_end_is_said_with_its_new_end():
    # Coconut holds 7.0 + 6.2 + 47.8 + 18.4 = 79.4 % of C8 to C14, olive none: 0.3 x 79.4 = 23.82, and up to a tenth 23.9.
    question = ask(
        target_range("cleansing", 2, 10),
        pool=("coconut", "olive-refined"),
        most_oils=2,
        limits=(ShareLimit(oil="coconut", minimum_percent=30),),
        lifted=("drying",),
    )
    [give] = answer_solve(question).conflict.gives
    assert (give.minimum, give.maximum) == (2, 23.9)
    assert give.points == pytest.approx(13.82, abs=0.01)


@pytest.mark.parametrize(("most", "refused"), [(2, True), (3, False)])
def test_more_oils_wanted_than_may_be_in_it_are_refused_however_little_of_each(most, refused):
    least = tuple(ShareLimit(oil=oil, minimum_percent=0.5) for oil in ("coconut", "olive-refined", "shea"))
    question = ask(target_range("cleansing", 2, 20), most_oils=most, limits=least)
    if not refused:
        assert answer_solve(question) is not None
        return
    with pytest.raises(FormulaError) as found:
        answer_solve(question)
    assert [(one.code, one.params) for one in found.value.problems] == [
        ("too_many_wanted", {"wanted": number(3), "most": number(2)})
    ]


def test_an_oil_can_be_held_to_one_share():
    question = ask(
        target_range("cleansing", 14, 22),
        pool=("coconut", "olive-refined", "palm"),
        limits=(ShareLimit(oil="coconut", minimum_percent=20, maximum_percent=20),),
    )
    shares = [
        oil.share_percent for one in answer_solve(question).solutions for oil in one.result.oils if oil.oil == "coconut"
    ]
    assert shares == pytest.approx([20.0] * len(shares))
    assert len(shares) > 0


def test_more_like_a_bar_that_hardly_cleanses_asks_for_no_less_than_nothing():
    # Olive holds nothing of C8 to C14: about 0 points of cleansing, and three less are none.
    asked = {
        one.feature: (one.minimum, one.maximum)
        for one in targets_like(calculate(weight_formula({"olive-refined": 500.0})))
    }
    assert asked["cleansing"] == (0.0, 3.0)


def test_two_slices_can_be_one_or_three():
    cuts = plan_batch(plan(moulds=(loaf(bar_mm=120, kerf_mm=0),))).moulds[0].cuts
    assert [cut.bars for cut in cuts] == [2, 1, 3]


def test_nothing_is_cooled_with_ice_unless_it_is_asked_for():
    assert Choices().ice_bath is False


def test_an_entry_is_named_without_its_unit():
    with pytest.raises(ValidationError) as error:
        Slab.model_validate({"kind": "loaf", "length_mm": [], "width_mm": 80, "height_mm": 70})
    (problem,) = malformed(error.value)
    assert plain(problem.message) == "“length” must be a number."


def test_no_coefficient_is_declared_twice():
    ids = [entry["id"] for entry in read_json("coefficients")]
    assert len(set(ids)) == len(ids)
