"""What stands out in a reckoned bar: the figure, its cause and its size. Quiet when nothing does."""

from collections.abc import Iterator, Sequence
from typing import Literal

from sapolin.core.model import Model
from sapolin.core.qualities import Band, Purpose, Standing, qualities

__all__ = ["QualityFigures", "Remark", "remarks_on"]


class QualityFigures(Model):
    """One predicted quality: an estimate from the fatty acids alone."""

    quality: str
    points: float
    """Percent of all fatty acids at this work."""
    band: Band | None
    """The band of the formula's purpose, if it sets one."""
    standing: Standing
    outside_by: float
    """Points outside the band; 0 inside it."""
    contributions: tuple[float, ...]
    """Points that each line of the blend gives, in its order; they sum to `points`."""


class Remark(Model):
    """One thing worth knowing about the bar."""

    code: Literal["outside_band", "see_saw", "unusual_superfat"]
    quality: str | None
    """The quality it is about, if one."""
    headline: str
    detail: str


def remarks_on(
    figures: Sequence[QualityFigures], oil_names: Sequence[str], superfat_percent: float, purpose: Purpose
) -> Iterator[Remark]:
    """Remarks on a bar, those about qualities first.

    `oil_names` name the lines of the blend in the order of each figure's contributions.
    """
    for figure in figures:
        if figure.band is not None and figure.outside_by > 0:
            yield _outside_band(figure, figure.band, oil_names)
    stands = {figure.quality: figure.standing for figure in figures}
    if {stands.get("hardness"), stands.get("conditioning")} == {"above", "below"}:
        yield Remark(
            code="see_saw",
            quality=None,
            headline="Hardness and conditioning are two ends of one see-saw.",
            detail="Settle one and the other nearly follows; both cannot be raised together.",
        )
    low, high = purpose.usual_superfat_minimum_percent, purpose.usual_superfat_maximum_percent
    if superfat_percent >= 0 and not low <= superfat_percent <= high:
        yield Remark(
            code="unusual_superfat",
            quality=None,
            headline=f"Superfat {superfat_percent:g} % is unusual for {purpose.name.lower()}.",
            detail=f"{low:g} to {high:g} % is usual. More is milder, softer and lathers less; less washes harder.",
        )


def _outside_band(figure: QualityFigures, band: Band, oil_names: Sequence[str]) -> Remark:
    name = qualities()[figure.quality].name
    above = figure.standing == "above"
    given, giver = max(zip(figure.contributions, oil_names, strict=True))
    detail = (
        f"{giver} gives {given:.1f} of the {figure.points:.1f} points."
        if above
        else f"The most comes from {giver}: {given:.1f} of {figure.points:.1f} points."
    )
    return Remark(
        code="outside_band",
        quality=figure.quality,
        headline=f"{name} is {figure.outside_by:.1f} {'over' if above else 'under'} your band.",
        detail=f"{detail} The band is {band.minimum:g} to {band.maximum:g}.",
    )
