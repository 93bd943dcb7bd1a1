"""Text as other programs can take it."""

import re
from unicodedata import category

__all__ = ["plain_signs", "safe_cell"]

FORMULA_SIGNS = frozenset("=+-@＝＋－＠")
"""Signs with which a cell begins that is calculated, the wide ones too."""


_AFTER_A_CELL = re.compile(r"([;|\t]\s*)(?=[=+\-@])")


def safe_cell(cell: str) -> str:
    """A text that no spreadsheet takes for a formula, whatever blanks and signs without width stand before one.

    >>> safe_cell("=1+1"), safe_cell("\\u200b =1+1"), safe_cell("Olive"), safe_cell(";=1+1")
    ("'=1+1", "'\\u200b =1+1", 'Olive', ";'=1+1")
    """
    # Some take a semicolon for the end of a cell, whatever stands between the others.
    cell = _AFTER_A_CELL.sub(r"\1'", cell)
    first = next((sign for sign in cell if not (sign.isspace() or category(sign) in ("Cf", "Cc"))), "")
    is_formula = first in FORMULA_SIGNS or cell[:1] in ("\t", "\r", "\n")
    return f"'{cell}" if first and is_formula else cell


def plain_signs(text: str) -> str:
    """Text without the signs that a PDF reader's own fonts lack; its letters stay.

    >>> plain_signs("−2 → at “light” trace")
    '-2 to at "light" trace'
    """
    for sign, letters in (("−", "-"), ("→", "to"), ("“", '"'), ("”", '"'), ("’", "'"), ("–", "-"), ("≤", "at most ")):
        text = text.replace(sign, letters)
    return text
