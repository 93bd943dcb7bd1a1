"""The working: how any one figure of a formula came about, with that formula's numbers in it.

Each working is laid out from the same functions and constants that reckon the figure; tests hold the two together.
"""

from sapolin.core.acids import ACIDS
from sapolin.core.catalogue import Catalogue, catalogue
from sapolin.core.formula import Formula
from sapolin.core.qualities import purposes, qualities
from sapolin.core.workings.bar import BAR_FIGURES
from sapolin.core.workings.blend import BLEND_FIGURES, acid, quality
from sapolin.core.workings.desk import Desk, Term, Working
from sapolin.core.workings.lye import LYE_FIGURES
from sapolin.core.workings.paste import PASTE_FIGURES

__all__ = ["Term", "UnknownFigureError", "Working", "explain", "figure_ids"]


class UnknownFigureError(KeyError):
    """There is no figure of that id."""


def figure_ids(formula: Formula | None = None) -> tuple[str, ...]:
    """Every figure that can be explained: of any formula, or of this one (a paste has no bar to expect)."""
    makes = None if formula is None else purposes()[formula.purpose].makes
    bar = () if makes == "paste" else BAR_FIGURES
    paste = () if makes == "bar" else PASTE_FIGURES
    return (*LYE_FIGURES, *BLEND_FIGURES, *bar, *paste, *qualities(), *(f"acid:{acid.id}" for acid in ACIDS))


def explain(formula: Formula, figure: str, oils: Catalogue | None = None) -> Working:
    """How `figure` of `formula` came about.

    `figure` is one of :func:`figure_ids`. Raises UnknownFigureError for any other, and FormulaError when the formula
    cannot be reckoned.
    """
    if figure not in figure_ids():
        raise UnknownFigureError(figure)
    desk = Desk(formula, catalogue() if oils is None else oils)
    if figure not in figure_ids(formula):
        raise UnknownFigureError(figure)
    if figure in qualities():
        return quality(desk, figure)
    if figure.startswith("acid:"):
        return acid(desk, figure.removeprefix("acid:"))
    return (LYE_FIGURES | BLEND_FIGURES | BAR_FIGURES | PASTE_FIGURES)[figure](desk)
