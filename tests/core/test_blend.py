"""Shares and weights as two views of one blend, and the edits that keep it whole."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from core.strategies import weight_formula, weights_g
from sapolin.core.bar.calculation import calculate
from sapolin.core.formula.blend import balanced, converted, entered_shares, oil_shares
from sapolin.core.formula.document import Blend
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.quantities.diagnostics import FormulaError


def blend(*shares: float | None, locked: tuple[int, ...] = (), total: float | None = 1000.0) -> Blend:
    oils = list(catalogue())
    return Blend.model_validate(
        {
            "total_oils_g": total,
            "lines": [{"oil": oils[i], "value": share, "locked": i in locked} for i, share in enumerate(shares)],
        }
    )


def shares_of(result: Blend) -> list[float | None]:
    return [line.value for line in result.lines]


@given(weights_g())
def test_percent_and_weight_views_agree(weights):
    by_weight = weight_formula(weights)
    by_percent = by_weight.model_copy(update={"blend": converted(by_weight.blend, "percent_of_oils")})
    one, other = calculate(by_weight), calculate(by_percent)
    assert math.isclose(one.lye.naoh_g, other.lye.naoh_g, rel_tol=1e-9)
    assert math.isclose(one.total_oils_g, other.total_oils_g, rel_tol=1e-9)
    back = converted(by_percent.blend, "weight_g")
    for line, again in zip(by_weight.blend.lines, back.lines, strict=True):
        assert math.isclose(line.value, again.value, rel_tol=1e-9)


@given(weights_g(), st.data())
def test_turning_one_into_the_other_loses_nothing(weights, data):
    plain = weight_formula(weights)
    lines = tuple(
        line.model_copy(update={
            "locked": data.draw(st.booleans()), "added": data.draw(st.sampled_from(["start", "at_trace", "after_cook"])),
        })
        for line in plain.blend.lines
    )  # fmt: skip
    blend = plain.blend.model_copy(update={"lines": lines})
    there = converted(blend, "percent_of_oils")
    back = converted(there, "weight_g")
    amounts = {"by", "value"}
    said = [line.model_dump(exclude=amounts) for line in lines]
    assert [line.model_dump(exclude=amounts) for line in there.lines] == said
    assert [line.model_dump(exclude=amounts) for line in back.lines] == said


def test_olive_at_trace_takes_no_lye_however_it_is_entered():
    """Only the oils that go in at the start meet the lye."""
    oils = {"coconut": 300.0, "palm": 400.0, "olive-refined": 300.0}
    plain = weight_formula(oils)
    lines = tuple(
        line.model_copy(update={"added": "at_trace" if line.oil == "olive-refined" else "start"})
        for line in plain.blend.lines
    )
    late = plain.model_copy(update={"blend": plain.blend.model_copy(update={"lines": lines})})
    needs = sum(
        grams * catalogue()[oil].sap_koh_mg_per_g.typical / 1000 * 39.997 / 56.1056
        for oil, grams in oils.items()
        if oil != "olive-refined"
    )
    expected = needs * (1 - late.superfat_percent / 100) / (late.lye.naoh_purity_percent / 100)
    for blend in (late.blend, converted(late.blend, "percent_of_oils")):
        assert calculate(late.model_copy(update={"blend": blend})).lye.naoh_g == pytest.approx(expected, rel=1e-9)


def test_converting_keeps_gaps_and_odd_sums():
    unfinished = blend(40, None, 30)
    by_weight = converted(unfinished, "weight_g")
    assert [line.value for line in by_weight.lines] == [400, None, 300]
    assert converted(unfinished, "percent_of_oils") is unfinished
    with pytest.raises(FormulaError) as open_still:
        converted(unfinished.model_copy(update={"total_oils_g": None}), "weight_g")
    assert [(one.code, one.is_open) for one in open_still.value.problems] == [("total_missing", True)]
    shares = oil_shares(unfinished, catalogue())
    assert [one.share_percent for one in shares] == pytest.approx([400 / 7, 0.0, 300 / 7])
    assert [one.weight_g for one in shares] == pytest.approx([4000 / 7, 0.0, 3000 / 7])
    weighed = converted(by_weight, "percent_of_oils")
    assert [line.value for line in weighed.lines] == [pytest.approx(400 / 7), None, pytest.approx(300 / 7)]


@pytest.mark.parametrize(
    ("values", "total", "paths"),
    [
        ((-1.0, 50.0), 1000.0, ["blend.lines[0].value"]), ((50.0, 2e9), 1000.0, ["blend.lines[1].value"]),
        ((50.0, 50.0), 2e9, ["blend.total_oils_g"]), ((50.0, 50.0), -1.0, ["blend.total_oils_g"]),
        ((-1.0, -2.0), -3.0, ["blend.lines[0].value", "blend.lines[1].value", "blend.total_oils_g"]),
    ],
)  # fmt: skip
def test_amounts_that_none_can_be_made_of_are_not_converted(values, total, paths):
    with pytest.raises(FormulaError) as caught:
        converted(blend(*values, total=total), "weight_g")
    assert [(one.code, one.path) for one in caught.value.problems] == [("not_shareable", path) for path in paths]
    assert converted(blend(0.0, 1e9, total=1e9), "weight_g").lines[0].value == 0.0


def test_shares_need_a_total_to_become_weights():
    with pytest.raises(FormulaError) as caught:
        converted(blend(50, 50, total=None), "weight_g")
    assert caught.value.problems[0].path == "blend.total_oils_g"


def test_typed_thirds_are_scaled_to_the_whole():
    components = oil_shares(blend(33.33, 33.33, 33.33), catalogue())
    assert sum(component.weight_g for component in components) == pytest.approx(1000, abs=1e-9)


class TestBalanced:
    def test_scales_what_is_free(self):
        assert shares_of(balanced(blend(40, 40, 20, locked=(2,)))) == [40, 40, 20]
        assert shares_of(balanced(blend(30, 30, 20, locked=(2,)))) == [40, 40, 20]

    def test_one_oil_takes_the_difference(self):
        assert shares_of(balanced(blend(34, 35, 26, 5, 5), onto=0)) == [29, 35, 26, 5, 5]

    def test_an_empty_oil_can_take_the_difference(self):
        assert shares_of(balanced(blend(60, None, 30), onto=1)) == [60, 10, 30]

    @given(st.lists(st.floats(0.1, 100), min_size=1, max_size=12))
    def test_always_sums_to_a_hundred(self, shares):
        result = balanced(blend(*shares))
        assert math.isclose(sum(shares_of(result)), 100, abs_tol=1e-5)
        assert all(share >= 0 for share in shares_of(result))

    @pytest.mark.parametrize(
        ("start", "onto", "code"),
        [
            (blend(70, 60, locked=(0, 1)), None, "nothing_to_balance"),
            (blend(110, 5, locked=(0,)), None, "locked_beyond_100"),
            (blend(80, 40), 7, "no_such_line"),
            (blend(80, 40), 2, "no_such_line"),
            (blend(80, 40), -1, "no_such_line"),
            (blend(150, 5), 1, "locked_beyond_100"),
            (converted(blend(60, 40), "weight_g"), None, "no_sum_to_reach"),
        ],
    )
    def test_says_when_it_cannot_be(self, start, onto, code):
        with pytest.raises(FormulaError) as caught:
            balanced(start, onto)
        assert caught.value.problems[0].code == code


def test_a_sketch_leaves_out_what_cannot_be_drawn():
    strata = entered_shares(blend(30, None, 10), catalogue())
    assert [round(component.share_percent) for component in strata] == [75, 25]
    assert entered_shares(blend(None, 0), catalogue()) == ()
