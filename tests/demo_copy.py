"""Databases on disk, made once for many tests: a copy costs a hundredth of a second, an empty one half a second, the demo world
three."""

import atexit
import fcntl
import os
import shutil
from datetime import UTC, datetime
from functools import cache
from pathlib import Path
from tempfile import mkdtemp

from sapolin.demo import world
from sapolin.services.lists import forget_old_summaries, sum_up
from sapolin.store.stores import open_stores

__all__ = ["put_demo", "put_empty"]

STALE_SECONDS = 3600.0
"""Its days are told from the moment it was filled: one that is older, or of another day, is filled anew."""
SHARED = "SAPOLIN_SHARED_COPIES"
"""Names the directory of the demo world where several processes have one: the first that needs it fills it for all."""


@cache
def _own_directory() -> Path:
    directory = Path(mkdtemp(prefix="sapolin-copies-"))
    atexit.register(shutil.rmtree, directory, ignore_errors=True)
    return directory


@cache
def _empty() -> Path:
    file = _own_directory() / "sapolin.db"
    open_stores(file).close()
    return file


def put_empty(file: Path) -> None:
    """Put a database with nothing in it at `file`, as a first start leaves it."""
    shutil.copy(_empty(), file)


def _is_fresh(template: Path) -> bool:
    if not template.exists():
        return False
    filled, now = datetime.fromtimestamp(template.stat().st_mtime, UTC), datetime.now(UTC)
    return filled.date() == now.date() and (now - filled).total_seconds() < STALE_SECONDS


def _fill(template: Path) -> None:
    begun = datetime.now(UTC).timestamp()
    filling = template.with_suffix(".filling")
    filling.unlink(missing_ok=True)
    stores = open_stores(filling)
    world.fill(stores)
    forget_old_summaries(stores)
    sum_up(stores)
    stores.close()
    os.utime(filling, (begun, begun))
    os.replace(filling, template)


def put_demo(file: Path) -> None:
    """Put a database with the demo world at `file`, as a start leaves it once all is summed up."""
    template = Path(os.environ.get(SHARED) or _own_directory()) / "demo.template"
    with open(template.with_suffix(".lock"), "w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not _is_fresh(template):
            _fill(template)
        shutil.copy(template, file)
