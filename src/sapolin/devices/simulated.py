"""A simulated scale and thermometer: they settle, drift, step, overload and come unplugged like real ones.

Time comes from a clock that is handed in, noise from a seed, so a rehearsal can be repeated exactly.
"""

from collections.abc import Callable
from math import exp
from random import Random
from threading import RLock
from uuid import uuid4

from sapolin.core.quantities.model import Model
from sapolin.devices.protocol import ScaleReading, ThermometerReading, UnpluggedError

__all__ = ["SimulatedScale", "SimulatedThermometer", "Surface"]

Clock = Callable[[], float]
"""Seconds, never going back."""


class SimulatedScale:
    """A kitchen scale: 0.1 g steps, 5 kg, steady about a second after the last drop."""

    def __init__(
        self,
        clock: Clock,
        *,
        resolution_g: float = 0.1,
        capacity_g: float = 5000.0,
        settle_seconds: float = 0.8,
        drift_g_per_hour: float = 0.3,
        seed: int = 1,
    ) -> None:
        self._clock = clock
        self._noise = Random(seed)
        self._lock = RLock()
        self.resolution_g, self.capacity_g = resolution_g, capacity_g
        self._settle_seconds, self._drift_g_per_hour = settle_seconds, drift_g_per_hour
        self._load_g = 0.0
        self._shown_from_g = 0.0
        self._changed_at = self._tared_at = clock() - 60.0
        self._zero_g = 0.0
        self._tare: str | None = None
        self._plugged = True

    def put(self, grams: float) -> None:
        """Pour on (above 0) or take off (below 0)."""
        with self._lock:
            self._shown_from_g = self._settled_g()
            self._load_g = max(self._load_g + grams, 0.0)
            self._changed_at = self._clock()
            if self._load_g > self.capacity_g:
                self._tare = None

    def pour_until(self, shown_g: float) -> None:
        """Pour on until it will show `shown_g` once it is steady; nothing, when it does or is past that."""
        with self._lock:
            self.put(max(shown_g - self._net_g(self._load_g), 0.0))

    def clear(self) -> None:
        """Take everything off."""
        with self._lock:
            self.put(-self._load_g)

    def plug(self, plugged: bool) -> None:
        """Pull the plug, or put it back; a scale that comes back shows zero for what is on it, and has lost its tare."""
        with self._lock:
            self._tare = None if plugged != self._plugged else self._tare
            if plugged and not self._plugged:
                self._zero_g = self._load_g
                self._tared_at = self._clock()
            self._plugged = plugged

    def bump(self) -> None:
        """Knock the table: it has to settle again."""
        with self._lock:
            self._shown_from_g = self._settled_g() + self._noise.uniform(-8, 8)
            self._changed_at = self._clock()

    def tare(self) -> str:
        """Show zero for what is on it now. Raises UnpluggedError."""
        with self._lock:
            if not self._plugged:
                raise UnpluggedError
            # Like most kitchen scales it waits until it is steady, and takes zero from there.
            self._zero_g = self._load_g
            self._tared_at = self._clock()
            self._tare = uuid4().hex
            return self._tare

    def read(self) -> ScaleReading:
        """What it shows now."""
        with self._lock:
            if not self._plugged:
                return self._reading("unplugged", None)
            if self._load_g > self.capacity_g:
                return self._reading("overload", None)
            net_g = self._net_g(self._settled_g())
            on_its_way = abs(self._load_g - self._settled_g()) > self.resolution_g / 4
            settling = on_its_way or self._clock() - self._changed_at < self._settle_seconds
            if settling:
                net_g += self._noise.gauss(0, 1.5 * self.resolution_g)
            shown = round(net_g / self.resolution_g) * self.resolution_g
            return self._reading("settling" if settling else "steady", round(shown, 3) + 0.0)

    def _net_g(self, gross_g: float) -> float:
        """Less the tare, with what it has drifted since."""
        hours = (self._clock() - self._tared_at) / 3600
        return gross_g - self._zero_g + self._drift_g_per_hour * hours

    def _settled_g(self) -> float:
        """Where the needle is on its way to the load."""
        passed = (self._clock() - self._changed_at) / (self._settle_seconds / 4)
        return self._load_g + (self._shown_from_g - self._load_g) * exp(-max(passed, 0.0))

    def _reading(self, state: str, weight_g: float | None) -> ScaleReading:
        return ScaleReading.model_validate({
            "state": state, "weight_g": weight_g, "tare": self._tare, "resolution_g": self.resolution_g,
            "capacity_g": self.capacity_g,
        })  # fmt: skip


class Surface(Model):
    """Something that warms or cools toward its surroundings."""

    celsius: float
    toward_c: float
    per_minute: float
    """Part of the difference lost in a minute."""
    since: float
    """Clock, s."""

    def at(self, now: float) -> float:
        """Its temperature at a time of the clock."""
        return self.toward_c + (self.celsius - self.toward_c) * exp(-self.per_minute * (now - self.since) / 60)


class SimulatedThermometer:
    """An infrared thermometer pointed at two bowls, with half a degree of noise."""

    def __init__(self, clock: Clock, *, room_c: float = 20.0, resolution_c: float = 0.1, seed: int = 2) -> None:
        self._clock = clock
        self._noise = Random(seed)
        self._lock = RLock()
        self._resolution_c = resolution_c
        self.room_c = room_c
        self._plugged = True
        now = clock()
        self._surfaces = {
            bowl: Surface(celsius=room_c, toward_c=room_c, per_minute=0.02, since=now) for bowl in ("oils", "lye")
        }

    def heat(self, bowl: str, celsius: float) -> None:
        """Bring a bowl to a temperature at once; from there it cools toward the room."""
        self._set(bowl, celsius, self.room_c, 0.02)

    def ice_bath(self, bowl: str) -> None:
        """Put a bowl on ice: it cools faster, toward freezing."""
        self._set(bowl, None, 2.0, 0.12)

    def out_of_bath(self, bowl: str) -> None:
        """Back on the table."""
        self._set(bowl, None, self.room_c, 0.02)

    def plug(self, plugged: bool) -> None:
        """Take the battery out, or put it back."""
        with self._lock:
            self._plugged = plugged

    def _set(self, bowl: str, celsius: float | None, toward_c: float, per_minute: float) -> None:
        with self._lock:
            now = self._clock()
            start = self._surfaces[bowl].at(now) if celsius is None else celsius
            self._surfaces[bowl] = Surface(celsius=start, toward_c=toward_c, per_minute=per_minute, since=now)

    def read(self) -> ThermometerReading:
        """What it shows now."""
        with self._lock:
            if not self._plugged:
                return ThermometerReading(state="unplugged", celsius={})
            now = self._clock()
            shown = {bowl: self._shown(surface.at(now)) for bowl, surface in self._surfaces.items()}
            return ThermometerReading(state="reading", celsius={**shown, "room": self._shown(self.room_c)})

    def _shown(self, celsius: float) -> float:
        noisy = celsius + self._noise.gauss(0, 0.15)
        return round(round(noisy / self._resolution_c) * self._resolution_c, 2)
