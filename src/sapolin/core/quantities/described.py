"""What is written under the fields of a model, for the schemas made of it."""

import ast
import inspect
import sys
from functools import cache
from typing import Any

from pydantic import BaseModel

__all__ = ["describe_fields"]


@cache
def _classes(module: str) -> dict[str, ast.ClassDef]:
    """The classes of a module, as they are written; none when there is no source."""
    try:
        source = inspect.getsource(sys.modules[module])
    except (KeyError, OSError, TypeError):
        return {}
    return {node.name: node for node in ast.parse(source).body if isinstance(node, ast.ClassDef)}


@cache
def _said_of(written_in: type) -> dict[str, str]:
    """The docstring under each attribute of a class."""
    node = _classes(written_in.__module__).get(written_in.__qualname__)
    said = {}
    for field, below in zip(node.body, node.body[1:], strict=False) if node else ():
        match field, below:
            case ast.AnnAssign(target=ast.Name(id=name)), ast.Expr(value=ast.Constant(value=str(docstring))):
                said[name] = inspect.cleandoc(docstring)
    return said


def describe_fields(schema: dict[str, Any], model: type[BaseModel]) -> None:
    """Put the docstrings under the fields of `model`, and of what it is made from, into its `schema` as descriptions.

    The source is read when a schema is asked for, which few processes do, and not whenever the program starts.
    """
    for name, entry in schema.get("properties", {}).items():
        if "description" not in entry:
            said = next((_said_of(one)[name] for one in model.__mro__ if name in _said_of(one)), None)
            if said is not None:
                entry["description"] = said
