"""How long an oil keeps: until its best before, or by rules of thumb from its oxidation load, its opening and antioxidant.

Months until rancidity is likely = months of an oil of the reference load, shortened by what its load is above it, doubled by an
antioxidant, and shortened from the day it was opened. An estimate, and called one wherever it is shown.
"""

from datetime import date, timedelta
from math import exp

from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.model import Model, Truth
from sapolin.core.stock.ledger import Lot

__all__ = ["Keeping", "keeping_of", "keeps_until"]

DAYS_A_MONTH = 30.44
SOON_DAYS = 45
"""A lot that is to be used within so many days is used first."""


class Keeping(Model):
    """Until when a lot can be used."""

    until: date
    is_estimate: Truth
    """By rules of thumb, not by a date on its label."""
    is_past: Truth
    """An estimate that is past asks for a smell; a date on a label that is past stops the lot."""
    is_soon: Truth
    """It is to be used first."""

    @property
    def stops(self) -> bool:
        """The lot must not be used: its label says so."""
        return self.is_past and not self.is_estimate


def keeps_until(arrived: date, oxidation_load: float, opened: date | None, *, has_antioxidant: bool) -> date:
    """Until when an oil of that oxidation load is likely to keep, cool and dark.

    Olive oil (load about 14) for about a year and a half, hemp (load about 90) for some months:

    >>> keeps_until(date(2026, 1, 1), 14, None, has_antioxidant=False) > date(2027, 3, 1)
    True
    >>> keeps_until(date(2026, 1, 1), 90, None, has_antioxidant=False) < date(2026, 9, 1)
    True
    """
    load = oxidation_load - coefficient("keeping.reference_load")
    months = coefficient("keeping.months_at_reference") * exp(coefficient("keeping.per_load") * load)
    months = min(max(months, coefficient("keeping.least_months")), coefficient("keeping.most_months"))
    if has_antioxidant:
        months *= coefficient("shelf.antioxidant_factor")
    sealed = arrived + timedelta(days=months * DAYS_A_MONTH)
    if opened is None or opened >= sealed:
        return sealed
    left = (sealed - opened).days * coefficient("keeping.opened_factor")
    return opened + timedelta(days=left)


def keeping_of(lot: Lot, oxidation_load: float | None, opened: date | None, today: date) -> Keeping | None:
    """Until when a lot can be used: by its label, or by rules of thumb for an oil; null when nothing is known."""
    until = lot.best_before
    estimated = False
    if oxidation_load is not None:
        likely = keeps_until(lot.arrived, oxidation_load, opened, has_antioxidant=lot.has_antioxidant)
        if until is None:
            until, estimated = likely, True
    if until is None:
        return None
    return Keeping(
        until=until, is_estimate=estimated, is_past=until < today, is_soon=until <= today + timedelta(days=SOON_DAYS)
    )
