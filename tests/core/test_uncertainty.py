"""The 95 % range of the superfat, against a seeded simulation of many weighings."""

import random
from math import erfc

import pytest

from core.strategies import weight_formula
from sapolin.core.bar.calculation import calculate
from sapolin.core.bar.uncertainty import _chance_below, _fieller
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.materials.ingredients import liquids
from sapolin.core.quantities.model import Range

TRIES = 20_000


def draw(chance: random.Random, span: Range) -> float:
    """A lot: as listed, give or take a third of half the natural range."""
    return chance.gauss(span.typical, (span.maximum - span.minimum) / 6)


def simulate(formula, *, lost: float, step_g: float, seed: int = 7) -> list[float]:
    """Superfats, %, sorted: SAP values, purity (up to `lost` points less) and scale drawn anew for every batch."""
    chance, bar, oils = random.Random(seed), calculate(formula), catalogue()
    found = []
    for _ in range(TRIES):
        fats = sum(
            (line.value + chance.uniform(-step_g / 2, step_g / 2)) * draw(chance, oils[line.oil].sap_koh_mg_per_g)
            for line in formula.blend.lines
        )
        for liquid in bar.liquids:
            of = liquids()[liquid.liquid]
            fats += liquid.weight_g * draw(chance, of.fat_percent) / 100 * oils[of.fat_like].sap_koh_mg_per_g.typical
        weighed = bar.lye.naoh_g + chance.uniform(-step_g / 2, step_g / 2)
        purity = formula.lye.naoh_purity_percent - chance.uniform(0, lost)
        found.append(100 * (1 - weighed * purity / 100 / 39.997 / (fats / 56105.6)))
    return sorted(found)


MILK = [{"liquid": "goat-milk", "use": "dissolves_lye", "by": "weight_g", "value": 100.0}]


@pytest.mark.parametrize(
    ("weights", "superfat", "step_g", "changes"),
    [
        ({"olive-refined": 340, "palm": 300, "coconut": 260, "shea": 50, "castor": 50}, 5.0, 0.1, {}),
        ({"olive-refined": 700, "coconut": 300}, 1.0, 1.0, {}),
        ({"coconut": 60, "lard": 40}, 3.0, 1.0, {}),
        ({"olive-refined": 500, "lard": 300, "coconut": 200}, 6.0, 0.1, {"liquids": MILK}),
    ],
)
def test_the_interval_is_the_one_that_many_batches_show(weights, superfat, step_g, changes):
    weights = {oil: float(g) for oil, g in weights.items()}
    formula = weight_formula(weights, superfat=superfat, scale_step_g=step_g, **changes)
    interval = calculate(formula).lye.superfat_interval
    found = simulate(formula, lost=0.0, step_g=step_g)
    # Normal against even steps: within 3 % of the interval's width, and where the scale is most of it, 6 % on the safe side.
    near = (0.06 if interval.contributors[0].label == "the scale" else 0.03) * (
        interval.high_percent - interval.low_percent
    )
    assert interval.low_percent == pytest.approx(found[int(0.025 * TRIES)], abs=near)
    assert interval.middle_percent == pytest.approx(found[TRIES // 2], abs=near)
    weakened = simulate(formula, lost=1.0, step_g=step_g)
    assert interval.high_percent == pytest.approx(weakened[int(0.975 * TRIES)], abs=near)
    below = 100 * sum(superfat < 0 for superfat in found) / TRIES
    assert interval.chance_lye_heavy_percent == pytest.approx(below, abs=1.0)


def test_the_largest_contributor_is_named():
    rough = calculate(weight_formula({"olive-refined": 100.0}, scale_step_g=5.0)).lye.superfat_interval
    assert rough.contributors[0].label == "the scale"
    assert sum(cause.percent for cause in rough.contributors) == pytest.approx(100)
    lye = {"naoh_purity_percent": 97.0, "purity_tolerance_percent": 4.0}
    wide = calculate(weight_formula({"olive-refined": 1000.0}, lye=lye))
    assert wide.lye.superfat_interval.contributors[0].label == "purity of the NaOH"


def test_a_certificate_narrows_it():
    material = {
        "id": "own-lot", "name": "Olive, lot 4",
        "content": {"kind": "certificate", "of": "olive-refined", "sap_koh_mg_per_g": 190.0},
    }  # fmt: skip
    typical = calculate(weight_formula({"olive-refined": 1000.0})).lye.superfat_interval
    certified = calculate(weight_formula({"own-lot": 1000.0}, materials=[material])).lye.superfat_interval
    assert certified.high_percent - certified.low_percent < 0.7 * (typical.high_percent - typical.low_percent)


def test_exact_knowledge_leaves_no_interval():
    lye = {"naoh_purity_percent": 99.0, "purity_tolerance_percent": 0.0}
    formula = weight_formula({"olive-refined": 1000.0}, lye=lye, scale_step_g=0.001)
    exact = catalogue()["olive-refined"].model_copy(update={"sap_koh_mg_per_g": Range.parse("190")})
    oils = type(catalogue())((exact,))
    interval = calculate(formula, oils).lye.superfat_interval
    assert interval.high_percent - interval.low_percent < 0.01
    assert interval.middle_percent == pytest.approx(5)


def test_a_lopsided_trade_range_moves_nothing():
    """Sweet almond is listed at 194, traded from 188 to 200 or more: at 1 % superfat the estimate is 1 %."""
    bar = calculate(weight_formula({"almond-sweet": 1000.0}, superfat=1.0))
    assert bar.lye.superfat_interval.middle_percent == pytest.approx(1.0, abs=1e-9)


def test_one_oil_by_hand():
    """Olive at 190 (184 to 196): one deviation is 2 in 190, 1.0526 %. At superfat 5 with lye of its full purity and a scale
    that steps by nothing worth, 1.96 of it each way of 95 % of what it takes."""
    formula = weight_formula({"olive-refined": 1000.0}, scale_step_g=0.001)
    interval = calculate(formula).lye.superfat_interval
    # 100 (1 - 0.95 / (1 - 1.959964 x 2 / 190)): the fats take that much less.
    assert interval.low_percent == pytest.approx(100 * (1 - 0.95 / (1 - 1.959964 * 2 / 190)), abs=1e-3)
    # Upward half a point of 99 is lost on average, spread by a point over the root of 12.
    left = 0.95 * (1 - 0.5 / 99)
    spread = 1.959964 * left * ((2 / 190) ** 2 + (1 / 99 / 12**0.5) ** 2) ** 0.5
    assert interval.high_percent == pytest.approx(100 * (1 - left + spread), abs=0.05)
    # One oil alone is always off together with itself.
    assert interval.low_together_percent == pytest.approx(interval.low_percent, abs=1e-3)


def test_lots_that_are_off_together_reach_lower():
    interval = calculate(weight_formula({"olive-refined": 500.0, "coconut": 500.0})).lye.superfat_interval
    assert interval.low_together_percent < interval.low_percent - 0.2


@pytest.mark.parametrize("fats", [0.1 * i for i in range(1, 60)])
def test_without_any_doubt_both_ends_meet_whatever_rounding_leaves(fats):
    assert _fieller(fats, 0.0, 0.95 * fats, 0.0) == pytest.approx((5.0, 5.0), abs=1e-5)


def test_without_any_doubt_the_chance_is_all_or_nothing():
    assert [_chance_below(excess, 0.0) for excess in (0.1, 0.0, -0.1)] == [1.0, 0.0, 0.0]


def test_the_acid_of_a_liquid_is_uncertain_too():
    vinegar = [{"liquid": "vinegar", "use": "dissolves_lye", "by": "weight_g", "value": 150.0, "compensated": True}]
    labels = {
        one.label
        for one in calculate(
            weight_formula({"olive-refined": 1000.0}, liquids=vinegar)
        ).lye.superfat_interval.contributors
    }
    assert any(label.startswith("acid of the") for label in labels)


MANY_DOUBTS = {
    "lye": {
        "naoh_purity_percent": 98.0,
        "koh": {"by": "saponification_percent", "value": 20.0, "purity_percent": 90.0},
    },
    "liquids": [
        {"liquid": "goat-milk", "use": "dissolves_lye", "by": "weight_g", "value": 100.0},
        {"liquid": "vinegar", "use": "into_oils", "by": "weight_g", "value": 50.0},
    ],
    "scale_step_g": 2.0,
}


def test_every_doubt_by_hand():
    """600 g olive (184 to 196), 400 g coconut (248 to 265), 100 g milk of 3 to 5.5 % fat at 228, 50 g vinegar of 5 %; superfat
    3, a fifth KOH; all in mmol of lye."""
    formula = weight_formula({"olive-refined": 600.0, "coconut": 400.0}, superfat=3.0, **MANY_DOUBTS)
    interval = calculate(formula).lye.superfat_interval
    oils = (600 * 190 + 400 * 257) / 56.1056
    lye, fats = 0.97 * oils, oils + 4.1 * 228 / 56.1056
    acid = 50 * 0.05 / 60.052 * 1000
    net = lye - acid
    assert interval.middle_percent == pytest.approx(100 * (1 - net / fats), abs=1e-3)
    as_of_fats = (fats / net) ** 2
    variances = {
        "Olive, refined": (600 * 2 / 56.1056) ** 2,
        "Coconut": (400 * 17 / 6 / 56.1056) ** 2,
        "fat of the goat milk": (2.5 / 6 * 228 / 56.1056) ** 2,
        # Purity: from nothing to 1 point of 98, and to 2 points of 90, evenly.
        "purity of the NaOH": (0.8 * lye / 98) ** 2 / 3 * as_of_fats,
        "purity of the KOH": (0.2 * lye * 2 / 90) ** 2 / 3 * as_of_fats,
        "acid of the vinegar, 5 %": (0.07 * acid) ** 2 * as_of_fats,
        # A step of 2 g, evenly: 2² / 12 g² at each weighing.
        "the scale": 4 / 12 * ((190 / 56.1056) ** 2 + (257 / 56.1056) ** 2
                               + as_of_fats * ((980 / 39.997) ** 2 + (900 / 56.1056) ** 2)),
    }  # fmt: skip
    found = {one.label: one.percent for one in interval.contributors}
    assert found == pytest.approx(
        {name: 100 * one / sum(variances.values()) for name, one in variances.items()}, rel=1e-3
    )
    assert list(found.values()) == sorted(found.values(), reverse=True)
    # All lots off together: two deviations of every fat against, of every acid with the lye.
    deviations = 600 * 2 / 56.1056 + 400 * 17 / 6 / 56.1056 + 2.5 / 6 * 228 / 56.1056
    together = 100 * (1 - (net + 1.959964 * 0.07 * acid) / (fats - 1.959964 * deviations))
    assert interval.low_together_percent == pytest.approx(together, abs=1e-3)
    # Too much lye, all of it pure: the spread of fats and that of acids and weighings count together.
    of_fats = sum(variances[name] for name in ("Olive, refined", "Coconut", "fat of the goat milk"))
    of_fats += 4 / 12 * ((190 / 56.1056) ** 2 + (257 / 56.1056) ** 2)
    of_lye = (0.07 * acid) ** 2 + 4 / 12 * ((980 / 39.997) ** 2 + (900 / 56.1056) ** 2)
    chance = 100 * 0.5 * erfc((fats - net) / (of_fats + of_lye) ** 0.5 / 2**0.5)
    assert interval.chance_lye_heavy_percent == pytest.approx(chance, rel=1e-3)


def test_a_batch_for_a_doll_is_as_sure_as_one_for_a_shop():
    """A hundredth of everything, the steps of the scale too: the same range, from the same causes."""
    hundredth = MANY_DOUBTS | {
        "liquids": [line | {"value": line["value"] / 100} for line in MANY_DOUBTS["liquids"]], "scale_step_g": 0.02,
    }  # fmt: skip
    large = calculate(weight_formula({"olive-refined": 600.0, "coconut": 400.0}, **MANY_DOUBTS)).lye.superfat_interval
    small = calculate(weight_formula({"olive-refined": 6.0, "coconut": 4.0}, **hundredth)).lye.superfat_interval
    assert small.low_percent == pytest.approx(large.low_percent, abs=1e-9)
    assert small.high_percent == pytest.approx(large.high_percent, abs=1e-9)
    assert {one.label: round(one.percent, 6) for one in small.contributors} == {
        one.label: round(one.percent, 6) for one in large.contributors
    }


def test_the_chance_of_too_much_lye_by_hand():
    """Olive alone at superfat 1: a deviation takes 2 of 190, the lye leaves 1 of 100: 0.95 deviations, 17.1 of 100 lots."""
    formula = weight_formula({"olive-refined": 1000.0}, superfat=1.0, scale_step_g=0.001)
    assert calculate(formula).lye.superfat_interval.chance_lye_heavy_percent == pytest.approx(17.106, abs=0.01)


def test_a_lye_that_is_hardly_known_by_hand():
    """Fats take 1 ± 0.01 mol, the lye is 0.95 ± 0.05 mol. The ends r solve (r − 0.95)² = z² (0.0001 r² + 0.0025) (Fieller),
    with z² = 3.84146 so (1 − 0.000384146) r² − 1.9 r + 0.9025 − 0.00960365 = 0."""
    a, b, c = 1 - 0.000384146, 1.9, 0.9025 - 0.00960365
    root = (b * b - 4 * a * c) ** 0.5
    ends = 100 * (1 - (b + root) / (2 * a)), 100 * (1 - (b - root) / (2 * a))
    assert _fieller(1.0, 0.0001, 0.95, 0.0025) == pytest.approx(ends, abs=1e-4)
