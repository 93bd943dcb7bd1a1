"""Databases on disk, made once for many tests: a copy costs a hundredth of a second, an empty one half a second, the demo world
three."""

import atexit
import shutil
import time
from functools import cache
from pathlib import Path
from tempfile import mkdtemp

from sapolin.demo import world
from sapolin.store.stores import open_stores

__all__ = ["put_demo", "put_empty"]

STALE_SECONDS = 90.0
"""Its days are told from the moment it was filled: one that is older is filled anew."""
_filled: tuple[float, Path] | None = None


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
    """Put a database with the demo world at `file`."""
    global _filled
    if _filled is None or time.monotonic() - _filled[0] > STALE_SECONDS:
        directory = Path(mkdtemp(prefix="sapolin-demo-"))
        atexit.register(shutil.rmtree, directory, ignore_errors=True)
        began, template = time.monotonic(), directory / "demo.db"
        stores = open_stores(template)
        world.fill(stores)
        stores.close()
        _filled = began, template
    shutil.copy(_filled[1], file)
