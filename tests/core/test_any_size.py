"""The same bar from a thimble or from a barrel: whatever is not an amount is the same at any size."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from core.strategies import laden_formulas
from sapolin.core.advice.report import report
from sapolin.core.bar.calculation import calculate, calculation_of
from sapolin.core.batch.additions import Additions
from sapolin.core.batch.filling import batter_volume
from sapolin.core.batch.planned import scaled
from sapolin.core.formula.document import Formula

TOTALS_G = st.sampled_from([10.5, 60.0, 900.0, 400_000.0])
"""Of oils, from the least that a scale weighs lye for to nearly the most of a workshop."""


def resized(formula: Formula, total_g: float) -> tuple[Formula, float]:
    return scaled(formula, total_g / sum(line.value or 0.0 for line in formula.blend.lines))


OF_THE_SCALE = {"coarse_scale", "scale_not_entered", "may_be_lye_heavy"}
"""A scale is off by as much at any size: of little soap that is more."""


def numbers(what: object, path: str = "") -> dict[str, float]:
    """Every number of a document, by its place."""
    if isinstance(what, dict):
        return {k: v for key, one in what.items() for k, v in numbers(one, f"{path}.{key}").items()}
    if isinstance(what, list):
        return {k: v for i, one in enumerate(what) for k, v in numbers(one, f"{path}[{i}]").items()}
    return {path: float(what)} if isinstance(what, int | float) and not isinstance(what, bool) else {}


@given(laden_formulas(), TOTALS_G)
@settings(max_examples=100)
def test_the_bar_is_the_same_and_every_weight_follows(formula: Formula, total_g: float):
    other, factor = resized(formula, total_g)
    one, same = (calculate(each).model_dump(mode="json") for each in (formula, other))
    points, same_points = ({found["quality"]: found["points"] for found in each["qualities"]} for each in (one, same))
    assert same_points == pytest.approx(points, abs=1e-6)
    for part in ("acids", "indices", "bar", "paste"):
        assert numbers(same[part]) == pytest.approx(numbers(one[part]), rel=1e-6, abs=1e-6), part
    for weight in ("naoh_g", "koh_g"):
        assert same["lye"][weight] == pytest.approx(one["lye"][weight] * factor)


@given(laden_formulas(), TOTALS_G)
@settings(max_examples=100)
def test_the_batter_takes_its_room_and_the_same_is_said(formula: Formula, total_g: float):
    other, factor = resized(formula, total_g)
    nothing = Additions(scents=(), portions=())
    one, same = (batter_volume(calculation_of(each).composition, nothing) for each in (formula, other))
    assert same.total_ml == pytest.approx(one.total_ml * factor)
    said, same_said = ({found.code for found in report(each).diagnostics} for each in (formula, other))
    assert said - OF_THE_SCALE == same_said - OF_THE_SCALE
