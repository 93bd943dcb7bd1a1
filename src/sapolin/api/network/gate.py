"""Who may pass from the local network: devices that were paired, as far as each may reach, and no faster than a person.

The gate stands before the whole application where it listens on the network. Each request must come from a local address, name
a host that is this machine's, and carry the key of a paired device. Without one there is a page that takes a pairing code, and
nothing else.
"""

import asyncio
from collections.abc import Callable
from html import escape
from http.cookies import CookieError, SimpleCookie
from importlib.resources import files
from re import compile as pattern
from time import monotonic
from urllib.parse import parse_qs

from starlette.concurrency import run_in_threadpool
from starlette.datastructures import Headers
from starlette.responses import HTMLResponse, JSONResponse, RedirectResponse, Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from sapolin.api.errors import PAGE_HEADERS, ApiError, ErrorBody
from sapolin.api.network.addresses import host_of, is_local
from sapolin.api.network.limits import Allowance, Allowances
from sapolin.store.pairing import ACCESS_LASTS, NoOfferError, PairedDevice, Pairing, WrongCodeError

__all__ = ["DEVICE", "KEY_COOKIE", "Gate"]

DEVICE = "sapolin.device"
"""In the scope of a request that passed: the device that asked."""
KEY_COOKIE = "__Host-sapolin-device"
"""The prefix binds it to this host and to TLS."""
MOST_FORM_BYTES = 2000
FORM_SECONDS = 15

_MAKE_AND_RACK = (
    (
        "GET",
        r"health|reference|glossary|oils(/[^/]+)?|materials|oil-notes|moulds|criteria|workshop|devices(/stream)?|trays|today|coming|"
        r"guide/.+|faults|batches|batches/[^/]+(/(run|progress|record|lots|deviation/[^/]+|cure|tests|sheet|sheet\.(pdf|md|csv)|"
        r"tray-label\.pdf|photos/[^/]+))?|formulas/[^/]+/next-time|pastes|practice(/[^/]+/\d+)?|preparations|preparations/[^/]+(/(run|record))?",
    ),
    (
        "POST",
        r"batches/[^/]+/(events|tare|photos|cure/events|cure/pictures)|preparations/[^/]+/(events|tare)|faults/rank|"
        r"devices/(scale|thermometer)/play|amounts/[^/]+|today/put-off|practice/[^/]+/\d+",
    ),
    ("PUT", r"trays/[^/]+"),
    ("DELETE", r"trays/[^/]+"),
)  # fmt: skip
"""What a device for make day and rack asks of the API: to read batches and what explains them, to weigh, and to follow bars."""
_MAKE_AND_RACK_PATHS = {method: pattern(f"/api/({paths})") for method, paths in _MAKE_AND_RACK}
_MAIN_SCREEN_ONLY = pattern(r"/api/(safekeeping|demo|paired-devices)(/.*)?")
"""Backups, the demo's reset and other devices: only on the machine itself."""


def may_reach(device: PairedDevice, method: str, path: str) -> bool:
    """Whether a device may ask for this. Pages and their files are for every paired device."""
    if not path.startswith("/api/"):
        return True
    if _MAIN_SCREEN_ONLY.fullmatch(path):
        return False
    if device.reach == "everything":
        return True
    allowed = _MAKE_AND_RACK_PATHS.get("GET" if method == "HEAD" else method)
    return allowed is not None and allowed.fullmatch(path) is not None


class _AccessEndedError(OSError):
    """The device's access ended while it was being answered."""


class Gate:
    """ASGI application around another, for the listeners on the local network."""

    def __init__(
        self, app: ASGIApp, pairing: Pairing, hosts: frozenset[str], clock: Callable[[], float] = monotonic
    ) -> None:  # fmt: skip
        self._app = app
        self._pairing = pairing
        self._hosts = hosts
        self._paired = Allowances(Allowance(burst=400, per_second=80), clock)
        self._strangers = Allowances(Allowance(burst=40, per_second=2), clock)
        self._tries = Allowances(Allowance(burst=8, per_second=1 / 30), clock)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass the request on, show the pairing page, or refuse."""
        if scope["type"] == "lifespan":
            raise RuntimeError("The application behind the gate is started where it listens on this machine.")
        if scope["type"] != "http":
            await send({"type": "websocket.close", "code": 1008})
            return
        headers = Headers(scope=scope)
        client = scope["client"][0] if scope.get("client") else ""
        refused = self._refused(client, headers)
        if refused is not None:
            await refused(scope, receive, send)
            return
        device = await run_in_threadpool(self._pairing.device_with, _key_in(headers))
        if device is None:
            answer = await self._stranger(scope, receive, client, headers)
            await answer(scope, receive, send)
            return
        if not self._paired.allows(device.id):
            await _too_fast(self._paired)(scope, receive, send)
        elif scope["path"] == "/pair":
            await _redirect("/")(scope, receive, send)
        elif not may_reach(device, scope["method"], scope["path"]):
            await _refusal(
                403, "not_for_this_device",
                f"“{device.name}” is not meant for this: it was paired for "
                f"{'make day and rack' if device.reach == 'make_and_rack' else 'all but backups and devices'}. "
                "Do it on the main screen, or give the device more there.",
            )(scope, receive, send)  # fmt: skip
        else:
            await self._pass(device, scope, receive, send)

    def _refused(self, client: str, headers: Headers) -> Response | None:
        if not is_local(client):
            return _refusal(403, "not_local", "Sapolin answers devices of its own local network only.")
        if host_of(headers.get("host", "")) not in self._hosts:
            return _refusal(
                400, "wrong_host", "Sapolin is not at this address. Open the one that the main screen shows."
            )  # fmt: skip
        return None

    async def _stranger(self, scope: Scope, receive: Receive, client: str, headers: Headers) -> Response:
        """What a device without a key gets."""
        if not self._strangers.allows(client):
            return _too_fast(self._strangers)
        path, method = scope["path"], scope["method"]
        if path == "/pair" and method == "POST":
            return await self._pair(receive, client, headers)
        if path == "/pair" and method in ("GET", "HEAD"):
            asked = parse_qs(scope["query_string"].decode("ascii", "replace"), max_num_fields=10)
            return _pairing_page(code=asked.get("code", [""])[0][:20])
        if path.startswith(("/api/", "/assets/")) or method not in ("GET", "HEAD"):
            return _refusal(401, "not_paired", "This device is not paired, or its access has ended. Pair it again.")
        return _redirect("/pair")

    async def _pair(self, receive: Receive, client: str, headers: Headers) -> Response:
        origin = headers.get("origin", "")
        if origin.partition("://")[2].lower() != headers.get("host", "").lower():
            return _refusal(403, "wrong_origin", "Only the pairing page itself may ask for this.")
        if not self._tries.allows(client):
            return _pairing_page(429, "Too many tries from this device. Wait half a minute, then type the code again.")
        form = await _form(receive)
        if form is None:
            return _refusal(413, "too_long", "That is no pairing code.")
        code = form.get("code", [""])[0][:40]
        try:
            device, key = await run_in_threadpool(self._pairing.accept, code)
        except NoOfferError:
            return _pairing_page(
                403, "No code is open now: a code lasts ten minutes and pairs one device. Ask for a new one on the main screen."
            )  # fmt: skip
        except WrongCodeError:
            return _pairing_page(403, "That is not the code on the main screen. Look again; it has eight signs.", code)
        answer = _redirect("/batches" if device.reach == "make_and_rack" else "/")
        answer.set_cookie(
            KEY_COOKIE,
            key,
            max_age=int(ACCESS_LASTS.total_seconds()),
            path="/",
            secure=True,
            httponly=True,
            samesite="strict",
        )
        return answer

    async def _pass(self, device: PairedDevice, scope: Scope, receive: Receive, send: Send) -> None:
        """To the application. Where access ends while an answer runs on, as readings of the scale do, it stops."""

        async def checked_send(message: Message) -> None:
            if not self._pairing.has_access(device.id):
                raise _AccessEndedError
            await send(message)

        try:
            await self._app({**scope, DEVICE: device}, receive, checked_send)
        except Exception:
            if self._pairing.has_access(device.id):
                raise


def _key_in(headers: Headers) -> str:
    try:
        found = SimpleCookie(headers.get("cookie", "")).get(KEY_COOKIE)
    except CookieError:
        return ""
    return found.value if found is not None else ""


async def _form(receive: Receive) -> dict[str, list[str]] | None:
    """The form of a request, or None when it is too long or never ends."""
    body = b""
    try:
        async with asyncio.timeout(FORM_SECONDS):
            while True:
                message = await receive()
                body += message.get("body", b"")
                if len(body) > MOST_FORM_BYTES or message["type"] == "http.disconnect":
                    return None
                if not message.get("more_body", False):
                    return parse_qs(body.decode("ascii", "replace"), max_num_fields=10)
    except (TimeoutError, ValueError):
        return None


def _refusal(status: int, code: str, message: str) -> Response:
    body = ErrorBody(error=ApiError(code=code, message=message)).model_dump(mode="json")
    return JSONResponse(body, status, PAGE_HEADERS)


def _too_fast(allowances: Allowances) -> Response:
    answer = _refusal(429, "too_fast", "This device asks more than Sapolin can answer. Wait a few seconds and go on.")
    answer.headers["retry-after"] = str(allowances.seconds_to_wait)
    return answer


def _redirect(to: str) -> Response:
    return RedirectResponse(to, 303, PAGE_HEADERS | {"cache-control": "no-store"})


def _pairing_page(status: int = 200, problem: str = "", code: str = "") -> Response:
    page = files("sapolin.api.network").joinpath("pairing.html").read_text(encoding="utf-8")
    shown = f'<p class="problem" role="alert" id="problem">{escape(problem)}</p>' if problem else ""
    content = page.replace("<!-- problem -->", shown).replace("<!-- code -->", escape(code, quote=True))
    # With no-referrer, as elsewhere, a browser would not say where the form was sent from.
    return HTMLResponse(content, status, PAGE_HEADERS | {"cache-control": "no-store", "referrer-policy": "same-origin"})
