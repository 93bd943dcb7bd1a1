"""The checks of a caustic quantity: each notices what the others may not, and none objects to what is right."""

import re
from dataclasses import replace

import pytest
from hypothesis import given, settings

from core.strategies import laden_formulas, weight_formula
from sapolin.core.formula.composition import Composition
from sapolin.core.formula.document import Formula
from sapolin.core.formula.verify import CausticCheckError, lye_is_possible, verify_lye
from sapolin.core.materials.catalogue import Catalogue, catalogue
from sapolin.core.materials.fatty_acids import sap_of_triglyceride_koh_mg_per_g
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
        {"naoh": 0.9, "koh": 1.4}, {"naoh": 0.9995, "koh": 1.002},
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
    with pytest.raises(CausticCheckError, match="by their fatty acids") as fault:
        verify_lye(Composition.of_formula(asked, oils), asked)
    # A kilogram: 209 g by the slipped value, about 190 by the acids.
    said = re.search(r"take (.+) g of KOH by their SAP values, (.+) g by", str(fault.value))
    by_sap_g, by_acids_g = map(float, said.groups())
    assert by_sap_g == pytest.approx(209.0)
    assert by_acids_g == pytest.approx(190.0, rel=0.02)
    profile = [acid.typical for acid in olive.acids_percent]
    of_acids = sap_of_triglyceride_koh_mg_per_g(profile, olive.unsaponifiable_percent.typical)
    assert by_acids_g == pytest.approx(of_acids, rel=1e-6)


def test_no_oils_take_a_third_of_their_weight_in_lye():
    right = composition(weight_formula({"olive-refined": 1000.0}))
    assert lye_is_possible(right)
    # 134.3 g pure NaOH saponify it all; 0.30 g per g of oil is beyond any fat.
    assert lye_is_possible(with_lye(right, naoh=299.0 / right.naoh.pure_g))
    assert not lye_is_possible(with_lye(right, naoh=301.0 / right.naoh.pure_g))
    assert not lye_is_possible(with_lye(right, naoh=0.0))


def test_acids_may_take_more_lye_than_the_oils_could():
    """A thousand grams of oil take 300 g at the very most; 100 g of citric acid, of which a mole of 192.12 g takes three of
    39.997 g, take 62.46 g more by the table, and a thousandth for its rounding."""
    acid = [{"additive": "citric-acid", "by": "weight_g", "value": 100.0, "compensated": True}]
    right = composition(weight_formula({"olive-refined": 1000.0}, additives=acid))
    table_g = 100 * round(3 * 39.997 / 192.124, 4)
    assert lye_is_possible(with_lye(right, naoh=(300 + 1.0005 * table_g) / right.naoh.pure_g))
    assert not lye_is_possible(with_lye(right, naoh=(300 + 1.003 * table_g) / right.naoh.pure_g))


def test_a_batch_for_a_doll_passes():
    asked = weight_formula({"olive-refined": 5.0})
    assert composition(asked).naoh.pure_g < 1
    verify_lye(composition(asked), asked)


def test_a_fault_tells_its_weights():
    """SAP 190: a kilogram of olive oil takes 190 · 39.997 / 56.1056 = 135.45 g of pure NaOH; 128.7 g leave 5 % of it."""
    asked = weight_formula({"olive-refined": 1000.0}, additives=[
        {"additive": "citric-acid", "by": "weight_g", "value": 10.0, "compensated": True}
    ])  # fmt: skip
    with pytest.raises(CausticCheckError) as fault:
        verify_lye(with_lye(composition(asked), naoh=1.1), asked)
    weighed_g, wanted_g = (float(figure) for figure in re.findall(r"(\d+\.\d+) g", str(fault.value))[:2])
    wanted_by_hand_g = 0.95 * 190 * 39.997 / 56.1056 + 10 * 3 * 39.997 / 192.124
    assert wanted_g == pytest.approx(wanted_by_hand_g, rel=1e-3)
    assert weighed_g == pytest.approx(1.1 * wanted_by_hand_g, rel=1e-3)


@pytest.mark.parametrize("changed", [{"purity_percent": 0.0}, {"purity_percent": 100.5}, {"weight_g": -1.0}])
def test_no_lye_is_pure_beyond_all_or_weighs_less_than_nothing(changed):
    asked = weight_formula({"olive-refined": 1000.0})
    right = composition(asked)
    naoh, koh = right.lyes
    with pytest.raises(CausticCheckError, match="no lye weighs or is pure like"):
        verify_lye(replace(right, lyes=(naoh._replace(**changed), koh)), asked)


def test_a_lye_of_half_a_percent_is_calculated_right_if_it_is_asked_for():
    asked = weight_formula({"olive-refined": 1000.0}, lye={"naoh_purity_percent": 0.5})
    verify_lye(composition(asked), asked)
