"""Soft and liquid soap, worked by hand."""

import math

import pytest
from hypothesis import given

from core.batches import plan
from core.strategies import codes_of, formulas, weight_formula
from sapolin.core.bar.calculation import calculate
from sapolin.core.bar.paste import PasteComponent, mix_pastes
from sapolin.core.batch.plan import SizeBy
from sapolin.core.batch.planned import plan_batch
from sapolin.core.batch.procedure import steps_of
from sapolin.core.materials.fatty_acids import ACID_INDEX, ACIDS
from sapolin.core.quantities.text import plain

ALL_KOH = {"naoh_purity_percent": None, "koh": {"by": "saponification_percent", "value": 100, "purity_percent": 90}}


def paste(superfat: float = 0.0, **changes):
    return calculate(
        weight_formula({"olive-refined": 1000.0}, superfat=superfat, lye=ALL_KOH, purpose="liquid-soap", **changes)
    ).paste


def test_a_kilogram_of_olive_paste():
    # 190 g KOH pure: 3.386471 mol; glycerol 3.386471 / 3 x 92.094 = 103.958 g; soap 1000 + 190 - 103.958 = 1086.04 g
    # batter: 1000 + 211.111 KOH as bought + 422.222 water = 1633.333 g; 66.49 % soap
    result = paste()
    assert result.glycerol_g == pytest.approx(103.958, abs=0.01)
    assert result.soap_g == pytest.approx(1086.04, abs=0.02)
    assert result.paste_g == pytest.approx(1633.333, abs=0.01)
    assert result.soap_percent == pytest.approx(66.49, abs=0.01)


def test_superfat_leaves_oil():
    # 2 %: 20 g of oil stay; soap 0.98 x 1086.04
    result = paste(2.0)
    assert result.free_oil_g == pytest.approx(20)
    assert result.soap_g == pytest.approx(0.98 * 1086.04, abs=0.05)


def test_thinned_to_a_fifth():
    # 1086.04 / 0.20 = 5430.2 g; less 1633.33 g paste: 3796.9 g water
    diluted = paste(dilution={"soap_percent": 20.0}).diluted
    assert diluted.yield_g == pytest.approx(5430.2, abs=0.1)
    assert diluted.water_to_add_g == pytest.approx(3796.9, abs=0.1)


def test_a_paste_is_never_thinned_by_taking_water_away():
    # It holds 66.49 % soap: 60 % takes water, 70 % cannot be had.
    assert paste(dilution={"soap_percent": 60.0}).diluted.water_to_add_g > 0
    thin = weight_formula({"olive-refined": 1000.0}, superfat=0.0, lye=ALL_KOH, purpose="liquid-soap",
                          water={"by": "water_to_lye", "value": 5.0}, dilution={"soap_percent": 60.0})  # fmt: skip
    result = calculate(thin)
    assert result.paste.soap_percent < 60
    assert result.paste.diluted is None
    assert "thinner_already" in codes_of(thin)


def test_all_koh_has_its_whole_effect_whatever_the_rounding():
    effects = set()
    for superfat in (0.0, 1.1, 2.3, 4.7, 5.0):
        for purity in (85.0, 88.9, 90.0, 91.3):
            lye = {
                "naoh_purity_percent": None,
                "koh": {"by": "saponification_percent", "value": 100, "purity_percent": purity},
            }
            result = calculate(
                weight_formula({"olive-refined": 1000.0}, superfat=superfat, lye=lye, purpose="liquid-soap")
            )
            (koh,) = [one for one in result.adjustments if one.id == "koh"]
            effects.add((koh.state, koh.effects))
    assert len(effects) == 1


def test_a_bar_is_no_paste_and_a_paste_no_bar(make_formula):
    bar = calculate(make_formula())
    assert bar.paste is None
    assert bar.bar is not None
    soft = calculate(weight_formula({"olive-refined": 1000.0}, superfat=2.0, lye=ALL_KOH, purpose="liquid-soap"))
    assert soft.bar is None
    assert soft.paste is not None


@given(formulas())
def test_what_reacts_is_what_forms(formula):
    soft = calculate(formula.model_copy(update={"purpose": "liquid-soap"}))
    made = soft.paste
    spent = soft.lye.naoh_pure_g
    acids = sum(oil.weight_g for oil in soft.oils) - made.free_oil_g
    # fats + base = soap + glycerol + water of the free acids; the last is at most 18 g per mol of base
    gap = acids + spent - made.soap_g - made.glycerol_g
    assert -1e-6 * soft.batter_g <= gap <= 18.1 * spent / 39.997
    assert math.isclose(made.paste_g, soft.batter_g)


def test_pastes_mix_by_the_soap_they_bring():
    def pure_oils(acid: str) -> tuple[float, ...]:
        return tuple(100.0 if other.id == acid else 0.0 for other in ACIDS)

    # 300 g at 50 % and 700 g at 30 %: 150 + 210 = 360 g soap, 36 %; 150 / 360 = 41.67 % of it lauric
    mix = mix_pastes(
        [
            PasteComponent(name="coconut", weight_g=300, soap_percent=50, acids_percent=pure_oils("C12:0")),
            PasteComponent(name="olive", weight_g=700, soap_percent=30, acids_percent=pure_oils("C18:1")),
        ]
    )
    assert mix.soap_percent == pytest.approx(36)
    assert mix.acids_percent[ACID_INDEX["C12:0"]] == pytest.approx(41.667, abs=1e-3)
    with pytest.raises(ValueError, match="at least one"):
        mix_pastes([PasteComponent(name="water", weight_g=100, soap_percent=0, acids_percent=pure_oils("C12:0"))])


@pytest.mark.parametrize(
    ("oils", "method", "said"),
    [
        # Olive traces slowly, 14.908 points: 2.5 h or 36 h x exp(-0.015 (14.908 - 22)) = 1.11224, 1.7 times less to more.
        ({"olive-refined": 1000.0}, "hot", "for 1.6 to 4.7 h (estimate)"),
        ({"olive-refined": 1000.0}, "cold", "for 1.0 to 2.8 days (estimate)"),
        # Coconut and castor hurry, 68.131 points: x exp(-0.015 (68.131 - 22)) = 0.50057.
        ({"coconut": 700.0, "castor": 300.0}, "hot", "for 0.7 to 2.1 h (estimate)"),
        ({"coconut": 700.0, "castor": 300.0}, "cold", "for 10.6 to 30.6 h (estimate)"),
    ],
)
def test_how_long_a_paste_takes(oils, method, said):
    made = weight_formula(oils, superfat=2.0, lye=ALL_KOH, purpose="liquid-soap", process={"method": method})
    jar = {"moulds": (), "jar_g": 2000.0, "size": SizeBy(by="oils_g", value=1000.0)}
    batch = plan().model_copy(update={"formula": made} | jar)
    steps = {step.id: step for step in steps_of(batch, plan_batch(batch))}
    assert said in plain(steps["paste"].text)
