"""What a bar is for, and the target ranges that come with it: rules of thumb, each to be edited."""

from functools import cache
from typing import Annotated, Literal

from pydantic import Field

from sapolin.core.quantities.model import FiniteNumber, Model, Truth
from sapolin.core.quantities.tables import table
from sapolin.data import read_json

__all__ = ["Purpose", "PurposeShare", "TargetRange", "purposes", "quality_names"]


class TargetRange(Model):
    """The points a maker wants a quality to fall in, ends included."""

    quality: str
    minimum: FiniteNumber
    maximum: FiniteNumber


Span = Annotated[tuple[float, ...], Field(min_length=2, max_length=2)]
"""From and to."""


class PurposeShare(Model):
    """How much of a class of oils this purpose takes, where that is not what other bars take."""

    usual: Span
    """Usual share, % of oils, from and to."""
    most: float
    """Most of it, % of oils."""


class Purpose(Model):
    """What the bar is for, with starting target ranges."""

    id: str
    name: str
    summary: str
    makes: Literal["bar", "paste"]
    for_skin: Truth
    negative_superfat: Truth
    """Marked as lye-heavy on purpose, to be neutralised: only then may the superfat be below 0."""
    usual_superfat_minimum_percent: float
    usual_superfat_maximum_percent: float
    target_ranges: tuple[TargetRange, ...]
    superfat_percent: float = 5.0
    """Superfat that a formula for it begins with, %."""
    koh_percent: float = 0.0
    """KOH that a formula for it begins with, % of the saponification."""
    method: Literal["cold", "hot"] = "cold"
    """How it is usually made."""
    additives: dict[str, float] = Field(default={})
    """What makes it what it is beside the oils: rate by additive, % of oils."""
    shares: dict[str, PurposeShare] = Field(default={})
    """By class of oils (:mod:`sapolin.core.materials.usual_shares`), where it takes other shares than most bars do."""
    wants: dict[str, Span] = Field(default={})
    """By class of oils, what makes it what it is: from and to, % of oils."""
    habits: dict[str, float] = Field(default={})
    """By class of oils, a little that makers like in it, % of oils: liked, never demanded."""


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
