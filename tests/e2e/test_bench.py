"""Long walks over the bench, as a maker would take them."""

import re
from urllib.parse import urlsplit

import pytest
from playwright.sync_api import Browser, Locator, Page, expect

from e2e.driver import Server, calc, drag, lent_page, open_formula, settle, shown, still


def test_open_change_save_reload_find_again_undo(page: Page, server: Server):
    open_formula(page, server.url)
    settle(page)
    before = shown(page, "lye-to-weigh")
    assert before == calc(page, server)["weights"]["naoh"] == 143.0

    # Palm from 30 to 25: the sum is short, so result are marked as the last good ones until another oil takes it.
    page.get_by_test_id("amount-palm").fill("25")
    settle(page, "stopped")
    expect(page.get_by_test_id("last-good")).to_be_visible()
    expect(page.get_by_test_id("formula-state")).to_contain_text("sum is not 100")
    assert shown(page, "lye-to-weigh") == before
    page.get_by_role("button", name="Let one oil take it").click()
    page.get_by_role("menuitem", name="Olive, refined").click()
    settle(page)
    expect(page.get_by_test_id("amount-olive-refined")).to_have_value("39.0")

    # By hand: KOH = 390 x .190 + 250 x .199 + 260 x .257 + 50 x .179 + 50 x .180 = 208.62 g;
    # x 0.712887 x 0.95 / 0.99 = 142.71 g NaOH
    assert shown(page, "lye-to-weigh") == 142.7
    # Hardness falls by 5 points of (palm - olive) saturated acids: 50.2 - 15.5 = 34.7 % of them
    assert shown(page, "points-hardness") == pytest.approx(43.1 - 5 * 0.347, abs=0.06)
    by_command_line = calc(page, server)
    assert shown(page, "lye-to-weigh") == by_command_line["weights"]["naoh"]
    assert shown(page, "water-to-weigh") == by_command_line["weights"]["water"]

    page.reload()
    settle(page)
    expect(page.get_by_test_id("amount-palm")).to_have_value("25.0")
    assert shown(page, "lye-to-weigh") == 142.7

    page.get_by_role("link", name="Formulas").click()
    page.get_by_test_id("search").fill("guest keepers")
    expect(page.get_by_test_id("formula-list").get_by_role("listitem")).to_have_count(1)
    page.get_by_role("link", name="Hut guest bar", exact=True).click()
    settle(page)

    page.keyboard.press("Control+z")
    page.keyboard.press("Control+z")
    settle(page)
    assert shown(page, "lye-to-weigh") == before
    expect(page.get_by_test_id("amount-palm")).to_have_value("30.0")
    page.keyboard.press("Control+Shift+z")
    settle(page, "stopped")
    expect(page.get_by_test_id("amount-palm")).to_have_value("25.0")


def test_a_bar_from_nothing_by_keyboard_alone(page: Page, server: Server):
    page.goto(f"{server.url}formulas")
    page.get_by_test_id("new-formula").focus()
    page.keyboard.press("Enter")
    page.wait_for_url("**/formulas/*")
    expect(page.get_by_test_id("formula-state")).to_have_text("nothing entered yet")
    page.get_by_test_id("add-oil").wait_for()
    for words in ("olive ref 70", "coconut 25", "castor 5"):
        page.evaluate("document.activeElement.blur()")
        page.keyboard.press("a")
        page.keyboard.type(words)
        page.keyboard.press("Enter")
    expect(page.get_by_test_id("share-sum")).to_contain_text("100.0")
    # Purity is never assumed: no quantity until it has been read off the tub.
    expect(page.get_by_test_id("formula-state")).to_have_text("◐ incomplete")
    expect(page.get_by_test_id("lye-to-weigh")).to_contain_text("–")
    page.get_by_test_id("lye.naoh_purity_percent").focus()
    page.keyboard.type("99")
    settle(page)
    assert shown(page, "lye-to-weigh") == 141.1
    page.get_by_test_id("formula-name").focus()
    page.keyboard.press("Control+a")
    page.keyboard.type("Three oils")
    page.keyboard.press("Control+Shift+s")
    expect(page.get_by_label("What changed, and why")).to_be_focused()
    page.keyboard.type("Simplest bar that works")
    page.keyboard.press("Tab")
    page.keyboard.press("Tab")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("version-chip")).to_contain_text("version 1 kept")
    expect(page.get_by_role("dialog")).to_have_count(0)
    page.get_by_test_id("seam-0").focus()
    for _ in range(4):
        page.keyboard.press("ArrowDown")
    settle(page)
    expect(page.get_by_test_id("amount-olive-refined")).to_have_value("72.0")
    expect(page.get_by_test_id("amount-coconut")).to_have_value("23.0")
    page.keyboard.press("Control+k")
    expect(page.get_by_role("textbox", name="Find or do")).to_be_focused()
    page.keyboard.type("dry or delicate")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("purpose-chip")).to_contain_text("dry or delicate skin")


def test_seams_and_oils_can_be_dragged(page: Page, server: Server):
    open_formula(page, server.url)
    settle(page)
    x, y = drag(page, page.get_by_test_id("seam-0"), down=24)
    settle(page)
    olive, palm = shown(page, "amount-olive-refined"), shown(page, "amount-palm")
    assert olive > 36
    assert olive + palm == 64
    page.keyboard.press("Control+z")
    settle(page)
    expect(page.get_by_test_id("amount-olive-refined")).to_have_value("34.0")

    page.get_by_test_id("add-oil").click()
    page.get_by_test_id("add-oil").fill("cocoa")
    page.get_by_role("option", name="Cocoa butter").hover(position={"x": 60, "y": 12})
    page.mouse.down()
    page.mouse.move(x, y - 20, steps=6)
    page.mouse.up()
    settle(page)
    expect(page.get_by_test_id("amount-cocoa")).to_have_value("5.0")
    expect(page.get_by_test_id("amount-olive-refined")).to_have_value("29.0")


def test_what_cannot_be_read_stays_and_is_explained(page: Page, server: Server):
    open_formula(page, server.url)
    settle(page)
    superfat = page.get_by_test_id("superfat_percent")
    superfat.fill("five")
    expect(page.get_by_text("“five” is not a number. Write 12.5, 12,5 or 1/2.")).to_be_visible()
    expect(page.get_by_test_id("last-good")).to_be_visible()
    page.get_by_test_id("tab-notes").click()
    page.get_by_test_id("notes").click()
    page.get_by_test_id("tab-expect").click()
    expect(superfat).to_have_value("five")
    page.reload()
    expect(superfat).to_have_value("five")
    superfat.fill("50")
    expect(page.get_by_text("Superfat 50 % is outside −5 % to 40 %")).to_have_count(2)
    settle(page, "stopped")
    superfat.fill("5,5")
    settle(page)
    expect(page.get_by_test_id("last-good")).to_have_count(0)
    purity = page.get_by_test_id("lye.naoh_purity_percent")
    purity.fill("0.9")
    expect(page.get_by_text("Did you mean 90 %?").first).to_be_visible()
    page.get_by_role("button", name="Take 90 %").click()
    expect(purity).to_have_value("90.0")
    purity.fill("99")
    page.get_by_test_id("lye_concentration_percent").fill("60")
    expect(page.get_by_text("which needs at least its own weight").first).to_be_visible()
    page.get_by_test_id("water_to_lye").fill("2")
    settle(page)
    assert shown(page, "lye_concentration_percent") == 33.3
    superfat.fill("-2")
    expect(page.get_by_test_id("formula-state")).to_have_text("✕ impossible as entered")
    expect(page.get_by_test_id("advice")).to_contain_text("this soap is meant to be touched")
    page.get_by_test_id("purpose-chip").click()
    page.get_by_role("menuitem", name="Lye-heavy paste").click()
    expect(page.get_by_test_id("formula-state")).to_have_text("✕ lye-heavy: neutralise")
    expect(page.get_by_role("alert")).to_contain_text("It burns skin until it is neutralised.")


def test_weights_in_other_units_and_led_by_weight(page: Page, server: Server):
    open_formula(page, server.url)
    settle(page)
    page.get_by_role("button", name="weight", exact=True).click()
    expect(page.get_by_test_id("amount-palm")).to_have_value("300.0")
    page.get_by_test_id("amount-palm").fill("1/2 lb")
    settle(page)
    assert shown(page, "lye-to-weigh") == calc(page, server)["weights"]["naoh"]
    page.get_by_role("button", name="g: weights in grams. Change").click()
    page.get_by_role("menuitem", name="ounces (oz)").click()
    expect(page.get_by_test_id("amount-palm")).to_have_value("8.00")
    settle(page)
    grams = calc(page, server)["lye"]["naoh_g"]
    assert shown(page, "lye-to-weigh") == pytest.approx(grams / 28.349523125, abs=0.005)


def test_two_tabs_of_one_browser_agree_at_once(page: Page, server: Server):
    open_formula(page, server.url)
    other = page.context.new_page()
    other.goto(page.url)
    for tab in (page, other):
        settle(tab)
    page.get_by_test_id("superfat_percent").fill("6")
    expect(other.get_by_test_id("superfat_percent")).to_have_value("6.0")
    other.get_by_test_id("superfat_percent").fill("7")
    expect(page.get_by_test_id("superfat_percent")).to_have_value("7.0")
    settle(other)
    # What the other tab did is one step back, here too.
    page.bring_to_front()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_test_id("superfat_percent")).to_have_value("6.0")
    settle(page)


def test_two_devices_never_overwrite_one_another_unasked(page: Page, server: Server, running_chromium: Browser):
    open_formula(page, server.url)
    with lent_page(running_chromium) as other:
        other.goto(page.url)
        _conflict(page, other)


def _conflict(page: Page, other: Page) -> None:
    for tab in (page, other):
        settle(tab)
    page.bring_to_front()
    page.get_by_test_id("superfat_percent").fill("6")
    settle(page)
    other.bring_to_front()
    other.get_by_test_id("superfat_percent").fill("8")
    expect(other.get_by_role("dialog")).to_contain_text("Saved elsewhere in the meantime")
    other.get_by_role("button", name="Take theirs").click()
    expect(other.get_by_test_id("superfat_percent")).to_have_value("6.0")
    page.bring_to_front()
    page.get_by_test_id("superfat_percent").fill("7")
    settle(page)
    other.bring_to_front()
    other.get_by_test_id("superfat_percent").fill("8")
    other.get_by_role("button", name="Keep mine as a formula of its own").click()
    expect(other.get_by_test_id("formula-name")).to_have_value("Hut guest bar (my copy)")
    settle(other)
    assert shown(other, "superfat_percent") == 8
    page.bring_to_front()
    page.reload()
    settle(page)
    assert shown(page, "superfat_percent") == 7


def test_a_killed_server_loses_nothing_that_was_saved(page: Page, server: Server):
    open_formula(page, server.url)
    settle(page)
    page.get_by_test_id("superfat_percent").fill("6.5")
    settle(page)
    server.kill()
    page.get_by_test_id("superfat_percent").fill("7.5")
    expect(page.get_by_test_id("save-state")).to_contain_text("Not saved")
    expect(page.get_by_test_id("formula-state")).to_have_text("server does not answer")
    server.start()
    settle(page)
    page.reload()
    settle(page)
    assert shown(page, "superfat_percent") == 7.5


def test_code_that_does_not_come_takes_nothing_away(page: Page, server: Server):
    late = re.compile(r"/assets/(index|furtherDown|Palette)-[^/]*\.js$")
    named_in_page = page.request.get(server.url).text()
    page.route(
        late, lambda route: route.continue_() if urlsplit(route.request.url).path in named_in_page else route.abort()
    )
    page.goto(f"{server.url}formulas")
    page.get_by_role("link", name="Hut guest bar", exact=True).click()
    settle(page)
    expect(page.get_by_text("This part of the screen could not be fetched").first).to_be_visible()
    page.get_by_test_id("amount-palm").fill("25")
    settle(page, "stopped")
    # It is asked for and does not come, however busy the machine is; from then on all does.
    with page.expect_event("requestfailed", lambda request: late.search(request.url) is not None):
        page.get_by_test_id("find").click()
    page.unroute(late)
    expect(page.get_by_role("alert").filter(has_text="That did not work")).to_contain_text("could not be fetched")
    expect(page.get_by_text("This part of the screen could not be fetched")).to_have_count(0)
    page.get_by_test_id("find").click()
    expect(page.get_by_role("textbox", name="Find or do")).to_be_visible()
    expect(page.get_by_test_id("amount-palm")).to_have_value("25.0")


def test_archived_undo_versions_and_a_file(page: Page, server: Server):
    open_formula(page, server.url)
    settle(page)
    page.get_by_test_id("version-chip").click()
    page.get_by_role("menuitem", name="version 1: The first season").click()
    settle(page)
    expect(page.get_by_test_id("amount-coconut")).to_have_value("23.0")
    with page.expect_download() as download:
        page.get_by_role("button", name="More for this formula").click()
        page.get_by_role("menuitem", name="Save as a file").click()
    page.get_by_role("button", name="More for this formula").click()
    page.get_by_role("menuitem", name="Archive").click()
    expect(page.get_by_text("“Hut guest bar” is archived.")).to_be_visible()
    expect(page.get_by_role("link", name="Hut guest bar", exact=True)).to_have_count(0)
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("link", name="Hut guest bar", exact=True)).to_be_visible()
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Read a file").click()
    chooser.value.set_files(download.value.path())
    page.wait_for_url("**/formulas/*")
    settle(page)
    expect(page.get_by_test_id("amount-coconut")).to_have_value("23.0")


EXPECTED = ("unmould_hours_low", "usable_weeks", "best_weeks", "firmness_at_best", "trace_points", "shelf_months")


def test_every_quantity_on_the_bench_shows_its_explanation(page: Page, server: Server):
    open_formula(page, server.url)
    settle(page)
    openers = [
        page.get_by_test_id("lye-to-weigh"),
        page.get_by_test_id("water-to-weigh"),
        page.get_by_test_id("superfat-strip"),
        *(page.get_by_test_id(f"reading-{quantity}") for quantity in EXPECTED),
        page.get_by_test_id("scale-hardness").get_by_role("button"),
        page.locator("[data-acid='C16:0']"),
    ]
    readings = [page.get_by_test_id(f"reading-{quantity}") for quantity in ("ins", "iodine_value", "batter_g")]
    for opener in openers:
        look_at_explanation(page, opener)
    page.get_by_test_id("tab-indices").click()
    for opener in readings:
        look_at_explanation(page, opener)


def look_at_explanation(page: Page, opener: Locator) -> None:
    """Ask a quantity for its explanation, read it, and put it away."""
    opener.click()
    expect(page.get_by_test_id("explanation")).to_contain_text("How sure it is")
    page.get_by_role("button", name="Close the explanation").click()
    expect(page.get_by_test_id("explanation")).to_have_count(0)


INNER_SCROLL = """() => [...document.querySelectorAll('main *')].filter((one) => one.scrollHeight > one.clientHeight + 1
    && /auto|scroll/.test(getComputedStyle(one).overflowY)).map((one) => one.className)"""


@pytest.mark.parametrize(("width", "height"), [(1280, 800), (768, 1024), (390, 844)])
def test_the_page_scrolls_no_panel_does_and_what_matters_stays_in_sight(
    server: Server, running_chromium: Browser, width, height
):
    with lent_page(running_chromium, width=width, height=height) as page:
        for name in ("Hut guest bar", "Upper hut milk bar", "Wool-wash paste", "Guest bar without palm, first try"):
            open_formula(page, server.url, name)
            page.get_by_test_id("advice").wait_for()
            assert page.evaluate("document.documentElement.scrollWidth") == width, name
            assert page.evaluate(INNER_SCROLL) == [], name
            page.mouse.wheel(0, 4000)
            expect(page.get_by_test_id("bench-bar")).to_be_in_viewport()
            expect(page.get_by_test_id("formula-state")).to_be_in_viewport()
        # What is chosen from fits beside what it is chosen for, also on a phone.
        page.get_by_test_id("tab-additives").click()
        for field in ("add-oil", "add-additive"):
            page.get_by_test_id(field).click()
            page.keyboard.type("co")
            page.get_by_role("listbox").wait_for()
            still(page)
            assert page.evaluate("document.documentElement.scrollWidth") == width, field
            page.keyboard.press("Escape")


def test_an_unfinished_formula_is_no_error_in_the_console(page: Page, server: Server):
    complaints: list[str] = []
    page.on("console", lambda message: complaints.append(message.text) if message.type == "error" else None)
    page.on("response", lambda answer: complaints.append(answer.url) if answer.status >= 400 else None)
    open_formula(page, server.url)
    settle(page)
    page.get_by_test_id("superfat_percent").fill("")
    settle(page, "stopped")
    page.get_by_test_id("amount-coconut").fill("90")
    page.get_by_test_id("superfat_percent").fill("5")
    settle(page, "stopped")
    assert complaints == []


def test_what_a_swap_takes_the_place_of_is_kept_and_one_undo_brings_it_back(page: Page, server: Server):
    open_formula(page, server.url, "All-olive, laid down for next year")
    settle(page)
    before = page.get_by_test_id("amount-olive-virgin").input_value()
    expect(page.get_by_test_id("version-chip")).to_contain_text("no version kept")
    page.goto(f"{page.url}/solve")
    keep = page.get_by_test_id("keep-solution")
    expect(keep).to_be_enabled(timeout=30_000)
    keep.click()
    page.wait_for_url(lambda url: not url.endswith("/solve"))
    settle(page)
    expect(page.get_by_test_id("version-chip")).to_contain_text("version 2 kept")
    # The draft was never a version before, and is one now.
    formula = page.url.rsplit("/", 1)[1]
    versions = page.request.get(f"{server.url}api/formulas/{formula}/versions").json()
    assert [version["number"] for version in versions] == [2, 1]
    assert [line["oil"] for line in versions[1]["formula"]["blend"]["lines"]] == ["olive-virgin", "olive-pomace"]
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_test_id("amount-olive-virgin")).to_have_value(before)


def test_a_reload_at_once_keeps_the_edit_and_its_undo(page: Page, server: Server):
    open_formula(page, server.url)
    settle(page)
    page.get_by_test_id("superfat_percent").fill("8")
    page.reload()
    settle(page)
    assert shown(page, "superfat_percent") == 8.0
    page.get_by_role("button", name="Undo").click()
    settle(page)
    assert shown(page, "superfat_percent") == 5.0


def test_a_browser_that_thinks_it_is_offline_stops_nothing(page: Page, server: Server):
    page.goto(f"{server.url}formulas")
    page.get_by_role("link", name="Hut guest bar", exact=True).wait_for()
    page.evaluate("window.dispatchEvent(new Event('offline'))")
    page.get_by_role("link", name="Hut guest bar", exact=True).click()
    settle(page)
    page.get_by_test_id("superfat_percent").fill("7")
    settle(page)
    assert shown(page, "superfat_percent") == 7.0


def test_what_could_not_be_saved_is_saved_from_another_screen(page: Page, server: Server):
    open_formula(page, server.url)
    settle(page)
    server.kill()
    page.get_by_test_id("superfat_percent").fill("6.5")
    expect(page.get_by_test_id("save-state")).to_have_attribute("data-kind", "offline")
    page.get_by_role("link", name="Formulas").click()
    expect(page.get_by_test_id("unsaved")).to_contain_text("Hut guest bar")
    server.start()
    expect(page.get_by_test_id("unsaved")).to_have_count(0, timeout=20_000)
    page.get_by_role("link", name="Hut guest bar", exact=True).click()
    settle(page)
    assert shown(page, "superfat_percent") == 6.5
