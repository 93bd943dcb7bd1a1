"""Numbers as people write them, on paper, in price lists and in tables: `1.250,50`, `1 250`, `12,5`.

Nothing is guessed silently: `1.250` may be one and a quarter or a thousand and more, so it is asked about unless it is said
which sign stands before decimals.
"""

import re
from typing import Literal

__all__ = ["NUMBER", "CannotReadError", "Decimal", "read_number"]

Decimal = Literal["", ",", "."]
"""The sign before decimals; empty goes by each number, and asks where it could be either."""
NUMBER = r"(?:\d{1,3}(?: \d{3})+(?![\d])(?:[.,]\d+)?|\d[\d.,'\u202f\u00a0]*)"
"""A number in a regular expression; thousands may stand apart."""
AMBIGUOUS = re.compile(r"[1-9]\d{0,2}[.,]\d{3}")
MOST = 10_000_000.0


class CannotReadError(ValueError):
    """Why something could not be read: `ambiguous`, `other_sign`, `no_number`, `no_unit`, `not_positive`."""

    def __init__(self, code: str) -> None:
        super().__init__(code)
        self.code = code


def read_number(written: str, decimal: Decimal = "") -> float:
    """A number as a list writes it. Raises CannotReadError.

    >>> [read_number(one) for one in ("12,50 €", "1.234,50", "1,234.50", "$7", "1'200.00")]
    [12.5, 1234.5, 1234.5, 7.0, 1200.0]
    >>> read_number("1 250"), read_number("12 345,5")
    (1250.0, 12345.5)
    >>> read_number("1.250", ","), read_number("1.250", ".")
    (1250.0, 1.25)
    """
    found = re.search(rf"-?{NUMBER}", written.replace("−", "-"))
    if found is None or re.match(r"e[+-]?\d", written[found.end() :], re.IGNORECASE):
        raise CannotReadError("no_number")
    digits = re.sub(r"[' \u202f\u00a0]", "", found.group().lstrip("-")).rstrip(".,")
    if found.group().startswith("-"):
        raise CannotReadError("not_positive")
    signs = {sign for sign in ".," if sign in digits}
    if len(signs) == 2:  # The later one stands before the decimals.
        mark = max(signs, key=digits.rfind)
        if decimal and mark != decimal:
            raise CannotReadError("other_sign")
    elif not signs:
        mark = "."
    else:
        mark = signs.pop()
        if digits.count(mark) > 1:
            mark = "." if mark == "," else ","
        elif decimal:
            mark = decimal
        elif AMBIGUOUS.fullmatch(digits):
            raise CannotReadError("ambiguous")
    other = "," if mark == "." else "."
    whole, _, decimals = digits.partition(mark)
    in_threes = rf"\d+|\d{{1,3}}(?:{re.escape(other)}\d{{3}})+"
    if not re.fullmatch(r"\d*", decimals) or not re.fullmatch(in_threes, whole):
        raise CannotReadError("other_sign")
    value = float(f"{whole.replace(other, '')}.{decimals}")
    if not 0 <= value <= MOST:
        raise CannotReadError("not_positive")
    return value
