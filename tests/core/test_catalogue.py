"""The catalogue must agree with its own chemistry."""

import pytest

from sapolin.core.bar.qualities import qualities
from sapolin.core.formula.purposes import purposes
from sapolin.core.materials.audit import audit
from sapolin.core.materials.catalogue import Catalogue, catalogue, sources
from sapolin.core.materials.fatty_acids import ACIDS
from sapolin.core.quantities.model import Range

OILS = list(catalogue().values())
EACH_OIL = pytest.mark.parametrize("oil", OILS, ids=lambda oil: oil.id)


def test_the_most_used_fats_are_there():
    assert len(OILS) >= 110
    assert len(OILS) == len({oil.id for oil in OILS}) == len({oil.name for oil in OILS})
    assert {"olive-refined", "coconut", "palm", "shea", "castor", "lard", "tallow-beef"} <= set(catalogue())


def test_every_row_passes_the_audit():
    rows = audit(catalogue())
    assert {row.oil: row.faults for row in rows if row.faults} == {}
    assert len(rows) == len(OILS)


@pytest.mark.parametrize(
    ("oil", "change", "fault"),
    [
        ("olive-refined", {"sap_koh_mg_per_g": Range.parse("178")}, "SAP 178 listed"),
        ("olive-refined", {"iodine_value": Range.parse("110")}, "iodine value 110 listed"),
        ("olive-refined", {"other_percent": 9.0}, "acids and other sum to"),
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
