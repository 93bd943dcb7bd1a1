"""Bad input: each is said once, at its entry, with a way out; and none is moved to fit."""

import pytest

from conftest import formula_json
from sapolin.core.bar.calculation import calculate
from sapolin.core.formula.check import problems_of, state_of
from sapolin.core.formula.document import Formula
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.quantities.diagnostics import FormulaError


def found(formula: Formula) -> list[tuple[str, str, str]]:
    return [(problem.code, problem.severity, problem.field) for problem in problems_of(formula, catalogue())]


def water(by: str, value: float | None) -> dict[str, dict[str, object]]:
    return {"water": {"by": by, "value": value}}


SHARES = {"olive-refined": 70.0, "coconut": 30.0}


@pytest.mark.parametrize(
    ("changes", "expected"),
    [
        ({"shares": {}}, ("no_oils", "incomplete", "blend.lines")),
        ({"shares": {"olive": 100.0}}, ("unknown_oil", "impossible", "blend.lines[0].oil")),
        ({"shares": {"coconut": None}}, ("missing", "incomplete", "blend.lines[0].share_percent")),
        ({"shares": {"coconut": -5.0, "palm": 95.0}}, ("out_of_range", "impossible", "blend.lines[0].share_percent")),
        ({"shares": {"coconut": 60.0, "palm": 39.0}}, ("sum_not_100", "incomplete", "blend.lines")),
        ({"superfat_percent": None}, ("missing", "incomplete", "superfat_percent")),
        ({"superfat_percent": -5.1}, ("out_of_range", "impossible", "superfat_percent")),
        ({"superfat_percent": 40.5}, ("out_of_range", "impossible", "superfat_percent")),
        ({"lye": {"naoh_purity_percent": None}}, ("missing", "incomplete", "lye.naoh_purity_percent")),
        ({"lye": {"naoh_purity_percent": 49.0}}, ("out_of_range", "impossible", "lye.naoh_purity_percent")),
        ({"lye": {"naoh_purity_percent": 101.0}}, ("out_of_range", "impossible", "lye.naoh_purity_percent")),
        (water("water_to_lye", None), ("missing", "incomplete", "water.value")),
        (water("water_to_lye", 0.9), ("water_below_floor", "impossible", "water.value")),
        (water("lye_concentration_percent", 51.0), ("water_below_floor", "impossible", "water.value")),
        (water("percent_of_oils", 5.0), ("water_below_floor", "impossible", "water.value")),
        (water("lye_concentration_percent", 100.0), ("out_of_range", "impossible", "water.value")),
        (water("lye_concentration_percent", 0.0), ("out_of_range", "impossible", "water.value")),
        (water("water_to_lye", -2.0), ("out_of_range", "impossible", "water.value")),
        (water("water_to_lye", 11.0), ("out_of_range", "impossible", "water.value")),
        ({"purpose": "floors"}, ("unknown_purpose", "impossible", "purpose")),
    ],
)  # fmt: skip
def test_one_fault_is_said_once_at_its_entry(make_formula, changes, expected):
    changes = dict(changes)
    shares = changes.pop("shares", None)
    formula = make_formula(shares, **changes)
    assert found(formula) == [expected]
    problem = problems_of(formula, catalogue())[0]
    assert problem.message
    assert problem.remedy
    with pytest.raises(FormulaError):
        calculate(formula)


@pytest.mark.parametrize("total", [0.1, 9.9, 10_000_000.0, -500.0])
def test_absurd_sizes_are_refused(make_formula, total):
    blend = formula_json(SHARES)["blend"] | {"total_oils_g": total}
    assert found(make_formula(blend=blend)) == [("out_of_range", "impossible", "blend.total_oils_g")]


@pytest.mark.parametrize("weight", [-1.0, 600_000.0])
def test_absurd_weights_are_refused_where_they_stand(make_formula, weight):
    blend = {"by": "weight", "lines": [{"oil": "coconut", "weight_g": 500.0}, {"oil": "palm", "weight_g": weight}]}
    assert found(make_formula(blend=blend)) == [("out_of_range", "impossible", "blend.lines[1].weight_g")]


def test_a_tenth_of_a_gram_is_refused_by_weight_too(make_formula):
    blend = {"by": "weight", "lines": [{"oil": "coconut", "weight_g": 0.1}]}
    assert found(make_formula(blend=blend)) == [("out_of_range", "impossible", "blend.lines")]


def test_purity_as_a_fraction_is_recognised_but_not_assumed(make_formula):
    problem = problems_of(make_formula(lye={"naoh_purity_percent": 0.9}), catalogue())[0]
    assert "Did you mean 90 %?" in problem.remedy


def test_several_faults_are_all_said(make_formula):
    formula = make_formula({"coconut": None}, superfat_percent=55.0, lye={"naoh_purity_percent": None})
    assert [field for _, _, field in found(formula)] == [
        "blend.lines[0].share_percent",
        "superfat_percent",
        "lye.naoh_purity_percent",
    ]


@pytest.mark.parametrize(("edge", "purpose"), [(-5.0, "lye-heavy-paste"), (0.0, "face"), (40.0, "face")])
def test_limits_include_their_ends(make_formula, edge, purpose):
    assert calculate(make_formula(superfat_percent=edge, purpose=purpose)).lye.naoh_g > 0


@pytest.mark.parametrize(
    ("changes", "state"),
    [({}, "complete"), ({"superfat_percent": -1.0, "purpose": "lye-heavy-paste"}, "unsafe"),
     ({"superfat_percent": -1.0}, "impossible"), ({"superfat_percent": None}, "incomplete"),
     ({"superfat_percent": 90.0}, "impossible")],
)  # fmt: skip
def test_the_state_is_the_worst_that_was_found(make_formula, changes, state):
    formula = make_formula(**changes)
    assert state_of(formula, problems_of(formula, catalogue())) == state


def test_a_formula_without_oils_is_empty(make_formula):
    formula = make_formula({})
    assert state_of(formula, problems_of(formula, catalogue())) == "empty"


@pytest.mark.parametrize("purity", [1e308, -0.9, 5e-324, 0.0])
def test_only_what_may_be_a_part_is_asked_about(make_formula, purity):
    problem = problems_of(make_formula(lye={"naoh_purity_percent": purity}), catalogue())[0]
    assert problem.code == "out_of_range"
    assert problem.offers == ()
