"""Starts Sapolin as a user would and drives it in a real Chromium."""

import json
import os
import re
import socket
import time
from collections.abc import Iterator
from contextlib import contextmanager
from multiprocessing.context import ForkServerProcess
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any
from urllib.parse import urlsplit
from weakref import WeakKeyDictionary

import psutil
from playwright.sync_api import Browser, Locator, Page, Playwright, Request, expect
from playwright.sync_api import TimeoutError as PlaywrightTimeout

from demo_copy import put_demo
from forks import FORKS, sapolin, serve_printing

ROOT = Path(__file__).resolve().parents[2]
CHROMIUM = "/usr/bin/chromium"
FLAGS = [
    "--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run",
    "--disable-background-networking", "--disable-component-update", "--disable-sync",
]  # fmt: skip


PORTS = range(20_000, 30_000)
"""Below those that the system gives to connections: no connection can stand where a server is to start again."""


def free_port() -> int:
    """One that nobody listens on, the same for walk after walk: what a browser has compiled it keeps for its address."""
    worker = int(os.environ.get("PYTEST_XDIST_WORKER", "gw0").removeprefix("gw"))
    for port in PORTS[100 * worker :]:
        with socket.socket() as trying:
            trying.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                trying.bind(("127.0.0.1", port))
            except OSError:
                continue
            return port
    raise AssertionError("no port is free")


class Server:
    """A running `sapolin serve` in a process of its own, always on the port that was free when it was made."""

    def __init__(self, data: Path, *, demo: bool = True) -> None:
        self._data = data
        self._demo = demo
        self._port = free_port()
        self._process: ForkServerProcess | None = None
        self.url = ""

    def start(self) -> None:
        """Start, and wait until it answers."""
        self._printed, printed = FORKS.Pipe(duplex=False)  # Held open for as long as the server may print.
        self._process = FORKS.Process(
            target=serve_printing, args=(self._port, self._data, self._demo, printed), daemon=True
        )
        self._process.start()
        printed.close()
        with os.fdopen(os.dup(self._printed.fileno()), encoding="utf-8") as lines:
            first_line = lines.readline()
        address = re.search(r"http://127\.0\.0\.1:\d+/", first_line)
        assert address, f"unexpected start: {first_line!r}"
        self.url = address.group()

    def memory_bytes(self) -> int:
        """What the process holds in memory, with what it shares with others."""
        assert self._process is not None
        return int(psutil.Process(self._process.pid).memory_info().rss)

    def kill(self) -> None:
        """End it without any chance to tidy up."""
        assert self._process is not None
        self._process.kill()
        self._process.join()
        self._printed.close()


@contextmanager
def running_server(*, demo: bool = True) -> Iterator[Server]:
    """A server on data of its own, gone afterwards."""
    with TemporaryDirectory() as data:
        if demo:
            put_demo(Path(data) / "demo.db")
        server = Server(Path(data), demo=demo)
        server.start()
        try:
            yield server
        finally:
            server.kill()


@contextmanager
def chromium(playwright: Playwright) -> Iterator[Browser]:
    """A real Chromium with a new user data directory, gone afterwards."""
    running = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
    try:
        yield running
    finally:
        running.close()


STILL = """async ([calm_ms, longest_ms]) => {
  const began = performance.now();
  let changed = began;
  const seen = new MutationObserver(() => (changed = performance.now()));
  seen.observe(document, { subtree: true, childList: true, attributes: true, characterData: true });
  const ends = () => document.getAnimations().filter((one) => one.effect.getComputedTiming().endTime !== Infinity);
  while (performance.now() - changed < calm_ms || ends().some((one) => one.playState === 'running')) {
    if (performance.now() - began > longest_ms) throw new Error('The page does not come to rest.');
    await new Promise((later) => setTimeout(later, 20));
  }
  seen.disconnect();
}"""
LONGEST_MS = 40_000
"""A page is waited for so long: the machine may be busy with other tests."""
CALM_MS = 120
"""Nothing asked for, nothing drawn and nothing moving for so long: what was to come has come."""
_under_way: WeakKeyDictionary[Page, set[Request]] = WeakKeyDictionary()


def _follow(page: Page) -> None:
    asked = _under_way.setdefault(page, set())

    def begins(request: Request) -> None:
        if request.resource_type != "eventsource":  # It goes on for as long as the page is there.
            asked.add(request)

    def ends(request: Request) -> None:
        asked.discard(request)

    page.on("request", begins)
    page.on("requestfinished", ends)
    page.on("requestfailed", ends)


def still(page: Page, calm_ms: float = CALM_MS) -> None:
    """Wait until a page of `new_page` has all it asked for, has drawn it, and nothing on it moves."""
    until = time.monotonic() + LONGEST_MS / 1000
    page.evaluate(STILL, [calm_ms, LONGEST_MS])
    while asked := _under_way[page]:
        assert time.monotonic() < until, f"not answered: {[request.url for request in asked]}"
        page.wait_for_timeout(20)
        page.evaluate(STILL, [calm_ms, LONGEST_MS])


def _page(running: Browser, *, takes_itself: bool, **of_context: Any) -> Page:
    context = running.new_context(timezone_id="UTC", locale="en-GB", **of_context)
    context.set_default_timeout(LONGEST_MS)
    taken = json.dumps(json.dumps(takes_itself))
    kept = f"localStorage.setItem('sapolin.make-takes-itself', {taken}); localStorage.setItem('sapolin.faces', 'here')"
    context.add_init_script(f"try {{ {kept} }} catch {{}}")
    page = context.new_page()
    _follow(page)
    return page


@contextmanager
def new_page(
    running: Browser,
    *,
    width: int = 1280,
    height: int = 800,
    scheme: str = "light",
    takes_itself: bool = False,
    has_touch: bool = False,
) -> Iterator[Page]:
    """A page that shares nothing with other pages: no cache, no storage. Walks take their weights by hand, unless a right one
    `takes_itself`, and have the application's own typefaces from the start, as on every visit but the first.
    """
    size = {"width": width, "height": height}
    page = _page(running, takes_itself=takes_itself, has_touch=has_touch, viewport=size, color_scheme=scheme)
    try:
        yield page
    finally:
        page.context.close()


_left: WeakKeyDictionary[Browser, dict[tuple[bool, bool], list[Page]]] = WeakKeyDictionary()


@contextmanager
def lent_page(
    running: Browser,
    *,
    width: int = 1280,
    height: int = 800,
    takes_itself: bool = False,
    has_touch: bool = False,
) -> Iterator[Page]:
    """A page of `new_page` that another walk has left: the code of the application is compiled there, half of what opening it
    costs. What that walk kept in it is gone.
    """
    waiting = _left.setdefault(running, {}).setdefault((takes_itself, has_touch), [])
    page = waiting.pop() if waiting else _page(running, takes_itself=takes_itself, has_touch=has_touch)
    page.set_viewport_size({"width": width, "height": height})
    try:
        yield page
        _empty(page)
    except BaseException:
        page.context.close()
        raise
    waiting.append(page)


def _empty(page: Page) -> None:
    for other in page.context.pages:
        if other != page:
            other.close()
    origin = page.evaluate("location.origin")
    page.emulate_media(color_scheme="light")
    page.goto("about:blank")
    _under_way[page].clear()
    page.context.clear_cookies()
    if origin != "null":
        page.context.new_cdp_session(page).send("Storage.clearDataForOrigin", {"origin": origin, "storageTypes": "all"})


def go(page: Page, address: str) -> None:
    """To a screen. Once the application is open on the page nothing is loaded anew, which takes a second: it is led there as by
    a link.
    """
    if urlsplit(page.url).netloc != urlsplit(address).netloc:
        page.goto(address)
    else:
        page.evaluate(
            "to => { history.pushState(null, '', to); dispatchEvent(new PopStateEvent('popstate')); }", address
        )


def open_formula(page: Page, url: str, name: str = "Hut guest bar") -> None:
    """Find a formula in the list, open it, and wait for its result."""
    go(page, f"{url}formulas")
    page.get_by_test_id("search").fill(name)
    link = page.get_by_role("link", name=name, exact=True)
    link.click()
    try:
        page.wait_for_url(re.compile(r"/formulas/[0-9a-f]+"), timeout=10_000)
    except PlaywrightTimeout:
        # What was found came between pressing and letting go: the row under the pointer was another one.
        link.click()
    page.wait_for_selector("[data-freshness=fresh], [data-freshness=stopped]")
    # What stands further down is drawn, and its code fetched, after that.
    page.get_by_test_id("tab-lye").wait_for(state="attached")


def pick(page: Page, opener: Locator, option: str, *, exact: bool = False) -> None:
    """Open a list and choose from it.

    The page may still be growing above the list: it then moves, or hides because its field left the view,
    and is opened again as a person would.
    """
    wanted = page.get_by_role("option", name=option, exact=exact)
    for _ in range(4):
        opener.click()
        try:
            wanted.click(timeout=5000)
        except PlaywrightTimeout:
            page.keyboard.press("Escape")
        else:
            return
    wanted.click()


def shown(page: Page, test_id: str) -> float:
    """The number in an element or field, as a float."""
    element = page.get_by_test_id(test_id)
    text = element.input_value() if element.evaluate("e => e.tagName") == "INPUT" else element.inner_text()
    digits = "".join(c for c in text.replace("−", "-") if c.isdigit() or c in ".-")
    return float(digits)


def settle(page: Page, freshness: str = "fresh") -> None:
    """Wait until the result belong to what is entered and all of it is saved."""
    expect(page.get_by_test_id("formula-state")).to_have_attribute("data-freshness", freshness)
    expect(page.get_by_test_id("save-state")).to_have_attribute("data-kind", "saved")


def drag(page: Page, what: Locator, right: float = 0, down: float = 0) -> tuple[float, float]:
    """Take it by its middle, once it stands still, and let it go further right and down, px; tells where it was taken."""
    what.hover()
    box = what.bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.down()
    page.mouse.move(x + right, y + down, steps=6)
    page.mouse.up()
    return x, y


def calc(page: Page, server: Server) -> dict:
    """What the command line calculates from the formula that the server keeps."""
    formula_id = page.url.rsplit("/", 1)[1]
    document = page.request.get(f"{server.url}api/formulas/{formula_id}/document").text()
    return json.loads(sapolin("calc", "-", stdin=document).stdout)
