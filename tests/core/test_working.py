"""Every figure can be explained, and the explanation gives the figure."""

import math

import pytest
from hypothesis import given, settings

from core.strategies import formulas
from sapolin.core.lye import CausticCheckError, verify_naoh
from sapolin.core.reckoning import Reckoning, reckon
from sapolin.core.working import UnknownFigureError, explain, figure_ids


def reckoned(bar: Reckoning, figure: str) -> float:
    if figure.startswith("acid:"):
        return next(share.percent for share in bar.acids if share.acid == figure.removeprefix("acid:"))
    for holder in (bar, bar.lye, bar.water, bar.readings):
        if hasattr(holder, figure):
            return getattr(holder, figure)
    return next(entry.points for entry in bar.qualities if entry.quality == figure)


@given(formulas())
@settings(max_examples=15)
def test_every_working_ends_at_the_figure_on_screen(formula):
    bar = reckon(formula)
    for figure in figure_ids():
        assert math.isclose(explain(formula, figure).value, reckoned(bar, figure), rel_tol=1e-12, abs_tol=1e-12)


# The parts of these sum to something that the rule then turns into the figure.
SUMS_TO = {"naoh_g": lambda bar: bar.lye.koh_equivalent_g, "sap_koh_mg_per_g": lambda bar: bar.lye.koh_equivalent_g}


@given(formulas())
@settings(max_examples=15)
def test_the_parts_of_a_working_sum_to_what_it_says(formula):
    bar = reckon(formula)
    for figure in figure_ids():
        working = explain(formula, figure)
        if working.terms:
            total = SUMS_TO.get(figure, lambda _, value=working.value: value)(bar)
            assert math.isclose(sum(term.value for term in working.terms), total, rel_tol=1e-9, abs_tol=1e-9)


def test_a_working_shows_the_numbers_that_went_in(make_formula):
    working = explain(make_formula(), "naoh_g")
    assert working.terms[1].expression == "250.0 g × 257 / 1000"
    assert working.substituted == "206.25 g KOH × 0.71289 × (1 − 5/100) / (99/100)"
    assert any("99 % pure" in line for line in working.assumes)
    assert {"iso-3657", "ciaaw", "codex-210"} <= {source.id for source in working.sources}


def test_an_unknown_figure_is_refused(make_formula):
    with pytest.raises(UnknownFigureError):
        explain(make_formula(), "magic")


@pytest.mark.parametrize(
    "wrong", [{"naoh_g": 150.0}, {"naoh_g": -141.09}, {"koh_g": 205.0}, {"purity_percent": 98.0}, {"oils_g": 400.0}]
)
def test_a_lye_figure_that_fails_its_check_is_never_shown(wrong):
    right = {"naoh_g": 141.0918, "koh_g": 206.25, "oils_g": 1000.0, "superfat_percent": 5.0, "purity_percent": 99.0}
    from sapolin.core.lye import naoh_to_weigh_g

    right["naoh_g"] = naoh_to_weigh_g(206.25, 5.0, 99.0)
    verify_naoh(right.pop("naoh_g"), **right)
    naoh_g = wrong.get("naoh_g", naoh_to_weigh_g(206.25, 5.0, 99.0))
    with pytest.raises(CausticCheckError):
        verify_naoh(naoh_g, **(right | {key: value for key, value in wrong.items() if key != "naoh_g"}))
