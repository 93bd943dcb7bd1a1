"""Trays of the curing rack: their places, and what stands on them."""

from typing import Annotated

from pydantic import Field

from sapolin.core.cure.events import Code
from sapolin.core.quantities.model import Model

__all__ = ["OnTray", "Tray", "TrayNow"]


class Tray(Model):
    """A tray."""

    code: Code
    shelf: Annotated[str, Field(max_length=40)] = ""
    """Where it stands."""
    columns: Annotated[int, Field(ge=1, le=40)]
    rows: Annotated[int, Field(ge=1, le=40)]

    @property
    def places(self) -> int:
        """Room for so many bars."""
        return self.columns * self.rows


class OnTray(Model):
    """Bars of one batch on a tray."""

    batch_id: str
    code: str
    """Of the batch."""
    name: str
    bars: int
    ready_at: str | None = None
    """When they are dry, an estimate."""


class TrayNow(Model):
    """A tray with what stands on it."""

    tray: Tray
    places: int
    bars: int
    free: int
    stands: tuple[OnTray, ...]
    revision: int
    """Counts every save of the tray itself."""
