"""The pages: the built front end, each file sent as it was compressed when it was built, and kept by the browser for good
when its name holds a hash of its content."""

from mimetypes import guess_type
from pathlib import Path

from fastapi import FastAPI, Request
from fastapi.responses import FileResponse
from starlette.responses import Response

from sapolin.api.errors import Refusal

__all__ = ["serve_pages"]

COMPRESSED = (("br", ".br"), ("gzip", ".gz"))
"""Ways a file may lie beside itself, the smaller first."""
FOR_GOOD = "public, max-age=31536000, immutable"
ASK_AGAIN = "no-cache"


def _sent(path: Path, accepted: str, keep: str) -> Response:
    media_type = guess_type(path.name)[0] or "application/octet-stream"
    headers = {"cache-control": keep, "vary": "accept-encoding"}
    offered = {one.split(";")[0].strip() for one in accepted.split(",")}
    for encoding, ending in COMPRESSED:
        compressed = path.with_name(path.name + ending)
        if encoding in offered and compressed.is_file():
            return FileResponse(compressed, media_type=media_type, headers=headers | {"content-encoding": encoding})
    return FileResponse(path, media_type=media_type, headers=headers)


def serve_pages(app: FastAPI, web: Path) -> None:
    """Send the files in `web`; every other address is one within the front end."""
    files = {
        path.relative_to(web).as_posix(): path
        for path in web.rglob("*")
        if path.is_file() and path.suffix not in (".br", ".gz")
    }

    @app.api_route("/{path:path}", methods=["GET", "HEAD"], include_in_schema=False)
    def page(path: str, request: Request) -> Response:
        accepted = request.headers.get("accept-encoding", "")
        if path.startswith("api/"):
            raise Refusal(404, "not_found", f"There is no /{path}.")
        if path in files:
            return _sent(files[path], accepted, FOR_GOOD if path.startswith("assets/") else ASK_AGAIN)
        if path.startswith("assets/"):
            # A page of an earlier build asks for a file that is gone: it has to be loaded anew.
            raise Refusal(404, "not_found", "There is no such file in this build. Load the page again.")
        return _sent(web / "index.html", accepted, ASK_AGAIN)
