"""Batches and make day: how long plan, sheet and paper take, how live the scale is, and whether anything is ever lost."""

import gc
import itertools
import random
import statistics
import threading
import time
from collections.abc import Callable
from pathlib import Path
from tempfile import TemporaryDirectory
from uuid import uuid4

import httpx
from playwright.sync_api import sync_playwright

from e2e.driver import Server, chromium, new_page
from sapolin.api.devices import Workbench
from sapolin.core.batch.plan import BatchPlan
from sapolin.core.batch.planned import plan_batch
from sapolin.core.batch.procedure import steps_of
from sapolin.core.batch.readiness import readiness
from sapolin.core.batch.sheet import sheet_of
from sapolin.exchange.batch_sheet import sheet_pdf

__all__ = ["measure_making"]

Report = Callable[[str, float, str, float], None]
KILLED_RUNS = 100
HOUR_OF_READINGS = 36_000

# Plays with the scale and waits until the screen shows another weight; the clock is that of the page for both.
LATENCY = """async () => {
  const shown = () => document.querySelector('[data-testid=live-weight]').textContent;
  const durations = [];
  for (let i = 0; i < 40; i += 1) {
    await new Promise((done) => setTimeout(done, 1400));
    const before = shown();
    const start = performance.now();
    const body = JSON.stringify({ what: 'pour', grams: 17 });
    const sent = fetch('/api/devices/scale/play', { method: 'POST', headers: { 'content-type': 'application/json' }, body });
    while (shown() === before && performance.now() - start < 3000) await new Promise(requestAnimationFrame);
    durations.push(performance.now() - start);
    await sent;
    if (i % 10 === 9) await fetch('/api/devices/scale/play', { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ what: 'clear', grams: 0 }) });
  }
  return durations;
}"""  # noqa: E501


def _median_ms(act: Callable[[], object], times: int) -> float:
    durations = []
    for _ in range(times + 3):
        start = time.perf_counter()
        act()
        durations.append((time.perf_counter() - start) * 1000)
    return statistics.median(durations[3:])


def measure_making(server: Server, report: Report) -> None:
    """Everything about batches."""
    batches = httpx.get(f"{server.url}api/batches").json()["batches"]
    milk = next(batch for batch in batches if batch["code"] == "B-103")
    record = httpx.get(f"{server.url}api/batches/{milk['id']}").json()
    plan = BatchPlan.model_validate(record["plan"])
    planned = plan_batch(plan)
    report("batch: prepare the milk bar, diagnostics and steps, median",
           _median_ms(lambda: (readiness(plan, planned), steps_of(plan, plan_batch(plan))), 100), "ms", 50)  # fmt: skip
    report(
        "batch: its sheet as data, median", _median_ms(lambda: sheet_of(plan, plan_batch(plan), "B-103"), 100), "ms", 50
    )
    sheet = sheet_of(plan, planned, "B-103")
    report("batch: its sheet as PDF, median", _median_ms(lambda: sheet_pdf(sheet), 20), "ms", 1000)
    _latency(server, milk["id"], report)
    _memory(report)
    _killed(report)


def _latency(server: Server, batch_id: str, report: Report) -> None:
    with sync_playwright() as playwright, chromium(playwright) as running, new_page(running) as page:
        _to_first_weighing(server, batch_id)
        page.goto(f"{server.url}batches/{batch_id}/make")
        page.get_by_test_id("live-weight").wait_for()
        durations = page.evaluate(LATENCY)
    report("scale: poured to shown on the screen, median", statistics.median(durations), "ms", 150)
    report("scale: poured to shown on the screen, p95", statistics.quantiles(durations, n=20)[-1], "ms", 150)


def _to_first_weighing(server: Server, batch_id: str) -> None:
    address = f"{server.url}api/batches/{batch_id}"
    steps = httpx.get(f"{address}/run").json()["prepared"]["steps"]
    before = itertools.takewhile(lambda step: step["weigh"] is None, steps)
    events = [{"kind": "started"}]
    events += [{"kind": "step_done", "step": step["id"], "confirmed": step["checks"]} for step in before]
    for event in events:
        httpx.post(f"{address}/events", json={"key": uuid4().hex, "event": event}).raise_for_status()


def _memory(report: Report) -> None:
    """An hour of readings at ten a second, as fast as they can be made: what stays behind in the server's own objects."""
    devices = Workbench.simulated()

    def hour() -> None:
        for _ in range(HOUR_OF_READINGS):
            devices.scale.read().model_dump_json()
            devices.thermometer.read().model_dump_json()

    hour()
    gc.collect()
    before = len(gc.get_objects())
    hour()
    gc.collect()
    report("scale: objects left behind by an hour of readings", float(len(gc.get_objects()) - before), "", 50)


def _killed(report: Report) -> None:
    """`kill -9` at a random moment of each of many runs: what was acknowledged is there, and the run goes on."""
    chance = random.Random(5)
    lost = stuck = 0
    with TemporaryDirectory() as directory:
        server = Server(Path(directory))
        server.start()
        batches = httpx.get(f"{server.url}api/batches").json()["batches"]
        plan = httpx.get(f"{server.url}api/batches/{batches[0]['id']}").json()["plan"]
        for _ in range(KILLED_RUNS):
            batch_id = httpx.post(f"{server.url}api/batches", json=plan).json()["id"]
            acknowledged: list[dict[str, object]] = []
            maker = threading.Thread(target=_make, args=(server.url, batch_id, acknowledged))
            maker.start()
            time.sleep(chance.uniform(0.02, 0.6))
            server.kill()
            maker.join()
            server.start()
            run = httpx.get(f"{server.url}api/batches/{batch_id}/progress").json()
            captured, done = run["state"]["captured_g"], run["state"]["done"]
            for event in acknowledged:
                is_there = (
                    captured.get(event["item"]) == event["weight_g"]
                    if event["kind"] == "captured" else event.get("step", "started") in [*done, "started"]
                )  # fmt: skip
                lost += not is_there
            more: list[dict[str, object]] = []
            _make(server.url, batch_id, more, most=3)
            # A maker who was quick had nothing left to do.
            stuck += len(more) == 0 and run["state"]["current"] is not None
        server.kill()
    report(f"killed: acknowledged events lost in {KILLED_RUNS} runs", float(lost), "", 0)
    report(f"killed: runs that could not go on, of {KILLED_RUNS}", float(stuck), "", 0)


def _make(url: str, batch_id: str, acknowledged: list[dict[str, object]], most: int = 1000) -> None:
    """Make a batch from where it is until the server no longer answers; note what it acknowledged."""
    address = f"{url}api/batches/{batch_id}"
    try:
        with httpx.Client(timeout=5) as client:
            run = client.get(f"{address}/run").json()
            state, steps = run["progress"]["state"], run["prepared"]["steps"]
            events: list[dict[str, object]] = [] if state["started_at"] else [{"kind": "started"}]
            for step in steps:
                if step["id"] in state["done"]:
                    continue
                if step["weigh"] and step["weigh"]["item"] not in state["settled"]:
                    item = step["weigh"]["item"]
                    grams = state["targets_g"][item]
                    events.append({"kind": "captured", "item": item, "weight_g": grams, "source": "typed"})
                events.append({"kind": "step_done", "step": step["id"], "confirmed": step["checks"]})
            for event in events[:most]:
                body = {"key": uuid4().hex, "event": event}
                if client.post(f"{address}/events", json=body).status_code == 200:
                    acknowledged.append(event)
    except httpx.HTTPError:
        return
