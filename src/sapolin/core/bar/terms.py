"""The terms of a rule of thumb: a value and its explanation are made from the same ones, so they cannot disagree."""

from collections.abc import Sequence
from math import exp, prod
from typing import NamedTuple

from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.text import Param, Text, number, template, text

__all__ = ["Term", "exponential", "product_of", "sum_of", "term"]


class Term(NamedTuple):
    """One term of a sum, or one factor of a product."""

    label: str
    expression: Text
    """The numbers that went in."""
    value: float
    coefficients: tuple[str, ...] = ()
    """Ids of the coefficients that were used."""


def term(code: str, value: float, *coefficients: str, **params: Param) -> Term:
    """The term whose label and numbers stand under `terms` in the catalogue of messages.

    >>> term("best_base", 4.0, weeks=number(4.0, unit="weeks"))[:2]
    ('Base', (Number(kind='number', value=4.0, decimals=None, unit='weeks'),))
    """
    return Term(template(f"terms.{code}.label"), text(f"terms.{code}.numbers", **params), value, coefficients)


def sum_of(terms: Sequence[Term]) -> float:
    """All terms together."""
    return sum(one.value for one in terms)


def product_of(terms: Sequence[Term]) -> float:
    """All factors multiplied."""
    return prod(one.value for one in terms)


def exponential(code: str, key: str, off: float, unit: str) -> Term:
    """The factor e^(-rate * off), with the rate of the coefficient `key` and `off` in `unit`; `code` names its label."""
    rate = coefficient(key)
    numbers = text("terms.exponential", rate=number(rate), off=number(off, 1, unit))
    return Term(template(f"terms.{code}.label"), numbers, exp(-rate * off), (key,))
