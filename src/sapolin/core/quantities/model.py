"""The base that every core model shares: frozen, exact about its fields, documented field by field."""

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

from sapolin.core.quantities.described import describe_fields

__all__ = ["EntryId", "FiniteNumber", "Model", "Range", "Truth", "given"]

EntryId = Annotated[str, Field(min_length=1, max_length=80)]
"""Stable id of a table entry or of a maker's own material."""

FiniteNumber = Annotated[float, Field(strict=True, allow_inf_nan=False)]
"""A JSON number that is neither text, nor true/false, nor infinite."""

Truth = Annotated[bool, Field(strict=True)]
"""true or false, and nothing that could be taken for it: no 1, no "yes"."""


def given(value: float | None) -> float:
    """A value that the checks before have found to be there, in its own unit: a gap is never calculated as nothing.

    Raises ValueError when it is missing.

    >>> given(0.0)
    0.0
    """
    if value is None:
        raise ValueError("a value is missing that the checks should have asked for")
    return value


class Model(BaseModel):
    """A frozen value; unknown fields are an error, so a misspelt quantity is never silently dropped."""

    model_config = ConfigDict(frozen=True, extra="forbid", json_schema_extra=describe_fields)


class Range(Model):
    """A quantity that varies in nature: `minimum` <= `typical` <= `maximum`, unit given by the field that holds it."""

    typical: float
    minimum: float
    maximum: float

    @classmethod
    def parse(cls, cell: str) -> "Range":
        """Read a table cell, ``typical`` or ``typical (min..max)``.

        Raises ValueError when the cell is not of that shape or the typical lies outside its range.

        >>> Range.parse("190 (184..196)")
        Range(typical=190.0, minimum=184.0, maximum=196.0)
        >>> Range.parse("0.915").maximum
        0.915
        """
        typical_text, _, span = cell.partition("(")
        typical = float(typical_text)
        if not span:
            return cls(typical=typical, minimum=typical, maximum=typical)
        low, separator, high = span.strip().removesuffix(")").partition("..")
        if not separator or not float(low) <= typical <= float(high):
            raise ValueError(f"expected 'typical (min..max)' with min <= typical <= max, got {cell!r}")
        return cls(typical=typical, minimum=float(low), maximum=float(high))
