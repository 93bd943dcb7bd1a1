"""Levers that are not oils: what else brings a bar back to where it was, sized for the case."""

from collections.abc import Iterator

from sapolin.core.bar.calculation import calculate
from sapolin.core.bar.result import FormulaResult
from sapolin.core.formula.document import AdditiveLine, Formula, Water
from sapolin.core.materials.catalogue import Catalogue
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.diagnostics import FormulaError
from sapolin.core.quantities.model import Model

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


def _without(formula: Formula, additive: str) -> tuple[AdditiveLine, ...]:
    return tuple(line for line in formula.additives if line.additive != additive)


def _levers(formula: Formula, before: FormulaResult, after: FormulaResult) -> Iterator[Lever]:
    softer = _points(before, "hardness") - _points(after, "hardness")
    less_lather = _points(before, "open_lather") - _points(after, "open_lather")
    superfat = formula.superfat_percent or 0.0
    if superfat - 1 >= LEAST_SUPERFAT_PERCENT:
        lower = superfat - (2.0 if softer > 3 and superfat - 2 >= LEAST_SUPERFAT_PERCENT else 1.0)
        gained = (superfat - lower) * -coefficient("superfat.hardness")
        yield Lever(
            id="superfat", label=f"superfat {superfat:g} → {lower:g} %",
            reason=f"About {gained:.1f} points firmer and a little more lather; look at the expected superfat first.",
            formula=formula.model_copy(update={"superfat_percent": lower}),
        )  # fmt: skip
    concentration = after.water.lye_concentration_percent
    if concentration + 2 <= MOST_LYE_CONCENTRATION_PERCENT:
        wanted = round(concentration + 2)
        yield Lever(
            id="water", label=f"lye concentration {concentration:.0f} → {wanted} %",
            reason=f"About {2 * coefficient('water.firmness_at_unmould'):.1f} points firmer at unmoulding, less ash.",
            formula=formula.model_copy(
                update={"water": Water(by="lye_concentration_percent", value=float(wanted))}
            ),
        )  # fmt: skip
    if not any(line.additive == "sodium-lactate-60" for line in formula.additives):
        rate = 2.0 if softer > 3 else 1.5
        yield Lever(
            id="sodium_lactate", label=f"sodium lactate {rate:g} %",
            reason=f"About {rate * coefficient('lactate.firmness_at_unmould'):.0f} points firmer at unmoulding.",
            formula=formula.model_copy(
                update={"additives": (
                    *formula.additives,
                    AdditiveLine(additive="sodium-lactate-60", by="percent_of_oils", value=rate),
                )}
            ),
        )  # fmt: skip
    if less_lather > 0.5 and not any(line.additive == "sugar" for line in formula.additives):
        rate = 1.0 if less_lather < 2 else 2.0
        yield Lever(
            id="sugar", label=f"sugar {rate:g} %",
            reason=f"About {rate * coefficient('sugar.open_lather'):.1f} points of open lather back; it heats.",
            formula=formula.model_copy(
                update={"additives": (
                    *_without(formula, "sugar"), AdditiveLine(additive="sugar", by="percent_of_oils", value=rate),
                )}
            ),
        )  # fmt: skip
    if formula.process.method == "cold" and formula.process.gel == "natural" and not formula.liquids:
        yield Lever(
            id="gel", label="warm gel",
            reason=f"About {coefficient('gel.encouraged_firmness'):.0f} points firmer at unmoulding, and sooner.",
            formula=formula.model_copy(
                update={"process": formula.process.model_copy(update={"gel": "encouraged"})}
            ),
        )  # fmt: skip
    if after.bar is not None:
        weeks = round(after.bar.usable_weeks) + 2
        yield Lever(
            id="cure", label=f"cure {weeks} weeks",
            reason="Two more weeks to dry and settle.",
            formula=formula.model_copy(
                update={"process": formula.process.model_copy(update={"cure_weeks": float(weeks)})}
            ),
        )  # fmt: skip
