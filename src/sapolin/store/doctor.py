"""The doctor: looks at a database file without changing it, and saves what can be read of a damaged one."""

import json
import shutil
import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager, suppress
from pathlib import Path
from tempfile import TemporaryDirectory

from sapolin.core.quantities.model import Model
from sapolin.store.backup import LEAST_FREE_BYTES, BackupError, Backups, in_words, move_aside
from sapolin.store.database import DatabaseFaultError, bring_up_to_date, known_formats, upgrade_to
from sapolin.store.tables import Base

__all__ = ["Examined", "TableState", "examine", "newest_sound_backup", "quick_look", "salvage"]

MOST_FAULTS = 20
"""Faults of the file that are listed; more say nothing new."""
JSON_COLUMNS = frozenset({"content", "plan", "summary", "formula"})
"""Columns whose text is JSON wherever it is not empty."""

MOST_FILLED_BYTES = 20_000_000_000
"""So large a database may say that it is; more is a damaged number."""


class TableState(Model):
    """What can be read of one table."""

    table: str
    what: str
    """What is in it, in a maker's words."""
    rows: int
    """Rows that can be read."""
    unreadable: int
    """Rows that are there and cannot be read, or whose content is no JSON."""


class Examined(Model):
    """What the doctor saw."""

    database: str
    is_sound: bool
    faults: tuple[str, ...]
    """Each a sentence with what to do; none when all is well."""
    warnings: tuple[str, ...]
    tables: tuple[TableState, ...]
    newest_backup: str | None
    """Name; null when there is none."""


def examine(file: Path) -> Examined:
    """Look at a database: whether it is there, whole, of a known format, and readable row by row. It is not changed."""
    backups = Backups(file).all()
    faults: list[str] = []
    tables: list[TableState] = []
    if not file.is_file():
        faults.append(
            f"{file} is not there. Put a backup in its place (sapolin restore), or start Sapolin to begin anew."
        )
    else:
        try:
            with closing(sqlite3.connect(f"file:{file.resolve()}?mode=ro", uri=True)) as connection:
                connection.execute("SELECT count(*) FROM sqlite_master").fetchone()
                faults += _faults_of(connection)
                tables += (_state(connection, table) for table in _present(connection))
        except sqlite3.Error as error:
            faults.append(f"The file cannot be opened as a database ({error}). Put a backup back (sapolin restore).")
        unreadable = sum(one.unreadable for one in tables)
        if unreadable:
            where = ", ".join(one.what for one in tables if one.unreadable)
            faults.append(
                f"At least {unreadable} of the rows cannot be read ({where}). Save what can be read (sapolin doctor "
                "--salvage), or put a backup back."
            )
    return Examined(
        database=str(file), is_sound=not faults, faults=tuple(faults), warnings=tuple(_warnings(file, backups != [])),
        tables=tuple(tables), newest_backup=backups[0].name if backups else None,
    )  # fmt: skip


def quick_look(file: Path) -> str | None:
    """What has to be told of a database in use: damage of the file, or little space; None when all is well."""
    try:
        with closing(sqlite3.connect(f"file:{file.resolve()}?mode=ro", uri=True)) as connection:
            said = str(connection.execute("PRAGMA quick_check(1)").fetchone()[0])
    except sqlite3.Error as error:
        said = str(error)
    if said != "ok":
        return (
            "The file of your data is damaged. What can be read still works. End Sapolin and run sapolin doctor: it "
            "says how much is lost. Or put a backup back."
        )
    free = shutil.disk_usage(file.parent).free
    if free < LEAST_FREE_BYTES:
        return f"The disk has only {free // 1_000_000} MB left. Make room: backups need it, and so does every save."
    return None


def _faults_of(connection: sqlite3.Connection) -> Iterator[str]:
    try:
        said = [str(row[0]) for row in connection.execute(f"PRAGMA integrity_check({MOST_FAULTS})")]
    except sqlite3.DatabaseError as error:
        # So damaged that the check itself gives up; single rows may be readable all the same.
        said = [str(error)]
    if said != ["ok"]:
        yield f"The file is damaged ({'; '.join(said[:3])}). Put a backup back, or save what can be read."
    try:
        found = connection.execute("SELECT version_num FROM alembic_version").fetchone()
    except sqlite3.DatabaseError:
        found = None
    if found is None:
        yield "The file does not say in which format it is. Put a backup back, or save what can be read."
    elif found[0] not in known_formats():
        yield f"The file was written by a newer Sapolin (its format is {found[0]}). Start that one."


def _warnings(file: Path, has_backups: bool) -> Iterator[str]:
    free = shutil.disk_usage(file.parent).free
    if free < LEAST_FREE_BYTES + (file.stat().st_size if file.is_file() else 0):
        yield f"The disk has only {free // 1_000_000} MB left. Make room: backups need it, and so does every save."
    if not has_backups:
        yield "There is no backup yet. Take one (sapolin backup)."
    if file.is_file() and file.stat().st_mode & 0o077:
        yield "Others on this machine may read the file. Sapolin takes that right away when it starts."


def _present(connection: sqlite3.Connection) -> list[str]:
    there = {row[0] for row in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
    return [table.name for table in Base.metadata.sorted_tables if table.name in there]


def _row_numbers(connection: sqlite3.Connection, table: str) -> tuple[list[int], bool]:
    """The row numbers of a table from both ends, as far as each can be read, and whether they could all be read."""
    found: set[int] = set()
    whole = False
    for order in ("", "DESC"):
        try:
            for row in connection.execute(f'SELECT rowid FROM "{table}" ORDER BY rowid {order}'):
                found.add(row[0])
            whole = True
        except sqlite3.DatabaseError:
            continue
    return sorted(found), whole


def _readable_rows(connection: sqlite3.Connection, table: str) -> Iterator[dict[str, object] | None]:
    """Every row of a table, null for one that cannot be read."""
    numbers, is_whole = _row_numbers(connection, table)
    for number in numbers:
        try:
            cursor = connection.execute(f'SELECT * FROM "{table}" WHERE rowid = ?', (number,))
            found = cursor.fetchone()
            row = dict(zip((one[0] for one in cursor.description), found, strict=True)) if found else None
            if row is not None:
                for column in JSON_COLUMNS & row.keys():
                    if isinstance(row[column], str):
                        json.loads(str(row[column]))
        except (sqlite3.DatabaseError, ValueError):
            row = None
        yield row
    if not is_whole:
        yield None


def _state(connection: sqlite3.Connection, table: str) -> TableState:
    readable = unreadable = 0
    for row in _readable_rows(connection, table):
        readable += row is not None
        unreadable += row is None
    return TableState(table=table, what=in_words(table), rows=readable, unreadable=unreadable)


def salvage(file: Path) -> tuple[Examined, Path]:
    """Build a fresh database of everything that can be read of `file`, and put it in its place.

    The damaged one is kept beside it; its path is returned with what the doctor sees afterwards. Only while nothing else has
    it open. Raises DatabaseFaultError when nothing can be read.
    """
    if not file.is_file():
        raise DatabaseFaultError(f"{file} is not there, so nothing can be saved of it. Put a backup in its place.")
    fresh = file.with_name(f"{file.name}.salvaged")
    fresh.unlink(missing_ok=True)
    try:
        with _as_far_as_it_goes(file) as damaged:
            upgrade_to(fresh, _format_of(damaged, file))
            with closing(sqlite3.connect(fresh)) as target:
                for table in _present(damaged):
                    _copy_rows(damaged, target, table)
                _drop_orphans(target)
                target.commit()
    except sqlite3.Error as error:
        fresh.unlink(missing_ok=True)
        raise DatabaseFaultError(
            f"Nothing can be read of {file} ({error}). It was left as it is; put a backup back (sapolin restore)."
        ) from error
    aside = move_aside(file)
    assert aside is not None
    fresh.rename(file)
    bring_up_to_date(file)
    return examine(file), aside


@contextmanager
def _as_far_as_it_goes(file: Path) -> Iterator[sqlite3.Connection]:
    """A database opened as a copy. One that was cut off is filled up with empty pages: SQLite opens none that is shorter than
    it says of itself, and then reads every page that is there."""
    with TemporaryDirectory(prefix="sapolin-salvage-", dir=file.parent) as directory:
        copy = Path(directory) / file.name
        shutil.copyfile(file, copy)
        log = file.with_name(f"{file.name}-wal")
        if log.exists():
            shutil.copyfile(log, copy.with_name(f"{copy.name}-wal"))
        with copy.open("r+b") as content:
            header = content.read(100)
            page_bytes = int.from_bytes(header[16:18], "big") or 1
            pages = int.from_bytes(header[28:32], "big")
            # A page of 65,536 bytes is noted as 1.
            whole = (65_536 if page_bytes == 1 else page_bytes) * pages
            if header.startswith(b"SQLite format 3\x00") and copy.stat().st_size < whole <= MOST_FILLED_BYTES:
                content.truncate(whole)
        with closing(sqlite3.connect(copy)) as connection:
            yield connection


def _format_of(damaged: sqlite3.Connection, file: Path) -> str:
    """The format a database says it is in; where that cannot be read, the one whose tables and columns are the same."""
    with suppress(sqlite3.DatabaseError):
        found = damaged.execute("SELECT version_num FROM alembic_version").fetchone()
        if found is not None:
            return str(found[0])
    shape = _shape(damaged)
    scratch = file.with_name(f"{file.name}.scratch")
    for revision in sorted(known_formats(), reverse=True):
        scratch.unlink(missing_ok=True)
        upgrade_to(scratch, revision)
        with closing(sqlite3.connect(scratch)) as built:
            is_same = _shape(built) == shape
        scratch.unlink()
        if is_same:
            return revision
    raise DatabaseFaultError(
        f"{file} is in no format that this Sapolin knows. It was left as it is; put a backup back."
    )


def _shape(connection: sqlite3.Connection) -> dict[str, frozenset[str]]:
    """The columns of each table."""
    names = connection.execute("SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite_%'")
    return {
        name: frozenset(row[1] for row in connection.execute(f'PRAGMA table_info("{name}")'))
        for (name,) in names.fetchall()
    }


def _copy_rows(damaged: sqlite3.Connection, target: sqlite3.Connection, table: str) -> None:
    for row in _readable_rows(damaged, table):
        if row is not None:
            names = ", ".join(f'"{one}"' for one in row)
            # What a new database notes of itself gives way to what this one noted.
            way = "REPLACE" if table == "workshop" else "IGNORE"
            target.execute(
                f'INSERT OR {way} INTO "{table}" ({names}) VALUES ({", ".join("?" * len(row))})', [*row.values()]
            )


def _drop_orphans(target: sqlite3.Connection) -> None:
    """Rows that belong to one that could not be read go too: nothing would show them."""
    # Records only grow: what watches over that rests while rows go that belong to nothing.
    watching = target.execute("SELECT name, sql FROM sqlite_master WHERE type = 'trigger'").fetchall()
    for name, _ in watching:
        target.execute(f'DROP TRIGGER "{name}"')
    while orphans := target.execute("PRAGMA foreign_key_check").fetchall():
        for table, number, *_ in orphans:
            target.execute(f'DELETE FROM "{table}" WHERE rowid = ?', (number,))
    for _, made_by in watching:
        target.execute(made_by)


def newest_sound_backup(file: Path) -> Path | None:
    """The newest backup that is whole; null when there is none."""
    backups = Backups(file)
    for one in backups.all():
        path = backups.path(one.name)
        try:
            backups.check(path)
        except BackupError:
            continue
        return path
    return None
