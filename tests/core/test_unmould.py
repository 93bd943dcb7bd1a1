"""When a loaf can leave its mould, as pressing it moves the forecast."""

import pytest

from sapolin.core.cure.unmould import Firmness, Press, unmould_forecast


def after(hours: float, firmness: Firmness):
    return unmould_forecast(18, 30, [Press(hours=hours, firmness=firmness)])


def test_without_a_press_it_is_the_forecast() -> None:
    forecast = unmould_forecast(18, 30, [])
    assert (forecast.low_h, forecast.high_h, forecast.presses, forecast.can_now) == (18, 30, 0, False)


def test_a_soft_loaf_late_in_its_forecast_takes_longer() -> None:
    forecast = after(29, "soft")
    assert forecast.low_h > 25
    assert forecast.high_h > 33
    assert not forecast.can_now


def test_a_firm_loaf_early_was_sooner_than_thought() -> None:
    forecast = after(12, "firm")
    assert forecast.high_h < 17
    assert forecast.can_now
    assert not forecast.is_late


def test_a_tacky_loaf_is_less_than_half_way() -> None:
    # Tacky at hour 20 means T over about 36 h.
    assert after(20, "tacky").low_h > 30


def test_a_brittle_loaf_is_late() -> None:
    forecast = after(50, "brittle")
    assert forecast.is_late
    assert forecast.high_h < 26


def test_what_was_expected_moves_it_little() -> None:
    forecast = after(15, "soft")
    assert forecast.low_h == pytest.approx(18, abs=2)
    assert forecast.high_h == pytest.approx(30, abs=5)


def test_the_latest_press_decides_whether_it_can_leave_now() -> None:
    presses = [Press(hours=20, firmness="firm"), Press(hours=21, firmness="soft")]
    assert not unmould_forecast(18, 30, presses).can_now
