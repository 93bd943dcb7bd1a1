"""Blind comparisons: what may be recorded when, and what the record then says."""

import pytest

from sapolin.core.quantities.diagnostics import FormulaError
from sapolin.core.quantities.text import plain
from sapolin.core.trials.comparison import (
    Chosen,
    ComparedBar,
    Comparison,
    ComparisonRecord,
    ComparisonSetup,
    ComparisonStruck,
    Ended,
    KeyShown,
    Round,
    comparison_refusal,
    comparison_state,
    drawn,
)

BARS = tuple(ComparedBar(batch_id=one, label=one) for one in ("a", "b", "c"))
THREE_ROUNDS = Comparison(
    setup=ComparisonSetup(question="Which lathers more?", bars=BARS[:2], rounds=2, testers=("Ada", "Bo")),
    rounds=(
        Round(tester="Ada", bars=(0, 1), codes=("111", "222")), Round(tester="Ada", bars=(1, 0), codes=("333", "444")),
        Round(tester="Bo", bars=(0, 1), codes=("555", "666")),
    ),
)  # fmt: skip
FIRST, SECOND = Chosen(kind="chosen", round=0, code="222"), Chosen(kind="chosen", round=1, code=None)
THIRD, ENDED = Chosen(kind="chosen", round=2, code="555"), Ended(kind="ended")
SHOWN = KeyShown(kind="key_shown")


def struck(seq: int) -> ComparisonStruck:
    return ComparisonStruck(kind="struck", seq=seq, reason="A slip.")


def record(*events) -> list[ComparisonRecord]:
    return [ComparisonRecord(seq=i, at=f"2026-05-0{i}T10:00:00+00:00", event=one) for i, one in enumerate(events, 1)]


@pytest.mark.parametrize(
    ("before", "event", "code"),
    [
        ((), FIRST, None), ((), SECOND, None), ((FIRST,), SECOND, None),
        # Three rounds: the fourth is none of them.
        ((), Chosen(kind="chosen", round=3, code="555"), "no_such_round"),
        # The code of another round, and one that nobody bears.
        ((), Chosen(kind="chosen", round=0, code="333"), "not_a_code_of_the_round"),
        ((FIRST,), FIRST, "round_judged_already"),
        ((FIRST, struck(1)), FIRST, None),
        ((FIRST, SECOND, THIRD), FIRST, "comparison_is_done"),
        ((FIRST, ENDED), SECOND, "comparison_is_done"),
        ((), ENDED, "nothing_chosen"), ((FIRST,), ENDED, None), ((FIRST, struck(1)), ENDED, "nothing_chosen"),
        ((FIRST, ENDED), ENDED, "comparison_is_done"),
        ((), struck(1), "nothing_to_strike"), ((FIRST,), struck(1), None), ((FIRST,), struck(2), "nothing_to_strike"),
        ((FIRST, struck(1)), struck(1), "nothing_to_strike"), ((FIRST, struck(1)), struck(2), "nothing_to_strike"),
        ((FIRST, ENDED), struck(1), "comparison_is_done"), ((), SHOWN, None), ((FIRST, ENDED), SHOWN, None),
    ],
)  # fmt: skip
def test_what_may_be_recorded(before, event, code):
    refusal = comparison_refusal(event, THREE_ROUNDS, record(*before))
    assert (refusal and refusal.code) == code


def test_a_refusal_counts_rounds_from_one():
    refusal = comparison_refusal(Chosen(kind="chosen", round=3, code="555"), THREE_ROUNDS, [])
    assert {name: plain((value,)) for name, value in refusal.params.items()} == {"round": "4", "rounds": "3"}
    again = comparison_refusal(SECOND, THREE_ROUNDS, record(SECOND))
    assert {name: plain((value,)) for name, value in again.params.items()} == {"round": "2"}


@pytest.mark.parametrize(
    ("events", "chosen", "is_done", "shown"),
    [
        ((), {}, False, None), ((FIRST,), {0: "222"}, False, None),
        ((FIRST, SECOND, THIRD), {0: "222", 1: None, 2: "555"}, True, None),
        ((FIRST, struck(1)), {}, False, None), ((FIRST, ENDED), {0: "222"}, True, None),
        # Shown to a helper before all is judged, once and again: the first time is told.
        ((SHOWN, FIRST, SHOWN), {0: "222"}, False, "2026-05-01T10:00:00+00:00"),
        # Shown when all is judged, or after the end: nobody's choice was swayed.
        ((FIRST, SECOND, THIRD, SHOWN), {0: "222", 1: None, 2: "555"}, True, None),
        ((FIRST, ENDED, SHOWN), {0: "222"}, True, None),
        # A choice that was struck out does not count; what follows it does.
        ((FIRST, struck(1), SECOND, THIRD), {1: None, 2: "555"}, False, None),
    ],
)  # fmt: skip
def test_what_the_record_says(events, chosen, is_done, shown):
    state = comparison_state(THREE_ROUNDS, record(*events))
    assert (state.chosen, state.is_done, state.key_shown_at) == (chosen, is_done, shown)


def test_who_judges_next():
    state = comparison_state(THREE_ROUNDS, record(FIRST))
    assert [state.next_of(THREE_ROUNDS, tester) for tester in ("Ada", "Bo", "Cy")] == [1, 2, None]


@pytest.mark.parametrize("at_once", [2, 3])
def test_every_set_and_every_place_comes_equally_often(at_once):
    """Three bars: three pairs of two orders each, or one set of six orders; each comes twice in twelve rounds."""
    setup = ComparisonSetup(question="Which?", bars=BARS, at_once=at_once, rounds=12, testers=("Ada", "Bo"))
    comparison = drawn(setup, 5)
    assert len(comparison.rounds) == 24
    for tester in ("Ada", "Bo"):
        mine = [one for one in comparison.rounds if one.tester == tester]
        assert sorted(one.bars for one in mine) == sorted(2 * sorted({one.bars for one in mine}))
        assert len({one.bars for one in mine}) == 6
        # No code twice, so that nobody follows a bar from round to round.
        codes = [code for one in mine for code in one.codes]
        assert len(set(codes)) == len(codes) == 12 * at_once
        assert all(len(code) == 3 and code.isdigit() for code in codes)


@pytest.mark.parametrize(
    ("changes", "code"),
    [
        ({"bars": (BARS[0], BARS[1], BARS[0])}, "same_bar_twice"), ({"testers": ("Ada", "ADA")}, "same_tester_twice"),
        ({"bars": BARS[:2], "at_once": 3}, "too_few_bars_for_three"), ({"at_once": 3}, None),
    ],
)  # fmt: skip
def test_what_cannot_be_compared(changes, code):
    setup = ComparisonSetup(**{"question": "Which?", "bars": BARS, "testers": ("Ada", "Bo")} | changes)
    if code is None:
        assert len(drawn(setup, 1).rounds) == 12
        return
    with pytest.raises(FormulaError) as refused:
        drawn(setup, 1)
    assert [one.code for one in refused.value.problems] == [code]
