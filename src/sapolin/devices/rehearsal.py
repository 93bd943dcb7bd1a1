"""The simulated devices played with: what the work of a rehearsal does to their bowls."""

from dataclasses import dataclass

from sapolin.core.batch.planned import PlannedBatch
from sapolin.core.batch.procedure import MAKE_LYE_STEP
from sapolin.core.production.events import Chose, Event, StepDone
from sapolin.core.production.state import RunState
from sapolin.devices.simulated import SimulatedScale, SimulatedThermometer

__all__ = ["Rehearsal"]

MELTED_AT_ABOVE_C = 20.0
"""Fats are melted some way above the point at which the last of them melts."""


@dataclass(frozen=True)
class Rehearsal:
    """Simulated devices, seen by whoever plays with them."""

    scale: SimulatedScale
    thermometer: SimulatedThermometer

    def follow(self, event: Event, planned: PlannedBatch) -> None:
        """What the work does to the simulated bowls: lye comes to its peak, fats melt, ice cools."""
        if isinstance(event, StepDone) and event.step == MAKE_LYE_STEP:
            self.thermometer.heat("lye", planned.lye_peak.low_c)
        elif isinstance(event, StepDone) and event.step == "melt":
            self.thermometer.heat("oils", planned.window.melts_c + MELTED_AT_ABOVE_C)
        elif isinstance(event, Chose) and event.what == "ice_bath":
            self.thermometer.ice_bath("lye")

    def resume(self, state: RunState) -> None:
        """After a restart, the simulated bowls of a batch in work are as they were last read."""
        for reading in state.readings:
            self.thermometer.heat(reading.bowl, reading.celsius)
