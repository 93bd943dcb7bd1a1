"""Trades are exact: what they predict is what the next result shows."""

import pytest

from core.strategies import weight_formula
from sapolin.core.bar.calculation import calculate
from sapolin.core.optimise.trades import best_trades

GUEST = {"olive-refined": 340.0, "palm": 300.0, "coconut": 260.0, "shea": 50.0, "castor": 50.0}


def test_the_best_trade_brings_cleansing_down_and_is_exact():
    trade = best_trades(weight_formula(GUEST))[0]
    assert trade.give == "coconut"
    after = dict(GUEST)
    after[trade.give] -= 10 * trade.points
    after[trade.take] += 10 * trade.points
    before, now = calculate(weight_formula(GUEST)).qualities, calculate(weight_formula(after)).qualities
    for was, is_now in zip(before, now, strict=True):
        moved = next(move.points for move in trade.moves if move.quality == was.quality)
        assert is_now.points - was.points == pytest.approx(moved, abs=1e-9)
    nearer = sum(quantity.outside_by for quantity in before) - sum(quantity.outside_by for quantity in now)
    assert trade.nearer_by == pytest.approx(nearer, abs=0.15)


def test_nothing_is_said_when_everything_is_in_target_range():
    assert (
        best_trades(weight_formula({"olive-refined": 420.0, "tallow-beef": 320.0, "coconut": 200.0, "castor": 60.0}))
        == ()
    )


def test_held_oils_do_not_trade():
    lines = [{"oil": oil, "by": "weight_g", "value": g, "locked": oil == "coconut"} for oil, g in GUEST.items()]
    trades = best_trades(weight_formula(GUEST, blend={"lines": lines}))
    assert "coconut" not in {oil for trade in trades for oil in (trade.give, trade.take)}


@pytest.mark.parametrize("held", ["olive-refined", "shea", "castor", "palm"])
def test_held_oils_take_nothing_either(held):
    lines = [{"oil": oil, "by": "weight_g", "value": g, "locked": oil == held} for oil, g in GUEST.items()]
    trades = best_trades(weight_formula(GUEST, blend={"lines": lines}))
    assert trades
    assert held not in {oil for trade in trades for oil in (trade.give, trade.take)}


def test_no_more_is_given_than_there_is():
    assert all(trade.points <= 30 for trade in best_trades(weight_formula(GUEST), points=50))
