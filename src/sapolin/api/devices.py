"""Scale and thermometer, live; and the panel that plays with the simulated ones."""

import asyncio
from collections.abc import AsyncIterator
from typing import Annotated, Literal

from fastapi import Depends, Request
from fastapi.responses import StreamingResponse
from pydantic import Field

from sapolin.api.errors import Refusal
from sapolin.api.room import room
from sapolin.core.quantities.model import FiniteNumber, Model, Truth
from sapolin.devices.protocol import ScaleReading, ThermometerReading
from sapolin.devices.rehearsal import Rehearsal
from sapolin.devices.workbench import Workbench

__all__ = ["Devices", "router"]

router = room("/api/devices", "devices")

READINGS_PER_SECOND = 10
MOST_LISTENERS = 20


async def _devices(request: Request) -> Workbench:
    devices = request.app.state.devices
    assert isinstance(devices, Workbench)
    return devices


Devices = Annotated[Workbench, Depends(_devices)]


class DeviceReadings(Model):
    """What the devices show."""

    scale: ScaleReading | None
    """Null without a scale: weights are typed."""
    thermometer: ThermometerReading | None
    """Null without a thermometer: temperatures are typed."""
    is_simulated: Truth
    """They are stand-ins that can be played with."""


class ScalePlay(Model):
    """Something done to the simulated scale."""

    what: Literal["pour", "pour_until", "take_off", "clear", "bump", "unplug", "plug", "overload"]
    grams: Annotated[FiniteNumber, Field(ge=0, le=20_000)] = 0.0
    """How much; for `pour_until`, what it is to show."""


class ThermometerPlay(Model):
    """Something done to what the simulated thermometer sees."""

    what: Literal["heat", "ice_bath", "out_of_bath", "unplug", "plug"]
    bowl: Literal["oils", "lye"] = "oils"
    celsius: Annotated[FiniteNumber, Field(ge=-20, le=140)] = 20.0


def _now(devices: Workbench) -> DeviceReadings:
    return DeviceReadings(
        scale=None if devices.scale is None else devices.scale.read(),
        thermometer=None if devices.thermometer is None else devices.thermometer.read(),
        is_simulated=devices.rehearsal is not None,
    )


async def _rehearsal(devices: Devices) -> Rehearsal:
    if devices.rehearsal is None:
        raise Refusal(409, "not_simulated", "There is no simulated device here.")
    return devices.rehearsal


Played = Annotated[Rehearsal, Depends(_rehearsal)]


@router.get("", summary="What the devices show")
def get_readings(devices: Devices) -> DeviceReadings:
    """Weight in g net of the tare, temperatures in °C by bowl, and the state of each device. Not for polling: `/stream`
    sends the same ten times a second."""
    return _now(devices)


@router.get("/stream", summary="What the devices show, live", response_class=StreamingResponse)
async def stream(request: Request, devices: Devices) -> StreamingResponse:
    """Server-sent events, ten a second; each holds the readings as JSON. An event `ending` says that the server stops."""
    if devices.listeners >= MOST_LISTENERS:
        raise Refusal(429, "too_many", "Too many screens listen to the scale already. Close one.")

    async def readings() -> AsyncIterator[str]:
        devices.listeners += 1
        try:
            while not await request.is_disconnected():
                if devices.ending:
                    yield "event: ending\ndata: {}\n\n"
                    return
                yield f"data: {_now(devices).model_dump_json()}\n\n"
                await asyncio.sleep(1 / READINGS_PER_SECOND)
        finally:
            devices.listeners -= 1

    return StreamingResponse(readings(), media_type="text/event-stream", headers={"cache-control": "no-store"})


@router.post("/scale/play", summary="Play with the simulated scale")
def play_scale(play: ScalePlay, devices: Devices, rehearsal: Played) -> DeviceReadings:
    """Does what a hand would do, and answers with what the devices show at once (a scale takes about a second to settle). 409
    `not_simulated` when the devices are real.
    """
    scale = rehearsal.scale
    if play.what == "pour":
        scale.put(play.grams)
    elif play.what == "pour_until":
        scale.pour_until(play.grams)
    elif play.what == "take_off":
        scale.put(-play.grams)
    elif play.what == "clear":
        scale.clear()
    elif play.what == "bump":
        scale.bump()
    elif play.what == "overload":
        scale.put(scale.capacity_g * 1.1)
    else:
        scale.plug(play.what == "plug")
    return _now(devices)


@router.post("/thermometer/play", summary="Play with what the simulated thermometer sees")
def play_thermometer(play: ThermometerPlay, devices: Devices, rehearsal: Played) -> DeviceReadings:
    """Does what a hand would do, and answers with what the devices show. 409 `not_simulated` when the devices are real."""
    thermometer = rehearsal.thermometer
    if play.what == "heat":
        thermometer.heat(play.bowl, play.celsius)
    elif play.what == "ice_bath":
        thermometer.ice_bath(play.bowl)
    elif play.what == "out_of_bath":
        thermometer.out_of_bath(play.bowl)
    else:
        thermometer.plug(play.what == "plug")
    return _now(devices)
