"""Long walks through a composition: two lyes, milk, what consumes lye, paste, and materials of the maker's own."""

import pytest
from playwright.sync_api import Page, expect

from e2e.driver import Server, calc, open_formula, pick, settle, shown


def test_two_lyes_by_share_and_by_ratio_of_weights(page: Page, server: Server):
    open_formula(page, server.url)
    settle(page)
    page.get_by_test_id("lye-kind").select_option("both")
    settle(page, "stopped")
    # KOH purity is asked for, never assumed.
    expect(page.get_by_test_id("advice")).to_contain_text("KOH purity is not entered yet")
    page.get_by_test_id("lye.koh.purity_percent").fill("90")
    settle(page)
    # 209.07 g KOH x 0.95 = 3.5400 mol; a tenth by KOH: 0.354 x 56.1056 / 0.9 = 22.07 g; the rest 128.72 g NaOH
    assert shown(page, "koh-to-weigh") == 22.1
    assert shown(page, "lye-to-weigh") == 128.7
    page.get_by_test_id("lye.koh.lye_weight_percent").fill("8:2")
    settle(page)
    assert shown(page, "koh-to-weigh") == pytest.approx(4 * shown(page, "lye-to-weigh"), abs=0.25)
    weighing = calc(page, server)["weights"]
    assert (shown(page, "koh-to-weigh"), shown(page, "lye-to-weigh")) == (weighing["koh"], weighing["naoh"])
    page.get_by_test_id("tab-process").click()
    page.get_by_test_id("lye.master_percent").fill("50")
    settle(page)
    weighing = calc(page, server)["weights"]
    assert shown(page, "koh-to-weigh") == weighing["koh_solution"]
    assert shown(page, "water-to-weigh") == weighing["water"]


def test_milk_citric_acid_and_the_strip(page: Page, server: Server):
    open_formula(page, server.url)
    settle(page)
    lye = shown(page, "lye-to-weigh")
    page.get_by_test_id("tab-liquids").click()
    page.get_by_test_id("add-liquid").fill("goat")
    page.keyboard.press("Enter")
    page.get_by_test_id("liquids[0].value").fill("50")
    settle(page)
    expect(page.get_by_test_id("advice")).to_contain_text("Goat milk meets the lye: it scorches.")
    assert shown(page, "water-to-weigh") == pytest.approx(318.3 / 2, abs=0.1)
    page.get_by_test_id("liquids[0].value").fill("120")
    settle(page, "stopped")
    expect(page.get_by_text("Goat milk 120 % is outside 0 to 100 %").first).to_be_visible()
    page.get_by_test_id("liquids[0].value").fill("90")
    page.get_by_test_id("liquid-goat-milk").get_by_label("What it does").select_option("at_trace")
    settle(page, "stopped")
    expect(page.get_by_test_id("advice")).to_contain_text("Only 31.8 g of water meets 143.0 g of lye")
    page.get_by_test_id("liquids[0].value").fill("40")
    settle(page)
    page.get_by_test_id("tab-additives").click()
    page.get_by_test_id("add-additive").fill("citric")
    page.keyboard.press("Enter")
    settle(page)
    # 10 g of anhydrous citric acid take 6.25 g NaOH, 6.31 g at 99 %
    assert shown(page, "lye-to-weigh") == pytest.approx(lye + 6.3, abs=0.11)
    page.get_by_role("checkbox").uncheck()
    settle(page)
    assert shown(page, "lye-to-weigh") == lye
    expect(page.get_by_test_id("advice")).to_contain_text("Citric acid, anhydrous raises the superfat by")
    page.get_by_test_id("tab-lye").click()
    expect(page.get_by_test_id("superfat-strip")).to_have_attribute("data-crosses", "false")
    page.get_by_test_id("tab-additives").click()
    page.get_by_role("button", name="Take out Citric acid").click()
    page.get_by_test_id("tab-lye").click()
    page.get_by_test_id("superfat_percent").fill("0")
    settle(page)
    expect(page.get_by_test_id("superfat-strip")).to_have_attribute("data-crosses", "true")
    expect(page.get_by_test_id("formula-state")).to_have_text("✕ a problem to settle")
    page.reload()
    settle(page)
    page.get_by_test_id("tab-liquids").click()
    expect(page.get_by_test_id("liquids[0].value")).to_have_value("40.0")


def test_a_paste_is_thinned(page: Page, server: Server):
    open_formula(page, server.url, "Wool-wash paste")
    settle(page)
    page.get_by_test_id("dilution.soap_percent").fill("30")
    settle(page)
    paste = calc(page, server)["paste"]
    assert shown(page, "paste-yield") == pytest.approx(paste["soap_g"] / 0.3, abs=0.6)
    assert shown(page, "paste-water-to-thin-it") == pytest.approx(paste["soap_g"] / 0.3 - paste["paste_g"], abs=0.6)
    page.get_by_test_id("paste-yield").click()
    expect(page.get_by_test_id("explanation")).to_contain_text("Thinned to 30 %")


def test_what_a_soap_must_do_without(page: Page, server: Server):
    open_formula(page, server.url)
    settle(page)
    page.get_by_test_id("free-of-chip").click()
    for word in ("palm", "tree nuts"):
        page.get_by_role("menuitemcheckbox", name=word).click()
    page.keyboard.press("Escape")
    settle(page)
    advice = page.get_by_test_id("advice")
    expect(advice).to_contain_text("Palm is in this soap: Palm.")
    expect(advice).to_contain_text("Tree nuts is in this soap: Shea butter.")
    expect(page.get_by_test_id("formula-state")).to_have_text("✕ a problem to settle")


def test_a_certificate_from_the_shelf_to_the_bench(page: Page, server: Server):
    page.goto(f"{server.url}stock/materials")
    page.get_by_test_id("new-material").click()
    page.get_by_test_id("material-name").fill("Olive, lot 9")
    page.get_by_label("Certificate for", exact=True).select_option("olive-refined")
    page.get_by_test_id("content.sap_koh_mg_per_g").fill("0.19")
    expect(page.get_by_text("SAP 0.19 cannot be")).to_be_visible()
    page.get_by_role("button", name="Take 190 mg KOH/g (g KOH per g)").click()
    page.get_by_test_id("content.sap_koh_mg_per_g").fill("192")
    expect(page.get_by_test_id("material-outcome")).to_contain_text("Calculates as SAP 192.0")
    page.get_by_test_id("keep-material").click()
    expect(page.get_by_test_id("materials")).to_contain_text("Olive, lot 9")

    page.get_by_test_id("new-material").click()
    page.get_by_test_id("material-name").fill("Ring")
    page.get_by_test_id("material-kind").select_option("recipe")
    page.get_by_test_id("add-component").select_option(label="Olive, lot 9 (own)")
    page.get_by_test_id("content.components[0].share_percent").fill("60")
    expect(page.get_by_text("Oils and filler sum to 60 %.")).to_be_visible()
    page.get_by_text("Leave without keeping").click()

    open_formula(page, server.url, "Winter face bar")
    settle(page)
    page.get_by_test_id("add-oil").fill("olive lot 5")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("formula-state")).to_contain_text("sum is not 100")
    page.get_by_role("button", name="Scale to 100 %").click()
    settle(page)
    result = calc(page, server)
    own = next(oil for oil in result["oils"] if oil["name"] == "Olive, lot 9")
    assert own["oil"].startswith("own-olive-lot-9-")
    assert shown(page, "lye-to-weigh") == result["weights"]["naoh"]


def test_pastes_are_mixed_to_order(page: Page, server: Server):
    open_formula(page, server.url, "Wool-wash paste")
    settle(page)
    page.get_by_test_id("tab-mix").click()
    pick(page, page.get_by_test_id("mix-with"), "Coconut dish paste")
    page.get_by_test_id("mix-thin-to").fill("20")
    # 500 g at 60.0 % soap with 19.9 points of cleansing, 500 g at 55.0 % with 79.4:
    # 575 g of soap; (300 x 19.9 + 275 x 79.4) / 575 = 48.3 points; thinned to 20 %: 575 / 0.2 = 2875 g
    mix = page.get_by_test_id("paste-mix")
    for quantity in ("57.5 % soap in 1 000 g", "it makes 2 875 g", "cleansing 48.3"):
        expect(mix).to_contain_text(quantity)
