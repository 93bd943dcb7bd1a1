"""How bars dry: values by hand, what few and many weighings do, slips, and how well ranges hold on made-up workshops."""

from math import exp, log, pi, sqrt

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sapolin.core.cure.drying import BarAsCut, Room, Weighing, bar_weight, drying_days, drying_forecast, ready_day
from sapolin.core.quantities.coefficients import coefficient

BAR = BarAsCut(sides_mm=(25.0, 60.0, 80.0), wet_g=130.0, end_fraction=0.88)


def weighed(
    tau: float, end: float, days: tuple[float, ...], marks: str = "ABC", start_g: float = 130.0
) -> list[Weighing]:
    """Bars that follow a curve to the letter; the second weighs what is said, the others 2 % less and more."""

    def of_bar(j: int, day: float) -> float:
        return start_g * (1 + 0.02 * (j - 1)) * (end + (1 - end) * exp(-day / tau))

    return [
        Weighing(seq=i * len(marks) + j + 1, mark=mark, day=day, weight_g=of_bar(j, day))
        for i, day in enumerate(days)
        for j, mark in enumerate(marks)
    ]


class TestDryingTime:
    def test_it_follows_the_sides(self) -> None:
        # 1/τ = π² · 3e-11 · (1/0.025² + 1/0.06² + 1/0.08²) = 2.961e-10 · 2034.03 per s, so τ = 1.6604e6 s = 19.22 days.
        assert pytest.approx(pi**2 * 3e-11, rel=1e-3) == 2.961e-10
        assert drying_days((25.0, 60.0, 80.0)) == pytest.approx(1.6604e6 / 86_400, rel=1e-3)

    def test_twice_the_size_takes_four_times_as_long(self) -> None:
        assert drying_days((50.0, 120.0, 160.0)) == pytest.approx(4 * drying_days((25.0, 60.0, 80.0)))

    def test_ten_degrees_warmer_is_a_quarter_quicker(self) -> None:
        # 3 % a degree: e^0.3 = 1.3499.
        slow = drying_days((25.0, 60.0, 80.0), Room(celsius=19))
        assert slow / drying_days((25.0, 60.0, 80.0), Room(celsius=29)) == pytest.approx(1.3499, abs=1e-4)

    def test_damp_air_takes_less(self) -> None:
        # 55 % leaves 45 points to take up, 77.5 % half of them.
        usual = drying_days((25.0, 60.0, 80.0), Room(humidity_percent=55))
        assert drying_days((25.0, 60.0, 80.0), Room(humidity_percent=77.5)) == pytest.approx(2 * usual)
        assert drying_days((25.0, 60.0, 80.0), Room(humidity_percent=100)) == pytest.approx(9 * usual)


class TestWhatABarWeighs:
    """130 g as cut, 88 % of it once dry; nothing weighed yet."""

    def test_before_a_weighing_it_is_the_curve(self) -> None:
        tau = drying_days(BAR.sides_mm)
        for day in (0.0, tau, 100.0):
            found = bar_weight(BAR, (), day)
            assert found.left == pytest.approx(0.88 + 0.12 * exp(-day / tau))
            assert found.mean_g == pytest.approx(130 * found.left)

    def test_how_sure_it_is_comes_of_the_cut_the_time_and_the_end(self) -> None:
        """The weight as a fraction of the mean: once dry, what is unsure is the cut and the end, each by itself."""
        cut, end = coefficient("drying.cut_spread"), coefficient("drying.end_spread")
        assert bar_weight(BAR, (), 0.0).mean_spread == pytest.approx(cut)
        assert bar_weight(BAR, (), 4000.0).mean_spread == pytest.approx((cut**2 + (end / 0.88) ** 2) ** 0.5, rel=0.05)
        light = BAR.model_copy(update={"end_fraction": 0.6})
        assert bar_weight(light, (), 4000.0).mean_spread == pytest.approx((cut**2 + (end / 0.6) ** 2) ** 0.5, rel=0.05)

    def test_bars_that_differ_make_the_next_less_sure(self) -> None:
        """Six bars of 120 to 140 g at cutting, weighed that day: their spread as a variance, with the usual spread of bars
        counting like that of four."""
        weights = (120.0, 124.0, 128.0, 132.0, 136.0, 140.0)
        apart = [Weighing(seq=i, mark="ABCDEF"[i], day=0.0, weight_g=grams) for i, grams in enumerate(weights)]
        alike = [one.model_copy(update={"weight_g": 130.0}) for one in apart]
        usual, logs = coefficient("drying.bar_spread"), [log(grams) for grams in weights]
        mean = sum(logs) / 6
        wide = sqrt((4 * usual**2 + sum((one - mean) ** 2 for one in logs)) / 9)
        narrow = sqrt(4 * usual**2 / 9)
        assert wide > narrow
        for weighings, spread in ((apart, wide), (alike, narrow)):
            found = bar_weight(BAR, weighings, 0.0)
            assert found.bar_spread == pytest.approx(spread, rel=5e-3)


class TestReadyDay:
    def test_the_week_from_then_on_takes_just_the_limit(self) -> None:
        for tau, end, limit in ((19.2, 0.88, 1.0), (12.0, 0.9, 0.5), (29.0, 0.86, 0.75)):
            day = ready_day(tau, end, limit)
            before, after = (end + (1 - end) * exp(-one / tau) for one in (day, day + 7))
            assert 100 * (1 - after / before) == pytest.approx(limit, abs=1e-9)

    def test_what_loses_nothing_is_ready_at_once(self) -> None:
        assert ready_day(19.2, 1.0, 1.0) == 0.0

    def test_slow_drying_is_not_being_dry(self) -> None:
        # 400 days of drying never lose 1 % in a week; two thirds of the water are gone after 400 days.
        assert ready_day(400.0, 0.95, 1.0) == 400.0
        assert ready_day(50.0, 0.88, 1.0) == 50.0

    @given(st.floats(5, 200), st.floats(0.8, 0.97), st.floats(0.5, 1.0))
    def test_what_dries_slower_is_ready_later(self, tau: float, end: float, limit: float) -> None:
        assert ready_day(1.1 * tau, end, limit) > ready_day(tau, end, limit)

    def test_a_cold_damp_room_makes_bars_wait(self) -> None:
        days = [
            drying_forecast(BAR, [], 0, Room(celsius=celsius, humidity_percent=damp)).ready_day
            for celsius, damp in ((26, 38), (19, 55), (11, 78))
        ]
        assert days == sorted(days)
        assert days[2] > days[1] + 14


class TestForecast:
    def test_without_weighings_it_is_the_size_alone(self) -> None:
        forecast = drying_forecast(BAR, [], 0)
        assert forecast.drying_days == pytest.approx(drying_days(BAR.sides_mm))
        assert forecast.start_g == pytest.approx(130.0)
        assert forecast.end_g == pytest.approx(130 * 0.88)
        assert forecast.ready_day == pytest.approx(26.8, abs=0.1)
        assert forecast.ready_low_day < 20 < 33 < forecast.ready_high_day
        # The first week takes 1 − (0.88 + 0.12 e^(−7/19.22)) = 3.66 %.
        assert forecast.weekly_loss_percent == pytest.approx(3.66, abs=0.01)

    def test_many_weighings_say_what_the_bars_do(self) -> None:
        truth = weighed(13.0, 0.9, (0, 3, 7, 14, 21, 28, 35))
        forecast = drying_forecast(BAR, truth, 35)
        assert forecast.drying_days == pytest.approx(13.0, rel=0.05)
        assert forecast.end_g / forecast.start_g == pytest.approx(0.9, abs=0.004)
        assert forecast.ready_day == pytest.approx(ready_day(13.0, 0.9, 1.0), abs=1.5)
        assert forecast.bars == 3
        assert forecast.weighings == 21

    def test_one_weighing_on_the_day_of_cutting_moves_the_date_little(self) -> None:
        before = drying_forecast(BAR, [], 0)
        after = drying_forecast(BAR, weighed(13.0, 0.9, (0,)), 0)
        assert after.ready_day == pytest.approx(before.ready_day, abs=0.2)

    def test_weighings_narrow_the_range(self) -> None:
        widths = []
        for days in ((), (0, 7), (0, 7, 14), (0, 7, 14, 21, 28)):
            forecast = drying_forecast(BAR, weighed(18.0, 0.885, days), 28)
            widths.append(forecast.ready_high_day - forecast.ready_low_day)
        assert widths == sorted(widths, reverse=True)
        assert widths[-1] < widths[0] / 2

    def test_a_slip_of_the_pen_is_named_and_hardly_counts(self) -> None:
        truth = weighed(18.0, 0.885, (0, 7, 14, 21))
        wrong = truth[7].model_copy(update={"weight_g": truth[7].weight_g - 10})
        slipped = [*truth[:7], wrong, *truth[8:]]
        forecast = drying_forecast(BAR, slipped, 21)
        assert forecast.doubtful == (wrong.seq,)
        assert forecast.ready_day == pytest.approx(drying_forecast(BAR, truth, 21).ready_day, abs=1.5)

    def test_at_least_is_below_the_mean_by_what_bars_differ(self) -> None:
        forecast = drying_forecast(BAR, weighed(18.0, 0.885, (0, 7, 14, 21, 28, 35)), 35)
        # 1.645 times about 3 % between bars and a little for what is not known.
        assert 0.91 < forecast.at_least_g / forecast.end_g < 0.96

    def test_the_curve_begins_at_the_cut_and_falls(self) -> None:
        curve = drying_forecast(BAR, weighed(18.0, 0.885, (0, 7)), 7).curve
        assert curve[0].day == 0
        assert curve[0].percent == pytest.approx(100)
        weights = [point.percent for point in curve]
        assert weights == sorted(weights, reverse=True)
        assert all(point.low_percent <= point.percent + 1e-9 <= point.high_percent + 1e-6 for point in curve)

    def test_a_stricter_limit_is_met_later(self) -> None:
        usual = drying_forecast(BAR, [], 0).ready_day
        assert drying_forecast(BAR, [], 0, limit_percent=0.5).ready_day > usual + 5


def test_ranges_hold_on_workshops_that_differ() -> None:
    """Of 300 seeded workshops whose bars follow the prior, about nine in ten are ready within the range that was told."""
    rng = np.random.default_rng(7)
    held = {0: 0, 3: 0}
    for _ in range(300):
        tau = exp(log(drying_days(BAR.sides_mm)) + 0.35 * rng.standard_normal())
        end = 0.88 + 0.02 * rng.standard_normal()
        start = 130 * exp(0.03 * rng.standard_normal())
        truth = ready_day(tau, end, 1.0)
        for weeks, count in held.items():
            days = tuple(7.0 * week for week in range(weeks))
            noisy = [
                one.model_copy(update={"weight_g": one.weight_g * exp(0.004 * rng.standard_normal())})
                for one in weighed(tau, end, days, start_g=start)
            ]
            forecast = drying_forecast(BAR, noisy, days[-1] if days else 0.0)
            held[weeks] = count + (forecast.ready_low_day - 0.05 <= truth <= forecast.ready_high_day + 0.05)
    assert 0.86 <= held[0] / 300 <= 0.94
    assert 0.86 <= held[3] / 300 <= 0.95
