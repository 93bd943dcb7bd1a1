"""The database file: where it is, how it is opened, brought up to date, and kept whole.

A new database is built beside its place and moved there when it is complete, so the file at its place is never half a
database. Each migration is one transaction; a copy, checked, is kept before the first of them.
"""

import os
import shutil
import sqlite3
import time
from collections.abc import Iterator
from contextlib import closing, contextmanager, suppress
from functools import cache
from pathlib import Path
from typing import Any

from platformdirs import user_data_path
from sqlalchemy import Connection, Engine, create_engine, event, text
from sqlalchemy.exc import DatabaseError
from sqlalchemy.orm import Session
from sqlalchemy.pool import NullPool

from sapolin.store.backup import BackupError, Backups

__all__ = [
    "DatabaseFaultError",
    "bring_up_to_date",
    "checkpoint",
    "close_database",
    "data_directory",
    "known_formats",
    "newest_format",
    "open_database",
    "upgrade_to",
    "write_alone",
]

ABANDONED_SECONDS = 3600
"""So long nothing lies aside that is still needed."""
_MIGRATIONS = Path(__file__).parent / "migrations"


class DatabaseFaultError(Exception):
    """The database cannot be used; the message is one sentence for the maker, with the remedy."""


def data_directory(chosen: Path | None = None) -> Path:
    """The directory for the maker's data: `chosen`, or the platform's own; created when missing.

    Raises DatabaseFaultError when there can be none.
    """
    directory = chosen if chosen is not None else user_data_path("sapolin", appauthor=False)
    try:
        directory.mkdir(mode=0o700, parents=True, exist_ok=True)
    except (FileExistsError, NotADirectoryError) as error:
        raise DatabaseFaultError(
            f"{directory} is a file or lies below one, so no data can be kept there; name a directory with --data."
        ) from error
    except OSError as error:
        raise DatabaseFaultError(
            f"{directory} cannot be made ({error.strerror}); name another directory with --data."
        ) from error
    return directory


def _set_pragmas(connection: Any, _record: Any) -> None:
    cursor = connection.cursor()
    # What the screen calls saved has reached the disk: WAL with full synchronisation survives a killed server.
    for pragma in ("journal_mode=WAL", "synchronous=FULL", "foreign_keys=ON", "busy_timeout=5000"):
        cursor.execute(f"PRAGMA {pragma}")
    cursor.close()


@contextmanager
def _migrating(file: Path) -> Iterator[Connection]:
    """A connection on which every transaction takes the write lock at once and holds DDL too."""
    engine = create_engine(f"sqlite:///{file}", poolclass=NullPool)

    @event.listens_for(engine, "connect")
    def leave_transactions_to_us(connection: Any, _record: Any) -> None:
        connection.isolation_level = None
        connection.execute("PRAGMA synchronous=FULL")

    @event.listens_for(engine, "begin")
    def begin(connection: Connection) -> None:
        connection.exec_driver_sql("BEGIN IMMEDIATE")

    with engine.connect() as connection:
        yield connection
    engine.dispose()


def _present_format(connection: Connection) -> str | None:
    """The format that a database says it is in; None when it does not say."""
    tables = connection.exec_driver_sql("SELECT name FROM sqlite_master WHERE type = 'table'").scalars().all()
    if "alembic_version" not in tables:
        return None
    present: str | None = connection.exec_driver_sql("SELECT version_num FROM alembic_version").scalar()
    return present


def _upgrade(connection: Connection, revision: str) -> None:
    # Most starts find nothing to bring up to date, and need not wait for what could do it to be read.
    from alembic import command
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(_MIGRATIONS))
    config.attributes["connection"] = connection
    command.upgrade(config, revision)


def _migrate(file: Path) -> None:
    newest = newest_format()
    with _migrating(file) as connection:
        present = _present_format(connection)
        connection.rollback()
        if present == newest:
            return
        if present is not None and present not in known_formats():
            raise DatabaseFaultError(
                f"{file} was written by a newer Sapolin (its format is {present}); start that one, or move the file away."
            )
        if present is None:
            _clear_half_built(connection, file)
        else:
            _copy(file)
        _upgrade(connection, newest)


@cache
def known_formats() -> frozenset[str]:
    """The formats that this release can bring up to date. The file of a migration begins with the one it leads to."""
    return frozenset(file.name.partition("_")[0] for file in _MIGRATIONS.glob("versions/[0-9]*.py"))


def newest_format() -> str:
    """The format that this release keeps its database in."""
    return max(known_formats())


def upgrade_to(file: Path, revision: str) -> None:
    """Build a database `file` of a format, or bring one up to it. Raises DatabaseFaultError when the format is not known."""
    if revision not in known_formats():
        raise DatabaseFaultError(f"The format {revision} is that of a newer Sapolin; install that one.")
    with _migrating(file) as connection:
        _upgrade(connection, revision)


def _clear_half_built(connection: Connection, file: Path) -> None:
    """Tables without a version are what a first start left that was ended in its midst; they hold nothing yet."""
    tables = connection.exec_driver_sql(
        "SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite_%'"
    ).scalars().all()  # fmt: skip
    for table in tables:
        if connection.exec_driver_sql(f'SELECT count(*) FROM "{table}"').scalar_one():
            raise DatabaseFaultError(
                f"{file} holds data but does not say in which format; put a copy of it back that was kept before."
            )
    for table in tables:
        connection.exec_driver_sql(f'DROP TABLE "{table}"')
    connection.commit()


def _copy(file: Path) -> None:
    """Keep a backup of a database as it was before it is brought up to date."""
    try:
        Backups(file).take("upgrade")
    except BackupError as error:
        raise DatabaseFaultError(f"{file} was left as it is. {error}") from error


def _traces(file: Path) -> list[Path]:
    """What shows that there was a database here before."""
    found = sorted(file.parent.glob(f"{file.name}.before-*"))  # as earlier releases named their copies
    found += sorted(file.parent.glob(f"backups/{file.stem}.*.backup"))
    wal = file.with_name(f"{file.name}-wal")
    if wal.exists() and wal.stat().st_size > 0:
        found.append(wal)
    return found


def _refuse_to_start_empty(file: Path) -> None:
    """A database that is gone, or holds nothing, is never silently replaced by a new one."""
    if not file.exists():
        traces = _traces(file)
        if traces:
            raise DatabaseFaultError(
                f"{file} is missing, but {traces[-1].name} shows that there was one; put it back (sapolin restore), or "
                f"move {traces[-1].name} away to start empty."
            )
        return
    if file.is_dir():
        raise DatabaseFaultError(f"{file} is a directory where the database should be; move it away.")
    with closing(sqlite3.connect(file)) as connection:
        tables = connection.execute("SELECT count(*) FROM sqlite_master").fetchone()[0]
    if tables == 0:
        raise DatabaseFaultError(
            f"{file} holds nothing: it was probably copied while Sapolin was running, or cut off; put a whole copy in its "
            "place, or move it away to start empty."
        )


def _build_new(file: Path) -> None:
    """Build a new database beside its place and move it there when it is complete."""
    building = file.with_name(f"{file.name}.new")
    building.unlink(missing_ok=True)
    _migrate(building)
    os.replace(building, file)


_FAULTS = {
    "file is not a database": "is not a database of Sapolin; put a copy of it back, or move it away to start empty",
    "malformed": "is damaged; put a copy of it back that was kept before",
    "readonly database": "cannot be written to; give yourself the right to write there, or name another place with --data",
    "unable to open": "cannot be opened; look at its rights, or name another place with --data",
    "disk is full": "has no room to grow: the disk is full; make room and start again",
    "disk I/O error": "cannot be read or written: the disk reports an error; copy it elsewhere and name that with --data",
    "locked": "is in use by another program; end that one, or name another place with --data",
}


def fault_in_words(file: Path, error: Exception) -> DatabaseFaultError:
    """An error of the database as one sentence with the remedy."""
    said = str(getattr(error, "orig", None) or error)
    words = next((words for sign, words in _FAULTS.items() if sign in said), f"cannot be used ({said})")
    return DatabaseFaultError(f"{file} {words}.")


def _clear_abandoned(directory: Path) -> None:
    """What lay aside while something was put back, brought in or saved from damage, when the server was ended in its midst."""
    before = time.time() - ABANDONED_SECONDS
    for kind in ("coming", "archive", "salvage"):
        for left in directory.glob(f"sapolin-{kind}-*"):
            with suppress(OSError):
                if left.is_dir() and left.stat().st_mtime < before:
                    shutil.rmtree(left)


def open_database(file: Path) -> Engine:
    """Open the database `file`, created and migrated as needed; an older one is copied beside itself first.

    Raises DatabaseFaultError when it cannot be used, or when a new one would hide one that is lost.
    """
    try:
        _refuse_to_start_empty(file)
        if file.exists():
            _migrate(file)
        else:
            _build_new(file)
        os.chmod(file, 0o600)
        _clear_abandoned(file.parent)
        engine = create_engine(f"sqlite:///{file}")
        event.listen(engine, "connect", _set_pragmas)
        checkpoint(engine)
    except (sqlite3.Error, DatabaseError, OSError) as error:
        raise fault_in_words(file, error) from error
    return engine


def bring_up_to_date(file: Path) -> None:
    """Bring a database that was put back to the newest format. Raises DatabaseFaultError."""
    try:
        _migrate(file)
    except (sqlite3.Error, DatabaseError, OSError) as error:
        raise fault_in_words(file, error) from error


def checkpoint(engine: Engine) -> None:
    """Fold the write-ahead log into the file, so that a copy of the file alone is whole."""
    with engine.connect() as connection:
        connection.exec_driver_sql("PRAGMA wal_checkpoint(TRUNCATE)")


def close_database(engine: Engine) -> None:
    """Leave one whole file behind."""
    checkpoint(engine)
    engine.dispose()


def write_alone(session: Session) -> None:
    """From here on nobody else writes until the transaction ends, so that what is read stays true."""
    # A statement that changes nothing takes the lock all the same.
    session.execute(text("UPDATE alembic_version SET version_num = version_num WHERE 0"))
