"""Walks through the swap: palm out of the guest bar, levers, and a version kept."""

import pytest
from playwright.sync_api import Page, expect

from e2e.driver import Server, calc, open_formula, settle, shown


def pick(page: Page, chip: str, *names: str) -> None:
    """Open a chip by keyboard, tick entries by their names, and close it."""
    page.get_by_test_id(chip).focus()
    page.keyboard.press("Enter")
    # A menu that opens takes the focus once more.
    expect(page.locator("[role=menu]:focus, [role=menu] :focus")).to_have_count(1)
    for name in names:
        item = page.get_by_role("menuitemcheckbox", name=name, exact=True)
        wanted = "false" if item.get_attribute("aria-checked") == "true" else "true"
        item.focus()
        page.keyboard.press("Enter")
        expect(item).to_have_attribute("aria-checked", wanted)
    page.keyboard.press("Escape")


def test_palm_out_by_keyboard_alone(page: Page, server: Server):
    open_formula(page, server.url)
    settle(page)
    lye_before = shown(page, "lye-to-weigh")
    page.keyboard.press("Control+k")
    expect(page.get_by_label("Find or do", exact=True)).to_be_focused()
    page.keyboard.type("swap an oil")
    expect(page.get_by_text("See replacements when an oil has to go")).to_be_visible()
    page.keyboard.press("Enter")
    page.wait_for_url("**/swap")
    expect(page.get_by_test_id("candidate-1")).to_be_attached()
    pick(page, "swap-out", "Palm 30.0 %")
    expect(page.get_by_test_id("swap-without")).to_contain_text("palm")  # It goes on principle.
    pick(page, "swap-without", "animal", "tree nuts")
    words = page.get_by_test_id("swap-words")
    expect(words).to_contain_text("Palm gave 15 of 43 points of hardness")
    expect(words).to_contain_text("Shea butter stays, and is not surely free of tree nuts")
    pick(page, "swap-out", "Shea butter 5.0 %")
    expect(words).to_contain_text("Palm and shea butter gave")
    expect(words).not_to_contain_text("stays, and")
    first = page.get_by_test_id("candidate-1")
    first.focus()
    page.keyboard.press("ArrowDown")
    expect(page.get_by_test_id("candidate-2")).to_be_checked()
    page.keyboard.press("ArrowUp")
    expect(first).to_be_checked()
    page.keyboard.press("Control+Enter")
    page.wait_for_url(lambda url: not url.endswith("/swap"))
    settle(page)
    expect(page.get_by_test_id("version-chip")).to_contain_text("version 5 kept")
    expect(page.get_by_test_id("line-palm")).to_have_count(0)
    result = calc(page, server)
    assert shown(page, "lye-to-weigh") == result["weights"]["naoh"] != lye_before
    assert sum(oil["share_percent"] for oil in result["oils"]) == pytest.approx(100)
    page.get_by_test_id("version-chip").click()
    expect(page.get_by_role("menu")).to_contain_text("palm out and shea butter out (on principle)")


def test_levers_answer_and_let_go(page: Page, server: Server):
    open_formula(page, server.url)
    settle(page)
    page.get_by_role("button", name="More for Palm").click()
    page.get_by_role("menuitem", name="Find a replacement").click()
    page.get_by_test_id("candidate-1").wait_for(state="attached")
    expect(page.get_by_test_id("swap-out")).to_contain_text("Palm")
    caustic = page.get_by_test_id("changed-naoh_g")
    before = caustic.inner_text()
    page.get_by_test_id("lever-superfat").click()
    expect(caustic).not_to_have_text(before)
    expect(page.get_by_test_id("lever-superfat")).to_contain_text("superfat 4 → 3 %")
    page.get_by_role("button", name="Undo all levers").click()
    expect(page.get_by_test_id("lever-superfat")).to_contain_text("superfat 5 → 4 %")
    page.get_by_role("button", name="Show why that misleads").click()
    expect(page.get_by_test_id("equal-sap")).to_contain_text("the lye changes by")
    page.get_by_test_id("keep-palm").fill("12")
    expect(page.get_by_test_id("swap-words")).to_contain_text(
        "The 18 % of palm that goes gave 9 of 43 points of hardness"
    )
    page.get_by_test_id("keep-palm").fill("35")
    expect(page.get_by_role("alert")).to_contain_text("Palm is at 30.0 % already.")
    page.get_by_test_id("keep-palm").fill("0")
    expect(page.get_by_test_id("keep-swap")).to_be_enabled()
    caustic.click()
    expect(page.get_by_test_id("explanation")).to_contain_text("NaOH to weigh")
    page.get_by_role("button", name="Close the explanation").click()
    page.get_by_test_id("test-batch").click()
    page.wait_for_url(lambda url: not url.endswith("/swap") and "swap?" not in url)
    settle(page)
    expect(page.get_by_test_id("total-oils")).to_have_value("500.0")


def test_what_cannot_be_swapped_is_said_at_once(page: Page, server: Server):
    open_formula(page, server.url, "Guest bar without palm, first try")
    page.get_by_role("link", name="Swap").click()
    expect(page.get_by_role("alert")).to_contain_text("The shares sum to 95 %, 5 short.")
    expect(page.get_by_test_id("keep-swap")).to_be_disabled()
