"""A shelf after years: 100,000 entries of the ledger, a price list of 5,000 rows, and the cheapest purchase for 30 needs."""

import json
import random
from base64 import b64encode
from datetime import UTC, datetime, timedelta
from pathlib import Path
from tempfile import TemporaryDirectory
from time import perf_counter
from uuid import uuid4

from fastapi.testclient import TestClient
from sqlalchemy import insert
from sqlalchemy.orm import Session

from benchmarks.scale import Report, median_ms
from sapolin.api.app import create_app
from sapolin.api.settings import Settings
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.stock.buying import Offered, Supplier, cheapest_purchase
from sapolin.store.stores import Stores
from sapolin.store.tables import LedgerRow, LotRow

ENTRIES = 100_000
BATCHES = 2000
LOTS_IN_HAND = 120
OILS = 40


def fill(stores: Stores) -> str:
    """Years of lots, most of them used up; the id of one that many batches took from."""
    rng = random.Random(5)
    now = datetime.now(UTC)
    oils = [*catalogue()][:OILS]
    lots, entries, batches = [], [], [uuid4().hex for _ in range(BATCHES)]
    each = 50
    for i in range(ENTRIES // each):
        lot_id, is_used_up = uuid4().hex, i >= LOTS_IN_HAND
        at = (now - timedelta(days=rng.randrange(20, 3000))).isoformat(timespec="seconds")
        content = {"code": f"L{i}", "material": rng.choice(oils), "kind": "oil", "amount_g": 5000.0, "price": 30.0,
                   "arrived": at[:10]}  # fmt: skip
        lots.append({"id": lot_id, "code": content["code"], "material": content["material"], "created_at": at,
                     "archived_at": None, "content": json.dumps(content)})  # fmt: skip
        taken = (5000.0 if is_used_up else 3000.0) / (each - 1)
        for seq in range(1, each + 1):
            batch = None if seq == 1 else rng.choice(batches)
            event = (
                {"kind": "arrived"}
                if seq == 1
                else {"kind": "used", "grams": taken, "batch_id": batch, "item": "oil:0"}
            )
            entries.append({"lot_id": lot_id, "seq": seq, "key": f"{lot_id}-{seq}", "at": at, "batch_id": batch,
                            "change_g": 5000.0 if seq == 1 else -taken, "content": json.dumps({"event": event})})  # fmt: skip
    with Session(stores.engine) as session, session.begin():
        session.execute(insert(LotRow), lots)
        for i in range(0, len(entries), 10_000):
            session.execute(insert(LedgerRow), entries[i : i + 10_000])
    return str(lots[0]["id"])


def price_list(rows: int) -> str:
    """A list as a wholesaler has it."""
    rng = random.Random(6)
    names = [oil.name.replace(",", "") for oil in catalogue().values()]
    lines = ["Article;Pack;Price"]
    for _ in range(rows):
        pack = rng.choice(["1 kg", "5 l", "12 x 250 ml", "25 kg"])
        lines.append(f"{rng.choice(names)};{pack};{rng.randrange(300, 9000) / 100}")
    return "\n".join(lines).replace(".", ",")


def purchases() -> list[tuple[dict[str, float], list[Offered], list[Supplier]]]:
    """Needs and offers as a busy workshop could have them."""
    rng = random.Random(3)
    cases = []
    for _ in range(5):
        needs = {f"material {i}": rng.uniform(200, 12_000) for i in range(30)}
        base = {material: rng.uniform(3, 14) for material in needs}
        shops = [
            Supplier(name=f"S{j}", freight=rng.choice([4.9, 8.5, 12.5, 0]), free_from=rng.choice([None, 60, 100, 150]))
            for j in range(6)
        ]
        offers = []
        for _ in range(400):
            material, shop = rng.choice([*needs]), rng.choice(shops)
            grams = rng.choice([100, 250, 500, 1000, 2500, 5000, 10_000, 25_000])
            price = round(base[material] * (grams / 1000) ** 0.85 * rng.uniform(0.85, 1.2), 2)
            step = rng.choice([1, 1, 1, 2, 6])
            offers.append(
                Offered(supplier=shop.name, material=material, name=material, pack_g=grams, price=price, step=step)
            )
        cases.append((needs, offers, shops))
    return cases


def measure_stock(report: Report) -> None:
    """The shelf, a trace, a price list and purchases beside their aims."""
    with TemporaryDirectory() as folder:
        app = create_app(Settings(database=Path(folder) / "bench.db"))
        with TestClient(app, base_url="http://127.0.0.1:8719") as client:
            lot = fill(app.state.stores)
            sent = {"name": "list.csv", "content": b64encode(price_list(5000).encode()).decode()}
            body = {"file": sent, "supplier": "Wholesale"}
            report(
                f"the shelf after {ENTRIES:,} entries, median", median_ms(lambda: client.get("/api/stock")), "ms", 200
            )
            report(
                "where a lot went, median", median_ms(lambda: client.get(f"/api/stock/lots/{lot}/trace")), "ms", 1000
            )
            previewed = median_ms(lambda: client.post("/api/price-lists/preview", json=body))
            report("a price list of 5,000 rows, previewed", previewed, "ms", 2000)
    took = []
    for needs, offers, shops in purchases():
        start = perf_counter()
        assert cheapest_purchase(needs, offers, shops).is_proven
        took.append(1000 * (perf_counter() - start))
    report("the cheapest purchase for 30 needs of 400 offers, proven, slowest of five", max(took), "ms", 2000)
