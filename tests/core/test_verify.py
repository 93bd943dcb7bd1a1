"""The checks of a caustic quantity: each notices what the others may not, and none objects to what is right."""

from dataclasses import replace

import pytest
from hypothesis import given, settings

from core.strategies import laden_formulas, weight_formula
from sapolin.core.formula.composition import Composition
from sapolin.core.formula.document import Formula
from sapolin.core.formula.verify import CausticCheckError, lye_is_possible, verify_lye
from sapolin.core.materials.catalogue import Catalogue, catalogue
from sapolin.core.quantities.model import Range

OILS = {"olive-refined": 700.0, "coconut": 250.0, "castor": 50.0}
CITRIC = [{"additive": "citric-acid", "by": "percent_of_oils", "value": 1.0, "compensated": True}]


def formula(**changes) -> Formula:
    lye = {"naoh_purity_percent": 98.0, "koh": {"by": "saponification_percent", "value": 20.0, "purity_percent": 90.0}}
    return weight_formula(OILS, lye=lye, additives=CITRIC, **changes)


def composition(asked: Formula) -> Composition:
    return Composition.of_formula(asked, catalogue())


def with_lye(right: Composition, naoh: float = 1.0, koh: float = 1.0, **changes: float) -> Composition:
    lyes = tuple(
        lye._replace(weight_g=lye.weight_g * factor, **changes)
        for lye, factor in zip(right.lyes, (naoh, koh), strict=True)
    )
    return replace(right, lyes=lyes)


@given(laden_formulas())
@settings(max_examples=80)
def test_what_is_right_passes(asked):
    verify_lye(composition(asked), asked)


@pytest.mark.parametrize(
    "wrong",
    [
        {"naoh": 1.001}, {"naoh": 0.999}, {"koh": 1.01}, {"naoh": 1 / 0.98}, {"koh": 1.4027}, {"naoh": -1.0},
        # Each makes up for what the other lacks, so that the hydroxide is right and the share is not.
        {"naoh": 0.9, "koh": 1.4},
        {"purity_percent": 100.0},
    ],
)  # fmt: skip
def test_a_lye_that_is_off_is_never_shown(wrong):
    asked = formula()
    with pytest.raises(CausticCheckError):
        verify_lye(with_lye(composition(asked), **wrong), asked)


@pytest.mark.parametrize(
    "asked", [{"superfat_percent": 6.0}, {"additives": []}, {"lye": {"naoh_purity_percent": 98.0}}]
)
def test_a_composition_of_another_formula_is_never_shown(asked):
    with pytest.raises(CausticCheckError):
        verify_lye(composition(formula()), formula().model_copy(update=Formula.model_validate(
            formula().model_dump() | asked
        ).__dict__))  # fmt: skip


def test_a_sap_value_that_its_fatty_acids_contradict_is_noticed():
    """A slip in the table, a tenth too high: grams agree with grams, and only the acids know better."""
    olive = catalogue()["olive-refined"]
    sap = olive.sap_koh_mg_per_g
    slipped = olive.model_copy(update={"sap_koh_mg_per_g": Range(
        typical=sap.typical * 1.1, minimum=sap.minimum, maximum=sap.maximum * 1.1
    )})  # fmt: skip
    oils = Catalogue((*(oil for oil in catalogue().values() if oil.id != olive.id), slipped))
    asked = weight_formula({"olive-refined": 1000.0})
    with pytest.raises(CausticCheckError, match="by their fatty acids"):
        verify_lye(Composition.of_formula(asked, oils), asked)


def test_no_oils_take_a_third_of_their_weight_in_lye():
    right = composition(weight_formula({"olive-refined": 1000.0}))
    assert lye_is_possible(right)
    # 134.3 g pure NaOH saponify it all; 0.30 g per g of oil is beyond any fat.
    assert lye_is_possible(with_lye(right, naoh=299.0 / right.naoh.pure_g))
    assert not lye_is_possible(with_lye(right, naoh=301.0 / right.naoh.pure_g))
    assert not lye_is_possible(with_lye(right, naoh=0.0))
