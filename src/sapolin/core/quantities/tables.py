"""Reference tables as they were at another time.

Every calculation reads the tables that ship with Sapolin. A batch that has begun keeps the rows it began with, and is
calculated with those whatever the tables say later: within :func:`tables_as` they stand in for the shipped ones.
"""

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Any, TypeVar

__all__ = ["table", "tables_as"]

_Table = TypeVar("_Table", bound=Mapping[str, Any])
_IN_FORCE: ContextVar[Mapping[str, Mapping[str, Any]] | None] = ContextVar("tables_in_force", default=None)


def table(name: str, shipped: _Table) -> _Table:
    """The table `name` that is in force: `shipped` unless another stands in for it."""
    in_force = _IN_FORCE.get()
    return shipped if in_force is None else in_force.get(name, shipped)  # type: ignore[return-value]


@contextmanager
def tables_as(tables: Mapping[str, Mapping[str, Any]]) -> Iterator[None]:
    """Calculate with `tables` (by name, then by id) instead of the shipped ones.

    >>> with tables_as({"coefficients": {"superfat.usual": 7.0}}):
    ...     table("coefficients", {"superfat.usual": 5.0})["superfat.usual"]
    7.0
    """
    before = _IN_FORCE.set(tables)
    try:
        yield
    finally:
        _IN_FORCE.reset(before)
