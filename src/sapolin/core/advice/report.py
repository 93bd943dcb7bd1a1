"""A formula with everything there is to say about it: its result, whether it is safe to make, and the advice."""

from sapolin.core.advice.rulebook import RULES
from sapolin.core.advice.rules import advice_on, gravest_first
from sapolin.core.bar.calculation import Calculation, calculation_of
from sapolin.core.bar.preview import BlendPreview, preview_of
from sapolin.core.bar.result import FormulaResult
from sapolin.core.formula.check import State, state_of
from sapolin.core.formula.document import Formula
from sapolin.core.materials.catalogue import Catalogue, catalogue
from sapolin.core.quantities.diagnostics import Diagnostic, FormulaError
from sapolin.core.quantities.model import Model
from sapolin.core.quantities.units import WeightUnitId

__all__ = ["FormulaReport", "advice", "report"]


class FormulaReport(Model):
    """What can be said of a formula, finished or not."""

    state: State
    result: FormulaResult | None
    """Null while something is missing or impossible."""
    preview: BlendPreview | None = None
    """Where there is no result: what is to be seen of the blend all the same, from its first oil on."""
    diagnostics: tuple[Diagnostic, ...]
    """What stands in the way, entry by entry; or what to know of the finished formula, the gravest first."""


def advice(calculation: Calculation) -> tuple[Diagnostic, ...]:
    """Everything worth knowing about a calculated formula or batch: what its check found, and the rule book."""
    return gravest_first([*calculation.problems, *advice_on(calculation, RULES)])


def report(formula: Formula, oils: Catalogue | None = None, weight_unit: WeightUnitId = "g") -> FormulaReport:
    """Calculate `formula`, or say what is still missing: an unfinished formula is no error here."""
    try:
        calculation = calculation_of(formula, oils, weight_unit)
    except FormulaError as error:
        preview = preview_of(formula, catalogue() if oils is None else oils)
        state = state_of(formula, error.problems)
        return FormulaReport(state=state, result=None, preview=preview, diagnostics=error.problems)
    return FormulaReport(
        state=state_of(formula, calculation.problems), result=calculation.result, diagnostics=advice(calculation)
    )
