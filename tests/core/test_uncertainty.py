"""The 95 % range of the superfat, against a seeded simulation of many weighings."""

import random

import pytest

from core.strategies import weight_formula
from sapolin.core.bar.calculation import calculate
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.materials.ingredients import liquids
from sapolin.core.quantities.model import Range

TRIES = 20_000


def draw(chance: random.Random, span: Range) -> float:
    return chance.triangular(span.minimum, span.maximum, span.typical)


def simulate(formula, *, tolerance: float, step_g: float, seed: int = 7) -> list[float]:
    """Superfats, %, sorted: SAP values, purity and scale drawn anew for every batch."""
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
        purity = formula.lye.naoh_purity_percent + chance.uniform(-tolerance, tolerance)
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
    found = simulate(formula, tolerance=1.0, step_g=step_g)
    # Normal against triangular and even: within 3 % of the interval's width.
    near = 0.03 * (interval.high_percent - interval.low_percent)
    assert interval.low_percent == pytest.approx(found[int(0.025 * TRIES)], abs=near)
    assert interval.middle_percent == pytest.approx(found[TRIES // 2], abs=near)
    assert interval.high_percent == pytest.approx(found[int(0.975 * TRIES)], abs=near)
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
