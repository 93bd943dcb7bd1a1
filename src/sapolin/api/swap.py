"""Swap: what takes over when an oil goes. Nothing is kept."""

from fastapi import APIRouter

from sapolin.api.stores import OilNotes, Prices
from sapolin.core.bar.calculation import calculate
from sapolin.core.formula.document import Formula
from sapolin.core.optimise.own_oils import swap_with_notes
from sapolin.core.optimise.swap import Lever, SwapAnswer, SwapQuestion, answer_swap, levers_of
from sapolin.core.quantities.model import Model

__all__ = ["router"]

router = APIRouter(prefix="/api/swap", tags=["swap"])


class LeverQuestion(Model):
    """What else helps beside oils."""

    before: Formula
    """The formula as it was."""
    formula: Formula
    """The formula after the swap, with the levers already pulled."""


@router.post("", summary="Take an oil out")
def swap(question: SwapQuestion, prices: Prices, notes: OilNotes) -> SwapAnswer:
    """Ranked candidates over the whole allowed catalogue, each calculated in full, with their words."""
    priced = question.model_copy(update={"prices": {**prices.all(), **question.prices}})
    return answer_swap(swap_with_notes(priced, notes.all()))


@router.post("/levers", summary="Levers that are not oils")
def levers(question: LeverQuestion) -> tuple[Lever, ...]:
    """Superfat, water, sodium lactate, sugar, gel and cure, each sized for this case, with what it is expected to move."""
    return levers_of(question.formula, calculate(question.before), calculate(question.formula))
