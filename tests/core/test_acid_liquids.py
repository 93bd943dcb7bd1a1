"""Acid liquids consume lye: it can be added back to the mole, and what makes a batch lye-heavy is its total, not an entry."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from core.batches import Making, plan
from core.strategies import codes_of, weight_formula
from sapolin.core.advice.report import report
from sapolin.core.bar.calculation import calculate
from sapolin.core.batch.temperatures import holds_milk
from sapolin.core.formula.document import LiquidLine
from sapolin.core.materials.ingredients import liquids
from sapolin.core.production.actual import actual_batch, weights_g

OLIVE = {"olive-refined": 1000.0}
VINEGAR = {"liquid": "vinegar", "use": "dissolves_lye", "by": "percent_of_water", "value": 50.0}


def vinegar_bar(*, compensated: bool, **changes):
    return calculate(weight_formula(OLIVE, liquids=[VINEGAR | {"compensated": compensated}], **changes))


def test_vinegar_by_weight_takes_the_listed_lye():
    """300 g of vinegar with 5 % acetic acid: 15 g x 0.6661 g NaOH per g = 9.99 g pure, 10.09 g at 99 %."""
    by_weight = {"liquid": "vinegar", "use": "into_oils", "by": "weight_g", "value": 100.0}
    plain = calculate(weight_formula(OLIVE))
    back = calculate(weight_formula(OLIVE, liquids=[by_weight | {"compensated": True}]))
    assert back.lye.naoh_g - plain.lye.naoh_g == pytest.approx(5 * 0.6661 / 0.99, abs=0.005)
    assert back.lye.superfat_total_percent == pytest.approx(5.0)


@pytest.mark.parametrize("water", [
    {"by": "water_to_lye", "value": 2.2}, {"by": "lye_concentration_percent", "value": 30.0},
    {"by": "percent_of_oils", "value": 33.0},
])  # fmt: skip
def test_as_a_share_of_the_water_it_grows_with_the_lye_and_still_comes_out_even(water):
    back = vinegar_bar(compensated=True, water=water)
    assert back.lye.superfat_total_percent == pytest.approx(5.0, abs=1e-9)
    # Half of the water comes with it, also of the water that the lye added back brings.
    assert back.liquids[0].water_g == pytest.approx(back.water.water_g / 2, rel=1e-12)
    left = vinegar_bar(compensated=False, water=water)
    assert left.lye.superfat_total_percent > 7


@given(st.floats(5, 90), st.floats(0, 12), st.sampled_from(["lemon-juice", "vinegar", "buttermilk", "aloe-juice"]))
def test_added_back_the_superfat_is_what_the_fats_alone_give(share, superfat, liquid):
    line = {"liquid": liquid, "use": "dissolves_lye", "by": "percent_of_water", "value": share, "compensated": True}
    result = calculate(weight_formula(OLIVE, superfat=superfat, liquids=[line]))
    bare = 100 * result.liquids[0].fat_g / 1000  # Fat in the liquid has no lye of its own.
    assert superfat - 1e-9 <= result.lye.superfat_total_percent <= superfat + 1.5 * bare + 1e-9


def test_made_as_planned_it_is_the_plan():
    making = Making(plan(formula={"liquids": [VINEGAR | {"compensated": True}]}))
    made = actual_batch(making.planned, weights_g(making.state.targets_g, {}))
    assert made.superfat_percent == pytest.approx(5.0, abs=0.05)


@pytest.mark.parametrize(("liquid", "unsafe"), [(None, True), (VINEGAR, False)])
def test_lye_heavy_is_what_the_whole_batch_is(liquid, unsafe):
    changes = {"superfat_percent": -2.0, "purpose": "lye-heavy-paste", "liquids": [liquid] if liquid else []}
    said = report(weight_formula(OLIVE, **changes))
    assert (said.result.lye.superfat_total_percent < 0) == unsafe
    assert (said.state == "unsafe") == unsafe
    assert any(one.code == "lye_heavy_on_purpose" for one in said.diagnostics) == unsafe


@pytest.mark.parametrize(("liquid", "scorches"), [
    ("goat-milk", True), ("almond-drink", True), ("avocado-puree", True), ("lemon-juice", False), ("silk-water", False),
    ("cucumber-puree", False), ("tea", False),
])  # fmt: skip
def test_one_answer_to_what_scorches(liquid, scorches):
    line = LiquidLine(liquid=liquid, use="dissolves_lye", by="percent_of_water", value=60.0)
    assert (liquids()[liquid].scorches == "yes") == scorches
    assert holds_milk([line]) == scorches
    codes = codes_of(
        weight_formula(OLIVE, liquids=[line.model_dump()], process={"batter_temperature_c": 45.0, "method": "cold"})
    )
    assert ("scorching" in codes) == scorches
    assert ("milk_too_warm" in codes) == scorches
    window = Making(plan(formula={"liquids": [line.model_dump()]})).planned.window
    assert window.milk == scorches
