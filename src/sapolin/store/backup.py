"""Backups: whole copies by SQLite's online backup, checked when they are taken, kept in turn, and put back.

A copy is written under another name until it is whole and checked. Automatic ones are kept for seven days and eight weeks; one
is taken before anything that could lose data: a reset, an import, a restore. They lie beside the database, and in a
second place of the maker's choice.
"""

import fcntl
import json
import os
import shutil
import sqlite3
from collections.abc import Iterator, Sequence
from contextlib import closing, contextmanager, suppress
from datetime import UTC, datetime, timedelta
from pathlib import Path
from re import compile as pattern
from typing import Literal, get_args

from sapolin.core.quantities.model import Model
from sapolin.store.tables import FOR_LISTS, NOT_KEPT
from sapolin.store.whole_file import write_whole

__all__ = [
    "MARK",
    "Backup",
    "BackupError",
    "Backups",
    "Difference",
    "Reason",
    "continue_revisions",
    "copy_whole",
    "in_words",
    "move_aside",
]

Reason = Literal["daily", "weekly", "asked", "upgrade", "reset", "import", "restore"]
KEPT: dict[str, int] = {"daily": 7, "weekly": 8, "asked": 20, "upgrade": 5, "reset": 5, "import": 10, "restore": 10}
"""So many of each are kept; the oldest go first."""
DAY = timedelta(hours=20)
WEEK = timedelta(days=6, hours=12)
"""A little less, so that a workshop opened at nine each day has one for each day."""
ABANDONED = timedelta(hours=1)
"""So long no copy takes: one that is not finished by then never will be."""
LEAST_FREE_BYTES = 50_000_000
AHEAD = timedelta(minutes=10)
"""A backup dated later than this from now was taken while the clock was wrong."""
_NAME = pattern(
    r"(?P<stem>.+)\.(?P<at>\d{8}T\d{6}\d*)(?:-(?P<number>\d{1,9}))?"
    rf"\.(?P<reason>{'|'.join(get_args(Reason))})\.backup"
)
PLACES = "places.json"
ROWS_OF = {
    "formulas": "formulas", "formula_versions": "versions of formulas", "materials": "own materials", "prices": "prices",
    "oil_notes": "notes on oils", "target_sets": "sets of targets", "moulds": "moulds", "batches": "batches",
    "batch_events": "entries of make days", "batch_files": "pictures", "batch_starts": "plans as they were begun",
    "batch_outcomes": "weighed results", "cure_events": "entries after the pour", "trays": "trays",
    "tray_bars": "bars on trays", "cure_taught": "what bars taught", "predictions": "forecasts", "comparisons": "comparisons",
    "compared_batches": "batches in comparisons", "comparison_events": "entries of comparisons", "trials": "trials",
    "trial_batches": "batches in trials", "own_criteria": "own criteria", "workshop": "settings of the workshop",
    "heeded_notes": "notes that were taken to heart", "labels": "labels", "price_lists": "price lists",
    "imports": "tables brought in", "lots": "lots", "ledger": "entries of stock", "preparations": "preparations",
    "preparation_events": "entries of preparations", "practice": "exercises done",
}  # fmt: skip
"""What is in each table, as a maker says it."""
MARK = "mark:"
"""So begins what a database notes of itself in its settings."""


def in_words(table: str) -> str:
    """What is in a table, as a maker says it."""
    return ROWS_OF.get(table, table.replace("_", " "))


class BackupError(Exception):
    """A backup cannot be taken or put back; the message is one sentence for the maker, with the remedy."""


class Backup(Model):
    """A copy that is kept."""

    name: str
    taken_at: str
    """UTC, ISO 8601."""
    reason: Reason
    size_bytes: int
    in_second_place: bool
    """It lies in the second place too."""


class Difference(Model):
    """What would change in one kind of thing, if a backup were put back."""

    table: str
    what: str
    now: int
    then: int
    would_go: int
    """Rows that are here and not in the backup."""
    would_come: int
    """Rows of the backup that are not here."""
    would_change: int
    """Rows that are in both, and differ."""


def _connect(file: Path) -> sqlite3.Connection:
    """Read only: a backup is never written to."""
    return sqlite3.connect(f"file:{file.resolve()}?mode=ro", uri=True)


def move_aside(database: Path) -> Path | None:
    """Give a database, with what its write-ahead log holds, another name; null when there is none."""
    if not database.exists():
        return None
    at = datetime.now(UTC).strftime("%Y%m%dT%H%M%S%f")
    aside = database.with_name(f"{database.name}.damaged-{at}")
    for ending in ("-wal", "-shm", ""):
        with suppress(FileNotFoundError):
            database.with_name(f"{database.name}{ending}").rename(aside.with_name(f"{aside.name}{ending}"))
    return aside


class Backups:
    """The backups of one database."""

    def __init__(self, database: Path) -> None:
        self._database = database
        self.directory = database.with_name("backups")

    @property
    def second_place(self) -> Path | None:
        """A folder of the maker's choice, such as a stick or a synced drive; null while none is chosen."""
        file = self._database.with_name(PLACES)
        try:
            chosen = json.loads(file.read_text(encoding="utf-8")).get("second_place")
        except (OSError, ValueError, AttributeError):
            return None
        return Path(chosen) if isinstance(chosen, str) and chosen else None

    def choose_second_place(self, folder: str | None) -> None:
        """Keep copies in `folder` too, null for none. Raises BackupError when nothing can be written there."""
        file = self._database.with_name(PLACES)
        if folder is None or not folder.strip():
            file.unlink(missing_ok=True)
            return
        place = Path(folder).expanduser()
        if not place.is_absolute():
            raise BackupError(
                f"“{folder}” is not a whole path. Give it from the root on, such as /media/stick/sapolin."
            )
        if place.resolve() == self.directory.resolve():
            raise BackupError("That is where backups are already. Choose another folder, on another disk if you can.")
        try:
            place.mkdir(parents=True, exist_ok=True)
            probe = place / ".sapolin-writes-here"
            probe.write_bytes(b"")
            probe.unlink()
        except OSError as error:
            raise BackupError(
                f"Nothing can be written to {place} ({error.strerror}). Choose another folder."
            ) from error
        write_whole(file, json.dumps({"second_place": str(place)}).encode())
        if self.directory.is_dir():
            with self._one_at_a_time():
                self._catch_up()

    def all(self) -> list[Backup]:
        """Every backup of this database, in the order in which they were taken, the newest first, whatever the clock said."""
        second = self.second_place
        found: list[tuple[int, str, Backup]] = []
        for file in self.directory.glob(f"{self._database.stem}.*.backup") if self.directory.is_dir() else ():
            match = _NAME.fullmatch(file.name)
            if match is None or match["stem"] != self._database.stem:
                continue
            # Named by hand, it may be of no day that there is; or a newer one has just taken its place.
            with suppress(ValueError, FileNotFoundError):
                at = datetime.strptime(match["at"][:15], "%Y%m%dT%H%M%S").replace(tzinfo=UTC)
                backup = Backup.model_validate({
                    "name": file.name, "taken_at": at.isoformat(timespec="seconds"), "reason": match["reason"],
                    "size_bytes": file.stat().st_size,
                    "in_second_place": second is not None and (second / file.name).is_file(),
                })  # fmt: skip
                found.append((int(match["number"] or 0), match["at"], backup))
        return [one for _, _, one in sorted(found, key=lambda one: one[:2], reverse=True)]

    def _next_number(self) -> int:
        """Backups are counted, so that their order does not hang on the clock."""
        places = [self.directory, *([self.second_place] if self.second_place is not None else [])]
        names = [file.name for place in places for file in place.glob(f"{self._database.stem}.*.backup")]
        return 1 + max((int(match["number"] or 0) for name in names if (match := _NAME.fullmatch(name))), default=0)

    def path(self, name: str) -> Path:
        """The file of a backup, in either place. Raises BackupError when there is none of that name."""
        match = _NAME.fullmatch(name)
        places = (self.directory, self.second_place)
        for place in places:
            of_this = match is not None and match["stem"] == self._database.stem
            if of_this and place is not None and (place / name).is_file():
                return place / name
        raise BackupError(f"There is no backup “{name}”.")

    def take(self, reason: Reason, now: datetime | None = None) -> Backup:
        """Copy the database whole while it is in use, check the copy, and keep it. Raises BackupError.

        One after the other: two at once would sweep away, or copy to the second place, what the other has half written.
        """
        self.directory.mkdir(mode=0o700, exist_ok=True)
        with self._one_at_a_time():
            return self._take(reason, now or datetime.now(UTC))

    def _take(self, reason: Reason, now: datetime) -> Backup:
        free = shutil.disk_usage(self.directory).free
        if free < self._database.stat().st_size + LEAST_FREE_BYTES:
            raise BackupError(f"The disk has only {free // 1_000_000} MB left, so no backup was taken. Make room.")
        at = now.strftime("%Y%m%dT%H%M%S%f")
        target = self.directory / f"{self._database.stem}.{at}-{self._next_number():06d}.{reason}.backup"
        self._clear_abandoned()
        component = target.with_suffix(".part")
        try:
            with closing(sqlite3.connect(self._database)) as source, closing(sqlite3.connect(component)) as copy:
                source.backup(copy)
                # One file alone, that can be carried away.
                copy.execute("PRAGMA journal_mode=DELETE")
            self.check(component)
            os.chmod(component, 0o600)
            component.rename(target)
        except sqlite3.DatabaseError as error:
            raise BackupError(f"No backup could be taken: {self._database.name} cannot be read ({error}).") from error
        except OSError as error:
            raise BackupError(
                f"No backup could be taken ({error.strerror}). Look at the disk and its rights."
            ) from error
        finally:
            for left in (component, component.with_name(f"{component.name}-journal")):
                left.unlink(missing_ok=True)
        self._rotate()
        self._catch_up()
        return next(one for one in self.all() if one.name == target.name)

    @contextmanager
    def _one_at_a_time(self) -> Iterator[None]:
        """Wait until nobody else takes or copies a backup, whether in this process or in another."""
        handle = os.open(self.directory, os.O_RDONLY)
        try:
            fcntl.flock(handle, fcntl.LOCK_EX)
            yield
        finally:
            os.close(handle)

    def _clear_abandoned(self) -> None:
        """What a copy that was ended in its midst left behind."""
        for left in self.directory.glob(f"{self._database.stem}.*.part*"):
            if left.stat().st_mtime < (datetime.now(UTC) - ABANDONED).timestamp():
                left.unlink(missing_ok=True)

    def take_if_due(self, now: datetime | None = None) -> Backup | None:
        """The automatic ones: one a day, and one of them a week kept longer."""
        now = now or datetime.now(UTC)
        newest: dict[str, datetime] = {}
        for one in self.all():
            at = datetime.fromisoformat(one.taken_at)
            # One dated later than now was taken while the clock was wrong, and says nothing of when the next is due.
            if at <= now + AHEAD:
                newest.setdefault(one.reason, at)
        longest_ago = datetime.min.replace(tzinfo=UTC)
        if now - newest.get("weekly", longest_ago) >= WEEK:
            return self.take("weekly", now)
        if now - max(newest.get("daily", longest_ago), newest.get("weekly", longest_ago)) >= DAY:
            return self.take("daily", now)
        return None

    def clock_trouble(self, now: datetime | None = None) -> str | None:
        """What is to be said of the machine's clock, going by the last backup; null when nothing is."""
        now = now or datetime.now(UTC)
        last = next(iter(self.all()), None)
        if last is None or datetime.fromisoformat(last.taken_at) <= now + AHEAD:
            return None
        return (
            f"The last backup is dated {last.taken_at[:10]}, which is still to come by this machine’s clock "
            f"({now.date().isoformat()}). Look at the clock: dates of batches and lots follow it."
        )

    def check(self, file: Path) -> None:
        """Open a copy and look whether it is whole. Raises BackupError."""
        try:
            with closing(_connect(file)) as copy:
                sound = copy.execute("PRAGMA integrity_check").fetchone() == ("ok",)
                version = copy.execute("SELECT version_num FROM alembic_version").fetchone()
        except sqlite3.Error as error:
            raise BackupError(f"{file.name} cannot be read ({error}). Take another one.") from error
        if not sound or version is None:
            raise BackupError(f"{file.name} is damaged. Take another one.")

    def format_of(self, file: Path) -> str:
        """The format that a copy is in, once it is known to be whole. Raises BackupError."""
        self.check(file)
        with closing(_connect(file)) as copy:
            return str(copy.execute("SELECT version_num FROM alembic_version").fetchone()[0])

    def differences(self, file: Path) -> tuple[Difference, ...]:
        """What would change if a copy were put back, kind by kind. Raises BackupError."""
        self.check(file)
        try:
            with closing(_connect(file)) as then, closing(_connect(self._database)) as now:
                tables = _tables(now) | _tables(then)
                return tuple(
                    _difference(table, in_words(table), now, then)
                    for table in sorted(tables, key=lambda one: (*ROWS_OF, one).index(one))
                )
        except sqlite3.OperationalError as error:
            raise BackupError(f"{file.name} cannot be compared ({error}). Look whether it is still there.") from error

    def restore(self, file: Path, reason: Reason = "restore") -> Backup:
        """Put a copy back while the database is in use, after a backup of what is there now; returns that one.

        All of it at once: whoever reads meanwhile sees what was there, or what comes. The copy's format is kept: the database
        is to be brought up to date after it. Raises BackupError.
        """
        self.check(file)
        with closing(_connect(file)) as source:
            # Opened before a backup is taken, which may be one too many, and `file` the one that goes for it.
            source.execute("SELECT count(*) FROM sqlite_master")
            before = self.take(reason)
            try:
                with closing(sqlite3.connect(self._database, timeout=30)) as live:
                    source.backup(live)
                    live.execute("PRAGMA journal_mode=WAL")
            except sqlite3.Error as error:
                raise BackupError(
                    f"The backup could not be put back ({error}). What was there is in {before.name}."
                ) from error
            return before

    def put_in_place(self, file: Path) -> Path | None:
        """Put a copy where there is no database, or one that cannot be read: that one is moved aside and returned.

        Only while nothing else has the database open. Raises BackupError.
        """
        self.check(file)
        component = self._database.with_name(f"{self._database.name}.new")
        try:
            shutil.copyfile(file, component)
            os.chmod(component, 0o600)
            aside = move_aside(self._database)
            component.rename(self._database)
        except OSError as error:
            raise BackupError(f"The backup could not be put in its place ({error.strerror}).") from error
        return aside

    def _catch_up(self) -> None:
        """Copy into the second place what it lacks; one that is not there just now is caught up with the next time."""
        second = self.second_place
        if second is None or not second.is_dir():
            return
        for backup in self.all():
            if not backup.in_second_place:
                component = second / f"{backup.name}.part"
                try:
                    shutil.copyfile(self.directory / backup.name, component)
                    component.rename(second / backup.name)
                except OSError:
                    component.unlink(missing_ok=True)
                    return

    def _rotate(self) -> None:
        by_reason: dict[str, list[Backup]] = {}
        for one in self.all():
            by_reason.setdefault(one.reason, []).append(one)
        for reason, kept in by_reason.items():
            for one in kept[KEPT[reason] :]:
                (self.directory / one.name).unlink(missing_ok=True)
                if self.second_place is not None:
                    (self.second_place / one.name).unlink(missing_ok=True)


def copy_whole(file: Path, target: Path) -> None:
    """Copy a database as one file. Raises BackupError."""
    try:
        with closing(_connect(file)) as source, closing(sqlite3.connect(target)) as copy:
            source.backup(copy)
    except sqlite3.Error as error:
        raise BackupError(f"{file.name} cannot be read ({error}). Take another one.") from error


def continue_revisions(coming: Path, here: Path) -> None:
    """Let what comes go on from what is here, under the name of this database: with a revision that nothing had, here or there,
    so that nothing opened before is saved over it. It grows by one each time.
    """
    with closing(_connect(here)) as now:
        highest = _highest_revision(now)
        name = now.execute("SELECT value FROM workshop WHERE name = 'mark:database'").fetchone()
    with closing(sqlite3.connect(coming)) as then, then:
        fresh = 1 + max(highest, _highest_revision(then))
        for table in _revised(then):
            then.execute(f'UPDATE "{table}" SET revision = ?', (fresh,))
        if name is not None:
            then.execute("UPDATE workshop SET value = ? WHERE name = 'mark:database'", name)


def _highest_revision(connection: sqlite3.Connection) -> int:
    newest = (f'SELECT max(revision) FROM "{table}"' for table in _revised(connection))
    return max((connection.execute(one).fetchone()[0] or 0 for one in newest), default=0)


def _revised(connection: sqlite3.Connection) -> list[str]:
    """The tables whose rows count their saves."""
    return [
        table
        for table in sorted(_tables(connection))
        if any(row[1] == "revision" for row in connection.execute(f'PRAGMA table_info("{table}")'))
    ]


def _tables(connection: sqlite3.Connection) -> set[str]:
    found = connection.execute("SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite_%'")
    return {row[0] for row in found} - {"alembic_version"} - NOT_KEPT


def _rows(connection: sqlite3.Connection, table: str, columns: Sequence[str]) -> dict[object, int]:
    """Rows by what names each, with a number that changes when anything in them does."""
    if table not in _tables(connection):
        return {}
    keys = [row[1] for row in connection.execute(f'PRAGMA table_info("{table}")') if row[5]]
    listed = ", ".join(f'"{one}"' for one in (*keys, *columns))
    return {
        row[: len(keys)]: hash(row)
        for row in connection.execute(f'SELECT {listed} FROM "{table}"')
        if not str(row[0]).startswith(MARK)
    }


def _difference(table: str, what: str, now: sqlite3.Connection, then: sqlite3.Connection) -> Difference:
    columns = [
        {row[1] for row in one.execute(f'PRAGMA table_info("{table}")')} for one in (now, then) if table in _tables(one)
    ]
    shared = sorted(set.intersection(*columns) - FOR_LISTS - {"revision"})
    here, there = _rows(now, table, shared), _rows(then, table, shared)
    return Difference(
        table=table, what=what, now=len(here), then=len(there), would_go=len(here.keys() - there.keys()),
        would_come=len(there.keys() - here.keys()),
        would_change=sum(here[key] != there[key] for key in here.keys() & there.keys()),
    )  # fmt: skip
