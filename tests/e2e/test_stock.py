"""From the tub to the sold bar: goods in, a batch that runs short, buying, lots on make day, the label, the trace."""

from pathlib import Path

from playwright.sync_api import Page, expect

from e2e.driver import Server, pick

LISTS = Path(__file__).resolve().parents[2] / "src/sapolin/demo/price_lists"


def batch_of(page: Page, server: Server, code: str) -> str:
    batches = page.request.get(f"{server.url}api/batches").json()["batches"]
    return next(one["id"] for one in batches if one["code"] == code)


def test_goods_in_with_a_sheet_and_buying_what_is_short(page: Page, server: Server):
    page.goto(f"{server.url}stock")
    page.get_by_test_id("goods-in").click()
    page.get_by_test_id("lot-material").fill("Rosemary")
    page.get_by_role("option", name="Rosemary", exact=True).click()
    page.get_by_test_id("lot-code").fill("RO1")
    page.get_by_test_id("lot-grams").fill("50")
    page.get_by_test_id("lot-allergens").fill("limonene 2.5\nsomething unclear")
    expect(page.get_by_text("Not read: something unclear")).to_be_visible()
    page.get_by_test_id("lot-allergens").fill("limonene 2.5\nlinalool 1,2 %")
    page.get_by_test_id("keep-lot").click()
    page.get_by_role("button", name="RO1").click()
    expect(page.get_by_text("limonene 2.5 %, linalool 1.2 %")).to_be_visible()
    page.keyboard.press("Escape")

    page.get_by_test_id("to-buying").click()
    expect(page.get_by_test_id("needs")).to_contain_text("short for B-103")
    before = float(page.get_by_test_id("buy-total").inner_text())
    page.get_by_test_id("read-price-list").click()
    with page.expect_file_chooser() as chooser:
        page.get_by_test_id("choose-list").click()
    chooser.value.set_files(LISTS / "valley-store.csv")
    expect(page.get_by_test_id("list-counts")).to_contain_text("2 to choose a material for")
    pick(page, page.locator('input[aria-label="Material of Paper wrap"]'), "packaging: paper wrap")
    expect(page.get_by_test_id("list-counts")).to_contain_text("1 to choose a material for")
    page.get_by_test_id("list-supplier").fill("Cheap corner")
    page.get_by_test_id("keep-list").click()
    # The same goods without freight.
    expect(page.get_by_test_id("order-Cheap corner")).to_be_visible()
    assert float(page.get_by_test_id("buy-total").inner_text()) < before
    page.get_by_role("button", name="Archive the list of Cheap corner").click()
    expect(page.get_by_test_id("buy-total")).to_have_text(f"{before:.2f}")
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_test_id("order-Cheap corner")).to_be_visible()


def test_a_wrong_tub_is_refused_on_make_day_and_the_right_one_taken(page: Page, server: Server):
    formulas = page.request.get(f"{server.url}api/formulas", params={"search": "Hut guest bar"}).json()["formulas"]
    plan = page.request.get(f"{server.url}api/formulas/{formulas[0]['id']}/batch-plan").json()
    batch = page.request.post(f"{server.url}api/batches", data=plan).json()["id"]
    at = f"{server.url}api/batches/{batch}"

    def send(key: str, **event):
        seen = len(page.request.get(f"{at}/record").json())
        return page.request.post(
            f"{at}/events", data={"key": f"walk-{key}-key", "after_seq": seen, "event": event}
        ).json()

    send("start", kind="started", plan_revision=1)
    for step in page.request.get(f"{at}/run").json()["prepared"]["steps"]:
        if step["weigh"]:
            break
        send(step["id"][:20], kind="step_done", step=step["id"], confirmed=step["checks"])
    page.goto(f"{server.url}batches/{batch}/make")
    first = page.get_by_test_id("lot-strip").locator("b").inner_text()
    page.get_by_test_id("lot-code-typed").fill("K4")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("lot-problem")).to_contain_text("Lot K4 is Canola")
    page.get_by_test_id("lot-code-typed").fill(first.lower())
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("lot-strip")).to_contain_text(f"from lot {first}")
    page.reload()
    expect(page.get_by_test_id("lot-strip")).to_contain_text(f"from lot {first}")


def test_a_label_in_two_styles_and_languages_with_a_claim_looked_at(page: Page, server: Server):
    batch = batch_of(page, server, "B-092")
    page.goto(f"{server.url}batches/{batch}/cure")
    page.get_by_role("link", name="Label").click()
    expect(page.get_by_test_id("claims").first).to_contain_text("“heals dry skin” says more than washing")
    page.get_by_role("button", name="Say “washes dry skin gently”").click()
    expect(page.get_by_test_id("label-claim")).to_have_value(
        "A mild bar that washes dry skin gently, made in the valley."
    )
    page.get_by_text("as poured", exact=True).click()
    expect(page.get_by_test_id("printed-de")).to_contain_text("Natriumhydroxid")
    page.get_by_test_id("language-fr").click()
    expect(page.get_by_test_id("printed-fr")).to_contain_text("hydroxyde de sodium")
    page.get_by_test_id("width_mm").fill("12")
    expect(page.get_by_text("12 mm is no size for a label.").first).to_be_visible()
    expect(page.get_by_test_id("print-labels")).to_be_disabled()
    page.get_by_test_id("width_mm").fill("200")
    page.get_by_test_id("label-shape").get_by_text("box").click()
    expect(page.get_by_test_id("save-state")).to_have_attribute("data-kind", "saved")
    page.reload()
    expect(page.get_by_test_id("printed-fr")).to_contain_text("hydroxyde de sodium")
    printed = page.request.get(f"{server.url}api/labels/{batch}/labels.pdf?count=3")
    assert printed.headers["content-type"] == "application/pdf"


def test_coconut_is_traced_from_delivery_to_customer(page: Page, server: Server):
    page.goto(f"{server.url}stock")
    page.get_by_test_id("find-lot").fill("vs-2231")
    page.get_by_test_id("found-lots").get_by_role("button", name="C7").click()
    expect(page.get_by_test_id("lot-trace")).to_contain_text("B-095")
    expect(page.get_by_test_id("drill")).to_contain_text("of what came in is accounted for")
    page.keyboard.press("Escape")
    page.get_by_test_id("find-lot").fill("C6")
    page.get_by_test_id("found-lots").get_by_role("button", name="C6").click()
    expect(page.get_by_test_id("lot-trace")).to_contain_text("sold")
