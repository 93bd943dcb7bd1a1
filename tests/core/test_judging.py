"""What judged bars teach: nothing to a workshop like any other, its own offset to one that differs."""

import numpy as np
import pytest

from sapolin.core.bar.expectations import Expectations, firmness_at
from sapolin.core.cure.events import Judged
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.trials.criteria import criteria, measures, sheet_refusal
from sapolin.core.trials.judging import JudgedPoints, judged_points, learned_quality, range_of, seen_of

SPAN = 36.0
"""Open lather: from 4 to 40 points."""
RULE_SD = coefficient("judging.rule_spread") * SPAN
SHARE = coefficient("learning.workshop_share")
SHEET_SD = coefficient("judging.sheet_spread") * SPAN / 4


def test_the_words_of_a_quality_all_reach_as_far():
    assert range_of("open_lather") == SPAN
    assert range_of("oxidation_load") is None


def test_points_of_a_sheet_by_hand():
    assert judged_points({"bubbles": 5, "bubble_size": 1, "press": 1}, {"wear_g": 2.0}) == {
        "open_lather": 22.0, "hardness": 18.0, "wear_life": 46.0
    }  # fmt: skip


@pytest.mark.parametrize(
    ("sheet", "refused"),
    [
        ({"scores": {"bubbles": 3}}, None), ({"scores": {"sparkle": 3}}, ("unknown_criterion", "scores.sparkle")),
        ({"measures": {"press_mm": 40.0}}, None), ({"measures": {"press_mm": 40.1}}, ("not_a_measure", "measures.press_mm")),
        ({"measures": {"wear_g": 0.0}}, None), ({"measures": {"wear_g": -0.1}}, ("not_a_measure", "measures.wear_g")),
        ({"measures": {"length": 3.0}}, ("unknown_criterion", "measures.length")),
    ],
)  # fmt: skip
def test_a_sheet_names_what_there_is_and_measures_what_can_be(sheet, refused):
    judged = Judged.model_validate({"kind": "judged", "tester": "Runa"} | sheet)
    refusal = sheet_refusal(judged, criteria())
    assert (None if refusal is None else (refusal.code, refusal.path)) == refused


@pytest.mark.parametrize("one", criteria().values(), ids=lambda one: one.id)
def test_words_run_from_the_least_to_the_most(one):
    assert len(set(one.words)) == 5
    assert one.quality is None or one.at_1 < one.at_5
    assert one.points(1) == one.at_1
    assert one.points(5) == one.at_5


def test_measures_beyond_their_ends_stand_for_the_end():
    press = measures()["press_mm"]
    assert press.points(20) == press.at_1
    assert press.points(0) == press.at_5


def sheets(offset, *, tester="Runa", weeks=6.0, predicted=20.0, count=1):
    return JudgedPoints(tester=tester, age_weeks=weeks, predicted=predicted, points=predicted + offset, sheets=count)


class TestByHand:
    def test_one_sheet_of_one_batch(self):
        # Offset N(0, .8 r²) and batch N(0, .2 r²), r = 7.2; sheet 6.3: the first step is the exact one.
        shop, batch = SHARE * RULE_SD**2, (1 - SHARE) * RULE_SD**2
        learned = learned_quality("open_lather", [[sheets(-10.0)]])
        assert learned.offset == pytest.approx(-10 * shop / (shop + batch + SHEET_SD**2), rel=0.03)
        assert (learned.batches, learned.sheets, learned.slope, learned.testers) == (1, 1, 0.0, ())

    def test_nothing_judged_leaves_the_rule(self):
        learned = learned_quality("open_lather", [])
        # As in the prior: offset N(0, .8 r²), batch N(0, .2 r²).
        assert learned.offset_sd == pytest.approx(np.sqrt(SHARE) * RULE_SD)
        assert learned.batch_sd == pytest.approx(np.sqrt(1 - SHARE) * RULE_SD)
        assert learned.expected(20.0) == (20.0, pytest.approx(np.hypot(learned.offset_sd, learned.batch_sd)))

    def test_a_quality_without_words_is_refused(self):
        with pytest.raises(KeyError):
            learned_quality("oxidation_load", [])

    def test_what_a_batch_shows_is_its_mean(self):
        seen = seen_of([sheets(-4.0, count=3), sheets(4.0, count=1)], "open_lather")
        assert (seen.offset, seen.sd) == (pytest.approx(-2.0), pytest.approx(SHEET_SD / 2))


def test_it_agrees_with_generalised_least_squares_written_out():
    """Every covariance in full instead of batch by batch: y = X b + batch + sheet, with the spreads that it came to."""
    rng = np.random.default_rng(4)
    ages, testers = (0.2, 4.0, 6.0, 12.0, 30.0), ("Ilmo", "Runa")
    batches = [
        [
            sheets(
                3.0 + effect + rng.normal(0, 4), tester=testers[(i + j) % 2], weeks=ages[(i + 2 * j) % 5], predicted=12.0 + i,
                count=1 + (i + j) % 3,
            )
            for j in range(3)
        ]
        for i, effect in enumerate(rng.normal(0, 3, 14))
    ]  # fmt: skip
    learned = learned_quality("open_lather", batches)
    rows = [(i, one) for i, batch in enumerate(batches) for one in batch]
    centre = np.mean([one.predicted for _, one in rows])
    # Offset at six weeks of age, points a doubling of age (bars younger than half a week count as that), slope, testers.
    design = np.array([
        [1.0, np.log2(max(one.age_weeks, 0.5) / 6.0), one.predicted - centre, *(one.tester == name for name in testers)]
        for _, one in rows
    ])  # fmt: skip
    spread = np.diag([learned.sheet_sd**2 / one.sheets for _, one in rows])
    spread += learned.batch_sd**2 * np.array([[i == k for k, _ in rows] for i, _ in rows])
    step = SPAN / 4
    priors = [
        np.sqrt(SHARE) * RULE_SD, coefficient("judging.age_spread") * step, coefficient("judging.slope_spread"),
        *[coefficient("judging.tester_spread") * step] * 2,
    ]  # fmt: skip
    inverse = np.linalg.inv(spread)
    covariance = np.linalg.inv(design.T @ inverse @ design + np.diag(1 / np.square(priors)))
    mean = covariance @ design.T @ inverse @ np.array([one.points - one.predicted for _, one in rows])
    told = [learned.offset, learned.age_gain, learned.slope, *(one.offset for one in learned.testers)]
    sds = [learned.offset_sd, learned.age_gain_sd, learned.slope_sd, *(one.sd for one in learned.testers)]
    assert told == pytest.approx(mean, rel=1e-3, abs=1e-4)
    assert sds == pytest.approx(np.sqrt(np.diag(covariance)), rel=1e-3)
    assert learned.offset_slope == pytest.approx(covariance[0, 2], rel=5e-3)
    assert learned.centre == pytest.approx(centre)
    # A bar that the rule gives ten points more than the mean: its own line, and the doubt of line and batch together.
    expected, sd = learned.expected(centre + 10)
    assert expected == pytest.approx(centre + 10 + learned.offset + 10 * learned.slope)
    doubt = covariance[0, 0] + 100 * covariance[2, 2] + 20 * covariance[0, 2] + learned.batch_sd**2
    assert sd == pytest.approx(np.sqrt(doubt), rel=1e-3)


class TestWhatIsTold:
    def test_a_tester_who_judges_high_is_told_apart(self):
        batches = [[sheets(0.0, tester="Runa"), sheets(8.0, tester="Ilmo")] for _ in range(12)]
        learned = learned_quality("open_lather", batches)
        offsets = {one.tester: one.offset for one in learned.testers}
        assert offsets["Ilmo"] - offsets["Runa"] == pytest.approx(8.0, abs=2.0)

    def test_bars_that_gain_with_age_are_not_taken_for_the_workshop(self):
        batches = [[sheets(0.0, weeks=6), sheets(6.0, weeks=24)] for _ in range(20)]
        learned = learned_quality("open_lather", batches)
        assert learned.age_gain == pytest.approx(3.0, abs=0.7)
        assert abs(learned.offset) < 1.0

    def test_a_slope_waits_for_eight_batches(self):
        spread = np.linspace(8, 34, 16)
        steep = [[sheets(0.4 * (points - 21), predicted=points, count=3)] for points in spread]
        assert learned_quality("open_lather", steep[:7]).slope == 0.0
        learned = learned_quality("open_lather", steep)
        assert learned.slope == pytest.approx(0.4, abs=0.12)
        assert learned.expected(30.0)[0] > 32.0

    def test_a_range_narrows_as_batches_come_in(self):
        widths = [learned_quality("open_lather", [[sheets(-5.0)]] * n).expected(20.0)[1] for n in (0, 2, 8, 30)]
        assert widths == sorted(widths, reverse=True)


def workshop(rng, batches, *, offset):
    found = []
    for _ in range(batches):
        predicted = rng.uniform(10, 32)
        own = offset + rng.normal(0, np.sqrt(1 - SHARE) * RULE_SD)
        found.append([sheets(own + rng.normal(0, SHEET_SD), predicted=predicted) for _ in range(3)])
    return found


def test_300_workshops():
    """Ranges of nine in ten hold 87 to 93 of a hundred; after eight batches the error is less than half of the rule's; and a
    workshop like any other is not taught nonsense.
    """
    rng = np.random.default_rng(2026)
    held, by_rule, by_learned, taught_nothing = 0, [], [], []
    for _ in range(300):
        offset = rng.normal(0, np.sqrt(SHARE) * RULE_SD)
        *before, _ = batches = workshop(rng, 9, offset=offset)
        following = batches[-1][0].predicted
        true = following + offset + rng.normal(0, np.sqrt(1 - SHARE) * RULE_SD)
        expected, sd = learned_quality("open_lather", before).expected(following)
        held += abs(true - expected) <= 1.645 * sd
        by_rule.append(offset)
        by_learned.append(expected - following - offset)
        plain = learned_quality("open_lather", workshop(rng, 8, offset=0.0))
        taught_nothing.append(plain.offset / RULE_SD)
    assert 0.87 <= held / 300 <= 0.93
    assert np.sqrt(np.mean(np.square(by_learned))) <= 0.5 * np.sqrt(np.mean(np.square(by_rule)))
    assert np.sqrt(np.mean(np.square(taught_nothing))) < 0.35


class TestFirmnessAtAnAge:
    BAR = Expectations(
        firmness_at_unmould=10, firmness_after_cure=20, firmness_at_best=32, unmould_hours_low=18, unmould_hours_high=30,
        usable_weeks=6, best_weeks=30, shelf_months=12, trace_points=30, trace="moderate",
    )  # fmt: skip

    def test_it_passes_through_what_is_expected_after_the_cure_and_at_its_best(self):
        assert firmness_at(self.BAR, None, coefficient("firmness.cured_weeks")) == pytest.approx(20)
        assert firmness_at(self.BAR, None, 52.0) == pytest.approx(32)

    def test_it_only_grows(self):
        values = [firmness_at(self.BAR, 4.0, weeks) for weeks in range(0, 60, 4)]
        assert values == sorted(values)
