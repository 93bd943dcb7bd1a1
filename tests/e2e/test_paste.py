"""From two oils to a labelled bottle, on the simulated devices; a bar that is cooked; a fault found; practice by keyboard."""

import pytest
from playwright.sync_api import Browser, Page, expect

from e2e.driver import Server, go, lent_page
from e2e.test_make_day import confirm, step_id, weigh_right

KOH = {"naoh_purity_percent": None, "koh": {"by": "saponification_percent", "value": 100, "purity_percent": 90}}


def planned(
    page: Page, url: str, *, name: str, oils: dict[str, float], plan: dict[str, object], **formula: object
) -> str:
    """A batch of a new formula, planned over the API; returns its id."""
    whole = page.request.get(f"{url}api/starting-formula").json() | {"name": name} | formula
    whole["blend"] = {
        "total_oils_g": None, "lines": [{"oil": oil, "by": "weight_g", "value": grams} for oil, grams in oils.items()]
    }  # fmt: skip
    kept = page.request.post(f"{url}api/formulas", data=whole).json()
    start = page.request.get(f"{url}api/formulas/{kept['id']}/batch-plan").json()
    return page.request.post(f"{url}api/batches", data=start | plan).json()["id"]


def go_to(page: Page, wanted: str) -> None:
    """Do every step up to one: weigh what is weighed, confirm what is confirmed."""
    while (now := step_id(page)) != wanted:
        if now.startswith("weigh-"):
            weigh_right(page)
        else:
            confirm(page)


def test_two_oils_become_twelve_bottles_with_a_label(page: Page, server: Server):
    batch = planned(
        page, server.url, name="Hut wash paste", oils={"olive-refined": 700, "coconut": 300}, purpose="liquid-soap", lye=KOH,
        superfat_percent=2, water={"by": "water_to_lye", "value": 3}, process={"method": "hot"},
        plan={"moulds": [], "jar_g": 500},
    )  # fmt: skip
    page.goto(f"{server.url}batches/{batch}")
    expect(page.get_by_test_id("jar_g")).to_have_value("500")
    page.get_by_test_id("to-make-day").click()
    page.get_by_test_id("begin").click()
    go_to(page, "paste")
    for stage in ("thin", "sauce", "mash", "jelly"):
        page.get_by_test_id(f"stage-{stage}").click()
        expect(page.get_by_test_id(f"stage-{stage}")).to_contain_text("after")
    confirm(page)
    # It does not leave the heat while it zaps.
    page.get_by_test_id("outcome-zaps").click()
    page.get_by_test_id("step-done").click()
    expect(page.get_by_role("alert")).to_contain_text("not passed")
    page.get_by_test_id("outcome-none").click()
    expect(page.get_by_test_id("tests-made")).to_contain_text("passed")
    confirm(page)
    page.get_by_test_id("outcome-clear").click()
    expect(page.get_by_test_id("tests-made")).to_contain_text("passed")
    confirm(page)
    page.get_by_test_id("packed-weight").fill("1650")
    page.get_by_test_id("note-packed").click()
    expect(page.get_by_test_id("packed")).to_contain_text("jars")
    go_to(page, "wash-up")
    confirm(page)
    page.get_by_test_id("finish").click()
    expect(page.get_by_role("heading", name="Made")).to_be_visible()

    # The paste is there; twelve bottles of it at 25 %.
    go(page, f"{server.url}preparations")
    expect(page.get_by_text("Hut wash paste")).to_be_visible()
    page.get_by_test_id("start-dilution").click()
    page.get_by_test_id("preparation-name").fill("Hut wash")
    page.get_by_test_id("soap_percent").fill("25")
    page.get_by_test_id("bottles").fill("12")
    page.get_by_test_id("bottle_ml").fill("200")
    page.get_by_test_id("preservative").select_option("benzoate-sorbate")
    expect(page.get_by_test_id("readiness")).to_contain_text("works from pH 2 to 5.5")
    expect(page.get_by_test_id("to-make")).to_be_disabled()
    page.get_by_test_id("preservative").select_option("phenoxyethanol-glycol")
    expect(page.get_by_test_id("to-make")).to_be_enabled()
    page.get_by_test_id("to-make").click()
    page.get_by_test_id("begin").click()
    while (now := step_id(page)) != "dilute-bottle":
        if now == "dilute-ph":
            page.get_by_test_id("ph").fill("9.7")
            page.get_by_test_id("note-ph").click()
            expect(page.get_by_test_id("tests-made")).to_contain_text("passed")
            confirm(page)
        elif now.startswith("weigh-"):
            weigh_right(page)
        else:
            confirm(page)
    expect(page.get_by_test_id("jars")).to_have_value("12")
    page.get_by_test_id("packed-weight").fill("2455")
    page.get_by_test_id("note-packed").click()
    # The server is killed: nothing that was acknowledged is lost.
    expect(page.get_by_test_id("packed")).to_contain_text("12 bottles")
    server.kill()
    server.start()
    page.reload()
    expect(page.get_by_test_id("packed")).to_contain_text("12 bottles")
    confirm(page)
    confirm(page)
    page.get_by_test_id("finish").click()
    page.get_by_test_id("to-label").click()
    expect(page.get_by_test_id("net-content")).to_contain_text("200 mL")
    page.get_by_test_id("label-style").get_by_text("INCI").click()
    expect(page.get_by_text("Potassium Olivate").first).to_be_visible()
    labels = page.url.replace("preparations", "api/labels").removesuffix("/label")
    assert page.request.get(f"{labels}/labels.pdf?count=12").ok


def test_a_bar_is_cooked_and_a_salt_bar_is_not_wrapped(page: Page, server: Server):
    cooked = planned(
        page, server.url, name="Cooked bar", oils={"olive-refined": 500, "coconut": 300},
        plan={"size": {"by": "oils_g", "value": 800}}, lye={"naoh_purity_percent": 99}, process={"method": "hot"},
    )  # fmt: skip
    page.goto(f"{server.url}batches/{cooked}/make")
    page.get_by_test_id("begin").click()
    go_to(page, "cook")
    page.get_by_test_id("stage-glassy").click()
    confirm(page)
    page.get_by_test_id("ph").fill("11")
    page.get_by_test_id("note-ph").click()
    expect(page.get_by_test_id("tests-made")).to_contain_text("not yet")
    page.get_by_test_id("ph").fill("10.2")
    page.get_by_test_id("note-ph").click()
    expect(page.get_by_test_id("tests-made")).to_contain_text("pH 10.2: passed")
    confirm(page)
    expect(page.get_by_test_id("step")).to_have_attribute("data-step", "fluid")
    salt = {"additive": "salt", "by": "percent_of_oils", "value": 50}
    salted = planned(
        page, server.url, name="Salt bar", oils={"coconut": 800, "castor": 50},
        plan={"size": {"by": "oils_g", "value": 850}}, lye={"naoh_purity_percent": 99}, superfat_percent=18,
        additives=[salt], purpose="salt-bar",
    )  # fmt: skip
    # From one make day straight to another: nothing of the first is taken for the second.
    go(page, f"{server.url}batches/{salted}/make")
    page.get_by_test_id("begin").click()
    go_to(page, "cover")
    expect(page.get_by_test_id("step")).to_contain_text("No blanket and no oven")
    page.get_by_test_id("timer-60").click()
    expect(page.get_by_test_id("timer")).to_contain_text(":")


@pytest.fixture
def phone(running_chromium: Browser):
    with lent_page(running_chromium, width=390, height=844) as page:
        yield page


def test_three_exercises_by_keyboard_on_a_phone(phone: Page, server: Server):
    for kind in ("trace", "unsafe", "fault"):
        phone.goto(f"{server.url}guide/practice/{kind}")
        phone.get_by_test_id("option-1").wait_for()
        phone.keyboard.press("1")
        expect(phone.get_by_test_id("option-1")).to_have_attribute("aria-checked", "true")
        phone.keyboard.press("Enter")
        expect(phone.get_by_test_id("verdict")).to_be_focused()
        assert phone.evaluate("document.documentElement.scrollWidth") <= 390
    phone.goto(f"{server.url}guide/practice")
    expect(phone.get_by_test_id("practise-trace")).to_contain_text("of 1 answers")


def test_ash_is_found_from_the_record_of_its_batch(page: Page, server: Server):
    page.goto(f"{server.url}batches")
    page.get_by_test_id("batch-B-098").get_by_role("link").first.click()
    page.get_by_role("link", name="Find out more").click()
    expect(page.get_by_test_id("cause-wet")).to_contain_text("wet")
    first = page.locator("[data-testid^=cause-]").first
    expect(first).to_contain_text("Too much water")
    page.get_by_test_id("wipes_off_fuzzy-yes").click()
    expect(page.locator("[data-testid^=cause-]").first).to_contain_text("Mould, not ash")
