"""Levers that are not oils: what else brings a bar back to where it was, sized for the case."""

from collections.abc import Iterator

from sapolin.core.bar.adjustments import CHELATORS
from sapolin.core.bar.calculation import calculate
from sapolin.core.bar.result import FormulaResult
from sapolin.core.formula.document import AdditiveLine, Formula, Water
from sapolin.core.materials.catalogue import Catalogue
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.diagnostics import FormulaError
from sapolin.core.quantities.model import Model, given
from sapolin.core.quantities.text import Number, Param, number, plain, text

__all__ = ["Lever", "levers_of"]

LEAST_SUPERFAT_PERCENT = 3.0
MOST_LYE_CONCENTRATION_PERCENT = 38.0


class Lever(Model):
    """One change beside the oils."""

    id: str
    label: str
    """Such as `superfat 5 → 4 %`."""
    reason: str
    formula: Formula
    """The formula with the lever applied."""


def levers_of(
    formula: Formula, before: FormulaResult, after: FormulaResult, base: Catalogue | None = None
) -> tuple[Lever, ...]:
    """Levers that help `formula` (calculated as `after`) towards the bar `before`, each checked to calculate."""
    levers = []
    for lever in _levers(formula, before, after):
        try:
            calculate(lever.formula, base)
        except FormulaError:
            continue
        levers.append(lever)
    return tuple(levers)


def _points(result: FormulaResult, quality: str) -> float:
    return next(quantity.points for quantity in result.qualities if quantity.quality == quality)


def _lever(id: str, formula: Formula, points: Number | None = None, **params: Param) -> Lever:
    told = params if points is None else {**params, "points": points}
    return Lever(
        id=id,
        label=plain(text(f"levers.{id}.label", **params)),
        reason=plain(text(f"levers.{id}.reason", **told)),
        formula=formula,
    )


def _levers(formula: Formula, before: FormulaResult, after: FormulaResult) -> Iterator[Lever]:
    softer = _points(before, "hardness") - _points(after, "hardness")
    less_lather = _points(before, "open_lather") - _points(after, "open_lather")
    superfat = given(formula.superfat_percent)
    if superfat - 1 >= LEAST_SUPERFAT_PERCENT:
        lower = superfat - (2.0 if softer > 3 and superfat - 2 >= LEAST_SUPERFAT_PERCENT else 1.0)
        gained = number((superfat - lower) * -coefficient("superfat.hardness"), 1)
        changed = formula.model_copy(update={"superfat_percent": lower})
        yield _lever("superfat", changed, gained, was=number(superfat), now=number(lower))
    concentration = after.water.lye_concentration_percent
    wanted = float(round(concentration + 2))
    if wanted <= MOST_LYE_CONCENTRATION_PERCENT:
        changed = formula.model_copy(update={"water": Water(by="lye_concentration_percent", value=wanted)})
        gained = number((wanted - concentration) * coefficient("water.firmness_at_unmould"), 1)
        yield _lever("water", changed, gained, was=number(concentration, 0), now=number(wanted))
    if not any(line.additive == "sodium-lactate-60" for line in formula.additives):
        rate = 2.0 if softer > 3 else 1.5
        gained = number(rate * coefficient("lactate.firmness_at_unmould"), 0)
        yield _lever("sodium_lactate", _with(formula, "sodium-lactate-60", rate), gained, rate=number(rate))
    if less_lather > 0.5 and not any(line.additive == "sugar" for line in formula.additives):
        rate = 1.0 if less_lather < 2 else 2.0
        gained = number(rate * coefficient("sugar.open_lather"), 1)
        yield _lever("sugar", _with(formula, "sugar", rate), gained, rate=number(rate))
    taken = -sum(
        effect.points
        for adjustment in after.adjustments
        if adjustment.id == "hard_water"
        for effect in adjustment.effects
        if effect.on == "open_lather"
    )
    if taken >= 1 and not any(line.additive in CHELATORS for line in formula.additives):
        rate = coefficient("lime.citrate_full_percent")
        held = number(taken * coefficient("lime.held_at_most"), 1)
        yield _lever("citrate", _with(formula, "sodium-citrate", rate), held, rate=number(rate))
    if formula.process.method == "cold" and formula.process.gel == "natural" and not formula.liquids:
        changed = formula.model_copy(update={"process": formula.process.model_copy(update={"gel": "encouraged"})})
        yield _lever("gel", changed, number(coefficient("gel.encouraged_firmness"), 0))
    if after.bar is not None:
        weeks = float(round(after.bar.usable_weeks) + 2)
        changed = formula.model_copy(update={"process": formula.process.model_copy(update={"cure_weeks": weeks})})
        yield _lever("cure", changed, weeks=number(weeks))


def _with(formula: Formula, additive: str, percent_of_oils: float) -> Formula:
    line = AdditiveLine(additive=additive, by="percent_of_oils", value=percent_of_oils)
    return formula.model_copy(update={"additives": (*formula.additives, line)})
