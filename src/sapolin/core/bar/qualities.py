"""Predicted qualities of the bar: points are percent of all fatty acids that give it.

Anyone can check them by hand: each is a sum over the blend's fatty acids. They leave out superfat, water, additives and cure,
which act on the bar beside them. Each is declared once, in ``data/qualities.json``: its acids, its scale, its weight in a
swap and its words; value, explanation, the rows of the optimisers and the documentation follow from that.
"""

from collections.abc import Sequence
from functools import cache, cached_property, lru_cache
from typing import Literal

from sapolin.core.formula.purposes import TargetRange
from sapolin.core.materials.catalogue import Oil
from sapolin.core.materials.fatty_acids import ACID_INDEX, ACIDS, Profile
from sapolin.core.quantities.model import Model, Range
from sapolin.core.quantities.tables import table
from sapolin.data import read_json

__all__ = ["Quality", "Standing", "outside_by", "points_of", "qualities", "spans_of", "spans_of_oil", "standing"]

OXIDATION_RATE_OF_LINOLEIC = 10.3
"""Relative to oleic = 1; oxidation load is expressed in linoleic equivalents."""

Standing = Literal["below", "in", "above", "no target", "unknown"]
"""Relative to the target range; unknown when oils whose fatty acids are unknown could bring it either way."""


class SwapWeight(Model):
    """How much a point of a quality counts when a swap goes by role; a rule of thumb."""

    value: float
    minimum: float
    maximum: float
    why: str = ""


class Quality(Model):
    """One quality: the acids that make it, and how it is shown."""

    id: str
    name: str
    acids: tuple[str, ...]
    weighted_by: Literal["share", "oxidation_rate"] = "share"
    """Each acid counts by its share, or by its share times its oxidation rate in linoleic equivalents."""
    axis_minimum: float
    """Left end of the quality scale it is drawn on, points."""
    axis_maximum: float
    """Right end of the quality scale, points."""
    swap_weight: SwapWeight
    in_short: str = ""
    """What it is, in a line; a batch of an earlier release began without it, so below."""
    raised_by: str = ""
    """Oils that raise it, in words."""
    lowered_by: str = ""
    """Oils that lower it, in words."""
    meaning: str
    """What it is made from, and what to know about it."""

    @cached_property
    def weights(self) -> Profile:
        """Points per percent of each acid, in the order of the acid table."""
        return tuple(
            0.0 if acid.id not in self.acids
            else 1.0 if self.weighted_by == "share"
            else acid.oxidation_rate_relative_to_oleic / OXIDATION_RATE_OF_LINOLEIC
            for acid in ACIDS
        )  # fmt: skip

    def points(self, profile: Sequence[float]) -> float:
        """Points that a `profile` (mass percent, order of the acid table) gives.

        >>> castor_like = tuple(90.0 if acid.id == "C18:1-OH" else 0.0 for acid in ACIDS)
        >>> qualities()["open_lather"].points(castor_like)
        90.0
        """
        return sum(weight * profile[position] for position, weight in self._terms)

    @cached_property
    def key(self) -> tuple[str, ...]:
        """What it counts, in short."""
        return (self.weighted_by, *self.acids)

    @cached_property
    def _terms(self) -> tuple[tuple[int, float], ...]:
        return tuple((ACID_INDEX[acid], self.weights[ACID_INDEX[acid]]) for acid in self.acids)


def qualities() -> dict[str, Quality]:
    """Every quality by id, in the order they are shown; or those that a begun batch holds on to."""
    return table("qualities", _shipped())


@cache
def _shipped() -> dict[str, Quality]:
    return {entry["id"]: Quality.model_validate(entry) for entry in read_json("qualities")}


def points_of(profile: Profile) -> tuple[float, ...]:
    """Points that a `profile` gives to every quality, in the order they are shown."""
    return _points_of(profile, _keys())


@lru_cache(maxsize=4096)
def _points_of(profile: Profile, _qualities: tuple[tuple[str, ...], ...]) -> tuple[float, ...]:
    return tuple(quality.points(profile) for quality in qualities().values())


def standing(points: float, target_range: TargetRange | None) -> Standing:
    """Where `points` lie in `target_range`, compared as shown, to one decimal."""
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


def spans_of_oil(oil: Oil) -> tuple[tuple[float, float], ...]:
    """Lowest and highest points that nature allows `oil` in each quality, in the order they are shown."""
    return tuple((low * oil.fatty_share, high * oil.fatty_share) for low, high in _spans(oil.acid_ends, _keys()))


def _keys() -> tuple[tuple[str, ...], ...]:
    """What the qualities in force count, to remember results by."""
    return tuple(quality.key for quality in qualities().values())


@lru_cache(maxsize=1024)
def _spans(
    acid_ends: tuple[tuple[float, float, float], ...], _qualities: tuple[tuple[str, ...], ...]
) -> tuple[tuple[float, float], ...]:
    return spans_of([Range(typical=typical, minimum=low, maximum=high) for typical, low, high in acid_ends])


def spans_of(acids_percent: Sequence[Range]) -> tuple[tuple[float, float], ...]:
    """The points an oil may give to each quality, lowest and highest, over the compositions that its `acids_percent`
    allow with the acids still summing to what they typically sum to.

    Each end is an exact small linear program: fill the acids from their minima, heaviest (or lightest) in the sum first,
    until the typical total is reached.
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
