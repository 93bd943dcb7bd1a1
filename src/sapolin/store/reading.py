"""Reading rows that may be damaged: one that cannot be read is passed over and told of, never in the way of the others."""

import logging
from collections.abc import Callable, Iterable, Iterator
from typing import Any, TypeVar

from pydantic import BaseModel, ValidationError
from sqlalchemy import case, func

__all__ = ["UnreadableError", "json_at", "parsed", "readable"]

_Row = TypeVar("_Row")
_Read = TypeVar("_Read")
_log = logging.getLogger("sapolin.store")


class UnreadableError(Exception):
    """What is kept cannot be read; it stays as it is."""


_Parsed = TypeVar("_Parsed", bound=BaseModel)


def parsed(model: type[_Parsed], content: str) -> _Parsed:
    """What a row holds as JSON. Raises UnreadableError."""
    try:
        return model.model_validate_json(content)
    except ValidationError as error:
        raise UnreadableError(f"a {model.__name__}") from error


def json_at(column: Any, path: str) -> Any:
    """What a column that holds JSON has at a path, in a query; null where it is no JSON."""
    return case((func.json_valid(column) == 1, func.json_extract(column, path)))


def readable(rows: Iterable[_Row], read: Callable[[_Row], _Read]) -> Iterator[_Read]:
    """What `read` makes of each of `rows`, without those that it cannot read."""
    for row in rows:
        try:
            yield read(row)
        except (ValidationError, UnreadableError) as error:
            _log.warning("a row of %s cannot be read and is passed over: %s", type(row).__name__, str(error))
