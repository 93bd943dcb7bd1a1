"""What Sapolin says: whole sentences with a remedy, units with a space, no stray result, whatever the formula."""

import re
from collections.abc import Sequence

import pytest
from hypothesis import assume, given, settings

from core.strategies import laden_formulas
from sapolin.core.advice.report import report
from sapolin.core.bar.qualities import qualities
from sapolin.core.formula.purposes import purposes
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.materials.ingredients import additives, colorants, liquids, scents
from sapolin.core.optimise.trades import best_trades
from sapolin.core.quantities.diagnostics import Diagnostic, FormulaError
from sapolin.core.quantities.text import plain

SENTENCE = re.compile(r"^[A-Z0-9“−].*[.!?”]$", re.DOTALL)
FAULTS = {
    "a doubled space": re.compile(r"\S {2,}\S"),
    "a number that is none": re.compile(r"\b(nan|inf|None|True|False)\b"),
    "a binary fraction": re.compile(r"\d\.\d{7,}"),
    "a unit without a space": re.compile(r"\d(g|mL|°C)\b"),
    "a stray brace": re.compile(r"[{}]"),
    "a doubled stop": re.compile(r"\.\.(?!\.)|,,|;;"),
    "an exponent": re.compile(r"\d[eE][+-]?\d"),
}


def assert_well_said(text: str, *, whole: bool = True) -> None:
    for fault, pattern in FAULTS.items():
        assert not pattern.search(text), f"{fault} in {text!r}"
    assert text == text.strip()
    if whole:
        assert SENTENCE.match(text), f"not a sentence: {text!r}"


def assert_messages_well_said(diagnostics: Sequence[Diagnostic]) -> None:
    for one in diagnostics:
        assert_well_said(plain(one.message))
        for words in (one.reason, one.remedy):
            if words:
                assert_well_said(plain(words))
                assert_well_said(plain(words, "oz", "F"))


class TestCalculations:
    @settings(max_examples=60)
    @given(laden_formulas())
    def test_diagnostics(self, formula):
        said = report(formula)
        assert_messages_well_said(said.diagnostics)
        if said.result is not None:
            for adjustment in said.result.adjustments:
                assert_well_said(adjustment.reason)
                for weights in ("g", "oz"):
                    assert_well_said(plain(adjustment.state, weights), whole=False)

    @settings(max_examples=25)
    @given(laden_formulas())
    def test_trades_name_oils_of_the_catalogue(self, formula):
        try:
            trades = best_trades(formula)
        except FormulaError:
            assume(False)
            raise
        for trade in trades:
            assert trade.give_name == catalogue()[trade.give].name
            assert trade.take_name == catalogue()[trade.take].name
            assert 0 < trade.points <= 5 + 1e-9


class TestTables:
    """What stands in the tables is shown as it is."""

    @pytest.mark.parametrize("oil", catalogue().values(), ids=lambda oil: oil.id)
    def test_oils(self, oil):
        assert_well_said(oil.name, whole=False)
        assert oil.name[0].isupper()
        assert oil.inci

    @pytest.mark.parametrize("additive", additives().values(), ids=lambda additive: additive.id)
    def test_additives(self, additive):
        for text in (additive.name, additive.preparation, additive.effect):
            assert_well_said(text, whole=False)
        assert not additive.preparation.endswith(".")
        assert additive.g_per_tsp > 0
        assert additive.usual_minimum_percent <= additive.usual_maximum_percent

    @pytest.mark.parametrize("liquid", liquids().values(), ids=lambda liquid: liquid.id)
    def test_liquids(self, liquid):
        assert_well_said(liquid.name, whole=False)
        fat = liquid.fat_percent
        assert 0 <= fat.minimum <= fat.typical <= fat.maximum <= 100
        shares = (liquid.water_percent, fat.typical, liquid.sugar_percent, liquid.protein_percent)
        assert all(0 <= share <= 100 for share in shares)
        assert sum(shares) <= 100

    @pytest.mark.parametrize("scent", scents().values(), ids=lambda scent: scent.id)
    def test_scents(self, scent):
        assert_well_said(scent.about, whole=False)
        assert 0 < scent.usual_minimum_percent <= scent.usual_maximum_percent <= 5
        assert 0.8 <= scent.density_g_per_ml <= 1.2

    @pytest.mark.parametrize("colorant", colorants().values(), ids=lambda colorant: colorant.id)
    def test_colorants(self, colorant):
        assert_well_said(colorant.name, whole=False)
        assert colorant.disperse_in
        assert colorant.hue_degrees is None or 0 <= colorant.hue_degrees < 360
        assert 0.5 <= colorant.g_per_tsp <= 12

    @pytest.mark.parametrize("purpose", purposes().values(), ids=lambda purpose: purpose.id)
    def test_purposes(self, purpose):
        assert_well_said(purpose.summary)
        for target_range in purpose.target_ranges:
            assert target_range.quality in qualities()
            assert 0 <= target_range.minimum < target_range.maximum <= 100
