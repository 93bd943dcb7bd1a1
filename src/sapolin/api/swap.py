"""Swap: what replaces an oil that goes. Nothing is kept."""

from asyncio import create_task, sleep
from threading import Event
from typing import Annotated

from fastapi import Query, Request, Response
from starlette.concurrency import run_in_threadpool

from sapolin.api.room import room
from sapolin.api.stores import AllStores
from sapolin.core.bar.calculation import calculate
from sapolin.core.formula.document import Formula
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.optimise.own_oils import swap_with_notes
from sapolin.core.optimise.swap import (
    Lever,
    SwapAnswer,
    SwapCancelledError,
    SwapQuestion,
    answer_swap,
    first_question,
    levers_of,
)
from sapolin.core.quantities.model import Model
from sapolin.services.workshop_oils import oil_notes, oil_prices

__all__ = ["router"]

router = room("/api/swap", "swap")


class LeverQuestion(Model):
    """What else helps beside oils."""

    before: Formula
    """The formula as it was."""
    formula: Formula
    """The formula after the swap, with the levers already pulled."""


LOOKED_AFTER_S = 0.05
"""How often it is looked whether somebody still waits for an answer."""
GONE = 499
"""Nobody is there to read it: the usual number for a request that its client has closed."""


@router.post("", summary="Take an oil out", response_model=SwapAnswer)
async def swap(question: SwapQuestion, request: Request, stores: AllStores) -> SwapAnswer | Response:
    """Ranked candidates over the whole allowed catalogue, each calculated in full, with their words.

    Close the connection to cancel: a question that another has taken the place of is not answered to its end.
    """
    gone = Event()

    async def look() -> None:
        while not gone.is_set():
            if await request.is_disconnected():
                gone.set()
            await sleep(LOOKED_AFTER_S)

    def answer() -> SwapAnswer:
        priced = question.model_copy(update={"prices": {**oil_prices(stores), **question.prices}})
        return answer_swap(swap_with_notes(priced, oil_notes(stores)), go_on=lambda: not gone.is_set())

    watcher = create_task(look())
    try:
        return await run_in_threadpool(answer)
    except SwapCancelledError:
        return Response(status_code=GONE)
    finally:
        watcher.cancel()


@router.post("/start", summary="The question to begin with")
def start_of_a_swap(
    formula: Formula, stores: AllStores, out: Annotated[str | None, Query(max_length=80)] = None
) -> SwapQuestion:
    """What is asked first of a formula: `out` goes, or an oil that the bar is to do without, by the school of the workshop.
    422 when the blend has no oils.
    """
    return first_question(formula, catalogue(), out, stores.workshop.get().schools.swap_school)


@router.post("/levers", summary="Levers that are not oils")
def levers(question: LeverQuestion) -> tuple[Lever, ...]:
    """Superfat, water, sodium lactate, sugar, gel and cure, each sized for this case, with what it is expected to move."""
    return levers_of(question.formula, calculate(question.before), calculate(question.formula))
