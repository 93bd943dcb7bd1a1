"""The whole way: a milk bar of two colours planned into a tight mould, printed, made on the simulated devices with one oil and
then the lye overshot and put right, interrupted and resumed, and poured."""

from uuid import uuid4

import pytest
from playwright.sync_api import Browser, Page, expect

from e2e.driver import Server, go, lent_page, shown


def begin_milk_bar(page: Page, url: str) -> None:
    """Go to the demo's milk bar and begin it."""
    go(page, f"{url}batches")
    page.get_by_role("link", name="Upper hut milk bar").click()
    page.get_by_test_id("to-make-day").click()
    page.get_by_test_id("begin").click()
    expect(page.get_by_test_id("step")).to_have_attribute("data-step", "gear")


def step_id(page: Page) -> str:
    return page.get_by_test_id("step").get_attribute("data-step") or ""


def confirm(page: Page) -> None:
    """Check every point of the step and say it is done."""
    before = step_id(page)
    for box in page.locator("main input[type=checkbox]").all():
        box.check()
    page.get_by_test_id("step-done").click()
    expect(page.locator(f"[data-step='{before}']")).to_have_count(0)


DEVICES = "fetch('/api/devices').then((answer) => answer.json())"
"""Asked by the page itself, which may be on another machine."""


def play(page: Page, button: str) -> None:
    """Do something to the simulated scale, and wait until the page shows where it came to rest."""
    with page.expect_response("**/tare" if button == "tare" else "**/api/devices/scale/*"):
        page.get_by_test_id(button).click()
    while (scale := page.evaluate(DEVICES)["scale"])["state"] != "steady":
        page.wait_for_timeout(100)
    live = page.get_by_test_id("live-weight")
    expect(live).to_have_attribute("data-scale", "steady")
    # Two neighbouring steps of the scale, when it drifts from one to the next.
    while abs(shown(page, "live-weight") - scale["weight_g"]) > 1.5 * scale["resolution_g"]:
        page.wait_for_timeout(50)
    expect(live).to_have_attribute("data-scale", "steady")


def pour(page: Page, *how: str) -> None:
    """Tare, and pour as the buttons say."""
    for button in ("tare", *how):
        play(page, button)
    expect(page.get_by_test_id("take-weight")).to_be_enabled()


def weigh_right(page: Page) -> None:
    """Tare, pour what is asked for, take the weight; what is weighed already and still right is passed."""
    before = step_id(page)
    if page.get_by_test_id("weighed-already").is_visible():
        page.get_by_test_id("weighed-already").click()
        expect(page.locator(f"[data-step='{before}']")).to_have_count(0)
        return
    pour(page, "pour-right")
    page.get_by_test_id("take-weight").click()
    expect(page.locator(f"[data-step='{before}']")).to_have_count(0)


def test_a_milk_bar_is_made_with_slips_put_right_and_resumed(page: Page, server: Server):
    # The plan: a tight mould and two colours, and a sheet to print.
    page.goto(f"{server.url}batches")
    page.get_by_role("link", name="Upper hut milk bar").click()
    expect(page.get_by_test_id("readiness")).to_contain_text("Filled to the rim")
    page.get_by_test_id("tab-colour").click()
    expect(page.get_by_test_id("portion-1")).to_contain_text("Ultramarine blue")
    batch_id = page.url.rsplit("/", 1)[1]
    sheet = page.request.get(f"{server.url}api/batches/{batch_id}/sheet.pdf")
    assert sheet.body().startswith(b"%PDF")
    # A little headroom, so that an overshoot has somewhere to go.
    page.get_by_test_id("moulds[0].headroom_mm").fill("8")
    expect(page.get_by_test_id("readiness")).not_to_contain_text("Filled to the rim")
    expect(page.get_by_test_id("save-state")).to_have_attribute("data-kind", "saved")
    page.get_by_test_id("to-make-day").click()
    page.get_by_test_id("begin").click()

    # Nothing is passed by accident.
    expect(page.get_by_test_id("step")).to_have_attribute("data-step", "gear")
    expect(page.get_by_test_id("step-done")).to_be_disabled()
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("step")).to_have_attribute("data-step", "gear")
    confirm(page)
    confirm(page)

    # The first oil is right, the second is over: the rest follows.
    weigh_right(page)
    over = step_id(page)
    pour(page, "pour-right", "pour-more")
    page.get_by_test_id("take-weight").click()
    corrections = page.get_by_test_id("corrections")
    expect(corrections).to_contain_text("over")
    page.get_by_test_id("correction-keep_blend").click()
    # What is in the bowl already wants a little more.
    expect(page.get_by_test_id("step")).not_to_have_attribute("data-step", over)
    expect(page.get_by_test_id("step")).to_contain_text("more")
    weigh_right(page)

    # Interrupted: the server is killed, the page is left, and the work goes on where it was.
    here = step_id(page)
    server.kill()
    page.get_by_test_id("note").fill("The power went.")
    page.get_by_test_id("add-note").click()
    expect(page.get_by_test_id("run-saved")).to_contain_text("No answer")
    page.goto("about:blank")
    server.start()
    page.goto(f"{server.url}batches/{batch_id}/make")
    expect(page.get_by_test_id("step")).to_have_attribute("data-step", here)
    expect(page.get_by_text("The power went.")).to_be_visible()
    expect(page.get_by_test_id("run-saved")).to_contain_text("All on disk")

    # On to the lye, which is poured too far and taken out again.
    while not step_id(page).startswith("weigh-lye"):
        (confirm if step_id(page) == "protect" else weigh_right)(page)
    expect(page.get_by_text("CAUSTIC")).to_be_visible()
    pour(page, "pour-right", "pour-more")
    page.get_by_test_id("take-weight").click()
    expect(page.get_by_test_id("corrections")).to_be_visible()
    page.get_by_test_id("correction-remove").click()
    expect(page.get_by_text("then take the weight again")).to_be_visible()
    # What was taken is not tared away unasked once more lies there; it is taken out on the same zero.
    play(page, "clear")
    play(page, "pour-right")
    page.get_by_test_id("take-weight").click()
    expect(page.get_by_test_id("step")).not_to_have_attribute("data-step", "weigh-lye:naoh")
    expect(page.get_by_test_id("made-superfat")).to_have_attribute("data-crosses", "false")

    # First aid is one touch away, at any step.
    page.get_by_test_id("first-aid").click()
    expect(page.get_by_text("running water for 15 to 20 minutes")).to_be_visible()
    page.keyboard.press("Escape")

    while step_id(page) != "temperatures":
        confirm(page)
    page.get_by_test_id("type-oils").fill("100 F")
    page.get_by_test_id("type-oils").press("Enter")
    expect(page.get_by_text("logged 37.8 °C")).to_be_visible()
    for bowl in ("oils", "lye"):
        with page.expect_response("**/api/devices/thermometer/play"):
            page.get_by_test_id(f"right-{bowl}").click()
        window = page.request.get(f"{server.url}api/batches/{batch_id}/run").json()["prepared"]["planned"]["window"]
        while not window["low_c"] <= shown(page, f"live-{bowl}") <= window["high_c"]:
            page.wait_for_timeout(100)
        page.get_by_test_id(f"log-{bowl}").click()
    expect(page.get_by_test_id("cooling")).to_contain_text("Both are ready")
    while step_id(page) != "trace":
        confirm(page)
    page.get_by_role("button", name="emulsion").click()
    page.get_by_role("button", name="light").click()
    page.get_by_role("button", name="burst").click()
    expect(page.get_by_text("1 so far")).to_be_visible()
    while step_id(page) != "pour":
        confirm(page)
    expect(page.get_by_test_id("step")).to_contain_text("cream and blue")
    while step_id(page) != "wash-up":
        confirm(page)
    confirm(page)
    page.get_by_test_id("note").fill("Less blue.")
    page.get_by_test_id("next-time").check()
    page.get_by_test_id("add-note").click()
    page.get_by_test_id("finish").click()
    expect(page.get_by_test_id("waiting")).to_contain_text("Unmould between")
    progress = page.request.get(f"{server.url}api/batches/{batch_id}/progress").json()
    assert progress["state"]["status"] == "made"
    assert progress["actual"]["superfat_percent"] == pytest.approx(6.0, abs=0.3)
    actual = progress["actual"]
    shares = zip(actual["shares_percent"], actual["planned_shares_percent"], strict=True)
    assert all(abs(made - planned) < 0.4 for made, planned in shares)
    formula_id = page.request.get(f"{server.url}api/batches/{batch_id}").json()["formula_id"]
    assert page.request.get(f"{server.url}api/formulas/{formula_id}/next-time").json()[0]["text"] == "Less blue."


def test_a_run_is_shared_by_two_screens(page: Page, server: Server):
    begin_milk_bar(page, server.url)
    other = page.context.new_page()
    other.goto(page.url)
    expect(other.get_by_test_id("step")).to_have_attribute("data-step", "gear")
    confirm(page)
    # The other screen follows by itself, or is told when it was too late.
    expect(other.get_by_test_id("step")).to_have_attribute("data-step", "room")
    confirm(other)
    expect(page.get_by_test_id("step")).to_have_attribute("data-step", "weigh-oil:2")
    other.close()


def test_typed_weights_an_unplugged_scale_and_giving_up(page: Page, server: Server):
    begin_milk_bar(page, server.url)
    confirm(page)
    confirm(page)
    page.get_by_test_id("unplug").click()
    expect(page.get_by_text("the scale is unplugged")).to_be_visible()
    expect(page.get_by_test_id("take-weight")).to_be_disabled()
    page.get_by_test_id("type-weight").click()
    before = step_id(page)
    page.get_by_test_id("typed-weight").fill("-20")
    page.get_by_test_id("take-weight").click()
    expect(page.get_by_role("alert")).to_contain_text("cannot be")
    page.get_by_test_id("typed-weight").fill("121,0 g")
    page.get_by_test_id("typed-weight").press("Enter")
    expect(page.locator(f"[data-step='{before}']")).to_have_count(0)
    page.get_by_test_id("unplug").click()
    page.get_by_role("button", name="Record, correct, give up").click()
    expect(page.get_by_text("Lard: 121.0 g, typed")).to_be_visible()
    page.get_by_role("button", name="wrong").last.click()
    page.get_by_test_id("reason").fill("Wrong bowl.")
    page.get_by_test_id("in-bowl-no").check()
    page.get_by_test_id("settle").click()
    expect(page.get_by_text("does not count: Wrong bowl.")).to_be_visible()
    page.get_by_test_id("give-up").click()
    page.get_by_test_id("reason").fill("The dog came in.")
    page.get_by_test_id("settle").click()
    expect(page.get_by_role("heading", name="Given up")).to_be_visible()
    expect(page.get_by_role("dialog")).to_have_count(0)
    expect(page.get_by_text("The dog came in.")).to_be_visible()


def lye_bar(page: Page, url: str) -> str:
    """A guest bar about to have its lye weighed; returns its address."""
    formulas = page.request.get(f"{url}api/formulas", params={"search": "Hut guest bar"}).json()["formulas"]
    formula = page.request.get(f"{url}api/formulas/{formulas[0]['id']}").json()["formula"]
    plan = {"formula": formula, "size": {"by": "oils_g", "value": 1200.0}}
    batch = page.request.post(f"{url}api/batches", data=plan).json()["id"]
    address = f"{url}api/batches/{batch}"

    def send(**event) -> dict:
        seen = len(page.request.get(f"{address}/record").json())
        body = {"key": f"walk-{uuid4().hex}", "after_seq": seen, "event": event}
        return page.request.post(f"{address}/events", data=body).json()

    send(kind="started", plan_revision=1)
    for step in page.request.get(f"{address}/run").json()["prepared"]["steps"]:
        if step["id"].startswith("weigh-lye"):
            break
        if step["weigh"]:
            weighed = {"item": step["weigh"]["item"], "weight_g": step["weigh"]["target_g"], "source": "typed"}
            send(kind="captured", **weighed)
        send(kind="step_done", step=step["id"], confirmed=step["checks"])
    page.goto(f"{url}batches/{batch}/make")
    expect(page.get_by_test_id("step")).to_have_attribute("data-step", "weigh-lye:naoh")
    return address


def play_over_http(page: Page, url: str, what: str, grams: float = 0.0) -> None:
    """Do something to the simulated scale, wherever it stands."""
    page.request.post(f"{url}api/devices/scale/play", data={"what": what, "grams": grams})


def settled(page: Page) -> None:
    expect(page.get_by_test_id("live-weight")).to_have_attribute("data-scale", "steady")


@pytest.mark.parametrize("width", [768, 390])
def test_lye_is_weighed_in_two_loads_over_a_kill_a_lost_scale_and_a_second_device(
    page: Page, server: Server, width: int
):
    page.set_viewport_size({"width": width, "height": 900})
    address = lye_bar(page, server.url)

    def run() -> dict:
        return page.request.get(f"{address}/progress").json()

    target = run()["weighing"]["target_g"]
    expect(page.get_by_text("CAUSTIC")).to_be_visible()

    # The container stands on the scale; after the tare, Enter on the button just pressed does nothing.
    play_over_http(page, server.url, "pour", 212.0)
    expect(page.get_by_test_id("goal")).to_contain_text("then tare")
    page.get_by_test_id("tare").click()
    expect(page.get_by_test_id("goal")).to_contain_text("to go")
    play_over_http(page, server.url, "pour", 80.0)
    settled(page)
    page.keyboard.press("Enter")
    page.wait_for_timeout(300)
    assert run()["state"]["captured_g"].get("lye:naoh") is None
    # A second tare with lye in the bowl is asked about.
    page.get_by_test_id("tare").click()
    expect(page.get_by_test_id("weigh-problem")).to_contain_text("has not been taken")
    page.get_by_test_id("take-weight").click()
    expect(page.get_by_test_id("corrections")).to_contain_text("short")
    page.get_by_test_id("correction-pour_on").click()

    # The second load, on a zero of its own: the goal stays where it is.
    page.get_by_test_id("tare").click()
    expect(page.get_by_test_id("in-bowl")).to_contain_text("80.")
    for grams in (40.0, 35.0):
        play_over_http(page, server.url, "pour", grams)
        settled(page)
        expect(page.get_by_test_id("in-bowl")).to_contain_text("in the bowl +")

    # The scale loses its plug: nothing on it counts any more, and the bowl has to be emptied.
    play_over_http(page, server.url, "unplug")
    expect(page.get_by_test_id("goal")).to_contain_text("unplugged")
    play_over_http(page, server.url, "plug")
    expect(page.get_by_test_id("zero-lost")).to_be_visible()
    expect(page.get_by_test_id("take-weight")).to_be_disabled()

    # The server is killed and comes back: the same is still asked for, here and on another device.
    server.kill()
    expect(page.get_by_test_id("run-saved")).to_contain_text("No answer")
    server.start()
    expect(page.get_by_test_id("run-saved")).to_contain_text("All on disk")
    expect(page.get_by_test_id("zero-lost")).to_be_visible()
    other = page.context.new_page()
    other.goto(page.url)
    expect(other.get_by_test_id("zero-lost")).to_be_visible()
    other.close()

    play_over_http(page, server.url, "clear")
    play_over_http(page, server.url, "pour", 212.0)
    settled(page)
    page.get_by_test_id("emptied").click()
    expect(page.get_by_test_id("goal")).to_contain_text(f"of {target:.1f} g")
    expect(page.get_by_test_id("in-bowl")).to_have_count(0)
    play_over_http(page, server.url, "pour_until", target)
    settled(page)
    overflow = page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth")
    assert overflow <= 0
    page.get_by_test_id("take-weight").click()
    expect(page.get_by_test_id("step")).to_have_attribute("data-step", "make-lye")
    assert run()["state"]["captured_g"]["lye:naoh"] == pytest.approx(target, abs=0.3)


def test_one_tap_an_ingredient_but_never_lye(server: Server, running_chromium: Browser):
    with lent_page(running_chromium, width=768, height=1024, takes_itself=True) as page:
        begin_milk_bar(page, server.url)
        confirm(page)
        confirm(page)
        before = step_id(page)
        # One tap: the bowl is set. The weight is taken when it is right and steady.
        play(page, "tare")
        play(page, "pour-right")
        expect(page.locator(f"[data-step='{before}']")).to_have_count(0)
        # A timer rings until it is heard, and outlives a reload.
        page.get_by_role("button", name="+5 min").click()
        expect(page.get_by_test_id("timer")).to_contain_text("4:5")
        page.reload()
        expect(page.get_by_test_id("timer")).to_contain_text("4:5")
        page.get_by_test_id("timer-stop").click()
        expect(page.get_by_test_id("timer")).to_have_count(0)
        lye_bar(page, server.url)
        before = step_id(page)
        play(page, "tare")
        play(page, "pour-right")
        page.wait_for_timeout(3000)
        assert step_id(page) == before


def test_six_tabs_share_one_stream_of_readings(page: Page, server: Server):
    lye_bar(page, server.url)
    others = [page.context.new_page() for _ in range(6)]
    for other in others:
        other.goto(page.url)
        expect(other.get_by_test_id("live-weight")).to_contain_text("0.0")
    # All of them answer, which a browser with its connections used up would not let them.
    others[-1].get_by_test_id("first-aid").click()
    expect(others[-1].get_by_text("running water for 15 to 20 minutes")).to_be_visible()
    for other in others:
        other.close()


def places_of(page: Page, *names: str) -> list[dict[str, float]]:
    """Where they stand on the page as it is opened."""
    page.evaluate("scrollTo(0, 0)")
    return [dict(page.get_by_test_id(name).bounding_box() or {}) for name in names]


@pytest.mark.parametrize("width", [1280, 390])
def test_nothing_runs_out_of_the_screen_or_moves_while_a_weight_grows(page: Page, server: Server, width: int):
    page.set_viewport_size({"width": width, "height": 844})
    begin_milk_bar(page, server.url)
    confirm(page)
    confirm(page)
    pour(page, "pour-more")
    assert shown(page, "live-weight") < 10
    before = places_of(page, "goal-weight", "goal", "gauge")
    play(page, "pour-right")
    assert shown(page, "live-weight") > 100
    assert places_of(page, "goal-weight", "goal", "gauge") == before
    expect(page.get_by_test_id("gauge")).to_be_in_viewport(ratio=1)
    # The buttons at the foot stand before what is below them.
    (take,) = places_of(page, "take-weight")
    assert before[-1]["y"] + before[-1]["height"] <= take["y"]
    page.get_by_test_id("take-weight").click()
    expect(page.locator("[data-step='weigh-oil:2']")).to_have_count(0)
    assert page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth") <= 0
    expect(page.get_by_test_id("first-aid")).to_be_visible()
