"""The terms of a rule of thumb: a value and its explanation are made from the same ones, so they cannot disagree."""

from collections.abc import Sequence
from math import exp, prod
from typing import NamedTuple

from sapolin.core.quantities.coefficients import coefficient

__all__ = ["Term", "exponential", "product_of", "sum_of"]


class Term(NamedTuple):
    """One term of a sum, or one factor of a product."""

    label: str
    expression: str
    """The numbers that went in."""
    value: float
    coefficients: tuple[str, ...] = ()
    """Ids of the coefficients that were used."""


def sum_of(terms: Sequence[Term]) -> float:
    """All terms together."""
    return sum(term.value for term in terms)


def product_of(terms: Sequence[Term]) -> float:
    """All factors multiplied."""
    return prod(term.value for term in terms)


def exponential(label: str, key: str, off: float, unit: str) -> Term:
    """The factor e^(-rate * off), with the rate of the coefficient `key` and `off` in `unit`."""
    rate = coefficient(key)
    return Term(label, f"e^(−{rate:g} × {off:.1f} {unit})".replace("× -", "× −"), exp(-rate * off), (key,))
