"""Tables for spreadsheets: comma-separated, with a mark that they are UTF-8, and no cell that is taken for a formula."""

import csv
from collections.abc import Iterable, Sequence
from io import StringIO

from sapolin.exchange.text import safe_cell

__all__ = ["table_csv"]

UTF8_MARK = "\ufeff"
"""Without it a spreadsheet reads letters such as ö as two."""


def table_csv(head: Sequence[str], rows: Iterable[Sequence[str | float | None]]) -> bytes:
    """A table as a file.

    >>> table_csv(("name", "oils_g"), [("=Olive", 500.0), ("Öl", None)]).decode("utf-8-sig").splitlines()
    ['name,oils_g', "'=Olive,500", 'Öl,']
    """
    out = StringIO()
    writer = csv.writer(out)
    writer.writerow(head)
    for row in rows:
        writer.writerow([_cell(one) for one in row])
    return f"{UTF8_MARK}{out.getvalue()}".encode()


def _cell(value: str | float | None) -> str:
    if value is None:
        return ""
    return safe_cell(value) if isinstance(value, str) else f"{value:.10g}"
