"""What wets colours and powders is set aside beforehand, and is the batch's own."""

import pytest

from core.batches import GUEST, Making, loaf, plan
from sapolin.core.batch.planned import plan_batch
from sapolin.core.batch.targets import weigh_targets
from sapolin.core.production.actual import actual_batch, weights_g
from sapolin.core.production.corrections import deviation
from sapolin.core.quantities.diagnostics import FormulaError
from sapolin.core.quantities.text import plain

KAOLIN = {"additive": "kaolin", "by": "percent_of_oils", "value": 2.0}
BLUE = [{"name": "blue", "share_percent": 100.0,
         "colours": [{"colorant": "mica-blue", "by": "tsp_per_500_g", "value": 1.0, "disperse_in": "oil"}]}]  # fmt: skip


def targets_of(asked):
    return {target.item: target.target_g for target in weigh_targets(plan_batch(asked))}


def test_the_jug_is_that_much_lighter():
    # 1000 g of oils, 2 % kaolin, wetted with twice its weight of water.
    plain = targets_of(plan(size={"by": "oils_g", "value": 1000.0}))
    with_clay = targets_of(plan(size={"by": "oils_g", "value": 1000.0}, formula={"additives": [KAOLIN]}))
    assert with_clay["additive:0"] == pytest.approx(20.0)
    assert with_clay["cup:0"] == pytest.approx(40.0)
    assert with_clay["water"] == pytest.approx(plain["water"] - 40.0, abs=0.11)


def test_the_batch_is_that_much_lighter():
    plain = targets_of(plan(size={"by": "oils_g", "value": 1000.0}))
    blue = targets_of(plan(size={"by": "oils_g", "value": 1000.0}, portions=BLUE))
    # Olive is the largest oil that is liquid; 1 tsp of mica for 500 g is 2 g, so 4 g here, in twice its weight.
    assert blue["cup:0"] == pytest.approx(8.0)
    assert blue["oil:0"] == pytest.approx(plain["oil:0"] - 8.0)


def test_every_cup_is_weighed_before_the_lye():
    making = Making(plan(formula={"additives": [KAOLIN]}, portions=BLUE))
    ids = [step.id for step in making.steps]
    assert max(ids.index("weigh-cup:0"), ids.index("weigh-cup:1")) < ids.index("weigh-lye:naoh") < ids.index("make-lye")


def test_in_the_end_all_of_it_is_in_the_batch():
    asked = plan(size={"by": "oils_g", "value": 1000.0}, formula={"additives": [KAOLIN]}, portions=BLUE)
    planned = plan_batch(asked)
    made = actual_batch(planned, weights_g(targets_of(asked), {}))
    assert made.superfat_percent == pytest.approx(5.0, abs=0.05)
    assert made.result.water.water_g == pytest.approx(planned.result.water.water_g, abs=0.1)
    assert made.shares_percent == pytest.approx(
        [100 * grams / sum(GUEST.values()) for grams in GUEST.values()], abs=0.02
    )


def test_lye_that_follows_an_oil_leaves_the_water_of_the_cups_where_it_is():
    making = Making(plan(formula={"additives": [KAOLIN]}, moulds=(loaf(headroom_mm=20),)))
    making.up_to("weigh-oil:2")
    first = making.target("oil:2") + 50
    making.add(kind="captured", item="oil:2", weight_g=first, source="typed")
    weigh = next(step.weigh for step in making.steps if step.weigh and step.weigh.item == "oil:2")
    found = deviation(making.plan, making.planned, making.state.targets_g, making.state.captured_g, weigh)
    follow = next(one for one in found.corrections if one.correction == "match_lye")
    assert follow.possible, plain(follow.why_not)
    lye_g, water_g = follow.targets_g["lye:naoh"], follow.targets_g["water"]
    # More of an oil takes more lye, and the lye its part of water: what is in the cup beforehand is not poured a second time.
    cup_g = making.target("cup:0")
    assert cup_g > 20
    ratio = (making.target("water") + cup_g) / making.target("lye:naoh")
    assert lye_g > making.target("lye:naoh") + 5
    assert water_g + cup_g == pytest.approx(lye_g * ratio, abs=0.2)
    assert found.off_g == pytest.approx(50)


def test_lye_keeps_its_own_weight_of_water():
    strong = {"by": "lye_concentration_percent", "value": 48.0}
    with pytest.raises(FormulaError) as refused:
        plan_batch(plan(formula={"additives": [KAOLIN | {"value": 6.0}], "water": strong}, moulds=(loaf(),)))
    (problem,) = refused.value.problems
    assert (problem.code, problem.path) == ("cups_take_the_water", "formula.additives[0].value")


def test_the_lye_is_hotter_in_the_water_that_is_left():
    plain = plan_batch(plan(size={"by": "oils_g", "value": 1000.0})).lye_peak.high_c
    clay = plan_batch(plan(size={"by": "oils_g", "value": 1000.0}, formula={"additives": [KAOLIN]})).lye_peak.high_c
    assert clay > plain + 1
