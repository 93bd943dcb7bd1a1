"""What a scale and a thermometer have to do. A real one implements the same."""

from typing import Literal, Protocol

from sapolin.core.model import Model

__all__ = ["Scale", "ScaleReading", "Thermometer", "ThermometerReading", "UnpluggedError"]


class UnpluggedError(Exception):
    """The device does not answer."""


class ScaleReading(Model):
    """What a scale shows."""

    state: Literal["steady", "settling", "overload", "unplugged"]
    weight_g: float | None
    """Net of the tare, at the scale's resolution; null while it shows none."""
    tared: bool
    """It has been tared since a weight was last taken."""
    resolution_g: float
    capacity_g: float


class ThermometerReading(Model):
    """What a thermometer shows."""

    state: Literal["reading", "unplugged"]
    celsius: dict[str, float]
    """By what it is pointed at: `oils`, `lye`, `room`."""


class Scale(Protocol):
    """A scale."""

    def tare(self) -> None:
        """Show zero for what is on it, once it is steady. Raises UnpluggedError."""

    def read(self) -> ScaleReading:
        """What it shows now."""

    def weight_taken(self) -> None:
        """A weight was taken: until the next tare, what it shows includes it."""


class Thermometer(Protocol):
    """An infrared thermometer."""

    def read(self) -> ThermometerReading:
        """What it shows now."""
