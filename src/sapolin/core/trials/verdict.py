"""What blind choices say: an exact binomial for two bars, a paired-comparison model for more.

Two bars: under no preference every choice is a toss, so the chance of a split at least so uneven is the two-sided binomial.
Rounds without a difference tell of neither and are left out of it.

More bars: bar i has a preference θ_i, and is chosen out of a set S with the chance exp θ_i / Σ_S exp θ (Luce; for pairs Bradley
and Terry). Preferences have a normal prior, so a bar that always wins is not called endlessly strong; a round without a
difference counts as an equal part of a choice for each bar. The best preferences are found by Newton's steps, their spread from
the curvature there.
"""

from collections.abc import Sequence
from math import ceil, comb, erf, sqrt
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from sapolin.core.quantities.chances import Z_95
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.model import Model
from sapolin.core.quantities.text import Param, Text, number, text
from sapolin.core.trials.comparison import Comparison, ComparisonState

__all__ = ["BarStanding", "Choice", "Verdict", "more_the_same_way", "preferences", "split_chance", "verdict_of"]

SURE = 0.05
"""A split that chance alone gives more seldom than this tells two bars apart."""
SURELY = 0.975
PROBABLY = 0.9
MOST_FURTHER = 99
MOST_MORE = 12
"""More choices than this all the same way: the two are close."""
Floats = NDArray[np.floating]
STEPS = 30
Choice = tuple[tuple[int, ...], int | None]
"""The bars of a round, and the one chosen; null for no difference."""


class BarStanding(Model):
    """How one bar did."""

    bar: int
    label: str
    chosen: float
    """Rounds it was chosen in; a round without a difference counts for no bar."""
    shown: int
    """Rounds it took part in."""
    percent: float
    """It would be chosen so often beside a middling bar of these; an estimate."""
    low_percent: float
    high_percent: float
    """The 95 % range."""


class Verdict(Model):
    """What the choices say."""

    standing: Literal["clear", "probable", "not_yet", "close"]
    words: Text
    bars: tuple[BarStanding, ...]
    """The strongest first."""
    undecided: int
    """Rounds without a difference."""
    rounds: int
    """Rounds judged."""
    chance: float | None
    """For two bars: how often chance alone splits so unevenly, from 0 to 1."""


def split_chance(more: int, fewer: int) -> float:
    """How often chance alone splits `more` + `fewer` choices at least so unevenly, either way.

    >>> split_chance(5, 0), split_chance(6, 0), split_chance(3, 3)
    (0.0625, 0.03125, 1.0)
    """
    rounds, least = more + fewer, min(more, fewer)
    if more == fewer:
        return 1.0
    return float(min(1.0, 2 * sum(comb(rounds, k) for k in range(least + 1)) / 2**rounds))


def more_the_same_way(more: int, fewer: int) -> int:
    """The fewest further choices that would tell two bars apart, if all went the way of most so far.

    >>> more_the_same_way(5, 0), more_the_same_way(4, 2)
    (1, 6)
    """
    added = 0
    while split_chance(more + added, fewer) >= SURE:
        added += 1
    return added


def preferences(bars: int, choices: Sequence[Choice]) -> tuple[Floats, Floats]:
    """Preference of each bar (log of odds, about a mean of 0) and their covariance.

    >>> theta, _ = preferences(2, [((0, 1), 0), ((1, 0), 0), ((0, 1), 1)])
    >>> theta[0] > theta[1], bool(abs(theta.sum()) < 1e-9)
    (np.True_, True)
    """
    precision = np.eye(bars) / coefficient("judging.preference_spread") ** 2
    theta = np.zeros(bars)
    for _ in range(STEPS):
        slope, curve = -precision @ theta, precision.copy()
        for members, chosen in choices:
            at = list(members)
            odds = np.exp(theta[at] - theta[at].max())
            share = odds / odds.sum()
            got = np.full(len(at), 1 / len(at)) if chosen is None else np.array([float(one == chosen) for one in at])
            slope[at] += got - share
            curve[np.ix_(at, at)] += np.diag(share) - np.outer(share, share)
        step = np.linalg.solve(curve, slope)
        theta = theta + step
        if np.abs(step).max() < 1e-10:
            break
    return theta, np.linalg.inv(curve)


def verdict_of(comparison: Comparison, state: ComparisonState) -> Verdict:
    """What the choices made so far say. Raises ValueError when there are none."""
    choices: list[Choice] = []
    for i, code in state.chosen.items():
        one = comparison.rounds[i]
        choices.append((one.bars, None if code is None else one.bars[one.codes.index(code)]))
    if not choices:
        raise ValueError("no choices")
    labels = [one.label for one in comparison.setup.bars]
    theta, covariance = preferences(len(labels), choices)
    standings = _standings(labels, choices, theta, covariance)
    undecided = sum(chosen is None for _, chosen in choices)
    if len(labels) == 2:
        return _of_two(standings, undecided, len(choices))
    return _of_more(standings, undecided, len(choices), theta, covariance)


def _standings(
    labels: Sequence[str], choices: Sequence[Choice], theta: Floats, covariance: Floats
) -> tuple[BarStanding, ...]:
    sds = np.sqrt(np.diag(covariance))
    found = [
        BarStanding(
            bar=i, label=label, chosen=sum(chosen == i for _, chosen in choices),
            shown=sum(i in members for members, _ in choices), percent=_percent(theta[i]),
            low_percent=_percent(theta[i] - Z_95 * sds[i]), high_percent=_percent(theta[i] + Z_95 * sds[i]),
        )
        for i, label in enumerate(labels)
    ]  # fmt: skip
    return tuple(sorted(found, key=lambda one: -one.percent))


def _percent(preference: float) -> float:
    return float(100 / (1 + np.exp(-preference)))


def _of_two(standings: tuple[BarStanding, ...], undecided: int, rounds: int) -> Verdict:
    first, second = standings
    if second.chosen > first.chosen:
        first, second = second, first
    more, fewer = int(first.chosen), int(second.chosen)
    chance = split_chance(more, fewer)
    params: dict[str, Param] = {
        "first": first.label, "second": second.label, "more": number(more), "fewer": number(fewer),
        "rounds": number(rounds), "chance": number(max(100 * chance, 0.1), 0 if chance >= 0.01 else 1),
    }  # fmt: skip
    standing: Literal["clear", "not_yet", "close"] = "clear" if chance < SURE else "not_yet"
    key = "clear"
    if standing == "not_yet":
        further = more_the_same_way(more, fewer)
        standing = "close" if further > MOST_MORE else "not_yet"
        key = "close" if standing == "close" else "even" if more == fewer else "one_more" if further == 1 else "not_yet"
        params["further"] = number(further)
    return Verdict(
        standing=standing, words=text(f"comparison.two.{key}", **params), bars=(first, second), undecided=undecided,
        rounds=rounds, chance=chance,
    )  # fmt: skip


def _of_more(
    standings: tuple[BarStanding, ...], undecided: int, rounds: int, theta: Floats,
    covariance: Floats,
) -> Verdict:  # fmt: skip
    first, second = standings[:2]
    i, j = first.bar, second.bar
    apart = float(theta[i] - theta[j])
    sd = sqrt(covariance[i, i] + covariance[j, j] - 2 * covariance[i, j])
    sure = (1 + erf(apart / sd / sqrt(2))) / 2
    standing: Literal["clear", "probable", "not_yet", "close"]
    further = MOST_FURTHER
    if apart > 1e-6:
        # The spread shrinks with the root of the rounds.
        further = max(1, ceil(rounds * ((Z_95 * sd / apart) ** 2 - 1)))
    if sure >= SURELY:
        standing = "clear"
    elif sure >= PROBABLY:
        standing = "probable"
    else:
        standing = "close" if further >= 3 * rounds and rounds >= MOST_MORE else "not_yet"
    params: dict[str, Param] = {
        "first": first.label, "second": second.label, "sure": number(100 * sure, 0),
        "rounds": number(rounds), "further": number(min(further, MOST_FURTHER)),
    }  # fmt: skip
    return Verdict(
        standing=standing, words=text(f"comparison.more.{standing}", **params), bars=standings, undecided=undecided,
        rounds=rounds, chance=None,
    )  # fmt: skip
