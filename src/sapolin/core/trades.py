"""Trades: what moves, and by how much, when a few points of one oil go to another. Exact, since a blend is a sum."""

from sapolin.core.blend import portions
from sapolin.core.catalogue import Catalogue, catalogue
from sapolin.core.formula import Formula
from sapolin.core.materials import with_materials
from sapolin.core.model import Model
from sapolin.core.qualities import points_of, qualities
from sapolin.core.reckoning import reckon

__all__ = ["Move", "Trade", "best_trades"]

SHOWN = 4
WORTH_TELLING = 0.05
"""Trades that bring the bands nearer by less than this many points are left out."""


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
    """Points by which the bands come nearer, all together; below 0 they go farther."""


def best_trades(formula: Formula, points: float = 5.0, base: Catalogue | None = None) -> tuple[Trade, ...]:
    """The trades between oils of a blend that bring it nearest to the wanted bands, the best first.

    Held oils do not trade. When everything is in band, nothing is said. Raises FormulaError when the formula cannot be
    reckoned.
    """
    before = reckon(formula, base)
    oils = with_materials(catalogue() if base is None else base, formula.materials)
    parts = portions(formula.blend, oils)
    held = [line.held for line in formula.blend.lines]
    own = [points_of(part.oil.profile) for part in parts]
    bands = [formula.band(quality) for quality in qualities()]

    def miss(values: list[float]) -> float:
        return sum(
            max(band.minimum - value, value - band.maximum, 0.0)
            for value, band in zip(values, bands, strict=True)
            if band is not None
        )

    now = [figure.points for figure in before.qualities]
    found = []
    for i, giver in enumerate(parts):
        for j, taker in enumerate(parts):
            if i == j or held[i] or held[j] or giver.share_percent <= 0:
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
