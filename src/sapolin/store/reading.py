"""Reading rows that may be damaged: one that cannot be read is passed over and told of, never in the way of the others."""

import logging
from collections.abc import Callable, Iterable, Iterator
from typing import TypeVar

from pydantic import ValidationError

__all__ = ["UnreadableError", "readable"]

_Row = TypeVar("_Row")
_Read = TypeVar("_Read")
_log = logging.getLogger("sapolin.store")


class UnreadableError(Exception):
    """What is kept cannot be read; it stays as it is."""


def readable(rows: Iterable[_Row], read: Callable[[_Row], _Read]) -> Iterator[_Read]:
    """What `read` makes of each of `rows`, without those that it cannot read."""
    for row in rows:
        try:
            yield read(row)
        except (ValidationError, UnreadableError) as error:
            _log.warning("a row of %s cannot be read and is passed over: %s", type(row).__name__, error)
