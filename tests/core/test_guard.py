"""What may be recorded: readings that can be, pours that can be, entries set aside, and a beginning that is safe."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from core.batches import Making, plan
from core.strategies import weight_formula
from sapolin.core.production.events import EntryAmended, RecordedEvent, begin, started_of
from sapolin.core.production.guard import refusal
from sapolin.core.quantities.diagnostics import diagnostic
from sapolin.core.quantities.text import number, percent, plain, text, weight


def asked(making: Making, stops=(), **event):
    """What is said when `event` is to be added next; null when it may be."""
    parsed = RecordedEvent.model_validate({"seq": 99, "at": "", "event": event}).event
    return refusal(parsed, making.state, making.steps, making.planned, making.events, stops)


def code_of(problem) -> str | None:
    return None if problem is None else problem.code


@pytest.fixture(scope="module")
def cooling():
    """At the step of temperatures, nothing read yet."""
    making = Making(plan())
    making.up_to("temperatures")
    return making


class TestTemperatures:
    @pytest.mark.parametrize(
        ("bowl", "celsius", "read_in", "code", "offer"),
        [
            ("oils", 41.0, "C", None, None),
            ("lye", 92.0, "C", None, None),
            ("oils", 104.0, "C", "hotter_than_oils_or_other_unit", ("104 °F", 40.0)),
            ("lye", 140.0, "C", "hotter_than_lye_or_other_unit", ("140 °F", 60.0)),
            ("lye", 190.0, "C", "hotter_than_any_bowl_or_other_unit", ("190 °F", 87.78)),
            ("lye", 400.0, "C", "hotter_than_any_bowl", None),
            # 38 was meant in °C, and read as °F: 3.3 °C.
            ("oils", 3.33, "F", "colder_than_the_room_or_other_unit", ("38 °C", 38.0)),
            ("oils", 40.0, "F", None, None),
            ("oils", 100.0, "F", "hotter_than_oils", None),
            ("oils", 3.0, "C", "colder_than_the_room", None),
            ("lye", 3.0, "C", "colder_than_the_room", None),
            ("lye", -4.0, "C", "colder_than_the_room", None),
            ("lye", -40.0, "F", "colder_than_any_bowl", None),
            # −23.8 was meant in °C, and read as °F: −31 °C.
            ("lye", -31.0, "F", "colder_than_any_bowl_or_other_unit", ("−23.8 °C", -23.8)),
            # The coldest that a bowl can be, read as °F, and a tenth below it.
            ("lye", (-30 - 32) / 1.8, "F", "colder_than_any_bowl_or_other_unit", ("−30 °C", -30.0)),
            ("lye", (-30.1 - 32) / 1.8, "F", "colder_than_any_bowl", None),
            # The hottest that a bowl can be, typed in °F.
            ("lye", 302.0, "C", "hotter_than_any_bowl_or_other_unit", ("302 °F", 150.0)),
        ],
    )
    def test_a_reading_in_the_other_unit_is_asked_about(self, cooling, bowl, celsius, read_in, code, offer):
        problem = asked(
            cooling, kind="temperature", bowl=bowl, celsius=celsius, read_in=read_in, source="typed"
        )  # fmt: skip
        assert code_of(problem) == code
        if problem is None:
            return
        assert [(plain(one.label), one.value) for one in problem.offers] == ([] if offer is None else [offer])

    def test_what_was_asked_about_stands_when_it_is_sure(self, cooling):
        reading = {"kind": "temperature", "bowl": "oils", "celsius": 104.0, "source": "typed"}
        assert asked(cooling, **reading) is not None
        assert asked(cooling, **reading, sure=True) is None
        # A reading that cannot be is refused all the same.
        assert (
            code_of(asked(cooling, **(reading | {"celsius": 190.0}), sure=True)) == "hotter_than_any_bowl_or_other_unit"
        )

    def test_what_cannot_be_is_refused_however_sure(self, cooling):
        for celsius in (-40.0, 400.0):
            problem = asked(cooling, kind="temperature", bowl="lye", celsius=celsius, source="typed", sure=True)
            assert not problem.is_doubt

    def test_oils_of_a_hard_wax_may_be_hot(self):
        """Beeswax is worked up to 70.5 °C, so its oils are asked about above 90.5 °C; those of a soft bar above 85."""
        waxed = plan()
        waxed = waxed.model_copy(update={
            "formula": weight_formula({"beeswax": 50.0, "coconut": 300.0, "olive-refined": 650.0})
        })  # fmt: skip
        hot, soft = Making(waxed), Making(plan())
        assert hot.planned.window.high_c == 70.5
        for making in (hot, soft):
            making.up_to("temperatures")
        reading = {"kind": "temperature", "bowl": "oils", "source": "thermometer"}
        assert [code_of(asked(hot, **reading, celsius=celsius)) is None for celsius in (90.0, 90.5, 91.0)] == [
            True, True, False
        ]  # fmt: skip
        assert [code_of(asked(soft, **reading, celsius=celsius)) is None for celsius in (85.0, 86.0)] == [True, False]

    def test_a_reading_that_was_doubtful_does_not_poison_the_next_question(self):
        making = Making(plan())
        making.up_to("temperatures")
        making.add(kind="temperature", bowl="lye", celsius=-4.0, source="typed", sure=True)
        assert asked(making, kind="temperature", bowl="lye", celsius=41.0, source="typed") is None

    def test_lye_on_ice_may_be_cold_but_not_colder_than_ice(self):
        making = Making(plan())
        making.up_to("temperatures")
        making.add(kind="chose", what="ice_bath")
        assert asked(making, kind="temperature", bowl="lye", celsius=3.0, source="typed") is None
        assert code_of(asked(making, kind="temperature", bowl="lye", celsius=-4.0, source="typed")) == "colder_than_ice"

    def test_a_bowl_that_cools_does_not_jump_up(self):
        making = Making(plan())
        making.up_to("temperatures")
        making.add(kind="temperature", bowl="oils", celsius=41.0, source="typed")
        later = {"kind": "temperature", "bowl": "oils", "source": "typed"}
        assert asked(making, **later, celsius=44.0) is None
        jumped = asked(making, **later, celsius=80.0)
        assert (jumped.code, plain(jumped.offers[0].label)) == ("hotter_than_before_or_other_unit", "80 °F")
        # The other bowl was not read yet.
        assert asked(making, kind="temperature", bowl="lye", celsius=80.0, source="typed") is None

    def test_the_message_tells_the_unit_it_was_read_in(self, cooling):
        cold = asked(cooling, kind="temperature", bowl="oils", celsius=3.33, read_in="F", source="typed")
        assert (cold.params["reading"], cold.params["unit"]) == (number(38.0, unit="°F"), "°C")

    def test_a_cold_shed_is_not_asked_about(self, cooling):
        reading = {"kind": "temperature", "bowl": "oils", "celsius": 6.0, "source": "thermometer"}
        assert code_of(asked(cooling, **reading)) == "colder_than_the_room"
        shed = Making(plan(choices={"room_c": 5.0}))
        shed.up_to("temperatures")
        assert asked(shed, **reading) is None


class TestBeginning:
    def test_a_batch_that_is_not_safe_is_not_begun(self):
        making = Making(plan())
        refused = asked(
            making,
            stops=[diagnostic("lye_heavy_as_weighed", "problem", stops="making", excess=percent(2.0))],
            kind="started",
        )
        assert (refused.code, refused.params["why"]) == (
            "not_safe",
            plain(text("diagnostics.lye_heavy_as_weighed.message", excess=percent(2.0))),
        )
        assert asked(making, kind="started") is None

    def test_the_targets_stay_as_they_stood(self):
        making = Making(plan())
        begun = begin(making.planned)
        grown = {item: grams + 1.5 for item, grams in begun.targets_g.items()}
        state = making.add(**begun.model_copy(update={"targets_g": grown}).model_dump())
        assert state.targets_g == grown
        assert started_of(making.events).oils_g == pytest.approx(sum(
            grams for item, grams in grown.items() if item.startswith("oil:")
        ))  # fmt: skip

    def test_nothing_but_the_beginning_comes_first(self):
        making = Making(plan())
        assert code_of(asked(making, kind="noted", text="Warm day.")) == "not_started"
        assert started_of(making.events) is None


class TestPouring:
    def test_what_is_left_over_can_be_no_more_than_there_was(self):
        making = Making(plan())
        making.up_to("pour")
        mould = making.planned.moulds[0].batter_ml
        assert asked(making, kind="poured", mould=0, difference_ml=120.0) is None
        assert asked(making, kind="poured", mould=0, difference_ml=-0.5 * mould) is None
        assert code_of(asked(making, kind="poured", mould=0, difference_ml=mould + 1)) == "over_all"
        assert code_of(asked(making, kind="poured", mould=0, difference_ml=-mould - 1)) == "short_of_all"
        assert code_of(asked(making, kind="poured", mould=3, difference_ml=0.0)) == "unknown_mould"


class TestWeights:
    def test_a_scale_counts_from_the_zero_that_was_set_for_it(self):
        making = Making(plan())
        making.up_to("weigh-oil:1")
        reading = {"kind": "captured", "item": "oil:1", "weight_g": making.target("oil:1"), "source": "scale"}
        assert code_of(asked(making, **reading, tare="first")) == "untared"
        making.tare("oil:1", "first")
        assert code_of(asked(making, **reading, tare="other")) == "untared"
        assert asked(making, **reading, tare="first") is None

    def test_what_has_a_target_but_no_step_of_its_own_is_not_weighed(self):
        making = Making(plan())
        making.up_to("weigh-oil:1")
        event = RecordedEvent.model_validate(
            {"seq": 99, "at": "", "event": {"kind": "captured", "item": "oil:1", "weight_g": 300.0, "source": "typed"}}
        ).event
        for steps, state in (((), making.state), (making.steps, making.state.model_copy(update={"targets_g": {}}))):
            assert code_of(refusal(event, state, steps, making.planned, making.events)) == "unknown_item"

    def test_half_a_gram_below_nothing_is_no_weight(self):
        making = Making(plan())
        making.up_to("weigh-lye:naoh")
        weighed = {"kind": "captured", "item": "lye:naoh", "source": "typed"}
        assert code_of(asked(making, **weighed, weight_g=-0.5)) == "negative"
        assert code_of(asked(making, **weighed, weight_g=0.0)) == "nothing"

    def test_more_than_any_scale_takes_is_told_in_whole_grams(self):
        making = Making(plan())
        making.up_to("weigh-oil:1")
        problem = asked(making, kind="captured", item="oil:1", weight_g=200_000.4, source="typed")
        assert (problem.code, problem.params) == ("too_heavy", {"weight": weight(200_000.4, 0)})
        assert "200\u00a0000 g" in plain(problem.message)

    def test_a_seventh_of_what_is_asked_for_looks_like_a_slip(self):
        """300 g are asked for: 45 g, 15 of 100, look like a slip, and so do 1 800 g, six times as much."""
        making = Making(plan())
        making.up_to("weigh-oil:1")
        goal = making.target("oil:1")
        slips = {
            grams: code_of(asked(making, kind="captured", item="oil:1", weight_g=goal * grams / 300, source="typed"))
            for grams in (44.9, 45.1, 1799.0, 1801.0)
        }
        assert slips == {44.9: "slip_less", 45.1: None, 1799.0: None, 1801.0: "slip_more"}
        sixfold = asked(making, kind="captured", item="oil:1", weight_g=goal * 6, source="typed")
        assert code_of(sixfold) == "slip_more"

    def test_less_than_a_gram_can_be_a_slip_too(self):
        """0.6 g of a mica are asked for: 6 g look like a comma in the wrong place."""
        mica = {
            "name": "all of it",
            "share_percent": 100.0,
            "colours": [{"colorant": "mica-blue", "value": 0.16}],
        }
        making = Making(plan(portions=[mica]))
        making.up_to("weigh-colour:0:0")
        assert making.target("colour:0:0") == pytest.approx(0.6, abs=0.05)
        problem = asked(making, kind="captured", item="colour:0:0", weight_g=6.0, source="typed")
        assert (code_of(problem), [offer.value for offer in problem.offers]) == ("slip_more", [0.6])

    def test_no_doubt_is_settled_before_it_was_asked_about(self):
        for event in (
            {"kind": "captured", "item": "oil:0", "weight_g": 1.0, "source": "typed"},
            {"kind": "temperature", "bowl": "oils", "celsius": 40.0, "source": "typed"},
            {"kind": "lot_chosen", "item": "lye:naoh", "code": "C7"},
        ):
            assert RecordedEvent.model_validate({"seq": 1, "at": "", "event": event}).event.sure is False

    def test_a_weight_of_an_older_record_was_tared(self):
        weighed = {"kind": "captured", "item": "oil:0", "weight_g": 1.0, "source": "typed"}
        assert RecordedEvent.model_validate({"seq": 1, "at": "", "event": weighed}).event.tared is True

    def test_something_of_it_was_in_the_bowl(self):
        tared = {"kind": "tared", "item": "water", "tare": "zero-1"}
        assert RecordedEvent.model_validate({"seq": 1, "at": "", "event": tared}).event.emptied is False

    def test_what_comes_on_top_of_all_that_was_asked_for_is_no_slip(self):
        making = Making(plan())
        making.up_to("weigh-oil:1")
        making.add(kind="captured", item="oil:1", weight_g=making.target("oil:1"), source="typed")
        assert asked(making, kind="captured", item="oil:1", weight_g=2.0, source="typed", adds=True) is None

    def test_half_a_gram_may_be_what_was_truly_there(self):
        making = Making(plan())
        making.up_to("weigh-oil:1")
        making.add(kind="captured", item="oil:1", weight_g=making.target("oil:1"), source="typed")
        seq = making.events[-1].seq
        amended = {"kind": "amended", "seq": seq, "reason": "Misread.", "in_bowl": True}
        assert asked(making, **amended, weight_g=0.5) is None
        assert code_of(asked(making, **amended, weight_g=0.0)) == "no_true_weight"

    def test_the_first_that_comes_on_top_is_all_that_is_there(self):
        making = Making(plan())
        making.up_to("weigh-oil:1")
        state = making.add(kind="captured", item="oil:1", weight_g=120.0, source="typed", adds=True)
        assert (state.captured_g["oil:1"], state.taken_g["oil:1"]) == (120.0, {"": 120.0})


class TestSettingAside:
    def test_a_weight_set_aside_is_weighed_again_before_the_work_goes_on(self):
        making = Making(plan())
        state = making.up_to("make-lye")
        weighed = next(
            record.seq for record in making.events
            if record.event.kind == "captured" and record.event.item == "lye:naoh"
        )  # fmt: skip
        assert state.current == "make-lye"
        state = making.add(kind="amended", seq=weighed, reason="The jug was on the scale.")
        assert state.current == "weigh-lye:naoh"
        assert "lye:naoh" not in state.captured_g
        assert making.weigh("lye:naoh").current == "make-lye"

    def test_a_correction_set_aside_is_chosen_again(self):
        making = Making(plan())
        making.up_to("weigh-oil:2")
        making.add(kind="captured", item="oil:2", weight_g=making.target("oil:2") * 1.05, source="typed")
        making.add(kind="correction_taken", item="oil:2", correction="accept")
        assert making.add(kind="step_done", step="weigh-oil:2").current == "weigh-oil:3"
        chosen = next(record.seq for record in making.events if record.event.kind == "correction_taken")
        assert making.add(kind="amended", seq=chosen, reason="Pressed by mistake.").current == "weigh-oil:2"

    def test_targets_that_grew_come_back(self):
        making = Making(plan())
        making.up_to("weigh-oil:2")
        before = making.state.targets_g
        making.add(kind="captured", item="oil:2", weight_g=before["oil:2"] * 1.05, source="typed")
        grown = {item: grams * 1.05 for item, grams in before.items()}
        making.add(kind="correction_taken", item="oil:2", correction="keep_blend", targets_g=grown)
        assert making.state.targets_g == grown
        state = making.add(kind="amended", seq=len(making.events), reason="Too little is left of the others.")
        assert state.targets_g == before

    @given(st.data())
    def test_whatever_is_set_aside_no_weighing_is_done_without_its_weight(self, data):
        making = Making(plan())
        making.up_to("combine")
        for _ in range(data.draw(st.integers(1, 4))):
            standing = [
                record.seq for record in making.events
                if record.event.kind in ("captured", "temperature") and record.seq not in {
                    other.event.seq for other in making.events if isinstance(other.event, EntryAmended)
                }
            ]  # fmt: skip
            making.add(kind="amended", seq=data.draw(st.sampled_from(standing)), reason="Wrong.")
        state = making.state
        for step in making.steps:
            if step.weigh is not None and step.id in state.done:
                assert step.weigh.item in state.settled
        assert asked(making, kind="finished").code == "steps_left"


@pytest.fixture(scope="module")
def cooked():
    """A hot process batch at its zap test."""
    making = Making(plan({"process": {"method": "hot"}}))
    making.up_to(next(step.id for step in making.steps if step.test == "zap"))
    return making


def said_of_test(cooked: Making, **event) -> str | None:
    return code_of(asked(cooked, kind="tested", **event))


class TestTestsOfSoap:
    def test_an_outcome_is_one_of_those_its_step_names(self, cooked):
        outcomes = [one.id for step in cooked.steps if step.test == "zap" for one in step.outcomes]
        assert len(outcomes) > 1
        assert [said_of_test(cooked, test="zap", outcome=one) for one in outcomes] == [None] * len(outcomes)
        assert said_of_test(cooked, test="zap", outcome="no-such") == "unknown_outcome"
        assert said_of_test(cooked, test="zap") == "unknown_outcome"
        assert said_of_test(cooked, test="clarity", outcome=outcomes[0]) == "unknown_test"

    @pytest.mark.parametrize(
        ("ph", "code"), [(4.9, "ph_out_of_range"), (5.0, None), (14.0, None), (14.1, "ph_out_of_range")]
    )
    def test_a_ph_is_one_that_strips_tell_of_soap(self, cooked, ph, code):
        assert said_of_test(cooked, test="zap", ph=ph) == code

    def test_what_is_in_the_jars_is_told_to_the_gram(self, cooked):
        problem = asked(cooked, kind="packed", jars=4, weight_g=12345.6)
        assert plain(problem.message) == "12\u00a0346 g cannot be in the jars."

    def test_between_which_a_strip_reads_is_told(self, cooked):
        problem = asked(cooked, kind="tested", test="zap", ph=4.9)
        assert plain(problem.message) == "A pH of 4.9 is none of soap."
        assert plain(problem.remedy) == "It reads between 5 and 14: look at the strip again."


class TestWhatARecordDoesNotSay:
    @pytest.mark.parametrize(
        "event",
        [
            {"kind": "captured", "item": "water", "weight_g": 300.0, "source": "typed"},
            {"kind": "lot_chosen", "item": "lye:naoh", "code": "N8"},
            {"kind": "temperature", "bowl": "oils", "celsius": 104.0, "source": "typed"},
        ],
    )
    def test_nothing_was_asked_about_and_confirmed(self, event):
        assert RecordedEvent.model_validate({"seq": 1, "at": "", "event": event}).event.sure is False


class TestOneThingAtATime:
    def test_the_first_check_that_is_missing_is_named(self):
        making = Making(plan())
        step = next(step for step in making.steps if len(step.checks) > 1)
        making.up_to(step.id)
        missing = asked(making, kind="step_done", step=step.id, confirmed=list(step.checks[:1]))
        assert (missing.code, missing.params["check"]) == ("not_confirmed", step.checks[1])
        assert asked(making, kind="step_done", step=step.id).params["check"] == step.checks[0]

    def test_a_weight_may_be_put_right_twice_and_taken_out_once(self):
        making = Making(plan())
        making.up_to("weigh-oil:2")
        making.weigh("oil:2")
        seq = next(one.seq for one in reversed(making.events) if one.event.kind == "captured")
        again = {"kind": "amended", "seq": seq, "reason": "Misread.", "in_bowl": True}
        making.add(**again, weight_g=50.0)
        assert asked(making, **again, weight_g=55.0) is None
        making.add(**(again | {"in_bowl": False}))
        assert code_of(asked(making, **again, weight_g=55.0)) == "amended_already"

    def test_a_decision_stands_while_another_weight_is_put_right(self):
        making = Making(plan())
        making.up_to("weigh-oil:2")
        earlier = next(one.seq for one in making.events if one.event.kind == "captured")
        target = making.target("oil:2")
        making.add(kind="captured", item="oil:2", weight_g=target * 1.05, source="typed")
        making.add(kind="correction_taken", item="oil:2", correction="accept")
        state = making.add(kind="amended", seq=earlier, reason="Misread.", in_bowl=True, weight_g=100.0)
        assert state.targets_g["oil:2"] == pytest.approx(target * 1.05)
