"""Files as answers, with names that every system takes."""

from fastapi import Response

__all__ = ["csv_named", "file_name", "pdf_named"]


def file_name(name: str, ending: str) -> str:
    """A name of plain letters, digits and dashes.

    >>> file_name("labels-B/101", "pdf")
    'labels-B-101.pdf'
    """
    safe = "".join(letter if letter.isascii() and (letter.isalnum() or letter in "-_") else "-" for letter in name)
    return f"{safe}.{ending}"


def pdf_named(content: bytes, name: str) -> Response:
    """A page to look at, or to print."""
    disposition = f'inline; filename="{file_name(name, "pdf")}"'
    return Response(content, media_type="application/pdf", headers={"Content-Disposition": disposition})


def csv_named(content: str, name: str) -> Response:
    """A table for a spreadsheet; it begins with the mark by which spreadsheets know the letters."""
    disposition = f'attachment; filename="{file_name(name, "csv")}"'
    return Response(
        f"\ufeff{content}".encode(), media_type="text/csv; charset=utf-8", headers={"Content-Disposition": disposition}
    )
