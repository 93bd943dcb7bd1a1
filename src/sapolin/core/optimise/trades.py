"""Trades: what moves, and by how much, when a few points of one oil go to another. Exact, since a blend is a sum."""

from sapolin.core.bar.calculation import calculation_of
from sapolin.core.bar.qualities import points_of, qualities
from sapolin.core.formula.document import Formula
from sapolin.core.materials.catalogue import Catalogue
from sapolin.core.quantities.model import Model

__all__ = ["Move", "Trade", "best_trades"]

SHOWN = 4
WORTH_TELLING = 0.05
"""Trades that bring the target ranges nearer by less than this many points are left out."""


class Move(Model):
    """What a trade moves."""

    quality: str
    points: float


class Trade(Model):
    """A few points of one oil for another."""

    give: str
    take: str
    give_name: str
    take_name: str
    points: float
    """Share that changes hands, % of the blend; less than asked when there is less to give."""
    moves: tuple[Move, ...]
    """The largest first."""
    nearer_by: float
    """Points by which the target ranges come nearer, all together; below 0 they go farther."""


def best_trades(formula: Formula, points: float = 5.0, base: Catalogue | None = None) -> tuple[Trade, ...]:
    """The trades between oils of a blend that bring it nearest to the wanted target ranges, the best first.

    Locked oils do not trade. When everything is in target range, nothing is said. Raises FormulaError when the formula cannot
    be calculated.

    >>> lines = [{"oil": "olive-refined", "value": 60}, {"oil": "coconut", "value": 40}]
    >>> best_trades(Formula.model_validate({
    ...     "name": "Bar", "purpose": "face", "blend": {"total_oils_g": 500, "lines": lines}, "superfat_percent": 5,
    ...     "lye": {"naoh_purity_percent": 99}, "water": {"by": "water_to_lye", "value": 2},
    ... }))[0].give
    'coconut'
    """
    calculation = calculation_of(formula, base)
    before, components = calculation.result, calculation.composition.oils
    locked = [line.locked for line in formula.blend.lines]
    own = [points_of(component.oil.profile) for component in components]
    target_ranges = [formula.target_range(quality) for quality in qualities()]

    def miss(values: list[float]) -> float:
        return sum(
            max(target_range.minimum - value, value - target_range.maximum, 0.0)
            for value, target_range in zip(values, target_ranges, strict=True)
            if target_range is not None
        )

    now = [quantity.points for quantity in before.qualities]
    found = []
    for i, giver in enumerate(components):
        for j, taker in enumerate(components):
            if i == j or locked[i] or locked[j] or giver.share_percent <= 0:
                continue
            share = min(points, giver.share_percent)
            moved = [share * (to - by) / 100 for by, to in zip(own[i], own[j], strict=True)]
            nearer = miss(now) - miss([value + change for value, change in zip(now, moved, strict=True)])
            if nearer >= WORTH_TELLING:
                moves = [
                    Move(quality=quality, points=change) for quality, change in zip(qualities(), moved, strict=True)
                ]
                found.append(
                    Trade(
                        give=giver.oil.id,
                        take=taker.oil.id,
                        give_name=giver.oil.name,
                        take_name=taker.oil.name,
                        points=share,
                        moves=tuple(sorted(moves, key=lambda move: -abs(move.points))),
                        nearer_by=nearer,
                    )
                )
    return tuple(sorted(found, key=lambda trade: -trade.nearer_by)[:SHOWN])
