"""Two machines on a network of their own: Sapolin on one, a tablet's browser on the other."""

import json
import os
import signal
import subprocess
import sys
from collections.abc import Iterator
from contextlib import ExitStack
from dataclasses import dataclass
from pathlib import Path
from stat import S_IMODE
from tempfile import TemporaryDirectory

import pytest
from playwright.sync_api import Browser, Page, Playwright, expect

from demo_copy import put_demo
from e2e.driver import CHROMIUM, FLAGS, LONGEST_MS, ROOT
from e2e.test_make_day import confirm, step_id, weigh_right

MAIN, TABLET = f"sapolin-m{os.getpid()}", f"sapolin-t{os.getpid()}"
MAIN_ADDRESS, TABLET_ADDRESS = "10.77.0.1", "10.77.0.2"
MAIN_SIX, TABLET_SIX = "fd77::1", "fd77::2"
PORT = 8719
QUICK_SCALE = str(ROOT / "tests" / "quick_scale.py")
LOCAL = f"http://127.0.0.1:{PORT}/"
NETWORK = f"https://{MAIN_ADDRESS}:{PORT + 1}/"


def ip(*words: str) -> None:
    subprocess.run(["ip", *words], check=True, capture_output=True)


def lay_cable(undo: ExitStack) -> None:
    """Two network namespaces with a cable between them."""
    for machine in (MAIN, TABLET):
        ip("netns", "add", machine)
        undo.callback(ip, "netns", "del", machine)
    ip("link", "add", "cable", "netns", MAIN, "type", "veth", "peer", "name", "cable", "netns", TABLET)
    for machine, addresses in ((MAIN, (MAIN_ADDRESS, MAIN_SIX)), (TABLET, (TABLET_ADDRESS, TABLET_SIX))):
        ip("-n", machine, "addr", "add", f"{addresses[0]}/24", "dev", "cable")
        ip("-n", machine, "addr", "add", f"{addresses[1]}/64", "dev", "cable", "nodad")
        ip("-n", machine, "link", "set", "lo", "up")
        ip("-n", machine, "link", "set", "cable", "up")


@pytest.fixture(scope="module")
def network() -> Iterator[None]:
    """Two machines, where this one may make such; left out where not, as for a user without rights."""
    with ExitStack() as undo:
        try:
            lay_cable(undo)
        except (FileNotFoundError, subprocess.CalledProcessError) as error:
            pytest.skip(f"no network namespaces here: {getattr(error, 'stderr', error)!r}")
        yield


@dataclass
class Machine:
    """The machine that Sapolin runs on."""

    data: Path
    process: subprocess.Popen[str] | None = None
    printed: str = ""

    def start(self) -> None:
        self.process = subprocess.Popen(
            ["ip", "netns", "exec", MAIN, sys.executable, QUICK_SCALE, "serve", "--demo", "--network", "--port", str(PORT),
             "--data", str(self.data), "--web", str(ROOT / "web" / "dist")],
            stdout=subprocess.PIPE, text=True,
        )  # fmt: skip
        assert self.process.stdout is not None
        self.printed = ""
        while "Ctrl+C" not in self.printed:
            line = self.process.stdout.readline()
            assert line, self.printed
            self.printed += line

    def kill(self) -> None:
        assert self.process is not None
        self.process.send_signal(signal.SIGKILL)
        self.process.wait()
        assert self.process.stdout is not None
        self.process.stdout.close()


@pytest.fixture(scope="module")
def machine(network: None) -> Iterator[Machine]:
    with TemporaryDirectory() as data:
        put_demo(Path(data) / "demo.db")
        running = Machine(Path(data))
        running.start()
        try:
            yield running
        finally:
            running.kill()


@pytest.fixture(scope="module")
def browsers(network: None, driving: Playwright) -> Iterator[tuple[Browser, Browser]]:
    """A Chromium on each machine."""
    with TemporaryDirectory() as scratch, ExitStack() as closing:
        started = []
        for name in (MAIN, TABLET):
            starter = Path(scratch) / name
            starter.write_text(f'#!/bin/sh\nexec ip netns exec {name} {CHROMIUM} "$@"\n')
            starter.chmod(0o755)
            browser = driving.chromium.launch(executable_path=str(starter), args=FLAGS)
            closing.callback(browser.close)
            started.append(browser)
        yield started[0], started[1]


@pytest.fixture
def screens(browsers: tuple[Browser, Browser], machine: Machine) -> Iterator[tuple[Page, Page]]:
    """The main screen, and the tablet, which has accepted the certificate."""
    main = browsers[0].new_context(viewport={"width": 1280, "height": 800}, timezone_id="UTC", locale="en-GB")
    tablet = browsers[1].new_context(
        viewport={"width": 820, "height": 1180}, ignore_https_errors=True, has_touch=True, timezone_id="UTC", locale="en-GB"
    )  # fmt: skip
    for context in (main, tablet):
        context.set_default_timeout(LONGEST_MS)
    tablet.add_init_script("localStorage.setItem('sapolin.make-takes-itself', 'false')")
    yield main.new_page(), tablet.new_page()
    main.close()
    tablet.close()


def answer(page: Page, path: str, method: str = "GET", body: object = None) -> tuple[int, str]:
    """What the API answers the page's own browser."""
    return tuple(
        page.evaluate(
            """async ([path, method, body]) => {
                const headers = { 'content-type': 'application/json' };
                const answer = await fetch(path, { method, headers, body: body && JSON.stringify(body) });
                return [answer.status, await answer.text()];
            }""",
            [path, method, body],
        )
    )


def from_tablet(*words: str) -> str:
    """Run a few lines of Python on the tablet's machine: what no browser would send."""
    run = ["ip", "netns", "exec", TABLET, sys.executable, "-c", *words]
    return subprocess.run(run, check=True, capture_output=True, text=True).stdout


def pair(main: Page, tablet: Page, name: str, reach: str) -> None:
    main.goto(f"{LOCAL}guide/tablets")
    main.get_by_test_id("device-name").fill(name)
    main.get_by_test_id("device-reach").get_by_text(reach).click()
    main.get_by_test_id("ask-code").click()
    code = main.get_by_test_id("pairing-code").inner_text()
    tablet.goto(NETWORK)
    tablet.wait_for_url("**/pair")
    tablet.get_by_label("Code").fill(code.lower())
    tablet.get_by_role("button", name="Pair").click()
    expect(tablet.get_by_test_id("this-device")).to_contain_text(name)
    # The main screen notices by itself.
    expect(main.get_by_test_id("paired-device").filter(has_text=name)).to_be_visible()


def test_a_tablet_is_paired_weighs_a_batch_and_loses_its_access(machine: Machine, screens: tuple[Page, Page]):
    main, tablet = screens
    tablet.goto(NETWORK)
    tablet.wait_for_url("**/pair")
    tablet.get_by_label("Code").fill("AAAA AAAA")
    tablet.get_by_role("button", name="Pair").click()
    expect(tablet.get_by_role("alert")).to_contain_text("No code is open")
    assert answer(tablet, "/api/batches")[0] == 401

    pair(main, tablet, "Tablet at the scale", "Make day and rack")
    tablet.wait_for_url("**/batches")
    assert tablet.evaluate("isSecureContext")
    assert tablet.evaluate("document.cookie") == ""  # The key is out of reach of any script.
    # What it is not meant for is not shown, and not answered either.
    expect(tablet.get_by_role("navigation", name="Places", exact=True)).not_to_contain_text("Formulas")
    for path in ("/api/formulas", "/api/prices", "/api/safekeeping", "/api/paired-devices"):
        assert answer(tablet, path)[0] == 403, path
    assert answer(tablet, "/api/demo/reset", "POST", {"confirm": True})[0] == 403

    # A whole batch is weighed on it, through a killed server.
    batch = next(one for one in json.loads(answer(tablet, "/api/batches")[1])["batches"] if one["code"] == "B-103")
    tablet.get_by_role("link", name="Upper hut milk bar").first.click()
    tablet.get_by_test_id("begin").click()
    weighed = 0
    while not (now := step_id(tablet)).startswith("make-lye"):
        if now.startswith("weigh-"):
            weigh_right(tablet)
            weighed += 1
            if weighed == 3:
                machine.kill()
                machine.start()
        else:
            confirm(tablet)
    on_main = json.loads(answer(main, f"/api/batches/{batch['id']}/progress")[1])
    assert len(on_main["state"]["captured_g"]) == weighed > 5

    # Its access ends at once, also for the readings of the scale that are under way.
    main.goto(f"{LOCAL}guide/tablets")
    main.get_by_test_id("paired-device").filter(has_text="Tablet at the scale").get_by_test_id("end-access").click()
    expect(main.get_by_test_id("paired-device").filter(has_text="Tablet at the scale")).to_have_count(0)
    expect(tablet.get_by_test_id("access-ended")).to_be_visible()
    assert answer(tablet, "/api/batches")[0] == 401
    tablet.get_by_role("link", name="Pair it again").click()
    tablet.wait_for_url("**/pair")


def test_a_device_for_everything_reaches_all_but_backups_and_devices(machine: Machine, screens: tuple[Page, Page]):
    main, tablet = screens
    pair(main, tablet, "Laptop upstairs", "Everything")
    tablet.get_by_role("navigation", name="Places", exact=True).get_by_role("link", name="Formulas").click()
    tablet.get_by_role("link", name="Hut guest bar", exact=True).first.click()
    expect(tablet.get_by_test_id("formula-state")).to_have_attribute("data-freshness", "fresh")
    tablet.get_by_role("navigation", name="Places", exact=True).get_by_role("link", name="Guide").click()
    expect(tablet.get_by_role("navigation", name="Parts of the guide")).not_to_contain_text("Backups")
    assert answer(tablet, "/api/safekeeping/archive")[0] == 403
    # It becomes less, then gets another name.
    row = main.get_by_test_id("paired-device").filter(has_text="Laptop upstairs")
    row.get_by_role("combobox").or_(row.locator("input")).first.click()
    main.get_by_role("option", name="Make day and rack").click()
    expect(row.locator("input").first).to_have_value("Make day and rack")
    assert answer(tablet, "/api/formulas")[0] == 403
    row.get_by_role("button", name="Rename").click()
    main.get_by_label("New name of Laptop upstairs").fill("Old laptop")
    main.get_by_role("button", name="Keep").click()
    expect(main.get_by_test_id("paired-device").filter(has_text="Old laptop")).to_be_visible()
    tablet.reload()
    expect(tablet.get_by_test_id("this-device")).to_contain_text("Old laptop")


def test_the_certificate_is_trusted_by_a_device_that_was_given_the_authority(machine: Machine):
    authority = machine.data / "demo-network" / "authority.pem"
    lines = """
import hashlib, http.client, ssl, sys
context = ssl.create_default_context(cafile=sys.argv[1])
for host in sys.argv[2:]:
    connection = http.client.HTTPSConnection(host, 8720, context=context)
    connection.request("GET", "/pair")
    answer = connection.getresponse()
    shown = hashlib.sha256(connection.sock.getpeercert(True)).hexdigest() if connection.sock else ""
    print(answer.status, "Pair this device" in answer.read().decode())
    print(hashlib.sha256(ssl.PEM_cert_to_DER_cert(ssl.get_server_certificate((host, 8720)))).hexdigest())
"""
    said = from_tablet(lines, str(authority), MAIN_ADDRESS, MAIN_SIX).splitlines()
    assert said[::2] == ["200 True", "200 True"]
    fingerprint = said[1].upper()
    assert ":".join(fingerprint[i : i + 2] for i in range(0, 64, 2)) in machine.printed
    assert S_IMODE(authority.parent.stat().st_mode) == 0o700
    assert {S_IMODE(file.stat().st_mode) for file in authority.parent.iterdir()} == {0o600}


def test_hosts_halves_and_floods_are_refused(machine: Machine):
    lines = """
import http.client, socket, ssl, sys, time
loose = ssl._create_unverified_context()
def status(host, path="/pair", address="10.77.0.1"):
    connection = http.client.HTTPSConnection(address, 8720, context=loose)
    connection.putrequest("GET", path, skip_host=True)
    connection.putheader("Host", host)
    connection.endheaders()
    return connection.getresponse().status
own = socket.gethostname().split(".")[0]
own_hosts = "10.77.0.1:8720", f"{own.upper()}.LOCAL:8720", "[fd77::1]:8720", "[FD77:0:0::1]"
for host in (*own_hosts, "evil.example", "127.0.0.1:8720", "10.77.0.1.evil.example", ""):
    print(status(host))
print(status("10.77.0.1", "/assets/x.js"), status("10.77.0.1", "/api/health"), status("10.77.0.1", "/formulas"))
# Half a request is not waited for without end; the other side hangs up.
half = loose.wrap_socket(socket.create_connection(("10.77.0.1", 8720)))
half.sendall(b"GET /pair HTTP/1.1\\r\\nHost: 10")
half.settimeout(40)
before = time.monotonic()
try:
    print(half.recv(100), 10 < time.monotonic() - before < 35)
except ConnectionResetError:
    print(b"", 10 < time.monotonic() - before < 35)
# One address cannot take all connections.
held = []
for _ in range(60):
    try:
        held.append(loose.wrap_socket(socket.create_connection(("10.77.0.1", 8720))))
    except (ConnectionError, ssl.SSLError):
        pass
def is_open(one):
    one.settimeout(0.01)
    try:
        return one.recv(1) != b""
    except (TimeoutError, ssl.SSLWantReadError):
        return True
    except (ConnectionError, ssl.SSLError):
        return False
until = time.monotonic() + 30
while sum(map(is_open, held)) > 40 and time.monotonic() < until:
    time.sleep(0.1)
print(sum(map(is_open, held)))
for one in held:
    one.close()
def answer():
    try:
        return status("10.77.0.1")
    except (OSError, http.client.HTTPException):
        return None
print(429 in (answer() for _ in range(400)))
"""
    said = from_tablet(lines).splitlines()
    assert said[:8] == ["200", "200", "200", "200", "400", "400", "400", "400"]
    assert said[8] == "401 401 303"
    assert said[9] == "b'' True"
    assert int(said[10]) == 40
    assert said[11] == "True"
    # Meanwhile the main screen answers.
    health = ["ip", "netns", "exec", MAIN, sys.executable, "-c",
              f"import urllib.request as u; print(u.urlopen('{LOCAL}api/health').status)"]  # fmt: skip
    assert subprocess.run(health, check=True, capture_output=True, text=True).stdout.strip() == "200"
