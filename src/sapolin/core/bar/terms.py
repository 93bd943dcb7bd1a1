"""The terms of a rule of thumb: a value and its explanation are made from the same ones, so they cannot disagree."""

from collections.abc import Mapping, Sequence
from math import exp, prod
from typing import NamedTuple

from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.text import Param, Text, number, template, text

__all__ = ["Term", "exponential", "product_of", "sum_of", "term"]


class Term(NamedTuple):
    """One term of a sum, or one factor of a product. Its words are put together when somebody asks for them."""

    value: float
    code: str
    """Where its label and numbers stand under `terms` in the catalogue of messages."""
    params: Mapping[str, Param | Text]
    coefficients: tuple[str, ...] = ()
    """Ids of the coefficients that were used."""
    named: str = ""
    """Its label, where it is not that of the catalogue."""
    numbers: str = ""
    """Code of the message with its numbers, where it is not that of the catalogue."""

    @property
    def label(self) -> str:
        """What it is called."""
        return self.named or template(f"terms.{self.code}.label")

    @property
    def expression(self) -> Text:
        """The numbers that went in."""
        return text(self.numbers or f"terms.{self.code}.numbers", **self.params)


def term(code: str, value: float, *coefficients: str, **params: Param) -> Term:
    """The term whose label and numbers stand under `terms` in the catalogue of messages.

    >>> base = term("best_base", 4.0, weeks=number(4.0, unit="weeks"))
    >>> base.label, base.expression
    ('Base', (Number(kind='number', value=4.0, decimals=None, unit='weeks'),))
    """
    return Term(value, code, params, coefficients)


def sum_of(terms: Sequence[Term]) -> float:
    """All terms together."""
    return sum(one.value for one in terms)


def product_of(terms: Sequence[Term]) -> float:
    """All factors multiplied."""
    return prod(one.value for one in terms)


def exponential(code: str, key: str, off: float, unit: str) -> Term:
    """The factor e^(-rate * off), with the rate of the coefficient `key` and `off` in `unit`; `code` names its label."""
    rate = coefficient(key)
    params = {"rate": number(rate), "off": number(off, 1, unit)}
    return Term(exp(-rate * off), code, params, (key,), numbers="terms.exponential")
