"""Measure what the maker waits for, and print medians against the aims."""

import statistics
import sys
import time
from collections.abc import Callable
from pathlib import Path

import httpx
from playwright.sync_api import sync_playwright

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT / "tests"))

from benchmarks.guide import measure_guide  # noqa: E402
from benchmarks.making import measure_making  # noqa: E402
from benchmarks.scale import measure_scale  # noqa: E402
from benchmarks.solving import measure_solving  # noqa: E402
from benchmarks.stock import measure_stock  # noqa: E402
from benchmarks.years import measure_years  # noqa: E402
from e2e.driver import Server, chromium, new_page, open_formula, running_server  # noqa: E402
from sapolin.core.bar.calculation import calculate  # noqa: E402
from sapolin.core.formula.document import Formula  # noqa: E402
from sapolin.core.materials.audit import audit  # noqa: E402
from sapolin.core.materials.catalogue import catalogue  # noqa: E402
from sapolin.demo import world  # noqa: E402

SEVEN_OILS = {
    "olive-refined": 34.0, "palm": 26.0, "coconut": 22.0, "shea": 6.0, "castor": 5.0, "canola": 4.0, "cocoa": 3.0,
}  # fmt: skip


def report(what: str, value: float, unit: str, aim: float) -> None:
    """One line: the measured value and the aim it is held against."""
    verdict = "ok" if value <= aim else "MISSED"
    print(f"{what:<58} {value:>9.2f} {unit:<3} aim {aim:g} {unit}  {verdict}")


def milliseconds(act: Callable[[], object], times: int, warm_up: int = 20) -> list[float]:
    """Durations of `act`, in ms, after a warm-up."""
    for _ in range(warm_up):
        act()
    durations = []
    for _ in range(times):
        start = time.perf_counter()
        act()
        durations.append((time.perf_counter() - start) * 1000)
    return durations


def p95(durations: list[float]) -> float:
    """The duration that 95 % stay under."""
    return statistics.quantiles(durations, n=20)[-1]


def seven_oil_formula() -> Formula:
    """The formula all result are measured on."""
    content = world.formula("hut-guest-bar").model_dump(mode="json")
    content["blend"]["lines"] = [{"oil": oil, "value": share} for oil, share in SEVEN_OILS.items()]
    return Formula.model_validate(content)


def measure_core(formula: Formula) -> None:
    """The core alone."""
    report(
        "core: calculate a seven-oil formula, median",
        statistics.median(milliseconds(lambda: calculate(formula), 2000)),
        "ms",
        1,
    )


def measure_chemistry() -> None:
    """A formula with everything on, and the audit of the catalogue."""
    laden = world.formula("upper-hut-milk-bar")
    durations = milliseconds(lambda: calculate(laden), 1000)
    report("core: milk bar with mixtures, acids, uncertainty, median", statistics.median(durations), "ms", 2)
    durations = milliseconds(lambda: audit(catalogue()), 20, warm_up=1)
    report(f"audit of {len(catalogue())} catalogue rows, median", statistics.median(durations), "ms", 1000)


def measure_api(server: Server, formula: Formula) -> None:
    """One request after another over loopback."""
    body = formula.model_dump(mode="json")
    with httpx.Client(base_url=server.url) as client:
        durations = milliseconds(lambda: client.post("/api/compute", json=body).raise_for_status(), 500)
    report("compute endpoint over loopback, median", statistics.median(durations), "ms", 20)
    report("compute endpoint over loopback, p95", p95(durations), "ms", 20)
    body = world.formula("upper-hut-milk-bar").model_dump(mode="json")
    with httpx.Client(base_url=server.url) as client:
        durations = milliseconds(lambda: client.post("/api/compute", json=body).raise_for_status(), 500)
    report("the same for the milk bar, p95", p95(durations), "ms", 25)


# Types a superfat and waits, frame by frame, until the lye quantity has been painted anew.
KEYSTROKE = """async () => {
  const field = document.querySelector('[data-testid=superfat_percent]');
  const quantity = document.querySelector('[data-testid=lye-to-weigh]');
  const setValue = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set;
  const frame = () => new Promise(requestAnimationFrame);
  const durations = [];
  field.focus();
  for (let i = 0; i < 40; i += 1) {
    const before = quantity.textContent;
    const start = performance.now();
    setValue.call(field, i % 2 ? '5' : '8');
    field.dispatchEvent(new Event('input', { bubbles: true }));
    while (quantity.textContent === before) await frame();
    await frame();
    durations.push(performance.now() - start);
    await new Promise((done) => setTimeout(done, 120));
  }
  return durations;
}"""


# What the scripts of a page took on the wire.
SENT = """() => performance.getEntriesByType('resource').filter((one) => /[.]js/.test(one.name))
  .reduce((sum, one) => sum + one.encodedBodySize, 0)"""


def measure_browser(server: Server) -> None:
    """What is felt at the screen."""
    with sync_playwright() as playwright:
        loads = []
        for _ in range(5):
            with chromium(playwright) as running, new_page(running) as page:
                start = time.perf_counter()
                page.goto(f"{server.url}formulas")
                page.get_by_role("link", name="Hut guest bar", exact=True).wait_for()
                loads.append(time.perf_counter() - start)
        report("first load with an empty cache, median", statistics.median(loads), "s", 1.5)
        with chromium(playwright) as running, new_page(running) as page:
            page.goto(server.url)
            page.get_by_test_id("to-do").wait_for()
            report("JavaScript of the first screen, as sent", page.evaluate(SENT) / 1000, "kB", 220)
        with chromium(playwright) as running, new_page(running) as page:
            open_formula(page, server.url)
            durations = page.evaluate(KEYSTROKE)
    report("keystroke to repainted lye, median", statistics.median(durations), "ms", 50)
    report("keystroke to repainted lye, p95", p95(durations), "ms", 70)


def main() -> None:
    """Measure everything, side by side, in one run."""
    formula = seven_oil_formula()
    measure_core(formula)
    measure_chemistry()
    measure_solving(formula, report)
    with running_server() as server:
        measure_api(server, formula)
        measure_browser(server)
        measure_making(server, report)
        measure_guide(server, report)
    measure_scale(report)
    measure_years(report)
    measure_stock(report)


main()
