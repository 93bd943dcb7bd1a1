"""One lot out of others, and what a supplier's sheet may say: refusals at their edges, and a mixed lot worked by hand."""

from datetime import date

import pytest

from core.test_stock import lot
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.quantities.text import as_entered, number, percent, weight
from sapolin.core.stock.certificate import certificate_problem
from sapolin.core.stock.mixing import MixedPart, master_percent_of, mix_problem, mixed_lot

LAVENDER = {"material": "scent:lavender", "kind": "scent"}
NAOH = {"material": "naoh", "kind": "lye", "purity_percent": 99.0}


def part(grams=100.0, in_hand_g=1000.0, *, is_stopped=False, id_="a", **of):
    return MixedPart(id_, lot(**of), in_hand_g, is_stopped, grams)


def refused(*parts, water_g=0.0):
    problem = mix_problem(parts, water_g)
    return None if problem is None else (problem.code, problem.path)


@pytest.mark.parametrize(
    ("parts", "water_g", "found"),
    [
        ([], 0.0, ("nothing_to_mix", "parts")),
        ([part()], 0.0, None), ([part(), part(material="palm")], 0.0, None),
        ([part(), part(0.0)], 0.0, ("no_amount", "parts[1].grams")), ([part(-1.0)], 0.0, ("no_amount", "parts[0].grams")),
        ([part(is_stopped=True)], 0.0, ("lot_is_stopped", "parts[0].lot_id")),
        ([part(1000.0)], 0.0, None), ([part(), part(1000.1)], 0.0, ("not_so_much_in_hand", "parts[1].grams")),
        ([part(), part(**NAOH)], 0.0, ("not_mixed", "parts")),
        ([part(**NAOH), part(**(NAOH | {"material": "koh", "purity_percent": 90.0}))], 0.0, ("not_mixed", "parts")),
        ([part(**LAVENDER), part(**(LAVENDER | {"material": "scent:mint"}))], 0.0, ("not_mixed", "parts")),
        ([part()], 50.0, ("water_with_lye_only", "water_g")), ([part(**NAOH)], -1.0, ("water_with_lye_only", "water_g")),
        ([part(**(NAOH | {"material": "naoh:50"}))], 10.0, ("water_with_lye_only", "water_g")),
        ([part(**(NAOH | {"material": "naoh:50"}))], 0.0, None),
        ([part(**NAOH), part(**(NAOH | {"purity_percent": 98.0}))], 0.0, ("lyes_of_two_purities", "parts")),
        # 20 to 50 % of lye: 100 g in 400 g of water are 20 %, in 100 g they are 50.
        ([part(**NAOH)], 100.0, None), ([part(**NAOH)], 400.0, None),
        ([part(**NAOH)], 99.0, ("master_lye_strange", "water_g")), ([part(**NAOH)], 401.0, ("master_lye_strange", "water_g")),
        # Weighed to a gram, 50.04 % are 50.
        ([part(50.0, **NAOH), part(50.0, **NAOH)], 99.85, None),
    ],
)  # fmt: skip
def test_what_may_be_mixed(parts, water_g, found):
    assert refused(*parts, water_g=water_g) == found


def test_a_master_lye_that_is_too_strong_says_how_much_water_it_wants():
    problem = mix_problem([part(300.0, **NAOH)], 100.0)
    assert problem.params["share"] == percent(75.0, 1)
    assert (problem.params["low"], problem.params["high"]) == (number(20.0, 0), percent(50.0, 0))
    # 300 g of lye want as much water.
    assert problem.params["more"] == weight(300.0, 0)
    assert mix_problem([part(1000.1)], 0.0).params["left"] == as_entered(1000.0, "g")
    assert mix_problem([part(1.0, -3.0)], 0.0).code == "nothing_in_hand"


@pytest.mark.parametrize(
    ("material", "found"),
    [("naoh:50", 50.0), ("koh:33.3", 33.3), ("naoh", None), ("scent:50", None), ("naoh:", None), ("naoh:a", None),
     ("naoh:1.2.3", None)],
)  # fmt: skip
def test_the_lye_in_a_master_lye(material, found):
    assert master_percent_of(material) == found


def test_a_mixed_lot_by_hand():
    first = part(300.0, id_="a", code="C1", price=20.0, freight=5.0, best_before=date(2027, 3, 1), has_antioxidant=True)
    other = part(100.0, id_="b", code="C2", price=10.0, best_before=date(2027, 1, 1), supplier="Mill")
    made = mixed_lot([first, other], 0.0, "M1", "coconut", "oil", "shelf 2", date(2026, 6, 1))
    assert (made.code, made.material, made.kind, made.place, made.arrived) == (
        "M1",
        "coconut",
        "oil",
        "shelf 2",
        date(2026, 6, 1),
    )
    # 5 kg for 25 are 5 per kg, 0.3 of it; 5 kg for 10 are 2 per kg, 0.1 of it.
    assert (made.amount_g, made.price) == (400.0, pytest.approx(1.7))
    assert made.best_before == date(2027, 1, 1)
    assert not made.has_antioxidant
    assert (made.supplier, made.certificate) == ("", None)
    assert [(one.lot_id, one.code, one.grams) for one in made.parts] == [("a", "C1", 300.0), ("b", "C2", 100.0)]


def test_a_master_lye_weighs_its_water_too_and_a_price_that_is_not_known_stays_so():
    made = mixed_lot([part(200.0, **NAOH), part(50.0, **NAOH)], 250.0, "L", "naoh:50", "lye", "", date(2026, 6, 1))
    assert (made.amount_g, made.purity_percent, made.price, made.best_before) == (500.0, 99.0, None, None)
    half = mixed_lot([part(10.0, price=5.0), part(10.0)], 0.0, "M", "coconut", "oil", "", date(2026, 6, 1))
    assert half.price is None


def test_a_tub_split_in_two_keeps_its_papers():
    whole = part(
        500.0, supplier="Mill", supplier_code="77", certificate={"sap_koh_mg_per_g": 257.0}, has_antioxidant=True
    )
    split = mixed_lot([whole], 0.0, "C7b", "coconut", "oil", "", date(2026, 6, 1))
    assert (split.supplier, split.supplier_code, split.has_antioxidant) == ("Mill", "77", True)
    assert split.certificate == whole.lot.certificate


class TestCertificates:
    """Coconut: SAP 248 to 265; a lot may lie 4 beyond."""

    def problem(self, certificate, **changes):
        return certificate_problem(lot(certificate=certificate, **changes), catalogue().get("coconut"))

    def code(self, certificate, **changes):
        problem = self.problem(certificate, **changes)
        return None if problem is None else problem.code

    def test_the_range_of_the_oil_and_four_beyond(self):
        known = catalogue()["coconut"].sap_koh_mg_per_g
        assert (known.minimum, known.maximum) == (248.0, 265.0)
        found = [self.code({"sap_koh_mg_per_g": sap}) for sap in (243.9, 244.0, 269.0, 269.1)]
        assert found == ["certificate_of_another_oil", None, None, "certificate_of_another_oil"]

    @pytest.mark.parametrize(
        ("sap", "offers"),
        # 257 as g, with a comma to either side, as mg NaOH (183 / 0.7129) and as g NaOH.
        [(0.257, [257.0]), (25.7, [257.0]), (2570.0, [257.0]), (183.0, [256.7]), (0.183, [256.7]), (150.0, [])],
    )
    def test_what_it_may_have_been_meant_as(self, sap, offers):
        assert [one.value for one in self.problem({"sap_koh_mg_per_g": sap}).offers] == offers

    @pytest.mark.parametrize(
        ("certificate", "found"),
        [
            ({"allergens_percent": {"Linalool": 0.0}}, None), ({"allergens_percent": {"Linalool": 100.0}}, None),
            ({"allergens_percent": {"Linalool": -0.1}}, "allergen_share"),
            ({"allergens_percent": {"Linalool": 100.1}}, "allergen_share"),
            ({"allergens_percent": {"Linalool": 60.0, "Limonene": 40.5}}, None),
            ({"allergens_percent": {"Linalool": 60.0, "Limonene": 40.6}}, "allergens_sum"),
            ({"most_percent": 0.0}, "most_of_scent"), ({"most_percent": 0.1}, None), ({"most_percent": 100.0}, None),
            ({"most_percent": 100.1}, "most_of_scent"), ({"sap_koh_mg_per_g": 257.0}, "sap_is_of_oils"), ({}, None),
        ],
    )  # fmt: skip
    def test_of_a_scent(self, certificate, found):
        assert self.code(certificate, kind="scent", material="scent:lavender") == found

    def test_the_sum_is_told_to_a_tenth(self):
        problem = self.problem(
            {"allergens_percent": {"Linalool": 60.0, "Limonene": 40.57}}, kind="scent", material="scent:lavender"
        )
        assert problem.params["total"] == percent(100.57, 1)

    def test_scents_alone_have_allergens_and_a_most(self):
        assert self.code({"most_percent": 5.0}) == "allergens_are_of_scents"
        assert self.code({"allergens_percent": {"Linalool": 5.0}}) == "allergens_are_of_scents"
        assert self.code({"sap_koh_mg_per_g": 257.0, "most_percent": 5.0}) == "allergens_are_of_scents"

    def test_no_sheet_and_an_oil_of_ones_own(self):
        assert certificate_problem(lot(), None) is None
        assert certificate_problem(lot(certificate={"sap_koh_mg_per_g": 90.0}), None) is None
