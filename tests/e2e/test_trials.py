"""A walk through comparing: versions side by side, what changed, files, and a set of single changes made."""

from playwright.sync_api import Page, expect

from e2e.driver import Server, open_formula, pick, settle


def test_versions_side_by_side_files_and_a_trial_set(page: Page, server: Server):
    open_formula(page, server.url)
    settle(page)
    page.get_by_role("link", name="Compare").click()
    expect(page.get_by_test_id("compared-1")).to_contain_text("Hut guest bar")
    for name in ("Hut guest bar, version 1", "Guides' resin-hand scrub"):
        pick(page, page.get_by_test_id("add-compared"), name)
    table = page.get_by_test_id("comparison")
    expect(table.get_by_role("row", name="Hardness")).to_contain_text("43.1")
    expect(table.locator("thead th")).to_have_count(4)
    page.get_by_label("Hold the others against Hut guest bar, version 1").click()
    expect(page.get_by_test_id("compared-1")).to_contain_text("version 1")
    for kind in ("csv", "pdf"):
        with page.expect_download() as download:
            page.get_by_test_id(f"download-{kind}").click()
        assert download.value.suggested_filename == f"comparison.{kind}"
    page.reload()
    expect(page.get_by_test_id("compared-1")).to_contain_text("version 1")
    for trial in ("superfat-2", "sugar"):
        page.get_by_test_id(f"trial-{trial}").check()
    page.get_by_test_id("make-trials").click()
    expect(page.get_by_test_id("compared-3")).to_contain_text("trial: ")
    expect(table.get_by_role("row", name="Oils g")).to_contain_text("500")


def test_what_changed_and_old_addresses(page: Page, server: Server):
    open_formula(page, server.url)
    formula = page.url
    page.get_by_role("link", name="History").click()
    expect(page.get_by_test_id("history")).to_contain_text("Shea butter in at 5 %")
    expect(page.get_by_role("heading", level=1)).to_be_focused()
    page.goto(f"{server.url}trials?with={formula.rsplit('/', 1)[1]}")
    page.wait_for_url("**/compare?with=*")
    expect(page.get_by_test_id("compared-1")).to_contain_text("Hut guest bar")
    page.goto(f"{server.url}shelf")
    page.wait_for_url("**/stock")
    page.goto(f"{server.url}nowhere")
    expect(page.get_by_role("heading", name="There is no such page")).to_be_visible()


def test_a_trade_is_made_from_the_bench(page: Page, server: Server):
    open_formula(page, server.url)
    settle(page)
    page.get_by_test_id("tab-trades").click()
    page.get_by_test_id("trade-coconut-olive-refined").click()
    settle(page)
    expect(page.get_by_test_id("amount-coconut")).to_have_value("21.0")
    expect(page.get_by_test_id("amount-olive-refined")).to_have_value("39.0")
    page.keyboard.press("Control+z")
    settle(page)
    expect(page.get_by_test_id("amount-coconut")).to_have_value("26.0")
