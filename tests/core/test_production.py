"""What is recorded adds up; what is off is put right; what cannot be is refused."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from core.batches import GUEST, MILK, Making, loaf, plan
from core.strategies import weight_formula
from sapolin.core.batch.heat import cooling, gel_onset_hours, lye_peak
from sapolin.core.batch.planned import plan_batch
from sapolin.core.batch.temperatures import TemperatureWindow
from sapolin.core.production.actual import actual_batch, expected_g, weights_g
from sapolin.core.production.cooling import cooling_forecast
from sapolin.core.production.corrections import deviation
from sapolin.core.production.events import RecordedEvent
from sapolin.core.production.guard import refusal
from sapolin.core.production.state import state_of
from sapolin.core.quantities.text import digits, plain


def off(making: Making, item: str):
    weigh = next(step.weigh for step in making.steps if step.weigh and step.weigh.item == item)
    return deviation(making.plan, making.planned, making.state.targets_g, making.state.captured_g, weigh)


def correction(found, name: str):
    return next(one for one in found.corrections if one.correction == name)


def take(making: Making, item: str, name: str):
    chosen = correction(off(making, item), name)
    assert chosen.possible, chosen.why_not
    return making.add(kind="correction_taken", item=item, correction=name, targets_g=chosen.targets_g)


class TestActualBatch:
    def test_weighed_as_planned_it_is_the_plan(self):
        planned = plan_batch(plan(formula={"liquids": [MILK]}))
        making = Making(plan(formula={"liquids": [MILK]}))
        made = actual_batch(planned, weights_g(making.state.targets_g, {}))
        assert made.superfat_percent == pytest.approx(5.0, abs=0.05)
        assert made.result.lye.superfat_total_percent == pytest.approx(
            planned.result.lye.superfat_total_percent, abs=0.05
        )
        for was, is_now in zip(planned.result.qualities, made.result.qualities, strict=True):
            assert is_now.points == pytest.approx(was.points, abs=0.05)

    @given(st.floats(-0.08, 0.08))
    def test_more_lye_lowers_the_superfat_by_as_much(self, component):
        making = Making(plan())
        weights = weights_g(making.state.targets_g, {})
        weights["lye:naoh"] *= 1 + component
        # Superfat 5 %: 95 % of what the oils can take, and so much more or less of it.
        expected = 100 - (
            100 - actual_batch(making.planned, weights_g(making.state.targets_g, {})).superfat_percent
        ) * (1 + component)
        assert actual_batch(making.planned, weights).superfat_percent == pytest.approx(expected, abs=1e-6)

    def test_a_lye_heavy_batch_is_calculated_and_called_so(self):
        making = Making(plan())
        weights = weights_g(making.state.targets_g, {})
        weights["lye:naoh"] *= 1.08
        made = actual_batch(making.planned, weights)
        assert made.superfat_percent < 0
        assert "lye_heavy_as_weighed" in {problem.code for problem in made.problems}
        assert made.result.lye.superfat_interval.chance_lye_heavy_percent > 90
        assert made.result.qualities[0].target_range == making.planned.result.qualities[0].target_range

    def test_what_is_still_short_counts_as_topped_up_unless_accepted(self):
        making = Making(plan())
        making.up_to("weigh-oil:1")
        target = making.target("oil:1")
        making.add(kind="captured", item="oil:1", weight_g=target - 5, source="scale")
        assert expected_g(making.state)["oil:1"] == target
        take(making, "oil:1", "accept")
        assert expected_g(making.state)["oil:1"] == target - 5
        making.add(kind="captured", item="oil:1", weight_g=target + 50, source="scale")
        assert expected_g(making.state)["oil:1"] == target + 50


class TestOvershoot:
    def test_an_oil_over_can_be_followed_by_all_others(self):
        making = Making(plan(moulds=(loaf(headroom_mm=10),)))
        making.up_to("weigh-oil:2")
        making.add(kind="captured", item="oil:2", weight_g=making.target("oil:2") * 1.06, source="scale")
        found = off(making, "oil:2")
        assert not found.within_tolerance
        grown = correction(found, "keep_blend")
        assert grown.after.shares_percent == pytest.approx(found.now.planned_shares_percent, abs=0.05)
        assert grown.after.superfat_percent == pytest.approx(5.0, abs=0.1)
        state = take(making, "oil:2", "keep_blend")
        # Palm was weighed before: it wants a top-up, and its step is open again.
        assert state.current == "weigh-oil:1"
        more = state.targets_g["oil:1"] - state.captured_g["oil:1"]
        assert more > 10
        making.add(kind="captured", item="oil:1", weight_g=round(more, 1), source="typed", adds=True)
        state = making.add(kind="step_done", step="weigh-oil:1")
        assert "oil:1" in state.settled
        assert state.current == "weigh-oil:2"
        assert making.add(kind="step_done", step="weigh-oil:2").current == "weigh-oil:3"

    def test_scaling_up_is_not_offered_beyond_the_rim(self):
        making = Making(plan(moulds=(loaf(headroom_mm=1),)))
        making.up_to("weigh-oil:1")
        making.add(kind="captured", item="oil:1", weight_g=making.target("oil:1") * 1.2, source="typed")
        grown = correction(off(making, "oil:1"), "keep_blend")
        assert not grown.possible
        assert "do not fit" in plain(grown.why_not)

    def test_oils_to_come_can_give_and_the_lye_follows(self):
        making = Making(plan())
        making.up_to("weigh-oil:1")
        making.add(kind="captured", item="oil:1", weight_g=making.target("oil:1") + 30, source="typed")
        found = off(making, "oil:1")
        kept = correction(found, "keep_size")
        total = sum(kept.targets_g.get(item, making.target(item)) for item in making.state.targets_g
                    if item.startswith("oil:") and item != "oil:1") + making.state.captured_g["oil:1"]  # fmt: skip
        assert total == pytest.approx(making.planned.result.weights.oils_total, abs=0.3)
        assert kept.after.superfat_percent == pytest.approx(5.0, abs=0.05)
        assert correction(found, "match_lye").after.superfat_percent == pytest.approx(5.0, abs=0.05)
        # Without any of it the superfat rises.
        assert correction(found, "accept").after.superfat_percent > 6

    def test_lye_over_may_not_be_accepted_when_it_could_burn(self):
        making = Making(plan())
        making.up_to("weigh-lye:naoh")
        making.add(kind="captured", item="lye:naoh", weight_g=making.target("lye:naoh") * 1.05, source="scale")
        found = off(making, "lye:naoh")
        assert not correction(found, "accept").possible
        assert "lye-heavy" in plain(correction(found, "accept").why_not)
        assert correction(found, "remove").after.superfat_percent == pytest.approx(5.0, abs=0.05)
        assert correction(found, "keep_blend").after.superfat_percent == pytest.approx(5.0, abs=0.05)

    def test_taking_out_is_weighed_again(self):
        making = Making(plan())
        making.up_to("weigh-lye:naoh")
        making.add(kind="captured", item="lye:naoh", weight_g=making.target("lye:naoh") + 4, source="scale")
        state = take(making, "lye:naoh", "remove")
        assert "lye:naoh" not in state.settled
        assert making.weigh("lye:naoh").current == "make-lye"

    def test_short_lye_may_be_accepted_and_shows(self):
        making = Making(plan())
        making.up_to("weigh-lye:naoh")
        making.add(kind="captured", item="lye:naoh", weight_g=making.target("lye:naoh") - 3, source="scale")
        found = off(making, "lye:naoh")
        assert [one.correction for one in found.corrections] == ["pour_on", "accept"]
        assert found.corrections[0].after.superfat_percent == pytest.approx(5.0, abs=0.05)
        assert found.corrections[1].after.superfat_percent > 6
        assert "lye:naoh" in take(making, "lye:naoh", "accept").settled

    def test_half_a_gram_short_is_poured_on_as_well(self):
        making = Making(plan())
        making.up_to("weigh-lye:naoh")
        making.add(kind="captured", item="lye:naoh", weight_g=making.target("lye:naoh") - 0.6, source="typed")
        assert [one.correction for one in off(making, "lye:naoh").corrections] == ["pour_on", "accept"]

    def test_what_is_just_right_is_not_called_less(self):
        making = Making(plan())
        making.up_to("weigh-lye:naoh")
        making.add(kind="captured", item="lye:naoh", weight_g=making.target("lye:naoh"), source="typed")
        assert plain(correction(off(making, "lye:naoh"), "accept").text).startswith("Nothing else changes.")

    def test_to_accept_what_is_not_weighed_changes_no_target(self):
        making = Making(plan())
        making.up_to("weigh-oil:1")
        targets = dict(making.state.targets_g)
        state = making.add(kind="correction_taken", item="oil:1", correction="accept", targets_g={})
        assert state.targets_g == targets
        assert "oil:1" not in state.captured_g

    def test_scent_over_its_limit_cannot_be_accepted(self):
        making = Making(plan(scents=[{"scent": "lavender", "percent_of_oils": 2.9, "limit_percent": 2.4}]))
        making.up_to("weigh-scent:0")
        making.add(kind="captured", item="scent:0", weight_g=making.target("scent:0") * 1.2, source="typed")
        found = off(making, "scent:0")
        assert not correction(found, "accept").possible
        assert [one.correction for one in found.corrections] == ["remove", "accept"]

    @given(st.floats(1.02, 1.3), st.integers(0, 4))
    def test_scaling_up_holds_blend_and_superfat_whatever_was_over(self, factor, oil):
        making = Making(plan(moulds=(loaf(headroom_mm=25),)))
        making.up_to(f"weigh-oil:{oil}")
        making.add(kind="captured", item=f"oil:{oil}", weight_g=making.target(f"oil:{oil}") * factor, source="typed")
        grown = correction(off(making, f"oil:{oil}"), "keep_blend")
        assert grown.after.shares_percent == pytest.approx(
            [share.share_percent for share in making.planned.result.oils], abs=0.05
        )
        assert grown.after.superfat_percent == pytest.approx(5.0, abs=0.2)  # two roundings to the scale


class TestItsWords:
    """What is said of a weight that is off, to the last digit."""

    def off_by(self, item: str, grams: float):
        making = Making(plan())
        making.up_to(f"weigh-{item}")
        making.add(kind="captured", item=item, weight_g=making.target(item) + grams, source="typed")
        return off(making, item)

    def test_a_little_too_much_and_a_little_too_little(self):
        over, short = self.off_by("oil:1", 0.4), self.off_by("oil:1", -0.4)
        # 274.8 of 915.2 g are 30.03 %: no other share than planned, as shown.
        assert plain(over.words).startswith("Palm is 0.4 g over. Expected superfat 5.0 %, 95 % range ")
        assert plain(short.words) == "Palm is 0.4 g short."
        assert plain(self.off_by("water", -0.5).words) == "Water is 0.5 g short."
        # 314.4 of 954.8 g are 32.93 %.
        assert "Its share would be 32.9 % instead of 30.0 %." in plain(self.off_by("oil:1", 40.0).words)

    def test_a_share_planned_to_a_tenth_is_told_to_a_tenth(self):
        """30.4 % of palm are planned; 1.4 g more of 278.1 g are half a percent of them, 0.1 of a point of all."""
        blend = weight_formula(GUEST | {"olive-refined": 336.0, "palm": 304.0}).blend.model_dump(mode="json")

        def words(more_g: float) -> str:
            making = Making(plan({"blend": blend}))
            making.up_to("weigh-oil:1")
            making.add(kind="captured", item="oil:1", weight_g=making.target("oil:1") + more_g, source="typed")
            return plain(off(making, "oil:1").words)

        assert "Its share" not in words(0.4)
        assert "Its share would be 30.5 % instead of 30.4 %." in words(1.4)

    def test_oils_to_come_can_give_almost_all_they_have(self):
        """Only castor is still to come; of it half a gram is left."""
        making = Making(plan())
        making.up_to("weigh-oil:4")
        grams = making.target("oil:0") + making.target("oil:4") - 0.5
        found = deviation(
            making.plan, making.planned, making.state.targets_g, making.state.captured_g | {"oil:0": grams},
            next(step.weigh for step in making.steps if step.weigh and step.weigh.item == "oil:0"),
        )  # fmt: skip
        assert correction(found, "keep_size").targets_g["oil:4"] == pytest.approx(0.5)

    def test_acid_that_moves_the_superfat_by_a_fifth_of_a_point_says_so(self):
        """0.3 g more of citric acid take 3 · 39.997 / 192.124 of it, 0.19 of some 125 g of NaOH: 0.14 of a point. That is told;
        what a hundredth of a gram does is not."""
        acid = {"additives": [{"additive": "citric-acid", "by": "weight_g", "value": 10.0, "compensated": True}]}

        def words(more_g: float) -> str:
            making = Making(plan(acid))
            making.up_to("weigh-additive:0")
            goal = making.target("additive:0")
            making.add(kind="captured", item="additive:0", weight_g=goal + more_g, source="typed")
            return plain(off(making, "additive:0").words)

        assert "Expected superfat" in words(0.3)
        assert "Expected superfat" not in words(0.01)

    def test_oils_to_come_that_weigh_just_what_is_too_much_cannot_give_it(self):
        """Only castor is still to come, 45.7 g; olive is over by as much."""
        making = Making(plan())
        making.up_to("weigh-oil:4")
        grams = making.target("oil:0") + making.target("oil:4")
        making.add(kind="captured", item="oil:0", weight_g=grams, source="typed")
        found = deviation(
            making.plan, making.planned, making.state.targets_g, making.state.captured_g | {"oil:0": grams},
            next(step.weigh for step in making.steps if step.weigh and step.weigh.item == "oil:0"),
        )  # fmt: skip
        assert found.off_g == pytest.approx(making.target("oil:4"))
        assert not correction(found, "keep_size").possible

    def test_an_oil_to_come_of_which_nothing_is_wanted_gives_nothing(self):
        making = Making(plan())
        making.up_to("weigh-oil:4")
        grams = making.target("oil:0") + 5.0
        found = deviation(
            making.plan, making.planned, making.state.targets_g | {"oil:4": 0.0}, making.state.captured_g | {"oil:0": grams},
            next(step.weigh for step in making.steps if step.weigh and step.weigh.item == "oil:0"),
        )  # fmt: skip
        assert not correction(found, "keep_size").possible

    def test_what_is_accepted_over_tells_no_share(self):
        """46.65 g of shea for 45.7 g: 5.1 % of all oils for 5.0 %, which is said once, of the weight itself."""
        found = self.off_by("oil:3", 0.95)
        assert "Its share would be 5.1 % instead of 5.0 %." in plain(found.words)
        assert plain(correction(found, "accept").text).startswith("Nothing else changes. Expected superfat ")
        short = self.off_by("oil:3", -0.95)
        assert plain(correction(short, "accept").text).startswith(
            "Go on with less. Its share would be 4.9 % instead of 5.0 %."
        )

    def test_within_half_a_percent_an_oil_is_right(self):
        """Half a percent of 274.4 g are 1.372 g."""
        within = [self.off_by("oil:1", grams).within_tolerance for grams in (1.37, -1.37, 1.4, -1.4, 2.0)]
        assert within == [True, True, False, False, False]

    def test_a_batch_that_grows_beyond_the_rim(self):
        """250 by 80 by 70 mm take 1 400 mL; 40 g more on 274.4 g of palm let everything grow by 14.6 %."""
        found = self.off_by("oil:1", 40.0)
        grown_ml = Making(plan()).planned.volume.total_ml * 314.4 / 274.4
        assert " 14.6 %" in plain(correction(found, "keep_blend").text)
        assert plain(correction(found, "keep_blend").why_not) == (
            f"{digits(grown_ml, 0)} mL do not fit into 1\u00a0400 mL of moulds, filled to the rim."
        )

    def test_all_that_is_topped_up_counts_and_nothing_that_is_over(self):
        """130.85 g of lye for 130.8 g: all grows by 0.38 in a thousand. Coconut (237.8), olive (311.0) and water (261.6) take a
        tenth of a gram each; palm is a gram over already, within its half percent."""
        making = Making(plan())
        making.up_to("weigh-lye:naoh")
        for item, more_g in (("oil:1", 1.0), ("lye:naoh", 0.05)):
            making.add(kind="captured", item=item, weight_g=making.target(item) + more_g, source="typed")
        found = off(making, "lye:naoh")
        assert plain(correction(found, "keep_blend").text).endswith(" 0.3 g more of what is weighed already.")

    def test_the_share_of_a_scent_over_its_limit(self):
        """27 g are planned, 40.4 g are there: half as much again of 2.28 % of the soap."""
        making = Making(plan(scents=[{"scent": "lavender", "percent_of_oils": 3.0, "limit_percent": 3.0}]))
        planned = making.planned.scents[0].percent_of_product
        making.up_to("weigh-scent:0")
        making.add(kind="captured", item="scent:0", weight_g=making.target("scent:0") * 1.5, source="typed")
        why = plain(correction(off(making, "scent:0"), "accept").why_not)
        assert why == f"{planned * 1.5:.2f} % of the finished soap is over the supplier’s limit of 3 %."


class TestRecord:
    @pytest.mark.parametrize(
        ("event", "claims"),
        [
            ({"kind": "captured", "item": "oil:0", "weight_g": 1.0, "source": "typed"}, ("adds", "sure")),
            ({"kind": "temperature", "bowl": "oils", "celsius": 40.0, "source": "typed"}, ("sure",)),
            ({"kind": "tared", "item": "oil:0", "tare": "1"}, ("emptied",)),
            ({"kind": "noted", "text": "A note."}, ("next_time",)),
            ({"kind": "tested", "test": "zap", "outcome": "none"}, ("passed",)),
            ({"kind": "lot_chosen", "item": "lye:naoh", "code": "A-1"}, ("sure",)),
        ],
    )
    def test_what_is_not_said_is_not_taken_for_said(self, event, claims):
        read = RecordedEvent.model_validate({"seq": 1, "at": "", "event": event}).event
        assert [getattr(read, claim) for claim in claims] == [False] * len(claims)

    def test_nothing_is_done_twice_nor_out_of_order(self):
        making = Making(plan())
        making.add(kind="started")

        def refused(**event):
            seq = RecordedEvent.model_validate({"seq": 99, "at": "", "event": event}).event
            problem = refusal(seq, making.state, making.steps, making.planned, making.events)
            return None if problem is None else problem.code

        gear = making.steps[0]
        assert refused(kind="step_done", step="gear") == "not_confirmed"
        assert refused(kind="step_done", step="combine") == "out_of_order"
        assert refused(kind="step_done", step="gear", confirmed=list(gear.checks)) is None
        making.add(kind="step_done", step="gear", confirmed=list(gear.checks))
        assert refused(kind="step_done", step="gear", confirmed=list(gear.checks)) == "done_already"
        assert refused(kind="started") == "started_already"
        making.up_to("weigh-oil:1")
        assert refused(kind="step_done", step="weigh-oil:1") == "not_weighed"
        making.add(kind="captured", item="oil:1", weight_g=1.0, source="typed")
        assert refused(kind="step_done", step="weigh-oil:1") == "off_target"
        assert refused(kind="captured", item="oil:1", weight_g=-3.0, source="typed") == "negative"
        assert refused(kind="captured", item="oil:1", weight_g=0.0, source="typed") == "nothing"
        assert refused(kind="captured", item="oil:1", weight_g=30.0, source="scale") == "untared"
        assert refused(kind="captured", item="oil:77", weight_g=30.0, source="typed") == "unknown_item"
        assert (
            refused(kind="temperature", bowl="oils", celsius=104.0, source="typed") == "hotter_than_oils_or_other_unit"
        )
        assert refused(kind="temperature", bowl="oils", celsius=104.0, source="typed", sure=True) is None
        assert (
            refused(kind="temperature", bowl="lye", celsius=190.0, source="typed", sure=True)
            == "hotter_than_any_bowl_or_other_unit"
        )
        assert refused(kind="finished") == "steps_left"
        assert refused(kind="amended", seq=77, reason="x") == "nothing_to_amend"

    def test_a_finished_record_takes_notes_only(self):
        making = Making(plan())
        making.add(kind="started")
        making.add(kind="aborted", reason="The milk scorched.")
        assert making.state.status == "aborted"
        events = (
            ({"kind": "noted", "text": "Freeze it harder.", "next_time": True}, None),
            ({"kind": "captured", "item": "oil:0", "weight_g": 3.0, "source": "typed"}, "given_up"),
        )
        for event, code in events:
            parsed = RecordedEvent.model_validate({"seq": 9, "at": "", "event": event}).event
            problem = refusal(parsed, making.state, making.steps, making.planned, making.events)
            assert (problem.code if problem else None) == code

    def test_a_correction_takes_an_entry_out_and_leaves_it_in_the_record(self):
        making = Making(plan())
        making.up_to("weigh-oil:2")
        wrong = next(record.seq for record in making.events if getattr(record.event, "item", "") == "oil:1")
        before = len(making.events)
        state = making.add(kind="amended", seq=wrong, reason="Read from the wrong line.")
        assert "oil:1" not in state.captured_g
        assert len(making.events) == before + 1

    def test_a_whole_day_adds_up(self):
        making = Making(plan(formula={"liquids": [MILK]}))
        making.add(kind="started")
        for step in making.steps:
            if step.weigh:
                making.weigh(step.weigh.item)
            else:
                making.add(kind="step_done", step=step.id, confirmed=list(step.checks))
        state = making.add(kind="finished")
        assert state.status == "made"
        assert state.current is None
        assert len(state.done) == len(making.steps)
        assert set(state.settled) == set(state.targets_g)

    @given(st.data())
    def test_any_beginning_of_a_record_can_be_gone_on_from(self, data):
        """The state depends on the events alone, so a record cut off anywhere resumes where it was."""
        making = Making(plan())
        making.add(kind="started")
        making.up_to("cover")
        cut = data.draw(st.integers(0, len(making.events)))
        state = state_of(making.events[:cut], making.steps)
        done = [record.event.step for record in making.events[:cut] if record.event.kind == "step_done"]
        assert list(state.done) == done
        assert state.current == (making.steps[len(done)].id if len(done) < len(making.steps) else None)


WINDOW = TemperatureWindow(
    low_c=32, high_c=43, apart_c=5.6, hardest_fat="Coconut", melts_c=24, milk=False, conflict=()
)  # fmt: skip


class TestTemperatures:
    @given(st.floats(0.005, 0.08), st.floats(10, 26), st.floats(60, 95))
    def test_two_readings_of_an_exponential_predict_the_third(self, rate, room, start):
        def at(minute: float) -> float:
            return room + (start - room) * 2.718281828459045 ** (-rate * minute)

        curve = cooling([(0.0, at(0)), (7.0, at(7))], room)
        assert curve is not None
        assert curve.at(21) == pytest.approx(at(21), abs=1e-6)

    def test_what_warms_has_no_cooling_yet(self):
        assert cooling([(0.0, 30.0), (5.0, 60.0)], 20.0) is None
        assert cooling([(0.0, 60.0)], 20.0) is None

    def test_both_bowls_are_forecast(self):
        oils, lye = [(0.0, 60.0), (10.0, 52.0)], [(0.0, 90.0), (10.0, 68.0)]
        found = cooling_forecast(oils, lye, WINDOW, 20.0, 10.0)
        assert found.both_minute is not None
        assert not found.ready
        curves = cooling(oils, 20.0), cooling(lye, 20.0)
        at = [curve.at(found.both_minute) for curve in curves]
        assert all(31 <= celsius <= 44 for celsius in at)
        assert abs(at[0] - at[1]) <= 5.6
        before = [curve.at(found.both_minute - 2) for curve in curves]
        assert max(before) > 43 or abs(before[0] - before[1]) > 5.6

    def test_what_is_too_cool_or_apart_is_warned_about(self):
        found = cooling_forecast([(0.0, 22.0)], [(0.0, 41.0)], WINDOW, 20.0, 0.0)
        assert any("false trace" in plain(warning) for warning in found.warnings)
        assert any("apart" in plain(warning) for warning in found.warnings)
        ready = cooling_forecast([(0.0, 38.0)], [(0.0, 36.0)], WINDOW, 20.0, 0.0)
        assert ready.ready
        assert ready.warnings == ()

    def test_the_last_reading_of_a_bowl_is_what_is_warned_about(self):
        """Lye in milk may be 6 °C over its window: 50 °C is too hot, 40 °C is not. Oils at 35 °C have set."""
        milk = TemperatureWindow(
            low_c=30.0, high_c=38.0, apart_c=20.0, hardest_fat="Shea butter", melts_c=37.0, milk=True, meets_milk=True,
            conflict=(),
        )  # fmt: skip

        def warned(oils, lye) -> list[str]:
            return [plain(words) for words in cooling_forecast(oils, lye, milk, 20.0, 10.0).warnings]

        assert warned([(0.0, 60.0), (8.0, 39.0)], [(0.0, 50.0), (8.0, 40.0)]) == []
        hot = warned([(0.0, 60.0), (8.0, 39.0)], [(0.0, 40.0), (8.0, 50.0)])
        assert len(hot) == 1
        assert "50 °C" in hot[0]
        apart = warned([(0.0, 39.0), (8.0, 60.0)], [(0.0, 58.0), (8.0, 38.0)])
        assert len(apart) == 1
        assert "22.0 °C" in apart[0]
        set_oils = warned([(0.0, 60.0), (8.0, 35.0)], [(8.0, 40.0)])
        assert len(set_oils) == 1
        assert "35 °C" in set_oils[0]

    def test_koh_is_hotter_and_ice_is_cooler(self):
        assert lye_peak(0.0, 140.3, 200.0).high_c > lye_peak(100.0, 0.0, 200.0).high_c
        warm, cold = lye_peak(100.0, 0.0, 200.0), lye_peak(100.0, 0.0, 200.0, frozen_g=100.0)
        assert cold.high_c < warm.high_c - 40

    def test_wetter_soap_gels_sooner(self):
        assert gel_onset_hours(27) < gel_onset_hours(33) < gel_onset_hours(38)


ACID = {"additive": "citric-acid", "by": "percent_of_oils", "value": 2.0, "compensated": True}


class TestOneAfterTheOther:
    """What was accepted is what all that follows is calculated from."""

    def test_lye_over_after_an_oil_that_was_followed(self):
        making = Making(plan(moulds=(loaf(headroom_mm=20),)))
        making.up_to("weigh-oil:2")
        making.add(kind="captured", item="oil:2", weight_g=making.target("oil:2") * 1.08, source="typed")
        take(making, "oil:2", "match_lye")
        making.up_to("weigh-lye:naoh")
        lye = making.target("lye:naoh") * 1.1
        making.add(kind="captured", item="lye:naoh", weight_g=lye, source="typed")
        grown = correction(off(making, "lye:naoh"), "keep_blend")
        assert grown.possible, grown.why_not
        assert grown.after.superfat_percent == pytest.approx(5.0, abs=0.1)
        state = take(making, "lye:naoh", "keep_blend")
        # Every oil wants its tenth more, that which was followed too.
        for item in ("oil:0", "oil:1", "oil:2", "oil:3", "oil:4"):
            assert item not in state.settled
            assert state.targets_g[item] == pytest.approx(state.captured_g[item] * 1.1, rel=0.01)
        made = actual_batch(making.planned, state.targets_g)
        assert made.superfat_percent == pytest.approx(5.0, abs=0.1)

    def test_what_was_accepted_short_is_asked_for_again_when_all_grows(self):
        making = Making(plan(moulds=(loaf(headroom_mm=20),)))
        making.up_to("weigh-oil:1")
        making.add(kind="captured", item="oil:1", weight_g=making.target("oil:1") * 0.97, source="typed")
        state = take(making, "oil:1", "accept")
        assert state.targets_g["oil:1"] == state.captured_g["oil:1"]
        making.add(kind="step_done", step="weigh-oil:1")
        making.up_to("weigh-lye:naoh")
        making.add(kind="captured", item="lye:naoh", weight_g=making.target("lye:naoh") * 1.1, source="typed")
        assert "oil:1" not in take(making, "lye:naoh", "keep_blend").settled


class TestAcids:
    """What consumes lye holds the superfat up, where its lye was added back: too little of it is as bad as too much lye."""

    def test_too_little_acid_may_not_be_accepted(self):
        making = Making(plan(formula={"additives": [ACID]}))
        making.up_to("weigh-additive:0")
        making.add(kind="captured", item="additive:0", weight_g=making.target("additive:0") * 0.3, source="typed")
        found = off(making, "additive:0")
        accept = correction(found, "accept")
        assert not accept.possible
        assert "lye-heavy" in plain(accept.why_not)

    def test_a_little_too_much_only_raises_the_superfat(self):
        making = Making(plan(formula={"additives": [ACID]}))
        making.up_to("weigh-additive:0")
        making.add(kind="captured", item="additive:0", weight_g=making.target("additive:0") * 1.2, source="typed")
        accept = correction(off(making, "additive:0"), "accept")
        assert accept.possible
        assert accept.after.result.lye.superfat_total_percent > 6

    def test_clay_moves_no_superfat_and_says_nothing_of_it(self):
        making = Making(plan(formula={"additives": [ACID | {"additive": "kaolin", "compensated": False}]}))
        making.up_to("weigh-additive:0")
        making.add(kind="captured", item="additive:0", weight_g=making.target("additive:0") * 2, source="typed")
        found = off(making, "additive:0")
        assert "superfat" not in plain(found.words)
        assert correction(found, "accept").possible


class TestBeyondAnySoap:
    """Misread or mistyped by far: told as such, and the way back stays open."""

    @pytest.mark.parametrize("times", [1.3, 2.0, 10.0, 1000.0])
    def test_far_too_much_lye(self, times):
        making = Making(plan())
        making.up_to("weigh-lye:naoh")
        making.add(kind="captured", item="lye:naoh", weight_g=making.target("lye:naoh") * times, source="typed")
        found = off(making, "lye:naoh")
        assert not correction(found, "accept").possible
        assert correction(found, "remove").possible
        assert found.now.superfat_percent < -20
        assert found.now.result is None or found.now.problems
        assert found.now.result is not None or found.now.problems

    def test_hardly_any_oil(self):
        making = Making(plan())
        weights = weights_g(making.state.targets_g, {f"oil:{i}": 10.0 for i in range(5)})
        made = actual_batch(making.planned, weights)
        assert made.result is None
        assert made.problems[0].code == "no_soap_needs_it"

    def test_superfat_carried_by_late_oil_is_not_called_lye_heavy(self):
        """Superfat 0 for the oils that meet the lye, 8 % of the oil at trace: some lye too much goes on to the late oil."""
        blend = plan().formula.model_dump(mode="json")["blend"]
        blend["lines"][3] |= {"added": "at_trace", "value": 80.0}
        making = Making(plan(formula={"blend": blend, "superfat": 0.0}))
        weights = weights_g(making.state.targets_g, {})
        weights["lye:naoh"] *= 1.04
        made = actual_batch(making.planned, weights)
        assert made.result.lye.superfat_total_percent == pytest.approx(made.superfat_percent)
        assert 2 < made.superfat_percent < 6
        assert made.problems == ()


class TestWhatIsDangerous:
    """Certified lots are known to a third of a percent: at 0.8 % of superfat hardly one batch in a hundred is lye-heavy."""

    def making(self, superfat: float) -> Making:
        lots = [
            {
                "id": f"own-{oil}", "name": f"{oil}, lot 1",
                "content": {"kind": "certificate", "of": oil, "sap_koh_mg_per_g": sap},
            }
            for oil, sap in (("olive-refined", 190.0), ("coconut", 257.0))
        ]  # fmt: skip
        formula = weight_formula(
            {"own-olive-refined": 700.0, "own-coconut": 300.0}, superfat=superfat, materials=lots, scale_step_g=0.01
        )
        base = plan(size={"by": "oils_g", "value": 1000.0})
        return Making(base.model_copy(update={"formula": formula}))

    @pytest.mark.parametrize(("over", "possible"), [(1.012, True), (1.03, False)])
    def test_lye_over_is_accepted_while_it_stays_below_what_the_oils_take(self, over, possible):
        """From 2 %: 0.98 times 1.012 is 0.99176, so 0.8 % are left; times 1.03 is 1.0094, more than they take."""
        making = self.making(2.0)
        making.up_to("weigh-lye:naoh")
        making.add(kind="captured", item="lye:naoh", weight_g=making.target("lye:naoh") * over, source="typed")
        accepted = correction(off(making, "lye:naoh"), "accept")
        assert accepted.possible == possible
        assert accepted.after.superfat_percent == pytest.approx(100 * (1 - 0.98 * over), abs=0.05)
