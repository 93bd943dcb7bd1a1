"""The order of work follows the process: what each has, what it must not have, and what may not be passed by."""

from math import ceil
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from core.batches import GUEST, Making, loaf, plan
from core.strategies import weight_formula
from sapolin.core.bar.pace import minutes_to_trace
from sapolin.core.batch.frozen import prepare
from sapolin.core.batch.plan import BatchPlan
from sapolin.core.batch.planned import plan_batch
from sapolin.core.batch.procedure import closing_of, pouring_steps, process_of, steps_of
from sapolin.core.batch.procedure.pastes import jars_for, paste_hours
from sapolin.core.batch.readiness import readiness
from sapolin.core.batch.starting import starting_size
from sapolin.core.materials.ingredients import lye_consumers
from sapolin.core.production.events import Packed, SoapTested, StageReached, StepDone
from sapolin.core.production.guard import passes, refusal
from sapolin.core.quantities.text import Grams, Number, plain, weight
from sapolin.core.stock.needs import material_of, needs_of

KOH_90 = {
    "lye": {"naoh_purity_percent": None, "koh": {"by": "saponification_percent", "value": 100, "purity_percent": 90}}
}
WASH = {"olive-refined": 700.0, "coconut": 300.0}


def paste(oils: dict[str, float] = WASH, superfat: float = 2.0, method: str = "hot", **formula: object) -> BatchPlan:
    purpose = "lye-heavy-paste" if superfat < 0 else "liquid-soap"
    made = weight_formula(
        oils, purpose=purpose, superfat_percent=superfat, process={"method": method},
        water={"by": "water_to_lye", "value": 3.0},
        **KOH_90, **formula,
    )  # fmt: skip
    return BatchPlan(formula=made, size=starting_size(made), jar_g=400.0)


def ids(made: BatchPlan) -> list[str]:
    return [step.id for step in steps_of(made, plan_batch(made)) if step.weigh is None]


def words(made: BatchPlan, step_id: str) -> str:
    step = next(step for step in steps_of(made, plan_batch(made)) if step.id == step_id)
    return plain(step.text)


def numbers_in(made: BatchPlan, step_id: str) -> list[Grams | Number]:
    step = next(step for step in steps_of(made, plan_batch(made)) if step.id == step_id)
    return [part for part in step.text if isinstance(part, Grams | Number)]


class TestWhatEachProcessHas:
    def test_cold_process_is_poured_and_covered_without_a_test(self):
        assert ids(plan()) == [
            "gear", "room", "protect", "make-lye", "melt", "temperatures", "combine", "trace", "pour", "finish", "cover",
            "wash-up",
        ]  # fmt: skip

    def test_hot_process_is_cooked_and_tested_before_it_leaves_the_heat(self):
        made = plan({"process": {"method": "hot"}})
        assert ids(made)[6:] == ["combine", "trace", "cook", "zap", "fluid", "pour", "finish", "cover", "wash-up"]
        said = " ".join(words(made, step) for step in ("pour", "finish", "cover", "combine"))
        assert not {"gel", "alcohol", "insulate"} & set(said.lower().replace(",", " ").replace(".", " ").split())

    def test_a_paste_has_no_mould_no_top_no_cover_and_no_ash(self):
        made = paste()
        assert ids(made)[5:] == [
            "temperatures",
            "combine",
            "trace",
            "paste",
            "zap",
            "clarity",
            "pack",
            "rest",
            "wash-up",
        ]
        found = {one.code for one in readiness(made, plan_batch(made))}
        assert not found & {"no_mould", "ash", "gel_in_fridge", "tight_mould"}

    def test_a_paste_made_with_lye_to_spare_is_neutralised_and_not_tasted(self):
        made = paste(superfat=-3.0)
        assert "zap" not in ids(made)
        steps = {step.id: step for step in steps_of(made, plan_batch(made))}
        assert steps["neutralise"].test == "ph"
        assert steps["clarity"].caustic
        assert steps["neutralise"].caustic

    def test_a_salt_bar_is_poured_at_a_light_trace_and_never_wrapped(self):
        salt = {"additive": "salt", "by": "percent_of_oils", "value": 50.0}
        made = plan({"additives": [salt], "superfat_percent": 18.0, "purpose": "salt-bar"})
        assert "blanket and no oven" in words(made, "cover")
        assert "a light trace" in words(made, "trace")
        assert "salt_bar_in_a_loaf" in {one.code for one in readiness(made, plan_batch(made))}
        whole = made.model_copy(update={"moulds": (loaf(bar_mm=None),)})
        assert "salt_bar_in_a_loaf" not in {one.code for one in readiness(whole, plan_batch(whole))}

    def test_a_little_salt_makes_no_salt_bar(self):
        salt = {"additive": "salt", "by": "percent_of_oils", "value": 19.0}
        made = plan({"additives": [salt]})
        assert not process_of(made, plan_batch(made)).is_salt_bar

    def test_kilograms_of_lye_want_two_people_and_a_plan(self):
        small, big = plan(), plan({}, size={"by": "oils_g", "value": 30_000})
        assert "spill-plan" not in ids(small)
        assert ids(big)[:2] == ["gear", "spill-plan"]
        assert "small portions" in words(big, "make-lye")
        assert "holds its heat" in words(big, "cover")

    def test_what_the_customer_brought_is_looked_at_before_anything_else_and_not_taken_from_the_shelf(self):
        scent = ({"scent": "lavender", "percent_of_oils": 2.0, "limit_percent": 3.0},)
        own, theirs = plan(scents=scent), plan(scents=scent, brought=("olive-refined", "scent:lavender", "liquid:beer"))
        assert "brought" not in ids(own)
        made = plan_batch(theirs)
        (step,) = [one for one in steps_of(theirs, made) if one.id == "brought"]
        assert ids(theirs).index("brought") < ids(theirs).index("protect")
        said = plain(step.text)
        assert "lavender" in said.lower()
        assert "beer" not in said.lower()
        assert any("allergies" in check for check in step.checks)
        assert set(needs_of(plan_batch(own))) - set(needs_of(made)) == {"scent:lavender", "olive-refined"}
        assert material_of("scent:0", made) is None
        assert material_of("lye:naoh", made) == ("naoh", 1.0)

    @pytest.mark.parametrize(
        ("liquid", "said"),
        [("tea", "steep"), ("beer", "alcohol and gas"), ("egg", "below 50 °C")],
    )
    def test_what_is_prepared_ahead_is_said_before_anything_is_weighed(self, liquid, said):
        use = "at_trace" if liquid == "egg" else "dissolves_lye"
        made = plan({"liquids": [{"liquid": liquid, "use": use, "by": "weight_g", "value": 40.0}]})
        assert said in words(made, "ahead")
        assert ids(made).index("ahead") < ids(made).index("protect")

    def test_oven_and_heat_pad_are_watched_by_the_clock_and_a_blanket_is_not(self):
        def cover(kind: str):
            made = plan({}, choices={"cover": kind})
            return next(step for step in steps_of(made, plan_batch(made)) if step.id == "cover")

        assert cover("oven").timer_minutes == (60.0,)
        assert cover("heat_pad").timer_minutes == (20.0, 60.0)
        assert cover("heat_pad").if_needed
        assert cover("insulate").timer_minutes == ()

    def test_lactate_keeps_cooked_soap_fluid_and_goes_in_after_the_cook(self):
        lactate = [{"additive": "sodium-lactate-60", "by": "percent_of_oils", "value": 2.0}]
        assert "cooled-lye" in ids(plan({"additives": lactate}))
        hot = plan({"additives": lactate, "process": {"method": "hot"}})
        assert "cooled-lye" not in ids(hot)
        assert "Sodium lactate, 60 %" in words(hot, "after-cook")


class TestItsNumbers:
    def test_minutes_to_trace_by_what_mixes(self):
        # 22 points by stick blender: 12 min; a whisk takes 7 times, a drill twice as long.
        assert minutes_to_trace(22.0) == pytest.approx(12.0)
        assert minutes_to_trace(22.0, "whisk") == pytest.approx(84.0)
        assert minutes_to_trace(22.0, "drill") == pytest.approx(24.0)
        # 10 points quicker: e^-0.3 = 0.741.
        assert minutes_to_trace(32.0) == pytest.approx(8.89, abs=0.01)

    def test_a_cooked_paste_is_jelly_within_hours_a_cold_one_within_days(self):
        planned = plan_batch(paste())
        pace = planned.trace_points
        assert pace is not None
        low, high = paste_hours(planned, is_hot=True)
        middle = 2.5 * 2.718281828 ** (-0.015 * (pace - 22))
        assert (low, high) == (pytest.approx(middle / 1.7), pytest.approx(middle * 1.7))
        cold_low, cold_high = paste_hours(planned, is_hot=False)
        assert cold_low / low == pytest.approx(36 / 2.5)
        assert cold_high / high == pytest.approx(36 / 2.5)

    def test_a_coconut_paste_is_jelly_before_an_olive_one(self):
        coconut, olive = (plan_batch(paste({oil: 1000.0})) for oil in ("coconut", "olive-refined"))
        assert paste_hours(coconut, is_hot=True)[1] < paste_hours(olive, is_hot=True)[1]

    def test_citric_acid_takes_exactly_the_lye_to_spare(self):
        made = paste(superfat=-3.0)
        spare, citric = (part.g for part in numbers_in(made, "neutralise") if isinstance(part, Grams))
        lye = plan_batch(made).result.lye
        # 3 % more KOH than the oils can take: 3/103 of what is weighed, pure.
        assert spare == pytest.approx(lye.koh_pure_g * 3 / 103, rel=1e-6)
        # Citric acid, 192.12 g/mol, takes three hydroxides of 56.1056 g/mol: 0.8761 g KOH each gram.
        assert citric == pytest.approx(spare / 0.8761, rel=1e-3)
        assert lye_consumers()["citric-anhydrous"].hydroxide_per_mol == 3

    def test_jars_take_all_of_it(self):
        assert [jars_for(grams, 400.0) for grams in (1.0, 400.0, 400.1, 1785.0)] == [1, 1, 2, 5]

    def test_how_many_jars_is_told_in_whole_ones(self):
        """Its batter in jars of 400 g: as many as hold all of it."""
        made = paste()
        planned = plan_batch(made)
        jars = ceil(planned.size.batter_g / 400)
        pack = next(step for step in steps_of(made, planned) if step.id == "pack")
        assert f"{jars} " in plain(pack.text)
        assert [step.id for step in pouring_steps(made, planned)] == ["pack"]
        assert plain(pouring_steps(made, planned)[0].text) == plain(pack.text)

    def test_cooked_soap_is_loosened_with_two_percent_of_the_oils(self):
        made = plan({"process": {"method": "hot"}}, size={"by": "oils_g", "value": 1500})
        cook = next(step for step in steps_of(made, plan_batch(made)) if step.id == "cook")
        grams = [part.g for line in cook.if_needed for part in line if isinstance(part, Grams)]
        assert grams == [pytest.approx(30.0)]

    def test_a_haze_is_passed_only_where_something_explains_it(self):
        def outcome(superfat: float):
            made = paste(superfat=superfat)
            clarity = next(step for step in steps_of(made, plan_batch(made)) if step.id == "clarity")
            return next(one.passed for one in clarity.outcomes if one.id == "haze")

        assert not outcome(2.0)
        assert outcome(2.4)

    def test_hot_lye_and_oils_meet_warm_however_far_apart(self):
        window = plan_batch(plan({"process": {"method": "hot"}})).window
        assert (window.low_c, window.high_c, window.apart_c) == (55, 80, 25)


class Cooking(Making):
    """A batch made as far as its test."""

    def up_to(self, step_id: str) -> None:
        self.add(kind="started")
        for step in self.steps:
            if step.id == step_id:
                return
            if step.weigh is not None:
                self.weigh(step.weigh.item)
            else:
                self.add(kind="step_done", step=step.id, confirmed=step.checks)

    def refused(self, event: object) -> str | None:
        found = refusal(event, self.state, self.steps, self.planned, self.events)
        return None if found is None else found.code


class TestWhatMayNotBePassedBy:
    def test_soap_that_zaps_does_not_leave_the_heat(self):
        batch = Cooking(plan({"process": {"method": "hot"}}))
        batch.up_to("zap")
        done = StepDone(kind="step_done", step="zap")
        assert batch.refused(done) == "not_tested"
        batch.add(kind="tested", test="zap", outcome="zaps", passed=False)
        assert batch.refused(done) == "not_passed"
        batch.add(kind="tested", test="zap", outcome="none", passed=True)
        assert batch.refused(done) is None
        batch.add(kind="tested", test="zap", outcome="zaps", passed=False)
        assert batch.refused(done) == "not_passed"

    def test_a_test_taken_back_does_not_count(self):
        batch = Cooking(plan({"process": {"method": "hot"}}))
        batch.up_to("zap")
        batch.add(kind="tested", test="zap", outcome="none", passed=True)
        batch.add(kind="amended", seq=len(batch.events), reason="SoapTested another batch.")
        assert batch.state.tests == ()
        assert batch.refused(StepDone(kind="step_done", step="zap")) == "not_tested"

    @pytest.mark.parametrize(("ph", "code"), [(4.9, "ph_out_of_range"), (14.1, "ph_out_of_range"), (9.5, None)])
    def test_a_ph_that_no_soap_has_is_asked_again(self, ph, code):
        batch = Cooking(plan({"process": {"method": "hot"}}))
        batch.up_to("zap")
        assert batch.refused(SoapTested(kind="tested", test="zap", ph=ph)) == code

    def test_whether_a_test_passes_follows_from_what_was_seen(self):
        batch = Cooking(plan({"process": {"method": "hot"}}))
        for outcome, passed in (("none", True), ("zaps", False), ("anything", False)):
            assert passes(SoapTested(kind="tested", test="zap", outcome=outcome), batch.steps) is passed
        for ph, passed in ((9.0, True), (10.5, True), (10.6, False)):
            # What the pH says counts, whatever was sent beside it.
            assert (
                passes(SoapTested(kind="tested", test="zap", outcome="none", ph=ph, passed=True), batch.steps) is passed
            )

    def test_stages_and_tests_of_another_process_are_refused(self):
        batch = Cooking(plan())
        batch.up_to("trace")
        assert batch.refused(StageReached(kind="stage_reached", stage="jelly")) == "unknown_stage"
        assert batch.refused(SoapTested(kind="tested", test="clarity", outcome="clear")) == "unknown_test"

    def test_paste_is_not_put_away_before_it_is_counted_and_weighed(self):
        batch = Cooking(paste())
        batch.add(kind="started")
        for step in batch.steps:
            if step.id == "pack":
                break
            if step.weigh is not None:
                batch.weigh(step.weigh.item)
                continue
            if step.test is not None:
                batch.add(kind="tested", test=step.test, outcome=step.outcomes[0].id, passed=True)
            batch.add(kind="step_done", step=step.id, confirmed=step.checks)
        assert batch.refused(StepDone(kind="step_done", step="pack")) == "not_packed"
        planned_g = batch.planned.size.batter_g
        for grams, code in (
            (0.0, "packed_out_of_range"),
            (0.5, None),
            (1.51 * planned_g, "packed_out_of_range"),
            (planned_g, None),
        ):
            assert batch.refused(Packed(kind="packed", jars=4, weight_g=grams)) == code
        most_g = batch.planned.size.batter_g * 1.5
        assert batch.refused(Packed(kind="packed", jars=4, weight_g=most_g)) is None
        said = refusal(
            Packed(kind="packed", jars=4, weight_g=most_g + 1), batch.state, batch.steps, batch.planned, batch.events
        )
        assert said is not None
        assert said.params == {"weight": weight(most_g + 1, 0), "most": weight(most_g, 0)}
        batch.add(kind="packed", jars=4, weight_g=1700.0)
        assert batch.refused(StepDone(kind="step_done", step="pack")) is None
        packed = batch.state.packed
        assert packed is not None
        assert (packed.jars, packed.weight_g) == (4, 1700.0)


@settings(max_examples=40, deadline=None)
@given(
    st.dictionaries(st.sampled_from(["olive-refined", "coconut", "castor", "sunflower", "shea"]),
                    st.floats(min_value=50, max_value=2000), min_size=1),
    st.floats(min_value=-5, max_value=3),
    st.sampled_from(["hot", "cold"]),
)  # fmt: skip
def test_any_paste_is_caustic_until_its_lye_is_spent_and_never_meets_a_mould(oils, superfat, method):
    prepared = prepare(paste(oils, round(superfat, 2), method))
    steps = {step.id: step for step in prepared.steps}
    assert not {"pour", "cover", "finish"} & set(steps)
    order = [step.id for step in prepared.steps]
    last = "neutralise" if "neutralise" in steps else "zap"
    for step in order[order.index("combine") : order.index(last) + 1]:
        assert steps[step].caustic, step
    assert order[-3:] == ["pack", "rest", "wash-up"]
    assert prepared.planned.gel is None


def test_starting_sizes():
    assert starting_size(weight_formula(GUEST)).by == "moulds"
    size = starting_size(paste().formula)
    assert (size.by, size.value) == ("oils_g", 1000.0)


@pytest.mark.parametrize(
    ("formula", "said"),
    [
        ({}, "What was poured burns skin until about a day from now"), ({"process": {"method": "hot"}}, "It passed its test"),
        ({"purpose": "liquid-soap", "lye": KOH_90["lye"]}, "The jars are closed and labelled"),
    ],
)  # fmt: skip
def test_what_is_said_at_the_end_of_the_day(formula, said):
    asked = plan(formula=formula)
    assert plain(closing_of(process_of(asked, plan_batch(asked)))).startswith(said)


class TestHowThingsGoIn:
    """What is said at weighing agrees with what is done later."""

    def weighed(self, item: str, **formula: Any) -> str:
        asked = plan(formula=formula)
        [step] = [one for one in steps_of(asked, plan_batch(asked)) if one.weigh is not None and one.weigh.item == item]
        return plain(step.text)

    @pytest.mark.parametrize(
        ("percent", "method", "said"),
        [
            (1.0, "cold", "Dissolve in the liquid before the lye."),
            (60.0, "cold", "Stir it in dry and fine at light trace, and pour at once."),
        ],
    )
    def test_much_salt_is_not_dissolved(self, percent, method, said):
        salt = [{"additive": "salt", "by": "percent_of_oils", "value": percent}]
        assert self.weighed("additive:0", additives=salt, process={"method": method}) == said

    @pytest.mark.parametrize(("method", "word"), [("cold", "into the lye once it has cooled"), ("hot", "cook")])
    def test_lactate_keeps_cooked_soap_fluid(self, method, word):
        lactate = [{"additive": "sodium-lactate-60", "by": "percent_of_oils", "value": 2.0}]
        assert word in self.weighed("additive:0", additives=lactate, process={"method": method})

    @pytest.mark.parametrize(("use", "frozen"), [("dissolves_lye", True), ("at_trace", False), ("into_oils", False)])
    def test_milk_is_frozen_where_it_takes_the_lye(self, use, frozen):
        milk = [{"liquid": "goat-milk", "use": use, "by": "weight_g", "value": 60.0}]
        said = self.weighed("liquid:0", liquids=milk)
        assert ("freeze" in said, "keep it cool" in said) == (frozen, not frozen)

    def test_petals_are_strewn_on_cooked_soap_once_it_is_in_the_mould(self):
        petals = [{"additive": "calendula-petals", "by": "percent_of_oils", "value": 0.5}]
        asked = plan(formula={"additives": petals, "process": {"method": "hot"}})
        told = [step.id for step in steps_of(asked, plan_batch(asked)) if "alendula" in plain(step.text)]
        assert told == ["finish"]
