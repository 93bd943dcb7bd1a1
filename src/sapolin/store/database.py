"""The database file: where it is, how it is opened, and how it is brought up to date."""

import sqlite3
from contextlib import closing
from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from platformdirs import user_data_path
from sqlalchemy import Engine, create_engine, event, text
from sqlalchemy.orm import Session

__all__ = ["data_directory", "open_database", "write_alone"]


def data_directory(chosen: Path | None = None) -> Path:
    """The directory for the maker's data: `chosen`, or the platform's own; created when missing."""
    directory = chosen if chosen is not None else user_data_path("sapolin", appauthor=False)
    directory.mkdir(parents=True, exist_ok=True)
    return directory


def _set_pragmas(connection: Any, _record: Any) -> None:
    cursor = connection.cursor()
    # What the screen calls saved has reached the disk: WAL with full synchronisation survives a killed server.
    for pragma in ("journal_mode=WAL", "synchronous=FULL", "foreign_keys=ON", "busy_timeout=5000"):
        cursor.execute(f"PRAGMA {pragma}")
    cursor.close()


def _migrate(engine: Engine, file: Path) -> None:
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    newest = ScriptDirectory.from_config(config).get_current_head()
    with engine.begin() as connection:
        present = MigrationContext.configure(connection).get_current_revision()
    if present == newest:
        return
    if present is not None:
        _copy(file, file.with_name(f"{file.name}.before-{newest}"))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")


def _copy(file: Path, target: Path) -> None:
    """Copy a database whole, with what its write-ahead log still holds."""
    with closing(sqlite3.connect(file)) as source, closing(sqlite3.connect(target)) as copy:
        source.backup(copy)


def open_database(file: Path) -> Engine:
    """Open the database `file`, created and migrated as needed; an older one is copied beside itself first."""
    engine = create_engine(f"sqlite:///{file}")
    event.listen(engine, "connect", _set_pragmas)
    _migrate(engine, file)
    return engine


def write_alone(session: Session) -> None:
    """From here on nobody else writes until the transaction ends, so that what is read stays true."""
    # A statement that changes nothing takes the lock all the same.
    session.execute(text("UPDATE alembic_version SET version_num = version_num WHERE 0"))
