"""Walks through bands: dragged and typed on the bench, saved by name, taken up by Solve."""

from playwright.sync_api import Page, expect

from e2e.driver import Server, calc, open_formula, settle


def cleansing_band(page: Page, server: Server) -> dict:
    return next(figure["band"] for figure in calc(page, server)["qualities"] if figure["quality"] == "cleansing")


def test_bands_are_dragged_typed_undone_and_saved(page: Page, server: Server):
    open_formula(page, server.url)
    settle(page)
    track = page.get_by_test_id("track-cleansing")
    expect(track).to_contain_text("2.0 over")
    edge = track.locator("[data-edge=maximum]").bounding_box()
    assert edge is not None
    page.mouse.move(edge["x"] + 8, edge["y"] + 10)
    page.mouse.down()
    page.mouse.move(edge["x"] + 40, edge["y"] + 10, steps=4)
    page.mouse.up()
    expect(track).not_to_contain_text("over")
    settle(page)
    assert cleansing_band(page, server)["maximum"] > 25
    page.get_by_role("button", name="Undo").click()
    expect(track).to_contain_text("2.0 over")
    # The same by keyboard, one point a press.
    track.locator("[data-edge=maximum]").focus()
    for _ in range(2):
        page.keyboard.press("ArrowRight")
    expect(track).not_to_contain_text("over")
    settle(page)
    assert cleansing_band(page, server) == {"quality": "cleansing", "minimum": 12, "maximum": 21}
    # Typed, and saved by name.
    page.get_by_test_id("bands-menu").click()
    page.get_by_role("menuitem", name="Type the bands").click()
    page.get_by_test_id("band-cleansing-minimum").fill("9")
    page.get_by_role("button", name="Done").click()
    page.get_by_test_id("bands-menu").click()
    page.get_by_role("menuitem", name="Save them by name").click()
    page.get_by_test_id("target-set-name").fill("Ridge bar")
    page.get_by_test_id("save-target-set").click()
    expect(page.get_by_test_id("bands-menu")).to_contain_text("Ridge bar bands")
    settle(page)
    page.get_by_role("link", name="Solve").click()
    expect(page.get_by_test_id("cleansing-minimum")).to_have_value("9")


def test_a_saved_set_is_taken_up_and_removed_with_a_way_back(page: Page, server: Server):
    open_formula(page, server.url)
    settle(page)
    page.get_by_test_id("bands-menu").click()
    page.get_by_role("menuitem", name="Winter guests").first.click()
    expect(page.get_by_test_id("bands-menu")).to_contain_text("Winter guests bands")
    expect(page.get_by_test_id("track-cleansing")).to_contain_text("6.0 over")
    page.get_by_test_id("bands-menu").click()
    page.get_by_role("menuitem", name="Winter guests").last.click()
    expect(page.get_by_test_id("bands-menu")).to_contain_text("own bands")
    page.get_by_role("button", name="Put it back").click()
    expect(page.get_by_test_id("bands-menu")).to_contain_text("Winter guests bands")
    page.get_by_test_id("bands-menu").click()
    page.get_by_role("menuitem", name="its purpose").click()
    expect(page.get_by_test_id("track-cleansing")).to_contain_text("2.0 over")


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
    expect(page.get_by_text("best proven")).to_be_visible(timeout=20_000)
