"""The best blend, proven: branch and bound over which oils are in and over the rounding of their shares.

Every node is a linear program over shares and misses, solved by HiGHS from where the last one ended. Its value is a lower
bound. A node whose solution already uses few enough oils, none of them too small, all on the grid, is a blend; otherwise
it is split: an oil is out, or it is in with its least share; once the oils are settled, a share is rounded down or up. The
node with the lowest bound goes next, so the search ends with a proof. Blends are also made at every node by keeping its
largest oils and rounding, so that a good answer is there early.

Oils that a workshop seldom has come in one at a time. The search begins without them; each of them then stands in the queue
with what it could save at best, by the prices of the first linear program, and is looked at only when that could matter.
"""

import heapq
from collections.abc import Callable
from dataclasses import dataclass
from itertools import count
from typing import Literal

import highspy
import numpy as np
from numpy.typing import NDArray

from sapolin.core.optimise.solve.model import BlendModel, Floats

__all__ = ["Best", "Progress", "Status", "Verdict", "find_best", "linear_value", "value_within"]

Status = Literal["proven", "gap", "stopped", "impossible"]
"""proven: nothing is better. gap: the best found in time, with a known bound. stopped: cancelled. impossible: the required
targets and limits leave no blend."""

Verdict = Literal["on", "enough", "stop"]
"""Of whoever watches a search: go on; end with a known gap; end because nobody wants the answer any more."""

MOST_NODES = 40_000
"""Linear programs after which a search ends with a known gap, whatever the clock says."""
TOLERANCE = 1e-6
RELATIVELY_WITHIN = 0.01
"""The part of its cost by which a proven blend may be bettered besides: of ten points missed, a tenth."""
RELATIVELY_WITHIN_OF_ALL = 0.02
"""The same where seldom stocked oils are allowed too: of ten points missed, a fifth, which is less than lots vary by."""
PROVEN_WITHIN = 0.002
"""No blend is better than a proven one by more than this cost: a fiftieth of what no screen shows of a target."""
_TINY = 1e-7
Bools = NDArray[np.bool_]


@dataclass(frozen=True)
class Best:
    """The outcome of a search."""

    status: Status
    shares: Floats | None
    """Percent by oil, on the grid; null when there is none."""
    value: float
    """Cost, as :meth:`BlendModel.cost` has it."""
    bound: float
    """Nothing can be better than this."""
    nodes: int


@dataclass(frozen=True)
class Progress:
    """How far a search has come."""

    shares: Floats | None
    value: float
    bound: float
    nodes: int


class _Program:
    """The linear program, kept alive so that each solve starts from the last."""

    def __init__(self, model: BlendModel) -> None:
        self.model = model
        self.oils = len(model.oils)
        self.targets = len(model.low)
        solver = highspy.Highs()  # type: ignore[no-untyped-call]
        solver.silent()
        for option, value in (("output_flag", False), ("presolve", "off"), ("threads", 1), ("random_seed", 1)):
            solver.setOptionValue(option, value)
        hinges = len(model.hinge_low)
        columns = self.oils + 2 * self.targets + hinges
        costs = np.concatenate([
            model.preference,
            np.where(np.isinf(model.weights), 0.0, model.weights),
            np.where(np.isinf(model.weights), 0.0, model.weights),
            model.hinge_cost,
        ])  # fmt: skip
        misses = np.where(np.isinf(model.weights), 0.0, highspy.kHighsInf)
        upper = np.concatenate([model.most, misses, misses, np.full(hinges, highspy.kHighsInf)])
        solver.addVars(columns, np.zeros(columns), upper)
        solver.changeColsCost(columns, np.arange(columns, dtype=np.int32), costs)
        everyone = np.arange(self.oils, dtype=np.int32)
        solver.addRow(100.0, 100.0, self.oils, everyone, np.ones(self.oils))
        for k in range(self.targets):
            index = np.concatenate([everyone, [self.oils + k, self.oils + self.targets + k]]).astype(np.int32)
            solver.addRow(
                _finite(model.low[k]), _finite(model.high[k]), len(index), index,
                np.concatenate([model.features[k], [1.0, -1.0]]),
            )  # fmt: skip
        for row, low, high in zip(model.rows, model.row_low, model.row_high, strict=True):
            at = np.flatnonzero(row).astype(np.int32)
            solver.addRow(_finite(low), _finite(high), len(at), at, row[at])
        for h, (row, low) in enumerate(zip(model.hinges, model.hinge_low, strict=True)):
            at = np.flatnonzero(row).astype(np.int32)
            index = np.concatenate([at, [self.oils + 2 * self.targets + h]]).astype(np.int32)
            solver.addRow(float(low), highspy.kHighsInf, len(index), index, np.concatenate([row[at], [1.0]]))
        self._solver = solver
        self._index = everyone

        # An oil that is not settled costs in proportion to its share what it would cost if it had all that it may have.
        self.spread_cost = model.use_cost / np.maximum(model.most, 1e-9)
        self._settled: Bools | None = None

    def solve(self, low: Floats, high: Floats, settled: Bools | None = None) -> tuple[float, Floats, Floats] | None:
        """Lowest cost, its shares with each share between `low` and `high`, and what a percent more of each would cost; null
        when there is no solution. Oils that are `settled` in cost as oils that are used, the others at least their part."""
        if self.model.use_cost.any():
            settled = np.zeros(self.oils, dtype=bool) if settled is None else settled
            if self._settled is None or not np.array_equal(settled, self._settled):
                costs = self.model.preference + np.where(settled, 0.0, self.spread_cost)
                self._solver.changeColsCost(self.oils, self._index, costs)
                self._settled = settled.copy()
        self._solver.changeColsBounds(self.oils, self._index, low, high)
        self._solver.run()
        if self._solver.getModelStatus() != highspy.HighsModelStatus.kOptimal:
            return None
        solution = self._solver.getSolution()
        shares, costs = np.asarray(solution.col_value[: self.oils]), np.asarray(solution.col_dual[: self.oils])
        used = 0.0 if settled is None else float(self.model.use_cost[settled].sum())
        return float(self._solver.getObjectiveValue()) + used, shares, costs


def _finite(value: float) -> float:
    return float(np.clip(value, -highspy.kHighsInf, highspy.kHighsInf))


def linear_value(model: BlendModel) -> float:
    """The cost with any number of oils and any shares; infinite when the required targets and the limits leave no blend."""
    found = _Program(model).solve(np.where(model.wanted, model.least, 0.0), model.most)
    return np.inf if found is None else found[0]


@dataclass(frozen=True)
class _Node:
    low: Floats
    high: Floats
    settled_in: Bools
    """Oils that are in for good; those out have `high` 0."""


def value_within(model: BlendModel, value: float, within: float = PROVEN_WITHIN) -> float:
    """The lowest cost that any blend may have when one of cost `value` is proven."""
    return value - within - (RELATIVELY_WITHIN_OF_ALL if model.rare.any() else RELATIVELY_WITHIN) * value


def find_best(
    model: BlendModel,
    *,
    most_nodes: int = MOST_NODES,
    forbidden_sets: tuple[frozenset[int], ...] = (),
    report: Callable[[Progress], Verdict] | None = None,
    within: float = PROVEN_WITHIN,
) -> Best:
    """The best blend of `model`; proven means that no blend is better by more than `within`.

    `forbidden_sets` are sets of oils that no blend may have all of (answers already given); `report` is told of progress and
    answers whether to go on. The search ends at the proof, after `most_nodes` linear programs, or when `report` says so.
    """
    return _Search(model, most_nodes, forbidden_sets, report, within).run()


class _Search:
    def __init__(
        self,
        model: BlendModel,
        most_nodes: int,
        forbidden: tuple[frozenset[int], ...],
        report: Callable[[Progress], Verdict] | None,
        within: float,
    ) -> None:
        self.within = within
        self.model = model
        self.program = _Program(model)
        self.most_nodes = most_nodes
        self.forbidden = forbidden
        self.report = report
        self.best: Floats | None = None
        self.best_value = np.inf
        self.nodes = 0
        self._queue: list[tuple[float, int, _Node, Floats | None]] = []
        """Bound, order of arrival, node, and its shares once it has been solved."""
        self._arrivals = count()
        self._tried: set[frozenset[int]] = set()

    def _bar(self) -> float:
        """What a node has to come below to be worth looking at."""
        if not np.isfinite(self.best_value):
            return np.inf
        return value_within(self.model, self.best_value, self.within)

    def run(self) -> Best:
        self._begin()
        while self._queue:
            bound, _, node, shares = heapq.heappop(self._queue)
            if bound >= self._bar():
                return self._end("proven", bound)
            if self.nodes >= self.most_nodes:
                return self._end("gap", bound)
            if self.report is not None:
                verdict = self.report(Progress(self.best, self.best_value, bound, self.nodes))
                if verdict != "on":
                    return self._end("gap" if verdict == "enough" else "stopped", bound)
            if shares is None:
                self._push(node)
            else:
                self._split(node, shares)
        return self._end("impossible" if self.best is None else "proven", self._bar())

    def _begin(self) -> None:
        """The blends without a rare oil, and for each rare oil those with it."""
        model = self.model
        low = np.where(model.wanted, model.least, 0.0)
        common = _Node(low, np.where(model.rare, 0.0, model.most), model.wanted.copy())
        self._push(common)
        if not model.rare.any() or model.wanted.sum() >= model.most_oils:
            return
        found = self.program.solve(common.low, common.high, common.settled_in)
        for j in np.flatnonzero(model.rare):
            bound = -np.inf
            if found is not None:
                # The cost of the blends with a share of it is convex in that share, so it stays above its first slope.
                value, _, costs = found
                slope = costs[j] - self.program.spread_cost[j]
                bound = value + model.use_cost[j] + min(slope * model.least[j], slope * model.most[j]) - TOLERANCE
            if bound < self._bar():
                inside, high, settled = low.copy(), common.high.copy(), model.wanted.copy()
                inside[j], high[j], settled[j] = model.least[j], model.most[j], True
                heapq.heappush(self._queue, (bound, next(self._arrivals), _Node(inside, high, settled), None))

    def _end(self, status: Status, bound: float) -> Best:
        # What was not looked at any further could be as good as the bar, not better.
        return Best(status, self.best, self.best_value, min(bound, self._bar()), self.nodes)

    def _push(self, node: _Node) -> None:
        self.nodes += 1
        found = self.program.solve(node.low, node.high, node.settled_in)
        if found is None or found[0] >= self._bar():
            return
        value, shares, costs = found
        self._make_blend(node, shares)
        if value < self._bar():
            heapq.heappush(
                self._queue, (value, next(self._arrivals), self._narrowed(node, value, shares, costs), shares)
            )

    def _narrowed(self, node: _Node, value: float, shares: Floats, costs: Floats) -> _Node:
        """Shares that could only make this node worse than the best known blend are cut away, to the grid."""
        room = self.best_value - value
        if not np.isfinite(room):
            return node
        step, least = self.model.step, self.model.least
        low, high = node.low.copy(), node.high.copy()
        rising = (costs > _TINY) & (shares <= low + _TINY)
        reach = low[rising] + room / costs[rising]
        high[rising] = np.minimum(high[rising], np.floor(reach / step + _TINY) * step)
        falling = (costs < -_TINY) & (shares >= high - _TINY)
        reach = high[falling] + room / costs[falling]
        low[falling] = np.maximum(low[falling], np.ceil(reach / step - _TINY) * step)
        # An oil that is not in for good and cannot reach its least share is out.
        high[(high < least - _TINY) & ~node.settled_in] = 0.0
        low[~node.settled_in & (low < least)] = 0.0
        settled = node.settled_in | (low > _TINY)
        return _Node(np.minimum(low, high), high, settled)

    def _offer(self, shares: Floats) -> None:
        used = shares > _TINY
        model = self.model
        fits = (
            used.sum() <= model.most_oils
            and bool(np.all(shares[used] >= model.least[used] - _TINY))
            and bool(np.all(shares <= model.most + _TINY))
            and bool(np.all(used[model.wanted]))
            and model.keeps_rows(shares)
            and not self._is_forbidden(frozenset(np.flatnonzero(used).tolist()))
        )
        if not fits:
            return
        value = model.cost(shares)
        if value < self.best_value - TOLERANCE / 2:
            self.best, self.best_value = shares, value

    def _is_forbidden(self, used: frozenset[int]) -> bool:
        return any(forbidden <= used for forbidden in self.forbidden)

    def _make_blend(self, node: _Node, shares: Floats) -> None:
        """Keep the largest oils of a node, find their best shares, round them, and polish the rounding."""
        model = self.model
        ranked = sorted(range(len(shares)), key=lambda j: (not node.settled_in[j], -shares[j]))
        support = [j for j in ranked if shares[j] > _TINY or node.settled_in[j]][: model.most_oils]
        key = frozenset(support)
        if key in self._tried or self._is_forbidden(key) or not support:
            return
        self._tried.add(key)
        low, high = np.zeros(len(shares)), np.zeros(len(shares))
        low[support] = np.maximum(model.least[support], node.low[support])
        high[support] = model.most[support]
        found = self.program.solve(low, high, high > 0)
        if found is not None and found[0] < self.best_value - TOLERANCE:
            self._offer(self._polished(self._rounded(found[1], support), support))

    def _rounded(self, shares: Floats, support: list[int]) -> Floats:
        step = self.model.step
        counts = np.floor(shares[support] / step + 1e-9)
        missing = round(100 / step - counts.sum())
        rests = shares[support] / step - counts
        for i in np.argsort(-rests, kind="stable")[: max(missing, 0)]:
            counts[i] += 1
        rounded = np.zeros(len(shares))
        rounded[support] = counts * step
        return rounded

    def _polished(self, shares: Floats, support: list[int]) -> Floats:
        """Move a step from one oil to another while that helps."""
        model, step = self.model, self.model.step
        value = self._value(shares)
        improved = True
        while improved:
            improved = False
            for giver in support:
                for taker in support:
                    if giver == taker or shares[giver] - step < model.least[giver] - _TINY:
                        continue
                    if shares[taker] + step > model.most[taker] + _TINY:
                        continue
                    moved = shares.copy()
                    moved[giver] -= step
                    moved[taker] += step
                    moved_value = self._value(moved)
                    if moved_value < value - TOLERANCE:
                        shares, value, improved = moved, moved_value, True
        return shares

    def _value(self, shares: Floats) -> float:
        return self.model.cost(shares) if self.model.keeps_rows(shares) else np.inf

    def _split(self, node: _Node, shares: Floats) -> None:
        model = self.model
        used = shares > _TINY
        settled = int(node.settled_in.sum())
        open_oils = used & ~node.settled_in
        too_small = open_oils & (shares < model.least - _TINY)
        too_many = used.sum() > model.most_oils
        if settled < model.most_oils and (too_many or too_small.any()):
            among = np.flatnonzero(open_oils if too_many else too_small)
            # The largest open oil is the one most worth settling.
            self._in_or_out(node, int(among[np.argmax(shares[among])]))
            return
        if settled == model.most_oils and open_oils.any():
            self._push(self._closed(node))
            return
        clash = next((f for f in self.forbidden if f <= frozenset(np.flatnonzero(used).tolist())), None)
        if clash is not None:
            undecided = [j for j in clash if not node.settled_in[j]]
            if undecided:
                self._in_or_out(node, undecided[0])
            return
        self._round(node, shares)

    def _in_or_out(self, node: _Node, oil: int) -> None:
        out_high = node.high.copy()
        out_high[oil] = 0.0
        self._push(_Node(node.low, out_high, node.settled_in))
        low, settled = node.low.copy(), node.settled_in.copy()
        low[oil] = max(low[oil], self.model.least[oil])
        settled[oil] = True
        inside = _Node(low, node.high, settled)
        if self._is_forbidden(frozenset(np.flatnonzero(settled).tolist())):
            return
        self._push(self._closed(inside) if settled.sum() == self.model.most_oils else inside)

    @staticmethod
    def _closed(node: _Node) -> _Node:
        """No further oil may come in."""
        return _Node(node.low, np.where(node.settled_in, node.high, 0.0), node.settled_in)

    def _round(self, node: _Node, shares: Floats) -> None:
        """Split on the share farthest from the grid; a solution on the grid is a blend."""
        step = self.model.step
        counts = shares / step
        off = np.abs(counts - np.round(counts))
        if off.max() <= 1e-6:
            self._offer(np.round(counts) * step)
            return
        oil = int(np.argmax(off))
        down_high, up_low = node.high.copy(), node.low.copy()
        down_high[oil] = np.floor(counts[oil]) * step
        up_low[oil] = np.ceil(counts[oil]) * step
        settled = node.settled_in.copy()
        if up_low[oil] > 0:
            settled[oil] = True
        if down_high[oil] >= node.low[oil] - _TINY:
            self._push(_Node(node.low, down_high, node.settled_in))
        if settled.sum() <= self.model.most_oils and up_low[oil] <= node.high[oil] + _TINY:
            self._push(_Node(np.maximum(up_low, node.low), node.high, settled))
