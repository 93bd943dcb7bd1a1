"""What is sent again is done once: every POST may name a key, and a key belongs to one filled form.

The key is the header `Idempotency-Key`, or what a record's own entries call `key`. Sent again with the same content it changes
nothing and is answered as before; with other content it is refused. It is noted in the transaction that does what is asked for,
so that an ended server makes no difference.
"""

import asyncio
import json
from collections import OrderedDict
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from dataclasses import dataclass, field
from hashlib import sha256
from typing import Any
from urllib.parse import parse_qs

from starlette.concurrency import run_in_threadpool
from starlette.datastructures import Headers
from starlette.exceptions import HTTPException
from starlette.responses import Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from sapolin.api.errors import refuse
from sapolin.store.transactions import SENDING, Sending, Sent, SentStore

__all__ = ["KEY_HEADER", "KeyedPosts"]

KEY_HEADER = "idempotency-key"
LEAST_KEY, MOST_KEY = 8, 64
MOST_ANSWER = 300_000
"""Characters of an answer that is kept for whoever asks again."""
MOST_REMEMBERED = 200
"""Answers of what writes to no table, such as a backup taken: kept while the application runs."""
FOLLOWS = frozenset({"after_seq", "plan_revision"})
"""What a device may say otherwise when it sends an entry again: what it has seen of the record by then."""
STREAMED = frozenset({"/api/safekeeping/archive"})
"""Bodies too large to be looked at before they are worked on; their length stands for them."""


@dataclass
class _Busy:
    """Requests of one key, one after the other."""

    lock: asyncio.Lock = field(default_factory=asyncio.Lock)
    waiting: int = 0


class KeyedPosts:
    """ASGI middleware: a POST with a key is done once."""

    def __init__(self, app: ASGIApp, sent: SentStore) -> None:
        self._app = app
        self._sent = sent
        self._busy: dict[str, _Busy] = {}
        self._remembered: OrderedDict[str, Sent] = OrderedDict()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass the request on, or answer it as it was answered before."""
        if scope["type"] != "http" or scope["method"] != "POST" or not scope["path"].startswith("/api/"):
            await self._app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        given = headers.get(KEY_HEADER)
        if scope["path"] in STREAMED:
            body, again = headers.get("content-length", "").encode(), receive
        else:
            body, again = await _whole(receive)
        said = _json(body) if headers.get("content-type", "").startswith("application/json") else None
        own = given is None
        key = _own_key(scope, said) if given is None else given
        if key is None:
            await self._app(scope, again, send)
        elif not own and not LEAST_KEY <= len(key) <= MOST_KEY:
            await refuse(send, 422, "key_malformed", f"A key has {LEAST_KEY} to {MOST_KEY} characters.")
        else:
            async with self._alone(key):
                await self._once(key, _digest(scope, said, body), own, scope, again, send)

    @asynccontextmanager
    async def _alone(self, key: str) -> AsyncIterator[None]:
        busy = self._busy.setdefault(key, _Busy())
        busy.waiting += 1
        try:
            async with busy.lock:
                yield
        finally:
            busy.waiting -= 1
            if busy.waiting == 0:
                del self._busy[key]

    async def _once(self, key: str, digest: str, own: bool, scope: Scope, receive: Receive, send: Send) -> None:
        before = self._remembered.get(key) or await run_in_threadpool(self._sent.find, key)
        if before is not None and before.digest != digest:
            await refuse(
                send, 409, "key_used",
                "This key was used for something else already, so nothing was done. Load the page again, look whether what you "
                "entered is there, and send it anew if it is not.",
            )  # fmt: skip
            return
        if before is not None and before.answer is not None:
            again = Response(before.answer, before.status, {"idempotency-replayed": "true"}, "application/json")
            await again(scope, receive, send)
            return
        if before is not None and not own:
            await refuse(
                send, 409, "done_already",
                "This was done the first time it was sent; only its answer was lost. Load the page again to see it.",
            )  # fmt: skip
            return
        # What belongs to a record is known there by the same key, and answered with the record as it is now.
        sending = Sending(key, digest, is_noted=before is not None)
        status, answer = 0, bytearray()

        async def heard(message: Message) -> None:
            nonlocal status
            if message["type"] == "http.response.start":
                status = message["status"]
            elif len(answer) <= MOST_ANSWER:
                answer.extend(message.get("body", b""))
            await send(message)

        token = SENDING.set(sending)
        try:
            await self._app(scope, receive, heard)
        finally:
            SENDING.reset(token)
            if before is None:
                await self._keep(sending, own, status, bytes(answer))

    async def _keep(self, sending: Sending, own: bool, status: int, answer: bytes) -> None:
        is_done = 200 <= status < 300
        text = answer.decode("utf-8", "replace") if is_done and not own and len(answer) <= MOST_ANSWER else None
        if sending.is_noted and not is_done:
            await run_in_threadpool(self._sent.forget, sending.key)
        elif sending.is_noted and text is not None:
            await run_in_threadpool(self._sent.keep_answer, sending.key, status, text)
        elif text is not None:
            self._remembered[sending.key] = Sent(sending.digest, status, text)
            while len(self._remembered) > MOST_REMEMBERED:
                self._remembered.popitem(last=False)


async def _whole(receive: Receive) -> tuple[bytes, Receive]:
    """The body, and a way to receive it once more."""
    parts: list[bytes] = []
    while True:
        try:
            message = await receive()
        except HTTPException as error:  # Too long, or too slow: said where errors are put into words.
            return b"", _raising(error)
        if message["type"] != "http.request":
            return b"".join(parts), _told([message], receive)
        parts.append(message.get("body", b""))
        if not message.get("more_body", False):
            body = b"".join(parts)
            return body, _told([{"type": "http.request", "body": body, "more_body": False}], receive)


def _told(first: list[Message], receive: Receive) -> Receive:
    async def told() -> Message:
        return first.pop(0) if first else await receive()

    return told


def _raising(error: HTTPException) -> Receive:
    async def told() -> Message:
        raise error

    return told


def _json(body: bytes) -> Any:
    try:
        return json.loads(body)
    except (ValueError, RecursionError):
        return None  # Whoever reads it says what is wrong with it.


def _own_key(scope: Scope, said: Any) -> str | None:
    """What an entry of a record calls its key, and which record: other records may have the same."""
    named = said.get("key") if isinstance(said, dict) else None
    in_query = parse_qs(scope["query_string"].decode("latin-1")).get("key", [None])[0]
    key = named if isinstance(named, str) else in_query
    # One that is no key is refused by whoever reads it.
    if key is None or not LEAST_KEY <= len(key) <= MOST_KEY:
        return None
    return f"{sha256(scope['path'].encode()).hexdigest()[:15]}:{key}"


def _digest(scope: Scope, said: Any, body: bytes) -> str:
    """Of what is asked for: address and content, in whatever order its entries stand."""
    content = body
    if isinstance(said, dict):
        asked = {name: value for name, value in said.items() if name not in FOLLOWS}
        content = json.dumps(asked, sort_keys=True).encode()
    where = scope["path"].encode() + b"?" + scope["query_string"]
    return sha256(where + b"\n" + content).hexdigest()
