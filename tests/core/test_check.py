"""Bad input: each is said once, at its entry, with a remedy; and none is moved to fit."""

import pytest

from conftest import formula_json
from sapolin.core.bar.calculation import calculate
from sapolin.core.formula.check import problems_of, state_of
from sapolin.core.formula.document import Formula
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.quantities.diagnostics import FormulaError
from sapolin.core.quantities.text import percent, weight


def found(formula: Formula) -> list[tuple[str, str, str]]:
    """Code, what is wrong with it (open: not entered yet), and where."""
    return [
        (
            problem.code,
            "open" if problem.is_open else "impossible" if problem.stops_calculation else problem.severity,
            problem.path,
        )
        for problem in problems_of(formula, catalogue())
    ]  # fmt: skip


def water(by: str, value: float | None) -> dict[str, dict[str, object]]:
    return {"water": {"by": by, "value": value}}


SHARES = {"olive-refined": 70.0, "coconut": 30.0}


@pytest.mark.parametrize(
    ("changes", "expected"),
    [
        ({"shares": {}}, ("no_oils", "open", "blend.lines")),
        ({"shares": {"olive": 100.0}}, ("unknown_oil", "impossible", "blend.lines[0].oil")),
        ({"shares": {"coconut": None}}, ("missing", "open", "blend.lines[0].value")),
        ({"shares": {"coconut": -5.0, "palm": 95.0}}, ("out_of_range", "impossible", "blend.lines[0].value")),
        ({"shares": {"coconut": 60.0, "palm": 39.0}}, ("sum_not_100", "open", "blend.lines")),
        ({"superfat_percent": None}, ("missing", "open", "superfat_percent")),
        ({"superfat_percent": -5.1}, ("out_of_range", "impossible", "superfat_percent")),
        ({"superfat_percent": 40.5}, ("out_of_range", "impossible", "superfat_percent")),
        ({"lye": {"naoh_purity_percent": None}}, ("missing", "open", "lye.naoh_purity_percent")),
        ({"lye": {"naoh_purity_percent": 49.0}}, ("out_of_range", "impossible", "lye.naoh_purity_percent")),
        ({"lye": {"naoh_purity_percent": 101.0}}, ("out_of_range", "impossible", "lye.naoh_purity_percent")),
        (water("water_to_lye", None), ("missing_water", "open", "water.value")),
        (water("water_to_lye", 0.9), ("water_below_floor", "impossible", "water.value")),
        (water("lye_concentration_percent", 51.0), ("water_below_floor", "impossible", "water.value")),
        (water("percent_of_oils", 5.0), ("water_below_floor", "impossible", "water.value")),
        (water("lye_concentration_percent", 100.0), ("impossible_water", "impossible", "water.value")),
        (water("lye_concentration_percent", 0.0), ("impossible_water", "impossible", "water.value")),
        (water("lye_concentration_percent", 2e-309), ("impossible_water", "impossible", "water.value")),
        (water("water_to_lye", -2.0), ("impossible_water", "impossible", "water.value")),
        (water("water_to_lye", 11.0), ("too_much_water", "impossible", "water.value")),
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
    blend = {
        "lines": [
            {"oil": "coconut", "by": "weight_g", "value": 500.0},
            {"oil": "palm", "by": "weight_g", "value": weight},
        ]
    }
    assert found(make_formula(blend=blend)) == [("out_of_range", "impossible", "blend.lines[1].value")]


def test_a_tenth_of_a_gram_is_refused_by_weight_too(make_formula):
    blend = {"lines": [{"oil": "coconut", "by": "weight_g", "value": 0.1}]}
    assert found(make_formula(blend=blend)) == [("out_of_range", "impossible", "blend.lines")]


def test_purity_as_a_fraction_is_recognised_but_not_assumed(make_formula):
    problem = problems_of(make_formula(lye={"naoh_purity_percent": 0.9}), catalogue())[0]
    assert (problem.code, problem.params["meant"]) == ("out_of_range_fraction", percent(90.0))
    assert [offer.value for offer in problem.offers] == [90.0]


def test_several_faults_are_all_said(make_formula):
    formula = make_formula({"coconut": None}, superfat_percent=55.0, lye={"naoh_purity_percent": None})
    assert [field for _, _, field in found(formula)] == [
        "blend.lines[0].value",
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


def test_a_limit_is_said_in_its_unit(make_formula):
    blend = formula_json(SHARES)["blend"] | {"total_oils_g": 5.0}
    problem = problems_of(make_formula(blend=blend), catalogue())[0]
    assert problem.params["value"] == weight(5.0, 0)
    assert (problem.params["low"], problem.params["high"]) == (weight(10.0, 0), weight(500_000.0, 0))


def test_water_that_cannot_dissolve_the_lye_says_how_much_would(make_formula):
    formula = make_formula(SHARES, water={"by": "water_to_lye", "value": 0.9})
    problem = problems_of(formula, catalogue())[0]
    lye_g = problem.params["lye"].g
    assert problem.params["water"].g == pytest.approx(0.9 * lye_g)
    assert problem.params["percent_of_oils"].value == pytest.approx(100 * lye_g / 1000.0)


class TestBothBases:
    """Some oils by share, some by weight: the weights fill what the shares leave."""

    def lines(self, *entries):
        return {"lines": [dict(zip(("oil", "by", "value"), entry, strict=True)) for entry in entries]}

    def test_weights_fill_what_the_shares_leave(self, make_formula):
        blend = self.lines(
            ("olive-refined", "weight_g", 700.0), ("coconut", "weight_g", 250.0), ("castor", "percent_of_oils", 5.0)
        )
        result = calculate(make_formula(blend=blend))
        assert result.total_oils_g == pytest.approx(1000.0)
        assert [oil.weight_g for oil in result.oils] == pytest.approx([700.0, 250.0, 50.0])

    @pytest.mark.parametrize(
        ("weight_g", "refused"), [(5.1, False), (4.9, True), (249_900.0, False), (250_100.0, True)]
    )
    def test_the_whole_of_them_has_limits(self, make_formula, weight_g, refused):
        """Half by weight, half by share: the whole is twice the weight, from 10 g to 500 kg."""
        blend = self.lines(("olive-refined", "weight_g", weight_g), ("coconut", "percent_of_oils", 50.0))
        assert [one.code for one in problems_of(make_formula(blend=blend), catalogue())] == ["out_of_range"] * refused

    def test_a_part_of_a_percent_counts_too(self, make_formula):
        blend = self.lines(("olive-refined", "weight_g", 995.0), ("castor", "percent_of_oils", 0.5))
        assert [oil.weight_g for oil in calculate(make_formula(blend=blend)).oils] == pytest.approx([995.0, 5.0])

    def test_shares_that_leave_nothing_are_refused(self, make_formula):
        blend = self.lines(("olive-refined", "weight_g", 700.0), ("castor", "percent_of_oils", 100.0))
        assert found(make_formula(blend=blend)) == [("no_room_for_weights", "impossible", "blend.lines")]
