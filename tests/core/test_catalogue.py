"""The catalogue must agree with its own chemistry."""

import pytest

from core.strategies import weight_formula
from sapolin.core.advice.report import report
from sapolin.core.bar.qualities import qualities
from sapolin.core.formula.document import FREE_OF_TOGETHER
from sapolin.core.formula.purposes import purposes
from sapolin.core.materials.audit import audit
from sapolin.core.materials.catalogue import Catalogue, catalogue, sources
from sapolin.core.materials.fatty_acids import ACIDS, sap_of_free_acids_koh_mg_per_g
from sapolin.core.materials.ingredients import scents
from sapolin.core.quantities.model import Range

OILS = list(catalogue().values())
EACH_OIL = pytest.mark.parametrize("oil", OILS, ids=lambda oil: oil.id)


def test_the_most_used_fats_are_there():
    assert len(OILS) >= 110
    assert len(OILS) == len({oil.id for oil in OILS}) == len({oil.name for oil in OILS})
    assert {"olive-refined", "coconut", "palm", "shea", "castor", "lard", "tallow-beef"} <= set(catalogue())


@pytest.mark.parametrize(
    ("oil", "group"),
    [
        ("coconut", "lauric"), ("palm", "palmitic"), ("shea", "stearic"), ("cocoa", "stearic"), ("castor", "ricinoleic"),
        ("olive-refined", "oleic"), ("sunflower", "linoleic"), ("flax", "linolenic"), ("beeswax", "palmitic"),
    ],
)  # fmt: skip
def test_the_acids_that_make_an_oil_what_it_is(oil, group):
    """Shea and palm hold more oleic acid than any other, but not what makes them firm."""
    assert catalogue()[oil].group == group


def test_every_row_passes_the_audit():
    rows = audit(catalogue())
    assert {row.oil: row.faults for row in rows if row.faults} == {}
    assert len(rows) == len(OILS)


OLEIC_BEYOND_ALL = tuple(Range.parse("101.4" if one.id == "C18:1" else "0") for one in ACIDS)


@pytest.mark.parametrize(
    ("oil", "change", "fault"),
    [
        ("olive-refined", {"sap_koh_mg_per_g": Range.parse("178")}, "SAP 178 listed"),
        ("olive-refined", {"iodine_value": Range.parse("110")}, "iodine value 110 listed"),
        ("olive-refined", {"other_percent": 9.0}, "acids and other sum to"),
        ("olive-refined", {"acids_percent": OLEIC_BEYOND_ALL}, "acids sum to 101.4 %"),
        ("stearic-acid", {"kind": "triglyceride"}, "SAP 208 listed"),
        ("stearic-acid", {"sap_koh_mg_per_g": Range.parse("190")}, "SAP 190 listed"),
        ("beeswax", {"sap_koh_mg_per_g": Range.parse("190")}, "no wax has that"),
        ("beeswax", {"unsaponifiable_percent": Range.parse("2")}, "is none"),
        ("shea", {"iodine_value": Range.parse("90")}, "iodine value 90 listed"),
        ("tamanu", {"audit_note": ""}, "SAP 196 listed"),
    ],
)
def test_the_audit_finds_a_slip(oil, change, fault):
    crooked = catalogue()[oil].model_copy(update=change)
    faults = audit(Catalogue((crooked,)))[0].faults
    assert any(fault in found for found in faults)


def test_what_is_no_soap_takes_no_part_in_the_audit():
    """An oil of oleic acid alone, a fifth of it unsaponifiable: iodine value 86.0 of the glyceride, four fifths of that."""
    olive = catalogue()["olive-refined"]
    shares = tuple(Range.parse("100" if one.id == "C18:1" else "0") for one in ACIDS)
    half = olive.model_copy(update={"acids_percent": shares, "unsaponifiable_percent": Range.parse("20")})
    [row] = audit(Catalogue((half,)))
    assert row.iodine_computed == pytest.approx(86.0 * 0.8, abs=0.05)
    # Triolein: three times 56.1056 g of KOH for 885.43 g.
    assert row.sap_computed_koh_mg_per_g == pytest.approx(3 * 56_105.6 / 885.43 * 0.8, rel=1e-3)


def test_a_free_acid_is_audited_by_its_molar_mass():
    """Stearic acid alone, a tenth of it no acid: 56.1056 g of KOH for 284.48 g, nine tenths of that."""
    shares = tuple(Range.parse("100" if one.id == "C18:0" else "0") for one in ACIDS)
    change = {"acids_percent": shares, "unsaponifiable_percent": Range.parse("10")}
    [row] = audit(Catalogue((catalogue()["stearic-acid"].model_copy(update=change),)))
    assert row.sap_computed_koh_mg_per_g == pytest.approx(56_105.6 / 284.48 * 0.9, rel=1e-4)
    assert row.iodine_computed == 0
    # Oleic acid in its place: 253.81 g of iodine on 282.47 g, nine tenths of that.
    shares = tuple(Range.parse("100" if one.id == "C18:1" else "0") for one in ACIDS)
    [row] = audit(Catalogue((catalogue()["stearic-acid"].model_copy(update=change | {"acids_percent": shares}),)))
    assert row.iodine_computed == pytest.approx(100 * 253.81 / 282.47 * 0.9, rel=1e-4)


def test_of_a_wax_only_the_acids_count_in_a_blend():
    beeswax = catalogue()["beeswax"]
    assert sum(beeswax.profile) == pytest.approx(0.48 * 74)


@EACH_OIL
def test_every_row_is_documented(oil):
    assert set(oil.sources) <= set(sources())
    assert oil.sources
    assert oil.inci
    assert oil.inci_sodium_soap.startswith("Sodium ")
    assert oil.inci_potassium_soap == oil.inci_sodium_soap.replace("Sodium", "Potassium", 1)
    assert oil.jobs


def test_solid_oils_melt_above_room_temperature():
    for oil in OILS:
        assert oil.is_hard == (oil.melting_c.typical > 20), oil.id


@pytest.mark.parametrize("cell", ["190 (200..210)", "190 (184-196)", "much", ""])
def test_a_crooked_cell_is_refused(cell):
    with pytest.raises(ValueError, match=r".+"):
        Range.parse(cell)


def test_target_ranges_name_known_qualities_and_are_the_right_way_up():
    for purpose in purposes().values():
        for target_range in purpose.target_ranges:
            quality = qualities()[target_range.quality]
            assert quality.axis_minimum <= target_range.minimum < target_range.maximum <= quality.axis_maximum


def test_double_bonds_and_molar_masses_belong_together():
    # two hydrogens fewer for every double bond, CH2 for every carbon, one oxygen for the hydroxyl
    for acid in ACIDS:
        formula_mass = acid.carbons * 14.0266 + 31.9988 - 2.01588 * acid.double_bonds + 15.9994 * acid.hydroxyls
        assert acid.molar_mass_g_per_mol == pytest.approx(formula_mass, abs=0.03)


class TestOrigins:
    """What a label or a customer asks of a material."""

    def test_beer_holds_gluten(self):
        beer = {"liquids": [{"liquid": "beer", "use": "dissolves_lye", "by": "weight_g", "value": 50.0}]}
        for word in FREE_OF_TOGETHER["gluten"]:
            found = report(weight_formula({"olive-refined": 500.0}, free_of=[word], **beer)).diagnostics
            assert ("unwanted" in {one.code for one in found}) == (word in ("barley", "wheat"))

    def test_glycerin_may_be_of_palm(self):
        glycerin = {"additives": [{"additive": "glycerin", "by": "percent_of_oils", "value": 2.0}]}
        found = report(weight_formula({"olive-refined": 500.0}, free_of=["palm"], **glycerin)).diagnostics
        assert "perhaps_unwanted" in {one.code for one in found}

    def test_names_of_soaps_that_are_built_here_say_so(self):
        oils = catalogue()
        assert oils["olive-refined"].inci_soap == oils["sunflower"].inci_soap == "listed"
        assert oils["sunflower"].inci_sodium_soap == "Sodium Sunflowerseedate"
        assert oils["tucuma"].inci_soap == oils["chia"].inci_soap == "constructed"

    def test_what_is_to_be_named_of_a_scent_goes_by_one_list(self):
        named = {word for scent in scents().values() for word in scent.declarable}
        assert {"linalyl acetate", "menthol", "camphor", "vanillin", "pinene"} <= named
        assert named == {word.lower().strip() for word in named}


def test_the_two_soy_waxes_melt_apart():
    hard, soft = catalogue()["soy-wax"].melting_c, catalogue()["soy-wax-soft"].melting_c
    assert (hard.minimum, hard.maximum) == (66.0, 70.0)
    assert soft.maximum < hard.minimum


def test_a_wax_is_not_measured_by_its_acids_and_says_why():
    reasons = {row.oil: row.reason for row in audit(catalogue())}
    assert reasons["jojoba"].startswith("a wax: ")
    assert reasons["coconut"] == catalogue()["coconut"].audit_note


def test_no_row_asks_for_more_lye_than_its_acids_do():
    """The audit is signed: more than 1 % above is a fault, unless the row states why."""
    above = {row.oil for row in audit(catalogue()) if row.sap_computed_koh_mg_per_g and not row.reason
             and row.sap_listed_koh_mg_per_g > 1.01 * row.sap_computed_koh_mg_per_g}  # fmt: skip
    assert above == set()
    heavy = catalogue()["olive-refined"]
    sap = heavy.sap_koh_mg_per_g.model_copy(update={"typical": 193.5})
    faults = audit(Catalogue((heavy.model_copy(update={"sap_koh_mg_per_g": sap}),)))[0].faults
    assert len(faults) == 1
    assert "193.5 listed" in faults[0]


@pytest.mark.parametrize(
    ("shares", "sap"),
    [
        # 56105.6 over 200.32 and 284.48 g/mol.
        ({"C12:0": 100.0}, 280.08),
        ({"C18:0": 100.0}, 197.22),
        # Half a gram of each holds 2.4960 and 1.7576 mmol.
        ({"C12:0": 50.0, "C18:0": 50.0}, 238.65),
    ],
)
def test_the_sap_value_of_free_acids_by_hand(shares, sap):
    profile = [shares.get(acid.id, 0.0) for acid in ACIDS]
    assert sap_of_free_acids_koh_mg_per_g(profile) == pytest.approx(sap, abs=0.02)
