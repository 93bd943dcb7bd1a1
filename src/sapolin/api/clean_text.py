"""Text that is sent to be kept, without signs that nobody sees and that break what shows it: NUL and other controls, marks that
turn the direction of writing, halves of letters.

A name with a turning mark would be read wrongly on a label, in a list, in a file's name; a half letter cannot be written to a
file at all. They come along when something is copied from elsewhere, so they are taken out and not refused.
"""

import json
import re
from typing import Any

from starlette.datastructures import Headers
from starlette.types import ASGIApp, Message, Receive, Scope, Send

__all__ = ["CleanText", "without_hidden_signs"]

_HIDDEN = re.compile(
    "[\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f"  # controls, but for tab and line ends
    "\u061c\u200e\u200f\u202a-\u202e\u2066-\u2069"  # marks of direction
    "\ufff9-\ufffb\ufeff\ud800-\udfff]"  # of annotation, of byte order; halves of letters
)
_SUSPECT = re.compile(
    rb"\\u|\xd8\x9c|\xc2[\x80-\x9f]|\xe2\x80[\x8e\x8f\xaa-\xae]|\xe2\x81[\xa6-\xa9]|\xef\xbf[\xb9-\xbb]|\xef\xbb\xbf|\x7f"
)
"""Where a body holds none of these bytes there is nothing to take out, and it passes as it is."""


def without_hidden_signs(text: str) -> str:
    """The text as it can be seen.

    >>> without_hidden_signs("oli\\u202eve\\x00 oil")
    'olive oil'
    """
    return _HIDDEN.sub("", text)


def _cleaned(value: Any) -> Any:
    if isinstance(value, str):
        return without_hidden_signs(value)
    if isinstance(value, list):
        return [_cleaned(one) for one in value]
    if isinstance(value, dict):
        return {without_hidden_signs(name): _cleaned(one) for name, one in value.items()}
    return value


def _cleaned_body(body: bytes) -> bytes:
    if _SUSPECT.search(body) is None:
        return body
    try:
        return json.dumps(_cleaned(json.loads(body)), ensure_ascii=False).encode()
    except (ValueError, RecursionError):
        return body  # Whoever reads it says what is wrong with it.


class CleanText:
    """ASGI middleware: JSON arrives without hidden signs."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass the request on, its body cleaned where it is JSON."""
        if scope["type"] != "http" or not Headers(scope=scope).get("content-type", "").startswith("application/json"):
            await self._app(scope, receive, send)
            return
        parts: list[bytes] = []
        is_whole = False

        async def receive_clean() -> Message:
            nonlocal is_whole
            while not is_whole:
                message = await receive()
                if message["type"] != "http.request":
                    return message
                parts.append(message.get("body", b""))
                if not message.get("more_body", False):
                    is_whole = True
                    return {"type": "http.request", "body": _cleaned_body(b"".join(parts)), "more_body": False}
            return await receive()

        await self._app(scope, receive_clean, send)
