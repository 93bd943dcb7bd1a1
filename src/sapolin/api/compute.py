"""Compute: figures from a formula that is sent along. Nothing is kept."""

from typing import Annotated, Literal

from fastapi import APIRouter, Query

from sapolin.core.blend import balanced, converted
from sapolin.core.catalogue import catalogue
from sapolin.core.check import State, problems_of, state_of
from sapolin.core.figures import Reckoning
from sapolin.core.formula import Blend, Formula, PercentBlend
from sapolin.core.model import Model
from sapolin.core.problems import Problem
from sapolin.core.reckoning import reckon
from sapolin.core.units import WeightUnitId
from sapolin.core.workings import Working, explain

__all__ = ["router"]

router = APIRouter(prefix="/api", tags=["compute"])

WeightUnitQuery = Annotated[WeightUnitId, Query(description="Unit of the rounded weights; all others are in g.")]


class CheckResult(Model):
    """Whether a formula can be reckoned and made."""

    state: State
    problems: tuple[Problem, ...]


class BalanceRequest(Model):
    """Bring shares to 100."""

    blend: PercentBlend
    onto: int | None = None
    """Position of the one oil that takes up the difference; null scales all that are not held."""


class ConvertRequest(Model):
    """Lead a blend by shares or by weights."""

    blend: Blend
    to: Literal["percent", "weight"]


class BlendResult(Model):
    """A blend after an edit."""

    blend: Blend


@router.post("/compute", summary="Reckon a formula")
def compute(formula: Formula, weight_unit: WeightUnitQuery = "g") -> Reckoning:
    """Lye, water, fatty acids, qualities and weights. 422 with every problem when it cannot be reckoned."""
    return reckon(formula, weight_unit=weight_unit)


@router.post("/compute/check", summary="Check a formula")
def check(formula: Formula) -> CheckResult:
    """What is missing, impossible or unsafe, without reckoning."""
    problems = problems_of(formula, catalogue())
    return CheckResult(state=state_of(formula, problems), problems=problems)


@router.post("/compute/working", summary="How one figure came about")
def working(formula: Formula, figure: Annotated[str, Query(max_length=60)]) -> Working:
    """The working of `figure`, such as `naoh_g`, `hardness` or `acid:C16:0`."""
    return explain(formula, figure)


@router.post("/blend/balance", summary="Bring shares to 100 %")
def balance(request: BalanceRequest) -> BlendResult:
    """Scale the shares that are not held, or let one take up the difference."""
    return BlendResult(blend=balanced(request.blend, request.onto))


@router.post("/blend/convert", summary="Lead a blend by shares or weights")
def convert(request: ConvertRequest) -> BlendResult:
    """The same oils, said the other way."""
    return BlendResult(blend=converted(request.blend, request.to))
