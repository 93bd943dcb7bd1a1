"""The catalogue must agree with its own chemistry."""

import pytest

from sapolin.core.acids import ACIDS, iodine_value_of, sap_of_triglyceride_koh_mg_per_g
from sapolin.core.catalogue import catalogue, sources
from sapolin.core.model import Range
from sapolin.core.qualities import purposes, qualities

OILS = list(catalogue().values())
EACH_OIL = pytest.mark.parametrize("oil", OILS, ids=lambda oil: oil.id)


def test_the_most_used_fats_are_there():
    assert len(OILS) >= 30
    assert {"olive-refined", "coconut", "palm", "shea", "castor", "lard", "tallow-beef"} <= set(catalogue())


@EACH_OIL
def test_sap_value_follows_from_the_composition(oil):
    computed = sap_of_triglyceride_koh_mg_per_g(oil.profile, oil.unsaponifiable_percent.typical)
    assert computed == pytest.approx(oil.sap_koh_mg_per_g.typical, rel=0.03)


@EACH_OIL
def test_iodine_value_follows_from_the_composition(oil):
    if oil.audit_note.startswith("iodine value"):
        pytest.skip(oil.audit_note)
    assert iodine_value_of(oil.profile) == pytest.approx(oil.iodine_value.typical, rel=0.06, abs=0.5)


@EACH_OIL
def test_acids_account_for_the_fat(oil):
    assert 96 <= sum(oil.profile) <= 101
    assert sum(oil.profile) + oil.other_percent == pytest.approx(100, abs=0.06)


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


def test_bands_name_known_qualities_and_are_the_right_way_up():
    for purpose in purposes().values():
        for band in purpose.bands:
            quality = qualities()[band.quality]
            assert quality.axis_minimum <= band.minimum < band.maximum <= quality.axis_maximum


def test_double_bonds_and_molar_masses_belong_together():
    # two hydrogens fewer for every double bond, CH2 for every carbon, one oxygen for the hydroxyl
    for acid in ACIDS:
        formula_mass = acid.carbons * 14.0266 + 31.9988 - 2.01588 * acid.double_bonds + 15.9994 * acid.hydroxyls
        assert acid.molar_mass_g_per_mol == pytest.approx(formula_mass, abs=0.03)
