"""The curing rack: what stands on which tray, now and on a day to come, and labels for trays."""

from collections import defaultdict
from datetime import UTC, datetime

from sapolin.core.cure.trays import OnTray, TrayNow
from sapolin.exchange.tray_label import TrayLabel
from sapolin.services.cure import cure_of
from sapolin.services.lists import batches_of
from sapolin.store.stores import Stores

__all__ = ["label_of", "rack_now"]


def rack_now(stores: Stores, on: datetime | None = None) -> tuple[TrayNow, ...]:
    """Every tray with what stands on it; `on` a day to come without the bars that are expected to be ready by then."""
    stands: dict[str, list[OnTray]] = defaultdict(list)
    standing = stores.cures.standing()
    batches = batches_of(stores, {batch_id for _, batch_id, _ in standing})
    for on_tray, batch_id, bars in standing:
        if batch_id in batches:
            batch = batches[batch_id]
            ready = None if batch.cure is None or batch.cure.ready_at is None else batch.cure.ready_at.isoformat()
            stands[on_tray].append(
                OnTray(batch_id=batch_id, code=batch.code, name=batch.name, bars=bars, ready_at=ready)
            )
    then = None if on is None else (on if on.tzinfo else on.replace(tzinfo=UTC))
    found = []
    for tray, revision in stores.trays.revised():
        there = tuple(one for one in stands[tray.code] if then is None or not _is_off(one, then))
        bars = sum(one.bars for one in there)
        found.append(
            TrayNow(
                tray=tray,
                places=tray.places,
                bars=bars,
                free=tray.places - bars,
                stands=there,
                revision=revision,
            )
        )
    return tuple(found)


def _is_off(one: OnTray, then: datetime) -> bool:
    return one.ready_at is not None and datetime.fromisoformat(one.ready_at) <= then


def label_of(batch_id: str, tray: str, address: str, stores: Stores) -> TrayLabel:
    """What a label of a tray with this batch says."""
    view = cure_of(batch_id, stores)
    return TrayLabel(
        code=view.code, name=view.name, tray=tray, bars=view.state.trays.get(tray, view.here), made=view.poured_at,
        cut=view.state.cut_at, ready_from=view.ready_from or view.ready_by_weeks, address=address,
    )  # fmt: skip
