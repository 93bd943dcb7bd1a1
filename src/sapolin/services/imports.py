"""Tables from elsewhere: formulas, lots, and batches made before; seen before they are kept, undone at once."""

from contextlib import suppress
from datetime import UTC, datetime, timedelta
from typing import Any

from sapolin.core.cure.events import CureRecord
from sapolin.core.production.events import RecordedEvent, begin
from sapolin.core.quantities.diagnostics import Diagnostic, FormulaError
from sapolin.core.quantities.model import Model
from sapolin.exchange.sheets import read_sheet
from sapolin.services.batches import frozen_json, keep_missing_outcomes, prepared
from sapolin.services.followed import added_up_by
from sapolin.services.import_reading import (
    FIELDS,
    NEEDED,
    ImportItem,
    PastBatch,
    TableMapping,
    guess_fields,
    items_of,
    plan_of_past,
)
from sapolin.store.imports import ImportKept, ImportKind
from sapolin.store.stores import Stores

__all__ = ["ImportPreview", "ImportUndone", "import_table", "preview_table", "undo_import"]

SHOWN = 300
"""So many things of a table are shown; all of them are read."""


class ImportPreview(Model):
    """A table before it is kept."""

    headers: tuple[str, ...]
    fields: tuple[str, ...]
    """What can be read from it."""
    needed: tuple[str, ...]
    mapping: TableMapping
    items: tuple[ImportItem, ...]
    """Those with a problem first; no more than 300."""
    usable: int
    left_out: int
    problems: tuple[Diagnostic, ...]
    """What is wrong with the table as a whole."""


class ImportUndone(Model):
    """What became of an import that was undone."""

    taken_away: int
    kept: int
    """What was used since stays."""


def preview_table(
    kind: ImportKind, file_name: str, content: bytes, mapping: TableMapping | None, stores: Stores
) -> ImportPreview:
    """Read a table and keep nothing. Raises FormulaError when it is none."""
    table = read_sheet(file_name, content)
    if mapping is None:
        mapping = TableMapping(fields=guess_fields(kind, table.headers))
    read, problems = items_of(kind, table, mapping, stores)
    items = sorted((one.item for one in read), key=lambda item: (item.problem is None, item.line))
    return ImportPreview(
        headers=table.headers, fields=tuple(FIELDS[kind]), needed=NEEDED[kind], mapping=mapping, items=tuple(items[:SHOWN]),
        usable=sum(item.problem is None for item in items), left_out=sum(item.problem is not None for item in items),
        problems=problems,
    )  # fmt: skip


def import_table(
    kind: ImportKind, file_name: str, content: bytes, mapping: TableMapping, key: str, stores: Stores
) -> ImportKept:
    """Keep what of a table can be read, once for each `key`. Raises FormulaError when nothing can."""
    read, problems = items_of(kind, read_sheet(file_name, content), mapping, stores)
    if problems:
        raise FormulaError(problems)
    kept, is_new = stores.imports.begin(key, kind, file_name)
    if not is_new:
        return kept
    for one in read:
        if one.item.problem is None:
            stores.imports.made(kept.id, _make(kind, one.content, f"{kept.id[:24]}-{one.item.line}", stores))
    return stores.imports.get(kept.id)


def undo_import(import_id: str, stores: Stores) -> ImportUndone:
    """Take away what an import made; what was used since stays. Raises UnknownImportError."""
    kept = stores.imports.get(import_id)
    taken = 0
    for id_ in kept.made:
        with suppress(LookupError):
            if kept.kind == "formulas":
                stores.formulas.delete(id_)
                taken += 1
            elif kept.kind == "stock":
                taken += stores.stock.take_away(id_)
            else:
                stores.batches.archive(id_)
                taken += 1
    stores.imports.undone(import_id)
    return ImportUndone(taken_away=taken, kept=len(kept.made) - taken)


def _make(kind: ImportKind, content: Any, key: str, stores: Stores) -> str:
    """Keep one thing; its id."""
    if kind == "formulas":
        return stores.formulas.create(content).id
    if kind == "stock":
        return stores.stock.add_lot(content, key, lambda _: None).id
    return _past_batch(content, key, stores)


def _past_batch(past: PastBatch, key: str, stores: Stores) -> str:
    """A batch that was made before: its record says that its weights are those of the plan."""
    plan = plan_of_past(past, stores)
    work = prepared(plan)
    record = stores.batches.create(plan, past.code or None)
    begun = datetime(past.made.year, past.made.month, past.made.day, 12, tzinfo=UTC)
    note = "From a table: weights as planned, not as weighed."
    events: list[dict[str, Any]] = [begin(work.planned).model_dump()]
    for step in work.steps:
        if step.weigh is not None:
            weight = {"item": step.weigh.item, "weight_g": step.weigh.target_g}
            events.append({"kind": "captured", "source": "typed", "sure": True, **weight})
        events.append({"kind": "step_done", "step": step.id, "confirmed": list(step.checks)})
    events += [{"kind": "noted", "text": text} for text in (note, past.note) if text]
    events.append({"kind": "finished"})
    at = begun.isoformat(timespec="milliseconds")
    recorded = [
        RecordedEvent.model_validate({"seq": i, "at": at, "event": one}) for i, one in enumerate(events, start=1)
    ]
    stores.batches.take_over(record.id, key, recorded)
    stores.batches.keep_missing_start(record.id, frozen_json(plan))
    keep_missing_outcomes(stores.batches)
    if past.bars > 0:
        cut_at = min(begun + timedelta(days=2), datetime.now(UTC)).isoformat(timespec="milliseconds")
        cut = CureRecord.model_validate(
            {"seq": 1, "at": cut_at, "recorded_at": cut_at, "event": {"kind": "cut", "bars": past.bars}}
        )
        stores.cures.take_over(record.id, key, [cut], added_up_by(record.id, stores))
    return record.id
