"""Valid documents, changed a little in their structure: what a faulty program, an old file or a slip would send."""

import copy
import json
from collections.abc import Callable, Iterator
from random import Random
from typing import Any

from fastapi.testclient import TestClient

__all__ = ["Case", "cases", "changed"]

Case = tuple[str, str, Any]
"""Method, address, body."""

ODD: tuple[Any, ...] = (
    None, True, False, 0, -1, 1, 0.1, 1e-12, -0.0, 99.999999, 100, 100.0001, 1e6, 1e308, -1e308, 2**63, "",
    " ", "0", "x" * 5000,
    "olive-refined", "C18:1", "…", "\ud83e", "=1+1", "2026-02-30", "NaN", [], {}, [[]], [None], {"by": "weight_g"},
)  # fmt: skip
NUMBERS: tuple[Callable[[float], float], ...] = (
    lambda x: -x, lambda x: 0.0, lambda x: x * 1e6, lambda x: x / 1e9, lambda x: x + 1e-9, lambda x: 100 - x,
    lambda x: x * 1000,
)  # fmt: skip


def _places(value: Any, at: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    if at:
        yield at
    items = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    for key, inner in items:
        yield from _places(inner, (*at, key))


def _inside(document: Any, at: tuple[Any, ...]) -> Any:
    for key in at:
        document = document[key]
    return document


def changed(document: Any, random: Random) -> Any:
    """A copy of a document with a few changes: a value out of its range or kind, an entry left out, doubled, moved."""
    document = copy.deepcopy(document)
    for _ in range(random.choice((1, 1, 1, 2, 4))):
        places = [*_places(document)]
        if not places:
            return random.choice(ODD)
        at = random.choice(places)
        above, key = _inside(document, at[:-1]), at[-1]
        what = random.random()
        if what < 0.25 and isinstance(above[key], int | float) and not isinstance(above[key], bool):
            above[key] = random.choice(NUMBERS)(float(above[key]))
        elif what < 0.5:
            above[key] = copy.deepcopy(random.choice(ODD))
        elif what < 0.6:
            above[key] = copy.deepcopy(_inside(document, random.choice(places)))
        elif what < 0.75 and isinstance(above, list):
            above.append(copy.deepcopy(above[key]))
        elif what < 0.9:
            del above[key]
        elif isinstance(above, dict):
            above[str(key) + random.choice(("", "_", "x", "\u200b"))] = above.pop(key)
    return document


def cases(client: TestClient, random: Random) -> Iterator[Case]:
    """Valid requests of the demo world without end, each changed a little."""
    records = client.get("/api/formulas?limit=60").json()["formulas"]
    formulas = [client.get(f"/api/formulas/{one['id']}").json()["formula"] for one in records]
    plans = [
        client.get(f"/api/batches/{one['id']}").json()["plan"] for one in client.get("/api/batches").json()["batches"]
    ]
    moulds = [one["mould"] for one in client.get("/api/moulds").json()]
    lots = [one["lot"] for shelf in client.get("/api/stock").json()["materials"] for one in shelf["lots"]]
    materials = [one["record"]["material"] for one in client.get("/api/materials").json()]
    workshop = client.get("/api/workshop").json()
    questions = [client.post("/api/solve-start", json=one).json() for one in formulas if one["blend"]["lines"]]
    while True:
        formula, plan = random.choice(formulas), random.choice(plans)
        outgoing = [{"oil": formula["blend"]["lines"][0]["oil"]}] if formula["blend"]["lines"] else []
        method, path, body = random.choice((
            *((("POST", f"/api/{path}", formula)) for path in (
                "compute", "compute/report", "compute/check", "compute/explanation?quantity=naoh_g", "formulas",
                "formulas/import",
                "solve-start", "best-move", "trades?points=2", "prices/cost", "trial-set",
            )),
            ("POST", "/api/compare", {"formulas": [{"label": name, "formula": formula} for name in ("a", "b")]}),
            ("POST", "/api/swap", {"formula": formula, "outgoing": outgoing}),
            ("POST", "/api/solve", random.choice(questions) | {"most_seconds": 0.05}),
            ("POST", "/api/solve-front?axis=price", random.choice(questions) | {"most_seconds": 0.05}),
            ("POST", "/api/blend/convert", {"blend": formula["blend"], "to": "weight_g"}),
            ("POST", "/api/batch-plan/report", plan),
            ("POST", "/api/batch-plan/portions", plan),
            ("POST", "/api/batches", plan),
            ("POST", "/api/moulds/check", random.choice(moulds)),
            ("PUT", "/api/moulds", random.choice(moulds) | {"id": ""}),
            ("POST", "/api/materials/check", random.choice(materials)),
            ("POST", "/api/materials", random.choice(materials)),
            ("POST", "/api/stock/lots", {"key": f"fuzz-{random.random()}", "lot": random.choice(lots)}),
            ("PATCH", "/api/workshop", workshop),
            ("POST", "/api/recipes/read", {"text": json.dumps(formula)[: random.randrange(400)]}),
            ("POST", "/api/target-sets", {"name": f"t{random.random()}", "targets": random.choice(questions)["targets"]}),
        ))  # fmt: skip
        yield method, path, changed(body, random)
