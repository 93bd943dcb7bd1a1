"""Which few batches teach most about three to five oils inside limits: D-optimal designs on a grid of shares.

The shares of the oils under trial sum to what they take of the blend together. A mixture model with a term for each oil (and,
with enough batches, one for each pair of oils) has the information matrix M = Σ x xᵀ over the batches; the design with the
largest det M leaves the least doubt about all terms together. Batches are exchanged one by one for the grid point that raises
det M most (Fedorov), from several seeded starts. Shares are counted in steps of the grid, so every determinant that is
compared is a whole number, calculated exactly.
"""

from collections.abc import Iterator, Sequence
from itertools import islice
from typing import Annotated

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from sapolin.core.quantities.diagnostics import FormulaError, stopping
from sapolin.core.quantities.model import FiniteNumber, Model, Truth
from sapolin.core.quantities.text import number, percent

__all__ = ["Design", "DesignAsked", "OilLimits", "design_of", "determinant", "grid_of", "terms_of"]

STARTS = 12
MANY_POINTS = 500
MOST_POINTS = 4_000
Row = tuple[int, ...]


class OilLimits(Model):
    """An oil under trial, and between which shares."""

    oil: Annotated[str, Field(min_length=1, max_length=80)]
    minimum_percent: FiniteNumber
    """Of all oils, %."""
    maximum_percent: FiniteNumber


class DesignAsked(Model):
    """What a design is asked for."""

    oils: Annotated[tuple[OilLimits, ...], Field(min_length=3, max_length=5)]
    total_percent: FiniteNumber
    """What they take together, % of all oils; the other oils stay as they are."""
    step_percent: Annotated[float, Field(ge=0.5, le=20, allow_inf_nan=False)] = 5.0
    """Steps of the grid."""
    batches: Annotated[int, Field(ge=2, le=16)]


class Design(Model):
    """Batches to make, each as shares of the oils under trial, % of all oils."""

    oils: tuple[str, ...]
    batches: tuple[tuple[float, ...], ...]
    has_pairs: Truth
    """The model has a term for each pair of oils beside one for each oil."""
    points: int
    """Points of the grid that were thought of."""


def terms_of(shares: Sequence[int], *, has_pairs: bool) -> Row:
    """Terms of the mixture model of one batch, from shares in steps of the grid.

    >>> terms_of((2, 3, 1), has_pairs=True)
    (2, 3, 1, 6, 2, 3)
    """
    pairs = [shares[i] * shares[j] for i in range(len(shares)) for j in range(i + 1, len(shares))] if has_pairs else []
    return (*shares, *pairs)


def determinant(rows: Sequence[Row]) -> int:
    """The determinant of Σ x xᵀ over `rows` of whole numbers, exactly (Bareiss).

    >>> determinant([(1, 0), (0, 1), (1, 1)])
    3
    """
    size = len(rows[0])
    m = [[sum(row[i] * row[j] for row in rows) for j in range(size)] for i in range(size)]
    sign, last = 1, 1
    for k in range(size - 1):
        if m[k][k] == 0:
            swap = next((i for i in range(k + 1, size) if m[i][k] != 0), None)
            if swap is None:
                return 0
            m[k], m[swap], sign = m[swap], m[k], -sign
        for i in range(k + 1, size):
            for j in range(k + 1, size):
                m[i][j] = (m[i][j] * m[k][k] - m[i][k] * m[k][j]) // last
        last = m[k][k]
    return sign * m[-1][-1]


def grid_of(asked: DesignAsked) -> tuple[tuple[int, ...], ...]:
    """The points inside the limits whose shares sum to the total, in steps of the grid.

    Raises FormulaError when there are none.

    >>> limits = tuple(OilLimits(oil=oil, minimum_percent=0, maximum_percent=20) for oil in "abc")
    >>> len(grid_of(DesignAsked(oils=limits, total_percent=20, step_percent=10, batches=3)))
    6
    """
    step = asked.step_percent
    total = round(asked.total_percent / step)
    if abs(total * step - asked.total_percent) > 1e-6:
        raise FormulaError([stopping("total_off_the_grid", "step_percent", total=percent(asked.total_percent),
                                     step=percent(step))])  # fmt: skip
    bounds = []
    for i, oil in enumerate(asked.oils):
        low, high = oil.minimum_percent, oil.maximum_percent
        if not 0 <= low <= high <= 100:
            raise FormulaError(
                [stopping("limits_cross", f"oils[{i}].minimum_percent", low=percent(low), high=percent(high))]
            )
        bounds.append((-int(-(low / step - 1e-9) // 1), int((high / step + 1e-9) // 1)))
    found = tuple(islice(_points(bounds, total), MOST_POINTS + 1))
    if not found:
        raise FormulaError([stopping("no_blend_inside_limits", "oils", total=percent(asked.total_percent))])
    if len(found) > MOST_POINTS:
        raise FormulaError([stopping("grid_too_fine", "step_percent", most=number(MOST_POINTS))])
    return found


def _points(bounds: Sequence[tuple[int, int]], total: int) -> Iterator[tuple[int, ...]]:
    (low, high), rest = bounds[0], bounds[1:]
    if not rest:
        if low <= total <= high:
            yield (total,)
        return
    least = sum(one for one, _ in rest)
    most = sum(one for _, one in rest)
    for share in range(max(low, total - most), min(high, total - least) + 1):
        for others in _points(rest, total - share):
            yield (share, *others)


def design_of(asked: DesignAsked, seed: int = 0) -> Design:
    """The batches that teach most. Raises FormulaError when the limits, the grid or the number of batches allow none."""
    oils = len(asked.oils)
    if len({one.oil for one in asked.oils}) < oils:
        raise FormulaError([stopping("same_oil_twice", "oils")])
    if asked.batches < oils:
        raise FormulaError([stopping("too_few_batches", "batches", batches=number(asked.batches), oils=number(oils))])
    points = grid_of(asked)
    has_pairs = (
        asked.batches >= oils * (oils + 1) // 2 and determinant([terms_of(p, has_pairs=True) for p in points]) > 0
    )
    rows = [terms_of(point, has_pairs=has_pairs) for point in points]
    if determinant(rows) == 0:
        raise FormulaError([stopping("limits_too_narrow", "oils")])
    chosen = _exchanged(rows, asked.batches, seed)
    return Design(
        oils=tuple(one.oil for one in asked.oils),
        batches=tuple(
            tuple(round(share * asked.step_percent, 6) for share in points[i])
            for i in sorted(chosen, key=lambda i: points[i], reverse=True)
        ),
        has_pairs=has_pairs, points=len(points),
    )  # fmt: skip


def _exchanged(rows: Sequence[Row], count: int, seed: int) -> list[int]:
    """The best design of so many rows that exchanging finds."""
    x = np.array(rows, dtype=float)
    x = x / np.abs(x).max(axis=0)
    rng = np.random.default_rng(seed)
    best: list[int] = []
    most = -1
    for _ in range(STARTS if len(rows) <= MANY_POINTS else STARTS // 3):
        chosen = _start(x, count, rng)
        value = determinant([rows[i] for i in chosen])
        while True:
            swap = _best_swap(x, chosen)
            if swap is None:
                break
            out, into = swap
            changed = [*chosen[:out], into, *chosen[out + 1 :]]
            raised = determinant([rows[i] for i in changed])
            if raised <= value:
                break
            chosen, value = changed, raised
        if value > most:
            best, most = chosen, value
    return best


def _start(x: NDArray[np.float64], count: int, rng: np.random.Generator) -> list[int]:
    """A random start that leaves no term unknown: rows are taken that add the most beside a random few."""
    terms = x.shape[1]
    chosen = [int(i) for i in rng.integers(0, len(x), size=1)]
    m = np.outer(x[chosen[0]], x[chosen[0]]) + 1e-6 * np.eye(terms)
    while len(chosen) < count:
        gains = np.einsum("ij,jk,ik->i", x, np.linalg.inv(m), x)
        nearly = np.flatnonzero(gains >= gains.max() * rng.uniform(0.5, 1.0))
        chosen.append(int(rng.choice(nearly)))
        m += np.outer(x[chosen[-1]], x[chosen[-1]])
    return chosen


def _best_swap(x: NDArray[np.float64], chosen: Sequence[int]) -> tuple[int, int] | None:
    """The exchange that raises the determinant most, by Fedorov's rule: its place in the design, and the row to put there."""
    inverse = np.linalg.pinv(x[list(chosen)].T @ x[list(chosen)])
    mine = x[list(chosen)]
    of_all = np.einsum("ij,jk,ik->i", x, inverse, x)
    of_mine = of_all[list(chosen)]
    cross = mine @ inverse @ x.T
    gain = of_all[None, :] - (of_mine[:, None] * of_all[None, :] - cross**2) - of_mine[:, None]
    out, into = np.unravel_index(int(np.argmax(gain)), gain.shape)
    return (int(out), int(into)) if gain[out, into] > 1e-9 else None
