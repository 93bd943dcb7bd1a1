"""Sapolin's command line with a simulated scale that settles in a quarter of its time: walks weigh a hundred times, and all
that shows a weight is drawn anew ten times a second meanwhile."""

from functools import partial
from unittest.mock import patch

from sapolin.cli import main
from sapolin.devices.simulated import SimulatedScale

__all__ = ["settle_quickly"]

SETTLE_SECONDS = 0.2


def settle_quickly() -> None:
    """From here on, in this process."""
    patch("sapolin.devices.workbench.SimulatedScale", partial(SimulatedScale, settle_seconds=SETTLE_SECONDS)).start()


if __name__ == "__main__":
    settle_quickly()
    main()
