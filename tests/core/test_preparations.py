"""Paste diluted, soap melted again, lye and oils mixed ahead: weights by hand, and what must not be made so."""

from collections.abc import Iterator
from math import isclose

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sapolin.core.formula.purposes import TargetRange, purposes
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.materials.ingredients import scents
from sapolin.core.preparations import (
    DilutionPlan,
    MasterBlendPlan,
    MasterLyePlan,
    PasteOnHand,
    Preparation,
    RebatchPlan,
    SaltStep,
    best_mix,
    prepare_preparation,
    preservatives,
    salt_curve,
    salt_test,
)
from sapolin.core.preparations.dilution import dilute, remaining
from sapolin.core.preparations.guard import preparation_refusal, soap_passes
from sapolin.core.preparations.mixing import mix_purposes
from sapolin.core.preparations.others import blended, usual_liquid_percent
from sapolin.core.preparations.plan import PasteLine
from sapolin.core.preparations.starting import (
    preparation_starts,
    starting_liquid_scent,
    starting_preservative,
    starting_share_percent,
)
from sapolin.core.preparations.thickness import thickness_of
from sapolin.core.production.events import Captured, Poured, RecordedEvent, SaltStepped, SoapTested, Temperature
from sapolin.core.production.state import state_of
from sapolin.core.quantities.diagnostics import FormulaError
from sapolin.core.quantities.text import percent, plain, text


def paste(
    batch_id: str, oil: str, soap_percent: float = 60.0, left_g: float = 5000.0, superfat: float = 2.0
) -> PasteOnHand:
    return PasteOnHand(
        batch_id=batch_id, code=f"B-{batch_id}", name=f"{oil} paste", made_at="2030-01-01T10:00:00+00:00",
        soap_percent=soap_percent, left_g=left_g, acids_percent=catalogue()[oil].profile, superfat_percent=superfat,
    )  # fmt: skip


OLIVE, COCONUT = paste("1", "olive-refined"), paste("2", "coconut", soap_percent=50.0)
ON_HAND = {one.batch_id: one for one in (OLIVE, COCONUT)}
KEEPS = {"preservative": "phenoxyethanol-glycol", "rate_percent": 1.0, "ph_low": 3, "ph_high": 12}


def plan(**entries: object) -> DilutionPlan:
    whole = {
        "name": "Hand wash", "pastes": [{"batch_id": "1", "share_percent": 100}], "soap_percent": 25, "bottles": 12,
        "bottle_ml": 250, "preservative": KEEPS,
    } | entries  # fmt: skip
    return DilutionPlan.model_validate(whole)


def codes(made: DilutionPlan, on_hand: dict[str, PasteOnHand] = ON_HAND) -> set[str]:
    return {one.code for one in dilute(made, on_hand).diagnostics}


def refused(made: object, on_hand: dict[str, PasteOnHand] = ON_HAND) -> set[tuple[str, str]]:
    with pytest.raises(FormulaError) as error:
        prepare_preparation(made, on_hand)  # type: ignore[arg-type]
    return {(one.code, one.path) for one in error.value.problems}


class TestDiluting:
    def test_by_hand(self):
        # 12 bottles of 250 mL at 0.998 + 25 × 0.0012 = 1.028 g/mL: 3084 g, a quarter of it soap.
        made = dilute(plan(), ON_HAND)
        assert made.product_g == pytest.approx(3084.0)
        # 771 g of soap, 60 % of the paste: 1285 g of paste; 1 % preservative; the rest is water.
        assert made.pastes[0].weight_g == pytest.approx(1285.0)
        assert made.preservative_g == pytest.approx(30.84)
        less = dilute(plan(preservative=KEEPS | {"rate_percent": 0.8}), ON_HAND)
        assert less.preservative_g == pytest.approx(24.672)
        assert sum(stage.weight_g for stage in made.water) == pytest.approx(3084 - 1285 - 30.84)
        assert [stage.weight_g for stage in made.water] == pytest.approx([884.08, 618.856, 265.224])
        assert (made.bottles, made.strongest_percent) == (12, pytest.approx(99 * 0.6))

    def test_two_pastes_share_the_soap_and_not_the_weight(self):
        shared = [{"batch_id": "1", "share_percent": 75}, {"batch_id": "2", "share_percent": 25}]
        made = dilute(plan(pastes=shared), ON_HAND)
        # 578.25 g of soap from 60 % paste, 192.75 g from 50 % paste.
        assert [one.weight_g for one in made.pastes] == pytest.approx([963.75, 385.5])
        lauric = 0.75 * OLIVE.acids_percent[2] + 0.25 * COCONUT.acids_percent[2]
        assert made.acids["C12:0"] == pytest.approx(lauric)

    def test_by_the_paste_there_is(self):
        made = dilute(plan(size_by="paste_g", paste_g=1000, bottles=None, preservative=None), ON_HAND)
        # 600 g of soap at 25 %: 2400 g, of which 1400 g is water; 2400 / 1.028 mL fill ten bottles, the last not quite.
        assert made.product_g == pytest.approx(2400.0)
        assert sum(stage.weight_g for stage in made.water) == pytest.approx(1400.0)
        assert made.bottles == 10

    def test_what_the_maker_knows_of_a_paste_counts_instead_of_its_batch(self):
        own = [{"batch_id": "1", "share_percent": 100, "soap_percent": 40}]
        assert dilute(plan(pastes=own), ON_HAND).pastes[0].weight_g == pytest.approx(771 / 0.4)

    def test_no_more_soap_than_the_paste_holds(self):
        with pytest.raises(FormulaError) as error:
            dilute(plan(soap_percent=60), ON_HAND)
        assert [one.code for one in error.value.problems] == ["stronger_than_paste"]

    @settings(max_examples=60, deadline=None)
    @given(st.floats(5, 30), st.floats(1, 99), st.floats(0.1, 2), st.floats(0, 3))
    def test_all_of_it_adds_up_and_the_soap_is_what_was_asked_for(self, soap, share, rate, scent):
        made = dilute(
            plan(
                soap_percent=soap, preservative=KEEPS | {"rate_percent": rate},
                pastes=[{"batch_id": "1", "share_percent": share}, {"batch_id": "2", "share_percent": 100 - share}],
                scents=[{"scent": "spruce-needle", "percent": scent, "limit_percent": 5}],
            ),
            ON_HAND,
        )  # fmt: skip
        pastes = sum(one.weight_g for one in made.pastes)
        rest = made.preservative_g + made.brine_g + sum(one.weight_g for one in made.scents)
        assert isclose(pastes + rest + sum(one.weight_g for one in made.water), made.product_g, rel_tol=1e-9)
        soap_g = sum(one.weight_g * one.soap_percent / 100 for one in made.pastes)
        assert isclose(100 * soap_g / made.product_g, soap, rel_tol=1e-9)


class TestWhatIsSaidFirst:
    @pytest.mark.parametrize("kind", ["benzoate-sorbate", "benzyl-alcohol-dehydroacetic", "isothiazolinones"])
    def test_a_preservative_that_does_not_work_in_soap_stops_it(self, kind):
        made = dilute(plan(preservative={"preservative": kind, "rate_percent": 0.5}), ON_HAND)
        found = next(one for one in made.diagnostics if one.code == "preservative_unsuited")
        assert found.stops == "making"

    def test_what_the_supplier_says_counts_instead_of_what_is_usual(self):
        # Usual up to pH 12; this one only up to 8.
        assert "preservative_unsuited" in codes(plan(preservative=KEEPS | {"ph_high": 8}))
        assert "preservative_at_its_edge" in codes(plan(preservative=KEEPS | {"ph_high": 9.5}))
        assert not {"preservative_unsuited", "preservative_at_its_edge", "preservative_unread"} & codes(plan())
        unread = {"preservative": "phenoxyethanol-glycol", "rate_percent": 1.0}
        assert "preservative_unread" in codes(plan(preservative=unread))

    def test_without_a_preservative_it_is_used_within_days(self):
        made = dilute(plan(preservative=None), ON_HAND)
        assert "not_preserved" in {one.code for one in made.diagnostics}
        assert made.shelf_months == pytest.approx(0.33)

    @pytest.mark.parametrize(("rate", "said"), [(0.79, True), (0.8, False), (1.5, False), (1.51, True)])
    def test_an_unusual_rate_is_said(self, rate, said):
        assert ("preservative_rate" in codes(plan(preservative=KEEPS | {"rate_percent": rate}))) is said

    def test_scent_over_its_limit_stops_it_and_too_much_to_stay_clear_is_said(self):
        def scent(percent: float, limit: float | None):
            return plan(scents=[{"scent": "spruce-needle", "percent": percent, "limit_percent": limit}])

        assert "liquid_scent_over_limit" in codes(scent(1.0, 0.9))
        # 6 % of a quarter soap: up to 1.5 % of the product.
        assert "scent_separates" in codes(scent(1.51, 5))
        assert "scent_separates" not in codes(scent(1.49, 5))
        assert "no_scent_limit" in codes(scent(1.0, None))

    def test_a_paste_that_runs_short_stops_it(self):
        short = {"1": paste("1", "olive-refined", left_g=1284.0)}
        assert "paste_runs_short" in codes(plan(), short)
        enough = {"1": paste("1", "olive-refined", left_g=1285.0)}
        assert "paste_runs_short" not in codes(plan(), enough)

    def test_much_oil_left_or_palmitic_acid_clouds_it(self):
        fat = dilute(plan(), {"1": paste("1", "olive-refined", superfat=2.54)}).diagnostics
        assert [plain((one.params["superfat"],)) for one in fat if one.code == "cloudy_superfat"] == ["2.5 %"]
        assert "cloudy_long_acids" in codes(plan(), {"1": paste("1", "palm")})
        assert "cloudy_long_acids" not in codes(plan(), {"1": paste("1", "coconut")})

    def test_a_salt_test_that_has_begun_is_not_called_rising(self):
        begun = SaltStep(brine_g=0, seconds=4)
        said = [
            plain(salt_curve(100.0, steps, 1000.0).words)
            for steps in ([begun], [begun, SaltStep(brine_g=1, seconds=8)])
        ]
        assert said == [plain(text("liquid.curve.begun")), plain(text("liquid.curve.rising"))]

    def test_its_style_and_its_thickness(self):
        assert "too_thick_to_foam" in codes(plan(style="foamer"))
        coconut = [{"batch_id": "2", "share_percent": 100}]
        assert "too_thick_to_foam" not in codes(plan(style="foamer", soap_percent=10, pastes=coconut))
        assert "never_thick" in codes(plan(style="thick", pastes=coconut))
        assert "thin_for_its_style" in codes(plan(style="thick", soap_percent=20))
        assert "sets_to_gel" in codes(plan(soap_percent=35))
        assert "salt_does_not_thicken" in codes(plan(pastes=coconut, brine_percent=2))

    def test_every_missing_entry_is_asked_for_at_its_place(self):
        assert refused(DilutionPlan(name="New")) == {
            ("no_paste", "pastes"), ("missing", "soap_percent"), ("missing", "bottles"), ("missing", "bottle_ml"),
        }  # fmt: skip

    @pytest.mark.parametrize(
        ("entries", "code", "path"),
        [
            ({"pastes": [{"batch_id": "9", "share_percent": 100}]}, "unknown_paste", "pastes[0].batch_id"),
            ({"pastes": [{"batch_id": "1", "share_percent": 90}]}, "paste_shares_not_100", "pastes"),
            ({"soap_percent": 61}, "not_within", "soap_percent"),
            ({"bottle_ml": 4}, "not_within", "bottle_ml"),
            ({"bottles": 0}, "not_within", "bottles"),
            (
                {"preservative": KEEPS | {"preservative": "holy-water"}},
                "unknown_preservative",
                "preservative.preservative",
            ),
            ({"preservative": KEEPS | {"ph_low": 12, "ph_high": 3}}, "ph_ends_cross", "preservative.ph_low"),
            ({"preservative": KEEPS | {"rate_percent": 4}}, "not_within", "preservative.rate_percent"),
            ({"scents": [{"scent": "nothing", "percent": 1}]}, "unknown_scent", "scents[0].scent"),
        ],
    )
    def test_what_cannot_be_is_said_at_its_entry(self, entries, code, path):
        assert (code, path) in refused(plan(**entries))


ONE = {"batch_id": "1", "share_percent": 100}
LIMITS = [
    (lambda value: {"pastes": [ONE | {"soap_percent": value}], "soap_percent": 10}, "pastes[0].soap_percent", 15, 80),
    (lambda value: {"soap_percent": value}, "soap_percent", 3, 60),
    (lambda value: {"bottles": value}, "bottles", 1, 2000),
    (lambda value: {"bottle_ml": value}, "bottle_ml", 5, 20_000),
    (lambda value: {"size_by": "paste_g", "paste_g": value, "bottles": None}, "paste_g", 5, 200_000),
    (lambda value: {"preservative": KEEPS | {"rate_percent": value}}, "preservative.rate_percent", 0.01, 3),
    (lambda value: {"preservative": KEEPS | {"ph_low": value, "ph_high": 14}}, "preservative.ph_low", 1, 14),
    (lambda value: {"scents": [{"scent": "lavender", "percent": value}]}, "scents[0].percent", 0, 10),
    (
        lambda value: {"scents": [{"scent": "lavender", "percent": 1, "limit_percent": value}]},
        "scents[0].limit_percent", 0.001, 100,
    ),
    (lambda value: {"brine_percent": value}, "brine_percent", 0, 15),
]  # fmt: skip


@pytest.mark.parametrize(("entries", "path", "least", "most"), LIMITS, ids=[path for _, path, _, _ in LIMITS])
def test_what_a_dilution_takes(entries, path, least, most):
    def out_of_reach(value: float) -> bool:
        try:
            prepare_preparation(plan(**entries(value)), ON_HAND)
        except FormulaError as error:
            return ("not_within", path) in {(one.code, one.path) for one in error.problems}
        return False

    beyond = (most - least) * 1e-4
    reached = [out_of_reach(value) for value in (least - beyond, least, most, most + beyond)]
    assert reached == [True, False, False, True]


def test_how_much_scent_soap_holds_is_told_of_the_product():
    """A quarter of it is soap, which takes up 6 % of its weight: 1.5 % of the product."""
    scented = dilute(plan(scents=[{"scent": "lavender", "percent": 3}]), ON_HAND)
    [said] = [one for one in scented.diagnostics if one.code == "scent_separates"]
    assert said.params["most"] == percent(1.5, 1)
    assert "scent_separates" not in codes(plan(scents=[{"scent": "lavender", "percent": 1.5}]))


class TestThickness:
    def test_by_hand(self):
        # 22 % without short acids; 0.28 points more for each percent of them.
        assert thickness_of({"C18:1": 100.0}, 20.0).thick_from_percent == pytest.approx(22.0)
        half = thickness_of({"C12:0": 30.0, "C14:0": 20.0, "C18:1": 50.0}, 25.0)
        assert half.thick_from_percent == pytest.approx(36.0)
        assert not half.salt_thickens
        assert thickness_of({"C12:0": 40.0, "C18:1": 60.0}, 25.0).salt_thickens

    @pytest.mark.parametrize(
        ("soap", "thickness"),
        [(13.9, "water"), (14.0, "thin"), (21.9, "thin"), (22.0, "thick"), (27.9, "thick"), (28.0, "gel")],
    )
    def test_from_water_to_gel(self, soap, thickness):
        assert thickness_of({"C18:1": 100.0}, soap).thickness == thickness


class TestTheSaltTest:
    def test_its_peak_is_that_of_the_parabola(self):
        # Seconds 3 + 12·b − 4·b²: thickest at b = 1.5 g in 50 g, 3 %.
        steps = [SaltStep(brine_g=b, seconds=3 + 12 * b - 4 * b * b) for b in (0.0, 1.0, 2.0, 2.5)]
        curve = salt_curve(50.0, steps, 2000.0)
        assert curve.peak_percent == pytest.approx(3.0)
        assert curve.use_percent == pytest.approx(2.4)
        assert curve.use_g == pytest.approx(48.0)
        assert curve.thickens_times == pytest.approx(11 / 3)

    def test_while_it_rises_there_is_no_peak(self):
        steps = [SaltStep(brine_g=g, seconds=s) for g, s in ((0, 4), (1, 9))]
        assert salt_curve(100.0, steps, 1000.0).peak_percent is None

    def test_soap_that_only_thins_takes_none(self):
        steps = [SaltStep(brine_g=g, seconds=s) for g, s in ((0, 9), (1, 6), (2, 4))]
        thins = salt_curve(100.0, steps, 1000.0)
        assert (thins.peak_percent, thins.use_percent, thins.use_g) == (0.0, 0.0, 0.0)

    def test_steps_in_any_order_and_the_last_of_two_at_one_amount(self):
        told = [(2, 16), (0, 4), (1, 8), (3, 12), (4, 5)]
        steps = [SaltStep(brine_g=g, seconds=s) for g, s in told]
        assert salt_curve(100.0, steps, 3000.0) == salt_curve(100.0, sorted(steps, key=lambda one: one.brine_g), 3000.0)

    @pytest.mark.parametrize(("sample", "steps"), [(0.0, [(0, 4)]), (100.0, [(1, 4)]), (100.0, []), (100.0, [(0, 0)])])
    def test_it_begins_with_the_sample_alone(self, sample, steps):
        with pytest.raises(ValueError, match="begins with its sample"):
            salt_curve(sample, [SaltStep(brine_g=g, seconds=s) for g, s in steps], 100.0)

    def test_it_begins_on_a_usual_sample_without_brine(self):
        begun = salt_test([], 1000.0)
        assert (begun.sample_g, begun.next_brine_g, begun.steps, begun.curve) == (100.0, 0.0, (), None)

    def test_each_step_has_a_spoon_more_than_the_most_so_far(self):
        told = salt_test(salt_steps((200, 0, 3), (200, 5, 9), (200, 2, 6)), 1000.0)
        assert (told.sample_g, told.next_brine_g) == (200.0, pytest.approx(7.0))  # a spoon is 1 % of the sample
        assert [one.brine_g for one in told.steps] == [0, 5, 2]

    def test_the_curve_is_that_of_its_own_sample_and_the_whole_batch(self):
        told = salt_test(salt_steps((50, 0, 3), (50, 1, 11), (50, 2, 11), (50, 3, 3)), 2000.0)
        assert told.curve.peak_percent == pytest.approx(3.0)  # 1.5 g in 50 g
        assert told.curve.use_g == pytest.approx(0.8 * 0.03 * 2000)

    @pytest.mark.parametrize(
        ("noted", "brines"),
        [
            ([(100, 0, 3), (100, 1, 9), (50, 0, 3)], [0]),  # another sample
            ([(100, 0, 3), (100, 1, 9), (100, 0, 3), (100, 2, 5)], [0, 2]),  # as much once more, from the start
            ([(100, 1, 9), (100, 0, 3), (100, 2, 5)], [1, 0, 2]),  # the start is noted late
        ],
    )
    def test_what_is_in_cannot_be_taken_out_so_that_a_second_start_begins_anew(self, noted, brines):
        assert [one.brine_g for one in salt_test(salt_steps(*noted), 1000.0).steps] == brines

    def test_without_a_start_there_is_nothing_to_compare_with(self):
        told = salt_test(salt_steps((100, 1, 9), (100, 2, 12)), 1000.0)
        assert (told.curve, told.next_brine_g) == (None, 3.0)


def salt_steps(*noted):
    return [SaltStepped(kind="salt_step", sample_g=sample, brine_g=g, seconds=s) for sample, g, s in noted]


class TestBeginning:
    def test_a_dilution_begins_with_the_first_paste_as_all_of_its_soap(self):
        dilution, rebatch, lye, blend = (one.plan for one in preparation_starts([COCONUT, OLIVE]))
        assert dilution == DilutionPlan.model_validate(
            {"name": "coconut paste, diluted", "pastes": [{"batch_id": "2", "share_percent": 100}]}
        )
        assert rebatch == RebatchPlan(name="Rebatched bars")
        assert lye == MasterLyePlan(name="Master lye", lye="naoh", purity_percent=None, concentration_percent=50.0)
        assert blend == MasterBlendPlan(name="Master blend")

    def test_only_the_first_paste_begins_as_all_of_the_soap(self):
        one = PasteLine(batch_id="2", share_percent=60.0)
        assert (starting_share_percent([]), starting_share_percent([one])) == (100.0, None)

    def test_without_a_paste_there_is_none_in_it(self):
        assert preparation_starts([])[0].plan == DilutionPlan(name="Liquid soap")

    @pytest.mark.parametrize(("letters", "name"), [(111, "D" * 111 + ", diluted"), (112, "D" * 112)])
    def test_the_name_is_no_longer_than_names_may_be(self, letters, name):
        long = OLIVE.model_copy(update={"name": "D" * letters})
        assert preparation_starts([long])[0].plan.name == name

    def test_what_is_added_begins_at_its_usual_rate(self):
        scent = starting_liquid_scent(scents()["lavender"])
        assert (scent.scent, scent.percent, scent.limit_percent) == ("lavender", 0.5, None)
        line = starting_preservative(preservatives()["phenoxyethanol-glycol"])
        assert (line.preservative, line.rate_percent, line.ph_low, line.ph_high) == (
            "phenoxyethanol-glycol", 1.5, None, None,
        )  # fmt: skip


class TestMixingPastes:
    WANTED = purposes()["liquid-soap"].target_ranges

    def test_the_optimum_is_the_best_of_a_fine_grid(self):
        pastes = [OLIVE, COCONUT, paste("3", "castor"), paste("4", "palm")]
        wanted = [
            TargetRange(quality="cleansing", minimum=20, maximum=24),
            TargetRange(quality="conditioning", minimum=80, maximum=90),
        ]
        answer = best_mix(pastes, wanted)

        def miss(shares: list[float]) -> float:
            def points(quality: str) -> float:
                acids = {"cleansing": (0, 1, 2, 3), "conditioning": (5, 7, 8, 9, 10, 12, 14)}[quality]
                return sum(
                    share * sum(one.acids_percent[i] for i in acids) for share, one in zip(shares, pastes, strict=True)
                )

            out = ((one, points(one.quality)) for one in wanted)
            return sum(max(one.minimum - at, at - one.maximum, 0) / (one.maximum - one.minimum) for one, at in out)

        grid = [
            [a / 20, b / 20, c / 20, (20 - a - b - c) / 20]
            for a in range(21) for b in range(21 - a) for c in range(21 - a - b)
        ]  # fmt: skip
        found = {one.batch_id: one.share_percent / 100 for one in answer.shares}
        assert miss([found.get(one.batch_id, 0.0) for one in pastes]) <= min(miss(shares) for shares in grid) + 0.01

    def test_ranges_that_cannot_both_be_met_are_missed_by_as_little_as_can_be(self):
        """Neither olive nor coconut soap cleanses by 90 points or conditions by 95: each is missed under its own name."""
        wanted = [
            TargetRange(quality="cleansing", minimum=90, maximum=95),
            TargetRange(quality="conditioning", minimum=95, maximum=99),
        ]
        answer = best_mix([OLIVE, COCONUT], wanted)
        assert plain(answer.words).endswith("Outside the target range: cleansing and conditioning.")
        for one in wanted:
            points = answer.qualities[one.quality]
            assert answer.misses[one.quality] == pytest.approx(one.minimum - points, abs=1e-6)
            assert points < one.minimum

    def test_olive_and_coconut_make_a_liquid_soap(self):
        answer = best_mix([OLIVE, COCONUT], self.WANTED)
        assert answer.misses == {}
        assert plain(answer.words) == "Proven optimal: every target range is met."
        assert sum(one.share_percent for one in answer.shares) == pytest.approx(100.0)
        assert 14 <= answer.qualities["cleansing"] <= 32

    def test_no_paste_gives_more_than_there_is(self):
        little = paste("2", "coconut", soap_percent=50.0, left_g=100.0)
        answer = best_mix([OLIVE, little], self.WANTED, soap_g=1000.0)
        coconut = next(one.share_percent for one in answer.shares if one.batch_id == "2")
        assert coconut == pytest.approx(5.0)
        assert "cleansing" in answer.misses

    @pytest.mark.parametrize(("left_g", "percent"), [(20.0, 1.0), (10.4, 0.5), (9.0, None)])
    def test_a_little_paste_is_used_from_half_a_percent_on(self, left_g, percent):
        little = paste("2", "coconut", soap_percent=50.0, left_g=left_g)
        shares = {
            one.batch_id: one.share_percent for one in best_mix([OLIVE, little], self.WANTED, soap_g=1000.0).shares
        }
        assert shares == {"1": pytest.approx(100 - (percent or 0.0))} | (
            {} if percent is None else {"2": pytest.approx(percent)}
        )

    def test_a_paste_that_is_not_needed_is_not_named(self):
        mild = [TargetRange(quality="cleansing", minimum=0, maximum=1)]
        assert [(one.batch_id, one.share_percent) for one in best_mix([OLIVE, COCONUT], mild).shares] == [("1", 100.0)]

    def test_two_pastes_are_mixed_to_what_paste_is_made_for(self):
        assert {one.id for one in mix_purposes([OLIVE, COCONUT])} == {"liquid-soap"}
        assert mix_purposes([OLIVE]) == ()

    def test_without_enough_paste_there_is_no_answer(self):
        for pastes, code in (([], "no_paste"), ([paste("1", "olive-refined", left_g=100.0)], "pastes_run_short")):
            with pytest.raises(FormulaError) as error:
                best_mix(pastes, self.WANTED, soap_g=1000.0)
            assert error.value.problems[0].code == code


class TestTheRest:
    def test_soap_melted_again_by_hand(self):
        made = prepare_preparation(RebatchPlan(name="Ends", soap_g=800, age_days=60), {})
        assert made.melted is not None
        # A fifth of liquid for cured soap.
        assert (made.melted.liquid_g, made.total_g) == (160.0, 960.0)
        assert "zap" not in {step.id for step in made.steps}
        assert [usual_liquid_percent(days) for days in (7, 8, None)] == [5.0, 20.0, 20.0]

    def test_much_liquid_is_told_in_whole_percent(self):
        made = prepare_preparation(RebatchPlan(name="Ends", soap_g=800, liquid_percent=55.4), {})
        [said] = [one for one in made.diagnostics if one.code == "rebatch_stays_soft"]
        assert said.params == {"liquid": percent(55.4, 0)}

    def test_a_paste_whose_share_is_not_entered_yet_is_asked_for(self):
        draft = DilutionPlan.model_validate({"name": "Draft", "pastes": [{"batch_id": "1", "share_percent": None}]})
        with pytest.raises(FormulaError) as error:
            prepare_preparation(draft, {"1": OLIVE})
        assert "pastes[0].share_percent" in {problem.path for problem in error.value.problems}

    def test_soap_that_zaps_gets_oil_and_is_tested(self):
        made = prepare_preparation(RebatchPlan(name="Ends", soap_g=800, liquid_percent=10, is_lye_heavy=True), {})
        assert made.melted is not None
        assert (made.melted.liquid_g, made.melted.oil_g) == (80.0, 24.0)
        ids = [step.id for step in made.steps]
        assert ids.index("zap") > ids.index("rebatch-melt")
        assert all(step.caustic for step in made.steps[: ids.index("zap") + 1])

    def test_master_lye_by_hand(self):
        made = prepare_preparation(
            MasterLyePlan(name="Lye", lye_g=450, purity_percent=98, concentration_percent=45), {}
        )
        assert made.dissolved is not None
        assert made.dissolved.water_g == pytest.approx(550.0)
        assert made.dissolved.peak.high_c > 90
        assert [step.id for step in made.steps] == [
            "gear", "weigh-water", "protect", "weigh-lye:naoh", "make-lye", "master-cool", "master-store",
        ]  # fmt: skip
        assert all(step.caustic for step in made.steps[2:])

    def test_kilograms_of_lye_are_not_dissolved_alone(self):
        made = prepare_preparation(MasterLyePlan(name="Lye", lye_g=1000, purity_percent=98), {})
        assert made.steps[0].id == "spill-plan"
        assert {"much_lye", "master_lye_crystallises"} <= {one.code for one in made.diagnostics}

    def test_purity_is_never_assumed(self):
        assert ("missing", "purity_percent") in refused(MasterLyePlan(name="Lye", lye_g=450))
        assert ("not_within", "purity_percent") in refused(MasterLyePlan(name="Lye", lye_g=450, purity_percent=101))

    @pytest.mark.parametrize(
        ("plan", "entry", "least", "most"),
        [
            (RebatchPlan(name="Ends", soap_g=800), "soap_g", 20, 100_000),
            (RebatchPlan(name="Ends", soap_g=800), "liquid_percent", 0, 60),
            (RebatchPlan(name="Ends", soap_g=800), "age_days", 0, 4000),
            (MasterLyePlan(name="Lye", lye_g=450, purity_percent=98), "lye_g", 1, 50_000),
            (MasterLyePlan(name="Lye", lye_g=450, purity_percent=98), "purity_percent", 50, 100),
            (MasterLyePlan(name="Lye", lye_g=450, purity_percent=98), "concentration_percent", 10, 50),
            (MasterLyePlan(name="Lye", lye_g=450, purity_percent=98), "room_c", -5, 45),
            (MasterBlendPlan.model_validate({"name": "Base", "parts": [{"oil": "coconut", "share_percent": 100}]}),
             "total_g", 10, 200_000),
        ],
    )  # fmt: skip
    def test_what_can_be_entered(self, plan, entry, least, most):
        beyond = (most - least) * 1e-6
        for value in (least, most):
            assert prepare_preparation(plan.model_copy(update={entry: float(value)}), {}).total_g > 0
        for value in (least - beyond, most + beyond):
            assert refused(plan.model_copy(update={entry: value})) == {("not_within", entry)}

    @pytest.mark.parametrize(("least", "holds"), [(0.0999, False), (0.1, True)])
    def test_the_least_share_of_an_oil(self, least, holds):
        parts = [{"oil": "coconut", "share_percent": 100 - least}, {"oil": "palm", "share_percent": least}]
        made = MasterBlendPlan.model_validate({"name": "Base", "parts": parts, "total_g": 4000})
        if holds:
            assert prepare_preparation(made, {}).total_g == 4000
        else:
            assert refused(made) == {("not_within", "parts[1].share_percent")}

    def test_a_master_blend_is_weighed_hardest_first(self):
        parts = [{"oil": "olive-refined", "share_percent": 50}, {"oil": "coconut", "share_percent": 30},
                 {"oil": "cocoa-butter" if "cocoa-butter" in catalogue() else "cocoa", "share_percent": 20}]  # fmt: skip
        made = prepare_preparation(
            MasterBlendPlan.model_validate({"name": "Base", "parts": parts, "total_g": 4000}), {}
        )
        assert made.blended is not None
        assert [round(one.weight_g) for one in made.blended.oils] == [800, 1200, 2000]

    def test_a_blend_that_does_not_sum_to_100_is_refused(self):
        parts = [{"oil": "olive-refined", "share_percent": 50}, {"oil": "nonsense", "share_percent": 30}]
        found = refused(MasterBlendPlan.model_validate({"name": "Base", "parts": parts, "total_g": 4000}))
        assert found == {("unknown_oil_here", "parts[1].oil")}
        parts[1]["oil"] = "coconut"
        found = refused(MasterBlendPlan.model_validate({"name": "Base", "parts": parts, "total_g": 4000}))
        assert found == {("blend_shares_not_100", "parts")}
        parts[1]["share_percent"] = 30.123456
        with pytest.raises(FormulaError) as told:
            blended(MasterBlendPlan.model_validate({"name": "Base", "parts": parts, "total_g": 4000}), catalogue())
        assert told.value.problems[0].params["sum"].value == 80.1235

    def test_a_share_that_is_not_entered_yet_is_asked_for(self):
        parts = [{"oil": "olive-refined", "share_percent": 100}, {"oil": "coconut", "share_percent": None}]
        found = refused(MasterBlendPlan.model_validate({"name": "Base", "parts": parts, "total_g": 4000}))
        assert found == {("missing", "parts[1].share_percent")}

    def test_what_is_left_of_a_paste(self):
        left = remaining([OLIVE, COCONUT], {"1": 4999.6, "2": 1000.0})
        assert [(one.batch_id, one.left_g) for one in left] == [("2", 4000.0)]
        assert remaining([OLIVE, COCONUT], {}) == (OLIVE, COCONUT)


def numbers_within(content: object, path: str = "") -> Iterator[tuple[str, dict[str, object], str]]:
    """Every number of a document: its path, what holds it, and its name there."""
    if isinstance(content, dict):
        for name, value in content.items():
            at = f"{path}.{name}" if path else name
            if isinstance(value, int | float) and not isinstance(value, bool):
                yield at, content, name
            yield from numbers_within(value, at)
    if isinstance(content, list):
        for i, one in enumerate(content):
            yield from numbers_within(one, f"{path}[{i}]")


WHOLE_PLANS: dict[str, Preparation] = {
    "bottles": plan(scents=[{"scent": "lavender", "percent": 0.5, "limit_percent": 2.0}], brine_percent=1.5),
    "all of a paste": plan(size_by="paste_g", paste_g=700, bottles=None),
    "soap melted again": RebatchPlan(name="Ends", soap_g=730, age_days=5, liquid_percent=12),
    "lye": MasterLyePlan(name="Lye", lye="koh", lye_g=420, purity_percent=90, concentration_percent=40, room_c=18),
    "oils": MasterBlendPlan.model_validate({
        "name": "Base", "total_g": 4000, "parts": [
            {"oil": "olive-refined", "share_percent": 60}, {"oil": "coconut", "share_percent": 40},
        ],
    }),
}  # fmt: skip
OPTIONAL = {
    "age_days",
    "liquid_percent",
    "brine_percent",
    "scents[0].limit_percent",
    "preservative.ph_low",
    "preservative.ph_high",
}
"""What a plan may leave out: it takes what is usual, or goes without."""


@pytest.mark.parametrize("name", WHOLE_PLANS)
def test_a_gap_in_a_plan_is_asked_for_where_it_is(name):
    paths = [path for path, _, _ in numbers_within(WHOLE_PLANS[name].model_dump(mode="json"))]
    assert paths
    for path in paths:
        content = WHOLE_PLANS[name].model_dump(mode="json")
        held, field = next((held, field) for at, held, field in numbers_within(content) if at == path)
        held[field] = None
        changed = type(WHOLE_PLANS[name]).model_validate(content)
        if path in OPTIONAL:
            assert prepare_preparation(changed, ON_HAND).total_g > 0, path
        else:
            assert path in {at for _, at in refused(changed)}, path


class TestItsRecord:
    def test_what_belongs_to_bars_is_not_recorded_here(self):
        made = prepare_preparation(plan(), ON_HAND)
        begun = [
            RecordedEvent.model_validate({"seq": 1, "at": "2030-01-01T10:00:00+00:00", "event": {"kind": "started"}})
        ]
        state = state_of(begun, made.steps)

        def code(event: object) -> str | None:
            found = preparation_refusal(event, state, made.steps, made.total_g, begun)  # type: ignore[arg-type]
            return None if found is None else found.code

        assert code(Poured(kind="poured", mould=0, difference_ml=0)) == "not_of_a_preparation"
        assert code(Temperature(kind="temperature", bowl="oils", celsius=40, source="typed")) == "not_of_a_preparation"
        assert code(Captured(kind="captured", item="paste:0", weight_g=1285.0, source="typed")) is None
        assert code(SaltStepped(kind="salt_step", sample_g=100, brine_g=1, seconds=5)) is None
        assert code(SaltStepped(kind="salt_step", sample_g=100, brine_g=0, seconds=0.5)) is None
        for sample, brine, seconds in ((9, 1, 5), (100, 101, 5), (100, 1, 0), (100, 1, 3601)):
            step = SaltStepped(kind="salt_step", sample_g=sample, brine_g=brine, seconds=seconds)
            assert code(step) == "salt_step_out_of_range"

    def test_soap_beyond_the_reach_of_its_preservative_does_not_pass(self):
        steps = prepare_preparation(plan(), ON_HAND).steps
        weak = plan(preservative=KEEPS | {"ph_high": 9.8})

        def passes(made: DilutionPlan, ph: float) -> bool:
            return soap_passes(made, SoapTested(kind="tested", test="ph", ph=ph), steps)

        assert passes(plan(), 10.5)
        assert not passes(plan(), 10.6)
        assert passes(weak, 9.8)
        assert not passes(weak, 9.9)
        assert passes(plan(preservative=None), 10.5)
        assert not passes(plan(preservative=None), 10.6)


def test_every_preservative_says_where_it_works():
    for row in preservatives().values():
        assert row.ph_low < row.ph_high
        assert 0 < row.rate_low_percent <= row.rate_high_percent <= 3
        assert row.caution
