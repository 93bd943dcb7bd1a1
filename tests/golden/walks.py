# ruff: noqa: E501
"""Records of the cure, of make days and of lots, written by dice: what is taken and what is refused, and how they stand."""

from collections.abc import Callable, Iterator
from datetime import timedelta
from random import Random
from typing import Any

from core.batches import Making, plan
from core.test_cure_record import BAR, CUT, FREE, POURED, UNMOULDED, record
from core.test_stock import event, lot
from golden.plans import PLANS, dual
from golden.rooms import lines_of
from sapolin.core.batch.plan import BatchPlan
from sapolin.core.batch.sheet import sheet_of
from sapolin.core.cure.due import BatchFacts, due_of
from sapolin.core.cure.events import CureRecord
from sapolin.core.cure.guard import refusal as cure_refusal
from sapolin.core.cure.state import cure_state
from sapolin.core.production.actual import actual_batch, expected_g
from sapolin.core.production.events import RecordedEvent
from sapolin.core.production.guard import refusal as make_refusal
from sapolin.core.production.sheet import actual_sheet
from sapolin.core.quantities.diagnostics import Diagnostic
from sapolin.core.quantities.text import plain
from sapolin.core.stock.ledger import LedgerEntry, change_g, lot_now, stock_refusal

__all__ = ["cure_walk_lines", "day_lines", "due_lines", "make_walk_lines", "stock_walk_lines"]

TOLD = 3
"""So many refusals of a kind are told."""
WALKS = range(12)


class Refusals:
    """What was refused, the first few of each kind, in words."""

    def __init__(self) -> None:
        self.told: dict[str, list[str]] = {}

    def add(self, problem: Diagnostic) -> None:
        offers = [f"{offer.value:g}" for offer in problem.offers]
        words = " | ".join(plain(one) for one in (problem.message, problem.reason, problem.remedy) if one)
        line = f"{problem.code} {problem.path} {problem.is_doubt} {offers}: {words}"
        of_code = self.told.setdefault(problem.code, [])
        if len(of_code) < TOLD and line not in of_code:
            of_code.append(line)

    def lines(self) -> Iterator[str]:
        for code in sorted(self.told):
            yield from self.told[code]


def any_cure_event(dice: Random, entries: int) -> dict[str, Any]:
    """Something that a maker could enter, slips among it."""
    tray = dice.choice(["R1", "R1", "R2", "R9"])
    made: dict[str, Callable[[], dict[str, Any]]] = {
        "pressed": lambda: {"firmness": dice.choice(["soft", "tacky", "firm", "brittle"]), "sure": dice.random() < 0.2},
        "unmoulded": lambda: {"how": dice.choice(["clean", "stuck", "broke"])},
        "cut": lambda: {
            "bars": dice.choice([0, 5, 10, 11, 12]), "seconds": dice.choice([0, 0, 2, 7]), "samples": dice.choice([0, 1]),
            "trims_g": dice.choice([None, 40.0, -1.0]), "sure": dice.random() < 0.2,
        },
        "placed": lambda: {"bars": dice.choice([1, 2, 3, 4, 9]), "tray": tray, "from_tray": dice.choice([None, None, "R1", "R2"])},
        "turned": dict,
        "weighed": lambda: {
            "mark": dice.choice(["A", "B"]), "bars": dice.choice([1, 1, 1, 3, 9]), "source": "typed", "sure": dice.random() < 0.2,
            "weight_g": dice.choice([0.0, 128.0, 124.0, 118.0, 1180.0, 11.8, 372.0, 5200.0]),
        },
        "room": lambda: {"celsius": dice.choice([None, 18.0, -30.0, 61.0]), "humidity_percent": dice.choice([None, 55.0, 101.0])},
        "fit_tested": lambda: {"ph": dice.choice([None, 9.4, 10.6, 94.0, 5.0]), "zap": dice.choice([None, False, True])},
        "left": lambda: {"bars": dice.choice([1, 2, 5]), "to": dice.choice(["sold", "kept", "lost", "given"]), "tray": dice.choice([None, "R1", "R2"])},
        "looked": lambda: {"scent": "weaker", "colour": "as_new", "spots": False},
        "judged": lambda: {
            "tester": "Runa", "scores": dice.choice([{}, {"bubbles": 4}]), "water_c": dice.choice([None, 35.0, 70.0]),
        },
        "struck": lambda: {"seq": dice.randint(1, entries + 2), "reason": "a slip"},
    }  # fmt: skip
    kind = dice.choice([one for one in made for _ in range(1 if one in SELDOM else 3)])
    return {"kind": kind, **made[kind]()}


SELDOM = ("pressed", "turned", "room", "looked")


def cure_walk_lines() -> Iterator[str]:
    refused = Refusals()
    for walk in WALKS:
        dice, events, day = Random(walk), record(UNMOULDED, CUT) if walk % 4 else record(), 1.2 if walk % 4 else 0.5
        for _ in range(60):
            day += dice.choice([0.0, 0.1, 1.0, 3.0, -0.5])
            at = (POURED + timedelta(days=day)).isoformat()
            meant = any_cure_event(dice, len(events))
            entry = CureRecord.model_validate({"seq": len(events) + 1, "at": at, "recorded_at": at, "event": meant})
            problem = cure_refusal(
                entry.event,
                at,
                (POURED + timedelta(days=150)).isoformat(),
                POURED.isoformat(),
                events,
                BAR,
                10,
                FREE,
                18.0,
            )
            if problem is None:
                events.append(entry)
            else:
                refused.add(problem)
        yield f"== walk {walk}: {len(events)} entries, {', '.join(one.event.kind for one in events)}"
        yield from lines_of(cure_state(events, POURED.isoformat()))
    yield "== refused"
    yield from refused.lines()


FACTS: tuple[dict[str, Any], ...] = (
    {"status": "planned", "make_on": (POURED + timedelta(days=2)).date()},
    {"status": "planned"},
    {"status": "making", "at": "Weigh palm"},
    {"status": "made", "ended_at": POURED, "unmould_hours": (18.0, 36.0), "usable_weeks": 4.0, "best_weeks": 8.0},
    {"status": "made", "ended_at": POURED, "unmould_hours": (2.0, 3.0), "usable_weeks": 4.0, "best_weeks": 8.0, "cure": {
        "unmould_from": 0.8, "unmould_to": 1.4, "unmoulded_at": None, "cut_at": None,
    }},
    {"status": "made", "ended_at": POURED, "usable_weeks": 4.0, "best_weeks": 8.0, "cure": {
        "unmould_from": 0.8, "unmould_to": 1.4, "unmoulded_at": 1.0, "cut_at": None,
    }},
    {"status": "made", "ended_at": POURED, "usable_weeks": 4.0, "best_weeks": 8.0, "cure": {
        "unmould_from": 0.8, "unmould_to": 1.4, "unmoulded_at": 1.0, "cut_at": 1.2, "bars": 10, "here": 10, "ready_from": 25.0,
        "ready_at": 31.0, "ready_to": 39.0, "turned_at": 9.0, "weighed_at": 12.0,
    }},
    {"status": "made", "ended_at": POURED, "usable_weeks": 4.0, "best_weeks": 8.0, "cure": {
        "unmould_from": 0.8, "unmould_to": 1.4, "unmoulded_at": 1.0, "cut_at": 1.2, "bars": 10, "here": 1, "ready_from": 25.0,
        "ready_at": 31.0, "ready_to": 39.0, "fit": "fit", "fit_at": 33.0, "judged_at": 40.0, "looked_at": 95.0,
    }},
    {"status": "made", "ended_at": POURED, "usable_weeks": 4.0, "best_weeks": 8.0, "cure": {
        "unmould_from": 0.8, "unmould_to": 1.4, "unmoulded_at": 1.0, "cut_at": 1.2, "bars": 10, "here": 10, "ready_from": 25.0,
        "ready_at": 31.0, "ready_to": 39.0, "fit": "wait", "fit_at": 33.0,
    }},
    {"status": "made", "ended_at": POURED, "usable_weeks": 4.0, "best_weeks": 8.0, "cure": {
        "unmould_from": 0.8, "unmould_to": 1.4, "unmoulded_at": 1.0, "cut_at": 1.2, "bars": 10, "here": 0, "fit": "fit", "fit_at": 33.0,
    }},
)  # fmt: skip
"""Batches as they stand; what happened in the cure by the day after the pour."""
WHEN = ("_at", "_from", "_to")


def due_lines() -> Iterator[str]:
    """What is to do, half a day after the other, whenever it is not what it was."""
    for i, facts in enumerate(FACTS):
        cure = facts.get("cure")
        told_of = (
            None
            if cure is None
            else {"seq": 5}
            | {
                name: POURED + timedelta(days=value)
                if name.endswith((*WHEN, "from", "to")) and value is not None
                else value
                for name, value in cure.items()
            }
        )
        batch = BatchFacts.model_validate({"id": str(i), "code": f"B-{i}", "name": "Bar", **facts, "cure": told_of})
        yield f"== {facts}"
        before: list[str] = []
        for half_days in range(-6, 820):
            due = due_of([batch], POURED + timedelta(days=half_days / 2))
            now = [f"{one.kind} {one.standing} {one.at} {one.from_at} {one.until_at} {one.may_wait}" for one in due]
            if now != before:
                yield from (f"day {half_days / 2:g}: {line}" for line in now or ["nothing"])
            before = now


def any_make_event(dice: Random, making: Making) -> dict[str, Any]:
    """Something that could be entered on a make day: more often than not what comes next, otherwise anything."""
    state = making.state
    current = next((step for step in making.steps if step.id == state.current), None)
    item = dice.choice([*state.targets_g, "oil:99"]) if state.targets_g else "oil:0"
    if current is not None and current.weigh is not None and dice.random() < 0.8:
        item = current.weigh.item
    target_g = state.targets_g.get(item, 10.0)
    made: dict[str, Callable[[], dict[str, Any]]] = {
        "step_done": lambda: {
            "step": dice.choice([state.current or "gear", "melt", "nothing"]) if dice.random() < 0.3 else state.current or "gear",
            "confirmed": list(current.checks) if current is not None and dice.random() < 0.8 else [],
        },
        "captured": lambda: {
            "item": item, "source": dice.choice(["typed", "typed", "scale"]), "adds": dice.random() < 0.2, "sure": dice.random() < 0.3,
            "weight_g": round(target_g * dice.choice([1.0, 1.0, 1.0, 0.5, 1.02, 10.0, 0.1, 3.0, -1.0]), 2),
            "tare": dice.choice(["", "z1", "z2"]),
        },
        "tared": lambda: {"item": item, "tare": dice.choice(["z1", "z2", "z3"]), "emptied": dice.random() < 0.3},
        "temperature": lambda: {
            "bowl": dice.choice(["oils", "lye"]), "celsius": dice.choice([-8.0, 20.0, 41.0, 62.0, 96.0, 130.0, 210.0]),
            "source": "typed", "sure": dice.random() < 0.2,
        },
        "chose": lambda: {"what": dice.choice(["ice_bath", "heat_pad", "fridge"])},
        "traced": lambda: {"stage": dice.choice(["emulsion", "light", "medium"])},
        "poured": lambda: {"mould": dice.choice([0, 0, 3]), "difference_ml": dice.choice([-40.0, 60.0, 9000.0, -9000.0])},
        "tested": lambda: {"test": dice.choice(["zap", "clarity", "ph"]), "outcome": dice.choice(["clean", "zap", "clear", ""]), "ph": dice.choice([None, 9.6, 12.0, 99.0])},
        "stage_reached": lambda: {"stage": dice.choice(["separated", "gel", "nothing"])},
        "packed": lambda: {"jars": dice.choice([1, 3]), "weight_g": dice.choice([500.0, 1500.0, 90_000.0, -3.0])},
        "amended": lambda: {
            "seq": dice.randint(1, len(making.events) + 2), "reason": "a slip", "weight_g": dice.choice([None, round(target_g, 1), 9e5, -2.0]),
            "in_bowl": dice.choice([None, True, False]),
        },
        "correction_taken": lambda: {"item": item, "correction": "accept"},
        "finished": dict,
    }  # fmt: skip
    kind = dice.choice(["step_done", "captured"]) if dice.random() < 0.6 else dice.choice([*made])
    return {"kind": kind, **made[kind]()}


def make_walk_lines() -> Iterator[str]:
    refused = Refusals()
    asked = [*PLANS.values()]
    for walk in WALKS:
        dice, making = Random(walk), Making(asked[walk % len(asked)])
        making.up_to(making.steps[0 if walk % 3 else dice.randrange(len(making.steps))].id)
        for _ in range(160):
            meant = any_make_event(dice, making)
            seq = len(making.events) + 1
            entry = RecordedEvent.model_validate({"seq": seq, "at": "2030-01-05T10:00:00+00:00", "event": meant})
            problem = make_refusal(entry.event, making.state, making.steps, making.planned, making.events)
            if problem is None:
                making.add(**meant)
            else:
                refused.add(problem)
        state = making.state
        yield f"== walk {walk}: {len(making.events)} entries, {state.status}, at {state.current}"
        yield from lines_of(state.captured_g, "in the bowl")
        yield from lines_of(state.on_scale_g, "on the scale")
        yield from lines_of(state.targets_g, "targets")
    yield "== refused"
    yield from refused.lines()


def paper_lines(making: Making) -> Iterator[str]:
    """What the sheet says of a day: what was weighed beside what was asked for, and what happened."""
    actual = actual_batch(making.planned, expected_g(making.state))
    sheet = actual_sheet(sheet_of(making.plan, making.planned, "B-101"), making.planned, making.state, actual)
    for row in (row for section in sheet.sections for row in section.rows if row.weighed_g):
        yield f"{row.name}: {row.g} g, weighed {row.weighed_g} g"
    yield from (f"{one.name}: {plain(one.value)}" for one in sheet.happened)


SOLID_DAY: tuple[dict[str, Any], ...] = (
    {"kind": "chose", "what": "ice_bath"},
    {"kind": "temperature", "bowl": "oils", "celsius": 61.04, "source": "typed"},
    {"kind": "temperature", "bowl": "lye", "celsius": 84.96, "source": "typed"},
    {"kind": "temperature", "bowl": "lye", "celsius": 38.25, "source": "typed"},
    {"kind": "traced", "stage": "emulsion"},
    {"kind": "traced", "stage": "medium"},
    {"kind": "poured", "mould": 0, "difference_ml": -0.4},
    {"kind": "poured", "mould": 1, "difference_ml": 31.6},
    {"kind": "noted", "text": "Warm kitchen."},
)
PASTE_DAY: tuple[dict[str, Any], ...] = (
    {"kind": "temperature", "bowl": "oils", "celsius": 71.5, "source": "typed"},
    {"kind": "stage_reached", "stage": "sauce"},
    {"kind": "stage_reached", "stage": "jelly"},
    {"kind": "tested", "test": "clarity", "outcome": "haze"},
    {"kind": "tested", "test": "clarity", "outcome": "clear"},
    {"kind": "tested", "test": "ph", "ph": 9.64},
    {"kind": "packed", "jars": 1200, "weight_g": 1512.4},
)
PASTE = plan(
    formula={"purpose": "liquid-soap", "superfat_percent": 2.0, "lye": dual(100.0), "process": {"method": "hot"}},
    moulds=(), size={"by": "oils_g", "value": 600.0},
)  # fmt: skip
DAYS: dict[str, tuple[BatchPlan, float, tuple[dict[str, Any], ...]]] = {
    "as planned": (PLANS["guest loaf"], 1.0, ()),
    "a solid bar, a little over": (PLANS["milk slab"], 1.004, SOLID_DAY),
    "a paste": (PASTE, 1.0, PASTE_DAY),
    "given up": (PLANS["guest loaf"], 1.0, ({"kind": "traced", "stage": "light"}, {"kind": "aborted", "reason": "It seized."})),
}  # fmt: skip
"""A plan, by how much all that is weighed in it is over, and what is recorded after that."""


def day_lines() -> Iterator[str]:
    for name, (asked, times, happened) in DAYS.items():
        making = Making(asked)
        making.up_to("")
        for item, target_g in dict(making.state.targets_g).items():
            making.add(kind="captured", item=item, weight_g=round(target_g * times, 3), source="typed")
        for i, meant in enumerate(happened):
            entry = {"seq": len(making.events) + 1, "at": f"2030-01-05T11:{7 * i:02d}:20+00:00", "event": meant}
            making.events.append(RecordedEvent.model_validate(entry))
        yield f"== {name}"
        yield from paper_lines(making)
    making = Making(PLANS["guest loaf"])
    making.up_to("melt")
    making.add(kind="captured", item="lye:naoh", weight_g=9000.0, source="typed")
    yield "== far too much lye"
    yield from paper_lines(making)


def stock_walk_lines() -> Iterator[str]:
    refused = Refusals()
    for walk in WALKS:
        dice, shelf = Random(walk), lot(amount_g=900.0 if walk % 2 else 5000.0)
        entries = [
            LedgerEntry(seq=1, at="2026-05-01T12:00:00.000+00:00", change_g=shelf.amount_g, event=event("arrived"))
        ]
        for _ in range(30):
            grams = dice.choice([0.0, -5.0, 30.0, 260.0, 900.0, 6000.0])
            made: dict[str, dict[str, Any]] = {
                "opened": {}, "used": {"grams": grams, "batch_id": dice.choice(["a", "b"])}, "wasted": {"grams": grams},
                "returned": {"grams": grams, "batch_id": dice.choice(["a", "b", ""])}, "counted": {"grams": grams},
                "mixed": {"grams": grams, "into": "C9"}, "checked": {"is_good": dice.random() < 0.6, "text": "paint"},
                "stopped": {"is_stopped": dice.random() < 0.5}, "struck": {"seq": dice.randint(1, 12), "reason": "a slip"},
            }  # fmt: skip
            kind = dice.choice([*made])
            meant = event(kind, **made[kind])
            at = f"2026-{dice.choice([4, 5, 6]):02d}-11T12:00:00.000+00:00"
            problem = stock_refusal(meant, shelf, entries, at)
            if problem is None:
                entries.append(
                    LedgerEntry(seq=len(entries) + 1, at=at, change_g=change_g(shelf, meant, entries), event=meant)
                )
            else:
                refused.add(problem)
        yield f"== walk {walk}: {', '.join(f'{one.event.kind} {one.change_g:g}' for one in entries)}"
        yield from lines_of(lot_now(entries))
    yield "== refused"
    yield from refused.lines()
