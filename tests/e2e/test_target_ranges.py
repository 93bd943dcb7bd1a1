"""Walks through target ranges: dragged and typed on the bench, saved by name, taken up by Solve."""

from playwright.sync_api import Page, expect

from e2e.driver import Server, calc, drag, open_formula, settle


def cleansing_range(page: Page, server: Server) -> dict:
    return next(
        quantity["target_range"] for quantity in calc(page, server)["qualities"] if quantity["quality"] == "cleansing"
    )


def test_target_ranges_are_dragged_typed_undone_and_saved(page: Page, server: Server):
    open_formula(page, server.url)
    settle(page)
    scale = page.get_by_test_id("scale-cleansing")
    expect(scale).to_contain_text("2.0 over")
    drag(page, scale.locator("[data-edge=maximum]"), right=32)
    expect(scale).not_to_contain_text("over")
    settle(page)
    assert cleansing_range(page, server)["maximum"] > 25
    page.get_by_role("button", name="Undo").click()
    expect(scale).to_contain_text("2.0 over")
    # The same by keyboard, one point a press.
    scale.locator("[data-edge=maximum]").focus()
    for _ in range(2):
        page.keyboard.press("ArrowRight")
    expect(scale).not_to_contain_text("over")
    settle(page)
    assert cleansing_range(page, server) == {"quality": "cleansing", "minimum": 12, "maximum": 21}
    # Typed, and saved by name.
    page.get_by_test_id("target-ranges-menu").click()
    page.get_by_role("menuitem", name="Type the target ranges").click()
    page.get_by_test_id("target-range-cleansing-minimum").fill("9")
    page.get_by_role("button", name="Done").click()
    page.get_by_test_id("target-ranges-menu").click()
    page.get_by_role("menuitem", name="Save them by name").click()
    page.get_by_test_id("target-set-name").fill("Ridge bar")
    page.get_by_test_id("save-target-set").click()
    expect(page.get_by_test_id("target-ranges-menu")).to_contain_text("Ridge bar target ranges")
    settle(page)
    page.get_by_role("link", name="Solve").click()
    expect(page.get_by_test_id("cleansing-minimum")).to_have_value("9")


def test_a_saved_set_is_taken_up_and_removed_with_a_way_back(page: Page, server: Server):
    open_formula(page, server.url)
    settle(page)
    page.get_by_test_id("target-ranges-menu").click()
    page.get_by_role("menuitem", name="Winter guests").first.click()
    expect(page.get_by_test_id("target-ranges-menu")).to_contain_text("Winter guests target ranges")
    expect(page.get_by_test_id("scale-cleansing")).to_contain_text("6.0 over")
    page.get_by_test_id("target-ranges-menu").click()
    page.get_by_role("menuitem", name="Winter guests").last.click()
    expect(page.get_by_test_id("target-ranges-menu")).to_contain_text("own target ranges")
    page.get_by_role("button", name="Put it back").click()
    expect(page.get_by_test_id("target-ranges-menu")).to_contain_text("Winter guests target ranges")
    page.get_by_test_id("target-ranges-menu").click()
    page.get_by_role("menuitem", name="its purpose").click()
    expect(page.get_by_test_id("scale-cleansing")).to_contain_text("2.0 over")


def test_all_oils_may_move_with_a_swap(page: Page, server: Server):
    open_formula(page, server.url)
    settle(page)
    page.goto(f"{page.url}/swap?out=palm")
    page.get_by_test_id("swap-many").click()
    page.get_by_role("menuitem", name="may all move by up to 3 points").click()
    page.keyboard.press("Escape")
    expect(page.get_by_test_id("swap-many")).to_contain_text("the others ±3")
    first = page.get_by_test_id("candidate-1")
    expect(first).to_be_attached(timeout=20_000)
    expect(page.get_by_text("proven optimal")).to_be_visible(timeout=20_000)
