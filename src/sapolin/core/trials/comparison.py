"""Blind comparisons: two or three bars at a time under codes, in mixed order, and only then who was who.

Codes are new in every round, so that nobody follows one from round to round; each bar stands left and right equally often.
"""

from collections.abc import Sequence
from itertools import combinations, permutations
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from sapolin.core.quantities.diagnostics import Diagnostic, FormulaError, stopping
from sapolin.core.quantities.model import Model, Truth
from sapolin.core.quantities.text import number

__all__ = [
    "Chosen", "ComparedBar", "Comparison", "ComparisonEvent", "ComparisonRecord", "ComparisonSetup", "ComparisonState",
    "ComparisonStruck", "Ended", "KeyShown", "Round", "comparison_refusal", "comparison_state", "drawn",
]  # fmt: skip

MOST_ROUNDS = 60
CODES = range(100, 1000)
Name = Annotated[str, Field(min_length=1, max_length=40, pattern=r"^[^\x00-\x1f]*\S[^\x00-\x1f]*$")]


class ComparedBar(Model):
    """A bar that takes part."""

    batch_id: str
    label: str
    """Code and name of its batch."""


class ComparisonSetup(Model):
    """What is to be compared, as the maker asks for it."""

    question: Annotated[str, Field(min_length=1, max_length=120)]
    bars: Annotated[tuple[ComparedBar, ...], Field(min_length=2, max_length=6)]
    at_once: Literal[2, 3] = 2
    rounds: Annotated[int, Field(ge=1, le=MOST_ROUNDS)] = 6
    """For each tester."""
    testers: Annotated[tuple[Name, ...], Field(min_length=1, max_length=12)]


class Round(Model):
    """Bars side by side, from left to right."""

    tester: str
    bars: tuple[int, ...]
    """Their places among the bars of the comparison."""
    codes: tuple[str, ...]


class Comparison(Model):
    """A comparison as drawn; it never changes."""

    setup: ComparisonSetup
    rounds: tuple[Round, ...]


class Chosen(Model):
    """A choice was made in a round."""

    kind: Literal["chosen"]
    round: Annotated[int, Field(ge=0, lt=1000)]
    code: Annotated[str, Field(min_length=3, max_length=3)] | None
    """Null: no difference."""


class KeyShown(Model):
    """Who is who was shown, as to a helper who lays the bars out."""

    kind: Literal["key_shown"]


class Ended(Model):
    """No more choices are waited for."""

    kind: Literal["ended"]


class ComparisonStruck(Model):
    """An earlier entry does not count; it stays in the record."""

    kind: Literal["struck"]
    seq: int
    reason: Annotated[str, Field(min_length=1, max_length=500)]


ComparisonEvent = Annotated[Chosen | KeyShown | Ended | ComparisonStruck, Field(discriminator="kind")]


class ComparisonRecord(Model):
    """An event as kept."""

    seq: int
    at: str
    event: ComparisonEvent


class ComparisonState(Model):
    """How far a comparison is."""

    chosen: dict[int, str | None]
    """By round: the code chosen, null for no difference."""
    is_done: Truth
    """All is judged, or it was ended: who is who may be seen."""
    key_shown_at: str | None
    """When it was shown before all was judged; null when it was not."""

    def next_of(self, comparison: Comparison, tester: str) -> int | None:
        """The next round of a tester; null when there is none."""
        rounds = (i for i, one in enumerate(comparison.rounds) if one.tester == tester and i not in self.chosen)
        return next(rounds, None)


def drawn(setup: ComparisonSetup, seed: int) -> Comparison:
    """Draw codes and order for a comparison. Raises FormulaError when it cannot be.

    >>> bars = tuple(ComparedBar(batch_id=one, label=one) for one in ("a", "b"))
    >>> once = drawn(ComparisonSetup(question="Which?", bars=bars, rounds=4, testers=("Ada",)), 7)
    >>> sorted(one.bars for one in once.rounds)
    [(0, 1), (0, 1), (1, 0), (1, 0)]
    """
    if len({one.batch_id for one in setup.bars}) < len(setup.bars):
        raise FormulaError([stopping("same_bar_twice", "bars")])
    if len({name.casefold() for name in setup.testers}) < len(setup.testers):
        raise FormulaError([stopping("same_tester_twice", "testers")])
    if setup.at_once > len(setup.bars):
        raise FormulaError([stopping("too_few_bars_for_three", "at_once", bars=number(len(setup.bars)))])
    rng = np.random.default_rng(seed)
    rounds = []
    for tester in setup.testers:
        orders = _orders(len(setup.bars), setup.at_once, setup.rounds, rng)
        codes = rng.permutation(np.array(CODES))
        for i, bars in enumerate(orders):
            mine = codes[i * setup.at_once : (i + 1) * setup.at_once]
            rounds.append(Round(tester=tester, bars=bars, codes=tuple(str(code) for code in mine)))
    return Comparison(setup=setup, rounds=tuple(rounds))


def _orders(bars: int, at_once: int, rounds: int, rng: np.random.Generator) -> list[tuple[int, ...]]:
    """Which bars stand side by side, and where, round by round: every set equally often, every place too, as far as it goes."""
    sets = [*combinations(range(bars), at_once)]
    turns = {one: [*permutations(one)] for one in sets}
    for orders in turns.values():
        rng.shuffle(orders)
    found: list[tuple[int, ...]] = []
    lap = 0
    while len(found) < rounds:
        lap_of = [turns[sets[i]][lap % len(turns[sets[i]])] for i in rng.permutation(len(sets))]
        found += lap_of
        lap += 1
    found = found[:rounds]
    rng.shuffle(found)
    return found


def comparison_state(comparison: Comparison, events: Sequence[ComparisonRecord]) -> ComparisonState:
    """Add up the record of a comparison; the last choice of a round counts."""
    struck = {record.event.seq for record in events if isinstance(record.event, ComparisonStruck)}
    chosen: dict[int, str | None] = {}
    ended, shown_at = False, None
    for record in events:
        event = record.event
        if isinstance(event, KeyShown) and len(chosen) < len(comparison.rounds) and not ended:
            shown_at = shown_at or record.at
        if record.seq in struck:
            continue
        if isinstance(event, Chosen):
            chosen[event.round] = event.code
        elif isinstance(event, Ended):
            ended = True
    return ComparisonState(
        chosen=chosen, is_done=ended or len(chosen) == len(comparison.rounds), key_shown_at=shown_at
    )  # fmt: skip


def comparison_refusal(
    event: ComparisonEvent, comparison: Comparison, events: Sequence[ComparisonRecord]
) -> Diagnostic | None:
    """Why `event` cannot be added to the record now; null when it can."""
    state = comparison_state(comparison, events)
    if isinstance(event, Chosen):
        if event.round >= len(comparison.rounds):
            return stopping(
                "no_such_round", "round", round=number(event.round + 1), rounds=number(len(comparison.rounds))
            )
        if state.is_done:
            return stopping("comparison_is_done", "kind")
        if event.round in state.chosen:
            return stopping("round_judged_already", "round", round=number(event.round + 1))
        if event.code is not None and event.code not in comparison.rounds[event.round].codes:
            return stopping("not_a_code_of_the_round", "code", chosen=event.code)
    if isinstance(event, Ended):
        if state.is_done:
            return stopping("comparison_is_done", "kind")
        if not state.chosen:
            return stopping("nothing_chosen", "kind")
    if isinstance(event, ComparisonStruck):
        known = next((one for one in events if one.seq == event.seq), None)
        gone = {one.event.seq for one in events if isinstance(one.event, ComparisonStruck)}
        if known is None or event.seq in gone or not isinstance(known.event, Chosen):
            return stopping("nothing_to_strike", "seq", number=number(event.seq))
        if state.is_done:
            return stopping("comparison_is_done", "kind")
    return None
