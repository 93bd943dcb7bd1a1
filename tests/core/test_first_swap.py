"""The question that a swap begins with: which oil goes, and what that rules out among what comes in."""

import pytest

from core.strategies import weight_formula
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.materials.own import Certificate, OwnMaterial
from sapolin.core.optimise.swap import Outgoing, answer_swap, first_question
from sapolin.core.quantities.diagnostics import FormulaError

BLEND = {"olive-refined": 600.0, "coconut": 250.0, "palm": 100.0, "lard": 50.0}


class TestTheFirstQuestion:
    def first(self, named=None, weights=BLEND, **changes):
        return first_question(weight_formula(weights, **changes), catalogue(), named)

    @pytest.mark.parametrize(
        ("named", "free_of", "out"),
        [
            ("coconut", ["palm"], "coconut"),
            (None, ["palm"], "palm"),
            (None, ["animal"], "lard"),
            (None, ["animal", "palm"], "palm"),
            (None, [], "olive-refined"),
            ("tallow-beef", [], "olive-refined"),
        ],
    )
    def test_takes_out_what_is_named_or_unwanted_or_comes_first(self, named, free_of, out):
        assert self.first(named, free_of=free_of).outgoing == (Outgoing(oil=out, keep_percent=0.0),)

    def test_names_what_the_principle_rules_out(self):
        assert self.first("palm").free_of == ("palm",)
        assert self.first("lard").free_of == ("animal",)
        assert self.first("coconut").free_of == ()

    def test_can_be_answered_as_it_is(self):
        answer = answer_swap(self.first("palm"))
        assert answer.candidates
        assert all("palm" not in oil.oil for one in answer.candidates for oil in one.incoming)

    def test_passes_over_a_material_that_cannot_be(self):
        lost = OwnMaterial(id="own-1", name="Lost", content=Certificate(kind="certificate", of="no-such-oil"))
        first = self.first(weights={"own-1": 500.0, "palm": 500.0}, free_of=["palm"], materials=(lost,))
        assert first.outgoing[0].oil == "palm"
        assert self.first("own-1", weights={"own-1": 500.0}, materials=(lost,)).free_of == ()

    def test_needs_an_oil_to_take_out(self):
        with pytest.raises(FormulaError) as error:
            self.first(weights={})
        assert [one.code for one in error.value.problems] == ["no_oils"]
