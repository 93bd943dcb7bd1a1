"""Makes the pictures in docs/screenshots from the demo data: `./run shots`."""

from playwright.sync_api import Page, sync_playwright

from e2e.driver import ROOT, chromium, new_page, open_formula, pick, running_server
from e2e.test_make_day import begin_milk_bar, confirm, pour, weigh_right

PICTURES = ROOT / "docs" / "screenshots"


def take(page: Page, name: str) -> None:
    """A picture once everything has come to rest."""
    page.mouse.move(2, 600)
    page.wait_for_timeout(700)
    page.screenshot(path=PICTURES / f"{name}.png")


def take_batches(page: Page, url: str) -> None:
    """The list, a plan, and make day: a pour too far, and what was made."""
    page.goto(f"{url}batches")
    page.get_by_test_id("batch-B-103").wait_for()
    page.get_by_role("link", name="Upper hut milk bar").click()
    page.get_by_test_id("size-words").wait_for()
    page.get_by_test_id("tab-colour").click()
    take(page, "batch")
    page.goto(f"{url}batches")
    page.get_by_test_id("batch-B-096").get_by_role("link").first.click()
    page.get_by_test_id("ready-range").wait_for()
    take(page, "cure")
    page.goto(f"{url}batches")
    page.get_by_test_id("batch-B-092").get_by_role("link").first.click()
    page.get_by_role("link", name="Tests").click()
    page.get_by_test_id("predicted").wait_for()
    take(page, "tests")
    begin_milk_bar(page, url)
    confirm(page)
    confirm(page)
    weigh_right(page)
    pour(page, "pour-right", "pour-more")
    page.get_by_test_id("take-weight").click()
    page.get_by_test_id("corrections").wait_for()
    take(page, "make-weigh")
    page.goto(f"{page.url.removesuffix('/make')}/sheet")
    page.get_by_role("heading", name="Order of work").wait_for()
    take(page, "sheet")


def main() -> None:
    """Every main view, from a demo as shipped."""
    PICTURES.mkdir(parents=True, exist_ok=True)
    with running_server() as server, sync_playwright() as playwright, chromium(playwright) as running:
        with new_page(running) as page:
            open_formula(page, server.url)
            take(page, "design")
            page.goto(server.url)
            page.get_by_test_id("to-do").wait_for()
            take(page, "today")
            page.goto(f"{server.url}formulas")
            page.get_by_role("link", name="Hut guest bar", exact=True).wait_for()
            take(page, "formulas")
            open_formula(page, server.url)
            page.get_by_test_id("lye-to-weigh").click()
            page.get_by_test_id("explanation").wait_for()
            take(page, "explanation")
            open_formula(page, server.url)
            page.goto(f"{page.url}/swap?out=palm")
            page.get_by_test_id("swap-without").click()
            for word in ("animal", "tree nuts"):
                page.get_by_role("menuitemcheckbox", name=word, exact=True).click()
            page.keyboard.press("Escape")
            page.get_by_test_id("candidate-1").wait_for(state="attached")
            take(page, "swap")
            page.get_by_role("link", name="Solve").click()
            page.get_by_test_id("solution-1").wait_for(state="attached", timeout=20_000)
            take(page, "solve")
            page.get_by_role("link", name="Compare").click()
            for name in ("Hut guest bar, version 1", "Winter face bar"):
                pick(page, page.get_by_test_id("add-compared"), name, exact=True)
            page.get_by_test_id("comparison").wait_for()
            take(page, "compare")
            take_batches(page, server.url)
            page.goto(f"{server.url}stock")
            page.get_by_test_id("stock-coconut").wait_for()
            take(page, "stock")
            page.get_by_role("link", name="To buy", exact=True).click()
            page.get_by_test_id("buy-total").wait_for()
            take(page, "buying")
            batches = page.request.get(f"{server.url}api/batches").json()["batches"]
            page.goto(f"{server.url}batches/{next(one['id'] for one in batches if one['code'] == 'B-092')}/label")
            page.get_by_test_id("label-drawing").wait_for()
            take(page, "label")
            dusty = next(one["id"] for one in batches if one["code"] == "B-098")
            page.goto(f"{server.url}guide/faults/ash?batch={dusty}")
            page.get_by_test_id("cause-wet").wait_for()
            take(page, "faults")
            page.goto(f"{server.url}preparations")
            page.get_by_role("link", name="Hut hand wash").click()
            page.get_by_test_id("weights").wait_for()
            take(page, "dilution")
        with new_page(running, width=390, height=844, has_touch=True) as page:
            open_formula(page, server.url)
            take(page, "phone")
    with (
        running_server(demo=False) as server,
        sync_playwright() as playwright,
        chromium(playwright) as running,
        new_page(running) as page,
    ):
        page.goto(server.url)
        page.get_by_test_id("starter-plants").wait_for()
        take(page, "first-use")


if __name__ == "__main__":
    main()
