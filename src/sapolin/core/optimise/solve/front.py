"""The choice as a picture: how much better a blend gets for more money, more palm or more change, each point a proven blend."""

from dataclasses import replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from sapolin.core.formula.cost import price_of
from sapolin.core.formula.document import Formula
from sapolin.core.materials.catalogue import Catalogue
from sapolin.core.optimise.solve.answer import Case, case_of, chance_of, changed_of, formula_of
from sapolin.core.optimise.solve.branch import Best, Status, find_best, linear_value
from sapolin.core.optimise.solve.model import BlendModel, without_likings
from sapolin.core.optimise.solve.question import SolveQuestion, in_group
from sapolin.core.optimise.solve.words import said
from sapolin.core.quantities.diagnostics import FormulaError, stopping
from sapolin.core.quantities.model import Model, given
from sapolin.core.quantities.text import number

__all__ = ["Axis", "Front", "FrontPoint", "MoreBuys", "front_of"]

Axis = Literal["price_per_kg", "palm_percent", "changed_percent"]
POINTS = 24
NODES_A_POINT = 400
"""Linear programs after which a point is called the best found in time."""
AS_GOOD = 0.02
"""Cost below which two blends are as good as one another in a picture: a fiftieth of a point outside, or a little room."""
BETTER_BY_CHANCE = 1.0
"""Percent: a point that costs more has to hold so much more surely, or miss less."""
Floats = NDArray[np.float64]


class FrontPoint(Model):
    """The best blend that has no more on the axis than it has."""

    value: float
    """On the axis."""
    miss: float
    """Weighted points outside the target ranges."""
    chance_in_range_percent: float
    status: Status
    formula: Formula


class MoreBuys(Model):
    """What loosening one thing would bring."""

    what: str
    chance_before_percent: float
    chance_after_percent: float
    miss_before: float
    miss_after: float
    formula: Formula


class Front(Model):
    """Blends of which none is better both on the axis and by what is aimed at, from the least on the axis on."""

    axis: Axis
    points: tuple[FrontPoint, ...]
    more: tuple[MoreBuys, ...]
    """What one more oil, or a little more on the axis or of what bound, would bring, beside the blend that is best now."""


def _along(case: Case, axis: Axis) -> Floats:
    """What each percent of an oil adds on the axis, shape (oils,)."""
    oils = case.model.oils
    if axis == "price_per_kg":
        prices = [price_of(oil, case.question.prices) for oil in oils]
        if any(price is None for price in prices):
            raise FormulaError([stopping("nothing_priced", "prices")])
        return np.array([given(price) for price in prices]) / 100
    if axis == "palm_percent":
        return np.array([1.0 if in_group(oil, "palm") else 0.0 for oil in oils])
    return np.zeros(len(oils))


def front_of(question: SolveQuestion, axis: Axis, base: Catalogue | None = None) -> Front:
    """The front of a question along an axis.

    Each point is the answer to the question with a bound on the axis, at most `POINTS` of them from the least that is possible
    to where more buys nothing. For price only oils with a price are chosen from. Raises FormulaError when the question cannot
    be asked, or no oil has a price.
    """
    if axis == "price_per_kg":
        question = question.model_copy(update={"prefer": "cheaper"})
    elif question.prefer == "closer":
        # What is asked here is what change buys, so change itself is not counted beside room to the ends.
        question = question.model_copy(update={"prefer": "none"})
    case = case_of(question, base)
    model = replace(case.model, preference=case.model.preference * 0.0) if axis == "price_per_kg" else case.model
    along = _along(case, axis)
    best = find_best(model, most_nodes=4 * NODES_A_POINT, within=AS_GOOD)
    if best.shares is None:
        return Front(axis=axis, points=(), more=())
    found: list[tuple[float, Best]] = []
    if axis == "changed_percent":
        found = _by_change(case, model, best)
    else:
        most = float(along @ best.shares)
        least = linear_value(replace(without_likings(model), weights=np.zeros(len(model.low)), preference=along))
        for bound in np.linspace(least, most, POINTS) if np.isfinite(least) and most - least > 1e-6 else ():
            limited = _with_row(model, along, float(bound))
            one = find_best(limited, most_nodes=NODES_A_POINT, within=AS_GOOD)
            if one.shares is not None:
                found.append((float(along @ one.shares), one))
        found.append((most, best))
    return Front(axis=axis, points=_undominated(case, model, found), more=_more(case, model, best, along, axis))


def _with_row(model: BlendModel, row: Floats, most: float) -> BlendModel:
    return replace(
        model,
        rows=np.vstack([model.rows, row]),
        row_low=np.append(model.row_low, 0.0),
        row_high=np.append(model.row_high, most + 1e-9),
        row_names=(*model.row_names, "axis"),
    )


def _by_change(case: Case, model: BlendModel, best: Best) -> list[tuple[float, Best]]:
    """Points by how much of the present blend stays: at least so much of each oil that it has, all together."""
    present = case.present
    if not present or best.shares is None:
        return []
    found = []
    for stays in np.linspace(100.0, 0.0, POINTS):
        # Of the present oils at most their present share counts as staying: extra columns would say so exactly; limiting each
        # to its present share and asking for the sum is the same for blends that add to none of them, and safe otherwise.
        row = np.array([1.0 if oil.id in present else 0.0 for oil in model.oils])
        capped = np.array([present.get(oil.id, 100.0) for oil in model.oils])
        limited = replace(
            model,
            most=np.minimum(model.most, capped),
            least=np.minimum(model.least, np.minimum(model.most, capped)),
            rows=np.vstack([model.rows, row]),
            row_low=np.append(model.row_low, stays),
            row_high=np.append(model.row_high, 100.0),
            row_names=(*model.row_names, "axis"),
        )
        one = find_best(limited, most_nodes=NODES_A_POINT, within=AS_GOOD)
        if one.shares is not None:
            found.append((changed_of(case, one.shares) or 0.0, one))
    found.append((changed_of(case, best.shares) or 0.0, best))
    return found


def _undominated(case: Case, model: BlendModel, found: list[tuple[float, Best]]) -> tuple[FrontPoint, ...]:
    points: list[FrontPoint] = []
    for value, one in sorted(found, key=lambda pair: (round(pair[0], 6), pair[1].value)):
        if one.shares is None:
            continue
        miss, chance = model.miss(one.shares), chance_of(case, one.shares)
        last = points[-1] if points else None
        if last is not None and miss > last.miss - AS_GOOD and chance < last.chance_in_range_percent + BETTER_BY_CHANCE:
            continue
        point = FrontPoint(
            value=round(value, 6),
            miss=miss,
            chance_in_range_percent=chance,
            status=one.status,
            formula=formula_of(case, one.shares),
        )
        points = [*points[:-1], point] if last is not None and value - last.value < 1e-6 else [*points, point]
    return tuple(points)


def _more(case: Case, model: BlendModel, best: Best, along: Floats, axis: Axis) -> tuple[MoreBuys, ...]:
    assert best.shares is not None
    tried = [(said("more.oil"), replace(model, most_oils=model.most_oils + 1))]
    for i, name in enumerate(model.row_names):
        if name == "share:lauric" and model.row_high[i] - float(model.rows[i] @ best.shares) < 0.51:
            high = model.row_high.copy()
            high[i] += 1.0
            tried.append((said("more.lauric"), replace(model, row_high=high)))
    if axis == "price_per_kg":
        cheapest = find_best(
            _with_row(model, along, float(along @ best.shares) * 0.8), most_nodes=NODES_A_POINT, within=AS_GOOD
        )
        if cheapest.shares is not None:
            paid = float(along @ cheapest.shares)
            dearer = find_best(_with_row(model, along, paid + 0.5), most_nodes=NODES_A_POINT, within=AS_GOOD)
            if dearer.shares is not None and dearer.value < cheapest.value - 1e-6:
                more = _bought(case, model, said("more.price", paid=number(paid, 2)), cheapest, dearer)
                return (more, *_bought_of(case, model, best, tried))
    return _bought_of(case, model, best, tried)


def _bought_of(case: Case, model: BlendModel, best: Best, tried: list[tuple[str, BlendModel]]) -> tuple[MoreBuys, ...]:
    bought = []
    for what, looser in tried:
        after = find_best(looser, most_nodes=NODES_A_POINT, within=AS_GOOD)
        if after.shares is not None and after.value < best.value - 1e-4:
            bought.append(_bought(case, model, what, best, after))
    return tuple(bought)


def _bought(case: Case, model: BlendModel, what: str, before: Best, after: Best) -> MoreBuys:
    assert before.shares is not None
    assert after.shares is not None
    return MoreBuys(
        what=what,
        chance_before_percent=chance_of(case, before.shares),
        chance_after_percent=chance_of(case, after.shares),
        miss_before=model.miss(before.shares),
        miss_after=model.miss(after.shares),
        formula=formula_of(case, after.shares),
    )
