"""Running the application, and ending it: quickly, with every screen told and one whole database file left behind.

It listens on this machine, and where the maker asks for it on the local network too, behind a gate and with TLS. Either way a
connection on which no whole request comes is closed, and one address cannot take all of them.
"""

import asyncio
import gc
import signal
import socket
from collections import Counter
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from types import FrameType
from typing import ClassVar

import uvicorn
from fastapi import FastAPI
from starlette.types import ASGIApp
from uvicorn.protocols.http.h11_impl import H11Protocol

from sapolin.api.mending import mending_app

__all__ = ["NetworkSide", "serve_until_ended", "serve_until_mended"]

GRACE_SECONDS = 2
"""Answers under way may take so long once the end was asked for."""
HEAD_SECONDS = 20.0
"""So long a connection may take until the head of a request is whole."""
MOST_CONNECTIONS = 200
MOST_CONNECTIONS_EACH = 40
"""From one address; a browser opens six, and one for each screen that follows the scale."""


class CarefulProtocol(H11Protocol):
    """HTTP that waits for a request only so long, and lets one address hold only so many connections."""

    _of_address: ClassVar[Counter[str]] = Counter()
    _waiting: asyncio.TimerHandle | None = None
    _counted: str | None = None

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        """A connection was opened."""
        super().connection_made(transport)
        address = self.client[0] if self.client else ""
        if self._of_address[address] >= MOST_CONNECTIONS_EACH:
            transport.abort()
            return
        self._counted = address
        self._of_address[address] += 1
        self._wait_for_head()

    def connection_lost(self, exc: Exception | None) -> None:
        """It was closed, from whichever side."""
        if self._counted is not None:
            self._of_address[self._counted] -= 1
            if not self._of_address[self._counted]:
                del self._of_address[self._counted]
            self._counted = None
        self._stop_waiting()
        super().connection_lost(exc)

    def data_received(self, data: bytes) -> None:
        """A part of a request came."""
        super().data_received(data)
        if self.cycle is not None and not self.cycle.response_complete:
            self._stop_waiting()
        elif self._waiting is None and not self.transport.is_closing():
            self._wait_for_head()

    def _wait_for_head(self) -> None:
        self._waiting = self.loop.call_later(HEAD_SECONDS, self.transport.abort)

    def _stop_waiting(self) -> None:
        if self._waiting is not None:
            self._waiting.cancel()
            self._waiting = None


@dataclass(frozen=True)
class NetworkSide:
    """Where and how the local network is served."""

    gate: ASGIApp
    listeners: Sequence[socket.socket]
    chain: Path
    key: Path


class _Server(uvicorn.Server):
    """A server that tells open streams of its end, and ends what listens on the network."""

    def __init__(self, config: uvicorn.Config, application: FastAPI, network: uvicorn.Server | None) -> None:
        super().__init__(config)
        self._application = application
        self._network = network

    def handle_exit(self, sig: int, frame: FrameType | None) -> None:
        """The end was asked for: streams stop by themselves, so that nothing is waited for."""
        self._application.state.devices.ending = True
        if self._network is not None:
            self._network.should_exit = True
        super().handle_exit(sig, frame)


class _NetworkServer(uvicorn.Server):
    """A server beside the first, which takes the signals for both."""

    @contextmanager
    def capture_signals(self) -> Iterator[None]:
        """Nothing: the first server takes them."""
        yield


def _config(app: ASGIApp, **more: object) -> uvicorn.Config:
    return uvicorn.Config(
        app, http=CarefulProtocol, ws="none", log_level="warning", timeout_keep_alive=75,
        timeout_graceful_shutdown=GRACE_SECONDS, limit_concurrency=MOST_CONNECTIONS, server_header=False, proxy_headers=False,
        **more,  # type: ignore[arg-type]
    )  # fmt: skip


def serve_until_ended(application: FastAPI, listener: socket.socket, network: NetworkSide | None = None) -> None:
    """Serve on `listener`, and on the network where asked, until Ctrl+C, SIGTERM or SIGHUP."""
    # What is loaded by now stays. To look for garbage in it again and again would hold up every answer for a tenth of a second.
    gc.freeze()
    beside = None
    if network is not None:
        config = _config(network.gate, lifespan="off", ssl_certfile=network.chain, ssl_keyfile=network.key)
        beside = _NetworkServer(config)
    server = _Server(_config(application), application, beside)
    signal.signal(signal.SIGHUP, server.handle_exit)
    if network is None or beside is None:
        server.run(sockets=[listener])
        return

    async def serve_both() -> None:
        serving = asyncio.create_task(beside.serve(sockets=list(network.listeners)))
        try:
            await server.serve(sockets=[listener])
        finally:
            beside.should_exit = True
            await serving

    asyncio.run(serve_both())


def serve_until_mended(database: Path, fault: str, listener: socket.socket) -> bool:
    """Show on `listener` what is wrong with the database, until something was done about it (True) or the end is asked for."""
    mended = False

    def done() -> None:
        nonlocal mended
        mended = server.should_exit = True

    # The listener lives on for the application: what is served here works on a copy of it.
    server = uvicorn.Server(_config(mending_app(database, fault, done), lifespan="off"))
    server.run(sockets=[listener.dup()])
    return mended
