"""Weights as a scale shows them, in every unit."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from core.strategies import formulas, weight_formula
from sapolin.core.formula.check import examine
from sapolin.core.formula.composition import Composition
from sapolin.core.formula.document import Formula
from sapolin.core.formula.weights import rounded_to_total, weights_of
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.quantities.units import WEIGHT_UNITS, from_grams, to_grams

UNITS = st.sampled_from(sorted(WEIGHT_UNITS))


@given(st.floats(0.001, 1e6), UNITS)
def test_units_round_trip(grams, unit):
    assert math.isclose(to_grams(from_grams(grams, unit), unit), grams, rel_tol=1e-12)


def test_units_agree_with_one_another():
    assert to_grams(1, "lb") == pytest.approx(to_grams(16, "oz"), rel=1e-15)
    assert to_grams(1, "kg") == 1000
    assert to_grams(1, "oz") == pytest.approx(28.3495, abs=1e-4)


@given(st.lists(st.floats(0, 5000), min_size=1, max_size=20), st.integers(0, 3))
def test_rounded_parts_add_up_and_stay_within_one_step(components, decimals):
    rounded = rounded_to_total(components, decimals)
    step = 10**-decimals
    assert math.isclose(sum(rounded), round(sum(components) / step) * step, abs_tol=1e-6)
    assert all(abs(component - exact) <= step + 1e-6 for component, exact in zip(rounded, components, strict=True))


def composition_of(formula: Formula) -> Composition:
    composition = examine(formula, catalogue()).composition
    assert composition is not None
    return composition


@given(formulas(), UNITS)
def test_what_is_shown_adds_up_in_every_unit(formula, unit):
    composition = composition_of(formula)
    shown = weights_of(composition, unit)
    assert math.isclose(sum(shown.oils), shown.oils_total, abs_tol=1e-9)
    everything = shown.oils_total + shown.naoh + shown.koh + shown.water + sum(shown.liquids) + sum(shown.additives)
    assert math.isclose(everything, shown.batter, abs_tol=1e-9)
    resolution_g = to_grams(10**-shown.lye_decimals, unit)
    assert abs(to_grams(shown.naoh, unit) - composition.naoh.weight_g) <= resolution_g / 2 + 1e-6
    assert abs(to_grams(shown.koh, unit) - composition.koh.weight_g) <= resolution_g / 2 + 1e-6
    assert shown.lye_decimals >= shown.decimals


@pytest.mark.parametrize(
    ("oils", "unit", "decimals", "lye_decimals"),
    [
        ([400.0, 600.0], "g", 1, 1),
        ([400.0, 100.0], "g", 1, 2),
        ([1500.0, 800.0], "g", 0, 1),
        ([400.0, 600.0], "oz", 2, 2),
    ],
)
def test_resolution_follows_the_size_of_the_batch(oils, unit, decimals, lye_decimals):
    shown = weights_of(composition_of(weight_formula(dict(zip(("olive-refined", "coconut"), oils, strict=True)))), unit)
    assert (shown.decimals, shown.lye_decimals) == (decimals, lye_decimals)
