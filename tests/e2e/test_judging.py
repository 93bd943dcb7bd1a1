"""Bars put to the test, as their makers do it: a sheet on a phone, a pair without names, a trial from its question to its
batches, and what all of it moves on the scales of the next formula."""

import re

import pytest
from playwright.sync_api import Browser, Page, expect

from e2e.driver import Server, go, lent_page, open_formula, pick, settle

SHORT = {
    "bubbles": "few",
    "bubble_size": "tiny",
    "stay": "long",
    "rinse": "well",
    "skin_after": "soft",
    "press": "hard",
}


def id_of(page: Page, url: str, code: str) -> str:
    batches = page.request.get(f"{url}api/batches").json()["batches"]
    return next(one["id"] for one in batches if one["code"] == code)


def open_tests(page: Page, url: str, code: str) -> None:
    go(page, f"{url}batches/{id_of(page, url, code)}/tests")
    page.get_by_test_id("keep-sheet").wait_for()


def fill_sheet(page: Page, words: dict[str, str]) -> None:
    for criterion, word in words.items():
        page.get_by_test_id(f"criterion-{criterion}").get_by_text(word, exact=True).click()


def test_a_sheet_on_a_phone_in_under_a_minute(running_chromium: Browser, server: Server):
    with lent_page(running_chromium, width=390, height=844) as page:
        open_tests(page, server.url, "B-092")
        assert page.evaluate("document.documentElement.scrollWidth") <= 390
        fill_sheet(page, SHORT)
        # What was chosen is still there after the tab was closed.
        page.reload()
        expect(page.get_by_test_id("criterion-stay").get_by_role("radio", name="long", exact=True)).to_be_checked()
        page.get_by_test_id("tester").fill("Signe")
        box = page.get_by_test_id("criterion-bubbles").locator("label").first.bounding_box()
        assert box is not None
        assert box["height"] >= 44
        page.get_by_test_id("keep-sheet").click()
        expect(page.get_by_text("Signe").first).to_be_visible()
        # Next on the same bar: the skin an hour later.
        expect(page.get_by_test_id("criterion-skin_hour")).to_be_visible()
        fill_sheet(page, {"skin_hour": "lovely"})
        page.get_by_test_id("keep-sheet").click()
        expect(page.get_by_test_id("criterion-bubbles")).to_be_visible()
        events = page.request.get(f"{server.url}api/batches/{id_of(page, server.url, 'B-092')}/cure").json()["events"]
        assert [one["event"]["scores"] for one in events[-2:]] == [
            {"bubbles": 2, "bubble_size": 1, "stay": 4, "rinse": 3, "skin_after": 4, "press": 4}, {"skin_hour": 5}
        ]  # fmt: skip


def test_sheets_move_the_scales_of_the_next_formula(running_chromium: Browser, server: Server):
    with lent_page(running_chromium) as page:
        open_formula(page, server.url)
        settle(page)
        mark = page.get_by_test_id("yours-open_lather")
        before = mark.get_attribute("d")
        for code in ("B-092", "B-093"):
            open_tests(page, server.url, code)
            for _ in range(2):
                fill_sheet(page, {"bubbles": "none", "bubble_size": "tiny"})
                page.get_by_test_id("keep-sheet").click()
                expect(page.get_by_test_id("criterion-skin_hour")).to_be_visible()
                page.get_by_test_id("sheet-part").get_by_text("Short").click()
        open_formula(page, server.url)
        settle(page)
        expect(mark).not_to_have_attribute("d", before or "")
        page.get_by_text("your own bars").click()
        expect(page.get_by_test_id("topics")).to_contain_text("Open lather")
        page.get_by_test_id("learns").click()
        expect(page.get_by_test_id("learns")).not_to_be_checked()
        open_formula(page, server.url)
        settle(page)
        expect(mark).to_have_count(0)


def test_a_pair_without_names_is_judged_on_a_phone_and_survives_a_killed_server(
    running_chromium: Browser, server: Server
):
    with lent_page(running_chromium, width=390, height=844) as page:
        comparisons = page.request.get(f"{server.url}api/comparisons").json()
        running = next(one["id"] for one in comparisons if not one["is_done"])
        page.goto(f"{server.url}comparisons/{running}")
        expect(page.get_by_text("round 3 of 6")).to_be_visible()
        assert page.evaluate("document.documentElement.scrollWidth") <= 390
        assert "B-09" not in page.get_by_test_id("codes").inner_text()
        codes = page.get_by_test_id("codes").inner_text().split()
        assert all(re.fullmatch(r"\d{3}", code) for code in codes)
        server.kill()
        page.get_by_test_id(f"choose-{codes[0]}").click()
        expect(page.get_by_test_id("comparison-saved")).to_contain_text("kept on this device")
        server.start()
        expect(page.get_by_text("round 4 of 6")).to_be_visible()
        page.get_by_test_id("undo-choice").click()
        expect(page.get_by_text("round 3 of 6")).to_be_visible()
        for i in range(4):
            expect(page.get_by_text(f"round {i + 3} of 6")).to_be_visible()
            page.get_by_test_id("no-difference").click()
        expect(page.get_by_test_id("verdict")).to_contain_text("Cannot tell")
        page.get_by_text("Round by round").click()
        expect(page.get_by_text("B-092 Hut guest bar").first).to_be_visible()


def test_a_blind_comparison_is_drawn_and_its_key_is_for_the_helper(running_chromium: Browser, server: Server):
    with lent_page(running_chromium) as page:
        open_tests(page, server.url, "B-092")
        page.get_by_test_id("start-comparison").click()
        pick(page, page.get_by_test_id("compare-with"), "B-091")
        page.keyboard.press("Escape")
        page.get_by_test_id("compare-rounds").fill("4")
        page.get_by_test_id("draw-codes").click()
        page.wait_for_url("**/comparisons/*")
        page.get_by_text("For the helper").click()
        page.get_by_test_id("show-key").click()
        expect(page.get_by_test_id("key")).to_contain_text("B-091")


def test_a_trial_from_its_question_to_a_planned_test_batch(running_chromium: Browser, server: Server):
    with lent_page(running_chromium) as page:
        open_formula(page, server.url)
        settle(page)
        page.get_by_role("link", name="Compare").click()
        page.get_by_test_id("comparison").wait_for()
        pick(page, page.get_by_test_id("draw-oil"), "Castor")
        page.get_by_test_id("draw-levels").fill("3, 6, 101")
        expect(page.get_by_test_id("asked")).to_contain_text("no share")
        page.get_by_test_id("draw-levels").fill("3, 6")
        expect(page.get_by_test_id("drawn")).to_contain_text("castor 6 %")
        page.get_by_test_id("start-trial").click()
        page.wait_for_url("**/trials/*")
        page.get_by_test_id("plan-run-1").click()
        page.get_by_test_id("run-1").get_by_role("link").click()
        expect(page.get_by_test_id("size-words")).to_be_visible()
        expect(page.get_by_role("heading", level=1)).to_contain_text("castor 6 %")


def test_a_lesson_comes_back_when_it_is_planned_again_and_is_ticked_off(running_chromium: Browser, server: Server):
    with lent_page(running_chromium) as page:
        open_tests(page, server.url, "B-092")
        page.get_by_test_id("lesson").fill("Castor stays, coconut down two.")
        page.get_by_role("button", name="Add", exact=True).click()
        expect(page.get_by_text("“Castor stays, coconut down two.”")).to_be_visible()
        open_formula(page, server.url)
        settle(page)
        page.get_by_role("button", name="Plan a batch").click()
        note = page.get_by_test_id("next-time-note").filter(has_text="Castor stays")
        expect(note).to_be_visible()
        note.get_by_role("button", name="Heeded").click()
        expect(note).to_have_count(0)
        page.get_by_role("button", name="Undo").last.click()
        expect(note).to_be_visible()


@pytest.mark.parametrize("width", [390, 1280])
def test_something_that_happened_earlier_stands_at_its_own_time(running_chromium: Browser, server: Server, width: int):
    with lent_page(running_chromium, width=width) as page:
        page.goto(f"{server.url}batches/{id_of(page, server.url, 'B-098')}/cure")
        page.get_by_test_id("earlier").click()
        yesterday = page.evaluate(
            "new Date(Date.now() - 86400000 - 60000 * new Date().getTimezoneOffset()).toISOString().slice(0, 16)"
        )
        page.get_by_test_id("earlier-at").fill(yesterday)
        page.get_by_test_id("turn").click()
        expect(page.get_by_test_id("cure-record")).to_contain_text("Turned over")
        events = page.request.get(f"{server.url}api/batches/{id_of(page, server.url, 'B-098')}/cure").json()["events"]
        assert events[-1]["at"][:10] < events[-1]["recorded_at"][:10]
        page.get_by_test_id("earlier-at").fill("2001-01-01T00:00")
        page.get_by_test_id("turn").click()
        expect(page.get_by_test_id("asked").first).to_contain_text("before")
