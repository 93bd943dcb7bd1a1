"""The devices of one application."""

from dataclasses import dataclass
from time import monotonic

from sapolin.core.batch.planned import PlannedBatch
from sapolin.core.production.events import Event
from sapolin.core.production.state import RunState
from sapolin.devices.protocol import Scale, Thermometer
from sapolin.devices.rehearsal import Rehearsal
from sapolin.devices.simulated import SimulatedScale, SimulatedThermometer

__all__ = ["Workbench"]


@dataclass
class Workbench:
    """The devices of one application: whatever weighs and whatever reads temperatures. A workshop without them types."""

    scale: Scale | None = None
    thermometer: Thermometer | None = None
    rehearsal: Rehearsal | None = None
    """What there is to play with when both are simulated; null with devices of the workshop."""
    listeners: int = 0
    ending: bool = False
    """The application ends: streams of readings say so and stop."""

    @classmethod
    def simulated(
        cls, scale: SimulatedScale | None = None, thermometer: SimulatedThermometer | None = None
    ) -> "Workbench":
        """Simulated devices, on the computer's own clock unless they are given."""
        rehearsal = Rehearsal(scale or SimulatedScale(monotonic), thermometer or SimulatedThermometer(monotonic))
        return cls(rehearsal.scale, rehearsal.thermometer, rehearsal)

    def follow(self, event: Event, planned: PlannedBatch) -> None:
        """Let simulated devices show what the work does to the bowls; real ones see for themselves."""
        if self.rehearsal is not None:
            self.rehearsal.follow(event, planned)

    def resume(self, state: RunState) -> None:
        """After a restart, let simulated devices take up a batch in work."""
        if self.rehearsal is not None:
            self.rehearsal.resume(state)
