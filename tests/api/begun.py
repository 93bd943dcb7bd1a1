"""What many tests begin with, made over HTTP once: each begins on a copy of its own."""

import atexit
import shutil
from collections.abc import Callable
from functools import cache
from pathlib import Path
from tempfile import mkdtemp
from uuid import uuid4

from fastapi.testclient import TestClient

from api.batches import Batch
from conftest import formula_json
from demo_copy import put_empty

TRAY = {"code": "R1", "shelf": "Window", "columns": 4, "rows": 3}


def made(client: TestClient, **changes) -> Batch:
    """A batch that is in its mould."""
    batch = Batch(client, **changes)
    batch.send(kind="started")
    batch.up_to("")
    assert batch.send(kind="finished").status_code == 200
    return batch


def fit(client: TestClient, **changes) -> Batch:
    """One that is cut into five bars and a sample, and fit for use."""
    batch = made(client, **changes)
    for event in (
        {"kind": "cut", "bars": 5, "samples": 1, "sure": True},
        {"kind": "fit_tested", "ph": 9.4, "sure": True},
    ):
        body = {"key": uuid4().hex, "event": event}
        assert client.post(f"/api/batches/{batch.id}/cure/events", json=body).status_code == 200
    return batch


def paste_formula(**oils):
    lines = [{"oil": oil.replace("_", "-"), "by": "weight_g", "value": grams} for oil, grams in oils.items()]
    return formula_json() | {
        "name": "Wash paste", "purpose": "liquid-soap", "blend": {"total_oils_g": None, "lines": lines}, "superfat_percent": 2,
        "lye": {"naoh_purity_percent": None, "koh": {"by": "saponification_percent", "value": 100, "purity_percent": 90}},
        "water": {"by": "water_to_lye", "value": 3}, "process": {"method": "hot"}, "additives": [], "liquids": [],
    }  # fmt: skip


def made_paste(client: TestClient, packed_g: float = 1500.0, **oils) -> Batch:
    """A paste that was cooked, tested and packed."""
    formula = paste_formula(**(oils or {"olive_refined": 700, "coconut": 300}))
    batch = Batch(client, formula=formula, moulds=[], size={"by": "oils_g", "value": 1000}, jar_g=400)
    batch.up_to("paste")
    steps = {step["id"]: step for step in batch.run()["prepared"]["steps"]}
    for stage in steps["paste"]["stages"]:
        assert batch.send(kind="stage_reached", stage=stage["id"]).status_code == 200
    assert batch.send(kind="step_done", step="paste", confirmed=steps["paste"]["checks"]).status_code == 200
    untested = batch.send(kind="step_done", step="zap")
    assert [problem["code"] for problem in untested.json()["error"]["problems"]] == ["not_tested"]
    for test, outcome in (("zap", "none"), ("clarity", "clear")):
        assert batch.send(kind="tested", test=test, outcome=outcome).status_code == 200
        assert batch.send(kind="step_done", step=test).status_code == 200
    assert batch.send(kind="packed", jars=4, weight_g=packed_g).status_code == 200
    for step in ("pack", "rest", "wash-up"):
        assert batch.send(kind="step_done", step=step).status_code == 200
    assert batch.send(kind="finished").status_code == 200
    return batch


def _beside_a_tray(client: TestClient) -> list[Batch]:
    client.put("/api/trays/R1", json=TRAY)
    return [made(client)]


BEGINNINGS: dict[str, Callable[[TestClient], list[Batch]]] = {
    "made_batch": _beside_a_tray,
    "fit_batch": lambda client: [fit(client)],
    "fit_batches": lambda client: [fit(client), fit(client), fit(client)],
    "paste": lambda client: [made_paste(client)],
}
"""By the name of the fixture that gives them."""


@cache
def _made_once(name: str, open_on: Callable[[Path], TestClient]) -> tuple[Path, tuple[str, ...]]:
    file = Path(mkdtemp(prefix="sapolin-begun-")) / "sapolin.db"
    atexit.register(shutil.rmtree, file.parent, ignore_errors=True)
    put_empty(file)
    with open_on(file) as client:
        ids = tuple(batch.id for batch in BEGINNINGS[name](client))
    return file, ids


def put_begun(name: str, file: Path, open_on: Callable[[Path], TestClient]) -> None:
    """Put a database that begins with `name` at `file`; `open_on` serves one."""
    shutil.copy(_made_once(name, open_on)[0], file)


def begun(name: str, client: TestClient, open_on: Callable[[Path], TestClient]) -> list[Batch]:
    """The batches that a database of `put_begun` holds, spoken to over `client`."""
    return [Batch.kept(client, batch_id) for batch_id in _made_once(name, open_on)[1]]
