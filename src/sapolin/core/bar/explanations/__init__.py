"""The explanation: how any one quantity of a formula came about, with that formula's numbers in it.

Each explanation is laid out from the same functions and constants that calculate the quantity; tests hold the two together.
"""

from sapolin.core.bar.calculation import calculation_of
from sapolin.core.bar.explanations.bar import BAR_QUANTITIES
from sapolin.core.bar.explanations.blend import BLEND_QUANTITIES, acid, quality
from sapolin.core.bar.explanations.desk import Desk, Explanation, Term
from sapolin.core.bar.explanations.lye import LYE_QUANTITIES
from sapolin.core.bar.explanations.paste import PASTE_QUANTITIES
from sapolin.core.bar.qualities import qualities
from sapolin.core.formula.document import Formula
from sapolin.core.formula.purposes import purposes
from sapolin.core.materials.catalogue import Catalogue
from sapolin.core.materials.fatty_acids import ACIDS

__all__ = ["Explanation", "Term", "UnknownQuantityError", "explain", "quantity_ids"]


class UnknownQuantityError(KeyError):
    """There is no quantity of that id."""


def quantity_ids(formula: Formula | None = None) -> tuple[str, ...]:
    """Every quantity that can be explained: of any formula, or of this one (a paste has no bar to expect)."""
    makes = None if formula is None else purposes()[formula.purpose].makes
    bar = () if makes == "paste" else BAR_QUANTITIES
    paste = () if makes == "bar" else PASTE_QUANTITIES
    return (*LYE_QUANTITIES, *BLEND_QUANTITIES, *bar, *paste, *qualities(), *(f"acid:{acid.id}" for acid in ACIDS))


def explain(formula: Formula, quantity: str, oils: Catalogue | None = None) -> Explanation:
    """How `quantity` of `formula` came about.

    `quantity` is one of :func:`quantity_ids`. Raises UnknownQuantityError for any other, and FormulaError when the formula
    cannot be calculated.
    """
    if quantity not in quantity_ids():
        raise UnknownQuantityError(quantity)
    desk = Desk(calculation_of(formula, oils))
    if quantity not in quantity_ids(formula):
        raise UnknownQuantityError(quantity)
    if quantity in qualities():
        return quality(desk, quantity)
    if quantity.startswith("acid:"):
        return acid(desk, quantity.removeprefix("acid:"))
    return (LYE_QUANTITIES | BLEND_QUANTITIES | BAR_QUANTITIES | PASTE_QUANTITIES)[quantity](desk)
