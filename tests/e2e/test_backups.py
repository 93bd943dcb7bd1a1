"""A workshop's memory: backed up from the screen, its directory deleted, put back on another machine; damaged and saved; two
servers on one directory; and everything carried over as one file."""

import shutil
import sqlite3
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path

from playwright.sync_api import Browser, Page, Route, expect

from demo_copy import put_demo
from e2e.driver import ROOT, Server, lent_page, running_server
from forks import sapolin


def own_workshop(directory: Path) -> Server:
    """A workshop's own data, as full as the demo."""
    directory.mkdir()
    put_demo(directory / "sapolin.db")
    server = Server(directory, demo=False)
    server.start()
    return server


def batches_in(directory: Path) -> list[tuple[str, int]]:
    with closing(sqlite3.connect(directory / "sapolin.db")) as connection:
        return connection.execute(
            "SELECT code, count(batch_events.id) FROM batches LEFT JOIN batch_events ON batch_id = batches.id GROUP BY code"
        ).fetchall()


def damage(directory: Path) -> None:
    """A page of the ledger becomes nothing, as on a failing disk."""
    file = directory / "sapolin.db"
    with closing(sqlite3.connect(file)) as connection:
        connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        (number,) = connection.execute(
            "SELECT pageno FROM dbstat WHERE name = 'ledger' AND pagetype = 'leaf'"
        ).fetchone()
    content = bytearray(file.read_bytes())
    content[(number - 1) * 4096 : number * 4096] = b"\x00" * 4096
    file.write_bytes(content)


def answer_with(page: Page, path: str, **changes: object) -> None:
    """What is asked of `path` is answered with `changes`, as by a server that is not so far yet."""

    def answer(route: Route) -> None:
        fetched = route.fetch()
        route.fulfill(response=fetched, json=fetched.json() | changes)

    page.route(path, answer)


def test_backed_up_lost_and_put_back_on_another_machine(page: Page, tmp_path: Path):
    server = own_workshop(tmp_path / "first")
    had = batches_in(tmp_path / "first")
    # The first automatic one is taken as soon as it runs, and appears by itself.
    answer_with(page, f"{server.url}api/safekeeping", backups=[], is_looking=True)
    page.goto(f"{server.url}guide/backups")
    expect(page.get_by_test_id("backup-age")).to_contain_text("The first one is being taken")
    page.unroute_all()
    expect(page.get_by_test_id("backup-age")).to_contain_text("In this hour")
    page.get_by_test_id("second-place").fill(str(tmp_path / "stick"))
    page.get_by_test_id("keep-second-place").click()
    expect(page.get_by_text("Every backup is copied there.")).to_be_visible()
    page.get_by_test_id("take-backup").click()
    expect(page.get_by_text("you asked for it")).to_contain_text("in the second place too")
    # A change too many is put back.
    page.request.patch(
        f"{server.url}api/workshop", data={"emergency_number": "999"}, headers={"origin": server.url[:-1]}
    )
    page.get_by_role("button", name="Put back the backup of").first.click()
    expect(page.get_by_test_id("differences")).to_contain_text("settings of the workshop")
    page.get_by_test_id("put-back").click()
    expect(page.get_by_test_id("put-back-done")).to_contain_text("kept as a backup")
    page.get_by_test_id("load-again").click()
    expect(page.get_by_text("before a backup was put back")).to_be_visible()
    assert page.request.get(f"{server.url}api/workshop").json()["emergency_number"] != "999"
    server.kill()
    shutil.rmtree(tmp_path / "first")
    newest = max((tmp_path / "stick").iterdir(), key=lambda one: one.name.split(".")[1])
    put_back = sapolin("restore", str(newest), "--data", str(tmp_path / "second"))
    assert put_back.returncode == 0, put_back.stderr
    assert batches_in(tmp_path / "second") == had
    assert "is whole" in sapolin("doctor", "--data", str(tmp_path / "second")).stdout


def test_a_second_server_is_told_where_the_first_is(tmp_path: Path):
    server = own_workshop(tmp_path / "data")
    refused = sapolin("serve", "--port", "0", "--data", str(tmp_path / "data"))
    assert refused.returncode == 1
    assert server.url in refused.stderr
    # The first backup is taken soon after the start.
    until = time.monotonic() + 30
    while not [*tmp_path.glob("data/backups/*.backup")]:
        assert time.monotonic() < until
        time.sleep(0.05)
    assert "open already" in sapolin("restore", "newest", "--data", str(tmp_path / "data")).stderr
    server.kill()
    assert sapolin("backup", "--data", str(tmp_path / "data")).returncode == 0


def test_a_damaged_file_is_told_of_and_saved_as_far_as_it_can_be_read(page: Page, tmp_path: Path):
    directory = tmp_path / "data"
    server = own_workshop(directory)
    server.kill()
    damage(directory)
    had = batches_in(directory)
    told = sapolin("doctor", "--data", str(directory))
    assert told.returncode == 1
    assert "entries of stock" in told.stdout
    assert "cannot be read" in told.stdout
    saved = sapolin("doctor", "--salvage", "--data", str(directory))
    assert saved.returncode == 0, saved.stdout + saved.stderr
    assert batches_in(directory) == had
    server.start()
    page.goto(f"{server.url}batches")
    expect(page.get_by_test_id("batch-B-098")).to_be_visible()
    server.kill()


@contextmanager
def served_with_a_fault(directory: Path) -> Iterator[str]:
    """`sapolin serve` on data that cannot be opened; the address of its start-up page."""
    command = [sys.executable, "-m", "sapolin", "serve", "--port", "0", "--data", str(directory)]
    with subprocess.Popen(
        [*command, "--web", str(ROOT / "web" / "dist")], stderr=subprocess.PIPE, stdout=subprocess.DEVNULL, text=True
    ) as process:
        assert process.stderr is not None
        told = process.stderr.readline() + process.stderr.readline()
        try:
            yield told.rsplit(" at ", 1)[1].strip()
        finally:
            process.kill()


def test_a_file_that_cannot_be_opened_is_mended_on_the_start_up_page(page: Page, tmp_path: Path):
    directory = tmp_path / "data"
    server = own_workshop(directory)
    page.goto(f"{server.url}guide/backups")
    expect(page.get_by_test_id("backup-age")).to_contain_text("In this hour")
    server.kill()
    had = batches_in(directory)
    file = directory / "sapolin.db"
    damaged = b"nothing that could be read " * 40_000
    file.write_bytes(damaged)
    for left in directory.glob("sapolin.db-*"):
        left.unlink()
    with served_with_a_fault(directory) as url:
        refused = page.request.post(f"{url}mend", form={"how": "backup"}, headers={"origin": "http://evil.example"})
        assert refused.status == 403
        assert file.read_bytes() == damaged
        assert page.request.get(f"{url}api/formulas").status == 503
        page.goto(f"{url}batches")
        expect(page.get_by_role("heading", name="Sapolin cannot open its data")).to_be_visible()
        expect(page.get_by_text("is not a database of Sapolin")).to_be_visible()
        # Trying again changes nothing while nothing was put right.
        page.get_by_role("button", name="Try again").click()
        expect(page.get_by_role("heading", name="Sapolin cannot open its data")).to_be_visible()
        page.get_by_role("button", name="Put the backup in place").click()
        expect(page.get_by_text("is kept as sapolin.db.")).to_be_visible()
        # It opens by itself.
        expect(page.get_by_role("heading", name="To do")).to_be_visible()
        assert batches_in(directory) == had
        assert any(one.is_file() and one.read_bytes() == damaged for one in directory.iterdir())


def test_damage_that_is_found_while_it_runs_is_said_on_every_screen(page: Page, tmp_path: Path):
    directory = tmp_path / "data"
    own_workshop(directory).kill()
    damage(directory)
    server = Server(directory, demo=False)
    server.start()
    answer_with(page, f"{server.url}api/health", trouble=None, is_looking=True)
    page.goto(f"{server.url}formulas")
    expect(page.get_by_role("heading", name="Formulas")).to_be_visible()
    expect(page.get_by_test_id("trouble")).to_be_hidden()
    page.unroute_all()
    expect(page.get_by_test_id("trouble")).to_contain_text("The file of your data is damaged")
    server.kill()


def test_the_licences_of_the_typefaces_lie_beside_them(page: Page, server: Server):
    families = {one.name.split("-latin")[0] for one in (ROOT / "web" / "dist" / "assets").glob("*-latin-wght*.woff2")}
    assert len(families) == 3
    for family in families:
        licence = page.request.get(f"{server.url}assets/{family}-LICENSE.txt")
        assert licence.ok
        assert "Open Font License" in licence.text().title().replace("Sil ", "")


def test_everything_is_carried_over_as_one_file(page: Page, server: Server, tmp_path: Path, running_chromium: Browser):
    page.goto(f"{server.url}guide/backups")
    with page.expect_download() as waiting:
        page.get_by_test_id("export").click()
    archive = tmp_path / "all.zip"
    waiting.value.save_as(archive)
    with running_server(demo=False) as other, lent_page(running_chromium, width=390, height=844) as phone:
        phone.goto(f"{other.url}guide/backups")
        phone.get_by_label("Bring an archive in").set_input_files(archive)
        expect(phone.get_by_test_id("brought-in")).to_contain_text("batches")
        assert phone.evaluate("document.documentElement.scrollWidth") <= 390
        phone.get_by_role("button", name="To Today").click()
        expect(phone.get_by_role("heading", name="To do")).to_be_visible()
        assert phone.request.get(f"{other.url}api/batches").json()["total"] == 21
        phone.goto(f"{other.url}guide/backups")
        not_one = tmp_path / "no.zip"
        not_one.write_bytes(b"no archive")
        phone.get_by_label("Bring an archive in").set_input_files(not_one)
        expect(phone.get_by_role("alert")).to_contain_text("cannot be opened as a zip")
