"""What a bar is for, and the target ranges that come with it: rules of thumb, each to be edited."""

from functools import cache
from typing import Literal

from sapolin.core.quantities.model import FiniteNumber, Model
from sapolin.core.quantities.tables import table
from sapolin.data import read_json

__all__ = ["Purpose", "TargetRange", "purposes", "quality_names"]


class TargetRange(Model):
    """The points a maker wants a quality to fall in, ends included."""

    quality: str
    minimum: FiniteNumber
    maximum: FiniteNumber


class Purpose(Model):
    """What the bar is for, with starting target ranges."""

    id: str
    name: str
    summary: str
    makes: Literal["bar", "paste"]
    for_skin: bool
    negative_superfat: bool
    """Marked as lye-heavy on purpose, to be neutralised: only then may the superfat be below 0."""
    usual_superfat_minimum_percent: float
    usual_superfat_maximum_percent: float
    target_ranges: tuple[TargetRange, ...]


def purposes() -> dict[str, Purpose]:
    """Every purpose by id, the default first; or those that a begun batch holds on to."""
    return table("purposes", _shipped())


@cache
def _shipped() -> dict[str, Purpose]:
    return {
        entry["id"]: Purpose.model_validate(
            entry
            | {
                "target_ranges": [
                    {"quality": quality, "minimum": low, "maximum": high}
                    for quality, (low, high) in entry["target_ranges"].items()
                ]
            }
        )
        for entry in read_json("purposes")
    }


@cache
def quality_names() -> dict[str, str]:
    """The name of every quality that a target range can be set for, by its id."""
    return {entry["id"]: entry["name"] for entry in read_json("qualities")}
