"""Predicted qualities of the bar: points are percent of all fatty acids doing that work.

Anyone can check them by hand: each is a sum over the blend's fatty acids. They leave out superfat, water,
additives and cure, which act on the bar beside them.
"""

from collections.abc import Sequence
from functools import cache, cached_property, lru_cache
from typing import Literal

from sapolin.core.materials.fatty_acids import ACID_INDEX, ACIDS, Profile
from sapolin.core.quantities.model import FiniteNumber, Model, Range
from sapolin.data import read_json

__all__ = [
    "Purpose",
    "Quality",
    "Standing",
    "TargetRange",
    "outside_by",
    "points_of",
    "purposes",
    "qualities",
    "spans_of",
    "standing",
]  # fmt: skip

OXIDATION_RATE_OF_LINOLEIC = 10.3
"""Relative to oleic = 1; oxidation load is expressed in linoleic equivalents."""

Standing = Literal["below", "in", "above", "no target", "unknown"]
"""Against the target range; unknown when oils whose fatty acids are unknown could bring it either way."""


class Quality(Model):
    """One quality and the acids that make it."""

    id: str
    name: str
    acids: tuple[str, ...]
    axis_minimum: float
    """Left end of the quality scale it is drawn on, points."""
    axis_maximum: float
    """Right end of the quality scale, points."""
    meaning: str

    @property
    def weights(self) -> Profile:
        """Points per percent of each acid, in the order of the acid table."""
        if self.id == "oxidation_load":
            return tuple(
                acid.oxidation_rate_relative_to_oleic / OXIDATION_RATE_OF_LINOLEIC if acid.id in self.acids else 0.0
                for acid in ACIDS
            )
        return tuple(1.0 if acid.id in self.acids else 0.0 for acid in ACIDS)

    def points(self, profile: Sequence[float]) -> float:
        """Points that a `profile` (mass percent, order of the acid table) gives.

        >>> castor_like = tuple(90.0 if acid.id == "C18:1-OH" else 0.0 for acid in ACIDS)
        >>> qualities()["open_lather"].points(castor_like)
        90.0
        """
        return sum(weight * profile[position] for position, weight in self._terms)

    @cached_property
    def _terms(self) -> tuple[tuple[int, float], ...]:
        weights = self.weights
        return tuple((ACID_INDEX[acid], weights[ACID_INDEX[acid]]) for acid in self.acids)


class TargetRange(Model):
    """The points a maker wants a quality to fall in, ends included."""

    quality: str
    minimum: FiniteNumber
    maximum: FiniteNumber


class Purpose(Model):
    """What the bar is for, with starting target ranges: rules of thumb, to be edited."""

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


@cache
def qualities() -> dict[str, Quality]:
    """Every quality by id, in the order they are shown."""
    return {entry["id"]: Quality.model_validate(entry) for entry in read_json("qualities")}


@cache
def purposes() -> dict[str, Purpose]:
    """Every purpose by id, the default first."""
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


@lru_cache(maxsize=4096)
def points_of(profile: Profile) -> tuple[float, ...]:
    """Points that a `profile` gives to every quality, in the order they are shown."""
    return tuple(quality.points(profile) for quality in qualities().values())


def standing(points: float, target_range: TargetRange | None) -> Standing:
    """Where `points` lie against `target_range`, compared as shown, to one decimal."""
    if target_range is None:
        return "no target"
    shown = round(points, 1)
    if shown < target_range.minimum:
        return "below"
    return "above" if shown > target_range.maximum else "in"


def outside_by(points: float, target_range: TargetRange | None) -> float:
    """Points by which a quality, as shown to one decimal, lies outside its `target_range`; 0 inside it or without one.

    >>> outside_by(21.04, TargetRange(quality="cleansing", minimum=12, maximum=19))
    2.0
    """
    if target_range is None:
        return 0.0
    shown = round(points, 1)
    return round(max(target_range.minimum - shown, shown - target_range.maximum, 0.0), 1)


def spans_of(acids_percent: Sequence[Range]) -> tuple[tuple[float, float], ...]:
    """The points an oil may give to each quality, lowest and highest, over the compositions that its `acids_percent`
    allow with the acids still summing to what they typically sum to.

    Each end is an exact small linear programme: fill the acids from their minima, heaviest (or lightest) in the sum
    first, until the typical total is reached.
    """
    return tuple(
        (_extreme(quality.weights, acids_percent, lowest=True), _extreme(quality.weights, acids_percent, lowest=False))
        for quality in qualities().values()
    )


def _extreme(weights: Profile, acids_percent: Sequence[Range], *, lowest: bool) -> float:
    left = sum(acid.typical - acid.minimum for acid in acids_percent)
    points = sum(weight * acid.minimum for weight, acid in zip(weights, acids_percent, strict=True))
    for i in sorted(range(len(weights)), key=lambda i: weights[i], reverse=not lowest):
        taken = min(left, acids_percent[i].maximum - acids_percent[i].minimum)
        points += weights[i] * taken
        left -= taken
    return points
