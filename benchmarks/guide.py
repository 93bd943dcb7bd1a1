"""The guide: how soon a page stands there once its link is touched, and how soon causes are ranked."""

import statistics
from collections.abc import Callable
from time import perf_counter

import httpx
from playwright.sync_api import sync_playwright

from e2e.driver import Server, chromium, new_page
from sapolin.core.faults import rank, symptoms
from sapolin.core.practice.records import SOUND

Report = Callable[[str, float, str, float], None]
PAGES = ("hardness", "superfat", "oleic", "trace", "safety")
TIMES = 6


def measure_guide(server: Server, report: Report) -> None:
    """Medians over every symptom, and over the pages once their code is there."""
    took = []
    for symptom in symptoms() * TIMES:
        start = perf_counter()
        rank(symptom.id, SOUND)
        took.append((perf_counter() - start) * 1000)
    report("causes of a symptom ranked, median", statistics.median(took), "ms", 50)
    with httpx.Client(base_url=server.url) as client:
        made = next(one for one in client.get("/api/batches").json()["batches"] if one["code"] == "B-098")
        body = {"symptom": "ash", "batch_id": made["id"], "answers": {}}
        took = []
        for _ in range(30):
            start = perf_counter()
            client.post("/api/faults/rank", json=body).raise_for_status()
            took.append((perf_counter() - start) * 1000)
    report("the same from the record of a batch, over loopback", statistics.median(took), "ms", 50)
    with sync_playwright() as playwright, chromium(playwright) as running, new_page(running) as page:
        page.goto(f"{server.url}guide")
        page.get_by_test_id("page-hardness").click()
        page.go_back()
        took = []
        for name in PAGES * TIMES:
            link = page.get_by_test_id(f"page-{name}")
            link.wait_for()
            took.append(page.evaluate(OPENED, name))
            page.go_back()
    report("a page of the guide opened, median", statistics.median(took), "ms", 150)


# Touches a link and waits, frame by frame, until the page is painted.
OPENED = """async (name) => {
  const frame = () => new Promise(requestAnimationFrame);
  const start = performance.now();
  document.querySelector(`[data-testid="page-${name}"]`).click();
  while (!document.querySelector('article p')) await frame();
  await frame();
  return performance.now() - start;
}"""
