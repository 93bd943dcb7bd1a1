"""Every screen in both themes and at three widths, held against axe: by all of its rules in one of them, then by those that
look at colours, or at what scrolls."""

from collections.abc import Callable

import pytest
from playwright.sync_api import Browser, Page, expect

from e2e.driver import ROOT, Server, go, lent_page, open_formula, settle, still
from e2e.test_make_day import begin_milk_bar, confirm, pour

AXE = ROOT / "web" / "node_modules" / "axe-core" / "axe.min.js"
COMPOSITION_TABS = ("liquids", "additives", "process", "lye")
BAR_TABS = ("effects", "indices", "notes", "expect")
Walk = Callable[[Page, Server], dict[str, list[str]]]
"""From screen to screen; what axe objects to on each."""

COLOUR_RULES = ("color-contrast", "link-in-text-block")
SIZE_RULES = ("scrollable-region-focusable", "aria-hidden-focus")
RUN = """rules => axe
  .run({ resultTypes: ['violations'], preload: false, ...(rules === null ? {} : { runOnly: rules }) })
  .then(({ violations }) => violations.map(({ id, nodes }) => `${id}: ${nodes.map((node) => node.target).slice(0, 3)}`))"""
IS_DARK = "matchMedia('(prefers-color-scheme: dark)').matches"


def turn_theme(page: Page) -> None:
    """From light to dark, or from dark to light."""
    other = "light" if page.evaluate(IS_DARK) else "dark"
    page.emulate_media(color_scheme=other)
    page.locator(f"html[data-mantine-color-scheme={other}]").wait_for(state="attached")


def axe_objects(page: Page, rules: tuple[str, ...] | None = None) -> list[str]:
    """What axe objects to in the theme of the page, a line a rule: by all of its rules, or those named."""
    if page.evaluate("typeof axe === 'undefined'"):
        page.evaluate(AXE.read_text())
    found: list[str] = page.evaluate(RUN, rules)
    return found


def audit(page: Page) -> list[str]:
    """What axe objects to once the page stands still: in its theme, then in the colours of the other, which stays."""
    still(page)
    found = axe_objects(page)
    turn_theme(page)
    still(page, calm_ms=30)
    return [*found, *axe_objects(page, COLOUR_RULES)]


FINGER_PX = 44
TOO_SMALL = """least => {
  // What a finger reaches: the control itself, its labels, and the ground around it that belongs to it.
  const reach = (one) => {
    const around = getComputedStyle(one, '::after');
    const own = around.position === 'absolute' ? [{ width: parseFloat(around.width), height: parseFloat(around.height) }] : [];
    const boxes = [one, one.closest('label'), ...(one.labels ?? [])].filter(Boolean).map((box) => box.getBoundingClientRect());
    return ['width', 'height'].map((side) => Math.max(...[...boxes, ...own].map((box) => box[side] || 0)));
  };
  const isSeen = (one) => one.getBoundingClientRect().width > 1 && one.checkVisibility({ visibilityProperty: true });
  return [...document.querySelectorAll('a[href], button, input:not([type=file]), select, textarea, summary')]
    .filter((one) => isSeen(one) && reach(one).some((px) => px < least - 0.5))
    .map((one) => `${one.getAttribute('aria-label') || one.textContent || one.name}: ${reach(one).map(Math.round)}`);
}"""


CUT = """() => [...document.querySelectorAll('input')]
  .filter((one) => /^[-−]?[0-9 .,]+$/.test(one.value) && one.scrollWidth > one.clientWidth + 1)
  .map((one) => `${one.getAttribute('aria-label') || one.name} ${one.value} is cut`)"""


def draw_all(page: Page) -> None:
    """Go down the page and back: a phone draws on the way."""
    page.evaluate("""async () => {
      for (let y = 0; y < document.documentElement.scrollHeight; y += 600) {
        window.scrollTo(0, y);
        await new Promise((drawn) => requestAnimationFrame(() => requestAnimationFrame(drawn)));
      }
      window.scrollTo(0, 0);
    }""")


GUIDE = (
    "guide", "guide/why/superfat", "guide/faults", "guide/faults/ash", "guide/practice", "guide/practice/unsafe", "guide/words",
    "guide/safety", "guide/workshop", "guide/backups", "guide/tablets",
)  # fmt: skip


def preparations(page: Page, server: Server) -> list[str]:
    """The list, and every plan of it with its making."""
    kept = page.request.get(f"{server.url}api/preparations").json()
    ids = [f"preparations/{entry['record']['id']}" for entry in kept]
    return ["preparations", *ids, *(f"{one}/make" for one in ids)]


def batches(page: Page, server: Server) -> dict[str, list[str]]:
    """The list, a plan with each of its tabs, the sheet, and make day at every kind of step."""
    seen = {}
    go(page, f"{server.url}batches")
    page.get_by_test_id("batch-B-103").wait_for()
    seen["batches"] = audit(page)
    page.get_by_test_id("batch-B-102").get_by_role("link").first.click()
    page.get_by_test_id("cooling").wait_for()
    seen["temperatures"] = audit(page)
    go(page, f"{server.url}batches")
    page.get_by_test_id("batch-B-101").get_by_role("link").first.click()
    page.get_by_role("link", name="Make", exact=True).click()
    page.get_by_test_id("waiting").wait_for()
    seen["made"] = audit(page)
    for code in ("B-100", "B-098", "B-094", "B-092"):
        go(page, f"{server.url}batches")
        page.get_by_test_id(f"batch-{code}").get_by_role("link").first.click()
        page.get_by_test_id("cure-record").wait_for()
        seen[f"cure of {code}"] = audit(page)
    go(page, f"{server.url}batches")
    page.get_by_role("link", name="Upper hut milk bar").click()
    page.get_by_test_id("size-words").wait_for()
    seen["scent"] = audit(page)
    page.get_by_test_id("tab-colour").click()
    seen["colour"] = audit(page)
    batch = page.url
    go(page, f"{batch}/sheet")
    page.get_by_role("heading", name="Upper hut milk bar").wait_for()
    seen["sheet"] = audit(page)
    begin_milk_bar(page, server.url)
    seen["gear"] = audit(page)
    confirm(page)
    confirm(page)
    pour(page, "pour-right", "pour-more")
    page.get_by_test_id("take-weight").click()
    page.get_by_test_id("corrections").wait_for()
    seen["corrections"] = audit(page)
    page.get_by_role("button", name="Record, correct, give up").click()
    seen["record"] = audit(page)
    return seen


def label_of(page: Page, server: Server) -> str:
    """The screen of a label."""
    batches = page.request.get(f"{server.url}api/batches").json()["batches"]
    return f"batches/{next(one['id'] for one in batches if one['code'] == 'B-092')}/label"


def screens_of_tests(page: Page, server: Server) -> list[str]:
    """Bars put to the test: a batch that is judged and one in a trial, side by side, both comparisons, the trials."""
    ids = {one["code"]: one["id"] for one in page.request.get(f"{server.url}api/batches").json()["batches"]}
    found = {what: page.request.get(f"{server.url}api/{what}").json() for what in ("comparisons", "trials")}
    return [
        f"batches/{ids['B-092']}/tests", f"batches/{ids['B-085']}/tests", f"batches/{ids['B-094']}/tests",
        f"batches/{ids['B-092']}/beside/{ids['B-093']}",
        *(f"{what}/{one['id']}" for what, ones in found.items() for one in ones),
    ]  # fmt: skip


def bench(page: Page, server: Server) -> dict[str, list[str]]:
    """Today, the list, and the bench with each of its tabs, stopped, swapped, solved and compared."""
    seen = {}
    go(page, server.url)
    page.get_by_test_id("to-do").wait_for()
    seen["today"] = audit(page)
    go(page, f"{server.url}formulas")
    page.get_by_role("link", name="Hut guest bar", exact=True).wait_for()
    seen["formulas"] = audit(page)
    open_formula(page, server.url, "Upper hut milk bar")
    settle(page)
    for composition, bar in zip(COMPOSITION_TABS, BAR_TABS, strict=True):
        page.get_by_test_id(f"tab-{composition}").click()
        page.get_by_test_id(f"tab-{bar}").click()
        seen[f"{composition}, {bar}"] = audit(page)
    page.get_by_test_id("lye-to-weigh").click()
    expect(page.get_by_test_id("explanation")).to_be_visible()
    seen["explanation"] = audit(page)
    page.keyboard.press("Escape")
    page.get_by_test_id("amount-lard").fill("90")
    settle(page, "stopped")
    seen["stopped"] = audit(page)
    open_formula(page, server.url)
    settle(page)
    page.get_by_role("link", name="Swap").click()
    page.get_by_test_id("candidate-1").wait_for(state="attached")
    page.get_by_role("button", name="Show why that misleads").click()
    seen["swap"] = audit(page)
    page.get_by_role("link", name="Solve").click()
    page.get_by_test_id("solution-1").wait_for(state="attached", timeout=20_000)
    seen["solve"] = audit(page)
    page.get_by_role("link", name="Compare").click()
    page.get_by_test_id("comparison").wait_for()
    seen["compare"] = audit(page)
    return seen


def stock(page: Page, server: Server) -> dict[str, list[str]]:
    """What there is, what is to be bought, and the maker's own materials."""
    seen = {}
    go(page, f"{server.url}stock")
    page.get_by_test_id("stock-coconut").wait_for()
    seen["stock"] = audit(page)
    page.get_by_role("button", name="C7").click()
    page.get_by_test_id("lot-trace").wait_for()
    seen["lot"] = audit(page)
    page.keyboard.press("Escape")
    page.get_by_test_id("goods-in").click()
    page.get_by_test_id("keep-lot").wait_for()
    seen["goods in"] = audit(page)
    page.keyboard.press("Escape")
    page.get_by_test_id("mix-lots").click()
    page.get_by_test_id("mix-code").wait_for()
    seen["mix"] = audit(page)
    page.keyboard.press("Escape")
    page.get_by_role("link", name="To buy", exact=True).click()
    page.get_by_test_id("buy-total").wait_for()
    seen["buying"] = audit(page)
    page.get_by_test_id("read-price-list").click()
    seen["price list"] = audit(page)
    page.keyboard.press("Escape")
    page.get_by_role("link", name="Own materials").click()
    page.get_by_test_id("materials").wait_for()
    page.get_by_test_id("new-material").click()
    page.get_by_test_id("content.sap_koh_mg_per_g").fill("19")
    page.get_by_role("button", name="Take 190").wait_for()
    seen["material"] = audit(page)
    return seen


def other_places(page: Page, server: Server) -> dict[str, list[str]]:
    """The workshop, bars put to the test, a label, what is brought in, the week, the guide, and what is prepared."""
    seen = {}
    go(page, f"{server.url}guide/workshop")
    page.get_by_test_id("tub-name").wait_for()
    seen["workshop"] = audit(page)
    for screen in (
        *screens_of_tests(page, server), label_of(page, server), "bring-in/stock", "week", "learning", *GUIDE,
        *preparations(page, server),
    ):  # fmt: skip
        go(page, f"{server.url}{screen}")
        page.get_by_role("heading", level=1).wait_for()
        seen[screen] = audit(page)
    return seen


@pytest.mark.parametrize("walk", [bench, stock, batches, other_places])
def test_axe_finds_nothing_in_either_theme(running_chromium: Browser, server: Server, walk: Walk):
    with lent_page(running_chromium) as page:
        seen = walk(page, server)
    assert seen
    assert {screen: found for screen, found in seen.items() if found} == {}


NARROW_PX = (390, 768)


def objections(page: Page, width: int, rules: tuple[str, ...] | None = None) -> list[str]:
    """What axe objects to, by `rules` or all; what a finger misses, what is cut, and whether something runs out of sight."""
    draw_all(page)
    still(page)
    wide = page.evaluate("document.documentElement.scrollWidth")
    found = [*page.evaluate(TOO_SMALL, FINGER_PX), *page.evaluate(CUT), *([f"{wide} px wide"] if wide > width else [])]
    return [*found, *axe_objects(page, rules)]


@pytest.mark.parametrize("half", [0, 1])
def test_narrow_screens_hold_too_nothing_runs_out_of_them_and_a_finger_meets_what_is_touched(
    running_chromium: Browser, server: Server, half: int
):
    with lent_page(running_chromium, width=NARROW_PX[0], height=900, has_touch=True) as page:
        found = page.request.get(f"{server.url}api/formulas", params={"search": "Hut guest bar"}).json()
        formula = f"formulas/{found['formulas'][0]['id']}"
        ids = {one["code"]: one["id"] for one in page.request.get(f"{server.url}api/batches").json()["batches"]}
        made, making, planned = (f"batches/{ids[code]}" for code in ("B-101", "B-102", "B-103"))
        screens = (
            "", "formulas", formula, f"{formula}/solve", f"{formula}/swap", f"{formula}/compare", f"{formula}/history",
            f"{formula}/recipe", "batches", planned, f"{planned}/sheet", f"{making}/make", f"{made}/make", f"{made}/log",
            "stock", *GUIDE, *preparations(page, server),
            *(f"batches/{ids[code]}/cure" for code in ("B-100", "B-098", "B-094", "B-092")),
            *screens_of_tests(page, server), "week", "learning", "stock/buying", "stock/materials", "bring-in/formulas",
            f"batches/{ids['B-092']}/label", f"batches/{ids['B-093']}/label",
        )  # fmt: skip
        seen = {}
        at = 0
        for screen in screens[half::2]:
            go(page, f"{server.url}{screen}")
            page.get_by_role("heading", level=1).wait_for()
            seen[screen, NARROW_PX[at]] = objections(page, NARROW_PX[at])
            # The other width and theme, at which the next screen is opened; colours of both themes are seen on wide screens.
            turn_theme(page)
            at = 1 - at
            page.set_viewport_size({"width": NARROW_PX[at], "height": 900})
            seen[screen, NARROW_PX[at]] = objections(page, NARROW_PX[at], SIZE_RULES)
    assert {screen: what for screen, what in seen.items() if what} == {}


def test_no_number_of_the_bench_is_cut_at_any_width(running_chromium: Browser, server: Server):
    with lent_page(running_chromium, height=900) as page:
        open_formula(page, server.url)
        settle(page)
        page.get_by_test_id("tab-lye").wait_for()
        cut = {}
        for width in range(360, 1460, 20):
            page.set_viewport_size({"width": width, "height": 900})
            page.wait_for_timeout(60)
            cut[width] = page.evaluate(CUT)
    assert {width: what for width, what in cut.items() if what} == {}
