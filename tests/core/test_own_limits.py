"""Materials of the maker's own at the edges of what they may be, and a mixture worked by hand."""

from typing import Any

import pytest

from core.strategies import weight_formula
from sapolin.core.bar.calculation import calculation_of
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.materials.own import OwnMaterial, material_problems, with_materials, with_sound_materials


def own(content: dict[str, Any], id_: str = "own-x", **more: Any) -> OwnMaterial:
    return OwnMaterial.model_validate({"id": id_, "name": "Mine", "content": content} | more)


def codes(*materials: OwnMaterial) -> list[str]:
    return [one.code for one in material_problems(materials, catalogue())]


def by_profile(acids: dict[str, float], **more: Any) -> OwnMaterial:
    return own({"kind": "profile", "acids_percent": acids, "solid_at_20_c": False} | more)


def recipe(*parts: tuple[str, float | None], filler: float = 0.0, **more: Any) -> OwnMaterial:
    components = [{"oil": oil, "share_percent": share} for oil, share in parts]
    return own({"kind": "recipe", "components": components, "filler_percent": filler}, **more)


def test_what_a_profile_does_not_name_is_other_acids():
    oils = with_materials(catalogue(), [by_profile({"C18:1": 90.0, "C16:0": 7.0})])
    assert oils["own-x"].other_percent == pytest.approx(3)


@pytest.mark.parametrize(
    ("sap", "code"),
    [
        (None, "missing_sap"), (79.9, "sap_far_off"), (80.0, None), (400.0, None), (400.1, "sap_far_off"),
        # As NaOH it would be 164.9 to 289.9 in KOH: below 165 no fat lies, and 165 itself is one.
        (117.7, "sap_unusual"), (164.9, "sap_unusual"), (165.0, None), (290.0, None), (300.0, None),
        # A wax: nothing that it may have been meant as lies where fats do.
        (95.0, None), (0.19, "sap_impossible"), (0.135, "sap_impossible"), (19.0, "sap_impossible"), (1900.0, "sap_impossible"),
    ],
)  # fmt: skip
def test_sap_alone(sap, code):
    found = codes(own({"kind": "sap", "sap_koh_mg_per_g": sap, "solid_at_20_c": True}))
    assert found == ([] if code is None else [code])


def test_what_is_not_entered_yet_is_open_and_what_cannot_be_is_not():
    def is_open(sap: float | None) -> list[bool]:
        content = {"kind": "sap", "sap_koh_mg_per_g": sap, "solid_at_20_c": True}
        return [one.is_open for one in material_problems((own(content),), catalogue())]

    assert (is_open(None), is_open(79.9)) == ([True], [False])


@pytest.mark.parametrize(
    ("sap", "offers"),
    [
        # 0.135 g NaOH are 0.1894 g KOH; 0.19 g KOH are 190 mg; 135 mg NaOH are 189.4 mg KOH; a comma to either side.
        (0.135, [189.4]), (0.19, [266.5, 190.0]), (135.0, [189.4]), (19.0, [190.0]), (1900.0, [190.0]), (60.0, []),
    ],
)  # fmt: skip
def test_what_a_sap_value_may_have_been_meant_as(sap, offers):
    [problem] = material_problems([own({"kind": "sap", "sap_koh_mg_per_g": sap, "solid_at_20_c": True})], catalogue())
    assert [one.value for one in problem.offers] == offers


@pytest.mark.parametrize(
    ("acids", "code"),
    [
        ({"C18:1": 100.0}, None), ({"C18:1": 95.0}, None), ({"C18:1": 94.9}, "profile_sum"),
        ({"C18:1": 51.0, "C16:0": 50.0}, None), ({"C18:1": 51.1, "C16:0": 50.0}, "profile_sum"),
        ({"C18:1": 100.0, "C16:0": 0.0}, None), ({"C18:1": 100.1, "C16:0": -0.1}, "acid_out_of_range"),
    ],
)  # fmt: skip
def test_acids(acids, code):
    assert [*dict.fromkeys(codes(by_profile(acids)))] == ([] if code is None else [code])


@pytest.mark.parametrize(
    ("unsaponifiable", "code"),
    [(-0.1, "unsaponifiables_out_of_range"), (0.0, None), (50.0, None), (100.0, "unsaponifiables_out_of_range")],
)
def test_what_no_lye_takes(unsaponifiable, code):
    found = codes(by_profile({"C18:1": 100.0}, unsaponifiable_percent=unsaponifiable))
    assert found == ([] if code is None else [code])


def test_a_sap_value_may_be_three_per_cent_from_that_of_its_acids():
    """Triolein: 3 x 56105.6 / 885.45 = 190.1 mg KOH/g; no part of it is unsaponifiable."""
    triolein = 3 * 56105.6 / 885.45
    for times, code in ((1.0, None), (1.03, None), (1.032, "sap_disagrees"), (0.972, None), (0.97, "sap_disagrees")):
        material = by_profile({"C18:1": 100.0}, unsaponifiable_percent=0.0, sap_koh_mg_per_g=triolein * times)
        assert codes(material) == ([] if code is None else [code]), times
    [doubt] = material_problems([material], catalogue())
    assert doubt.offers[0].value == pytest.approx(triolein, abs=0.1)
    # What is no SAP value of any fat is said as such, and not held against the acids as well.
    assert codes(by_profile({"C18:1": 100.0}, sap_koh_mg_per_g=410.0)) == ["sap_far_off"]
    # Acids that cannot be are said first.
    assert codes(by_profile({"C18:1": 120.0}, sap_koh_mg_per_g=300.0)) == ["acid_out_of_range", "profile_sum"]


@pytest.mark.parametrize(
    ("parts", "filler", "found"),
    [
        ([], 0.0, ["no_components"]),
        ([("olive-refined", 100.0)], 0.0, []),
        ([("olive-refined", 99.95)], 0.0, []), ([("olive-refined", 99.94)], 0.0, ["components_not_100"]),
        ([("olive-refined", 60.0)], 40.0, []), ([("olive-refined", 0.5)], 99.5, []),
        ([("olive-refined", 100.0), ("coconut", 0.0)], 0.0, ["component_out_of_range"]),
        ([("olive-refined", 100.0), ("coconut", None)], 0.0, ["component_out_of_range"]),
        ([("olive-refined", 101.0)], -1.0, ["component_out_of_range", "filler_out_of_range"]),
        ([("olive-refined", 0.04)], 100.0, ["filler_out_of_range"]),
        ([("no-such-oil", 100.0)], 0.0, ["unknown_component"]),
    ],
)  # fmt: skip
def test_parts_of_a_mixture(parts, filler, found):
    assert codes(recipe(*parts, filler=filler)) == found


def test_certificates_are_held_to_the_same():
    def certified(**content: Any) -> list[str]:
        return codes(own({"kind": "certificate", "of": "olive-refined"} | content))

    assert certified() == []
    assert certified(sap_koh_mg_per_g=401.0) == ["sap_far_off"]
    assert certified(acids_percent={"C18:1": 80.0}) == ["profile_sum"]
    assert certified(of="no-such-oil") == ["unknown_certified_oil"]


def test_one_id_names_one_material():
    twice = by_profile({"C18:1": 100.0})
    assert codes(twice, twice) == ["twice", "twice"]
    assert codes(twice) == []


def test_an_exact_value_is_exact_and_a_certified_one_a_hundredth_either_way():
    content = {"sap_koh_mg_per_g": 190.0, "iodine_value": 84.0, "acids_percent": {"C18:1": 72.0, "C16:0": 26.0}}
    oils = with_materials(
        catalogue(), [own({"kind": "certificate", "of": "olive-refined"} | content, allergens="nuts")]
    )
    oil = oils["own-x"]
    assert (oil.sap_koh_mg_per_g.minimum, oil.sap_koh_mg_per_g.maximum) == pytest.approx((188.1, 191.9))
    assert (oil.iodine_value.minimum, oil.iodine_value.typical, oil.iodine_value.maximum) == (84.0, 84.0, 84.0)
    assert (sum(oil.profile), oil.other_percent) == pytest.approx((98.0, 2.0))
    assert oil.allergens == "nuts"


def test_a_mixture_by_hand():
    oils = catalogue()
    olive, palm = oils["olive-refined"], oils["palm"]
    mixed = with_materials(oils, [recipe(("olive-refined", 30.0), ("palm", 50.0), filler=20.0, allergens="dust")])[
        "own-x"
    ]
    for end in ("minimum", "typical", "maximum"):
        assert getattr(mixed.sap_koh_mg_per_g, end) == pytest.approx(
            0.3 * getattr(olive.sap_koh_mg_per_g, end) + 0.5 * getattr(palm.sap_koh_mg_per_g, end)
        )
    assert mixed.iodine_value.typical == pytest.approx(
        0.3 * olive.iodine_value.typical + 0.5 * palm.iodine_value.typical
    )
    # Filler of 0.86 g/mL is a fifth of it.
    assert mixed.density_g_per_ml == pytest.approx(
        0.3 * olive.density_g_per_ml + 0.5 * palm.density_g_per_ml + 0.2 * 0.86
    )
    assert mixed.melting_c.typical == max(olive.melting_c.typical, palm.melting_c.typical)
    assert mixed.shelf_life_months == min(olive.shelf_life_months, palm.shelf_life_months)
    assert mixed.other_percent == pytest.approx(100 - 0.3 * sum(olive.profile) - 0.5 * sum(palm.profile))
    assert {part.oil: part.share_percent for part in mixed.components} == pytest.approx(
        {"olive-refined": 30.0, "palm": 50.0}
    )
    assert (mixed.palm_derived, mixed.vegan, mixed.allergens) == ("yes", "yes", "dust")
    assert mixed.known_profile_percent == pytest.approx(100)


def test_what_is_known_of_the_acids_of_a_mixture_by_hand():
    """A third is known by its SAP value alone: of the rest the acids are known."""
    tin = {"id": "own-tin", "name": "Tin", "content": {"kind": "sap", "sap_koh_mg_per_g": 195.0, "solid_at_20_c": True}}
    parts = [{"oil": "olive-refined", "share_percent": 66.0}, {"oil": "own-tin", "share_percent": 34.0}]
    mix = {"id": "own-mix", "name": "Mix", "content": {"kind": "recipe", "components": parts}}
    known = with_materials(catalogue(), [OwnMaterial.model_validate(one) for one in (tin, mix)])
    assert known["own-mix"].known_profile_percent == pytest.approx(66.0)


@pytest.mark.parametrize(
    ("olive", "palm", "state"), [(49.0, 51.0, "solid"), (51.0, 49.0, "liquid"), (50.0, 50.0, "liquid")]
)
def test_a_mixture_is_solid_where_most_of_it_is(olive, palm, state):
    assert (
        with_materials(catalogue(), [recipe(("olive-refined", olive), ("palm", palm))])["own-x"].state_at_20_c == state
    )


def test_a_blend_with_a_mixture_is_that_of_its_parts():
    """500 g of three parts olive and two of coconut, and 500 g of coconut: 300 g and 700 g."""
    mixed = recipe(("olive-refined", 60.0), ("coconut", 40.0))
    formula = weight_formula({"own-x": 500.0, "coconut": 500.0}, materials=[mixed.model_dump()])
    composition = calculation_of(formula).composition
    assert {one.oil.id: (one.weight_g, one.share_percent) for one in composition.pure_oils} == {
        "olive-refined": pytest.approx((300.0, 30.0)), "coconut": pytest.approx((700.0, 70.0)),
    }  # fmt: skip


def test_lard_makes_a_mixture_animal():
    mixed = with_materials(catalogue(), [recipe(("olive-refined", 90.0), ("lard", 10.0))])["own-x"]
    assert (mixed.origin_kind, mixed.vegan) == ("animal", "no")


def test_what_is_not_sound_is_left_out_altogether():
    good, bad = recipe(("olive-refined", 100.0)), recipe(("olive-refined", 90.0), id_="own-bad")
    assert "own-x" in with_sound_materials(catalogue(), [good])
    assert with_sound_materials(catalogue(), [good, bad]) is catalogue()
    assert with_materials(catalogue(), []) is catalogue()
