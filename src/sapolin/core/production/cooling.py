"""When both bowls will be ready to meet, from the readings so far. Times in minutes, temperatures in C; estimates."""

from collections.abc import Sequence

from sapolin.core.batch.heat import Cooling, cooling
from sapolin.core.batch.temperatures import TemperatureWindow
from sapolin.core.quantities.model import Model, Truth
from sapolin.core.quantities.text import Temperature, TemperatureDifference, Text, number, text

__all__ = ["BowlForecast", "CoolingForecast", "cooling_forecast"]

FARTHEST_MINUTES = 24 * 60.0
SAME_DEGREE_C = 0.5
"""Readings nearer than this are the same degree to a maker."""
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
    ready: Truth
    """They are now, by their last readings."""
    words: Text
    warnings: tuple[Text, ...]


def cooling_forecast(
    oils: Sequence[tuple[float, float]],
    lye: Sequence[tuple[float, float]],
    window: TemperatureWindow,
    room_c: float,
    now_minute: float,
) -> CoolingForecast:
    """What the readings (minute, °C) of both bowls let expect; the more of them, the better.

    Bowls cool towards the room as e^(−t/tau) (Newton); two readings of a bowl give its tau.

    >>> from sapolin.core.batch.temperatures import TemperatureWindow
    >>> window = TemperatureWindow(
    ...     low_c=32, high_c=43, apart_c=10, hardest_fat="Coconut", melts_c=24, milk=False, conflict=(),
    ... )
    >>> found = cooling_forecast([(0, 60), (10, 50)], [(0, 60), (10, 50)], window, room_c=20, now_minute=10)
    >>> found.ready, round(found.both_minute)  # 20 + 40 e^(−t/tau) is 50 at 10 minutes and 43 at 19
    (False, 19)
    """
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
        words=_words(ready, both, oils, lye, window, now_minute),
        warnings=tuple(_warnings(oils, lye, window)),
    )


def _meets(oils_c: float, lye_c: float, window: TemperatureWindow) -> bool:
    inside = all(
        window.low_c - SAME_DEGREE_C <= celsius <= window.high_c + SAME_DEGREE_C for celsius in (oils_c, lye_c)
    )
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

    for step in range(int(FARTHEST_MINUTES)):
        minute = now + step
        if _meets(at(oils, oils_read, minute), at(lye, lye_read, minute), window):
            return minute
    return None


def _words(
    ready: bool,
    both: float | None,
    oils: Sequence[tuple[float, float]],
    lye: Sequence[tuple[float, float]],
    window: TemperatureWindow,
    now: float,
) -> Text:
    if ready:
        return text("cooling.ready")
    if not oils or not lye:
        return text("cooling.read_both")
    if both is None:
        # How fast a bowl cools that was read once is not known; one that is too cool already comes into no window.
        read_once = len(oils) == 1 or len(lye) == 1
        too_cool = min(oils[-1][1], lye[-1][1]) < window.low_c - SAME_DEGREE_C
        return text("cooling.read_again" if read_once and not too_cool else "cooling.never_together")
    return text("cooling.in_minutes", minutes=number(max(both - now, 1), 0))


def _warnings(
    oils: Sequence[tuple[float, float]], lye: Sequence[tuple[float, float]], window: TemperatureWindow
) -> list[Text]:
    found = []
    if oils and oils[-1][1] < window.melts_c - SAME_DEGREE_C:
        found.append(text(
            "cooling.below_melting", oils=Temperature(c=oils[-1][1]), melts=Temperature(c=window.melts_c),
            name=window.hardest_fat.lower(),
        ))  # fmt: skip
    if window.milk and lye and lye[-1][1] > window.high_c + 6:
        found.append(text("cooling.milk_too_hot", lye=Temperature(c=lye[-1][1])))
    apart = TemperatureDifference(c=abs(oils[-1][1] - lye[-1][1])) if oils and lye else None
    if apart is not None and apart.c > window.apart_c:
        found.append(text("cooling.too_far_apart", apart=apart, allowed=window.apart))
    return found
