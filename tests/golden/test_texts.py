# ruff: noqa: E501
"""Everything that is said of some formulas and batches, word by word and number by number, as it was read and found right.

The texts lie in ``texts/``, one file a scene. After a change that is meant to change them, ``./run texts`` writes them anew; read
what differs.
"""

import re
from collections.abc import Iterable, Iterator
from itertools import groupby, islice, product
from pathlib import Path
from typing import Any, get_args

import pytest

from core.batches import GUEST, MILK
from core.strategies import weight_formula
from core.test_rules import BOTH_WAYS
from golden.entries import ENTRIES, entry_lines
from golden.lists import buying_lines, cost_lines, lot_lines, price_list_lines, recipe_lines
from golden.plans import PLANS, VARIED, diagnostic_lines, dual, form_of, plan_lines, varied_lines
from golden.questions import (
    SOLVES,
    SWAPS,
    advice_lines,
    lever_lines,
    move_lines,
    question_lines,
    solve_lines,
    swap_lines,
)
from golden.rooms import (
    bench_lines,
    dilution_lines,
    fault_lines,
    label_lines,
    practice_lines,
    preparation_lines,
    shelf_lines,
)
from golden.tables import FRONTS, cut_lines, drying_lines, front_lines, heat_lines, trial_lines
from golden.test_golden import golden
from golden.thresholds import GROUPS, threshold_lines
from golden.walks import cure_walk_lines, day_lines, due_lines, make_walk_lines, stock_walk_lines
from sapolin.core.advice.report import report
from sapolin.core.bar.explanations import explain, quantity_ids
from sapolin.core.batch.plan import BatchPlan
from sapolin.core.batch.planned import plan_batch
from sapolin.core.batch.readiness import readiness
from sapolin.core.formula.document import Formula, FreeOf
from sapolin.core.formula.version_1 import formula_from_version_1, plan_from_version_1
from sapolin.core.quantities.diagnostics import Diagnostic
from sapolin.core.quantities.text import plain

HERE = Path(__file__).parent / "texts"


FORMULAS: dict[str, Formula] = {
    "guest": weight_formula(GUEST),
    "dual with acid": weight_formula(
        {"olive-refined": 500.0, "coconut": 300.0, "stearic-acid": 50.0, "castor": 150.0}, superfat=4.0, lye=dual(30.0),
        purpose="shaving",
        additives=[
            {"additive": "citric-acid", "by": "percent_of_oils", "value": 1.5, "compensated": True},
            {"additive": "sodium-lactate-60", "by": "percent_of_oils", "value": 2.0},
        ],
        process={"method": "hot"}, water={"by": "percent_of_oils", "value": 36.0},
    ),
    "milk and master": weight_formula(
        {"olive-virgin": 450.0, "palm": 250.0, "coconut": 200.0, "shea": 100.0},
        lye={"naoh_purity_percent": 99.0, "master_percent": 50.0}, liquids=[MILK | {"use": "at_trace", "value": 40.0}],
        additives=[{"additive": "honey", "by": "percent_of_oils", "value": 2.0}], scale_step_g=1.0,
        water={"by": "discount_percent", "value": 12.0}, process={"gel": "encouraged", "batter_temperature_c": 30.0},
    ),
    "late oil and vinegar": weight_formula(
        {"olive-refined": 400.0}, superfat=2.0,
        blend={"lines": [
            {"oil": "tallow-beef", "by": "weight_g", "value": 350.0}, {"oil": "coconut", "by": "weight_g", "value": 100.0},
            {"oil": "shea", "by": "weight_g", "value": 50.0, "added": "at_trace"},
        ]},
        liquids=[{"liquid": "vinegar", "use": "dissolves_lye", "by": "weight_g", "value": 60.0, "compensated": False}],
        water={"by": "lye_concentration_percent", "value": 28.0}, process={"gel": "prevented", "cure_weeks": 8},
    ),
    "liquid": weight_formula(
        {"olive-refined": 600.0, "coconut": 300.0, "castor": 100.0}, superfat=2.0, purpose="liquid-soap", lye=dual(100.0),
        water={"by": "water_to_lye", "value": 3.0}, dilution={"soap_percent": 28.0}, process={"method": "hot"},
    ),
    "out of range": weight_formula(
        {"coconut": 700.0, "sunflower": 250.0, "beeswax": 50.0}, superfat=1.0,
        water={"by": "lye_concentration_percent", "value": 42.0},
    ),
}  # fmt: skip


def formula_lines(formula: Formula) -> Iterator[str]:
    found = report(formula)
    yield from diagnostic_lines(found.diagnostics)
    if found.result is None:
        return
    bar = found.result.bar
    if bar is not None:
        yield f"trace {bar.trace} {bar.trace_points:.3f}, unmould {bar.unmould_hours_low:.3f} to {bar.unmould_hours_high:.3f} h"
        yield f"firm {bar.firmness_at_unmould:.3f} {bar.firmness_after_cure:.3f} {bar.firmness_at_best:.3f}"
        yield f"usable {bar.usable_weeks:.3f} best {bar.best_weeks:.3f} weeks, shelf {bar.shelf_months:.3f} months"
    yield from adjustment_lines(formula)
    for quantity in quantity_ids(formula):
        one = explain(formula, quantity)
        yield f"{one.name}: {one.value:.6g} {one.unit} = {plain(one.rule)} = {plain(one.substituted)} ({one.certainty})"
        for term in one.terms:
            yield f"    {term.label}: {plain(term.expression)} gives {term.value:.6g}"
        for assumed in one.assumes:
            yield f"    {plain(assumed)}"


def adjustment_lines(formula: Formula) -> Iterator[str]:
    found = report(formula)
    for adjustment in () if found.result is None else found.result.adjustments:
        moved = "; ".join(f"{one.on} {one.points:.4f} = {plain(one.expression)}" for one in adjustment.effects)
        yield f"adjustment {adjustment.id} {adjustment.name}: {plain(adjustment.state)}. {moved}. {adjustment.reason}"


def rule_lines() -> Iterator[str]:
    """What is said of a formula that a rule speaks of, and of one next door that it does not."""
    for rule, sides in BOTH_WAYS.items():
        for side, (weights, changes) in zip(("speaks", "keeps quiet"), sides, strict=True):
            yield f"== {rule} {side}"
            formula = weight_formula(weights, **changes)
            yield from diagnostic_lines(report(formula).diagnostics)
            yield from adjustment_lines(formula)


HOLDERS: dict[str, dict[str, Any]] = {
    "oils alone": {}, "milk": {"liquids": [MILK]}, "egg": {"liquids": [{"liquid": "egg", "use": "at_trace", "by": "weight_g", "value": 20.0}]},
    "beer": {"liquids": [{"liquid": "beer", "use": "dissolves_lye", "by": "weight_g", "value": 90.0}]}, "oat drink": {"liquids": [{"liquid": "oat-drink", "use": "at_trace", "by": "weight_g", "value": 20.0}]},
    **{one: {"additives": [{"additive": one, "by": "percent_of_oils", "value": 1.0}]} for one in ("honey", "silk", "goat-milk-powder", "glycerin", "vitamin-e", "salt")},
}  # fmt: skip
BLENDS = {
    "guest": GUEST, "lard": {"lard": 500.0, "coconut": 300.0, "olive-refined": 200.0},
    "many": {"olive-refined": 300.0, "stearic-acid": 100.0, "almond-sweet": 100.0, "peanut": 100.0, "soybean": 100.0, "sesame": 100.0, "wheat-germ": 50.0, "lanolin": 50.0, "beeswax": 50.0, "mustard": 50.0},
}  # fmt: skip


def unwanted_lines() -> Iterator[str]:
    """What a bar holds, or may hold, of everything that it can be meant to be free of."""
    for (blend, weights), (name, around), word in product(BLENDS.items(), HOLDERS.items(), get_args(FreeOf)):
        found = report(weight_formula(weights, free_of=[word], **around)).diagnostics
        for one in found:
            if one.code in ("unwanted", "perhaps_unwanted"):
                yield f"{blend}, {name}, free of {word}: {one.severity} {one.stops} {plain(one.message)}"


TOLD = 3
"""So many of a kind are told."""


def first_of_each(found: Iterable[Diagnostic]) -> Iterator[str]:
    """The first of each code, as far as they differ."""
    seen: dict[str, list[str]] = {}
    for one in found:
        [line] = diagnostic_lines((one,))
        of_code = seen.setdefault(one.code, [])
        if len(of_code) < TOLD and line not in of_code:
            of_code.append(line)
    for code in sorted(seen):
        yield from seen[code]


def drawn_lines() -> Iterator[str]:
    """What is said of five hundred formulas and a hundred plans drawn by seed."""
    formulas = [Formula.model_validate(formula_from_version_1(one["document"])) for one in golden()["formulas"]]
    yield from first_of_each(one for formula in formulas for one in report(formula).diagnostics)
    yield "== adjustments"
    told = sorted(dict.fromkeys(line for formula in formulas for line in adjustment_lines(formula)))
    yield from (line for _, lines in groupby(told, lambda line: line.split()[1]) for line in islice(lines, TOLD))
    yield "== plans"
    plans = [BatchPlan.model_validate(plan_from_version_1(one["plan"])) for one in golden()["batches"]]
    yield from first_of_each(one for asked in plans for one in readiness(asked, plan_batch(asked)))


SCENES: dict[str, Any] = {
    **{f"formula/{name}": (lambda formula=formula: formula_lines(formula)) for name, formula in FORMULAS.items()},
    **{f"batch/{name}": (lambda asked=asked: plan_lines(asked)) for name, asked in PLANS.items()},
    "advice": lambda: advice_lines(FORMULAS["guest"]),
    **{f"swap/{name}": (lambda asked=asked: swap_lines(*asked)) for name, asked in SWAPS.items()},
    **{f"solve/{name}": (lambda asked=asked: solve_lines(asked)) for name, asked in SOLVES.items()},
    "moves": move_lines,
    "levers": lever_lines,
    "questions": question_lines,
    "varied/choices": lambda: varied_lines(VARIED["choices"](), str),
    **{
        f"varied/{name}": (lambda made=made: varied_lines(made(), form_of))
        for name, made in VARIED.items()
        if name != "choices"
    },
    **{f"entries/{name}": (lambda asked=asked: entry_lines(*asked)) for name, asked in ENTRIES.items()},
    "cure by dice": cure_walk_lines,
    "make days by dice": make_walk_lines,
    "days on paper": day_lines,
    "lots by dice": stock_walk_lines,
    "due": due_lines,
    "recipes": recipe_lines,
    "price lists": price_list_lines,
    "buying": buying_lines,
    "costs": cost_lines,
    "lots": lot_lines,
    "heat": heat_lines,
    "drying": drying_lines,
    "cuts": cut_lines,
    "trials": trial_lines,
    **{f"front/{name}": (lambda name=name: front_lines(name)) for name in FRONTS},
    "dilutions": dilution_lines,
    "unwanted": unwanted_lines,
    **{f"thresholds/{group}": (lambda group=group: threshold_lines(group)) for group in GROUPS},
    "bench": bench_lines,
    "faults": fault_lines,
    "labels": label_lines,
    "practice": practice_lines,
    "preparations": preparation_lines,
    "diagnostics": drawn_lines,
    "rules": rule_lines,
    "shelf": shelf_lines,
}


def file_of(scene: str) -> Path:
    *rooms, name = (re.sub(r"\W+", "-", part) for part in scene.split("/"))
    return HERE.joinpath(*rooms, f"{name}.txt")


@pytest.mark.parametrize("scene", SCENES)
def test_it_says_what_was_read_and_found_right(scene):
    assert [*SCENES[scene]()] == file_of(scene).read_text(encoding="utf-8").splitlines()


def test_no_text_is_left_of_what_is_not_told_any_more():
    assert {*HERE.rglob("*.txt")} == {file_of(scene) for scene in SCENES}


if __name__ == "__main__":
    for scene, lines in SCENES.items():
        file_of(scene).parent.mkdir(parents=True, exist_ok=True)
        file_of(scene).write_text("\n".join(lines()) + "\n", encoding="utf-8")
