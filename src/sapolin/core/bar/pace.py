"""Minutes until trace: from the pace of a batter, in points, and from what it is mixed with."""

from math import exp
from typing import Literal

from sapolin.core.quantities.coefficients import coefficient

__all__ = ["Mixing", "minutes_to_trace"]

Mixing = Literal["stick_blender", "whisk", "drill"]
"""What the batter is mixed with."""


def minutes_to_trace(points: float, mixing: Mixing = "stick_blender") -> float:
    """Minutes until light trace of a batter with so many points of trace; an estimate by a rule of thumb.

    The rule is for a stick blender in bursts; a drill with a paddle takes a few times as long, a whisk many times.

    >>> round(minutes_to_trace(22.0)), round(minutes_to_trace(58.0)), round(minutes_to_trace(22.0, "whisk"))
    (12, 4, 84)
    """
    per_point, start = coefficient("trace.minutes_per_point"), coefficient("trace.moderate_from")
    minutes = coefficient("trace.minutes_at_moderate") * exp(per_point * (points - start))
    return minutes if mixing == "stick_blender" else minutes * coefficient(f"trace.{mixing}_factor")
