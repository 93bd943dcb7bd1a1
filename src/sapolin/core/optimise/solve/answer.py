"""From a solve question to its answer: a few really different blends, each calculated, or the reason why not."""

from collections.abc import Callable
from dataclasses import replace
from math import ceil, floor, inf
from typing import Literal, NamedTuple

import numpy as np

from sapolin.core.advice.report import advice
from sapolin.core.bar.calculation import calculation_of
from sapolin.core.bar.qualities import qualities
from sapolin.core.bar.result import FormulaResult
from sapolin.core.formula.blend import by_oil
from sapolin.core.formula.cost import OilCost, oil_cost, price_of
from sapolin.core.formula.document import Blend, Formula, OilLine
from sapolin.core.formula.purposes import TargetRange
from sapolin.core.materials.catalogue import Catalogue, catalogue
from sapolin.core.materials.own import material_problems, with_materials
from sapolin.core.optimise.solve.branch import (
    TOLERANCE,
    Best,
    Progress,
    Status,
    Verdict,
    find_best,
    linear_value,
)
from sapolin.core.optimise.solve.conflict import smallest_conflict, would_give
from sapolin.core.optimise.solve.model import (
    BlendModel,
    Floats,
    Surroundings,
    blend_model,
    feature_of,
    without_likings,
)
from sapolin.core.optimise.solve.question import (
    SolveQuestion,
    Target,
    check_question,
    settled,
    target_features,
    with_any_purity,
)
from sapolin.core.optimise.solve.sense import RARITIES, USUAL_SHARES, sense_name
from sapolin.core.optimise.solve.spread import chance_in_range, chance_of_all, deviations
from sapolin.core.optimise.solve.words import objective_of, said, why_of
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.diagnostics import Diagnostic, FormulaError
from sapolin.core.quantities.model import Model, Truth, given
from sapolin.core.quantities.text import listed, listed_with_or, number, percent

__all__ = [
    "Case",
    "Conflict",
    "Solution",
    "SolveAnswer",
    "TargetMet",
    "answer_solve",
    "case_of",
    "chance_of",
    "changed_of",
    "formula_of",
    "solve_model",
]

ANSWERS = 5
_LATER_SECONDS = 1.5
"""Time for each further blend; the first gets what the question allows."""
_LATER_NODES = 3000
ROOM_FOR_FEWER = 0.15
"""Cost that fewer oils may have more: they may take some of the room to the ends of the ranges, and miss nothing."""
_MET = 1e-5
"""Weighted points that count as none."""
_MET_AS_SHOWN = 0.005
"""Points that no screen shows."""
_STAND_IN = "olive-refined"


class TargetMet(Model):
    """How one target stands in a blend."""

    feature: str
    name: str
    value: float
    outside_by: float
    """Points outside; 0 when it is met."""
    deviation: float
    """Standard deviation between lots, in its unit (an estimate)."""
    chance_in_range_percent: float
    """Chance that lots as nature spreads them keep it in its range, %."""


class Solution(Model):
    """One blend."""

    formula: Formula
    result: FormulaResult
    """Its weights of lye mean nothing unless `lye_is_known`."""
    lye_is_known: Truth
    """The purity of the lye is entered, so its weights may be shown."""
    diagnostics: tuple[Diagnostic, ...]
    """What to know of it, the gravest first."""
    status: Status
    miss: float
    """Weighted points outside all target ranges together; 0 when everything is met."""
    is_met: Truth
    """Everything is met, to the hundredth of a point."""
    bound: float
    """No blend that differs as asked can miss by less."""
    cost: OilCost
    targets: tuple[TargetMet, ...]
    chance_in_range_percent: float
    """Chance that all targets hold at once whatever lots arrive, % (an estimate, from drawn lots)."""
    changed_percent: float | None
    """Points of the present blend that are another oil here; null when there is none."""
    why: tuple[str, ...]
    """What each oil does in this blend, the largest share first; and what bound."""


class Give(Model):
    """What one target would have to give, if it alone gave way."""

    target: str
    points: float
    feature: str
    minimum: float | None
    maximum: float | None
    """The range with which all of them could be met, tenths of a point to the safe side; null where it is open."""


class Conflict(Model):
    """Targets that cannot hold together."""

    targets: tuple[str, ...]
    """Names of the fewest that cannot; empty when only the number of oils stands in the way."""
    gives: tuple[Give, ...]
    """For each of them that could give way alone."""
    words: str
    lift: tuple[str, ...] = ()
    """Limits of good sense of which lifting one alone makes a blend possible; empty when there is one."""
    lift_names: tuple[str, ...] = ()
    """What each of them is called in a sentence."""


class SolveAnswer(Model):
    """The answer to a solve."""

    solutions: tuple[Solution, ...]
    conflict: Conflict | None
    """Why not everything is met; null when the first blend meets it all."""
    slack: tuple[str, ...]
    """What the room left inside the target ranges could buy; bounds for blends of any number of oils."""
    allowed: int
    """Oils that could be chosen from."""
    nodes: int
    """Linear steps searched."""
    status: Literal["done", "stopped"]
    objective: str
    """What was sought, in one plain sentence."""


def _name(feature: str) -> str:
    return next(known.name for known in target_features() if known.id == feature).lower()


def _around(formula: Formula, base: Catalogue) -> tuple[Surroundings, dict[str, float]]:
    """What surrounds the blend, and the present shares; a formula without oils yet is looked at with olive oil in it."""
    try:
        calculation = calculation_of(formula, base)
        present = by_oil((component.oil.id, component.share_percent) for component in calculation.composition.oils)
    except FormulaError:
        stand_in = Blend(total_oils_g=_total_g(formula), lines=(OilLine(oil=_STAND_IN, value=100.0),))
        calculation = calculation_of(formula.model_copy(update={"blend": stand_in, "materials": ()}), base)
        present = {}
    composition = calculation.composition
    from_liquids = composition.fats[len(composition.oils) :]
    return Surroundings(calculation.conditions, calculation.bar.adjustments, from_liquids), present


def _total_g(formula: Formula) -> float:
    blend = formula.blend
    if blend.by == "percent_of_oils":
        return blend.total_oils_g or 1000.0
    return sum(line.value or 0.0 for line in blend.lines) or 1000.0


class Case(NamedTuple):
    """A question with its numbers."""

    question: SolveQuestion
    model: BlendModel
    around: Surroundings
    present: dict[str, float]
    """Shares of the formula's own blend, %."""
    base: Catalogue | None


def case_of(question: SolveQuestion, base: Catalogue | None = None) -> Case:
    """The numbers of a question. Raises FormulaError when it cannot be asked."""
    question = settled(question)
    oils = catalogue() if base is None else base
    faulty = [
        problem for problem in material_problems(question.formula.materials, oils, "formula.materials")
        if problem.stops_calculation
    ]  # fmt: skip
    if faulty:
        raise FormulaError(faulty)
    around, present = _around(with_any_purity(question.formula), oils)
    known = with_materials(oils, question.formula.materials)
    check_question(question, known)
    model = blend_model(question, known, around, present, _total_g(question.formula))
    return Case(question, model, around, present, base)


def solve_model(question: SolveQuestion, base: Catalogue | None = None) -> BlendModel:
    """The numbers of a question. Raises FormulaError when it cannot be asked."""
    return case_of(question, base).model


def _kept(case: Case) -> Best | None:
    """The formula's own blend, when it should stay as near to it as can be and already meets everything."""
    model, present = case.model, case.present
    if case.question.prefer != "closer" or not present:
        return None
    shares = np.array([present.get(oil.id, 0.0) for oil in model.oils])
    used = shares > TOLERANCE
    fits = (
        abs(shares.sum() - 100) < 1e-6
        and int(used.sum()) <= model.most_oils
        and bool(np.all(shares <= model.most + TOLERANCE))
        and bool(np.all(used[model.wanted]))
        and model.keeps_rows(shares)
        and model.miss(shares) <= _MET
    )
    return Best("proven", shares, model.cost(shares), model.cost(shares), 0) if fits else None


def answer_solve(
    question: SolveQuestion,
    base: Catalogue | None = None,
    report: Callable[[str, Formula | None, float, float], bool] | None = None,
    clock: Callable[[], float] | None = None,
) -> SolveAnswer:
    """Answer `question` over the catalogue `base` (the shipped one by default).

    `report` is told what is being looked for, the best formula so far, its value and the bound, and answers whether to go on.
    `clock` gives seconds, to keep all searches together to the time the question allows; without one only steps are limited.
    Raises FormulaError when the question cannot be asked or the surroundings of the blend cannot be calculated.
    """
    case = case_of(question, base)
    question, model = case.question, case.model

    begun = 0.0 if clock is None else clock()

    def left() -> float:
        """Seconds that remain of the time the question allows."""
        return inf if clock is None else question.most_seconds - (clock() - begun)

    def watch(what: str, seconds: float) -> Callable[[Progress], Verdict]:
        start = 0.0 if clock is None else clock()
        seconds = min(seconds, left())
        shares: Floats | None = None
        best: Formula | None = None

        def verdict(progress: Progress) -> Verdict:
            nonlocal shares, best
            if report is not None:
                if progress.shares is not None and progress.shares is not shares:
                    shares, best = progress.shares, formula_of(case, progress.shares)
                if not report(what, best, progress.value, progress.bound):
                    return "stop"
            return "enough" if clock is not None and clock() - start > seconds else "on"

        return verdict

    first = _kept(case) or find_best(model, report=watch(said("search.best"), question.most_seconds))
    if question.prefer == "fewer" and left() > 0:
        model, first = _with_fewest(model, first, watch(said("search.fewer"), _LATER_SECONDS))
    outcomes, nodes, sets = [first], first.nodes, []
    while (
        outcomes[-1].shares is not None and outcomes[-1].status != "stopped" and len(outcomes) < ANSWERS and left() > 0
    ):
        sets.append(_main_oils(outcomes[-1].shares))
        watched = watch(said("search.next", number=number(len(outcomes) + 1)), _LATER_SECONDS)
        later = find_best(model, most_nodes=_LATER_NODES, forbidden_sets=tuple(sets), report=watched)
        nodes += later.nodes
        if later.shares is None:
            break
        outcomes.append(later)
    solutions = [solution for outcome in outcomes if (solution := _solution(case, outcome)) is not None]
    return SolveAnswer(
        solutions=tuple(solutions),
        conflict=_conflict(case, solutions[0] if solutions else None),
        slack=_slack(question, model, solutions[0]) if solutions and solutions[0].miss <= _MET else (),
        allowed=len(model.oils),
        nodes=nodes,
        objective=objective_of(question),
        status="stopped" if any(outcome.status == "stopped" for outcome in outcomes) else "done",
    )


def _with_fewest(model: BlendModel, first: Best, watched: Callable[[Progress], Verdict]) -> tuple[BlendModel, Best]:
    """The smallest number of oils that misses no more, and the best blend of it."""
    while first.shares is not None and first.status == "proven" and model.most_oils > 1:
        fewer = replace(model, most_oils=min(model.most_oils, int((first.shares > TOLERANCE).sum())) - 1)
        if fewer.most_oils < 1:
            break
        found = find_best(fewer, most_nodes=_LATER_NODES, report=watched)
        if found.shares is None or found.value > first.value + ROOM_FOR_FEWER:
            break
        model, first = fewer, found
    return model, first


def _slack(question: SolveQuestion, model: BlendModel, first: Solution) -> tuple[str, ...]:
    """What room inside the target ranges could buy, if blends of any number of oils are allowed: a bound, not a recipe."""
    at_required = replace(without_likings(model), weights=np.full(len(model.low), np.inf))
    words = []
    load = np.array([qualities()["oxidation_load"].points(oil.profile) for oil in model.oils]) / 100
    lowest = linear_value(replace(at_required, preference=load))
    now = next(quantity.points for quantity in first.result.qualities if quantity.quality == "oxidation_load")
    if np.isfinite(lowest) and now - lowest >= 1:
        words.append(said("oxidation_to_spare", lowest=number(lowest, 0), now=number(now, 0)))
    if first.cost.per_kg is not None:
        priced = [price_of(oil, question.prices) for oil in model.oils]
        if all(price is not None for price in priced):
            prices = np.array([given(price) for price in priced]) / 100
            cheapest = linear_value(replace(at_required, preference=prices))
            if np.isfinite(cheapest) and first.cost.per_kg - cheapest >= 0.05:
                words.append(said("price_to_spare", lowest=number(cheapest, 2), now=number(first.cost.per_kg, 2)))
    return tuple(words)


def _main_oils(shares: np.ndarray) -> frozenset[int]:
    """The oils that make a blend what it is: those above the share in which two blends really differ."""
    big = np.flatnonzero(shares >= coefficient("swap.different_by"))
    return frozenset((big if len(big) else np.flatnonzero(shares > 0)).tolist())


def formula_of(case: Case, shares: np.ndarray) -> Formula:
    """The formula of a question with a blend of these shares, %."""
    question, model = case.question, case.model
    used = sorted(np.flatnonzero(shares > TOLERANCE).tolist(), key=lambda j: -shares[j])
    # An oil on several lines goes in as on the first of them.
    added = {line.oil: line.added for line in reversed(question.formula.blend.lines)}
    late_only = all(added.get(model.oils[j].id, "start") != "start" for j in used)
    lines = tuple(
        OilLine(
            oil=model.oils[j].id,
            value=round(float(shares[j]), 6),
            # An oil of the formula goes in when it did before, as long as something meets the lye.
            added="start" if late_only else added.get(model.oils[j].id, "start"),
        )
        for j in used
    )
    named = {line.oil for line in lines}
    return question.formula.model_copy(
        update={
            "blend": Blend(total_oils_g=_total_g(question.formula), lines=lines),
            "materials": tuple(one for one in question.formula.materials if one.id in named),
        }
    )


def _solution(case: Case, outcome: Best) -> Solution | None:
    question, model = case.question, case.model
    if outcome.shares is None:
        return None
    formula = formula_of(case, outcome.shares)
    try:
        # Compared with what was asked here, whatever ranges the formula has of its own.
        asked = with_any_purity(formula.model_copy(update={"target_ranges": _asked_ranges(question)}))
        calculation = calculation_of(asked, case.base)
    except FormulaError:
        return None
    targets = question.targets
    features = [target.feature for target in targets]
    values = _values(case, outcome.shares)
    deviation = np.sqrt(((deviations(model.oils, features) * outcome.shares / 100) ** 2).sum(axis=1))
    miss = model.miss(outcome.shares)
    return Solution(
        formula=formula,
        result=calculation.result,
        lye_is_known=asked.lye == formula.lye,
        diagnostics=advice(calculation),
        status=outcome.status,
        miss=miss,
        is_met=miss < _MET_AS_SHOWN,
        bound=min(outcome.bound, miss),
        cost=oil_cost(calculation.composition.oils, question.prices),
        targets=tuple(_target_met(*one) for one in zip(targets, values, deviation, strict=True)),
        chance_in_range_percent=chance_of(case, outcome.shares),
        changed_percent=changed_of(case, outcome.shares),
        why=why_of(calculation, model, outcome.shares),
    )


def _asked_ranges(question: SolveQuestion) -> tuple[TargetRange, ...]:
    """The targets on qualities, closed at the ends of their axes where they are open."""
    return tuple(
        TargetRange(
            quality=target.feature,
            minimum=quality.axis_minimum if target.minimum is None else target.minimum,
            maximum=max(quality.axis_maximum, target.minimum or 0.0) if target.maximum is None else target.maximum,
        )
        for target in question.targets
        if (quality := qualities().get(target.feature)) is not None
    )


def _values(case: Case, shares: np.ndarray) -> np.ndarray:
    """Where a blend of typical lots stands in each target, in its unit."""
    features = [target.feature for target in case.question.targets]
    used = np.flatnonzero(shares > TOLERANCE)
    around, prices = case.around, case.question.prices
    pure = [
        [around.oils_fraction(feature) * feature_of(case.model.oils[j], feature, prices) for j in used]
        for feature in features
    ]
    added = np.array([around.adds_to(feature) for feature in features])
    return np.asarray(np.array(pure) / 100 @ shares[used] + added)


def chance_of(case: Case, shares: np.ndarray) -> float:
    """Chance that a blend keeps all targets of its question whatever lots arrive, %."""
    targets = case.question.targets
    used = np.flatnonzero(shares > TOLERANCE)
    return chance_of_all(
        [case.model.oils[j] for j in used], shares[used], [target.feature for target in targets], _values(case, shares),
        np.array([-np.inf if target.minimum is None else target.minimum for target in targets]),
        np.array([np.inf if target.maximum is None else target.maximum for target in targets]),
    )  # fmt: skip


def _target_met(target: Target, value: float, deviation: float) -> TargetMet:
    low, high = target.minimum, target.maximum
    outside = max(0.0 if low is None else low - value, 0.0 if high is None else value - high, 0.0)
    return TargetMet(
        feature=target.feature, name=_name(target.feature), value=float(value), outside_by=round(float(outside), 6),
        deviation=float(deviation), chance_in_range_percent=chance_in_range(float(value), float(deviation), low, high),
    )  # fmt: skip


def changed_of(case: Case, shares: np.ndarray) -> float | None:
    """Points of the present blend that are another oil here: half of all that the shares differ by."""
    present = case.present
    if not present:
        return None
    now = {oil.id: float(share) for oil, share in zip(case.model.oils, shares, strict=True) if share > TOLERANCE}
    every = {*now, *present}
    return round(sum(abs(now.get(oil, 0.0) - present.get(oil, 0.0)) for oil in every) / 2, 6)


def _no_blend(case: Case) -> Conflict:
    """The limits leave no blend at all, whatever is aimed at: which of them would have to go."""

    def is_possible(lifted: str) -> bool:
        question = case.question.model_copy(update={"lifted": (*case.question.lifted, lifted)})
        return find_best(solve_model(question, case.base), most_nodes=200).shares is not None

    rarities = [RARITIES] if case.model.rare.any() else []
    every = [USUAL_SHARES, *rarities, *(name for name in case.model.row_names if not name.startswith("group:"))]
    lift = tuple(name for name in every if is_possible(name))
    called = tuple(sense_name(name) for name in lift)
    words = said("no_blend_unless", names=listed(called)) if lift else said("no_blend")
    return Conflict(targets=(), gives=(), words=words, lift=lift, lift_names=called)


def _give(target: Target, falls: float, rises: float) -> Give:
    low, high = target.minimum, target.maximum
    return Give(
        target=_name(target.feature),
        points=falls + rises,
        feature=target.feature,
        minimum=None if low is None else round(floor(10 * (low - falls)) / 10, 1) if falls else low,
        maximum=None if high is None else round(ceil(10 * (high + rises)) / 10, 1) if rises else high,
    )


def _conflict(case: Case, first: Solution | None) -> Conflict | None:
    question, model = case.question, case.model
    if first is not None and first.miss <= _MET:
        return None
    if first is None and not any(target.required for target in question.targets):
        return _no_blend(case)
    conflict = smallest_conflict(model)
    count = len(question.targets)
    names = tuple(dict.fromkeys(_name(question.targets[t % count].feature) for t in conflict))
    gives = tuple(_give(question.targets[t % count], *ends) for t, ends in would_give(model, conflict).items())
    if not conflict:
        words = said("too_few_oils", most=number(question.most_oils), step=percent(question.step_percent))
    elif len(conflict) == 1:
        words = said("never", target=names[0])
    else:
        words = said("not_together", targets=listed(names))
    if gives:
        told = [said("give", target=give.target, points=number(give.points, 1)) for give in gives]
        words += said("to_meet", gives=listed_with_or(told))
    return Conflict(targets=names, gives=gives, words=words)
