"""When a loaf can leave its mould: the forecast, moved by pressing it with a gloved finger now and then.

The hours T are lognormal about the forecast. A press at hour h says how far the loaf has come, h/T: tacky up to about half,
soft up to T, firm from there to about twice, brittle later; each limit is soft. Bayes' rule on a grid of T does the rest.
"""

from collections.abc import Sequence
from math import log, sqrt
from typing import Literal

import numpy as np

from sapolin.core.cure.learning import Observed, from_posterior
from sapolin.core.quantities.chances import EIGHT_IN_TEN
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.model import Model, Truth

__all__ = ["Firmness", "Press", "UnmouldForecast", "unmould_forecast", "unmould_observed"]

Firmness = Literal["tacky", "soft", "firm", "brittle"]
PROGRESS: dict[Firmness, tuple[float, float]] = {
    "tacky": (0.0, 0.55), "soft": (0.55, 1.0), "firm": (1.0, 2.2), "brittle": (2.2, np.inf)
}  # fmt: skip
"""How far it has come, of the time it takes, at each firmness: from and to."""
BLUR = 0.12
"""A finger tells progress within about this fraction."""
GRID = np.exp(np.linspace(np.log(1.0), np.log(400.0), 400))
"""Hours that are thought of."""


class Press(Model):
    """The loaf was pressed."""

    hours: float
    """After it was poured."""
    firmness: Firmness


class UnmouldForecast(Model):
    """From when to when it may leave the mould, hours after pouring; an estimate."""

    low_h: float
    high_h: float
    presses: int
    can_now: Truth
    """The last press says that it is firm enough."""
    is_late: Truth
    """The last press says that it is brittle: it cracks when cut as usual."""


def unmould_forecast(low_h: float, high_h: float, presses: Sequence[Press]) -> UnmouldForecast:
    """The forecast `low_h` to `high_h` as `presses` move it.

    Without any it stays as it is; a soft loaf at the end of its forecast takes longer than was thought:

    >>> unmould_forecast(18, 30, []).high_h
    30.0
    >>> moved = unmould_forecast(18, 30, [Press(hours=29, firmness="soft")])
    >>> moved.low_h > 25
    True
    """
    last = presses[-1].firmness if presses else None
    if not presses:
        return UnmouldForecast(low_h=low_h, high_h=high_h, presses=0, can_now=False, is_late=False)
    weight = _weights(low_h, high_h, presses)
    spread = np.cumsum(weight) / weight.sum()
    low, high = (float(GRID[np.searchsorted(spread, part)]) for part in (0.1, 0.9))
    return UnmouldForecast(
        low_h=low, high_h=high, presses=len(presses), can_now=last in ("firm", "brittle"), is_late=last == "brittle"
    )


def _rule_sd(low_h: float, high_h: float) -> float:
    """The forecast is a range that eight of ten keep to, and no surer than the rule of thumb is."""
    return max(log(high_h / low_h) / 2 / EIGHT_IN_TEN, coefficient("unmould.pressed_spread"))


def _weights(low_h: float, high_h: float, presses: Sequence[Press]) -> np.ndarray:
    """How likely each hour of the grid is."""
    middle, sd = np.sqrt(low_h * high_h), _rule_sd(low_h, high_h)
    weight: np.ndarray = np.exp(-0.5 * ((np.log(GRID) - np.log(middle)) / sd) ** 2)
    for press in presses:
        start, end = PROGRESS[press.firmness]
        progress = np.log(max(press.hours, 0.1) / GRID)
        above = 1.0 if start == 0 else _soft_step(progress - np.log(start))
        below = 1.0 if end == np.inf else _soft_step(np.log(end) - progress)
        weight = weight * (above * below + 1e-4)
    return weight


def unmould_observed(low_h: float, high_h: float, presses: Sequence[Press]) -> Observed | None:
    """How far a loaf lies off its forecast, by its presses alone; null while they say next to nothing.

    A loaf that was firm at the end of its forecast only says that it took no longer, which is little:

    >>> early = unmould_observed(18, 30, [Press(hours=30, firmness="firm")])
    >>> abs(early.offset) < early.sd
    True
    >>> late = unmould_observed(18, 30, [Press(hours=36, firmness="soft"), Press(hours=48, firmness="firm")])
    >>> 0.4 < late.offset < 0.8
    True
    """
    weight = _weights(low_h, high_h, presses)
    weight = weight / weight.sum()
    off = np.log(GRID) - log(sqrt(low_h * high_h))
    mean = float(weight @ off)
    sd = sqrt(float(weight @ (off - mean) ** 2))
    seen = from_posterior(mean, sd, _rule_sd(low_h, high_h))
    return None if seen is None else seen.model_copy(update={"rule": sqrt(low_h * high_h)})


def _soft_step(x: np.ndarray) -> np.ndarray:
    """Near 0 well below zero, near 1 well above."""
    stepped: np.ndarray = 1 / (1 + np.exp(-x / BLUR * 1.7))
    return stepped
