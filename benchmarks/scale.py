"""A workshop of many years: 20,000 formulas, 2,000 batches, 300 own materials."""

import json
import statistics
import time
from collections.abc import Callable
from pathlib import Path
from tempfile import TemporaryDirectory
from uuid import uuid4

import httpx
from playwright.sync_api import sync_playwright
from sqlalchemy import insert, select
from sqlalchemy.orm import Session

from e2e.driver import Server, chromium, new_page
from sapolin.demo import world
from sapolin.services.lists import forget_old_summaries, sum_up
from sapolin.store.stores import Stores, open_stores
from sapolin.store.tables import BatchRow, FormulaRow, MaterialRow

FORMULAS = 20_000
BATCHES = 2_000
MATERIALS = 300

Report = Callable[[str, float, str, float], None]


def _copies(session: Session, table: type, count: int, change: Callable[[dict, int], None]) -> None:
    """Fill `table` up to `count` rows with copies of those there are."""
    columns = [column.name for column in table.__table__.columns]  # type: ignore[attr-defined]
    models = [{name: getattr(row, name) for name in columns} for row in session.scalars(select(table))]
    rows = []
    for i in range(count - len(models)):
        row = dict(models[i % len(models)], id=uuid4().hex)
        change(row, i)
        rows.append(row)
    session.execute(insert(table), rows)


def fill(stores: Stores) -> None:
    """The demo world, grown."""
    world.fill(stores)
    forget_old_summaries(stores)
    sum_up(stores)

    def formula(row: dict, i: int) -> None:
        row["name"] = f"{row['name']} {i}"
        row["search_text"] = f"{row['search_text']} {i}"
        row["summary"] = json.dumps(json.loads(row["summary"]) | {"id": row["id"], "name": row["name"]})

    def batch(row: dict, i: int) -> None:
        row["code"], row["status"] = f"B-{10_000 + i}", "made"
        row["search_text"] = f"{row['code']} {row['search_text']}".lower()
        row["summary"] = json.dumps(
            json.loads(row["summary"]) | {"id": row["id"], "code": row["code"], "status": "made"}
        )

    def material(row: dict, i: int) -> None:
        row["id"], row["name"] = f"own-material-{i}", f"{row['name']} {i}"
        row["content"] = json.dumps(json.loads(row["content"]) | {"id": row["id"], "name": row["name"]})

    with Session(stores.engine) as session, session.begin():
        _copies(session, FormulaRow, FORMULAS, formula)
        _copies(session, BatchRow, BATCHES, batch)
        _copies(session, MaterialRow, MATERIALS, material)


def median_ms(act: Callable[[], object], times: int = 15) -> float:
    act()
    spent = []
    for _ in range(times):
        start = time.perf_counter()
        act()
        spent.append((time.perf_counter() - start) * 1000)
    return statistics.median(spent)


def measure_scale(report: Report) -> None:
    """Lists, palette and page with all of it there."""
    with TemporaryDirectory() as folder:
        stores = open_stores(Path(folder) / "demo.db")
        fill(stores)
        stores.close()
        server = Server(Path(folder))
        starts = []
        for _ in range(3):
            start = time.perf_counter()
            server.start()
            httpx.get(f"{server.url}api/health")
            starts.append(time.perf_counter() - start)
            server.kill()
        report(f"{FORMULAS} formulas: a start, median", statistics.median(starts), "s", 2)
        server.start()
        try:
            _measure(server, report)
            report(f"{FORMULAS} formulas: memory after all of it", server.memory_bytes() / 1e6, "MB", 300)
        finally:
            server.kill()


def _some_batch(client: httpx.Client) -> str:
    return client.get("api/batches?limit=60&status=made&offset=900").json()["batches"][0]["id"]


def _measure(server: Server, report: Report) -> None:
    with httpx.Client(base_url=server.url) as client:
        for what, address in (
            ("first page of formulas", "api/formulas?limit=60"),
            ("formulas by words", "api/formulas?limit=60&search=olive%20199"),
            ("formulas by name, in the middle", "api/formulas?limit=60&order=name&offset=10000"),
            ("first page of batches", "api/batches?limit=60&status=made"),
            ("palette, one word", "api/find?words=guest"),
            ("today", "api/today"),
            ("a batch sheet", f"api/batches/{_some_batch(client)}/sheet"),
            ("a batch sheet as PDF", f"api/batches/{_some_batch(client)}/sheet.pdf"),
        ):
            aim = 200 if "sheet" in what else 100
            report(f"{FORMULAS} formulas: {what}, median", median_ms(lambda a=address: client.get(a)), "ms", aim)
    with sync_playwright() as playwright, chromium(playwright) as running, new_page(running) as page:
        page.goto(f"{server.url}formulas")
        parts = page.get_by_role("navigation", name="Parts of the guide")
        row = page.get_by_test_id("formula-list").get_by_role("listitem").first

        def list_opens() -> None:
            page.get_by_role("navigation", name="Places", exact=True).get_by_role("link", name="Guide").click()
            parts.wait_for()
            page.get_by_role("navigation", name="Places", exact=True).get_by_role("link", name="Formulas").click()
            row.wait_for()

        start = time.perf_counter()
        row.wait_for()
        page.mouse.wheel(0, 30_000)
        page.wait_for_timeout(1500)
        report("nodes of the list after scrolling", page.evaluate("document.querySelectorAll('*').length"), "", 2000)
        opening = []
        for _ in range(7):
            list_opens()
            page.get_by_role("navigation", name="Places", exact=True).get_by_role("link", name="Guide").click()
            parts.wait_for()
            start = time.perf_counter()
            page.get_by_role("navigation", name="Places", exact=True).get_by_role("link", name="Formulas").click()
            row.wait_for()
            opening.append((time.perf_counter() - start) * 1000)
        report("the list opens, median", statistics.median(opening), "ms", 300)
        page.keyboard.press("Control+k")
        field = page.get_by_role("textbox", name="Find or do")
        answers = []
        for letter in "guest":
            with page.expect_response(lambda answer: "/api/find" in answer.url):
                start = time.perf_counter()
                field.press(letter)
            answers.append((time.perf_counter() - start) * 1000)
        report("a keystroke in the palette is answered, median", statistics.median(answers), "ms", 100)
