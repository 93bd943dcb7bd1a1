"""Effects beside the fatty acids, and what to expect over time: which way each goes, by how much, and the field's spans."""

import itertools

import pytest

from core.strategies import weight_formula
from sapolin.core.bar.calculation import calculate, calculation_of
from sapolin.core.bar.qualities import qualities, spans_of, spans_of_oil
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.materials.fatty_acids import ACIDS
from sapolin.core.quantities.coefficients import coefficients
from sapolin.core.quantities.model import Range
from sapolin.core.quantities.text import plain

GUEST = {"olive-refined": 340.0, "palm": 300.0, "coconut": 260.0, "shea": 50.0, "castor": 50.0}
OLIVE = {"olive-refined": 1000.0}


def effects(adjustment: str, **changes) -> dict[str, float]:
    bar = calculate(weight_formula(GUEST, **changes))
    found = next((entry for entry in bar.adjustments if entry.id == adjustment), None)
    return {} if found is None else {effect.on: effect.points for effect in found.effects}


def additive(name: str, percent: float) -> dict:
    return {"additives": [{"additive": name, "by": "percent_of_oils", "value": percent}]}


def bar(weights=GUEST, **changes):
    return calculate(weight_formula(weights, **changes)).bar


class TestAdjustments:
    def test_superfat_counts_from_five(self):
        assert effects("superfat") == {}
        # three points above: 3 x -0.6, 3 x 0.8, 3 x -0.5, 3 x -0.8, 3 x -0.3
        assert effects("superfat", superfat=8.0) == pytest.approx(
            {"hardness": -1.8, "conditioning": 2.4, "cleansing": -1.5, "open_lather": -2.4, "dense_lather": -0.9}
        )

    def test_what_rounds_to_nothing_is_left_out(self):
        # Four points for a percent: 0.04 points are none, 0.08 are told as 0.1.
        assert effects("sodium_lactate", **additive("sodium-lactate-60", 0.01)) == {}
        assert effects("sodium_lactate", **additive("sodium-lactate-60", 0.02)) == {"firmness_at_unmould": 0.08}

    def test_sodium_lactate_beyond_three_percent_adds_nothing(self):
        assert effects("sodium_lactate", **additive("sodium-lactate-60", 2.0)) == {"firmness_at_unmould": 8.0}
        assert effects("sodium_lactate", **additive("sodium-lactate-60", 9.0)) == {"firmness_at_unmould": 12.0}

    @pytest.mark.parametrize(
        ("adjustment", "changes", "what", "sign"),
        [
            ("water", {"water": {"by": "lye_concentration_percent", "value": 38.0}}, "firmness_at_unmould", 1),
            ("salt", additive("salt", 2.0), "open_lather", -1),
            ("sugar", additive("sugar", 2.0), "open_lather", 1),
            ("gel", {"process": {"gel": "encouraged"}}, "firmness_at_unmould", 1),
            ("gel", {"process": {"gel": "prevented"}}, "firmness_at_unmould", -1),
            ("protein", additive("silk", 0.2), "dense_lather", 1),
        ],
    )
    def test_each_pushes_the_known_way(self, adjustment, changes, what, sign):
        assert effects(adjustment, **changes)[what] * sign > 0

    def test_a_longer_cure_helps_oleic_bars_most(self):
        def gained(weights) -> float:
            found = calculate(weight_formula(weights, process={"cure_weeks": 30.0})).adjustments
            return next((e.points for m in found if m.id == "cure" for e in m.effects), 0.0)

        assert effects("cure") == {}
        assert gained(OLIVE) > 8
        assert gained(OLIVE) > 5 * gained({"coconut": 1000.0})
        shorter = effects("cure", process={"cure_weeks": 2.0})
        assert shorter["firmness_after_cure"] < 0

    def test_they_never_touch_the_points(self):
        plain = calculate(weight_formula(GUEST)).qualities
        laden = calculate(weight_formula(GUEST, superfat=12.0, **additive("sugar", 3.0))).qualities
        assert [q.points for q in plain] == [q.points for q in laden]

    def test_sugar_of_liquids_counts(self):
        liquids = [{"liquid": "banana-puree", "use": "at_trace", "by": "weight_g", "value": 50.0}]
        found = next(m for m in calculate(weight_formula(GUEST, liquids=liquids)).adjustments if m.id == "sugar")
        assert plain(found.state).startswith("0.7 % of oils")


class TestOverTime:
    def test_the_spans_of_the_field(self):
        guest = bar()
        assert 12 <= guest.unmould_hours_low <= guest.unmould_hours_high <= 48
        assert 4 <= guest.usable_weeks <= 6
        olive = bar(OLIVE)
        assert 48 <= olive.unmould_hours_low <= olive.unmould_hours_high <= 168
        assert olive.usable_weeks >= 8
        assert 24 <= olive.best_weeks <= 52
        assert olive.trace == "slow"

    def test_firmness_grows_with_age(self):
        for weights in (GUEST, OLIVE):
            ages = bar(weights)
            assert ages.firmness_at_unmould < ages.firmness_after_cure < ages.firmness_at_best

    def test_a_saturated_bar_is_firm_at_once_and_an_oleic_one_gains(self):
        coconut, olive = bar({"coconut": 1000.0}), bar(OLIVE)
        assert coconut.firmness_at_best - coconut.firmness_after_cure < 3
        assert olive.firmness_at_best - olive.firmness_after_cure > 10

    @pytest.mark.parametrize(
        ("quantity", "less", "more"),
        [
            ("unmould_hours_high", {"process": {"gel": "encouraged"}}, {"process": {"gel": "prevented"}}),
            ("unmould_hours_high", additive("sodium-lactate-60", 2.0), {}),
            ("shelf_months", {"superfat": 10.0}, {}),
            ("shelf_months", {}, additive("rosemary-extract", 0.05)),
            (
                "trace_points",
                {"water": {"by": "water_to_lye", "value": 3.0}},
                {"water": {"by": "water_to_lye", "value": 1.5}},
            ),
        ],
    )
    def test_what_moves_it(self, quantity, less, more):
        assert getattr(bar(**less), quantity) < getattr(bar(**more), quantity)

    def test_a_planned_cure_is_the_one_used(self):
        assert bar(process={"cure_weeks": 12.0}).usable_weeks == 12
        assert bar(process={"cure_weeks": 12.0}).firmness_after_cure > bar().firmness_after_cure


class TestWhatNatureAllows:
    @pytest.mark.parametrize("oil", list(catalogue().values())[::7], ids=lambda oil: oil.id)
    def test_the_span_holds_the_typical_points(self, oil):
        for quality, (low, high) in zip(qualities().values(), spans_of_oil(oil), strict=True):
            assert low - 1e-9 <= quality.points(oil.profile) <= high + 1e-9

    def test_the_ends_are_the_best_of_all_corners(self):
        # Two acids and a third that makes up the sum: 40 lauric (30..50), 35 oleic (30..45), 25 palmitic (20..35).
        spans = {"C12:0": (40, 30, 50), "C18:1": (35, 30, 45), "C16:0": (25, 20, 35)}
        ranges = [
            Range(
                **dict(zip(("typical", "minimum", "maximum"), map(float, spans.get(acid.id, (0, 0, 0))), strict=True))
            )
            for acid in ACIDS
        ]
        sums = [
            lauric + palmitic
            for lauric, oleic in itertools.product(range(30, 51), range(30, 46))
            if 20 <= (palmitic := 100 - lauric - oleic) <= 35
        ]
        hardness = spans_of(ranges)[0]
        assert hardness == (min(sums), max(sums))


def test_every_coefficient_lies_in_its_own_span():
    for entry in coefficients().values():
        assert entry.minimum <= entry.value <= entry.maximum, entry.id
        assert entry.meaning.endswith(".")


def test_half_potassium_soap_dissolves_half_of_what_hardly_does():
    """Soap of palmitic and stearic acid alone: none of it dissolves readily as sodium soap, half of it when half is KOH."""
    stearin = {"palm-stearin": 1000.0}
    long = sum(
        percent for percent, acid in zip(catalogue()["palm-stearin"].profile, ACIDS, strict=True)
        if acid.double_bonds == 0 and acid.carbons >= 16
    )  # fmt: skip
    for share, held in ((0.0, 1.0), (50.0, 0.5), (100.0, 0.0)):
        koh = {"by": "saponification_percent", "value": share, "purity_percent": 90.0} if share else None
        found = calculation_of(weight_formula(stearin, lye={"naoh_purity_percent": 99.0, "koh": koh})).conditions
        assert found.soluble_percent == pytest.approx(100 - held * found.long_saturated_percent)
        assert found.long_saturated_percent == pytest.approx(long, rel=0.02)


@pytest.mark.parametrize(("percent", "helps"), [(0.0199, False), (0.02, True)])
def test_an_antioxidant_counts_from_its_usual_least_on(percent, helps):
    line = {"additive": "rosemary-extract", "by": "percent_of_oils", "value": percent}
    assert calculation_of(weight_formula(GUEST, additives=[line])).conditions.has_antioxidant is helps
