"""A workshop's memory kept safe: backed up, put back, carried away whole and brought in again."""

import shutil
from collections.abc import Callable, Mapping
from pathlib import Path
from tempfile import TemporaryDirectory
from threading import Lock
from typing import IO

from sqlalchemy.orm import Session

from sapolin.core.quantities.model import Model, Truth
from sapolin.exchange.formula_document import write_document
from sapolin.exchange.tables import table_csv
from sapolin.services.batches import keep_missing_outcomes, keep_missing_starts
from sapolin.services.lists import forget_old_summaries, page_of_batches, page_of_formulas
from sapolin.store.archive import ArchiveReport, read_archive, write_archive
from sapolin.store.backup import Backup, BackupError, Backups, Difference, Reason, continue_revisions, copy_whole
from sapolin.store.database import bring_up_to_date, known_formats
from sapolin.store.formulas import FormulaFilter
from sapolin.store.pictures import MOST_PICTURES_BYTES, bytes_of_pictures
from sapolin.store.stores import Stores, open_stores
from sapolin.store.transactions import everything_replaced

__all__ = [
    "ReadBack",
    "Safekeeping",
    "begin_anew",
    "export_everything",
    "import_archive",
    "put_back",
    "state_of",
    "what_would_change",
]

_ONE_AT_A_TIME = Lock()
"""Two that put something in the place of everything would each keep a half of the other as what was there before; and only one
thread may migrate."""
AT_ONCE = 200
MOST_ROWS = 100_000


class Safekeeping(Model):
    """What is kept, where, and how safely."""

    database: str
    size_bytes: int
    """With what is not folded into the file yet."""
    pictures: int
    pictures_bytes: int
    most_pictures_bytes: int
    """Of all pictures together; more are refused."""
    free_bytes: int
    """Left on the disk."""
    folder: str
    """Where backups lie."""
    second_place: str | None
    second_place_is_there: Truth
    """It can be reached now; copies it lacks are caught up with when it can."""
    backups: tuple[Backup, ...]
    """The newest first."""
    is_looking: Truth
    """The first look at the data since the start goes on: a backup that is due is taken in it. Never of the demo."""


class ReadBack(Model):
    """What bringing an archive in did, and how to take it back."""

    report: ArchiveReport
    undo: Backup
    """What was there before: put it back, and the archive was never brought in."""


def state_of(stores: Stores, database: Path, *, is_looking: bool) -> Safekeeping:
    """How safely everything is kept now; `is_looking` while the first look since the start goes on."""
    backups = Backups(database)
    with Session(stores.engine) as session:
        count, size = bytes_of_pictures(session)
    second = backups.second_place
    return Safekeeping(
        database=str(database), size_bytes=_size(database), pictures=count, pictures_bytes=size,
        most_pictures_bytes=MOST_PICTURES_BYTES,
        free_bytes=shutil.disk_usage(database.parent).free, folder=str(backups.directory),
        second_place=None if second is None else str(second),
        second_place_is_there=second is not None and second.is_dir(), backups=tuple(backups.all()),
        is_looking=is_looking,
    )  # fmt: skip


def _size(database: Path) -> int:
    files = (database, database.with_name(f"{database.name}-wal"))
    return sum(one.stat().st_size for one in files if one.exists())


def what_would_change(database: Path, file: Path) -> tuple[Difference, ...]:
    """What would change if `file` were put back. Raises BackupError when it is damaged, or of a newer Sapolin."""
    backups = Backups(database)
    _refuse_newer(backups, file)
    return backups.differences(file)


def put_back(stores: Stores, database: Path, file: Path) -> Backup:
    """Put a backup back while the application runs; returns the backup of what was there. Raises BackupError."""
    backups = Backups(database)
    _refuse_newer(backups, file)
    with _ONE_AT_A_TIME, TemporaryDirectory(prefix="sapolin-coming-", dir=database.parent) as directory:
        coming = Path(directory) / database.name
        copy_whole(file, coming)
        bring_up_to_date(coming)
        return _replace(stores, database, coming, "restore")


def begin_anew(stores: Stores, database: Path, fill: Callable[[Stores], None]) -> Backup:
    """Put what `fill` makes of empty stores in the place of everything, all of it at once; returns the backup of what was
    there. Raises BackupError.
    """
    with _ONE_AT_A_TIME, TemporaryDirectory(prefix="sapolin-coming-", dir=database.parent) as directory:
        file = Path(directory) / database.name
        made = open_stores(file)
        try:
            fill(made)
        finally:
            made.close()
        return _replace(stores, database, file, "reset")


def _replace(stores: Stores, database: Path, coming: Path, reason: Reason) -> Backup:
    """Put a database of this format in the place of everything. Nobody writes between the copy of what is there and what comes;
    every revision that comes is beyond those that were there, so that nothing opened before is saved over it.
    """
    with everything_replaced(stores.engine):
        continue_revisions(coming, database)
        before = Backups(database).restore(coming, reason)
        _look_again(stores)
        return before


def _refuse_newer(backups: Backups, file: Path) -> None:
    found = backups.format_of(file)
    if found not in known_formats():
        raise BackupError(f"{file.name} was taken by a newer Sapolin (its format is {found}). Install that one first.")


def _look_again(stores: Stores) -> None:
    """What is kept beside the rows, and what connections remember, follows what is there now."""
    stores.engine.dispose()
    keep_missing_starts(stores.batches)
    keep_missing_outcomes(stores.batches)
    forget_old_summaries(stores)


def export_everything(stores: Stores, database: Path, target: IO[bytes]) -> None:
    """Write one zip with every record, every picture, formula documents, and tables for a spreadsheet."""
    write_archive(database, target, _extras(stores))


def _extras(stores: Stores) -> Mapping[str, bytes]:
    extras: dict[str, bytes] = {}
    formulas: list[tuple[str | float | None, ...]] = []
    for offset in range(0, MOST_ROWS, AT_ONCE):
        shown = page_of_formulas(stores.formulas, FormulaFilter(), AT_ONCE, offset).formulas
        for one in shown:
            oils = ", ".join(f"{oil.name} {oil.share_percent:.1f} %" for oil in one.strata)
            formulas.append((one.name, one.purpose, one.state, oils, ", ".join(one.tags), one.updated_at))
            if one.state != "unreadable":
                extras[f"formulas/{one.id}.json"] = write_document(stores.formulas.get(one.id).formula).encode()
        if len(shown) < AT_ONCE:
            break
    extras["tables.csv/formulas.csv"] = table_csv(("name", "for", "state", "oils", "tags", "changed"), formulas)
    batches: list[tuple[str | float | None, ...]] = []
    for offset in range(0, MOST_ROWS, AT_ONCE):
        page = page_of_batches(stores, limit=AT_ONCE, offset=offset).batches
        batches += (
            (one.code, one.name, one.status, one.oils_g, one.created_at, one.started_at, one.ended_at) for one in page
        )
        if len(page) < AT_ONCE:
            break
    head = ("code", "name", "state", "oils_g", "planned_at", "started_at", "ended_at")
    extras["tables.csv/batches.csv"] = table_csv(head, batches)
    lots = [
        (one.lot.code, one.lot.material, one.lot.supplier, one.lot.supplier_code, one.lot.amount_g, one.now.in_hand_g)
        for one in stores.stock.standing(used_up=True)
    ]
    extras["tables.csv/lots.csv"] = table_csv(
        ("code", "material", "supplier", "supplier_code", "came_in_g", "in_hand_g"), lots
    )
    return extras


def import_archive(stores: Stores, database: Path, source: IO[bytes]) -> ReadBack:
    """Bring what an archive holds into the workshop, after a backup of what is there. Raises ArchiveError, BackupError."""
    taken: list[Backup] = []

    def before() -> None:
        taken.append(Backups(database).take("import"))

    with _ONE_AT_A_TIME, everything_replaced(stores.engine):
        report = read_archive(source, database, before)
        _look_again(stores)
        return ReadBack(report=report, undo=taken[0])
