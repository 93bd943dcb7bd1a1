"""The simulated devices behave like the ones they stand in for."""

import pytest

from sapolin.devices.protocol import UnpluggedError
from sapolin.devices.simulated import SimulatedScale


class Clock:
    """Time that passes when told to."""

    def __init__(self):
        self.now = 1000.0

    def __call__(self) -> float:
        return self.now


@pytest.fixture
def clock():
    return Clock()


@pytest.fixture
def scale(clock):
    return SimulatedScale(clock)


def test_a_scale_settles_on_what_was_poured(scale, clock):
    scale.put(250.0)
    assert scale.read().state == "settling"
    clock.now += 0.2
    assert abs(scale.read().weight_g - 250) > 1
    clock.now += 2
    reading = scale.read()
    assert (reading.state, reading.weight_g) == ("steady", 250.0)


def test_it_shows_its_steps_and_no_finer(scale, clock):
    scale.put(12.32)
    clock.now += 5
    assert scale.read().weight_g == 12.3


def test_tare_shows_zero_and_further_weight_alone(scale, clock):
    scale.put(400.0)
    clock.now += 5
    scale.tare()
    assert scale.read().weight_g == 0
    scale.put(33.3)
    clock.now += 5
    assert scale.read().weight_g == pytest.approx(33.3, abs=0.1)
    scale.clear()
    clock.now += 5
    assert scale.read().weight_g == pytest.approx(-400, abs=0.1)


@pytest.mark.parametrize("shows_g", [0.0, 40.0, 250.0])
def test_pouring_until_it_shows_a_weight_minds_what_is_on_it(scale, clock, shows_g):
    scale.put(400.0)
    clock.now += 5
    scale.tare()
    scale.put(shows_g)
    scale.pour_until(97.4)  # At once, while it still trembles.
    clock.now += 5
    assert scale.read().weight_g == pytest.approx(max(shows_g, 97.4), abs=0.05)


def test_pouring_until_makes_good_what_it_has_drifted(scale, clock):
    scale.tare()
    clock.now += 3 * 3600
    scale.pour_until(50.0)
    clock.now += 2
    assert scale.read().weight_g == pytest.approx(50.0, abs=0.05)


def test_it_drifts_slowly_until_tared(scale, clock):
    scale.tare()
    clock.now += 4 * 3600
    assert scale.read().weight_g == pytest.approx(1.2, abs=0.11)
    scale.tare()
    assert scale.read().weight_g == 0


def test_overload_and_unplugging_show_no_weight(scale, clock):
    scale.put(6000.0)
    clock.now += 5
    assert (scale.read().state, scale.read().weight_g) == ("overload", None)
    scale.plug(False)
    assert scale.read().state == "unplugged"
    with pytest.raises(UnpluggedError):
        scale.tare()
    scale.clear()
    scale.plug(True)
    clock.now += 5
    assert scale.read().state == "steady"


def test_a_bump_unsettles_it_for_a_moment(scale, clock):
    scale.put(100.0)
    clock.now += 5
    scale.bump()
    clock.now += 0.05
    assert scale.read().state == "settling"
    clock.now += 3
    assert scale.read().weight_g == pytest.approx(100, abs=0.1)


def test_every_zero_has_a_name_of_its_own(scale):
    assert scale.read().tare is None
    first, second = scale.tare(), scale.tare()
    assert first != second
    assert scale.read().tare == second


@pytest.mark.parametrize("loss", ["unplugged", "overloaded"])
def test_a_scale_that_lost_its_zero_says_so(scale, loss):
    scale.put(300.0)
    scale.tare()
    scale.put(80.0)
    if loss == "unplugged":
        scale.plug(False)
        assert scale.read().tare is None
        scale.plug(True)
    else:
        scale.put(9000.0)
        scale.put(-9000.0)
    assert scale.read().tare is None
