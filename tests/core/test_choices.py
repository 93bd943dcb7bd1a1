"""Choices have words for every value that the models take, and no others; a new formula is a sound beginning."""

from typing import get_args

import pytest

from sapolin.core.batch.moulds import Shape
from sapolin.core.batch.plan import Choices
from sapolin.core.formula.check import problems_of
from sapolin.core.formula.document import Process, WashWater
from sapolin.core.formula.starting import LyesWithKoh, starting_formula, starting_koh
from sapolin.core.guide.schools import Schools
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.optimise.swap.question import Reason, School, ruled_out
from sapolin.core.preparations.plan import DilutionPlan, RebatchPlan
from sapolin.core.quantities.choices import choices

LITERALS = {
    "reason": Reason,
    "swap_school": School,
    "apart": Choices.model_fields["school"].annotation,
    **{
        name: Choices.model_fields[name].annotation
        for name in ("milk", "lye", "scent_at", "extras_at", "weigh_into", "top", "cover", "mixing")
    },
    "method": Process.model_fields["method"].annotation,
    "gel": Process.model_fields["gel"].annotation,
    "wash_water": WashWater,
    "liquid_style": DilutionPlan.model_fields["style"].annotation,
    "sized_by": DilutionPlan.model_fields["size_by"].annotation,
    "rebatch_liquid": RebatchPlan.model_fields["liquid"].annotation,
    "indices": Schools.model_fields["indices"].annotation,
}

SHAPES = {kind for shape in get_args(get_args(Shape)[0]) for kind in get_args(shape.model_fields["kind"].annotation)}


def test_every_choice_has_its_words_and_there_are_no_others():
    known = choices()
    values = {about: set(get_args(literal)) for about, literal in LITERALS.items()} | {"mould_shape": SHAPES}
    assert set(known) == set(values)
    for about, expected in values.items():
        assert {choice.value for choice in known[about]} == expected, about
        assert all(choice.label for choice in known[about])
        assert all(choice.meaning == "" or choice.meaning.endswith(".") for choice in known[about])


def test_a_new_formula_lacks_its_oils_and_its_purity_alone():
    assert {problem.path for problem in problems_of(starting_formula(), catalogue())} <= {
        "blend.lines", "lye.naoh_purity_percent",
    }  # fmt: skip


@pytest.mark.parametrize(
    ("oil", "reason", "expected"),
    [
        ("palm", "principle", {"palm"}),
        ("palm", "allergy", set()),
        ("palm", "price", set()),
        ("lard", "principle", {"animal"}),
        ("olive-refined", "vegan", {"animal"}),
        ("almond-sweet", "allergy", {"tree nuts"}),
        ("almond-sweet", "principle", set()),
    ],
)
def test_what_a_reason_rules_out(oil, reason, expected):
    assert set(ruled_out(catalogue()[oil], reason)) == expected


def test_koh_joins_with_a_tenth_or_takes_the_place_of_all():
    assert {lyes: starting_koh(lyes).value for lyes in get_args(LyesWithKoh)} == {"both": 10.0, "koh": 100.0}
    assert starting_koh("koh").purity_percent is None
