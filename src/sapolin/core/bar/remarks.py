"""What stands out in a calculated bar, as values: the size, the cause and the way out."""

from typing import Literal

from sapolin.core.bar.qualities import Standing, TargetRange
from sapolin.core.quantities.model import Model

__all__ = ["SEVERITY_ORDER", "QualityResult", "Remark"]


class QualityResult(Model):
    """One predicted quality: an estimate from the fatty acids alone."""

    quality: str
    points: float
    """Percent of all fatty acids at this work; of those known, when some are not."""
    low: float
    """Low end of what nature's spread allows; the spreads of the oils are independent and add in quadrature."""
    high: float
    """High end of it; oils whose fatty acids are unknown could all be at this work."""
    target_range: TargetRange | None
    """The target range of the formula's purpose, if it sets one."""
    standing: Standing
    outside_by: float
    """Points outside the target range; 0 inside it, and while it is unknown."""
    contributions: tuple[float, ...]
    """Points that each line of the blend gives, in its order; they sum to `points`."""


class Remark(Model):
    """One thing worth knowing about the bar."""

    code: str
    """Id of the rule that found it."""
    severity: Literal["danger", "watch", "note"]
    """danger: can hurt someone. watch: likely to spoil the bar. note: good to know."""
    quantity: str | None
    """The quantity whose explanation says more, if one."""
    headline: str
    """What it is, with its size."""
    reason: str
    remedy: str


SEVERITY_ORDER = ("danger", "watch", "note")
