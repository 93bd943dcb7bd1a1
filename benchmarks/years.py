"""Ten years of a workshop: 2,000 batches with their records, 40,000 weigh-ins, 20,000 scores."""

import json
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from pathlib import Path
from random import Random
from tempfile import TemporaryDirectory
from uuid import uuid4

import httpx
from sqlalchemy import insert, select
from sqlalchemy.orm import Session

from benchmarks.scale import median_ms
from e2e.driver import Server
from sapolin.demo import world
from sapolin.services.followed import keep_missing_taught
from sapolin.services.lists import forget_old_summaries, sum_up
from sapolin.store.stores import Stores, open_stores
from sapolin.store.tables import (
    BatchEventRow,
    BatchOutcomeRow,
    BatchRow,
    BatchStartRow,
    CureEventRow,
    CureTaughtRow,
    PredictionRow,
)

BATCHES = 2_000
DAYS = 3_650
WEIGHINGS = 20
"""Of each batch."""
SCORES = ("bubbles", "bubble_size", "amount", "density", "stay", "rinse", "skin_after", "press", "mush", "scent")
TESTERS = ("Runa", "Ilmo")

Report = Callable[[str, float, str, float], None]


def fill(stores: Stores) -> str:
    """The demo world, its batch B-095 grown to ten years of batches; returns the id of one that dries now."""
    world.fill(stores)
    keep_missing_taught(stores)
    forget_old_summaries(stores)
    sum_up(stores)
    rng = Random(7)
    with Session(stores.engine) as session, session.begin():
        model = session.scalars(select(BatchRow).where(BatchRow.code == "B-095")).one()
        tables = {
            table: [
                {column.name: getattr(row, column.name) for column in table.__table__.columns}
                for row in session.scalars(select(table).where(table.batch_id == model.id))
            ]
            for table in (BatchEventRow, BatchOutcomeRow, BatchStartRow, PredictionRow)
        }
        batch = {column.name: getattr(model, column.name) for column in BatchRow.__table__.columns}
        poured = datetime.fromisoformat(json.loads(batch["summary"])["ended_at"])
        rows: dict[type, list[dict]] = {table: [] for table in (BatchRow, CureEventRow, CureTaughtRow, *tables)}
        for i in range(BATCHES):
            id_, back = uuid4().hex, timedelta(days=DAYS * (BATCHES - i) / BATCHES)
            at = datetime.now(UTC) - back
            is_old = back > timedelta(days=45)
            code = f"B-{10_000 + i}"
            summary = json.loads(batch["summary"]) | {"id": id_, "code": code, "ended_at": _iso(at)}
            summary["cure"] |= {
                "fit": "fit" if is_old else "untested",
                "here": 0 if is_old else 8,
                "judged_at": _iso(at),
            }
            changed = {"id": id_, "code": code, "created_at": _iso(at), "summary": json.dumps(summary)}
            rows[BatchRow].append(batch | changed | {"search_text": f"{code} hut guest bar".lower()})
            for table, models in tables.items():
                for row in models:
                    rows[table].append(
                        {k: v for k, v in row.items() if k != "id"} | {"batch_id": id_} | _moved(row, at - poured)
                    )
            rows[CureEventRow] += _record(id_, at, rng, is_old=is_old)
            rows[CureTaughtRow].append({"batch_id": id_, "at": _iso(at), "content": json.dumps(_taught(rng))})
        for table, ones in rows.items():
            for start in range(0, len(ones), 5_000):
                session.execute(insert(table), ones[start : start + 5_000])
    return id_


def _iso(at: datetime) -> str:
    return at.isoformat(timespec="milliseconds")


def _moved(row: dict, by: timedelta) -> dict:
    return {"at": _iso(datetime.fromisoformat(row["at"]) + by)} if row.get("at") else {}


def _record(batch_id: str, at: datetime, rng: Random, *, is_old: bool) -> list[dict]:
    events: list[tuple[float, dict]] = [(1.2, {"kind": "cut", "bars": 9, "samples": 1})]
    slow, end = 18 * rng.lognormvariate(0, 0.2), rng.gauss(0.88, 0.01)
    for i in range(WEIGHINGS // 2):
        for mark in ("A", "B"):
            day = 2 + 4 * i
            left = end + (1 - end) * 2.718 ** (-(day - 1.2) / slow)
            events.append(
                (
                    day,
                    {
                        "kind": "weighed",
                        "mark": mark,
                        "weight_g": round(125 * left * rng.gauss(1, 0.003), 1),
                        "source": "scale",
                    },
                )
            )
    if is_old:
        events.append((42, {"kind": "fit_tested", "ph": 9.4}))
        scores = {name: min(5, max(1, round(rng.gauss(3, 0.8)))) for name in SCORES}
        events.append((43, {"kind": "judged", "tester": rng.choice(TESTERS), "scores": scores}))
        events.append((50, {"kind": "left", "bars": 8, "to": "sold"}))
    now = datetime.now(UTC)
    happened = [(at + timedelta(days=day), event) for day, event in events if at + timedelta(days=day) < now]
    return [
        {
            "batch_id": batch_id, "seq": i, "key": f"years-{i:04d}", "at": _iso(when), "recorded_at": _iso(when),
            "content": json.dumps({"event": event}),
        }
        for i, (when, event) in enumerate(happened, start=1)
    ]  # fmt: skip


def _taught(rng: Random) -> dict:
    def seen(spread: float, sd: float, rule: float) -> dict:
        return {"offset": rng.gauss(0, spread), "sd": sd, "rule": rule}

    def sheet(predicted: float) -> dict:
        points, age = rng.gauss(predicted, 6), rng.uniform(6, 30)
        return {"tester": rng.choice(TESTERS), "age_weeks": age, "predicted": predicted, "points": points, "sheets": 1}

    told = ("open_lather", "dense_lather", "cleansing", "conditioning", "hardness")
    judged = {quality: [sheet(rng.uniform(12, 40))] for quality in told}
    rules = {
        "unmould": seen(0.3, 0.2, 24), "trace": seen(0.4, 0.3, 9), "lye_peak": seen(4, 2, 90),
        "drying_time": seen(0.25, 0.08, 19), "drying_end": seen(0.015, 0.004, 0.88),
    }  # fmt: skip
    return {"rules": rules, "judged": judged}


def measure_years(report: Report) -> None:
    """What the maker waits for after ten years."""
    with TemporaryDirectory() as data:
        stores = open_stores(Path(data) / "demo.db")
        drying = fill(stores)
        formula = stores.formulas.find()[0].formula.model_dump(mode="json")
        fit = next(one.id for one in stores.batches.find() if one.code == "B-092")
        stores.close()
        server = Server(Path(data))
        server.start()
        try:
            with httpx.Client(base_url=server.url, timeout=60) as client:
                _measured(client, report, drying, fit, formula)
        finally:
            server.kill()


def _measured(client: httpx.Client, report: Report, drying: str, fit: str, formula: dict) -> None:
    def get(path: str) -> Callable[[], object]:
        return lambda: client.get(path).raise_for_status()

    def record(batch_id: str, event: dict) -> None:
        body = {"key": uuid4().hex, "event": event}
        client.post(f"/api/batches/{batch_id}/cure/events", json=body).raise_for_status()

    def judge_and_learn() -> None:
        record(fit, {"kind": "judged", "tester": "Runa", "scores": {"bubbles": 3, "press": 3}})
        client.get("/api/learning").raise_for_status()

    weight = iter(range(1_000))

    def weigh_and_today() -> None:
        record(
            drying,
            {"kind": "weighed", "mark": "A", "weight_g": 124 - next(weight) / 10, "source": "typed", "sure": True},
        )
        client.get("/api/today").raise_for_status()

    report("ten years: today, median", median_ms(get("/api/today")), "ms", 200)
    report("ten years: the curve of a batch, median", median_ms(get(f"/api/batches/{drying}/cure")), "ms", 100)
    report("ten years: a sheet, and what it teaches, median", median_ms(judge_and_learn), "ms", 500)
    report("ten years: a weighing, and today after it, median", median_ms(weigh_and_today), "ms", 700)
    report("ten years: the week, median", median_ms(get("/api/coming")), "ms", 400)
    report("ten years: the tests of a batch, median", median_ms(get(f"/api/batches/{fit}/tests")), "ms", 300)
    body = formula
    report(
        "ten years: a formula with your bars, median",
        median_ms(lambda: client.post("/api/compute/report", json=body).raise_for_status(), 25), "ms", 50,
    )  # fmt: skip
