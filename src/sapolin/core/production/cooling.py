"""When both bowls will be ready to meet, from the readings so far. Times in minutes, temperatures in C; estimates."""

from collections.abc import Sequence

from sapolin.core.batch.heat import Cooling, cooling
from sapolin.core.batch.temperatures import TemperatureWindow, apart_words
from sapolin.core.quantities.model import Model

__all__ = ["BowlForecast", "CoolingForecast", "cooling_forecast"]

FARTHEST_MINUTES = 24 * 60.0
_CURVE_POINTS = 25


class CurvePoint(Model):
    """A point of a cooling curve."""

    minute: float
    celsius: float


class BowlForecast(Model):
    """One bowl."""

    last_c: float | None
    last_minute: float | None
    curve: tuple[CurvePoint, ...]
    """What is to be expected from the last reading on; empty until two readings show how it cools."""
    enters_minute: float | None
    """When it comes down into the window; null when unknown or never."""
    leaves_minute: float | None
    """When it falls out of it."""


class CoolingForecast(Model):
    """Both bowls."""

    oils: BowlForecast
    lye: BowlForecast
    both_minute: float | None
    """When both will be in the window and near enough; null when unknown, or when they never meet."""
    ready: bool
    """They are now, by their last readings."""
    words: str
    warnings: tuple[str, ...]


def cooling_forecast(
    oils: Sequence[tuple[float, float]],
    lye: Sequence[tuple[float, float]],
    window: TemperatureWindow,
    room_c: float,
    now_minute: float,
) -> CoolingForecast:
    """What the readings (minute, C) of both bowls promise; the more of them, the better."""
    curves = {name: cooling(readings, room_c) for name, readings in (("oils", oils), ("lye", lye))}
    bowls = {
        name: _bowl(readings, curves[name], window) for name, readings in (("oils", oils), ("lye", lye))
    }  # fmt: skip
    ready = bool(oils and lye) and _meets(oils[-1][1], lye[-1][1], window)
    both = now_minute if ready else _both(curves["oils"], curves["lye"], oils, lye, window, now_minute)
    return CoolingForecast(
        oils=bowls["oils"],
        lye=bowls["lye"],
        both_minute=both,
        ready=ready,
        words=_words(ready, both, curves, oils, lye, now_minute),
        warnings=tuple(_warnings(oils, lye, window)),
    )


def _meets(oils_c: float, lye_c: float, window: TemperatureWindow) -> bool:
    inside = all(window.low_c - 0.5 <= celsius <= window.high_c + 0.5 for celsius in (oils_c, lye_c))
    return inside and abs(oils_c - lye_c) <= window.apart_c


def _bowl(readings: Sequence[tuple[float, float]], curve: Cooling | None, window: TemperatureWindow) -> BowlForecast:
    if not readings:
        return BowlForecast(last_c=None, last_minute=None, curve=(), enters_minute=None, leaves_minute=None)
    minute, celsius = readings[-1]
    if curve is None:
        return BowlForecast(last_c=celsius, last_minute=minute, curve=(), enters_minute=None, leaves_minute=None)
    leaves = curve.minute_at(window.low_c)
    until = min(max((leaves or minute + 60) + 10, minute + 20), minute + FARTHEST_MINUTES)
    points = tuple(
        CurvePoint(minute=at, celsius=curve.at(at))
        for at in (minute + (until - minute) * i / (_CURVE_POINTS - 1) for i in range(_CURVE_POINTS))
    )
    return BowlForecast(
        last_c=celsius,
        last_minute=minute,
        curve=points,
        enters_minute=curve.minute_at(window.high_c),
        leaves_minute=leaves,
    )


def _both(
    oils: Cooling | None,
    lye: Cooling | None,
    oils_read: Sequence[tuple[float, float]],
    lye_read: Sequence[tuple[float, float]],
    window: TemperatureWindow,
    now: float,
) -> float | None:
    """First minute from now on at which both are expected to meet, by the minute."""
    if not oils_read or not lye_read:
        return None

    def at(curve: Cooling | None, readings: Sequence[tuple[float, float]], minute: float) -> float:
        return readings[-1][1] if curve is None else curve.at(minute)

    if oils is None and lye is None:
        return None
    for step in range(int(FARTHEST_MINUTES)):
        minute = now + step
        if _meets(at(oils, oils_read, minute), at(lye, lye_read, minute), window):
            return minute
    return None


def _words(
    ready: bool,
    both: float | None,
    curves: dict[str, Cooling | None],
    oils: Sequence[tuple[float, float]],
    lye: Sequence[tuple[float, float]],
    now: float,
) -> str:
    if ready:
        return "Both are ready. Combine them now."
    if not oils or not lye:
        return "Read both bowls; two readings of each, some minutes apart, show when they are ready."
    if curves["oils"] is None and curves["lye"] is None:
        return "A second reading in a few minutes shows how fast they cool."
    if both is None:
        return "Cooling alone does not bring them together: warm the cooler one, or cool the warmer one in a bath."
    return f"Both should be ready in about {max(both - now, 1):.0f} minutes; an estimate that each reading improves."


def _warnings(
    oils: Sequence[tuple[float, float]], lye: Sequence[tuple[float, float]], window: TemperatureWindow
) -> list[str]:
    found = []
    if oils and oils[-1][1] < window.melts_c:
        found.append(
            f"The oils are at {oils[-1][1]:.0f} °C, below the {window.melts_c:.0f} °C at which "
            f"{window.hardest_fat.lower()} melts: it may set as a false trace."
        )
    if window.milk and lye and lye[-1][1] > window.high_c + 6:
        found.append(f"The lye with milk is at {lye[-1][1]:.0f} °C: more ice, or it scorches.")
    if oils and lye and abs(oils[-1][1] - lye[-1][1]) > window.apart_c:
        found.append(
            f"They are {apart_words(abs(oils[-1][1] - lye[-1][1]))} apart; the chosen school allows "
            f"{apart_words(window.apart_c)}."
        )
    return found
