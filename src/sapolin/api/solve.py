"""Solve: the best blend for a question, off the request thread."""

from concurrent.futures import wait
from time import monotonic
from typing import Annotated, Literal

from fastapi import Depends, Query, Request

from sapolin.api.jobs import Job, Jobs
from sapolin.api.room import room
from sapolin.api.stores import AllStores
from sapolin.core.bar.calculation import calculate
from sapolin.core.formula.document import Formula
from sapolin.core.formula.purposes import purposes
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.optimise.best_move import BestMove, best_move
from sapolin.core.optimise.own_oils import oils_at_hand, oils_never_used, solve_with_notes
from sapolin.core.optimise.solve import SolveAnswer, SolveQuestion, Target, answer_solve
from sapolin.core.optimise.solve.answer import solve_model
from sapolin.core.optimise.solve.front import Axis, Front, front_of
from sapolin.core.optimise.solve.question import StartingQuestion, starting_question, targets_like
from sapolin.core.optimise.trades import Trade, best_trades
from sapolin.core.quantities.diagnostics import FormulaError, stopping
from sapolin.core.quantities.model import Model
from sapolin.services.workshop_oils import UseUp, oil_notes, oil_prices, use_up
from sapolin.store.stores import Stores

__all__ = ["router"]

router = room("/api", "solve")


async def _jobs(request: Request) -> Jobs:
    jobs = request.app.state.jobs
    assert isinstance(jobs, Jobs)
    return jobs


Running = Annotated[Jobs, Depends(_jobs)]


class SolveState(Model):
    """How far a solve has come."""

    id: str
    state: Literal["running", "done", "failed"]
    looking_for: str
    """What is being looked for right now."""
    best: Formula | None
    """The best blend so far."""
    miss: float | None
    """Weighted points that it misses."""
    bound: float | None
    """Nothing can miss by less."""
    answer: SolveAnswer | None
    """When it is done; a cancelled solve answers with what it had."""


def _state(job: Job) -> SolveState:
    future = job.future
    finished = future is not None and future.done()
    failed = finished and future is not None and (future.cancelled() or future.exception() is not None)
    answer = future.result() if finished and not failed and future is not None else None
    return SolveState(
        id=job.id,
        state="failed" if failed else "done" if finished else "running",
        looking_for=job.looking_for,
        best=job.best,
        miss=job.value,
        bound=job.bound,
        answer=answer,
    )


def _as_kept(question: SolveQuestion, stores: Stores) -> SolveQuestion:
    """The question with the prices that are known, what the maker says of their oils, and what is on the shelf."""
    priced = question.model_copy(update={"prices": {**oil_prices(stores), **question.prices}})
    return solve_with_notes(priced, oil_notes(stores))


@router.post("/solve", status_code=202, summary="Find a blend")
def start_solve(question: SolveQuestion, jobs: Running, stores: AllStores) -> SolveState:
    """Start looking. 422 at once when the question cannot be asked; otherwise watch it by its id."""
    priced = _as_kept(question, stores)
    solve_model(priced)
    return _state(jobs.start(lambda job: answer_solve(priced, report=job.report, clock=monotonic)))


@router.get("/solve/{job_id}", summary="Watch a solve")
def watch_solve(
    job_id: str,
    jobs: Running,
    wait_seconds: Annotated[float, Query(ge=0, le=10, description="Wait this long for the end.")] = 0,
) -> SolveState:
    """The best so far with its bound, and the answer when it is done. 404 when there is none of that id: answers are kept for a
    while only.
    """
    job = jobs.get(job_id)
    if job.future is not None:
        wait([job.future], timeout=wait_seconds)
    return _state(job)


@router.delete("/solve/{job_id}", summary="Cancel a solve")
def cancel_solve(job_id: str, jobs: Running) -> SolveState:
    """It ends at its next step with what it has; nothing of any formula is touched."""
    return _state(jobs.cancel(job_id))


@router.post("/solve-front", summary="The choice along price, palm or change")
def get_front(question: SolveQuestion, axis: Axis, stores: AllStores) -> Front:
    """Blends of which none is better both on the axis (price per kg; palm, % of oils; points changed of the formula's blend)
    and by what is aimed at, from the least on the axis on; and what one more oil, or a little more, would buy. Each is proven
    within a fiftieth of a point. It takes about half a second. 422 when the question cannot be asked, or no oil has a price.
    """
    return front_of(_as_kept(question, stores), axis)


@router.post("/solve-start", summary="The question to begin with")
def start_of_a_question(
    formula: Formula, purpose: Annotated[str | None, Query(max_length=80)] = None
) -> StartingQuestion:
    """What is asked first of a formula: its own target ranges, or those of another `purpose`, near to its blend where it has
    one. Only targets that are wanted are among them. 422 when the purpose is unknown.
    """
    if purpose is not None and purpose not in purposes():
        raise FormulaError([stopping("unknown_purpose", "purpose", purpose=purpose, known=", ".join(purposes()))])
    return starting_question(formula, purpose)


@router.post("/solve-use-up", summary="Lots that a blend could use up")
def get_use_up(formula: Formula, stores: AllStores) -> tuple[UseUp, ...]:
    """Oils on the shelf that near their date, with the share of this formula that would use each up."""
    return use_up(formula, stores)


@router.post("/solve-targets", summary="More like this one")
def like_this(formula: Formula) -> tuple[Target, ...]:
    """Target ranges around the qualities of a bar that the maker likes."""
    return targets_like(calculate(formula))


@router.post("/best-move", summary="The one move that helps most")
def get_best_move(formula: Formula, stores: AllStores) -> BestMove | None:
    """The single move of a share between two oils, one of them perhaps new, that brings the blend nearest to its target ranges,
    with the blend after it; null when none helps. It works from the first oil on: nothing else need be entered.
    """
    known = oil_notes(stores)
    return best_move(formula, catalogue(), at_hand=oils_at_hand(known), never=oils_never_used(known))


@router.post("/trades", summary="What a few points of one oil for another would move")
def trades(formula: Formula, points: Annotated[float, Query(gt=0, le=50)] = 5) -> tuple[Trade, ...]:
    """The few trades within the blend that help most toward the target ranges of its purpose."""
    return best_trades(formula, points)
