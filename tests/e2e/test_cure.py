"""After the pour: the loaf that is due is cut and put on a tray, its bars are weighed by the scale, one batch fails its pH
and is not sold, and nothing is lost when the server is killed."""

import re

from playwright.sync_api import Browser, Page, expect

from api.pictures import taken
from e2e.driver import Server, go, lent_page


def open_cure(page: Page, url: str, code: str) -> None:
    go(page, f"{url}batches")
    page.get_by_test_id(f"batch-{code}").get_by_role("link").first.click()
    page.get_by_test_id("cure-record").wait_for()


def put_bar(page: Page) -> float:
    """Put a bar on the simulated scale; what it shows when it has come to rest."""
    with page.expect_response(lambda one: one.url.endswith("scale/play") and "pour" in (one.request.post_data or "")):
        page.get_by_test_id("put-bar").click()
    base = page.url.split("batches")[0]
    for _ in range(100):
        scale = page.request.get(f"{base}api/devices").json()["scale"]
        if scale["state"] == "steady" and scale["weight_g"] > 0:
            return float(scale["weight_g"])
        page.wait_for_timeout(100)
    raise AssertionError("the scale did not come to rest")


def test_the_loaf_that_is_due_ends_on_a_tray(running_chromium: Browser, server: Server):
    with lent_page(running_chromium) as page:
        page.goto(server.url)
        page.get_by_role("link", name="Open: Unmould Hut guest bar B-100").click()
        expect(page.get_by_test_id("unmould-window")).to_contain_text("unmould and cut it now")
        page.get_by_test_id("unmould-clean").click()
        page.get_by_test_id("as-planned").click()
        page.get_by_test_id("samples").fill("1")
        page.get_by_test_id("record-cut").click()
        page.get_by_test_id("move-to").select_option("R4")
        page.get_by_test_id("move-bars").fill("4")
        page.get_by_test_id("move").click()
        expect(page.get_by_text("R4 Back wall · B-091: 8, B-100: 4 · 0 of 12 free")).to_be_visible()
        # The tray is full: more bars are refused, and what was entered stays.
        page.get_by_test_id("move-from").select_option("")
        page.get_by_test_id("move-to").select_option("R4")
        page.get_by_test_id("move-bars").fill("2")
        page.get_by_test_id("move").click()
        expect(page.get_by_test_id("asked")).to_contain_text("Free places on tray R4: 0")
        expect(page.get_by_test_id("move-bars")).to_have_value("2")
        batch_id = re.search(r"batches/(\w+)/", page.url).group(1)  # type: ignore[union-attr]
        label = page.request.get(f"{server.url}api/batches/{batch_id}/tray-label.pdf?size=label&tray=R4")
        assert label.body().startswith(b"%PDF")
        weights = {}
        for mark in ("A", "B", "C"):
            expect(page.get_by_test_id(f"mark-{mark}")).to_have_attribute("aria-checked", "true")
            weights[mark] = put_bar(page)
            page.get_by_test_id("take-bar").click()
            expect(page.get_by_test_id("cure-record")).to_contain_text(f"Bar {mark}: ")
        kept = page.request.get(f"{server.url}api/batches/{batch_id}/cure").json()["state"]["weighings"]
        assert {one["mark"]: one["weight_g"] for one in kept} == weights


def test_a_batch_that_fails_its_ph_is_not_sold(running_chromium: Browser, server: Server):
    with lent_page(running_chromium) as page:
        open_cure(page, server.url, "B-095")
        page.get_by_test_id("ph").fill("11,6")
        page.get_by_test_id("record-fit").click()
        expect(page.get_by_test_id("fit")).to_contain_text("Not fit")
        page.get_by_test_id("leave-bars").fill("2")
        page.get_by_test_id("record-leave").click()
        expect(page.get_by_test_id("asked")).to_contain_text("not fit to use")
        page.get_by_test_id("leave-to").select_option("lost")
        page.get_by_test_id("record-leave").click()
        expect(page.get_by_test_id("cure-record")).to_contain_text("2 bars lost or discarded")


def test_at_the_rack_with_a_phone(running_chromium: Browser, server: Server):
    with lent_page(running_chromium, width=390, height=844) as page:
        open_cure(page, server.url, "B-096")
        assert page.evaluate("document.documentElement.scrollWidth") <= 390
        # What is done stands before what is read.
        assert (
            page.get_by_test_id("take-bar").bounding_box()["y"] < page.get_by_test_id("ready-range").bounding_box()["y"]
        )  # type: ignore[index]
        page.get_by_test_id("bar-weight").fill("140")
        page.get_by_test_id("take-bar").click()
        expect(page.get_by_test_id("asked")).to_contain_text("Bars lose weight")
        expect(page.get_by_test_id("bar-weight")).to_have_value("140.0")


def test_a_killed_server_loses_nothing_that_was_recorded(running_chromium: Browser, server: Server):
    with lent_page(running_chromium) as page:
        open_cure(page, server.url, "B-097")
        server.kill()
        page.get_by_test_id("turn").click()
        expect(page.get_by_test_id("cure-saved")).to_contain_text("kept on this device")
        server.start()
        expect(page.get_by_test_id("cure-saved")).to_have_text("")
        expect(page.get_by_test_id("cure-record")).to_contain_text("Turned over")


def test_a_picture_of_the_bars_is_kept_and_the_batch_tells_what_it_cost(running_chromium: Browser, server: Server):
    with lent_page(running_chromium) as page:
        open_cure(page, server.url, "B-095")
        page.get_by_test_id("add-picture").set_input_files(
            {"name": "swirl.png", "mimeType": "image/png", "buffer": taken()}
        )
        expect(page.get_by_test_id("cure-record")).to_contain_text("Picture: swirl.png")
        expect(page.get_by_role("img", name=re.compile("swirl.png"))).to_be_visible()
        # Made from lots with a price: nine bars cut, one of them a sample.
        batch_id = re.search(r"batches/(\w+)/", page.url).group(1)  # type: ignore[union-attr]
        cost = page.request.get(f"{server.url}api/stock/cost/{batch_id}").json()
        expect(page.get_by_test_id("cost-per-bar")).to_have_text(f"{cost['actual']['total'] / 8:.2f}")
