"""Amounts of liquids and additives: what each way of giving one means, and turning one into another."""

from sapolin.core.formula.blend import converted
from sapolin.core.formula.check import examine
from sapolin.core.formula.composition import Composition, liquid_g
from sapolin.core.formula.document import AdditiveBasis, AdditiveLine, Formula, LiquidBasis, LiquidLine
from sapolin.core.materials.catalogue import Catalogue
from sapolin.core.materials.ingredients import additives, liquids
from sapolin.core.quantities.diagnostics import FormulaError, stopping

__all__ = ["additive_in_basis", "liquid_in_basis"]

DECIMALS = 4
"""Kept of an amount that was turned into another: finer than any scale or spoon."""


def additive_in_basis(formula: Formula, index: int, to: AdditiveBasis) -> AdditiveLine:
    """The additive line at `index` with the same amount given as `to`; an empty amount stays empty.

    Raises FormulaError when the weight of the oils is needed and not known, or there is no such line.
    """
    if index >= len(formula.additives) or formula.additives[index].additive not in additives():
        raise FormulaError([stopping("no_such_line", "additives")])
    line = formula.additives[index]
    additive = additives()[line.additive]
    if line.value is None or line.by == to:
        return line.model_copy(update={"by": to})
    oils_g = _oils_g(formula) if "weight_g" in (line.by, to) else 1.0
    percent = {
        "percent_of_oils": line.value,
        "tsp_per_500_g": additive.percent_of_oils(line.value),
        "weight_g": 100 * line.value / oils_g,
    }[line.by]
    value = {
        "percent_of_oils": percent,
        "tsp_per_500_g": percent / additive.percent_of_oils(1.0),
        "weight_g": percent * oils_g / 100,
    }[to]
    return line.model_copy(update={"by": to, "value": round(value, DECIMALS)})


def liquid_in_basis(formula: Formula, index: int, to: LiquidBasis, catalogue: Catalogue) -> LiquidLine:
    """The liquid line at `index` with the same amount given as `to`; an empty amount stays empty.

    A share of the water needs the water of the whole formula. Raises FormulaError when that cannot be calculated yet, when
    the weight of the oils is needed and not known, or when there is no such line.
    """
    if index >= len(formula.liquids) or formula.liquids[index].liquid not in liquids():
        raise FormulaError([stopping("no_such_line", "liquids")])
    line = formula.liquids[index]
    if line.value is None or line.by == to:
        return line.model_copy(update={"by": to})
    water_g = _composition(formula, catalogue).water_g if "percent_of_water" in (line.by, to) else 0.0
    oils_g = _oils_g(formula)
    grams = liquid_g(line, water_g, oils_g)
    if to == "percent_of_water":
        value = liquids()[line.liquid].water_percent * grams / water_g
    else:
        value = grams if to == "weight_g" else 100 * grams / oils_g
    return line.model_copy(update={"by": to, "value": round(value, DECIMALS)})


def _oils_g(formula: Formula) -> float:
    lines = converted(formula.blend, "weight_g").lines
    oils_g = sum(line.value or 0.0 for line in lines)
    if oils_g <= 0:
        raise FormulaError([stopping("total_missing", "blend.total_oils_g", is_open=True)])
    return oils_g


def _composition(formula: Formula, catalogue: Catalogue) -> Composition:
    examined = examine(formula, catalogue)
    if examined.composition is None:
        raise FormulaError([one for one in examined.problems if one.stops_calculation])
    return examined.composition
