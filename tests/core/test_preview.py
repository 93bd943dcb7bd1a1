"""What is seen of a blend before it is finished."""

import pytest

from conftest import formula_json
from sapolin.core.advice.report import report
from sapolin.core.bar.calculation import calculate
from sapolin.core.bar.preview import preview_of
from sapolin.core.formula.document import Formula
from sapolin.core.materials.catalogue import catalogue


def of(shares, **changes) -> Formula:
    return Formula.model_validate(formula_json(shares, **changes))


def points(seen) -> dict[str, float]:
    return {one.quality: one.points for one in seen.qualities}


def test_half_a_blend_shows_what_the_whole_would_that_is_made_of_it():
    part = of({"olive-refined": 30.0, "coconut": 10.0}, lye={"naoh_purity_percent": None})
    whole = of({"olive-refined": 75.0, "coconut": 25.0})
    seen = preview_of(part, catalogue())
    assert seen.entered_percent == 40.0
    assert points(seen) == pytest.approx(points(calculate(whole)), abs=1e-9)
    assert seen.contributors == ("Olive, refined", "Coconut")


def test_whatever_else_is_missing_or_wrong_the_blend_is_seen():
    broken = of(
        {"coconut": 100.0},
        superfat_percent=None,
        water={"by": "water_to_lye", "value": None},
        liquids=[{"liquid": "milk-goat", "use": "dissolves_lye", "by": "percent_of_water", "value": None}],
    )
    answer = report(broken)
    assert answer.result is None
    assert points(answer.preview)["conditioning"] < 10 < points(answer.preview)["cleansing"]


def test_there_is_nothing_to_see_before_the_first_amount():
    assert preview_of(of({}), catalogue()) is None
    assert preview_of(of({"coconut": None}), catalogue()) is None


def test_what_can_be_calculated_has_no_preview():
    assert report(of({"olive-refined": 75.0, "coconut": 25.0})).preview is None
