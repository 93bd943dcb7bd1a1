"""Opening the application to the local network: listeners, certificate, gate."""

import socket
from collections.abc import Callable
from pathlib import Path

from fastapi import FastAPI

from sapolin.api.network.addresses import local_names
from sapolin.api.network.certificates import own_certificate
from sapolin.api.network.gate import Gate
from sapolin.api.pairing import NetworkState
from sapolin.api.serving import NetworkSide
from sapolin.store.pairing import network_directory

__all__ = ["NoNetworkError", "open_network"]


class NoNetworkError(Exception):
    """This machine is on no local network; the message is one sentence for the maker, with the remedy."""


def open_network(
    application: FastAPI, database: Path, port: int, listen: Callable[[str, int], socket.socket]
) -> NetworkSide:  # fmt: skip
    """Listen by `listen(address, port)` on each address of the local network, and tell the application of it.

    Port 0 takes any free one, the same on each address. Raises NoNetworkError, and what `listen` raises.
    """
    names = local_names()
    if not names.addresses:
        raise NoNetworkError(
            "This machine is on no local network now, so no tablet can reach it. Connect it, or leave --network out."
        )
    first = listen(names.addresses[0], port)
    chosen = first.getsockname()[1]
    listeners = [first, *(listen(one, chosen) for one in names.addresses[1:])]
    certificate = own_certificate(network_directory(database), names)
    shown = [f"[{one}]" if ":" in one else one for one in names.addresses]
    application.state.network = NetworkState(
        addresses=tuple(f"https://{one}:{chosen}/" for one in (*shown, *names.names[1:])),
        fingerprint=certificate.fingerprint,
    )
    application.state.authority = certificate.authority
    gate = Gate(application, application.state.pairing, names.hosts)
    return NetworkSide(gate=gate, listeners=listeners, chain=certificate.chain, key=certificate.key)
