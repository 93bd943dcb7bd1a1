"""Phones and tablets: pair one, name it, say what it may reach, end its access."""

from typing import Annotated, Literal

from fastapi import Depends, Request
from fastapi.responses import FileResponse, Response
from pydantic import Field

from sapolin.api.errors import Refusal
from sapolin.api.network.gate import DEVICE
from sapolin.api.room import room
from sapolin.core.quantities.model import Model
from sapolin.exchange.qr_code import qr_svg
from sapolin.store.pairing import PairedDevice, Pairing, PairingCode, Reach

__all__ = ["NetworkState", "ThisDevice", "router", "this_device"]

router = room("/api/paired-devices", "paired devices")

DeviceName = Annotated[str, Field(min_length=1, max_length=40, pattern=r"\S")]


class NetworkState(Model):
    """How second devices reach the application, while it listens on the network."""

    addresses: tuple[str, ...]
    """To open on the device; the first is the likeliest."""
    fingerprint: str
    """SHA-256 of the certificate, to compare with what the device's browser shows."""


class PairedDevices(Model):
    """The devices, and how new ones get in."""

    network: NetworkState | None
    """Null while the application listens on this machine alone."""
    offer: PairingCode | None
    """The code that is open."""
    devices: tuple[PairedDevice, ...]
    """The newest first; those whose access ended too."""


class ThisDevice(Model):
    """Who asks."""

    kind: Literal["main", "paired"]
    """On the machine itself, or a device that was paired."""
    name: str
    """Of a paired device; empty on the machine itself."""
    reach: Reach


def this_device(request: Request) -> ThisDevice:
    """Whether this is the main screen, and what a paired device may reach."""
    device = request.scope.get(DEVICE)
    if device is None:
        return ThisDevice(kind="main", name="", reach="everything")
    return ThisDevice(kind="paired", name=device.name, reach=device.reach)


class OfferAsked(Model):
    """A device to be paired."""

    name: DeviceName
    reach: Reach


class DeviceChange(Model):
    """What becomes different; what is left out stays."""

    name: DeviceName | None = None
    reach: Reach | None = None


async def _pairing(request: Request) -> Pairing:
    pairing = request.app.state.pairing
    assert isinstance(pairing, Pairing)
    return pairing


PairingOf = Annotated[Pairing, Depends(_pairing)]


async def _network(request: Request) -> NetworkState | None:
    state = request.app.state.network
    assert state is None or isinstance(state, NetworkState)
    return state


NetworkOf = Annotated[NetworkState | None, Depends(_network)]


@router.get("", summary="The paired devices")
def get_paired_devices(pairing: PairingOf, network: NetworkOf) -> PairedDevices:
    """Devices, the code that is open, and where the application listens. On the main screen only, like all here."""
    return PairedDevices(network=network, offer=pairing.open_offer(), devices=pairing.devices())


@router.post("/offer", summary="Open a code for one device")
def open_offer(asked: OfferAsked, pairing: PairingOf, network: NetworkOf) -> PairingCode:
    """A code for ten minutes and one device; one that was open is withdrawn. 409 while nothing listens on the network."""
    if network is None:
        raise Refusal(
            409, "no_network", "Sapolin listens on this machine alone. Start it with --network to pair a device."
        )
    return pairing.offer(asked.name.strip(), asked.reach)


@router.delete("/offer", status_code=204, summary="Withdraw the code", response_class=Response)
def withdraw_offer(pairing: PairingOf) -> None:
    """Nobody can be paired until a new one is opened."""
    pairing.withdraw()


@router.get("/offer.svg", summary="The code to scan", response_class=Response)
def get_offer_drawing(pairing: PairingOf, network: NetworkOf) -> Response:
    """A drawing (SVG, QR code) of the pairing page's address with the code that is open. 404 when none is."""
    offer = pairing.open_offer()
    if offer is None or network is None:
        raise Refusal(404, "not_found", "No code is open.")
    content = qr_svg(f"{network.addresses[0]}pair?code={offer.code}")
    return Response(content, media_type="image/svg+xml", headers={"cache-control": "no-store"})


@router.get("/authority", summary="What a device is given to trust the certificate", response_class=FileResponse)
def get_authority(request: Request) -> FileResponse:
    """The workshop's own authority, as a file to install on a device. 404 while nothing listens on the network."""
    file = request.app.state.authority
    if file is None:
        raise Refusal(404, "not_found", "Sapolin listens on this machine alone, so it has no certificate.")
    return FileResponse(file, filename="sapolin-authority.crt", media_type="application/x-x509-ca-cert")


@router.patch("/{device_id}", summary="Name a device anew, or change what it may reach")
def change_device(device_id: str, change: DeviceChange, pairing: PairingOf) -> PairedDevice:
    """It counts from the device's next request on. 404 when there is no such device, or its access ended."""
    return pairing.change(device_id, name=change.name and change.name.strip(), reach=change.reach)


@router.delete("/{device_id}", summary="End a device's access")
def end_access(device_id: str, pairing: PairingOf) -> PairedDevice:
    """At once, also for what is being answered. The device stays in the list; to come back it has to be paired anew."""
    return pairing.end(device_id)
