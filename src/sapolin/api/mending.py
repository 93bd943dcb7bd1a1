"""The start-up page: shown in place of the application while its database cannot be opened.

It says what is wrong and what the doctor can read, and offers what mends it: a backup put in place, what can be read saved into
a fresh file, or another try after the maker put something right. The damaged file is always kept.
"""

from collections.abc import Callable
from datetime import datetime
from html import escape
from importlib.resources import files
from pathlib import Path
from threading import Lock
from urllib.parse import parse_qs

from starlette.applications import Starlette
from starlette.concurrency import run_in_threadpool
from starlette.middleware import Middleware
from starlette.middleware.trustedhost import TrustedHostMiddleware
from starlette.requests import Request
from starlette.responses import HTMLResponse, Response
from starlette.routing import Route

from sapolin.api.errors import PAGE_HEADERS
from sapolin.api.guard import LOOPBACK
from sapolin.store.backup import BackupError, Backups
from sapolin.store.database import DatabaseFaultError, bring_up_to_date
from sapolin.store.doctor import Examined, examine, newest_sound_backup, salvage

__all__ = ["mending_app"]

MOST_FORM_BYTES = 200


def mending_app(database: Path, fault: str, done: Callable[[], None]) -> Starlette:
    """The page about `fault`; `done` is called when something was mended and the application is worth another try."""
    one_at_a_time = Lock()

    def mend(how: str) -> str:
        with one_at_a_time:
            if how == "backup":
                file = newest_sound_backup(database)
                if file is None:
                    raise BackupError("There is no whole backup.")
                aside = Backups(database).put_in_place(file)
                bring_up_to_date(database)
                kept = "" if aside is None else f" What was there is kept as {aside.name}."
                return f"The backup {file.name} is in place.{kept}"
            if how == "salvage":
                _, aside = salvage(database)
                return f"What could be read is saved. The damaged file is kept as {aside.name}."
            return "Another try."

    async def show(_request: Request) -> Response:
        return _page(503, await run_in_threadpool(_state, database, fault))

    async def act(request: Request) -> Response:
        if request.headers.get("origin", "").partition("://")[2].lower() != request.headers.get("host", "").lower():
            return _page(403, "<h1>Only this page itself may ask for that.</h1>")
        body = b""
        async for part in request.stream():
            body += part
            if len(body) > MOST_FORM_BYTES:
                return _page(413, "<h1>That was not understood.</h1>")
        how = parse_qs(body.decode("ascii", "replace")).get("how", [""])[0]
        try:
            said = await run_in_threadpool(mend, how)
        except (BackupError, DatabaseFaultError) as error:
            return _page(503, await run_in_threadpool(_state, database, str(error)))
        done()
        return _page(200, f"<h1>{escape(said)}</h1><p>Sapolin opens in a moment.</p>", refresh=True)

    return Starlette(
        routes=[Route("/mend", act, methods=["POST"]), Route("/{path:path}", show, methods=["GET"])],
        middleware=[Middleware(TrustedHostMiddleware, allowed_hosts=LOOPBACK, www_redirect=False)],
    )


def _page(status: int, content: str, *, refresh: bool = False) -> Response:
    page = files("sapolin.api").joinpath("mending.html").read_text(encoding="utf-8")
    page = page.replace("<!-- content -->", content)
    if refresh:
        page = page.replace("<!-- refresh -->", '<meta http-equiv="refresh" content="2;url=/">')
    return HTMLResponse(page, status, PAGE_HEADERS | {"cache-control": "no-store", "referrer-policy": "same-origin"})


def _button(how: str, words: str, kind: str = "") -> str:
    return (
        f'<form method="post" action="/mend"><input type="hidden" name="how" value="{how}">'
        f'<button class="{kind}" type="submit">{words}</button></form>'
    )


def _state(database: Path, fault: str) -> str:
    """What is wrong and what can be done, as the inside of the page."""
    seen = examine(database)
    readable = sum(one.rows for one in seen.tables)
    sound = newest_sound_backup(database)
    parts = [
        "<h1>Sapolin cannot open its data</h1>",
        f"<p>{escape(fault)}</p>",
        "<p>Nothing was changed. Choose what to do; whatever you choose, the file as it is now is kept beside the new one.</p>",
    ]
    if sound is not None:
        taken = next(one.taken_at for one in Backups(database).all() if one.name == sound.name)
        day = datetime.fromisoformat(taken).astimezone().strftime("%d %B %Y, %H:%M").lstrip("0")
        parts.append(
            f"<section><h2>Put the newest whole backup in place</h2><p>It was taken on {escape(day)}. What was entered after "
            f"that is not in it.</p>{_button('backup', 'Put the backup in place')}</section>"
        )
    if readable:
        lost = sum(one.unreadable for one in seen.tables)
        missing = f" At least {lost} cannot be read and would be missing." if lost else ""
        parts.append(
            f"<section><h2>Save what can be read</h2><p>{readable} rows can be read.{missing}</p>{_table(seen)}"
            f"{_button('salvage', 'Save what can be read', '' if sound is None else 'plain')}</section>"
        )
    parts.append(
        "<section><h2>Try again</h2><p>When you have put something right yourself: a file moved back, another program ended, "
        f"room made on the disk.</p>{_button('again', 'Try again', 'plain')}</section>"
    )
    parts += (f'<p class="muted">{escape(warning)}</p>' for warning in (*seen.faults, *seen.warnings))
    return "".join(parts)


def _table(seen: Examined) -> str:
    rows = "".join(
        f"<tr><td>{escape(one.what)}</td><td>{one.rows}</td><td>{one.unreadable or ''}</td></tr>"
        for one in seen.tables
        if one.rows or one.unreadable
    )
    return (
        "<details><summary>What can be read, kind by kind</summary><table><thead><tr><th>What</th><th>Can be read</th>"
        f"<th>Cannot</th></tr></thead><tbody>{rows}</tbody></table></details>"
    )
