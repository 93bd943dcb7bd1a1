"""The bands a soap is held against: those of its purpose, or the maker's own in their place."""

import pytest

from core.strategies import weight_formula
from sapolin.core.changes import changes_between
from sapolin.core.problems import FormulaError
from sapolin.core.qualities import purposes
from sapolin.core.reckoning import reckon
from sapolin.core.swapping import Outgoing, SwapQuestion, answer_swap
from sapolin.core.trades import best_trades

GUEST = {"olive-refined": 340.0, "palm": 300.0, "coconut": 260.0, "shea": 50.0, "castor": 50.0}


def guest(*bands: tuple[str, float, float]):
    return weight_formula(
        GUEST, bands=[{"quality": quality, "minimum": low, "maximum": high} for quality, low, high in bands]
    )


def standing(formula, quality: str) -> tuple[str, float]:
    figure = next(figure for figure in reckon(formula).qualities if figure.quality == quality)
    return figure.standing, figure.outside_by


def test_without_own_bands_those_of_the_purpose_hold():
    band = purposes()["everyday-body"].bands[0]
    assert weight_formula(GUEST).band(band.quality) == band


def test_own_bands_replace_all_of_the_purpose():
    assert standing(weight_formula(GUEST), "cleansing") == ("above", 2.0)
    own = guest(("cleansing", 18, 24), ("hardness", 50, 60))
    assert standing(own, "cleansing") == ("in", 0.0)
    assert standing(own, "hardness")[0] == "below"
    assert standing(own, "conditioning") == ("no band", 0.0)
    assert standing(guest(), "cleansing") == ("no band", 0.0)


def test_trades_and_swaps_go_by_the_own_bands():
    assert best_trades(guest(("cleansing", 18, 24))) == ()
    assert best_trades(guest(("cleansing", 30, 40)))[0].take == "coconut"

    def cleansing_after(formula) -> float:
        answer = answer_swap(SwapQuestion(formula=formula, outgoing=(Outgoing(oil="palm"),)))
        return next(f.points for f in answer.candidates[0].figures.qualities if f.quality == "cleansing")

    assert cleansing_after(guest(("cleansing", 25, 30))) > cleansing_after(guest(("cleansing", 5, 15))) + 1


@pytest.mark.parametrize(
    ("bands", "field", "code"),
    [
        ([("hardness", 30, 40), ("sparkle", 1, 2)], "bands[1]", "unknown_band"),
        ([("hardness", 30, 40), ("hardness", 35, 45)], "bands[1]", "unknown_band"),
    ],
)
def test_bands_that_cannot_be_are_refused_where_they_are(bands, field, code):
    with pytest.raises(FormulaError) as refused:
        reckon(guest(*bands))
    assert [(problem.field, problem.code) for problem in refused.value.problems] == [(field, code)]


def test_a_band_the_wrong_way_round_is_asked_about_and_stops_no_lye():
    figures = reckon(guest(("hardness", 48, 36), ("cleansing", 5, 15)))
    assert [(problem.field, problem.code) for problem in figures.cautions] == [("bands[0]", "band_upside_down")]
    assert figures.lye.naoh_g == reckon(weight_formula(GUEST)).lye.naoh_g
    bands = {figure.quality: figure.band for figure in figures.qualities}
    assert bands["hardness"] is None
    assert bands["cleansing"] is not None


def test_a_change_of_bands_is_told():
    assert changes_between(weight_formula(GUEST), guest(("hardness", 30, 40))) == ("own bands",)
    assert changes_between(guest(("hardness", 30, 40)), weight_formula(GUEST)) == ("bands of the purpose",)
