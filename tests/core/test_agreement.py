"""What is forecast or said of any blend agrees with what result it shows."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from core.strategies import formulas, laden_formulas, weight_formula, weights_g
from sapolin.core.bar.calculation import calculate
from sapolin.core.formula.blend import OilShare, oil_shares
from sapolin.core.formula.changes import changes_between
from sapolin.core.formula.cost import oil_cost
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.optimise.own_oils import OilNote
from sapolin.core.optimise.solve.question import targets_like
from sapolin.core.optimise.trades import best_trades
from sapolin.core.quantities.text import plain


def in_composition(weights):
    return oil_shares(weight_formula(weights).blend, catalogue())


class TestTrades:
    @given(weights_g(), st.floats(0.5, 50))
    def test_a_trade_moves_what_it_says(self, weights, points):
        total_g = sum(weights.values())
        before = calculate(weight_formula(weights)).qualities
        for trade in best_trades(weight_formula(weights), points):
            after = dict(weights)
            after[trade.give] = max(after[trade.give] - trade.points * total_g / 100, 0.0)
            after[trade.take] += trade.points * total_g / 100
            now = {quantity.quality: quantity.points for quantity in calculate(weight_formula(after)).qualities}
            moves = {move.quality: move.points for move in trade.moves}
            for was in before:
                assert now[was.quality] - was.points == pytest.approx(moves[was.quality], abs=1e-6)

    @given(weights_g(), st.floats(0.5, 50))
    def test_the_best_comes_first_and_gives_no_more_than_there_is(self, weights, points):
        trades = best_trades(weight_formula(weights), points)
        assert [trade.nearer_by for trade in trades] == sorted((trade.nearer_by for trade in trades), reverse=True)
        total_g = sum(weights.values())
        for trade in trades:
            assert trade.nearer_by > 0
            assert trade.points <= min(points, 100 * weights[trade.give] / total_g) + 1e-9


class TestCost:
    @given(weights_g(), st.data())
    def test_the_total_is_every_oil_at_its_own_price(self, weights, data):
        prices = {oil: data.draw(st.floats(0, 500)) for oil in weights}
        cost = oil_cost(in_composition(weights), prices)
        assert cost.total == pytest.approx(sum(g / 1000 * prices[oil] for oil, g in weights.items()))
        assert min(prices.values()) - 1e-9 <= cost.per_kg <= max(prices.values()) + 1e-9
        assert cost.unpriced == ()

    @given(weights_g(), st.data())
    def test_one_missing_price_leaves_no_quantity_but_a_name(self, weights, data):
        missing = data.draw(st.sampled_from(sorted(weights)))
        cost = oil_cost(in_composition(weights), {oil: 4.0 for oil in weights if oil != missing})
        assert (cost.per_kg, cost.total, cost.unpriced) == (None, None, (catalogue()[missing].name,))

    def test_what_is_not_in_the_blend_needs_no_price(self):
        shares = [OilShare(catalogue()[oil], share, 10 * share) for oil, share in (("coconut", 100.0), ("shea", 0.0))]
        cost = oil_cost(shares, {"coconut": 3.0})
        assert (cost.per_kg, cost.unpriced) == (3.0, ())

    def test_an_oil_given_for_nothing_has_a_price(self):
        assert oil_cost(in_composition({"lard": 500.0}), {"lard": 0.0}).per_kg == 0.0


def test_more_like_this_bar_is_within_three_points_in_whole_ones():
    bar = calculate(weight_formula({"olive-refined": 700.0, "coconut": 300.0}))
    like = {one.feature: one for one in targets_like(bar)}
    for quantity in bar.qualities:
        found = like[quantity.quality]
        assert found.minimum in range(101)
        assert found.minimum == 0 or quantity.points - 4 < found.minimum <= quantity.points - 3
        assert quantity.points + 3 <= found.maximum < quantity.points + 4


@pytest.mark.parametrize(
    ("note", "is_kept"),
    [({}, False), ({"liking": "never"}, True), ({"on_hand_g": 0.0}, True), ({"most_percent": 20.0}, True)],
)
def test_what_a_maker_says_of_an_oil_is_worth_keeping(note, is_kept):
    assert OilNote(**note).says_nothing is not is_kept


class TestChanges:
    @given(laden_formulas())
    def test_nothing_is_said_of_a_formula_against_itself(self, formula):
        assert changes_between(formula, formula.model_copy(deep=True)) == ()

    @given(formulas(), st.floats(1, 5))
    def test_a_changed_superfat_is_said_and_nothing_else(self, formula, points):
        higher = formula.model_copy(update={"superfat_percent": formula.superfat_percent + points})
        assert len(changes_between(formula, higher)) == 1

    def test_an_amount_is_told_as_it_was_typed(self):
        def said(grams: float) -> str:
            sugar = {"additive": "sugar", "by": "weight_g"}
            was, now = (weight_formula({"shea": 500.0}, additives=[sugar | {"value": one}]) for one in (20.0, grams))
            return plain(changes_between(was, now)[0])

        assert said(12.5) == "Sugar: 12.5 g"
        assert said(12.0) == "Sugar: 12 g"

    @given(weights_g(), weights_g())
    def test_every_oil_that_came_or_went_is_named(self, before, after):
        said = [plain(change) for change in changes_between(weight_formula(before), weight_formula(after))]
        for oil in before.keys() - after.keys():
            assert any(change.startswith(f"{catalogue()[oil].name} out") for change in said)
        for oil in after.keys() - before.keys():
            assert any(change.startswith(f"{catalogue()[oil].name} in") for change in said)
