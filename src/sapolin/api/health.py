"""The running application itself."""

from fastapi import Request

from sapolin import __version__
from sapolin.api.pairing import ThisDevice, this_device
from sapolin.api.room import room
from sapolin.core.quantities.model import Model, Truth

router = room("/api", "application")


class Health(Model):
    """The running application."""

    version: str
    demo: Truth
    """The database holds the demo world and may be reset."""
    device: ThisDevice
    trouble: str | None
    """What has to be done about the data soon: the file damaged, no room, no backup possible; null when all is well."""
    is_looking: Truth
    """The first look at the data since the start goes on: ask again in a moment, `trouble` may come of it."""


@router.get("/health", summary="Whether it runs, and on what")
def get_health(request: Request) -> Health:
    """Which release it is, whether its data are the demo, what the device that asks may do, and what is wrong with the data."""
    state = request.app.state
    return Health(
        version=__version__, demo=state.fill_demo is not None, device=this_device(request), trouble=state.trouble,
        is_looking=state.is_looking,
    )  # fmt: skip
