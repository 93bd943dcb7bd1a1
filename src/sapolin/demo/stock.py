"""The shelf of the made-up workshop: lots that its batches took from, some near their date, one stopped."""

from datetime import UTC, datetime, timedelta
from typing import Any

from sqlalchemy.orm import Session

from sapolin.core.stock.ledger import Lot, StockEvent
from sapolin.demo.trials import days_ago
from sapolin.services.batches import work_of
from sapolin.services.stock import take_for
from sapolin.store.stores import Stores

__all__ = ["fill_stock"]


def fill_stock(lots: list[dict[str, Any]], made: list[str], stores: Stores) -> None:
    """Keep the lots, and what each of the batches `made` took from them, the oldest first."""
    today = datetime.now(UTC).date()
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
    with Session(stores.engine) as session, session.begin():
        for batch_id in made:
            work = work_of(stores.batches.get(batch_id), stores.batches)
            state = work.state(stores.batches.events(batch_id))
            if state.ended_at is not None and state.status == "made":
                take_for(session, batch_id, work.planned, state, stores.stock, state.ended_at)


def _event(event: dict[str, Any]) -> StockEvent:
    from pydantic import TypeAdapter

    adapter: TypeAdapter[StockEvent] = TypeAdapter(StockEvent)
    return adapter.validate_python(event)
