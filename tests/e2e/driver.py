"""Starts Sapolin as a user would and drives it in a real Chromium."""

import json
import os
import re
import signal
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from tempfile import TemporaryDirectory

from playwright.sync_api import BrowserContext, Page, Playwright, expect

ROOT = Path(__file__).resolve().parents[2]
CHROMIUM = "/usr/bin/chromium"
FLAGS = [
    "--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run",
    "--disable-background-networking", "--disable-component-update", "--disable-sync",
]  # fmt: skip


class Server:
    """A running `sapolin serve` on a free port."""

    def __init__(self, data: Path, *, demo: bool = True) -> None:
        self._data = data
        self._demo = demo
        self._port = 0
        self._process: subprocess.Popen[str] | None = None
        self.url = ""

    def start(self) -> None:
        """Start, on the port of the last start if there was one, and wait until it answers."""
        command = [sys.executable, "-m", "sapolin", "serve", "--port", str(self._port), "--data", str(self._data)]
        command += ["--web", str(ROOT / "web" / "dist"), *(["--demo"] if self._demo else [])]
        self._process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True, env=os.environ | {"LANG": "C"})
        assert self._process.stdout is not None
        first_line = self._process.stdout.readline()
        address = re.search(r"http://127\.0\.0\.1:(\d+)/", first_line)
        assert address, f"unexpected start: {first_line!r}"
        self.url, self._port = address.group(), int(address.group(1))

    def kill(self) -> None:
        """End it without any chance to tidy up."""
        assert self._process is not None
        self._process.send_signal(signal.SIGKILL)
        self._process.wait()
        assert self._process.stdout is not None
        self._process.stdout.close()


@contextmanager
def running_server(*, demo: bool = True) -> Iterator[Server]:
    """A server on data of its own, gone afterwards."""
    with TemporaryDirectory() as data:
        server = Server(Path(data), demo=demo)
        server.start()
        try:
            yield server
        finally:
            server.kill()


@contextmanager
def browser(
    playwright: Playwright, *, width: int = 1280, height: int = 800, scheme: str = "light"
) -> Iterator[BrowserContext]:
    """Chromium with a profile of its own."""
    with TemporaryDirectory() as profile:
        context = playwright.chromium.launch_persistent_context(
            profile,
            executable_path=CHROMIUM,
            args=FLAGS,
            viewport={"width": width, "height": height},
            color_scheme=scheme,  # type: ignore[arg-type]
            timezone_id="UTC",
            locale="en-GB",
        )
        context.set_default_timeout(20_000)
        try:
            yield context
        finally:
            context.close()


def open_formula(page: Page, url: str, name: str = "Hut guest bar") -> None:
    """Open the list, then a formula from it, and wait for its figures."""
    page.goto(url)
    page.get_by_role("link", name=name, exact=True).click()
    page.wait_for_selector("[data-freshness=fresh], [data-freshness=stopped]")


def shown(page: Page, test_id: str) -> float:
    """The number in an element or field, as a float."""
    element = page.get_by_test_id(test_id)
    text = element.input_value() if element.evaluate("e => e.tagName") == "INPUT" else element.inner_text()
    digits = "".join(c for c in text.replace("−", "-") if c.isdigit() or c in ".-")
    return float(digits)


def settle(page: Page, freshness: str = "fresh") -> None:
    """Wait until the figures belong to what is entered and all of it is saved."""
    expect(page.get_by_test_id("formula-state")).to_have_attribute("data-freshness", freshness)
    expect(page.get_by_test_id("save-state")).to_have_attribute("data-kind", "saved")


def calc(page: Page, server: Server) -> dict:
    """What the command line reckons from the formula that the server keeps."""
    formula_id = page.url.rsplit("/", 1)[1]
    document = page.request.get(f"{server.url}api/formulas/{formula_id}/document").text()
    run = subprocess.run(
        [sys.executable, "-m", "sapolin", "calc", "-"], input=document, capture_output=True, text=True, check=True
    )
    return json.loads(run.stdout)
