"""Which lots a batch is taken from: those that expire first, opened ones before sealed ones, never one that is stopped."""

from collections.abc import Sequence
from datetime import date

from sapolin.core.quantities.model import Model, Truth

__all__ = ["Shelf", "Take", "taken_from"]


class Shelf(Model):
    """A lot that can be taken from."""

    lot_id: str
    code: str
    in_hand_g: float
    until: date | None
    """Until when it keeps."""
    is_open: Truth


class Take(Model):
    """So much from a lot."""

    lot_id: str
    code: str
    grams: float


def taken_from(lots: Sequence[Shelf], grams: float) -> tuple[tuple[Take, ...], float]:
    """What to take from which lot, first to expire first, and how much is missing.

    >>> old = Shelf(lot_id="1", code="C6", in_hand_g=200, until=date(2026, 5, 1), is_open=True)
    >>> new = Shelf(lot_id="2", code="C7", in_hand_g=5000, until=date(2027, 1, 1), is_open=False)
    >>> takes, missing = taken_from([new, old], 260.0)
    >>> [(one.code, one.grams) for one in takes], missing
    ([('C6', 200.0), ('C7', 60.0)], 0.0)
    """
    first = sorted(lots, key=lambda one: (one.until or date.max, not one.is_open, one.code))
    takes = []
    left = grams
    for lot in first:
        if left <= 1e-9:
            break
        part = min(left, lot.in_hand_g)
        if part > 0:
            takes.append(Take(lot_id=lot.lot_id, code=lot.code, grams=part))
            left -= part
    return tuple(takes), max(left, 0.0)
