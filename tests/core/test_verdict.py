"""Blind choices: drawn fairly, told honestly."""

from collections import Counter
from math import comb, log

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sapolin.core.quantities.diagnostics import FormulaError
from sapolin.core.quantities.text import plain
from sapolin.core.trials.comparison import (
    Chosen,
    ComparedBar,
    ComparisonRecord,
    ComparisonSetup,
    ComparisonStruck,
    Ended,
    KeyShown,
    comparison_refusal,
    comparison_state,
    drawn,
)
from sapolin.core.trials.verdict import more_the_same_way, preferences, split_chance, verdict_of

AT = "2026-05-01T12:00:00.000+00:00"


def setup(bars=2, rounds=6, at_once=2, testers=("Runa",)):
    named = tuple(ComparedBar(batch_id=f"b{i}", label=f"B-{i:03d}") for i in range(bars))
    return ComparisonSetup(question="Which?", bars=named, rounds=rounds, at_once=at_once, testers=testers)


def judged(comparison, choices):
    """The record in which bar `choices[i]` (null: no difference) was chosen in round i."""
    events = []
    for i, bar in enumerate(choices):
        one = comparison.rounds[i]
        code = None if bar is None else one.codes[one.bars.index(bar)]
        events.append(ComparisonRecord(seq=i + 1, at=AT, event=Chosen(kind="chosen", round=i, code=code)))
    return events


def verdict(comparison, choices):
    return verdict_of(comparison, comparison_state(comparison, judged(comparison, choices)))


class TestDrawing:
    @given(
        bars=st.integers(2, 6), rounds=st.integers(1, 60), at_once=st.sampled_from([2, 3]), seed=st.integers(0, 10**9)
    )
    def test_codes_are_new_in_every_round_and_bars_never_meet_themselves(self, bars, rounds, at_once, seed):
        at_once = min(at_once, bars)
        comparison = drawn(setup(bars, rounds, at_once, ("Runa", "Ilmo")), seed)
        assert len(comparison.rounds) == 2 * rounds
        for tester in ("Runa", "Ilmo"):
            codes = [code for one in comparison.rounds if one.tester == tester for code in one.codes]
            assert len(set(codes)) == len(codes) == rounds * at_once
            assert all(len(code) == 3 and code[0] != "0" for code in codes)
        assert all(len(set(one.bars)) == at_once for one in comparison.rounds)

    @given(pairs=st.integers(1, 15), seed=st.integers(0, 10**9))
    def test_each_of_two_stands_left_and_right_equally_often(self, pairs, seed):
        left = Counter(one.bars[0] for one in drawn(setup(rounds=2 * pairs), seed).rounds)
        assert left == {0: pairs, 1: pairs}

    def test_every_pair_of_four_meets_equally_often(self):
        met = Counter(frozenset(one.bars) for one in drawn(setup(bars=4, rounds=12), 3).rounds)
        assert set(met.values()) == {2}

    def test_another_seed_is_another_draw(self):
        assert drawn(setup(), 1) == drawn(setup(), 1) != drawn(setup(), 2)

    @pytest.mark.parametrize(
        ("change", "code"),
        [
            ({"bars": (ComparedBar(batch_id="a", label="A"),) * 2}, "same_bar_twice"),
            ({"testers": ("Runa", "RUNA")}, "same_tester_twice"),
            ({"at_once": 3}, "too_few_bars_for_three"),
        ],
    )
    def test_what_cannot_be_compared_is_refused(self, change, code):
        with pytest.raises(FormulaError) as refused:
            drawn(setup().model_copy(update=change), 1)
        assert refused.value.problems[0].code == code


class TestTheRecord:
    def test_a_choice_taken_back_is_asked_again(self):
        comparison = drawn(setup(), 1)
        events = judged(comparison, [0, 1])
        struck = ComparisonStruck(kind="struck", seq=2, reason="slip")
        assert comparison_refusal(struck, comparison, events) is None
        events.append(ComparisonRecord(seq=3, at=AT, event=struck))
        assert comparison_state(comparison, events).next_of(comparison, "Runa") == 1

    @pytest.mark.parametrize(
        ("event", "code"),
        [
            (Chosen(kind="chosen", round=0, code=None), "round_judged_already"),
            (Chosen(kind="chosen", round=99, code=None), "no_such_round"),
            (Chosen(kind="chosen", round=3, code="000"), "not_a_code_of_the_round"),
            (ComparisonStruck(kind="struck", seq=9, reason="slip"), "nothing_to_strike"),
        ],
    )
    def test_what_cannot_be_is_refused(self, event, code):
        comparison = drawn(setup(), 1)
        assert comparison_refusal(event, comparison, judged(comparison, [0])).code == code

    def test_once_it_is_over_nothing_is_chosen_or_taken_back(self):
        comparison = drawn(setup(), 1)
        events = [*judged(comparison, [0]), ComparisonRecord(seq=2, at=AT, event=Ended(kind="ended"))]
        for event in (Chosen(kind="chosen", round=1, code=None), ComparisonStruck(kind="struck", seq=1, reason="x")):
            assert comparison_refusal(event, comparison, events).code == "comparison_is_done"

    def test_that_the_key_was_seen_too_soon_stays_known(self):
        comparison = drawn(setup(rounds=1), 1)
        shown = ComparisonRecord(seq=1, at=AT, event=KeyShown(kind="key_shown"))
        assert comparison_state(comparison, [shown]).key_shown_at == AT
        after = [*judged(comparison, [0]), ComparisonRecord(seq=2, at=AT, event=KeyShown(kind="key_shown"))]
        assert comparison_state(comparison, after).key_shown_at is None


class TestTwoBars:
    @given(st.integers(0, 25), st.integers(0, 25))
    def test_the_chance_of_a_split_is_counted_out(self, more, fewer):
        rounds = more + fewer
        as_uneven = [k for k in range(rounds + 1) if abs(2 * k - rounds) >= abs(more - fewer)]
        counted = sum(comb(rounds, k) for k in as_uneven) / 2**rounds
        assert split_chance(more, fewer) == pytest.approx(counted)

    def test_five_to_nothing_cannot_tell_yet_and_one_more_would(self):
        told = verdict(drawn(setup(rounds=6), 1), [0] * 5)
        assert (told.standing, told.chance, more_the_same_way(5, 0)) == ("not_yet", 0.0625, 1)
        one, more = (plain(verdict(drawn(setup(rounds=6), 1), [0] * times).words) for times in (5, 4))
        assert "One more choice would" in one
        assert f"{more_the_same_way(4, 0)} more choices would" in more

    def test_nine_to_one_is_clear(self):
        told = verdict(drawn(setup(rounds=10), 1), [1] * 9 + [0])
        assert (told.standing, told.bars[0].label, told.bars[0].chosen) == ("clear", "B-001", 9)
        assert told.chance == pytest.approx(22 / 1024)

    def test_rounds_without_a_difference_tell_of_neither(self):
        comparison = drawn(setup(rounds=12), 1)
        told = verdict(comparison, [0] * 6 + [None] * 6)
        assert (told.standing, told.undecided, told.chance) == ("clear", 6, split_chance(6, 0))

    def test_a_long_tie_is_close_rather_than_almost_told(self):
        assert verdict(drawn(setup(rounds=40), 1), [0, 1] * 20).standing == "close"


class TestMoreBars:
    def test_two_bars_and_one_choice_by_hand(self):
        # One choice of 0 over 1, prior N(0, 1) for each: by symmetry θ1 = −θ0, and θ0 = 1 / (1 + exp 2 θ0).
        theta, _ = preferences(2, [((0, 1), 0)])
        assert theta[0] == pytest.approx(-theta[1])
        assert theta[0] == pytest.approx(1 / (1 + np.exp(2 * theta[0])))

    def test_many_choices_find_the_odds_they_came_from(self):
        true = np.array([log(4), log(2), 0.0]) - np.mean([log(4), log(2), 0.0])
        rng = np.random.default_rng(5)
        choices = []
        for _ in range(3000):
            members = tuple(int(one) for one in rng.permutation(3))
            share = np.exp(true[list(members)])
            choices.append((members, members[int(rng.choice(3, p=share / share.sum()))]))
        theta, covariance = preferences(3, choices)
        assert np.abs(theta - true) == pytest.approx(np.zeros(3), abs=4 * np.sqrt(covariance.diagonal().max()))

    def test_a_bar_that_always_wins_is_clear_and_one_round_tells_nothing(self):
        comparison = drawn(setup(bars=3, rounds=30), 2)
        always = [one.bars[0] if 0 not in one.bars else 0 for one in comparison.rounds]
        assert verdict(comparison, always).standing == "clear"
        assert verdict(comparison, always[:1]).standing == "not_yet"

    @pytest.mark.parametrize(("wins", "standing"), [(12, "close"), (14, "not_yet"), (15, "probable"), (17, "clear")])
    def test_the_more_often_it_wins_the_surer_it_stands_first(self, wins, standing):
        """It is in 20 of 30 pairs; the others win in turn. A lead that as many rounds again would prove is no tie."""
        comparison, left = drawn(setup(bars=3, rounds=30), 2), wins
        chosen = []
        for i, one in enumerate(comparison.rounds):
            others = [bar for bar in one.bars if bar != 0]
            chosen.append(0 if 0 in one.bars and left > 0 else others[i % len(others)])
            left -= 0 in one.bars
        told = verdict(comparison, chosen)
        assert (told.standing, told.bars[0].label) == (standing, "B-000")

    def test_no_differences_leave_all_alike(self):
        comparison = drawn(setup(bars=3, rounds=30), 2)
        told = verdict(comparison, [None] * 30)
        assert told.standing == "close"
        assert [bar.percent for bar in told.bars] == pytest.approx([50.0] * 3)

    def test_three_at_a_time(self):
        comparison = drawn(setup(bars=3, rounds=12, at_once=3), 2)
        assert verdict(comparison, [2] * 12).bars[0].label == "B-002"


def test_the_range_of_the_strong_holds_in_simulated_comparisons():
    """In nine of ten and more of 200 simulated comparisons the true preference lies in its 95 % range."""
    rng = np.random.default_rng(11)
    held = total = 0
    for seed in range(200):
        true = rng.normal(0, 1, size=4)
        comparison = drawn(setup(bars=4, rounds=24), seed)
        chosen = []
        for one in comparison.rounds:
            i, j = one.bars
            chosen.append(i if rng.random() < 1 / (1 + np.exp(true[j] - true[i])) else j)
        theta, covariance = preferences(
            4, [(one.bars, bar) for one, bar in zip(comparison.rounds, chosen, strict=True)]
        )
        held += int(np.sum(np.abs(theta - true) < 1.96 * np.sqrt(np.diag(covariance))))
        total += 4
    assert 0.92 < held / total < 0.98
