"""The batches of the made-up workshop, at every stage from plan to the last bar. Their days are told from today."""

import json
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from importlib.resources import files
from math import exp
from typing import Any

from pydantic import TypeAdapter

from sapolin.core.bar.pace import minutes_to_trace
from sapolin.core.batch.moulds import Mould
from sapolin.core.batch.plan import BatchPlan
from sapolin.core.batch.planned import plan_batch
from sapolin.core.batch.procedure import Step, steps_of
from sapolin.core.cure.events import CureRecord
from sapolin.core.cure.trays import Tray
from sapolin.core.preparations.plan import Preparation
from sapolin.core.production.events import RecordedEvent, begin
from sapolin.demo.stock import fill_labels, fill_price_lists, fill_stock
from sapolin.demo.trials import fill_comparisons, start_trials
from sapolin.services.batches import frozen_json, keep_missing_outcomes
from sapolin.services.costs import book_packaging
from sapolin.services.cure import cure_of
from sapolin.services.followed import FollowedBatch, added_up_by
from sapolin.services.learning import keep_prediction, taught_anew
from sapolin.store.formulas import FormulaRecord
from sapolin.store.stores import Stores

__all__ = ["fill_batches"]

_HERE = files("sapolin.demo")
_PREPARATION: TypeAdapter[Preparation] = TypeAdapter(Preparation)
MINUTES_A_STEP = 1.2
HOT_C = 80
MARKS = ("A", "B", "C")


def _read(name: str) -> Any:
    return json.loads(_HERE.joinpath(name).read_text(encoding="utf-8"))


def fill_batches(stores: Stores) -> None:
    """Keep the workshop's moulds and batches; its formulas must be there already."""
    moulds = {entry["id"]: stores.moulds.put(Mould.model_validate(entry)) for entry in _read("moulds.json")}
    formulas = {record.formula.name: record for record in stores.formulas.find()}
    for tray in _read("trays.json"):
        stores.trays.put(Tray.model_validate(tray))
    trials = _read("trials.json")
    entries = {entry["code"]: entry for entry in _read("batches.json")}
    tried = start_trials(trials["trials"], formulas, stores)
    followed, ids = [], {}
    for short in (*tried, *entries.values()):
        entry = _whole(short, entries)
        plan = _plan(entry, formulas[entry["formula"]], moulds, stores)
        record = stores.batches.create(plan, entry["code"])
        ids[entry["code"]] = record.id
        if "run" in entry:
            trial_id, run = entry["run"]
            stores.trials.link(trial_id, run, record.id)
        if entry["until"] == "planned":
            continue
        begun = datetime.now(UTC) - timedelta(days=entry.get("days_ago", 0), minutes=entry.get("minutes_ago", 0))
        happened = [
            RecordedEvent.model_validate(
                {"seq": i, "at": (begun + timedelta(minutes=minute)).isoformat(timespec="milliseconds"), "event": event}
            )
            for i, (minute, event) in enumerate(_day(entry, plan), start=1)
        ]
        stores.batches.take_over(record.id, "demo-event", happened)
        stores.batches.keep_missing_start(record.id, frozen_json(plan))
        followed.append((record.id, entry))
    keep_missing_outcomes(stores.batches)
    # What was predicted of each batch goes by those before it alone.
    for batch_id, entry in sorted(followed, key=lambda one: -one[1].get("days_ago", 0)):
        keep_prediction(batch_id, stores)
        if entry.get("cure"):
            _follow(batch_id, entry, stores)
        elif entry["until"] == "finished":
            made = FollowedBatch.of(batch_id, stores.batches, stores.cures)
            stores.cures.keep_taught(batch_id, made.add_up([]).taught)
    fill_comparisons(trials["comparisons"], ids, stores)
    taught_anew(stores)
    in_order = sorted(followed, key=lambda one: -one[1].get("days_ago", 0))
    fill_stock(_read("lots.json"), [batch_id for batch_id, _ in in_order], stores)
    fill_price_lists(stores)
    fill_labels(ids, stores)
    for planned in _read("preparations.json"):
        pastes = [{"batch_id": ids[code], "share_percent": share} for code, share in planned.pop("pastes", [])]
        stores.preparations.create(_PREPARATION.validate_python(planned | ({"pastes": pastes} if pastes else {})))
    book_packaging(ids["B-092"], stores)


def _whole(entry: dict[str, Any], entries: dict[str, dict[str, Any]]) -> dict[str, Any]:
    """An entry with what it has in common with the one it is like: how its day went, its moulds."""
    if "like" not in entry:
        return entry
    model = entries[entry["like"]]
    plan = model["plan"] | {"choices": model["plan"]["choices"] | entry.get("choices", {}), "scents": []}
    plan |= entry.get("plan", {})
    return model | {"notes": [], "next_time": [], "off_g": {}, "left_over_ml": None} | entry | {"plan": plan}


def _follow(batch_id: str, entry: dict[str, Any], stores: Stores) -> None:
    """What was recorded after the pour, day by day; marked bars as their curve has them, a little off."""
    view = cure_of(batch_id, stores)
    assert view.poured_at is not None
    poured = datetime.fromisoformat(view.poured_at)
    happened = [(float(day), event) for day, event in entry["cure"]]
    if "weigh" in entry:
        cut_day = next(day for day, event in happened if event["kind"] == "cut")
        happened += _weighed(entry["weigh"], cut_day, view.planned[0].wet_g)
    events = [
        CureRecord.model_validate({"seq": i, "at": at, "recorded_at": at, "event": event})
        for i, (day, event) in enumerate(sorted(happened, key=lambda one: one[0]), start=1)
        for at in [(poured + timedelta(days=day)).isoformat(timespec="milliseconds")]
    ]
    stores.cures.take_over(batch_id, "demo-cure", events, added_up_by(batch_id, stores))


def _weighed(curve: dict[str, Any], cut_day: float, wet_g: float) -> Iterator[tuple[float, dict[str, Any]]]:
    for i, mark in enumerate(MARKS):
        for j, day in enumerate(curve["days"]):
            dried = curve["end"] + (1 - curve["end"]) * exp(-(day - cut_day) / curve["tau"])
            off = 1 + 0.02 * (i - 1) + 0.0015 * ((7 * i + 3 * j) % 5 - 2)
            yield day, {"kind": "weighed", "mark": mark, "weight_g": round(wet_g * dried * off, 1), "source": "scale"}


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
    # Lye is as hot, and trace as quick, as this formula makes it; not every day is alike.
    luck = (int(entry["code"][2:]) * 7 % 5 - 2) / 10
    peak = 0.5 * (planned.lye_peak.low_c + planned.lye_peak.high_c) - 3 + 8 * luck
    usual = max((celsius for bowl, _, celsius in entry["temperatures"] if bowl == "lye"), default=peak)
    readings = [
        (bowl, at, round(celsius * peak / usual if bowl == "lye" and celsius > HOT_C else celsius, 1))
        for bowl, at, celsius in entry["temperatures"]
    ]
    bar = planned.result.bar
    trace = 8.0 if bar is None else minutes_to_trace(bar.trace_points) * (0.8 + luck)
    for step in steps_of(plan, planned):
        if step.id in ("temperatures", entry["until"]):
            for bowl, at, celsius in readings:
                yield at, {"kind": "temperature", "bowl": bowl, "celsius": float(celsius), "source": "thermometer"}
                minute = max(minute, at)
        if step.id == entry["until"]:
            return
        minute += entry.get("cook_minutes", 0) if step.kind == "stages" else 0
        minute += MINUTES_A_STEP if step.kind == "weigh" else trace if step.kind == "trace" else 2 * MINUTES_A_STEP
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
    for reached in step.stages:
        yield {"kind": "stage_reached", "stage": reached.id}
    if step.test is not None:
        yield {"kind": "tested", "test": step.test, "outcome": step.outcomes[0].id, "passed": True}
    if step.kind == "pack":
        yield {"kind": "packed"} | entry["packed"]
    yield {"kind": "step_done", "step": step.id, "confirmed": list(step.checks)}
