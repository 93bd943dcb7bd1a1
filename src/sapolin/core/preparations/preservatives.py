"""Preservatives of diluted soap: where they work, and whether that is where soap is.

What the supplier of the maker's own preservative says counts; the rows here are what is usual for each kind, and say so.
"""

from collections.abc import Mapping
from functools import cache

from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.model import Model
from sapolin.core.quantities.tables import table
from sapolin.data import read_json

__all__ = ["Preservative", "preservatives", "soap_ph"]


class Preservative(Model):
    """A kind of preservative."""

    id: str
    name: str
    inci: str
    ph_low: float
    ph_high: float
    """It works from and to this pH, as is usual for its kind."""
    rate_low_percent: float
    rate_high_percent: float
    """Usual rate, % of the finished soap."""
    caution: str


def preservatives() -> Mapping[str, Preservative]:
    """Every preservative by id, what suits soap first."""
    return table("preservatives", _shipped())


@cache
def _shipped() -> Mapping[str, Preservative]:
    return {row["id"]: Preservative.model_validate(row) for row in read_json("preservatives")}


def soap_ph() -> tuple[float, float]:
    """The pH that diluted soap usually has, from and to; it is what it is, and acid would break it.

    >>> soap_ph()
    (9.0, 10.5)
    """
    return coefficient("soap.ph_least"), coefficient("soap.ph_most")
