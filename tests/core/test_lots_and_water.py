"""Purities of the lots that were chosen, and water in its words: by hand."""

from typing import Any

import pytest

from core.batches import GUEST, Making, plan
from core.strategies import weight_formula
from core.test_guard import asked, code_of
from sapolin.core.batch.planned import plan_batch
from sapolin.core.formula.check import problems_of
from sapolin.core.formula.water import discount_percent, lye_concentration_percent
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.production.events import LotChosen, Tared
from sapolin.core.production.lots import lot_refusal, purity_in_force, with_lots
from sapolin.core.production.state import LotInUse, RunState
from sapolin.core.quantities.diagnostics import Diagnostic
from sapolin.core.quantities.text import percent, plain, weight

DUAL = {"naoh_purity_percent": 99.0, "koh": {"by": "saponification_percent", "value": 20.0, "purity_percent": 90.0}}


def lot(purity: float | None) -> LotInUse:
    return LotInUse(lot_id="lot-7", code="N7", purity_percent=purity)


class TestLotsOfLye:
    def purities(self, **lots: float | None) -> tuple[float | None, float | None]:
        planned = plan_batch(plan({"lye": DUAL}))
        chosen = {f"lye:{kind}": lot(purity) for kind, purity in lots.items()}
        lye = with_lots(planned, chosen).formula.lye
        return lye.naoh_purity_percent, lye.koh.purity_percent if lye.koh else None

    def test_each_lye_has_the_purity_of_its_own_lot(self) -> None:
        assert self.purities() == (99.0, 90.0)
        assert self.purities(naoh=97.5) == (97.5, 90.0)
        assert self.purities(koh=88.0) == (99.0, 88.0)
        assert self.purities(naoh=97.5, koh=88.0) == (97.5, 88.0)
        assert self.purities(naoh=None, koh=None) == (99.0, 90.0)

    def test_without_a_lot_that_says_its_purity_the_plan_is_the_same_one(self) -> None:
        planned = plan_batch(plan({"lye": DUAL}))
        assert with_lots(planned, {}) is planned
        assert with_lots(planned, {"lye:koh": lot(None)}) is planned

    def test_a_lot_of_a_lye_that_the_formula_has_not_changes_nothing(self) -> None:
        planned = plan_batch(plan())
        assert with_lots(planned, {"lye:koh": lot(88.0)}) is planned


class TestLyeOfAnotherLot:
    """99 % as planned; a lot of 98.5 % holds as much hydroxide in 99 / 98.5 of its weight."""

    def making(self, **formula: Any) -> Making:
        making = Making(plan(formula or None))
        making.up_to("weigh-lye:naoh")
        return making

    def test_what_is_weighed_by_is_the_lot_or_the_plan(self) -> None:
        planned = plan_batch(plan({"lye": DUAL}))
        assert purity_in_force(planned, {}, "lye:naoh") == 99.0
        assert purity_in_force(planned, {}, "lye:koh") == 90.0
        assert purity_in_force(planned, {}, "oil:0") is None
        assert purity_in_force(planned, {"lye:koh": lot(88.0)}, "lye:koh") == 88.0
        assert purity_in_force(planned, {"lye:koh": lot(88.0)}, "lye:naoh") == 99.0
        assert purity_in_force(planned, {"lye:koh": lot(None)}, "lye:koh") == 90.0
        assert purity_in_force(plan_batch(plan()), {}, "lye:koh") is None

    def test_as_much_hydroxide_is_weighed(self) -> None:
        """99 % as planned: 77.2 g hold as much as 77.6 g at 98.5 %."""
        making = self.making()
        planned_g = making.target("lye:naoh")
        making.add(kind="correction_taken", item="oil:0", correction="match_lye", targets_g={"lye:naoh": 77.2})
        assert making.target("lye:naoh") == 77.2
        chosen = {"kind": "lot_chosen", "item": "lye:naoh", "code": "N8", "lot_id": "n8"}
        assert making.add(**chosen, purity_percent=98.5).targets_g["lye:naoh"] == 77.6
        assert making.add(**chosen, purity_percent=90.0).targets_g["lye:naoh"] == 84.9
        assert making.add(**chosen, purity_percent=99.0).targets_g["lye:naoh"] == 77.2
        # What is corrected while a lot is in use is meant for its purity.
        making.add(**chosen, purity_percent=90.0)
        making.add(kind="correction_taken", item="oil:0", correction="match_lye", targets_g={"lye:naoh": 90.0})
        assert making.add(kind="lot_chosen", item="lye:naoh", code="").targets_g["lye:naoh"] == 81.8
        assert planned_g != 77.2

    def refused(
        self, making: Making, purity: float | None, item: str = "lye:naoh", *, sure: bool = False
    ) -> Diagnostic | None:
        event = LotChosen(kind="lot_chosen", item=item, code="N8", lot_id="n8", purity_percent=purity, sure=sure)
        before = making.state
        after = making.add(**event.model_dump())
        making.events.pop()
        return lot_refusal(making.planned, before, event, after)

    def test_nothing_recorded_is_entry_nought(self) -> None:
        assert Making(plan()).state.seq == 0
        assert self.making().state.seq == len(self.making().events)

    def test_another_purity_is_asked_about_with_what_to_weigh(self) -> None:
        making = self.making()
        asked = self.refused(making, 97.0)
        assert asked is not None
        assert (asked.code, asked.is_doubt) == ("lye_of_other_purity", True)
        was = making.target("lye:naoh")
        assert asked.params["was"] == weight(was, 1)
        assert asked.params["now"] == weight(round(was * 99 / 97, 1), 1)
        assert (asked.params["purity"], asked.params["before"]) == (percent(97.0), percent(99.0))

    def test_the_same_purity_an_answer_or_no_purity_at_all_goes_through(self) -> None:
        making = self.making()
        assert self.refused(making, 99.0) is None
        assert self.refused(making, None) is None
        assert self.refused(making, 97.0, sure=True) is None
        assert self.refused(making, 97.0, "oil:0") is None

    def test_two_purities_never_lie_in_one_bowl(self) -> None:
        making = self.making()
        making.add(kind="captured", item="lye:naoh", weight_g=20.0, source="typed")
        refused = self.refused(making, 97.0, sure=True)
        assert refused is not None
        assert (refused.code, refused.is_doubt) == ("lye_of_two_purities", False)
        assert self.refused(making, 99.0) is None


class TestWhatWasTakenOfEachLot:
    def making(self) -> Making:
        making = Making(plan())
        making.up_to("weigh-oil:0")
        return making

    def choose(self, making: Making, lot_id: str, **more: Any) -> RunState:
        return making.add(kind="lot_chosen", item="oil:0", code=lot_id.upper(), lot_id=lot_id, **more)

    def typed(self, making: Making, grams: float, **more: Any) -> RunState:
        return making.add(kind="captured", item="oil:0", weight_g=grams, source="typed", **more)

    def test_what_comes_on_top_is_of_the_lot_chosen_then(self) -> None:
        making = self.making()
        self.choose(making, "a")
        self.typed(making, 100.0)
        self.choose(making, "b")
        state = self.typed(making, 40.0, adds=True)
        assert state.captured_g["oil:0"] == 140.0
        assert state.taken_g["oil:0"] == {"a": 100.0, "b": 40.0}
        state = self.typed(making, 5.0, adds=True)
        assert state.taken_g["oil:0"] == {"a": 100.0, "b": 45.0}
        # All of it weighed anew is of the lot in hand.
        assert self.typed(making, 150.0).taken_g["oil:0"] == {"b": 150.0}

    def test_a_lot_is_chosen_for_something_of_this_batch(self) -> None:
        making = self.making()
        chosen = {"kind": "lot_chosen", "code": "A", "lot_id": "a"}
        assert code_of(asked(making, **chosen, item="oil:0")) is None
        assert code_of(asked(making, **chosen, item="oil:77")) == "unknown_item"

    def test_what_no_lot_was_chosen_for_is_of_none(self) -> None:
        assert self.typed(self.making(), 100.0).taken_g["oil:0"] == {"": 100.0}

    def test_the_same_zero_read_again_counts_once(self) -> None:
        making = self.making()
        self.choose(making, "a")
        self.typed(making, 100.0)
        making.tare("oil:0", "t1")
        self.choose(making, "b")
        making.take("oil:0", 30.0)
        state = making.take("oil:0", 34.0)
        assert state.captured_g["oil:0"] == 134.0
        assert state.taken_g["oil:0"] == {"a": 100.0, "b": 34.0}


def test_a_zero_of_the_scale_says_nothing_of_an_empty_bowl_unless_it_is_told() -> None:
    assert not Tared(kind="tared", item="oil:0", tare="t1").emptied


def test_a_discount_is_what_is_missing_from_full_water() -> None:
    # Full water is 38 % of the oils.
    assert discount_percent(38.0) == pytest.approx(0)
    assert discount_percent(19.0) == pytest.approx(50)
    assert discount_percent(41.8) == pytest.approx(-10)
    assert lye_concentration_percent(2.0) == pytest.approx(100 / 3)


def test_more_water_in_lye_and_milk_than_the_formula_has_is_told_as_both_together() -> None:
    # 50 % lye brings as much water as lye; the milk brings most of its weight besides.
    milk = [{"liquid": "goat-milk", "use": "at_trace", "by": "percent_of_water", "value": 70.0}]
    formula = weight_formula(
        GUEST, lye={"naoh_purity_percent": 100.0, "master_percent": 40.0}, liquids=milk,
        water={"by": "water_to_lye", "value": 1.7},
    )  # fmt: skip
    found = {one.code: one for one in problems_of(formula, catalogue())}
    assert "master_beyond_water" in found, [*found]
    brought, water = found["master_beyond_water"].params["brought"], found["master_beyond_water"].params["water"]
    # Water is 1.7 times the lye. Of 40 % lye 1.5 times the lye is water, and 70 % of all water comes with the milk.
    lye_g = water.g / 1.7
    assert brought.g == pytest.approx(1.5 * lye_g + 0.7 * water.g)
    assert plain(found["master_beyond_water"].message)
