"""Weighed in loads, over lost zeros and slips: the record counts what is in the bowl, neither less nor twice."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from core.batches import Making, plan
from sapolin.core.batch.targets import WeighTarget
from sapolin.core.production.abandoned import what_to_do_with_the_bowls
from sapolin.core.production.corrections import deviation
from sapolin.core.production.events import RecordedEvent
from sapolin.core.production.guard import refusal
from sapolin.core.production.weighing import tare_refusal, weighing_now
from sapolin.core.quantities.text import plain, template, weight

LYE = "lye:naoh"


@pytest.fixture
def lye() -> Making:
    making = Making(plan())
    making.up_to(f"weigh-{LYE}")
    return making


def asked(making: Making, **event):
    meant = RecordedEvent.model_validate({"seq": 1, "at": "2030-01-05T10:00:00+00:00", "event": event}).event
    problem = refusal(meant, making.state, making.steps, making.planned, making.events)
    return None if problem is None else problem.code


class TestLoads:
    def test_a_load_after_a_tare_comes_on_top(self, lye):
        target = lye.target(LYE)
        lye.tare(LYE, "first")
        lye.take(LYE, 80.0)
        lye.tare(LYE, "second")
        now = lye.weighing(LYE)
        assert (now.beside_g, now.to_show_g) == (80.0, pytest.approx(target - 80.0))
        # Whatever the scale shows on the way there, the goal does not move.
        state = lye.take(LYE, round(target - 80.0, 1))
        assert state.captured_g[LYE] == pytest.approx(target, abs=0.06)
        assert LYE in state.settled

    def test_the_same_zero_read_again_shows_the_first_load_too(self, lye):
        target = lye.target(LYE)
        lye.tare(LYE, "first")
        lye.take(LYE, 80.0)
        now = lye.weighing(LYE)
        assert (now.beside_g, now.to_show_g, now.needs_tare) == (0.0, target, False)
        assert lye.take(LYE, target).captured_g[LYE] == pytest.approx(target)

    def test_a_third_reading_replaces_only_what_this_zero_showed(self, lye):
        lye.tare(LYE, "first")
        lye.take(LYE, 40.0)
        lye.tare(LYE, "second")
        lye.take(LYE, 30.0)
        assert lye.take(LYE, 50.0).captured_g[LYE] == pytest.approx(90.0)
        assert lye.weighing(LYE).beside_g == pytest.approx(40.0)

    def test_an_emptied_bowl_starts_from_nothing(self, lye):
        lye.tare(LYE, "first")
        lye.take(LYE, 80.0)
        lye.tare(LYE, "second", emptied=True)
        assert lye.weighing(LYE).to_show_g == lye.target(LYE)
        assert lye.take(LYE, 100.0).captured_g[LYE] == 100.0
        assert lye.take(LYE, 120.0).captured_g[LYE] == 120.0

    def test_after_a_typed_weight_the_scale_is_tared_first(self, lye):
        lye.tare(LYE, "first")
        lye.add(kind="captured", item=LYE, weight_g=80.0, source="typed")
        assert lye.weighing(LYE).needs_tare
        assert asked(lye, kind="captured", item=LYE, weight_g=82.0, source="scale", tare="first") == "untared"

    def test_a_zero_set_for_something_else_does_not_count(self, lye):
        lye.tare("oil:0", "first")
        assert asked(lye, kind="captured", item=LYE, weight_g=142.0, source="scale", tare="first") == "untared"

    @given(st.lists(st.tuples(st.floats(1, 60), st.booleans()), min_size=1, max_size=8))
    def test_however_it_is_loaded_the_record_is_what_lies_in_the_bowl(self, pours):
        making = Making(plan())
        making.up_to(f"weigh-{LYE}")
        making.tare(LYE, "zero-0")
        in_bowl = shown = 0.0
        for i, (grams, tares) in enumerate(pours):
            if tares:
                making.tare(LYE, f"zero-{i + 1}")
                shown = 0.0
            in_bowl, shown = in_bowl + grams, shown + grams
            assert making.take(LYE, shown).captured_g[LYE] == pytest.approx(in_bowl)

    def test_more_than_the_scale_takes_goes_in_even_loads(self):
        making = Making(plan(size={"by": "oils_g", "value": 9000.0}, choices={"scale_capacity_g": 2000.0}))
        making.up_to("weigh-oil:2")
        target = making.target("oil:2")
        assert target > 1600
        now = making.weighing("oil:2")
        assert now.loads == 2
        assert now.to_show_g == pytest.approx(target / 2, abs=1)
        making.tare("oil:2", "first")
        making.take("oil:2", now.to_show_g)
        second = making.weighing("oil:2")
        assert (second.load, second.needs_tare) == (2, True)
        making.tare("oil:2", "second")
        assert "oil:2" in making.take("oil:2", making.weighing("oil:2").to_show_g).settled


class TestTaring:
    def test_material_is_not_tared_away_unasked(self, lye):
        lye.tare(LYE, "first")
        # Before anything is poured, a second tare is nothing to ask about.
        assert tare_refusal(LYE, lye.state, "first", 0.3, emptied=False, sure=False) is None
        problem = tare_refusal(LYE, lye.state, "first", 168.0, emptied=False, sure=False)
        assert problem.code == "material_on_scale"
        assert problem.params["untaken"] == weight(168.0)
        assert tare_refusal(LYE, lye.state, "first", 168.0, emptied=False, sure=True) is None

    def test_what_was_taken_may_be_tared_away(self, lye):
        lye.tare(LYE, "first")
        lye.take(LYE, 80.0)
        assert tare_refusal(LYE, lye.state, "first", 80.2, emptied=False, sure=False) is None
        assert tare_refusal(LYE, lye.state, "first", 95.0, emptied=False, sure=False).code == "material_on_scale"

    @pytest.mark.parametrize("has_taken", [True, False])
    def test_a_lost_zero_wants_the_bowl_emptied(self, lye, has_taken):
        lye.tare(LYE, "first")
        if has_taken:
            lye.take(LYE, 80.0)
        for scale_tare in (None, "of another batch"):
            problem = tare_refusal(LYE, lye.state, scale_tare, 0.0, emptied=False, sure=True)
            assert problem.code == "zero_lost"
            assert tare_refusal(LYE, lye.state, scale_tare, 0.0, emptied=True, sure=False) is None

    def test_the_next_weighing_is_tared_without_a_question(self, lye):
        lye.tare(LYE, "first")
        assert tare_refusal("water", lye.state, "first", 300.0, emptied=False, sure=False) is None


class TestSlips:
    @pytest.mark.parametrize(
        ("component", "offered"), [(0.1, 1.0), (10.0, 1.0), (1 / 28.349523125, 1.0), (28.349523125, 1.0)]
    )
    def test_a_weight_ten_times_off_or_in_ounces_is_asked_about(self, lye, component, offered):
        target = lye.target(LYE)
        event = {"kind": "captured", "item": LYE, "weight_g": round(target * component, 2), "source": "typed"}
        meant = RecordedEvent.model_validate({"seq": 1, "at": "2030-01-05T10:00:00+00:00", "event": event}).event
        problem = refusal(meant, lye.state, lye.steps, lye.planned, lye.events)
        assert problem.code == ("slip_less" if component < 1 else "slip_more")
        assert [offer.value for offer in problem.offers] == [pytest.approx(target * offered, rel=0.01)]
        assert asked(lye, **event, sure=True) is None

    def test_a_stray_drop_can_be_poured_on(self, lye):
        lye.tare(LYE, "first")
        event = {"kind": "captured", "item": LYE, "weight_g": 0.1, "source": "scale", "tare": "first"}
        assert asked(lye, **event) == "slip_less"
        lye.take(LYE, 0.1)
        assert lye.weighing(LYE).to_show_g == lye.target(LYE)
        assert lye.take(LYE, lye.target(LYE)).captured_g[LYE] == lye.target(LYE)


class TestWhatIsNotLyeHeavy:
    def test_ten_times_the_water_is_too_much_water_and_nothing_else(self):
        making = Making(plan())
        making.up_to("weigh-water")
        making.add(kind="captured", item="water", weight_g=making.target("water") * 10, source="typed", sure=True)
        weigh = next(step.weigh for step in making.steps if step.weigh and step.weigh.item == "water")
        found = deviation(making.plan, making.planned, making.state.targets_g, making.state.captured_g, weigh)
        accept = next(correction for correction in found.corrections if correction.correction == "accept")
        assert not accept.possible
        assert "times the lye" in plain(accept.why_not)
        assert "lye-heavy" not in plain(accept.why_not)

    @pytest.mark.parametrize("item", ["oil:0", "lye:naoh", "water"])
    def test_what_is_short_can_always_be_poured_on(self, item):
        making = Making(plan())
        making.up_to(f"weigh-{item}")
        making.add(kind="captured", item=item, weight_g=0.1, source="typed", sure=True)
        weigh = next(step.weigh for step in making.steps if step.weigh and step.weigh.item == item)
        found = deviation(making.plan, making.planned, making.state.targets_g, making.state.captured_g, weigh)
        assert (found.corrections[0].correction, found.corrections[0].possible) == ("pour_on", True)
        assert found.corrections[0].after.superfat_percent == pytest.approx(5.0, abs=0.05)


class TestCorrections:
    def seq_of(self, making: Making, item: str) -> int:
        return max(r.seq for r in making.events if r.event.kind == "captured" and r.event.item == item)

    def test_the_true_weight_takes_the_place_of_the_wrong_one(self, lye):
        target = lye.target(LYE)
        lye.add(kind="captured", item=LYE, weight_g=target, source="typed")
        lye.add(kind="step_done", step=f"weigh-{LYE}")
        correction = {"kind": "amended", "seq": self.seq_of(lye, LYE), "reason": "Misread."}
        assert asked(lye, **correction) == "in_bowl_unsaid"
        assert asked(lye, **correction, in_bowl=True) == "no_true_weight"
        state = lye.add(**correction, in_bowl=True, weight_g=target - 12.0)
        assert state.captured_g[LYE] == pytest.approx(target - 12.0)
        # Only what is missing is asked for.
        assert state.current == f"weigh-{LYE}"
        lye.tare(LYE, "next")
        assert lye.weighing(LYE).to_show_g == pytest.approx(12.0)

    def test_what_is_not_in_the_batch_is_weighed_anew(self, lye):
        target = lye.target(LYE)
        lye.add(kind="captured", item=LYE, weight_g=target, source="typed")
        lye.add(kind="step_done", step=f"weigh-{LYE}")
        state = lye.add(kind="amended", seq=self.seq_of(lye, LYE), reason="Spilt.", in_bowl=False)
        assert LYE not in state.captured_g
        assert lye.weighing(LYE).to_show_g == target

    def test_what_has_met_the_oils_is_never_poured_twice(self):
        making = Making(plan())
        making.up_to("trace")
        target = making.target(LYE)
        correction = {"kind": "amended", "seq": self.seq_of(making, LYE), "reason": "The scale was off."}
        assert asked(making, **correction, in_bowl=False) == "in_bowl_for_good"
        state = making.add(**correction, in_bowl=True, weight_g=target - 10.0)
        assert state.current == "trace"
        assert state.captured_g[LYE] == pytest.approx(target - 10.0)

    def test_what_was_accepted_by_a_wrong_number_is_decided_again(self, lye):
        target = lye.target(LYE)
        lye.add(kind="captured", item=LYE, weight_g=target - 4, source="typed")
        accepted = lye.add(kind="correction_taken", item=LYE, correction="accept")
        assert LYE in accepted.settled
        state = lye.add(kind="amended", seq=self.seq_of(lye, LYE), reason="Misread.", in_bowl=True, weight_g=target + 9)
        assert state.targets_g[LYE] == target
        assert LYE not in state.settled

    def test_a_batch_that_is_over_can_still_be_corrected(self):
        making = Making(plan())
        making.up_to("nothing")
        making.add(kind="finished")
        correction = {"kind": "amended", "seq": self.seq_of(making, LYE), "reason": "The scale was off."}
        assert asked(making, **correction, in_bowl=True, weight_g=150.0) is None
        state = making.add(**correction, in_bowl=True, weight_g=150.0)
        assert (state.status, state.captured_g[LYE]) == ("made", 150.0)


class TestGivenUp:
    @pytest.mark.parametrize(
        ("until", "said"),
        [
            ("gear", []),
            ("weigh-water", ["oils", "washing_up"]),
            ("make-lye", ["dry_lye", "oils", "washing_up"]),
            ("combine", ["lye_solution", "oils", "washing_up"]),
            ("pour", ["batter", "washing_up"]),
        ],
    )
    def test_it_says_what_to_do_with_what_stands_there(self, until, said):
        making = Making(plan())
        making.up_to(until)
        advice = what_to_do_with_the_bowls(making.steps, making.state)
        assert advice == tuple(template(f"given_up.{one}") for one in said)

    @pytest.mark.parametrize(("until", "cups"), [("weigh-water", False), ("combine", True), ("pour", False)])
    def test_scent_in_its_cup_goes_with_the_cups_until_it_is_in_the_batter(self, until, cups):
        making = Making(plan(scents=[{"scent": "lavender", "percent_of_oils": 2.0, "limit_percent": 3.0}]))
        making.up_to(until)
        said = what_to_do_with_the_bowls(making.steps, making.state)
        assert (template("given_up.cups") in said) is cups

    def test_nothing_weighed_nothing_to_do(self):
        making = Making(plan())
        making.up_to("room")
        assert what_to_do_with_the_bowls(making.steps, making.state) == ()


class TestEachLoad:
    """On a scale that takes a kilogram beside its bowl, of two kilograms to within half a gram."""

    def weighing(self, shown_g: float = 0.0, in_bowl_g: float = 0.0, target_g: float = 2000.0, decimals: int = 0):
        weigh = WeighTarget(
            item="oil:1", name="Palm", role="oil", target_g=target_g, tolerance_g=0.5, decimals=decimals, most_at_once_g=1000.0
        )  # fmt: skip
        making = Making(plan())
        making.up_to("weigh-oil:1")
        state = making.tare("oil:1", "first").model_copy(update={
            "targets_g": {"oil:1": target_g}, "captured_g": {"oil:1": in_bowl_g} if in_bowl_g else {},
            "on_scale_g": {"oil:1": shown_g} if shown_g else {},
        })  # fmt: skip
        return weighing_now(weigh, state)

    def test_one_within_its_tolerance_is_taken(self):
        first = self.weighing()
        assert (first.load, first.loads, first.to_show_g, first.needs_tare) == (1, 2, 1000.0, False)
        short = self.weighing(shown_g=999.25, in_bowl_g=999.25)
        assert (short.load, short.needs_tare) == (1, False)
        just = self.weighing(shown_g=999.5, in_bowl_g=999.5)
        assert (just.load, just.loads, just.to_show_g, just.needs_tare) == (2, 2, 1000.5, True)

    def test_loads_smaller_than_the_tolerance_still_wait_to_be_weighed(self):
        """A scale that takes 1 g at once, to within 2 g: nothing shown is no load taken."""
        weigh = WeighTarget(
            item="oil:1", name="Palm", role="oil", target_g=5.0, tolerance_g=2.0, decimals=1, most_at_once_g=1.0
        )
        making = Making(plan())
        making.up_to("weigh-oil:1")
        state = making.tare("oil:1", "first").model_copy(
            update={"targets_g": {"oil:1": 5.0}, "captured_g": {}, "on_scale_g": {}}
        )
        assert weighing_now(weigh, state).load == 1

    def test_after_the_last_the_zero_stays(self):
        last = self.weighing(shown_g=999.5, in_bowl_g=1999.5)
        assert (last.load, last.needs_tare, last.tare) == (2, False, "first")

    def test_the_last_is_asked_for_to_the_gram_that_is_missing(self):
        assert self.weighing(target_g=987.654).to_show_g == 987.654
        # Of several each is as fine as the scale: 1 987.654 in two, 993.8 each.
        assert self.weighing(target_g=1987.654, decimals=1).to_show_g == 993.8
