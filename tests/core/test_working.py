"""Every figure can be explained, and the explanation gives the figure."""

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from core.strategies import formulas, laden_formulas
from sapolin.core.acids import KOH_G_PER_MOL
from sapolin.core.figures import Reckoning
from sapolin.core.formula import Koh
from sapolin.core.lye import CausticCheckError, verify_lye, weigh_lye
from sapolin.core.reckoning import reckon
from sapolin.core.workings import UnknownFigureError, explain, figure_ids


def reckoned(bar: Reckoning, figure: str) -> float:
    if figure.startswith("acid:"):
        return next(share.percent for share in bar.acids if share.acid == figure.removeprefix("acid:"))
    if figure == "superfat_true_percent":
        return bar.lye.superfat_interval.middle_percent
    for holder in (bar, bar.lye, bar.water, bar.readings, bar.bar, bar.paste):
        if hasattr(holder, figure):
            return getattr(holder, figure)
    return next(entry.points for entry in bar.qualities if entry.quality == figure)


@given(
    st.one_of(
        laden_formulas(), laden_formulas().map(lambda formula: formula.model_copy(update={"purpose": "liquid-soap"}))
    )
)
@settings(max_examples=25)
def test_every_working_ends_at_the_figure_on_screen(formula):
    bar = reckon(formula)
    for figure in figure_ids(formula):
        assert math.isclose(explain(formula, figure).value, reckoned(bar, figure), rel_tol=1e-12, abs_tol=1e-12)


# The parts of these sum to something that the rule then turns into the figure.
SUMS_TO = {
    "naoh_g": lambda bar: bar.lye.koh_equivalent_g,
    "koh_g": lambda bar: bar.lye.koh_equivalent_g,
    "sap_koh_mg_per_g": lambda bar: bar.lye.koh_equivalent_g,
    "superfat_true_percent": lambda bar: 100.0,
}


@given(formulas())
@settings(max_examples=15)
def test_the_parts_of_a_working_sum_to_what_it_says(formula):
    bar = reckon(formula)
    for figure in figure_ids(formula):
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


RIGHT = {"saponified_koh_g": 206.25, "superfat_percent": 5.0, "added_back_naoh_g": 0.0, "oils_g": 1000.0}


@pytest.mark.parametrize(
    "wrong",
    [{"saponified_koh_g": 205.0}, {"superfat_percent": 6.0}, {"added_back_naoh_g": 2.0}, {"oils_g": 400.0}],
)
def test_a_lye_figure_that_fails_its_check_is_never_shown(wrong):
    lye = weigh_lye(206.25 / KOH_G_PER_MOL * 0.95, 99.0, Koh(by="saponification_percent", value=20, purity_percent=90))
    verify_lye(lye, **RIGHT)
    with pytest.raises(CausticCheckError):
        verify_lye(lye, **(RIGHT | wrong))
    with pytest.raises(CausticCheckError):
        verify_lye(lye.model_copy(update={"koh_pure_g": lye.koh_g * 1.01}), **RIGHT)


@pytest.mark.parametrize("figure", ["firmness_at_best", "trace_points"])
def test_a_paste_has_no_bar_to_explain(make_formula, figure):
    with pytest.raises(UnknownFigureError):
        explain(make_formula(purpose="liquid-soap", superfat_percent=2.0), figure)
