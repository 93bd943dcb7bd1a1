"""What a scale and a thermometer have to do. A real one implements the same."""

from typing import Literal, Protocol

from sapolin.core.quantities.model import Model

__all__ = ["Scale", "ScaleReading", "Thermometer", "ThermometerReading", "UnpluggedError"]


class UnpluggedError(Exception):
    """The device does not answer."""


class ScaleReading(Model):
    """What a scale shows."""

    state: Literal["steady", "settling", "overload", "unplugged"]
    weight_g: float | None
    """Net of the tare, at the scale's resolution; null while it shows none."""
    tare: str | None
    """Names the zero that it counts from; null before it was tared, and once it lost its zero: unplugged, restarted or
    overloaded."""
    resolution_g: float
    capacity_g: float


class ThermometerReading(Model):
    """What a thermometer shows."""

    state: Literal["reading", "unplugged"]
    celsius: dict[str, float]
    """By what it is pointed at: `oils`, `lye`, `room`."""


class Scale(Protocol):
    """A scale."""

    def tare(self) -> str:
        """Show zero for what is on it, once it is steady; returns a name for this zero that no other one ever has.

        Raises UnpluggedError.
        """
        ...

    def read(self) -> ScaleReading:
        """What it shows now."""
        ...


class Thermometer(Protocol):
    """An infrared thermometer."""

    def read(self) -> ThermometerReading:
        """What it shows now."""
        ...
