"""Who may talk to the application: the maker's own browser on this machine, and devices that the network's gate let pass.

`TrustedHosts` checks Host against `LOOPBACK` (DNS rebinding), except where the gate has looked at it. The guard inside checks
Origin (other sites that post forms, or listen to the scale), bounds request bodies in size and time, and sets the headers that
keep a page from being framed or from loading anything but its own files.
"""

import asyncio
import os
from pathlib import Path

from starlette.datastructures import Headers
from starlette.exceptions import HTTPException
from starlette.middleware.trustedhost import TrustedHostMiddleware
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from sapolin.api.errors import PAGE_HEADERS, refuse
from sapolin.api.network.gate import DEVICE
from sapolin.core.quantities.text import digits

__all__ = ["LOOPBACK", "DatabaseWatch", "Guard", "TrustedHosts"]

LOOPBACK = ("127.0.0.1", "localhost", "[::1]")
MAX_BODY_BYTES = 1_000_000
MAX_PHOTO_BYTES = 12_000_000
MAX_ARCHIVE_BYTES = 2_000_000_000
MAX_TABLE_BYTES = 6_000_000
"""Price lists and tables that are brought in, as base64."""
DATABASE_HEADER = "sapolin-database"
BODY_SECONDS = 30.0
"""So long the next part of a request may take to come."""
_HEADERS = [(name.encode(), value.encode()) for name, value in PAGE_HEADERS.items()]


def _most_bytes(path: str) -> int:
    """How long the body of a request may be."""
    if path == "/api/safekeeping/archive":
        return MAX_ARCHIVE_BYTES
    if path.endswith(("/photos", "/cure/pictures")):
        return MAX_PHOTO_BYTES
    return MAX_TABLE_BYTES if path.startswith(("/api/price-lists", "/api/imports")) else MAX_BODY_BYTES


class Guard:
    """ASGI middleware around the whole application."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass the request on, or answer it with an error."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        host, origin = headers.get("host", "").lower(), headers.get("origin")
        if origin is not None and origin.partition("://")[2].lower() != host:
            await refuse(send, 403, "wrong_origin", "Only the application's own pages may ask for this.")
            return

        most_bytes = _most_bytes(scope["path"])
        seen_bytes = 0

        is_whole = False

        async def bounded_receive() -> Message:
            nonlocal seen_bytes, is_whole
            try:
                async with asyncio.timeout(None if is_whole else BODY_SECONDS):
                    message = await receive()
            except TimeoutError:
                raise HTTPException(408, "The request did not come whole. Send it again.") from None
            is_whole = not message.get("more_body", False)
            seen_bytes += len(message.get("body", b""))
            if seen_bytes > most_bytes:
                raise HTTPException(413, f"A request may hold {digits(most_bytes, 0)} bytes at most.")
            return message

        async def guarded_send(message: Message) -> None:
            if message["type"] == "http.response.start":
                message = {**message, "headers": [*message["headers"], *_HEADERS]}
            await send(message)

        await self._app(scope, bounded_receive, guarded_send)


class TrustedHosts(TrustedHostMiddleware):
    """ASGI middleware: Host is this machine's own, unless the gate of the local network has looked at it."""

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass the request on, or refuse its host."""
        if DEVICE in scope:
            await self.app(scope, receive, send)
        else:
            await super().__call__(scope, receive, send)


class DatabaseWatch:
    """ASGI middleware: nothing is read from, or written to, a database whose file was replaced or deleted meanwhile, or that is
    another one than the page was loaded from.

    The application would go on with the file that it opened, and whatever it called saved would be gone when it ends.
    """

    def __init__(self, app: ASGIApp, database: Path, name: str) -> None:
        self._app = app
        self._database = database
        self._name = name
        self._opened = self._now()

    def _now(self) -> tuple[int, int] | None:
        try:
            found = os.stat(self._database)
        except OSError:
            return None
        return found.st_dev, found.st_ino

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass the request on while the file is the one that was opened."""
        is_asked = scope["type"] == "http" and scope["path"].startswith("/api/") and scope["path"] != "/api/health"
        if is_asked and self._now() != self._opened:
            await refuse(
                send, 503, "database_replaced",
                f"{self._database} was replaced, moved or deleted while Sapolin runs (a synced folder does that). Nothing was "
                "saved. End Sapolin, put the right file there, and start it again.",
            )  # fmt: skip
            return
        meant = Headers(scope=scope).get(DATABASE_HEADER) if is_asked else None
        if meant and meant != self._name:
            await refuse(
                send, 409, "another_database",
                "Another workshop is served at this address by now, so nothing was read or saved. Load the page again; what "
                "was not saved stays on this device until its own workshop is back.",
            )  # fmt: skip
            return
        await self._app(scope, receive, send)
