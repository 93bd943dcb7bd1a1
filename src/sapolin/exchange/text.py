"""Text as other programs can take it."""

__all__ = ["plain", "safe_cell"]


def safe_cell(cell: str) -> str:
    """A text that no spreadsheet takes for a formula.

    >>> safe_cell("=1+1"), safe_cell("Olive")
    ("'=1+1", 'Olive')
    """
    return f"'{cell}" if cell[:1] in ("=", "+", "-", "@", "\t", "\r") else cell


def plain(text: str) -> str:
    """Text in the letters that a PDF's own fonts have."""
    for sign, letters in (("−", "-"), ("→", "to"), ("“", '"'), ("”", '"'), ("’", "'"), ("–", "-"), ("≤", "at most ")):
        text = text.replace(sign, letters)
    return text.encode("cp1252", "replace").decode("cp1252")
