"""The pages: the built front end, each file sent as it was compressed when it was built, and kept by the browser for good
when its name holds a hash of its content."""

import json
import re
from contextlib import suppress
from dataclasses import dataclass
from functools import cache
from html import escape
from mimetypes import guess_type
from pathlib import Path

from fastapi import FastAPI, Request
from sqlalchemy.exc import SQLAlchemyError
from starlette.responses import HTMLResponse, Response

from sapolin.api.errors import Refusal
from sapolin.api.network.gate import DEVICE, may_reach

__all__ = ["NAME", "TITLE", "serve_assets", "serve_pages"]

COMPRESSED = (("br", ".br"), ("gzip", ".gz"))
"""Ways a file may lie beside itself, the smaller first."""
FOR_GOOD = "public, max-age=31536000, immutable"
ASK_AGAIN = "no-cache"

CODE = "modulepreload; fetchpriority=low"
STYLE = "preload; as=style; crossorigin=anonymous"

TITLE = "<title>Sapolin</title>"
NAME = "<!--name-->"
"""Where the page takes the name of what it shows."""
DATABASE = '<meta name="sapolin-database" content="" />'
"""Where the page takes the name of the database that it is of."""
NAMED = {"formulaId": "formulas", "batchId": "batches", "preparationId": "preparations"}
"""Parts of addresses that say what a screen is of, and where the API keeps it."""

SCREENS = "screens.json"
"""What each screen needs: written by the build of the front end."""


@dataclass(frozen=True)
class Screen:
    """What one screen of the front end needs before any code has run: files beside those of the start, in their order, and what
    it asks the API for.

    `address` matches its addresses; what it asks for holds `:name` where the address has a part of its own.
    """

    address: re.Pattern[str]
    files: tuple[str, ...]
    asks: tuple[str, ...]

    @classmethod
    def read(cls, path: str, files: list[str], asks: list[str]) -> "Screen":
        """From its path in the routes, such as `formulas/:formulaId`."""
        parts = (
            f"(?P<{part[1:]}>[A-Za-z0-9_-]+)" if part.startswith(":") else re.escape(part) for part in path.split("/")
        )
        return cls(re.compile("/".join(parts)), tuple(files), tuple(asks))

    def link_header(self, own: dict[str, str], *, with_answers: bool) -> str:
        """All of it as a `Link` header (RFC 8288), so that it is on its way before any code has run.

        own: the address's own parts by name. with_answers: what it asks the API for too, where it asks for what is usual.
        """
        files = (f"</{file}>; rel={STYLE if file.endswith('.css') else CODE}" for file in self.files)
        answers = (re.sub(r":(\w+)", lambda part: own[part[1]], address) for address in self.asks)
        ahead = (f"<{address}>; rel=preload; as=fetch; crossorigin=anonymous" for address in answers)
        return ", ".join([*files, *(ahead if with_answers else ())])


def _screens(web: Path) -> list[Screen]:
    file = web / SCREENS
    return [Screen.read(**screen) for screen in json.loads(file.read_text("utf-8"))] if file.is_file() else []


def _sent(path: Path, accepted: str, keep: str, more: dict[str, str] | None = None) -> Response:
    media_type = guess_type(path.name)[0] or "application/octet-stream"
    headers = {"cache-control": keep, "vary": "accept-encoding"} | (more or {})
    offered = {one.split(";")[0].strip() for one in accepted.split(",")}
    for encoding, ending in COMPRESSED:
        compressed = path.with_name(path.name + ending)
        if encoding in offered and compressed.is_file():
            return Response(
                _content(compressed), media_type=media_type, headers=headers | {"content-encoding": encoding}
            )
    return Response(_content(path), media_type=media_type, headers=headers)


@cache
def _content(path: Path) -> bytes:
    """A build's files do not change, and all of them are a few MB."""
    return path.read_bytes()


def _files(folder: Path) -> dict[str, Path]:
    """The files in a folder by their addresses within it."""
    return {
        path.relative_to(folder).as_posix(): path
        for path in folder.rglob("*")
        if path.is_file() and path.suffix not in (".br", ".gz") and path.name != SCREENS
    }


def serve_assets(app: FastAPI, web: Path) -> None:
    """Send the files of `web` whose names hold a hash. A screen needs a dozen of them at once: this is to be the first route,
    so that none of the others is tried for them."""
    files = _files(web / "assets")

    async def asset(request: Request) -> Response:
        path = files.get(request.path_params["name"])
        if path is not None:
            with suppress(FileNotFoundError):
                return _sent(path, request.headers.get("accept-encoding", ""), FOR_GOOD)
        # A page of an earlier build asks for a file that is gone: it has to be loaded anew.
        raise Refusal(404, "not_found", "There is no such file in this build. Load the page again.")

    app.add_route("/assets/{name:path}", asset, include_in_schema=False)


def serve_pages(app: FastAPI, web: Path) -> None:
    """Send the other files in `web`; every address that is none of them is one within the front end: this is to be the last
    route."""
    files = _files(web)
    screens = _screens(web)

    @app.api_route("/{path:path}", methods=["GET", "HEAD"], include_in_schema=False)
    def page(path: str, request: Request) -> Response:
        accepted = request.headers.get("accept-encoding", "")
        if path.startswith("api/"):
            raise Refusal(404, "not_found", f"There is no /{path}.")
        if path in files:
            return _sent(files[path], accepted, ASK_AGAIN)
        for screen in screens:
            if match := screen.address.fullmatch(path):
                own = match.groupdict()
                links = screen.link_header(own, with_answers=not request.url.query)
                return _screen(web / "index.html", request, _name_of(own, request), {"link": links} if links else {})
        return _screen(web / "index.html", request, None, {})


def _name_of(own: dict[str, str], request: Request) -> str | None:
    """What the formula, batch or preparation of an address is called; null where that is not known, or not for who asks."""
    device = request.scope.get(DEVICE)
    for part, kind in NAMED.items():
        if part in own and (device is None or may_reach(device, "GET", f"/api/{kind}/{own[part]}")):
            with suppress(LookupError, SQLAlchemyError):
                return str(getattr(request.app.state.stores, kind).name(own[part]))
    return None


def _screen(index: Path, request: Request, name: str | None, headers: dict[str, str]) -> Response:
    """The page of a screen, which says of which database it is, and the name of what it shows, before any code has run."""
    text = _content(index).decode("utf-8")
    text = text.replace(DATABASE, DATABASE.replace('""', f'"{escape(request.app.state.database_name)}"'))
    if name is not None:
        said = escape(name)
        text = text.replace(TITLE, f"<title>{said} · Sapolin</title>").replace(NAME, said)
    return HTMLResponse(text, headers={"cache-control": ASK_AGAIN, **headers})
