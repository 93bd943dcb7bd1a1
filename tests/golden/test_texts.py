# ruff: noqa: E501
"""Everything that is said of some formulas and batches, word by word and number by number, as it was read and found right.

The texts lie in ``texts/``, one file a scene. After a change that is meant to change them, ``python tests/golden/test_texts.py``
writes them anew; read what differs.
"""

from collections.abc import Iterable, Iterator
from itertools import groupby, islice
from pathlib import Path
from typing import Any

import pytest

from core.batches import GUEST, MILK, loaf, plan
from core.strategies import weight_formula
from core.test_rules import BOTH_WAYS
from golden.rooms import bench_lines, fault_lines, label_lines, practice_lines, preparation_lines, shelf_lines
from golden.test_golden import golden
from sapolin.core.advice.report import report
from sapolin.core.bar.explanations import explain, quantity_ids
from sapolin.core.batch.moulds import Cavities, Cylinder, HalfSpheres, Mould, Slab
from sapolin.core.batch.plan import BatchPlan, Cut, MouldUse
from sapolin.core.batch.planned import plan_batch
from sapolin.core.batch.procedure import steps_of
from sapolin.core.batch.readiness import readiness
from sapolin.core.batch.sheet import sheet_of
from sapolin.core.formula.document import Formula
from sapolin.core.formula.version_1 import formula_from_version_1, plan_from_version_1
from sapolin.core.optimise.solve import SolveQuestion, Target, answer_solve
from sapolin.core.optimise.solve.question import targets_of_purpose
from sapolin.core.optimise.swap import Outgoing, SwapQuestion, answer_swap, levers_of
from sapolin.core.optimise.trades import best_trades
from sapolin.core.optimise.trial_set import trial_set
from sapolin.core.quantities.diagnostics import Diagnostic
from sapolin.core.quantities.text import plain

HERE = Path(__file__).parent / "texts"


def mould(name: str, shape: Any, headroom_mm: float = 0.0, cut: Cut | None = None) -> MouldUse:
    return MouldUse(mould=Mould(name=name, shape=shape), headroom_mm=headroom_mm, cut=cut)


def dual(share: float, by: str = "saponification_percent") -> dict[str, Any]:
    koh = {"by": by, "value": share, "purity_percent": 90.0}
    return {"naoh_purity_percent": 98.5, "koh": koh}


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

COLOURS = [
    {"name": "white", "share_percent": 50.0, "colours": [{"colorant": "titanium-white", "value": 1.0}]},
    {"name": "blue", "share_percent": 30.0, "colours": [
        {"colorant": "mica-blue", "value": 1.0}, {"colorant": "ultramarine-blue", "value": 0.25, "disperse_in": "glycerin"},
    ]},
    {"name": "plain", "share_percent": 20.0},
]  # fmt: skip
SLAB = mould(
    "Slab",
    Slab(kind="slab", length_mm=300, width_mm=220, height_mm=40),
    5,
    Cut(bar_mm=80, bar_width_mm=55, kerf_mm=1, trim_mm=3),
)
TUBE = mould(
    "Tube",
    Cylinder(kind="cylinder", diameter_mm=76, length_mm=300),
    10,
    Cut(bar_mm=28, kerf_mm=1.5, trim_mm=4, halved=True),
)
DOMES = mould("Domes", HalfSpheres(kind="half_spheres", diameter_mm=70, count=6))
TRAY = mould("Tray", Cavities(kind="cavities", count=8, cavity_ml=95))

PLANS: dict[str, BatchPlan] = {
    "guest loaf": plan(
        scents=[{"scent": "lavender", "percent_of_oils": 2.5, "limit_percent": 3.0}, {"scent": "vanilla-type", "percent_of_oils": 0.5}],
        portions=COLOURS, choices={"top": "textured", "cover": "insulate"}, notes="For the hut.",
    ),
    "milk slab": plan(
        formula={"liquids": [MILK], "additives": [{"additive": "honey", "by": "percent_of_oils", "value": 1.0}]},
        moulds=(SLAB, DOMES), choices={"milk": "chilled", "cover": "fridge", "school": "within_5_f", "ice_bath": True},
    ),
    "tube by oils": plan(
        formula={"lye": dual(20.0, "lye_weight_percent")}, moulds=(TUBE,), size={"by": "oils_g", "value": 900.0},
        choices={"weigh_into": "separate", "lye": "master", "alcohol_spray": False, "school": "room_temperature", "room_c": 24.0},
    ),
    "cavities by bars": plan(
        formula={"additives": [{"additive": "salt", "by": "percent_of_oils", "value": 30.0}]}, moulds=(TRAY,),
        size={"by": "bars", "value": 10, "cured_bar_g": 85.0}, choices={"cover": "heat_pad", "scent_at": "oils"},
        scents=[{"scent": "lavender", "percent_of_oils": 1.0, "limit_percent": 3.0}],
    ),
    "big batch without a mould": plan(
        moulds=(), size={"by": "oils_g", "value": 12_000.0}, choices={"scale_capacity_g": 5000.0, "lye_concentration_percent": 36.0},
    ),
    "limiting oil": plan(
        moulds=(loaf(headroom_mm=8, bar_mm=30, kerf_mm=2, trim_mm=6),),
        size={"by": "limiting", "available_g": {"olive-refined": 310.0, "coconut": 300.0}},
    ),
}  # fmt: skip


def diagnostic_lines(found: tuple[Diagnostic, ...]) -> Iterator[str]:
    for one in found:
        words = " | ".join(plain(text) for text in (one.message, one.reason, one.remedy) if text)
        yield f"{one.severity} {one.code} {one.path} {one.stops} {one.quantity or ''}: {words}"


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


def remark_lines() -> Iterator[str]:
    """What is said of five hundred formulas and a hundred plans drawn by seed."""
    formulas = [Formula.model_validate(formula_from_version_1(one["document"])) for one in golden()["formulas"]]
    yield from first_of_each(one for formula in formulas for one in report(formula).diagnostics)
    yield "== adjustments"
    told = sorted(dict.fromkeys(line for formula in formulas for line in adjustment_lines(formula)))
    yield from (line for _, lines in groupby(told, lambda line: line.split()[1]) for line in islice(lines, TOLD))
    yield "== plans"
    plans = [BatchPlan.model_validate(plan_from_version_1(one["plan"])) for one in golden()["batches"]]
    yield from first_of_each(one for asked in plans for one in readiness(asked, plan_batch(asked)))


def plan_lines(asked: BatchPlan) -> Iterator[str]:
    planned = plan_batch(asked)
    yield plain(planned.size.words)
    yield from diagnostic_lines(readiness(asked, planned))
    sheet = sheet_of(asked, planned, "B-101")
    for section in sheet.sections:
        yield f"== {section.title}"
        for row in (*section.rows, *((section.total,) if section.total else ())):
            yield f"{row.name}: {row.g} g, {row.oz} oz, {row.note}"
    for fact in sheet.facts:
        yield f"{fact.name}: {plain(fact.value)}"
    for words in sheet.moulds:
        yield plain(words)
    for fill in planned.moulds:
        for cut in fill.cuts:
            yield f"{fill.name} cut: {plain(cut.label)} {cut.bars} bars {cut.bar_ml:.3f} ml {cut.wet_g:.3f} g {cut.cured_g:.3f} g over {cut.left_over_g:.3f}"
    for step in steps_of(asked, planned):
        yield f"[{step.phase}] {step.title} ({step.kind}{', caustic' if step.caustic else ''}): {plain(step.text)}"
        for check in step.checks:
            yield f"    - {check}"
        if step.weigh is not None:
            yield f"    {step.weigh.target_g} g within {step.weigh.tolerance_g:.4g} g, {step.weigh.decimals} decimals, {step.weigh.most_at_once_g}"


def advice_lines() -> Iterator[str]:
    guest = FORMULAS["guest"]
    for changes in ({"free_of": ("palm", "animal")}, {"others": "one_moves"}, {"school": "role", "reason": "price"}):
        answer = answer_swap(SwapQuestion(formula=guest, outgoing=(Outgoing(oil="palm"),), **changes))
        yield f"== swap palm {changes}: {plain(answer.words)} {plain(answer.why_first)} {answer.outgoing_percent:.3f} % {answer.outgoing_g:.2f} g"
        for candidate in answer.candidates:
            incoming = [f"{one.name} {one.share_percent:g}" for one in (*candidate.incoming, *candidate.moved)]
            yield f"{', '.join(incoming)}: {candidate.match_percent:.3f} %, distance {candidate.distance:.4f}"
            for term in candidate.terms[:4]:
                yield f"    {term.name} {term.change:.4f} {term.term_percent:.3f} %"
            yield from (f"    {plain(line)}" for line in candidate.words)
        for refused in answer.refused:
            yield f"refused {refused.names} {refused.match_percent:.3f} {[one.code for one in refused.diagnostics]}"
        if answer.equal_sap is not None:
            yield f"{plain(answer.equal_sap.words)} {answer.equal_sap.sap_difference_koh_mg_per_g:.3f}"
        for lever in levers_of(answer.candidates[0].formula, answer.before, answer.candidates[0].result):
            yield f"lever {lever.id}: {lever.label}. {lever.reason}"
    for trade in best_trades(guest):
        yield f"trade {trade.model_dump(exclude={'formula', 'result'})}"
    for one in trial_set(guest):
        yield f"trial {one.model_dump(include={'id', 'change', 'shows'})}"
    for purpose in ("everyday-body", "shaving"):
        question = SolveQuestion(
            formula=guest.model_copy(update={"purpose": purpose}), targets=targets_of_purpose(purpose),
            free_of=("palm",), prices={"olive-refined": 6.0, "coconut": 3.0, "tallow-beef": 2.0, "castor": 5.0, "lard": 2.2},
        )  # fmt: skip
        yield from solve_lines(purpose, question)
    harsh = (
        Target(feature="hardness", minimum=60, maximum=62, required=True),
        Target(feature="conditioning", minimum=55),
    )
    yield from solve_lines("conflict", SolveQuestion(formula=guest, targets=harsh))


def solve_lines(name: str, question: SolveQuestion) -> Iterator[str]:
    answer = answer_solve(question)
    yield f"== solve {name}: {answer.objective} {answer.slack} {answer.allowed}"
    if answer.conflict is not None:
        yield f"conflict {answer.conflict.words} {answer.conflict.targets}"
    for one in answer.solutions[:2]:
        blend = ", ".join(f"{line.oil} {line.value:g}" for line in one.formula.blend.lines)
        yield f"{blend}: {one.status} miss {one.miss:.4f} chance {one.chance_in_range_percent:.2f} changed {one.changed_percent}"
        for target in one.targets:
            yield f"    {target.name} {target.value:.4f} ± {target.deviation:.4f}: {target.chance_in_range_percent:.3f} %, {target.outside_by:.4f} out"
        yield from (f"    {line}" for line in one.why)


SCENES: dict[str, Any] = {
    **{f"formula {name}": (lambda formula=formula: formula_lines(formula)) for name, formula in FORMULAS.items()},
    **{f"batch {name}": (lambda asked=asked: plan_lines(asked)) for name, asked in PLANS.items()},
    "advice": advice_lines,
    "bench": bench_lines,
    "faults": fault_lines,
    "labels": label_lines,
    "practice": practice_lines,
    "preparations": preparation_lines,
    "remarks": remark_lines,
    "rules": rule_lines,
    "shelf": shelf_lines,
}


def file_of(scene: str) -> Path:
    return HERE / f"{scene.replace(' ', '-')}.txt"


@pytest.mark.parametrize("scene", SCENES)
def test_it_says_what_was_read_and_found_right(scene):
    assert [*SCENES[scene]()] == file_of(scene).read_text(encoding="utf-8").splitlines()


if __name__ == "__main__":
    HERE.mkdir(exist_ok=True)
    for scene, lines in SCENES.items():
        file_of(scene).write_text("\n".join(lines()) + "\n", encoding="utf-8")
