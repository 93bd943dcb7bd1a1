"""What bars are judged by: criteria with five anchored words each, and a few measures.

They are declared in ``data/criteria.json``, each with the quality that it stands for where it stands for one, and how many
points of that quality its first and its last word stand for: rules of thumb, in between by a straight line. A workshop adds
criteria of its own; they stand for no quality.
"""

from collections.abc import Collection
from functools import cache
from typing import Annotated, Literal

from pydantic import Field

from sapolin.core.cure.events import Judged
from sapolin.core.quantities.diagnostics import Diagnostic, stopping
from sapolin.core.quantities.model import Model, Truth
from sapolin.core.quantities.text import number
from sapolin.data import read_json

__all__ = ["LAST", "Criterion", "Measure", "criteria", "measures", "sheet_refusal"]

LAST = 5
"""Words of a criterion, from the least to the most."""
Word = Annotated[str, Field(min_length=1, max_length=24)]


class Criterion(Model):
    """Something that a bar is judged by, in one of five words."""

    id: Annotated[str, Field(min_length=1, max_length=40, pattern=r"^[a-z0-9_-]+$")]
    name: Annotated[str, Field(min_length=1, max_length=60)]
    words: Annotated[tuple[Word, ...], Field(min_length=LAST, max_length=LAST)]
    asks: Annotated[str, Field(max_length=160)] = ""
    """What to do and to look at."""
    part: Literal["lather", "skin", "bar", "later", "own"] = "own"
    """Where on the sheet it stands; later: an hour after washing."""
    short: Truth = False
    """It is on the short sheet of under a minute."""
    quality: str | None = None
    """The quality that it stands for, by id."""
    at_1: float = 0.0
    """Points of that quality that the first word stands for; a rule of thumb."""
    at_5: float = 0.0
    """Points that the last word stands for."""

    def points(self, score: float) -> float:
        """Points of its quality that a score from 1 to 5 stands for.

        >>> criteria()["bubbles"].points(3)
        22.0
        """
        return self.at_1 + (score - 1) / (LAST - 1) * (self.at_5 - self.at_1)


class Measure(Model):
    """Something measured on a bar."""

    id: str
    name: str
    unit: str
    most: float
    """More than this is no such measure."""
    asks: str
    quality: str
    value_at_1: float
    """The value that is as good as the first word of a criterion."""
    value_at_5: float
    at_1: float
    at_5: float

    def points(self, value: float) -> float:
        """Points of its quality that a value stands for; beyond its ends it stands for the end.

        >>> [round(measures()["wear_g"].points(grams), 1) for grams in (2.0, 8.0, 30.0)]
        [46.0, 28.0, 10.0]
        """
        part = (value - self.value_at_1) / (self.value_at_5 - self.value_at_1)
        return self.at_1 + min(max(part, 0.0), 1.0) * (self.at_5 - self.at_1)


def sheet_refusal(sheet: Judged, known: Collection[str]) -> Diagnostic | None:
    """Why a sheet cannot be taken: a criterion that is not `known`, or a measure that cannot be; null when it can."""
    for one in sheet.scores:
        if one not in known:
            return stopping("unknown_criterion", f"scores.{one}")
    for one, value in sheet.measures.items():
        measure = measures().get(one)
        if measure is None:
            return stopping("unknown_criterion", f"measures.{one}")
        if not 0 <= value <= measure.most:
            return stopping(
                "not_a_measure", f"measures.{one}", name=measure.name, value=number(value, unit=measure.unit),
                most=number(measure.most, unit=measure.unit),
            )  # fmt: skip
    return None


@cache
def criteria() -> dict[str, Criterion]:
    """The criteria that ship, by id, in the order of the sheet."""
    return {entry["id"]: Criterion.model_validate(entry) for entry in read_json("criteria")["scores"]}


@cache
def measures() -> dict[str, Measure]:
    """The measures by id."""
    return {entry["id"]: Measure.model_validate(entry) for entry in read_json("criteria")["measures"]}
