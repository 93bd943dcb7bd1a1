"""Text as other programs can take it."""

__all__ = ["plain_signs", "safe_cell"]


def safe_cell(cell: str) -> str:
    """A text that no spreadsheet takes for a formula.

    >>> safe_cell("=1+1"), safe_cell("Olive")
    ("'=1+1", 'Olive')
    """
    return f"'{cell}" if cell[:1] in ("=", "+", "-", "@", "\t", "\r") else cell


def plain_signs(text: str) -> str:
    """Text without the signs that a PDF reader's own fonts lack; its letters stay.

    >>> plain_signs("−2 → at “light” trace")
    '-2 to at "light" trace'
    """
    for sign, letters in (("−", "-"), ("→", "to"), ("“", '"'), ("”", '"'), ("’", "'"), ("–", "-"), ("≤", "at most ")):
        text = text.replace(sign, letters)
    return text
