"""How hot lye gets, how bowls cool, and when they are ready: against the tables, and against bowls that really cool."""

from math import exp

import pytest
from hypothesis import given
from hypothesis import strategies as st

from core.batches import GUEST, plan
from core.strategies import weight_formula
from sapolin.core.batch.heat import cooling, gel_onset_hours, lye_peak, solution_density_g_per_ml
from sapolin.core.batch.planned import plan_batch
from sapolin.core.batch.procedure import steps_of
from sapolin.core.batch.temperatures import TemperatureWindow, usual_choices
from sapolin.core.production.cooling import cooling_forecast
from sapolin.core.quantities.text import Grams, Number, Temperature, TemperatureDifference, plain, text

WINDOW = TemperatureWindow(
    low_c=32, high_c=43, apart_c=5.6, hardest_fat="Coconut", melts_c=24, milk=False, conflict=()
)  # fmt: skip


class Bowl:
    """A bowl that cools as Newton has it, and the thermometer pointed at it."""

    def __init__(self, start_c: float, rate: float, room_c: float, noise_c: float = 0.0) -> None:
        self.start_c, self.rate, self.room_c, self.noise_c = start_c, rate, room_c, noise_c

    def at(self, minute: float) -> float:
        return self.room_c + (self.start_c - self.room_c) * exp(-self.rate * minute)

    def read(self, *minutes: float) -> list[tuple[float, float]]:
        return [(m, self.at(m) + (self.noise_c if i % 2 else -self.noise_c)) for i, m in enumerate(minutes)]


class TestSolution:
    @pytest.mark.parametrize(
        # Half a percent adds a twentieth of the 0.093 g/mL between water and 10 %, and 5 % half of it.
        ("percent", "density"),
        [(0.5, 1.00265), (5, 1.0445), (10, 1.091), (20, 1.187), (30, 1.288), (40, 1.394), (50, 1.511)],
    )
    def test_density_of_caustic_potash_is_that_of_the_tables(self, percent, density):
        assert solution_density_g_per_ml(0.0, percent, 100.0 - percent) == pytest.approx(density, abs=1e-5)

    @pytest.mark.parametrize(("percent", "density"), [(20, 1.219), (25, 1.274), (30, 1.328), (40, 1.430), (50, 1.525)])
    def test_density_of_caustic_soda_is_that_of_the_tables(self, percent, density):
        assert solution_density_g_per_ml(percent, 0.0, 100.0 - percent) == pytest.approx(density, abs=0.001)

    def test_water_without_lye_is_water(self):
        assert solution_density_g_per_ml(0.0, 0.0, 100.0) == 0.998

    @given(st.floats(1, 45), st.floats(0.5, 5), st.floats(0, 1))
    def test_stronger_is_denser_whichever_the_lye(self, lye_g, more_g, component):
        def density(grams: float) -> float:
            return solution_density_g_per_ml(grams * component, grams * (1 - component), 100.0 - lye_g)

        assert density(lye_g + more_g) > density(lye_g)

    @given(st.floats(5, 45))
    def test_lye_takes_less_room_than_its_parts(self, lye_g):
        water_g = 100.0 - lye_g
        volume = 100.0 / solution_density_g_per_ml(lye_g, 0.0, water_g)
        # Solid caustic soda has 2.13 g/mL.
        assert volume < lye_g / 2.13 + water_g / 0.998


class TestPeak:
    @given(st.floats(50, 500), st.floats(1.2, 4), st.floats(5, 30))
    def test_it_does_not_depend_on_how_much_there_is(self, lye_g, ratio, start):
        one = lye_peak(lye_g, 0.0, ratio * lye_g, start_c=start)
        ten = lye_peak(10 * lye_g, 0.0, 10 * ratio * lye_g, start_c=start)
        assert ten.high_c == pytest.approx(one.high_c)
        assert one.low_c < one.high_c

    @given(st.floats(1.5, 5), st.floats(0.2, 2))
    def test_more_water_is_cooler(self, ratio, more):
        assert lye_peak(100.0, 0.0, 100 * (ratio + more)).high_c < lye_peak(100.0, 0.0, 100 * ratio).high_c

    @given(st.floats(2, 4), st.floats(0, 15))
    def test_colder_water_is_cooler_by_nearly_as_much(self, ratio, colder):
        warm, cold = (lye_peak(100.0, 0.0, 100 * ratio, start_c=start).high_c for start in (20.0, 20.0 - colder))
        assert warm - cold == pytest.approx(colder, abs=0.01)

    @given(st.floats(0, 200), st.floats(0, 50))
    def test_ice_only_ever_cools(self, frozen_g, more_g):
        less = lye_peak(100.0, 0.0, 260.0, frozen_g=frozen_g)
        more = lye_peak(100.0, 0.0, 260.0, frozen_g=min(frozen_g + more_g, 260.0))
        assert more.high_c <= less.high_c + 1e-9
        assert more.low_c >= 0

    def test_heat_is_neither_made_nor_lost(self):
        """100 g NaOH in 200 g water is 2.5 mol in 11.1 mol: 4.44 mol water per mol, about 35.8 kJ per mol."""
        released_j = 100 / 39.997 * (34.0 + (38.0 - 34.0) * (200 / 18.015 / (100 / 39.997) - 4)) * 1000
        warmed_j = 300 * 3.5 * (lye_peak(100.0, 0.0, 200.0, start_c=20.0).high_c - 20.0)
        assert warmed_j == pytest.approx(released_j, rel=1e-6)

    def test_strong_lye_is_said_to_boil(self):
        assert lye_peak(100.0, 0.0, 110.0).boils
        assert not lye_peak(100.0, 0.0, 300.0).boils

    def test_no_lye_no_heat(self):
        assert lye_peak(0.0, 0.0, 200.0, start_c=18.0).high_c == 18.0


class TestForecast:
    @given(st.floats(50, 62), st.floats(70, 95), st.floats(0.01, 0.03), st.floats(0.02, 0.06), st.floats(10, 25))
    def test_both_bowls_are_ready_when_it_was_forecast(self, oils_c, lye_c, slow, quick, room):
        oils, lye = Bowl(oils_c, slow, room), Bowl(lye_c, quick, room)
        found = cooling_forecast(oils.read(0, 8), lye.read(0, 8), WINDOW, room, 8.0)
        if found.both_minute is None:
            # Then they really never meet in the window.
            for minute in range(8, 600):
                inside = all(32 <= bowl.at(minute) <= 43 for bowl in (oils, lye))
                assert not (inside and abs(oils.at(minute) - lye.at(minute)) < 5.0)
            return
        at = found.both_minute
        assert all(31 <= bowl.at(at) <= 44 for bowl in (oils, lye))
        assert abs(oils.at(at) - lye.at(at)) <= 5.7
        assert found.ready == (at == 8.0)

    def test_every_reading_makes_it_truer(self):
        bowl = Bowl(88.0, 0.03, 20.0, noise_c=0.6)
        errors = []
        for count in (2, 4, 8):
            curve = cooling(bowl.read(*(3.0 * i for i in range(count))), 20.0)
            assert curve is not None
            errors.append(abs(curve.at(60.0) - bowl.at(60.0)))
        assert errors[2] < errors[0]
        assert errors[2] < 1.0

    def test_what_was_read_before_the_peak_does_not_count(self):
        bowl = Bowl(90.0, 0.03, 20.0)
        warming = [(-6.0, 30.0), (-3.0, 70.0)]
        with_it, without = cooling(warming + bowl.read(0, 5, 10), 20.0), cooling(bowl.read(0, 5, 10), 20.0)
        assert with_it == without

    def test_the_curve_starts_where_it_was_read_last(self):
        bowl = Bowl(60.0, 0.02, 20.0)
        found = cooling_forecast(bowl.read(0, 6), [], WINDOW, 20.0, 7.0)
        assert (found.oils.curve[0].minute, found.oils.curve[0].celsius) == (6.0, pytest.approx(bowl.at(6)))
        falling = [point.celsius for point in found.oils.curve]
        assert falling == sorted(falling, reverse=True)
        assert found.lye.curve == ()

    def test_when_a_bowl_comes_into_the_window_and_leaves_it(self):
        bowl = Bowl(60.0, 0.02, 20.0)
        found = cooling_forecast(bowl.read(0, 6), [], WINDOW, 20.0, 6.0).oils
        assert bowl.at(found.enters_minute) == pytest.approx(43.0)
        assert bowl.at(found.leaves_minute) == pytest.approx(32.0)

    def test_cooling_alone_that_does_not_help_is_told(self):
        warm_shed = cooling_forecast([(0.0, 30.0), (10.0, 29.0)], [(0.0, 80.0), (10.0, 60.0)], WINDOW, 20.0, 10.0)
        assert warm_shed.both_minute is None
        assert "warm the cooler one" in plain(warm_shed.words)

    @pytest.mark.parametrize(
        ("oils", "lye", "words"),
        [
            ([], [], "read_both"),
            ([(0.0, 50.0)], [], "read_both"),
            ([(0.0, 50.0)], [(0.0, 70.0)], "read_again"),
            # How fast the lye cools is not known, so nobody can say that the two never meet.
            ([(0.0, 60.0), (1.0, 59.0)], [(0.0, 80.0)], "read_again"),
            ([(0.0, 80.0)], [(0.0, 60.0), (1.0, 59.0)], "read_again"),
            # It is too cool already, and only gets cooler.
            ([(0.0, 60.0), (1.0, 59.0)], [(0.0, 25.0)], "never_together"),
            ([(0.0, 25.0)], [(0.0, 26.0)], "never_together"),
            ([(0.0, 60.0)], [(0.0, 26.0), (1.0, 25.0)], "never_together"),
            ([(0.0, 38.0)], [(0.0, 37.0)], "ready"),
        ],
    )
    def test_it_says_what_to_do_next(self, oils, lye, words):
        assert cooling_forecast(oils, lye, WINDOW, 20.0, 1.0).words == text(f"cooling.{words}")

    def test_milk_that_gets_hot_is_warned_about(self):
        milk = WINDOW.model_copy(update={"milk": True, "high_c": 32.0, "low_c": 26.0})
        hot = cooling_forecast([(0.0, 30.0)], [(0.0, 45.0)], milk, 20.0, 0.0)
        assert any("scorches" in plain(warning) for warning in hot.warnings)
        assert not any(
            "scorches" in warning
            for warning in cooling_forecast([(0.0, 30.0)], [(0.0, 31.0)], milk, 20.0, 0.0).warnings
        )


class TestGel:
    @given(st.floats(20, 45), st.floats(0.5, 5))
    def test_it_comes_later_the_drier_it_is_but_never_at_once(self, lye_concentration, more):
        assert gel_onset_hours(lye_concentration + more) >= gel_onset_hours(lye_concentration) >= 0.25


class TestShown:
    @given(st.floats(-20, 140), st.floats(-20, 140))
    def test_temperatures_come_out_as_they_would_be_measured(self, low, high):
        first, second = (
            float(word.replace("−", "-"))
            for word in plain((Temperature(c=low, to_c=high),), temperatures="F").removesuffix(" °F").split(" to ")
        )
        assert first == pytest.approx(low * 1.8 + 32, abs=0.51)
        assert second == pytest.approx(high * 1.8 + 32, abs=0.51)

    @pytest.mark.parametrize(
        ("unit", "shown"),
        [
            ("g", ("454 g", "453.6 g", "453.59 g")), ("kg", ("0.454 kg", "0.4536 kg", "0.45359 kg")),
            ("oz", ("16.00 oz", "16.00 oz", "16.000 oz")), ("lb", ("1.000 lb", "1.0000 lb", "1.00000 lb")),
        ],
    )  # fmt: skip
    def test_a_pound_is_told_as_finely_as_scales_read(self, unit, shown):
        said = [plain((Grams(g=453.59237, decimals=decimals),), weights=unit) for decimals in (0, 1, 2)]
        assert said == list(shown)

    def test_a_little_below_zero_is_not_minus_nothing(self):
        said = (Temperature(c=-0.3), ", ", Temperature(c=-12.6), ", ", Grams(g=-0.04, decimals=1))
        assert plain(said) == "0 °C, −13 °C, 0.0 g"
        assert plain((Number(value=-0.004, decimals=2, unit="%"),)) == "0.00 %"

    @given(st.floats(0, 60))
    def test_a_difference_is_not_turned_into_a_temperature(self, apart):
        shown = plain((TemperatureDifference(c=apart),), temperatures="F")
        assert float(shown.removesuffix(" °F")) == pytest.approx(apart * 1.8, abs=0.51)


def test_thinning_master_lye_warms_it_far_less_than_dissolving_beads():
    """130 g NaOH dissolved ahead at 50 %, thinned to 33 %: makers see 50 to 55 C, not 90 to 105."""
    dry = lye_peak(130.0, 0.0, 264.0)
    master = lye_peak(130.0, 0.0, 264.0, dissolved_in_g=130.0)
    assert 45 <= master.low_c <= master.high_c <= 57
    assert dry.low_c > 85


def test_a_batch_with_master_lye_is_told_its_own_heat():
    master = plan_batch(plan(choices={"lye": "master"}))
    assert master.lye_peak.high_c < 60
    as_it_is = plan(
        choices={"lye": "master"}, formula={"water": {"by": "lye_concentration_percent", "value": 50.0}}
    )  # fmt: skip
    steps = {step.id: plain(step.text) for step in steps_of(as_it_is, plan_batch(as_it_is))}
    assert "no water to add" in steps["make-lye"]
    assert "into the water" not in steps["make-lye"]
    assert plan_batch(as_it_is).lye_peak.high_c == pytest.approx(20.0, abs=0.5)


class TestUsualChoices:
    """What scorches is kept cool, with ice at hand where it takes the lye; all else is made as usual."""

    @pytest.mark.parametrize(
        ("liquid", "use", "cover", "in_ice"),
        [
            (None, "", "cover", False), ("goat-milk", "dissolves_lye", "fridge", True),
            ("goat-milk", "at_trace", "fridge", False), ("aloe-juice", "dissolves_lye", "cover", False),
        ],
    )  # fmt: skip
    def test_by_liquid(self, liquid, use, cover, in_ice):
        liquids = [] if liquid is None else [{"liquid": liquid, "use": use, "by": "percent_of_water", "value": 50.0}]
        chosen = usual_choices(weight_formula(GUEST, liquids=liquids))
        assert (chosen.cover, chosen.ice_bath) == (cover, in_ice)
