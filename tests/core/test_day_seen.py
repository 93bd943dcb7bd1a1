"""What a make day, and the record after it, say of the rules of thumb, by hand."""

from datetime import datetime, timedelta
from math import exp, log

import pytest

from core.batches import Making, plan
from core.test_cure_record import BAR, POURED, USUAL, WEIGHED, record
from sapolin.core.bar.pace import minutes_to_trace
from sapolin.core.cure.drying import BarAsCut, drying_days
from sapolin.core.cure.events import CureRecord
from sapolin.core.cure.state import cure_state
from sapolin.core.cure.unmould import Press, unmould_observed
from sapolin.core.production.state import Mark, Reading
from sapolin.core.trials.rules import cure_seen, day_seen

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


class TestAfterThePour:
    """A loaf forecast for 18 to 30 hours; bars of 25 × 60 × 80 mm that end at 88 % of 130 g."""

    POURED = "2031-05-04T10:30:00+00:00"
    HOURS = (18.0, 30.0)
    BAR = BarAsCut(sides_mm=(25.0, 60.0, 80.0), wet_g=130.0, end_fraction=0.88)

    def cured(self, *happened: tuple[str, dict]):
        records = [
            CureRecord.model_validate({"seq": seq, "at": when, "recorded_at": when, "event": event})
            for seq, (when, event) in enumerate(happened, start=1)
        ]
        return cure_state(records, self.POURED)

    def test_a_loaf_that_left_its_mould_clean_was_firm_then(self) -> None:
        """Soft at 36 hours and clean at 48: the same as presses that say so."""
        pressed = ("2031-05-05T22:30:00+00:00", {"kind": "pressed", "firmness": "soft"})
        out = ("2031-05-06T10:30:00+00:00", {"kind": "unmoulded", "how": "clean"})
        presses = [Press(hours=36, firmness="soft"), Press(hours=48, firmness="firm")]
        assert cure_seen(self.cured(pressed, out), self.POURED, self.HOURS, None) == {
            "unmould": unmould_observed(*self.HOURS, presses)
        }

    def test_one_that_stuck_says_nothing_by_leaving(self) -> None:
        pressed = ("2031-05-05T22:30:00+00:00", {"kind": "pressed", "firmness": "soft"})
        out = ("2031-05-06T10:30:00+00:00", {"kind": "unmoulded", "how": "stuck"})
        seen = cure_seen(self.cured(pressed, out), self.POURED, self.HOURS, None)
        assert seen == {"unmould": unmould_observed(*self.HOURS, [Press(hours=36, firmness="soft")])}

    def test_without_a_forecast_or_a_look_nothing_is_seen(self) -> None:
        out = ("2031-05-06T10:30:00+00:00", {"kind": "unmoulded", "how": "clean"})
        assert cure_seen(self.cured(out), self.POURED, None, None) == {}
        assert cure_seen(self.cured(), self.POURED, self.HOURS, self.BAR) == {}

    def test_bars_that_dry_in_half_the_time_say_so(self) -> None:
        """The curve of half the drying time, to the letter: the logarithm of a half, and the end as the rule has it."""
        rule_days = drying_days(self.BAR.sides_mm)
        cut = ("2031-05-05T10:30:00+00:00", {"kind": "cut", "bars": 10, "seconds": 0, "samples": 0})
        begun = datetime.fromisoformat(cut[0])
        weighed = [
            (
                (begun + timedelta(days=day)).isoformat(),
                {"kind": "weighed", "mark": mark, "source": "scale",
                 "weight_g": 130 * (0.88 + 0.12 * exp(-2 * day / rule_days))},
            )
            for day in (0.01, 3, 7, 14, 28, 56) for mark in "ABCD"
        ]  # fmt: skip
        out = ("2031-05-05T10:00:00+00:00", {"kind": "unmoulded", "how": "clean"})
        seen = cure_seen(self.cured(out, cut, *weighed), self.POURED, None, self.BAR)
        assert set(seen) == {"drying_time", "drying_end"}
        assert seen["drying_time"].offset == pytest.approx(log(0.5), abs=0.05)
        assert seen["drying_end"].offset == pytest.approx(0.0, abs=0.005)
        assert seen["drying_time"].rule == pytest.approx(rule_days)
        assert seen["drying_end"].rule == 0.88


def test_without_a_cutting_plan_weights_teach_nothing_of_drying():
    state = cure_state(record(*USUAL, (22.0, WEIGHED[1] | {"weight_g": 119.0})), POURED.isoformat())
    assert cure_seen(state, POURED.isoformat(), None, None) == {}
    assert set(cure_seen(state, POURED.isoformat(), None, BAR)) <= {"drying_time", "drying_end"}
