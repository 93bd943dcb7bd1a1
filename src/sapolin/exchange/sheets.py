"""Tables that other programs wrote: CSV in whatever letters and signs, and spreadsheets (XLSX). Bounded, and read as text."""

import csv
import zlib
from io import BytesIO, StringIO
from zipfile import BadZipFile, ZipFile

from sapolin.core.quantities.diagnostics import FormulaError, stopping
from sapolin.core.quantities.model import Model
from sapolin.core.quantities.text import number

__all__ = ["SheetTable", "read_sheet"]

MOST_BYTES = 4_000_000
MOST_UNPACKED = 80_000_000
"""A spreadsheet is a packed file: unpacked it may be no larger."""
MOST_ROWS = 20_000
MOST_COLUMNS = 60
MOST_CELL = 400
HEAD_WITHIN = 30
"""The heading stands in one of so many first rows."""


class SheetTable(Model):
    """A table, with the row that names its columns."""

    headers: tuple[str, ...]
    """In order; a column without a name is called after its place."""
    rows: tuple[tuple[int, tuple[str, ...]], ...]
    """Below the heading: line in the file from 1, and cells."""


def read_sheet(name: str, content: bytes) -> SheetTable:
    """Read the first table of a file. Raises FormulaError with what is wrong and what to do."""
    if len(content) > MOST_BYTES:
        raise FormulaError([stopping("file_too_large", "content", most=number(MOST_BYTES / 1_000_000, 0, "MB"))])
    lines = _spreadsheet(content) if content[:4] == b"PK\x03\x04" else _csv(content)
    lines = [(line, cells) for line, cells in lines if any(cell.strip() for cell in cells)]
    if len(lines) < 2:
        raise FormulaError([stopping("no_table", "content", name=name or "-")])
    if len(lines) > MOST_ROWS:
        raise FormulaError([stopping("too_many_rows", "content", most=number(MOST_ROWS))])
    i = _heading(lines)
    filled = (j for _, cells in lines[i:] for j, cell in enumerate(cells, start=1) if cell.strip())
    width = min(max(filled), MOST_COLUMNS)
    return SheetTable(
        headers=_named([*lines[i][1], *[""] * width][:width]),
        rows=tuple((line, tuple(cell[:MOST_CELL] for cell in cells[:width])) for line, cells in lines[i + 1 :]),
    )


def _heading(lines: list[tuple[int, list[str]]]) -> int:
    """The row that names the columns: the first that has most of its cells filled, none of them a number.

    A title above it, or a heading merged over several columns, has fewer.
    """
    usual = sorted(sum(bool(cell.strip()) for cell in cells) for _, cells in lines)[len(lines) // 2]
    for i, (_, cells) in enumerate(lines[:HEAD_WITHIN]):
        filled = [cell for cell in cells if cell.strip()]
        if len(filled) >= max(2, 0.6 * usual) and not any(_is_number(cell) for cell in filled):
            return i
    return 0


def _is_number(cell: str) -> bool:
    digits = sum(letter.isdigit() for letter in cell)
    return digits > 0 and digits >= sum(letter.isalpha() for letter in cell)


def _named(headers: list[str]) -> tuple[str, ...]:
    """Each column by a name of its own."""
    seen: dict[str, int] = {}
    named = []
    for i, header in enumerate(headers, start=1):
        name = " ".join(header.split())[:100] or f"column {i}"
        seen[name] = seen.get(name, 0) + 1
        named.append(name if seen[name] == 1 else f"{name} ({seen[name]})")
    return tuple(named)


def _csv(content: bytes) -> list[tuple[int, list[str]]]:
    if b"\x00" in content[:4000] and not content.startswith((b"\xff\xfe", b"\xfe\xff")):
        raise FormulaError([stopping("not_a_table", "content")])
    text = _decoded(content)
    csv.field_size_limit(100_000)
    sample = text[:8000]
    mark = max(";,\t|", key=lambda one: _steadiness(sample, one))
    reader = csv.reader(StringIO(text), delimiter=mark)
    try:
        return [(reader.line_num, row) for row in reader]
    except csv.Error as error:
        raise FormulaError([stopping("not_a_table", "content")]) from error


def _steadiness(sample: str, mark: str) -> float:
    """How evenly a sign parts the lines: the one that separates cells stands as often in each."""
    counts = [line.count(mark) for line in sample.splitlines() if line.strip()][:40]
    if not counts or max(counts) == 0:
        return 0.0
    usual = max(set(counts) - {0} or {0}, key=counts.count)
    return counts.count(usual) / len(counts) + 0.001 * usual


def _decoded(content: bytes) -> str:
    if content.startswith((b"\xff\xfe", b"\xfe\xff")):
        return content.decode("utf-16", errors="replace")
    try:
        return content.decode("utf-8-sig")
    except UnicodeDecodeError:
        return content.decode("cp1252", errors="replace")


def _spreadsheet(content: bytes) -> list[tuple[int, list[str]]]:
    from openpyxl import load_workbook  # type: ignore[import-untyped]

    try:
        with ZipFile(BytesIO(content)) as packed:
            if sum(one.file_size for one in packed.infolist()) > MOST_UNPACKED:
                raise FormulaError(
                    [stopping("file_too_large", "content", most=number(MOST_UNPACKED / 1_000_000, 0, "MB"))]
                )
            # A table has no use for definitions of its own: they could make a small file as large as any.
            if any(b"<!ENTITY" in packed.read(one) for one in packed.infolist() if one.filename.endswith(".xml")):
                raise FormulaError([stopping("not_a_table", "content")])
        book = load_workbook(BytesIO(content), read_only=True, data_only=True)
        sheet = next((one for one in book.worksheets if one.sheet_state == "visible"), None)
        if sheet is None:
            raise FormulaError([stopping("not_a_table", "content")])
        # Rows are read while they are asked for: what is wrong with one shows only then.
        rows = sheet.iter_rows(values_only=True, max_col=MOST_COLUMNS, max_row=MOST_ROWS + HEAD_WITHIN)
        return [(i, [_cell(value) for value in row]) for i, row in enumerate(rows, start=1)]
    except FormulaError:
        raise
    except (BadZipFile, LookupError, ValueError, OSError, TypeError, AttributeError, SyntaxError, zlib.error) as error:
        raise FormulaError([stopping("not_a_table", "content")]) from error


def _cell(value: object) -> str:
    """A cell as it reads; numbers with a point, whatever the country."""
    if value is None:
        return ""
    if isinstance(value, float):
        return f"{value:.10g}"
    return str(value)
