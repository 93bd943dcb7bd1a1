"""What a make day says of the rules of thumb, by hand."""

from math import log

import pytest

from core.batches import Making, plan
from sapolin.core.bar.pace import minutes_to_trace
from sapolin.core.production.state import Mark, Reading
from sapolin.core.trials.rules import day_seen

COMBINED = "2031-05-04T10:00:00+00:00"


def state(**changes):
    return Making(plan()).state.model_copy(update={"combined_at": COMBINED} | changes)


def mark(what: str, at: str) -> Mark:
    return Mark(seq=1, at=f"2031-05-04T10:{at}+00:00", what=what)


def reading(celsius: float, bowl: str = "lye") -> Reading:
    return Reading(seq=1, at=COMBINED, bowl=bowl, celsius=celsius)


class TestTrace:
    def test_twice_as_slow_as_the_rule_is_the_logarithm_of_two(self) -> None:
        rule = minutes_to_trace(22.0)
        minutes, seconds = divmod(round(120 * rule), 60)
        seen = day_seen(state(marks=(mark("light", f"{minutes:02d}:{seconds:02d}"),)), 22.0, 90.0, {})
        assert seen["trace"].offset == pytest.approx(log(2), abs=0.01)
        # A time told by a look lies off by 0.15, and there are two of them.
        assert seen["trace"].sd == pytest.approx(0.30)
        assert seen["trace"].rule == pytest.approx(rule)

    def test_the_first_mark_of_trace_counts_whichever_it_is(self) -> None:
        marks = (mark("emulsion", "02:00"), mark("medium", "08:00"), mark("heavy", "20:00"))
        seen = day_seen(state(marks=marks), 22.0, 90.0, {})
        assert seen["trace"].offset == pytest.approx(log(8 / minutes_to_trace(22.0)))

    def test_what_was_mixed_otherwise_is_held_to_its_own_rule(self) -> None:
        seen = day_seen(state(marks=(mark("light", "30:00"),)), 22.0, 90.0, {}, "whisk")
        assert seen["trace"].offset == pytest.approx(log(30 / minutes_to_trace(22.0, "whisk")))

    @pytest.mark.parametrize(
        "marks", [(), (mark("emulsion", "05:00"),), (mark("light", "00:30"),), (mark("light", "00:10"),)]
    )
    def test_without_a_time_that_says_something_nothing_is_seen(self, marks: tuple[Mark, ...]) -> None:
        assert "trace" not in day_seen(state(marks=marks), 22.0, 90.0, {})

    def test_a_batch_that_was_not_combined_or_has_no_rule_says_nothing(self) -> None:
        marks = (mark("light", "05:00"),)
        assert "trace" not in day_seen(state(marks=marks, combined_at=None), 22.0, 90.0, {})
        assert "trace" not in day_seen(state(marks=marks), None, 90.0, {})


class TestLyeAndMoulds:
    def test_the_hottest_reading_of_the_lye_is_held_against_its_forecast(self) -> None:
        readings = (reading(70), reading(84), reading(60), reading(99, "oils"))
        seen = day_seen(state(readings=readings), None, 90.0, {})
        assert seen["lye_peak"].offset == pytest.approx(-6)
        assert (seen["lye_peak"].sd, seen["lye_peak"].rule) == (2.0, 90.0)

    @pytest.mark.parametrize(("celsius", "counts"), [(67.5, False), (67.6, True), (40.0, False)])
    def test_a_lye_that_had_cooled_when_it_was_read_says_nothing(self, celsius: float, counts: bool) -> None:
        # Three quarters of 90 °C.
        assert ("lye_peak" in day_seen(state(readings=(reading(celsius),)), None, 90.0, {})) is counts

    def test_what_a_mould_took_more_is_a_part_of_what_it_was_to_take(self) -> None:
        seen = day_seen(state(poured_ml={0: -28.0, 1: 5.0}), None, 90.0, {0: 1400.0, 1: 0.0})
        assert seen["fill"].offset == pytest.approx(-0.02)
        assert seen["fill"].rule == 0.0
        assert "fill" not in day_seen(state(poured_ml={1: 5.0}), None, 90.0, {0: 1400.0, 1: 0.0})
