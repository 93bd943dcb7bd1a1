"""Everything in one zip: rows as JSON lines, pictures as files, documents and tables for other programs, checksums for all.

An archive says the format its rows are in. To read one, a scratch database of that format is built, filled and brought up
to date, so that an archive of an older Sapolin is read like a database of it. Into an empty workshop everything goes as it is;
into one in use, what is not there yet goes in, and what is there stays: the report says what was added, what was the same, and
what was kept as it was here.
"""

import hashlib
import json
import re
import sqlite3
import zipfile
import zlib
from collections import Counter
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import closing
from datetime import UTC, datetime
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import IO, Any, Literal

from sqlalchemy import Column

from sapolin import __version__
from sapolin.core.quantities.model import Model
from sapolin.store.backup import MARK, in_words
from sapolin.store.database import DatabaseFaultError, newest_format, upgrade_to
from sapolin.store.tables import FOR_LISTS, NOT_KEPT, Base

__all__ = ["ArchiveError", "ArchiveReport", "TableReport", "archive_schema", "read_archive", "write_archive"]

FORMAT = "sapolin-workshop"
FORMAT_VERSION = 1
MOST_ENTRIES = 60_000
MOST_BYTES = 2_000_000_000
"""Unpacked."""
MOST_RATIO = 200
"""Times that an entry may grow when it is unpacked; rows of text shrink by about twenty."""
MOST_LINE_BYTES = 8_000_000
SKIPPED = frozenset({"alembic_version"}) | NOT_KEPT
ENDINGS = {"image/jpeg": "jpg", "image/png": "png", "image/webp": "webp"}
CODES = {"batches": "code", "preparations": "code", "lots": "code"}
"""Codes that are unique: one that is taken already gets a letter."""
NAMING = ("code", "name", "oil", "question")
"""Columns that say what a thing is called, the first there is."""
FOLLOWING = frozenset(
    {"batch_starts", "batch_outcomes", "tray_bars", "cure_taught", "compared_batches", "trial_batches"}
)
"""Tables that follow from the records beside them."""
JSON_HELD = frozenset({"content", "begun"})
"""Columns that hold JSON."""
PICTURES = "batch_files"
FILE_REFERENCE = re.compile(r'"file_id":\s*(\d+)')


BROKEN = (zipfile.BadZipFile, OSError, EOFError, RuntimeError, NotImplementedError, zlib.error)
"""What reading a zip that is cut off, encrypted, or packed in an unknown way ends with."""


class ArchiveError(Exception):
    """An archive cannot be written or read; the message is one sentence for the maker, with the remedy."""


class TableReport(Model):
    """What became of the rows of one table."""

    table: str
    what: str
    """What is in it, in a maker's words."""
    added: int
    same: int
    kept: int
    """Rows that differ from those here; those here stayed."""


class LeftOut(Model):
    """What of one thing was not brought in."""

    what: str
    """Kind of thing, in a maker's words."""
    name: str
    """Its name or code."""
    rows: int
    why: Literal["differs", "name_taken", "belongs_to_what_is_here", "unreadable"]
    """It is here otherwise; its name stands for something else here; the thing it belongs to is here and went its own way;
    or it cannot be read."""


class ArchiveReport(Model):
    """What reading an archive did."""

    written_at: str
    written_by: str
    """Version of the application."""
    tables: tuple[TableReport, ...]
    """Without those in which nothing is."""
    renamed: tuple[str, ...]
    """Codes that were taken already, with what they became."""
    left_out: tuple[LeftOut, ...]
    """What of the archive is not here now, thing by thing."""


def _tables() -> tuple[str, ...]:
    """Every table, those that others point to first: pictures before the entries that name them by number."""
    names = [table.name for table in Base.metadata.sorted_tables if table.name not in SKIPPED]
    return tuple(sorted(names, key=lambda name: (bool(_parents(name)), name != PICTURES)))


def _columns(connection: sqlite3.Connection, table: str) -> list[str]:
    return [row[1] for row in connection.execute(f'PRAGMA table_info("{table}")')]


def _keys(connection: sqlite3.Connection, table: str) -> list[str]:
    rows = [row for row in connection.execute(f'PRAGMA table_info("{table}")') if row[5]]
    return [row[1] for row in sorted(rows, key=lambda row: row[5])]


def _entry_of(table: str, row: Mapping[str, Any], column: str) -> str:
    ending = ENDINGS.get(str(row.get("media_type", "")), "bin")
    return f"files/{table}-{row.get('id', '')}-{column}.{ending}"


class _Writer:
    """Entries of a zip, with the checksum of each."""

    def __init__(self, target: IO[bytes]) -> None:
        self.zip = zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED)
        self.checksums: dict[str, str] = {}

    def add(self, name: str, content: bytes) -> None:
        self.checksums[name] = hashlib.sha256(content).hexdigest()
        self.zip.writestr(name, content)

    def add_lines(self, name: str, lines: Iterator[bytes]) -> int:
        checksum, count = hashlib.sha256(), 0
        with self.zip.open(name, "w") as entry:
            for line in lines:
                checksum.update(line)
                entry.write(line)
                count += 1
        self.checksums[name] = checksum.hexdigest()
        return count


def write_archive(database: Path, target: IO[bytes], extras: Mapping[str, bytes]) -> None:
    """Write everything in `database` to `target`; `extras` are entries for other programs, by name.

    The database may be in use: what is written is one moment of it.
    """
    writer = _Writer(target)
    counts: dict[str, int] = {}
    with closing(sqlite3.connect(f"file:{database.resolve()}?mode=ro", uri=True)) as connection:
        connection.row_factory = sqlite3.Row
        connection.execute("BEGIN")
        version = connection.execute("SELECT version_num FROM alembic_version").fetchone()[0]
        for table in _tables():
            files: list[tuple[str, bytes]] = []

            def lines(table: str = table, files: list[tuple[str, bytes]] = files) -> Iterator[bytes]:
                for row in connection.execute(f'SELECT * FROM "{table}" ORDER BY rowid'):
                    plain = dict(row)
                    if table == "workshop" and str(plain["name"]).startswith(MARK):
                        # What this database notes of itself, not of the workshop.
                        continue
                    for column, value in plain.items():
                        if isinstance(value, bytes):
                            name = _entry_of(table, plain, column)
                            files.append((name, value))
                            plain[column] = {"file": name}
                    yield json.dumps(plain, ensure_ascii=False, separators=(",", ":")).encode() + b"\n"

            counts[table] = writer.add_lines(f"tables/{table}.jsonl", lines())
            for name, content in files:
                writer.add(name, content)
    for name, content in {"schema.json": json.dumps(archive_schema(), indent=1).encode(), **extras}.items():
        writer.add(name, content)
    manifest = {
        "format": FORMAT, "format_version": FORMAT_VERSION, "written_by": __version__, "database_format": version,
        "written_at": datetime.now(UTC).isoformat(timespec="seconds"), "rows": counts, "sha256": writer.checksums,
    }  # fmt: skip
    writer.zip.writestr("manifest.json", json.dumps(manifest, indent=1, ensure_ascii=False))
    writer.zip.close()


def archive_schema() -> dict[str, object]:
    """JSON Schema of an archive: its list of contents, and a row of each table."""
    rows = {
        table.name: {
            "description": in_words(table.name),
            "type": "object",
            "properties": {column.name: _column_schema(column) for column in table.columns},
            "required": [column.name for column in table.columns],
            "additionalProperties": False,
        }
        for table in Base.metadata.sorted_tables
        if table.name not in SKIPPED
    }
    text, count = {"type": "string"}, {"type": "integer", "minimum": 0}
    manifest = {
        "type": "object",
        "properties": {
            "format": {"const": FORMAT},
            "format_version": {"const": FORMAT_VERSION},
            "written_by": {**text, "description": "Version of the application."},
            "written_at": {**text, "format": "date-time"},
            "database_format": {
                **text,
                "description": "Format that the rows are in; an older one is brought up to date.",
            },
            "rows": {"type": "object", "additionalProperties": count, "description": "Rows of each table."},
            "sha256": {
                "type": "object",
                "additionalProperties": text,
                "description": "Checksum of each entry, by name.",
            },
        },
        "required": ["format", "format_version", "written_by", "written_at", "database_format", "rows", "sha256"],
    }
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Archive of a workshop",
        "description": (
            "A zip. manifest.json is as $defs/manifest; each line of tables/NAME.jsonl as $defs/rows/$defs/NAME; a picture is "
            "an entry of its own, named by its row."
        ),
        "$ref": "#/$defs/manifest",
        "$defs": {"manifest": manifest, "rows": {"$defs": rows}},
    }


def _column_schema(column: Column[Any]) -> dict[str, object]:
    kinds: dict[str, dict[str, object]] = {
        "str": {"type": "string"}, "int": {"type": "integer"}, "float": {"type": "number"},
        # SQLite keeps them as 0 and 1.
        "bool": {"enum": [0, 1]},
        "bytes": {"type": "object", "properties": {"file": {"type": "string"}}, "required": ["file"]},
    }  # fmt: skip
    kind = kinds[column.type.python_type.__name__]
    return {"anyOf": [kind, {"type": "null"}]} if column.nullable else kind


class _Archive:
    """A zip that was looked over before anything of it is unpacked."""

    def __init__(self, source: IO[bytes]) -> None:
        try:
            self.zip = zipfile.ZipFile(source)
        except BROKEN as error:
            raise ArchiveError("This is no archive of Sapolin: it cannot be opened as a zip.") from error
        entries = self.zip.infolist()
        if len(entries) > MOST_ENTRIES or sum(entry.file_size for entry in entries) > MOST_BYTES:
            raise ArchiveError("This archive is larger than Sapolin reads: 2 GB unpacked, 60\u00a0000 files.")
        for entry in entries:
            if entry.file_size > 1_000_000 and entry.file_size > MOST_RATIO * max(entry.compress_size, 1):
                raise ArchiveError(
                    f"{entry.filename} grows more than an entry may when it is unpacked. Nothing was read."
                )
        try:
            self.manifest: dict[str, Any] = json.loads(self.zip.read("manifest.json"))
        except (*BROKEN, KeyError, ValueError, RecursionError) as error:
            raise ArchiveError("This is no archive of Sapolin: it has no list of its contents.") from error
        if (
            not isinstance(self.manifest, dict)
            or self.manifest.get("format") != FORMAT
            or not isinstance(self.manifest.get("sha256"), dict)
        ):
            raise ArchiveError("This is no archive of Sapolin.")
        if self.manifest.get("format_version") != FORMAT_VERSION:
            raise ArchiveError("This archive was written by a newer Sapolin. Install that one to read it.")

    def content(self, name: str) -> bytes:
        """An entry, whole. Raises ArchiveError when it is not as it was written."""
        try:
            content = self.zip.read(name)
        except (*BROKEN, KeyError) as error:
            raise ArchiveError(f"{name} is missing from the archive, or damaged. Nothing was read.") from error
        if hashlib.sha256(content).hexdigest() != self.manifest["sha256"].get(name):
            raise ArchiveError(f"{name} is not as it was written. Nothing was read; take another copy of the archive.")
        return content

    def rows(self, table: str) -> Iterator[dict[str, Any]]:
        """The rows of a table, pictures put back in."""
        name = f"tables/{table}.jsonl"
        if name not in self.zip.namelist():
            return
        for line in self.content(name).splitlines():
            if len(line) > MOST_LINE_BYTES:
                raise ArchiveError(f"A row of {table} is longer than any that Sapolin writes. Nothing was read.")
            row = json.loads(line)
            if not isinstance(row, dict):
                raise ValueError(f"a row of {table} is no object")
            for column, value in row.items():
                if isinstance(value, dict):
                    row[column] = self.content(str(value.get("file", "")))
            yield row


def read_archive(source: IO[bytes], database: Path, before: Callable[[], object]) -> ArchiveReport:
    """Bring what an archive holds into `database`; `before` is called once it is known to be whole.

    Either all of it goes in or nothing does. Raises ArchiveError.
    """
    archive = _Archive(source)
    format_then = str(archive.manifest.get("database_format"))
    with TemporaryDirectory(prefix="sapolin-archive-", dir=database.parent) as scratch:
        copy = Path(scratch) / "archive.db"
        try:
            upgrade_to(copy, format_then)
        except DatabaseFaultError as error:
            message = "This archive was written by a newer Sapolin. Install that one to read it."
            raise ArchiveError(message) from error
        with closing(sqlite3.connect(copy)) as connection:
            present = {row[0] for row in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
            listed = [
                name[7:-6] for name in archive.zip.namelist() if name.startswith("tables/") and name.endswith(".jsonl")
            ]
            known = present - SKIPPED - {"sqlite_sequence"}
            if strange := next((table for table in listed if table not in known), None):
                raise ArchiveError(
                    f"This archive has a table “{strange[:60]}” that no Sapolin writes. Nothing was read."
                )
            try:
                for table in listed:
                    if table in present:
                        _fill(connection, table, archive.rows(table))
            except (sqlite3.Error, ValueError, TypeError, OverflowError, RecursionError) as error:
                raise ArchiveError(f"The archive does not fit its own format ({error}). Nothing was read.") from error
            connection.commit()
        upgrade_to(copy, newest_format())
        before()
        return _merged(copy, database, archive.manifest)


def _fill(connection: sqlite3.Connection, table: str, rows: Iterator[dict[str, Any]]) -> None:
    columns = _columns(connection, table)
    for row in rows:
        unknown = row.keys() - set(columns)
        if unknown:
            raise ValueError(f"{table} has no {sorted(unknown)[0]}")
        names = ", ".join(f'"{one}"' for one in row)
        connection.execute(f'INSERT INTO "{table}" ({names}) VALUES ({", ".join("?" * len(row))})', [*row.values()])


def _parents(table: str) -> list[tuple[str, str]]:
    """The columns of a table that point to rows of another, with the table they point to."""
    keys = Base.metadata.tables[table].foreign_keys
    return [(key.parent.name, key.column.table.name) for key in keys]


def _merged(copy: Path, database: Path, manifest: Mapping[str, Any]) -> ArchiveReport:
    """Rows of `copy` into `database`, in one transaction."""
    reports: list[TableReport] = []
    renamed: list[str] = []
    left_out: Counter[tuple[str, str, str]] = Counter()
    added: dict[str, set[Any]] = {}
    files: dict[int, int] = {}
    with closing(sqlite3.connect(copy)) as there, closing(sqlite3.connect(database, timeout=30)) as here:
        there.row_factory = sqlite3.Row
        here.row_factory = sqlite3.Row
        here.execute("PRAGMA foreign_keys=ON")
        here.isolation_level = None
        here.execute("BEGIN IMMEDIATE")
        try:
            for table in _tables():
                report = _merge_table(table, there, here, added, files, renamed, left_out)
                if report.added or report.same or report.kept:
                    reports.append(report)
            # Lists are summed up anew: another workshop did it its own way, or an earlier release.
            here.execute("UPDATE formulas SET state = NULL, summary = NULL")
            here.execute("UPDATE batches SET status = NULL, summary = NULL, forgotten = forgotten + 1")
            here.execute("COMMIT")
        except sqlite3.Error as error:
            here.execute("ROLLBACK")
            raise ArchiveError(f"The archive could not be brought in ({error}). Nothing was changed.") from error
    return ArchiveReport(
        written_at=str(manifest.get("written_at", "")), written_by=str(manifest.get("written_by", "")),
        tables=tuple(reports), renamed=tuple(renamed),
        left_out=tuple(
            LeftOut.model_validate({"what": in_words(table), "name": name, "rows": rows, "why": why})
            for (table, name, why), rows in left_out.items()
        ),
    )  # fmt: skip


def _merge_table(
    table: str, there: sqlite3.Connection, here: sqlite3.Connection, added: dict[str, set[Any]], files: dict[int, int],
    renamed: list[str], left_out: Counter[tuple[str, str, str]],
) -> TableReport:  # fmt: skip
    keys, columns, parents = _keys(there, table), _columns(there, table), _parents(table)
    # Rows that belong to others are counted by these; what names them may be another number here.
    is_numbered = keys == ["id"] and bool(parents)
    counts = {"added": 0, "same": 0, "kept": 0}
    added.setdefault(table, set())
    compared = [one for one in columns if one not in {*FOR_LISTS, "updated_at"}]
    for found in there.execute(f'SELECT * FROM "{table}" ORDER BY rowid').fetchall():
        row = dict(found)
        if table == "workshop" and str(row["name"]).startswith(MARK):
            continue
        if not _is_readable(row):
            counts["kept"] += 1
            left_out[table, _called(there, table, row), "unreadable"] += 1
            continue
        of_new = all(row[column] is None or row[column] in added[parent] for column, parent in parents)
        if parents and not of_new:
            # What belongs to a thing that was here already stays as it is here.
            if _is_here(here, table, row, [one for one in compared if one != "id" or not is_numbered]):
                counts["same"] += 1
            else:
                counts["kept"] += 1
                if table not in FOLLOWING:
                    left_out[table, _called(there, table, row), "belongs_to_what_is_here"] += 1
            continue
        # A number says nothing from one workshop to another: what has one and belongs to nothing is known by its content.
        named_by = (
            keys
            if bool(parents) or keys != ["id"] or isinstance(row["id"], str)
            else [one for one in compared if one != "id"]
        )
        where = " AND ".join(f'"{key}" IS ?' for key in named_by)
        known = here.execute(f'SELECT * FROM "{table}" WHERE {where}', [row[key] for key in named_by]).fetchone()
        if named_by is not keys and known is None and _is_taken(here, table, row["id"]):
            del row["id"]
        if known is not None and is_numbered:
            old = row.pop("id")
            new = _insert(here, table, row, files)
            if table == PICTURES:
                files[old] = new
            counts["added"] += 1
        elif known is not None:
            is_same = all(known[one] == row[one] for one in compared)
            counts["same" if is_same else "kept"] += 1
            if not is_same:
                left_out[table, _called(there, table, row), "differs"] += 1
        else:
            _rename(table, row, here, renamed)
            try:
                _insert(here, table, row, files)
            except sqlite3.IntegrityError:
                # Another name that is taken already, such as that of a set of targets.
                counts["kept"] += 1
                left_out[table, _called(there, table, row), "name_taken"] += 1
                continue
            added[table].add(row.get(keys[0]))
            counts["added"] += 1
    return TableReport(table=table, what=in_words(table), **counts)


def _is_readable(row: Mapping[str, Any]) -> bool:
    """Whether what a row holds as JSON is JSON."""
    try:
        return all(isinstance(json.loads(row[one]), dict | list) for one in JSON_HELD if isinstance(row.get(one), str))
    except (ValueError, RecursionError):
        return False


def _is_here(here: sqlite3.Connection, table: str, row: Mapping[str, Any], columns: Sequence[str]) -> bool:
    """Whether a row that says the same in `columns` is here."""
    where = " AND ".join(f'"{one}" IS ?' for one in columns)
    return here.execute(f'SELECT 1 FROM "{table}" WHERE {where}', [row[one] for one in columns]).fetchone() is not None


def _called(there: sqlite3.Connection, table: str, row: Mapping[str, Any]) -> str:
    """What the thing is called that a row is, or belongs to."""
    for column in NAMING:
        if row.get(column):
            return str(row[column])
    for column, parent in _parents(table):
        found = (
            there.execute(f'SELECT * FROM "{parent}" WHERE id = ?', (row[column],)).fetchone() if row[column] else None
        )
        if found is not None:
            return _called(there, parent, dict(found))
    return ""


def _is_taken(here: sqlite3.Connection, table: str, number: int) -> bool:
    return here.execute(f'SELECT 1 FROM "{table}" WHERE id = ?', (number,)).fetchone() is not None


def _insert(here: sqlite3.Connection, table: str, row: Mapping[str, Any], files: Mapping[int, int]) -> int:
    values = [_repointed(value, files) if column == "content" else value for column, value in row.items()]
    names = ", ".join(f'"{one}"' for one in row)
    written = here.execute(f'INSERT INTO "{table}" ({names}) VALUES ({", ".join("?" * len(row))})', values)
    return written.lastrowid or 0


def _repointed(content: Any, files: Mapping[int, int]) -> Any:
    """The content of an entry, naming pictures by the numbers that they have here."""
    if not isinstance(content, str) or not files:
        return content
    return FILE_REFERENCE.sub(lambda found: f'"file_id":{files.get(int(found[1]), int(found[1]))}', content)


def _rename(table: str, row: dict[str, Any], here: sqlite3.Connection, renamed: list[str]) -> None:
    """A code that is taken already gets the next free letter."""
    column = CODES.get(table)
    if column is None:
        return
    taken = {str(one[0]) for one in here.execute(f'SELECT "{column}" FROM "{table}"')}
    if row[column] not in taken:
        return
    before = str(row[column])
    row[column] = next(code for code in _lettered(before) if code not in taken)
    if "search_text" in row:
        row["search_text"] = str(row["search_text"]).replace(before.casefold(), row[column].casefold())
    if table == "lots":
        row["content"] = json.dumps({**json.loads(row["content"]), "code": row[column]}, ensure_ascii=False)
    renamed.append(f"{before} → {row[column]}")


def _lettered(code: str) -> Iterator[str]:
    letters: Sequence[str] = "abcdefghijklmnopqrstuvwxyz"
    for letter in letters:
        yield f"{code[:15]}{letter}"
    for number in range(1000):
        yield f"{code[:12]}-{number}"
