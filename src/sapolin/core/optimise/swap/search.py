"""The exact search behind a swap: the best few ways to give a share of the blend to up to three oils.

Asked is, over sets R of at most k oils and shares r on a grid with sum S,

    minimise |sum r_i a_i - t|^2

with a_i the weighted row of oil i and t what the swap should bring. For one and two oils the best grid point follows in
closed form (a convex parabola on a line: its best grid point is next to its foot). For three, every triple gets the exact
minimum over the continuous triangle as a lower bound, all triples at once; they are then looked at in the order of their
bounds, each over its whole grid, until no bound is below the worst answer kept. Nothing is left out, so the best is proven.

Oils that may only take a small share (waxes, free acids, castor) and an oil that moves are run through share by share:
what is left is a question about fewer oils. See ``docs/solving.md``.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from functools import lru_cache
from itertools import combinations, product
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

__all__ = ["BestFound", "Found", "Mover", "Search", "SwapCancelledError", "search"]

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
MOST_TRIPLES_LOOKED_AT = 20_000
"""Triples whose grids are searched before the search stops unproven; reached only by questions with no structure."""
RUN_THROUGH_BELOW = 8.5
"""Percent: oils that take at most this are few, and run through share by share; others are capped where shares are chosen."""
_DUST = 1e-9


class SwapCancelledError(Exception):
    """Nobody wants the answer any more: another question has taken its place."""


@dataclass(frozen=True)
class Mover:
    """An oil of the blend that may move."""

    row: Floats
    least: float
    """Lowest change of its share, %; negative lowers it."""
    most: float


@dataclass(frozen=True)
class Search:
    """A question to the search, in weighted rows per percent of share."""

    rows: Floats
    """Shape (oils, features)."""
    gram: Floats
    """`rows` times its transpose, shape (oils, oils)."""
    target: Floats
    """What the shares together should bring."""
    share: float
    """Share to give away, %."""
    most_each: Floats
    """The most that each oil may take, %."""
    least: float
    """The least that an oil that is used takes, %."""
    step: float
    most_oils: int
    movers: tuple[Mover, ...] = ()
    """Oils that may move: one of them, or all when they move together."""
    restraint: float = 0.0
    """Squared distance that a squared point moved counts as, when they move together."""
    go_on: Callable[[], bool] = lambda: True
    """Asked again and again: once it answers no, nobody wants the answer any more."""

    def check(self) -> None:
        """Raise SwapCancelledError when nobody wants the answer any more."""
        if not self.go_on():
            raise SwapCancelledError


class Found(NamedTuple):
    """One way to give the share away."""

    square: float
    """Squared distance."""
    shares: dict[int, float]
    """Share by oil, %."""
    moved: dict[int, float]
    """Which movers moved, and by how much."""


class BestFound:
    """The best few sets of oils so far; knows what a newcomer has to beat."""

    def __init__(self, keep: int) -> None:
        self.keep = keep
        self.worst = np.inf
        self._found: dict[tuple[tuple[int, ...], tuple[int, ...]], Found] = {}

    def add(self, square: float, shares: dict[int, float], moved: dict[int, float]) -> None:
        """Take a set of oils with the square of its miss, unless the same set is known with a smaller one."""
        key = (tuple(sorted(shares)), tuple(moved))
        known = self._found.get(key)
        if known is None or square < known.square - _DUST:
            self._found[key] = Found(max(square, 0.0), shares, moved)
            if len(self._found) > 4 * self.keep or (len(self._found) >= self.keep and self.worst == np.inf):
                self._found = dict(self._ranked()[: self.keep])
                self.worst = max(one.square for one in self._found.values())

    def _ranked(self) -> list[tuple[tuple[tuple[int, ...], tuple[int, ...]], Found]]:
        return sorted(
            self._found.items(),
            key=lambda item: (round(item[1].square, 9), len(item[1].shares), sorted(item[1].shares)),
        )

    def ordered(self) -> list[Found]:
        """The sets kept, the nearest first."""
        return [one for _, one in self._ranked()[: self.keep]]


class _Among:
    """The oils that may take all of it, with what every question about them needs again and again."""

    def __init__(self, question: Search) -> None:
        self.oils = np.flatnonzero(~_is_limited(question))
        self.most = question.most_each[self.oils]
        self.rows = question.rows[self.oils]
        self.gram = question.gram[np.ix_(self.oils, self.oils)]
        self.squares = np.diag(self.gram).copy()
        self.first, self.second = np.triu_indices(len(self.oils), 1)
        self.cross = self.gram[self.first, self.second]
        self.bend = self.squares[self.first] + self.squares[self.second] - 2 * self.cross


def _is_limited(question: Search) -> NDArray[np.bool_]:
    """Oils that take so little that their shares are run through one by one."""
    return np.asarray(question.most_each < np.minimum(question.share, RUN_THROUGH_BELOW) - _DUST)


def search(question: Search, keep: int) -> tuple[list[Found], bool, int]:
    """The best `keep` sets of oils, each with its best shares; whether that is proven; how many sets were compared.

    Sets are compared by their distance; ties go to fewer oils, then to catalogue order.
    """
    best, compared, proven = BestFound(keep), 0, True
    for moved, moved_question in _with_moves(question):
        among = _Among(moved_question)
        for fixed, left in _with_limited(moved_question):
            question.check()
            if left.share <= _DUST:
                compared += 1
                best.add(float(left.target @ left.target), fixed, moved)
                continue
            count, is_proven = _give(left, among, question.most_oils - len(fixed), fixed, moved, best)
            compared += count
            proven &= is_proven
    return best.ordered(), proven, compared


def _with_moves(question: Search) -> Iterator[tuple[dict[int, float], Search]]:
    yield {}, question
    for i, mover in enumerate(question.movers):
        steps = range(int(np.ceil(mover.least / question.step)), int(np.floor(mover.most / question.step)) + 1)
        for change in (count * question.step for count in steps if count):
            if question.share - change > _DUST:
                yield {i: change}, _less(question, mover.row * change, change)


def _less(question: Search, brought: Floats, share: float) -> Search:
    return replace(question, target=question.target - brought, share=question.share - share)


def _with_limited(question: Search) -> Iterator[tuple[dict[int, float], Search]]:
    """Run through the shares of oils that may not take all of it; yields what is fixed and what is left to give."""
    limited = np.flatnonzero(_is_limited(question))
    limited = limited[question.most_each[limited] >= question.least - _DUST]
    yield {}, question
    for count in range(1, question.most_oils + 1):
        for oils in combinations(limited.tolist(), count):
            if count == question.most_oils and question.most_each[list(oils)].sum() < question.share - _DUST:
                continue
            for shares in _grids(question, oils):
                left = question.share - sum(shares)
                if left <= _DUST or (count < question.most_oils and left >= question.least - _DUST):
                    brought = sum(question.rows[oil] * share for oil, share in zip(oils, shares, strict=True))
                    yield dict(zip(oils, shares, strict=True)), _less(question, np.asarray(brought), sum(shares))


def _grids(question: Search, oils: tuple[int, ...]) -> Iterator[tuple[float, ...]]:
    """Every way to give `oils` shares on the grid, from the least to the most each may take, the whole at most; the last
    may take what the grid leaves over."""
    ranges = [
        np.arange(question.least, min(question.most_each[oil], question.share) + _DUST, question.step).tolist()
        for oil in oils
    ]
    for shares in product(*ranges):
        if sum(shares) <= question.share + _DUST:
            yield shares
    for shares in product(*ranges[:-1]):
        rest = question.share - sum(shares)
        off_grid = abs((rest - question.least) / question.step - round((rest - question.least) / question.step)) > 1e-6
        if off_grid and question.least - _DUST <= rest <= question.most_each[oils[-1]] + _DUST:
            yield (*shares, rest)


def _give(
    question: Search,
    among: _Among,
    most_oils: int,
    fixed: dict[int, float],
    moved: dict[int, float],
    best: BestFound,
) -> tuple[int, bool]:
    """Give the whole share to at most `most_oils` of the oils `among`; how many sets were compared, and whether that is
    proven."""
    if most_oils <= 0 or not len(among.oils):
        return 0, True
    pull, rest, share = among.rows @ question.target, float(question.target @ question.target), question.share
    ones = share * share * among.squares - 2 * share * pull + rest
    for i in np.flatnonzero((ones < best.worst) & (among.most >= share - _DUST)):
        best.add(float(ones[i]), fixed | {int(among.oils[i]): share}, moved)
    compared = len(ones)
    if most_oils >= 2 and share >= 2 * question.least - _DUST and len(among.first):
        values, amounts = _pairs(among, pull, rest, question)
        compared += len(values)
        better = np.flatnonzero(values < best.worst)
        for p in better[np.argsort(values[better], kind="stable")][: best.keep]:
            one, other = int(among.oils[among.first[p]]), int(among.oils[among.second[p]])
            best.add(float(values[p]), fixed | {one: float(amounts[p]), other: share - float(amounts[p])}, moved)
    if most_oils >= 3 and share >= 3 * question.least - _DUST and len(among.oils) >= 3:
        count, proven = _triples(among, pull, rest, question, fixed, moved, best)
        return compared + count, proven
    return compared, True


def _pairs(among: _Among, pull: Floats, rest: float, question: Search) -> tuple[Floats, Floats]:
    """Best grid value of every pair, and what the first takes: the parabola's foot, or a grid point beside it."""
    share, least, step = question.share, question.least, question.step
    first_square, second_square = among.squares[among.first], among.squares[among.second]
    first_pull, second_pull = pull[among.first], pull[among.second]
    slope = share * (second_square - among.cross) + first_pull - second_pull
    foot = np.where(among.bend > _DUST, slope / np.maximum(among.bend, _DUST), least)
    last = np.floor((share - 2 * least) / step + _DUST)
    # Grid steps at which neither oil has more than it may: the first at most its own, the second at most its own.
    lowest = np.ceil(np.maximum(share - among.most[among.second] - least, 0.0) / step - _DUST)
    highest = np.minimum(last, np.floor((among.most[among.first] - least) / step + _DUST))
    below = np.clip(np.floor((foot - least) / step), lowest, np.maximum(highest, lowest))

    def value(amount: Floats) -> Floats:
        other = share - amount
        return np.asarray(
            amount * (amount * first_square + 2 * other * among.cross - 2 * first_pull)
            + other * (other * second_square - 2 * second_pull)
            + rest
        )

    low, high = least + below * step, least + np.clip(below + 1, lowest, np.maximum(highest, lowest)) * step
    possible = (lowest <= highest + _DUST) & (highest >= 0)
    low_value = np.where(possible, value(low), np.inf)
    high_value = np.where(possible, value(high), np.inf)
    return np.minimum(low_value, high_value), np.where(low_value <= high_value, low, high)


@lru_cache(maxsize=8)
def _corners(count: int) -> Ints:
    """Every triple of `count` oils, shape (triples, 3)."""
    return np.array(list(combinations(range(count), 3)), dtype=np.intp)


def _triples(
    among: _Among,
    pull: Floats,
    rest: float,
    question: Search,
    fixed: dict[int, float],
    moved: dict[int, float],
    best: BestFound,
) -> tuple[int, bool]:
    corners = _corners(len(among.oils))
    bounds = _triangle_bounds(among.gram, pull, rest, corners, question)
    counts = _triangle_grid(question)
    promising = np.flatnonzero(bounds < best.worst - _DUST)
    for looked_at, t in enumerate(promising[np.argsort(bounds[promising], kind="stable")]):
        if bounds[t] >= best.worst - _DUST:
            break
        if looked_at >= MOST_TRIPLES_LOOKED_AT:
            return len(corners), False
        three = corners[t]
        small = among.gram[np.ix_(three, three)]
        values = np.einsum("ni,ij,nj->n", counts, small, counts) - 2 * counts @ pull[three] + rest
        values[(counts > among.most[three] + _DUST).any(axis=1)] = np.inf
        at = int(np.argmin(values))
        if not np.isfinite(values[at]):
            continue
        shares = {int(among.oils[i]): float(share) for i, share in zip(three, counts[at], strict=True)}
        best.add(float(values[at]), fixed | shares, moved)
    return len(corners), True


def _triangle_grid(question: Search) -> Floats:
    """Every way to split the share in three on the grid, shape (ways, 3); the last takes what the grid leaves over."""
    share, least, step = question.share, question.least, question.step
    last = int(np.floor((share - 3 * least) / step + _DUST))
    one, two = np.meshgrid(np.arange(last + 1), np.arange(last + 1), indexing="ij")
    inside = one + two <= last
    first, second = least + one[inside] * step, least + two[inside] * step
    return np.stack([first, second, share - first - second], axis=1)


def _triangle_bounds(gram: Floats, pull: Floats, rest: float, corners: Ints, question: Search) -> Floats:
    """Exact minimum of every triple over the continuous triangle of shares that are at least `least`."""
    i, j, k = corners.T
    least = question.least
    room = question.share - 3 * least
    # Shares are least + u with u >= 0 and sum `room`; pulls shift by what the least shares bring already.
    squares = np.diag(gram)
    gii, gjj, gkk = squares[i], squares[j], squares[k]
    gij, gik, gjk = gram[i, j], gram[i, k], gram[j, k]
    ci = pull[i] - least * (gii + gij + gik)
    cj = pull[j] - least * (gij + gjj + gjk)
    ck = pull[k] - least * (gik + gjk + gkk)
    base = (
        rest + least**2 * (gii + gjj + gkk + 2 * (gij + gik + gjk)) - 2 * least * (pull[i] + pull[j] + pull[k])
    )  # fmt: skip

    def edge(g11: Floats, g22: Floats, g12: Floats, c1: Floats, c2: Floats) -> Floats:
        bend = g11 + g22 - 2 * g12
        foot = np.where(bend > _DUST, (room * (g22 - g12) - (c2 - c1)) / np.maximum(bend, _DUST), 0.0)
        u = np.clip(foot, 0.0, room)
        v = room - u
        return np.asarray(u * u * g11 + v * v * g22 + 2 * u * v * g12 - 2 * (u * c1 + v * c2))

    lowest = np.minimum(edge(gii, gjj, gij, ci, cj), edge(gii, gkk, gik, ci, ck))
    lowest = np.minimum(lowest, edge(gjj, gkk, gjk, cj, ck))
    # Inside: u_k = room - u_i - u_j; a 2 x 2 system for (u_i, u_j).
    hii, hjj, hij = gii + gkk - 2 * gik, gjj + gkk - 2 * gjk, gij + gkk - gik - gjk
    bi, bj = ci - ck + room * (gkk - gik), cj - ck + room * (gkk - gjk)
    det = hii * hjj - hij * hij
    safe = np.where(det > _DUST, det, 1.0)
    ui, uj = (bi * hjj - bj * hij) / safe, (bj * hii - bi * hij) / safe
    inside = (det > _DUST) & (ui >= 0) & (uj >= 0) & (ui + uj <= room)
    centre = room * room * gkk - 2 * room * ck - (bi * ui + bj * uj)
    return np.asarray(base + np.where(inside, centre, lowest))
