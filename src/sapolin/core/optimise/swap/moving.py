"""The search behind a swap when every oil that stays may move with it.

Asked is, over sets R of at most k new oils, their shares r and the changes d of the oils that stay, all on a grid and with
sum S,

    minimise |sum r_i a_i + sum d_j b_j - t|^2 + restraint * sum d_j^2

so that nothing moves without a gain. Every set first gets a lower bound, all sets at once: the oils that stay may take any
change, which projects their rows out and leaves an exact little question about the new oils alone. Sets are then looked at
in the order of their bounds, each to its best grid point: the triangular form of the least-squares problem is gone through
one share at a time, nearest grid point first, and a branch ends when what it has cost already is too much. It stops when no
bound is below the worst answer kept, so the best is proven; a search that would take too long stops and says so.
"""

from collections.abc import Iterator
from itertools import accumulate, combinations
from math import ceil, floor

import numpy as np
from numpy.typing import NDArray

from sapolin.core.optimise.swap.search import BestFound, Found, Mover, Search

__all__ = ["search_moving"]

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
MOST_SETS_LOOKED_AT = 1_500
MOST_STEPS = 400_000
"""Grid points gone through, all sets together, before the search stops unproven."""
_DUST = 1e-9


def search_moving(question: Search, keep: int) -> tuple[list[Found], bool, int]:
    """The best `keep` sets of new oils with all movers moving; whether that is proven; how many sets were compared."""
    best = BestFound(keep)
    sets, bounds = _bounded_sets(question)
    walk = _Walk(question, best)
    for looked_at, i in enumerate(np.argsort(bounds, kind="stable")):
        question.check()
        if bounds[i] >= best.worst - _DUST:
            break
        if looked_at >= MOST_SETS_LOOKED_AT or walk.steps > MOST_STEPS:
            return best.ordered(), False, len(sets)
        walk.through(sets[i])
    return best.ordered(), walk.steps <= MOST_STEPS, len(sets)


def _extended(question: Search) -> tuple[Floats, Floats, Floats]:
    """Rows of the new oils, of the movers, and the target, with one more feature a mover for its restraint."""
    movers = len(question.movers)
    new = np.hstack([question.rows, np.zeros((len(question.rows), movers))])
    moving = np.hstack([
        np.array([mover.row for mover in question.movers]), np.sqrt(question.restraint) * np.eye(movers)
    ])  # fmt: skip
    return new, moving, np.concatenate([question.target, np.zeros(movers)])


def _bounded_sets(question: Search) -> tuple[list[tuple[int, ...]], Floats]:
    """Every set of new oils, the empty one included, with a lower bound for its squared distance."""
    new, moving, target = _extended(question)
    base = moving[0]
    spread, _ = np.linalg.qr((moving[1:] - base).T)
    aim = target - question.share * base
    aim = aim - spread @ (spread.T @ aim)
    free = new - base
    free = free - (free @ spread) @ spread.T
    gram, pull, rest = free @ free.T, free @ aim, float(aim @ aim)
    oils = np.flatnonzero(question.most_each >= question.least - _DUST)
    sets: list[tuple[int, ...]] = [()]
    bounds = [np.array([rest])]
    for size in range(1, min(question.most_oils, len(oils)) + 1):
        these = np.array(list(combinations(oils.tolist(), size)), dtype=np.intp)
        sets += [tuple(one) for one in these.tolist()]
        bounds.append(_least_squares_over_corner(gram, pull, rest, these, question.least))
    return sets, np.concatenate(bounds)


def _least_squares_over_corner(gram: Floats, pull: Floats, rest: float, sets: Ints, least: float) -> Floats:
    """Exact minimum of r'Gr - 2 c'r + rest over r >= least, for every set of oils: shape (sets,).

    The minimum lies on one face of the corner, where the shares that are not at `least` solve a small linear system; every
    face whose solution is inside is a possible point, so the lowest of them is the minimum.
    """
    size = sets.shape[1]
    small = gram[sets[:, :, None], sets[:, None, :]]
    shifted = pull[sets] - least * small.sum(axis=2)
    start = rest + least**2 * small.sum(axis=(1, 2)) - 2 * least * pull[sets].sum(axis=1)
    lowest = start.copy()
    for count in range(1, size + 1):
        for face in map(list, combinations(range(size), count)):
            system = small[:, face][:, :, face] + _DUST * np.eye(count)
            shares = np.linalg.solve(system, shifted[:, face][:, :, None])[:, :, 0]
            inside = np.all(shares >= -_DUST, axis=1)
            value = start - np.einsum("sf,sf->s", shifted[:, face], shares)
            lowest = np.where(inside, np.minimum(lowest, value), lowest)
    return np.asarray(lowest - 1e-7)


class _Walk:
    """Goes through the grid points of one set after another, keeping count of its steps."""

    def __init__(self, question: Search, best: BestFound) -> None:
        self.steps = 0
        self._question = question
        self._best = best
        self._new, self._moving, self._target = _extended(question)
        self._widest = max(range(len(question.movers)), key=lambda i: _room(question.movers[i]))

    def through(self, oils: tuple[int, ...]) -> None:
        """Keep the best grid point of the set `oils`, if it is good enough."""
        question, step = self._question, self._question.step
        movers = [i for i in range(len(question.movers)) if oils or i != self._widest]
        rows = [*self._moving[movers], *self._new[list(oils)]]
        starts = [0.0] * len(movers) + [question.least] * len(oils)
        lows = [int(np.ceil(question.movers[i].least / step - _DUST)) for i in movers] + [0] * len(oils)
        highs = [int(np.floor(question.movers[i].most / step + _DUST)) for i in movers] + [
            int(np.floor((question.most_each[oil] - question.least) / step + _DUST)) for oil in oils
        ]
        if oils:
            last, last_low, last_high = rows.pop(), question.least, float(question.most_each[oils[-1]])
            starts.pop(), lows.pop(), highs.pop()
        else:
            mover = question.movers[self._widest]
            last, last_low, last_high = self._moving[self._widest], mover.least, mover.most
        # What the last takes is what the others leave over: its row is taken off each of theirs.
        left = question.share - sum(starts)
        offset = sum((row * start for row, start in zip(rows, starts, strict=True)), left * last) - self._target
        found = self._nearest(
            step * (np.array(rows) - last).T.reshape(len(last), -1), np.asarray(offset), lows, highs,
            ((left - last_high) / step, (left - last_low) / step),
        )  # fmt: skip
        if found is None:
            return
        square, counts = found
        taken = [start + step * count for start, count in zip(starts, counts, strict=True)]
        taken.append(question.share - sum(taken))
        moved = dict(zip(movers, taken, strict=False))
        if not oils:
            moved[self._widest] = taken[-1]
        shares = dict(zip(oils, taken[len(movers) :], strict=True)) if oils else {}
        self._best.add(square, shares, {i: change for i, change in sorted(moved.items()) if abs(change) > _DUST})

    def _nearest(
        self, columns: Floats, offset: Floats, lows: list[int], highs: list[int], sums: tuple[float, float]
    ) -> tuple[float, list[int]] | None:
        """Whole numbers between `lows` and `highs` whose sum is within `sums` and that bring offset + columns @ numbers
        nearest to zero, when nearer than the worst kept."""
        order = _weakest_first(columns)
        count = len(order)
        lows, highs = [lows[i] for i in order], [highs[i] for i in order]
        turned, triangular = np.linalg.qr(columns[:, order])
        pulls = -(turned.T @ offset)
        beyond = float(offset @ offset - pulls @ pulls)
        triangle, wanted = triangular.tolist(), pulls.tolist()
        best_square, best = self._best.worst, None
        numbers = [0] * count
        least_before, most_before = [0, *accumulate(lows)], [0, *accumulate(highs)]

        def descend(i: int, square: float, total: int) -> None:
            nonlocal best_square, best
            if i < 0:
                if sums[0] - _DUST <= total <= sums[1] + _DUST and square < best_square - _DUST:
                    best_square, best = square, numbers.copy()
                return
            row, aim = triangle[i], wanted[i]
            edge = row[i]
            for j in range(i + 1, count):
                aim -= row[j] * numbers[j]
            centre = aim / edge if abs(edge) > _DUST else 0.0
            # Numbers that still let the others bring the sum where it has to be.
            low = max(lows[i], ceil(sums[0] - total - most_before[i] - _DUST))
            high = min(highs[i], floor(sums[1] - total - least_before[i] + _DUST))
            for number in _outwards(centre, low, high):
                self.steps += 1
                here = square + (aim - edge * number) ** 2
                if here >= best_square - _DUST or self.steps > MOST_STEPS:
                    break
                numbers[i] = number
                descend(i - 1, here, total + number)

        descend(count - 1, max(beyond, 0.0), 0)
        if best is None:
            return None
        return best_square, [number for _, number in sorted(zip(order, best, strict=True))]


def _weakest_first(columns: Floats) -> list[int]:
    """Columns so ordered that the last, which are decided first, still weigh most: far fewer branches live long."""
    left, order = list(range(columns.shape[1])), []
    rest = columns.copy()
    while left:
        norms = np.einsum("fi,fi->i", rest[:, left], rest[:, left])
        chosen = left.pop(int(np.argmin(norms)))
        order.append(chosen)
        if norms.min() > _DUST:
            unit = rest[:, chosen] / norms.min() ** 0.5
            rest -= np.outer(unit, unit @ rest)
    return order


def _room(mover: Mover) -> float:
    return mover.most - mover.least


def _outwards(centre: float, low: int, high: int) -> Iterator[int]:
    """Whole numbers from `low` to `high`, the nearest to `centre` first."""
    below = min(floor(centre), high)
    above = max(below + 1, low)
    while below >= low or above <= high:
        if above > high or (below >= low and centre - below <= above - centre):
            yield below
            below -= 1
        else:
            yield above
            above += 1
