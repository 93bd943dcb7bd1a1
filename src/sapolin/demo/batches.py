"""The batches of the made-up workshop: one made, one being made, one planned. Their days are told from today."""

import json
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from functools import partial
from importlib.resources import files
from typing import Any

from sapolin.core.batch.moulds import Mould
from sapolin.core.batch.plan import BatchPlan
from sapolin.core.batch.planned import plan_batch
from sapolin.core.batch.procedure import Step, steps_of
from sapolin.core.production.events import Event, RecordedEvent, begin
from sapolin.services.batches import frozen_json, keep_missing_outcomes
from sapolin.store.formulas import FormulaRecord
from sapolin.store.stores import Stores

__all__ = ["fill_batches"]

_HERE = files("sapolin.demo")
MINUTES_A_STEP = 1.2


def _read(name: str) -> Any:
    return json.loads(_HERE.joinpath(name).read_text(encoding="utf-8"))


def fill_batches(stores: Stores) -> None:
    """Keep the workshop's moulds and batches; its formulas must be there already."""
    moulds = {entry["id"]: stores.moulds.put(Mould.model_validate(entry)) for entry in _read("moulds.json")}
    formulas = {record.formula.name: record for record in stores.formulas.find()}
    for entry in _read("batches.json"):
        plan = _plan(entry, formulas[entry["formula"]], moulds, stores)
        record = stores.batches.create(plan, entry["code"])
        if entry["until"] == "planned":
            continue
        begun = datetime.now(UTC) - timedelta(days=entry.get("days_ago", 0), minutes=entry.get("minutes_ago", 0))
        for i, (minute, event) in enumerate(_day(entry, plan)):
            at = (begun + timedelta(minutes=minute)).isoformat(timespec="milliseconds")
            recorded = RecordedEvent.model_validate({"seq": 1, "at": at, "event": event})
            stores.batches.add_event(record.id, f"demo-event-{i:04d}", partial(_unasked, recorded.event), at=at)
        stores.batches.keep_missing_start(record.id, frozen_json(plan))
    keep_missing_outcomes(stores.batches)


def _unasked(event: Event, _: list[RecordedEvent]) -> Event:
    """An event of the demo is recorded as it is written."""
    return event


def _plan(entry: dict[str, Any], record: FormulaRecord, moulds: dict[str, Mould], stores: Stores) -> BatchPlan:
    version = entry["version"]
    formula = record.formula
    if version:
        formula = next(one.formula for one in stores.formulas.versions(record.id) if one.number == version)
    used = [use | {"mould": moulds[use["mould"]].model_dump()} for use in entry["plan"]["moulds"]]
    return BatchPlan.model_validate(
        entry["plan"] | {"moulds": used, "formula": formula.model_dump(), "formula_id": record.id, "version": version}
    )


def _day(entry: dict[str, Any], plan: BatchPlan) -> Iterator[tuple[float, dict[str, Any]]]:
    """What happened, minute by minute."""
    planned = plan_batch(plan)
    yield 0.0, begin(planned).model_dump()
    minute = 0.0
    readings = [tuple(reading) for reading in entry["temperatures"]]
    for step in steps_of(plan, planned):
        if step.id in ("temperatures", entry["until"]):
            for bowl, at, celsius in readings:
                yield at, {"kind": "temperature", "bowl": bowl, "celsius": float(celsius), "source": "thermometer"}
                minute = max(minute, at)
        if step.id == entry["until"]:
            return
        minute += MINUTES_A_STEP if step.kind == "weigh" else 2 * MINUTES_A_STEP
        yield from ((minute, event) for event in _step(step, entry))
    for note in entry["notes"]:
        yield minute, {"kind": "noted", "text": note}
    for note in entry["next_time"]:
        yield minute, {"kind": "noted", "text": note, "next_time": True}
    yield minute + 1, {"kind": "finished"}
    if entry["left_over_ml"] is not None:
        yield minute + 2, {"kind": "poured", "mould": 0, "difference_ml": float(entry["left_over_ml"])}


def _step(step: Step, entry: dict[str, Any]) -> Iterator[dict[str, Any]]:
    if step.weigh is not None:
        grams = round(step.weigh.target_g + entry["off_g"].get(step.weigh.item, 0.0), 2)
        yield {"kind": "captured", "item": step.weigh.item, "weight_g": grams, "source": "scale"}
    if step.kind == "trace":
        for stage in ("emulsion", "light"):
            yield {"kind": "traced", "stage": stage}
    yield {"kind": "step_done", "step": step.id, "confirmed": list(step.checks)}
