"""Purities of the lots that were chosen, and water in its words: by hand."""

import pytest

from core.batches import GUEST, plan
from core.strategies import weight_formula
from sapolin.core.batch.planned import plan_batch
from sapolin.core.formula.check import problems_of
from sapolin.core.formula.water import discount_percent, lye_concentration_percent
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.production.events import Tared
from sapolin.core.production.lots import with_lots
from sapolin.core.production.state import LotInUse
from sapolin.core.quantities.text import plain

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
