"""The shelf of the made-up workshop: lots that its batches took from, some near their date, one stopped."""

import json
from datetime import timedelta
from importlib.resources import files
from typing import Any

from sapolin.core.labels.design import LabelDesign
from sapolin.core.stock.ledger import Lot, StockEvent
from sapolin.core.stock.price_list import PriceList
from sapolin.demo.trials import days_ago
from sapolin.services.batches import work_of
from sapolin.services.buying import keep_list, preview_list
from sapolin.services.taking import settle
from sapolin.store.stores import Stores
from sapolin.store.transactions import writing

__all__ = ["fill_labels", "fill_price_lists", "fill_stock"]


def fill_stock(lots: list[dict[str, Any]], made: list[str], stores: Stores) -> None:
    """Keep the lots, and what each of the batches `made` took from them, the oldest first."""
    today = stores.today()
    for entry in lots:
        lot = {name: value for name, value in entry.items() if name not in ("days_ago", "best_before_days", "events")}
        lot["arrived"] = today - timedelta(days=entry["days_ago"])
        if "best_before_days" in entry:
            lot["best_before"] = today + timedelta(days=entry["best_before_days"])
        kept = stores.stock.add_lot(
            Lot.model_validate(lot), f"demo-lot-{entry['code']}", lambda _: None, days_ago(entry["days_ago"])
        )
        for i, (days, event) in enumerate(entry.get("events", [])):
            stores.stock.add_event(kept.id, f"demo-entry-{i:02d}", _event(event), lambda _, __: None, days_ago(days))
    with writing(stores.engine) as session:
        for batch_id in made:
            work = work_of(stores.batches.get(batch_id), stores.batches)
            state = work.state(stores.batches.events(batch_id))
            if state.ended_at is not None and state.status == "made":
                day = stores.local(state.ended_at).date()
                settle(session, batch_id, work.planned, state, stores.stock, state.ended_at, day)


def _event(event: dict[str, Any]) -> StockEvent:
    from pydantic import TypeAdapter

    adapter: TypeAdapter[StockEvent] = TypeAdapter(StockEvent)
    return adapter.validate_python(event)


def fill_price_lists(stores: Stores) -> None:
    """Keep the lists of the suppliers, read as the workshop reads them, and what it wants beside what batches need."""
    folder = files("sapolin.demo")
    kept = json.loads(folder.joinpath("price_lists.json").read_text(encoding="utf-8"))
    stores.workshop.change(also_buy=kept["also_buy"], costs=kept["costs"])
    for entry in kept["lists"]:
        content = folder.joinpath("price_lists", entry["file"]).read_bytes()
        columns = preview_list(entry["file"], content, "", None, stores).columns
        keep_list(
            entry["file"], content,
            PriceList(
                supplier=entry["supplier"], freight=float(entry["freight"]),
                free_from=None if entry["free_from"] is None else float(entry["free_from"]),
                columns=columns.model_copy(update={"chosen": entry["chosen"]}),
            ),
            stores,
        )  # fmt: skip


def fill_labels(ids: dict[str, str], stores: Stores) -> None:
    """Keep the labels of some batches, `ids` by their code."""
    for entry in json.loads(files("sapolin.demo").joinpath("labels.json").read_text(encoding="utf-8")):
        stores.labels.save(ids[entry["code"]], LabelDesign.model_validate(entry["design"]), 0)
