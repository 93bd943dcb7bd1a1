"""Walks through solving: a shaving bar from a blank page, and what cannot be had."""

from playwright.sync_api import Page, expect

from e2e.driver import Server, calc, open_formula, settle, shown


def test_a_shaving_bar_from_a_blank_page(page: Page, server: Server):
    page.goto(f"{server.url}formulas")
    page.get_by_test_id("new-formula").click()
    page.wait_for_url("**/formulas/*")
    page.get_by_test_id("lye.naoh_purity_percent").fill("99")
    expect(page.get_by_test_id("save-state")).to_have_attribute("data-kind", "saved")
    page.get_by_role("link", name="Solve").click()
    page.get_by_test_id("solve-purpose").click()
    page.get_by_role("menuitem", name="Shaving").click()
    expect(page.get_by_test_id("dense_lather-minimum")).to_have_value("42")
    first = page.get_by_test_id("solutions").locator("label").first
    expect(first).to_contain_text("best, proven · everything met")
    expect(page.get_by_test_id("keep-solution")).to_be_enabled()
    page.keyboard.press("Control+Enter")
    page.wait_for_url(lambda url: not url.endswith("/solve"))
    expect(page.get_by_test_id("purpose-chip")).to_contain_text("shaving")
    # Part of its lye is KOH, whose purity only the maker's own tub tells: no weight is shown before.
    purity = page.get_by_test_id("lye.koh.purity_percent")
    expect(purity).to_have_value("")
    purity.fill("90")
    settle(page)
    result = calc(page, server)
    assert all(quantity["outside_by"] == 0 for quantity in result["qualities"])
    assert shown(page, "lye-to-weigh") == result["weights"]["naoh"]


def test_a_requirement_that_cannot_be_met_is_explained(page: Page, server: Server):
    open_formula(page, server.url)
    settle(page)
    page.get_by_role("link", name="Solve").click()
    for field, points in (("hardness-minimum", "60"), ("hardness-maximum", "70"), ("conditioning-minimum", "60"),
                          ("conditioning-maximum", "70")):  # fmt: skip
        page.get_by_test_id(field).fill(points)
    conflict = page.get_by_test_id("conflict")
    expect(conflict).to_contain_text("cannot hold together", timeout=20_000)
    expect(conflict).to_contain_text("would have to give")
    page.get_by_test_id("hardness-maximum").fill("30")
    expect(page.get_by_role("alert")).to_contain_text("The target range of hardness runs from 60 down to 30.")
    expect(page.get_by_test_id("keep-solution")).to_be_disabled()
    # Leaving mid-search loses nothing and the formula is as it was.
    page.get_by_role("link", name="Design").click()
    settle(page)
    assert shown(page, "lye-to-weigh") == 143.0


def test_limits_are_kept(page: Page, server: Server):
    open_formula(page, server.url)
    settle(page)
    page.get_by_role("link", name="Solve").click()
    page.get_by_role("button", name="no palm").click()
    page.get_by_role("button", name="no animal").click()
    page.get_by_test_id("limit-oil").fill("shea butter")
    page.keyboard.press("Enter")
    page.get_by_test_id("shea-minimum_percent").fill("8")
    solutions = page.get_by_test_id("solutions").locator("label")
    expect(solutions.first).to_contain_text("Shea butter", timeout=20_000)
    # The answer before had shea too: the new one is there when the palm is gone.
    expect(solutions.filter(has_text="Palm")).to_have_count(0, timeout=20_000)
    for text in solutions.all_inner_texts():
        assert "Shea butter" in text
        assert "Palm" not in text
        assert "Lard" not in text
