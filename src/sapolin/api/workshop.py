"""The workshop itself: whom to call, its lye tubs, and how its makers like to work."""

from collections.abc import Iterator
from typing import Annotated, Any, Literal

from fastapi import Request
from pydantic import Field

from sapolin.api.network.gate import DEVICE
from sapolin.api.room import room
from sapolin.api.stores import WorkshopKept
from sapolin.core.batch.plan import Cutter, cutter_problems
from sapolin.core.formula.check import habit_problems, within
from sapolin.core.formula.document import Formula
from sapolin.core.formula.starting import Habits, Starter, starters, starting_formula
from sapolin.core.guide.schools import Schools, chosen_process
from sapolin.core.quantities.diagnostics import Diagnostic, FormulaError, stopping
from sapolin.core.quantities.model import FiniteNumber, Model, Truth
from sapolin.core.stock.cost import CostRates
from sapolin.store.clock import is_zone
from sapolin.store.workshop import MOST_ALSO, MOST_CUTTERS, MOST_TUBS, AlsoBuy, LyeTub, Workshop

__all__ = ["router"]

router = room("/api", "workshop")

FOR_MAKE_AND_RACK = (
    "emergency_number", "poison_number", "scale_capacity_g", "ready_by", "cutters", "schools", "time_zone", "confirms_lots",
)  # fmt: skip
"""What make day and the rack need to know of the workshop."""

Number = Annotated[str, Field(max_length=60)]


class WorkshopChange(Model):
    """What is to be changed of the workshop; what is left out stays as it is."""

    emergency_number: Number | None = None
    """Of the local emergency service."""
    poison_number: Number | None = None
    """Of the local poison information service."""
    tubs: Annotated[tuple[LyeTub, ...], Field(max_length=MOST_TUBS)] | None = None
    habits: Habits | None = None
    scale_capacity_g: Annotated[FiniteNumber, Field(ge=100, le=300_000)] | None = None
    ready_by: Literal["weight", "weeks"] | None = None
    """Bars count as dry by what they weigh, or by the usual weeks."""
    cutters: Annotated[tuple[Cutter, ...], Field(max_length=MOST_CUTTERS)] | None = None
    """Cutters with gaps of their own."""
    learns: Truth | None = None
    """Whether forecasts go by what the workshop's own bars taught."""
    costs: CostRates | None = None
    """What is counted beside materials."""
    also_buy: Annotated[tuple[AlsoBuy, ...], Field(max_length=MOST_ALSO)] | None = None
    """What else is to be bought, beside what batches are short of."""
    schools: Schools | None = None
    """What is chosen where makers differ; new batches, formulas and swaps begin with it."""
    time_zone: Annotated[str, Field(max_length=60)] | None = None
    """Where the workshop's days begin, by its name in the IANA database; empty: as the machine has it."""
    confirms_lots: Truth | None = None
    """Whether on make day nothing is weighed before its lot is confirmed by its code."""
    was: "WorkshopChange | None" = None
    """What is changed as it was when it was looked at; what is left out here is set whatever it was."""


def _problems(change: WorkshopChange) -> Iterator[Diagnostic]:
    for i, tub in enumerate(change.tubs or ()):
        yield from within(f"{tub.lye}_purity_percent", tub.purity_percent, f"tubs[{i}].purity_percent")
    for i, cutter in enumerate(change.cutters or ()):
        yield from cutter_problems(cutter, f"cutters[{i}]")
    if change.time_zone and not is_zone(change.time_zone):
        yield stopping("unknown_time_zone", "time_zone", zone=change.time_zone)
    if change.habits is not None:
        yield from habit_problems(change.habits)


def _given(change: WorkshopChange) -> dict[str, Any]:
    """What a change names, by name."""
    named = {name: getattr(change, name) for name in change.model_fields_set - {"was"}}
    return {name: value for name, value in named.items() if value is not None}


@router.get("/workshop", summary="The workshop")
def get_workshop(store: WorkshopKept, request: Request) -> Workshop:
    """Numbers to call in an emergency, as the maker wrote them, empty while not entered; lye tubs; habits. A device for make
    day and rack is told what these need, and neither costs nor what is to be bought.
    """
    kept, device = store.get(), request.scope.get(DEVICE)
    if device is None or device.reach == "everything":
        return kept
    return Workshop(**{name: getattr(kept, name) for name in FOR_MAKE_AND_RACK})


@router.patch("/workshop", summary="Change the workshop")
def change_workshop(change: WorkshopChange, store: WorkshopKept) -> Workshop:
    """What is named is changed, durable when it answers; 422 with the problems when a purity or a habit cannot be, 409 when
    what is changed is no longer what it was.
    """
    problems = [*_problems(change)]
    if problems:
        raise FormulaError(problems)
    given = _given(change)
    texts = {name: value.strip() for name, value in given.items() if isinstance(value, str)}
    return store.change(None if change.was is None else _given(change.was), **given | texts)


@router.get("/starting-formula", summary="What a new formula begins with")
def get_starting_formula(store: WorkshopKept) -> Formula:
    """By the habits of the workshop: no oils yet, and no purity. Nothing is kept."""
    workshop = store.get()
    formula = starting_formula(workshop.habits)
    return formula.model_copy(update={"process": chosen_process(workshop.schools, formula)})


@router.get("/starters", summary="Formulas for those who have none yet")
def get_starters(store: WorkshopKept) -> tuple[Starter, ...]:
    """Three bars to begin with; the purity of the lye is still to be entered in each. Nothing is kept."""
    return starters(store.get().habits)
