"""Databases on disk, made once for many tests: a copy costs a hundredth of a second, an empty one half a second, the demo world
three."""

import atexit
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
_filled: tuple[datetime, Path] | None = None


@cache
def _empty() -> Path:
    file = Path(mkdtemp(prefix="sapolin-empty-")) / "sapolin.db"
    atexit.register(shutil.rmtree, file.parent, ignore_errors=True)
    open_stores(file).close()
    return file


def put_empty(file: Path) -> None:
    """Put a database with nothing in it at `file`, as a first start leaves it."""
    shutil.copy(_empty(), file)


def put_demo(file: Path) -> None:
    """Put a database with the demo world at `file`, as a start leaves it once all is summed up."""
    global _filled
    now = datetime.now(UTC)
    if _filled is None or now.date() != _filled[0].date() or (now - _filled[0]).total_seconds() > STALE_SECONDS:
        directory = Path(mkdtemp(prefix="sapolin-demo-"))
        atexit.register(shutil.rmtree, directory, ignore_errors=True)
        template = directory / "demo.db"
        stores = open_stores(template)
        world.fill(stores)
        forget_old_summaries(stores)
        sum_up(stores)
        stores.close()
        _filled = now, template
    shutil.copy(_filled[1], file)
