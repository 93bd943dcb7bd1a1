"""Amounts given another way: the same weight in percent, in spoons or in grams."""

from typing import Annotated

from pydantic import Field

from sapolin.api.room import room
from sapolin.core.batch.plan import ColourBasis, ColourLine, ScentDrops, colour_in_basis, drops_weighed
from sapolin.core.formula.amounts import additive_in_basis, liquid_in_basis
from sapolin.core.formula.document import AdditiveBasis, AdditiveLine, Formula, LiquidBasis, LiquidLine
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.materials.ingredients import colorants
from sapolin.core.quantities.diagnostics import FormulaError, stopping
from sapolin.core.quantities.model import EntryId, FiniteNumber, Model

__all__ = ["router"]

router = room("/api/amounts", "compute")

Index = Annotated[int, Field(ge=0, lt=100)]


class AdditiveAmount(Model):
    """An additive of a formula, and how its amount is to be given."""

    formula: Formula
    index: Index
    to: AdditiveBasis


class LiquidAmount(Model):
    """A liquid of a formula, and how its amount is to be given."""

    formula: Formula
    index: Index
    to: LiquidBasis


class DropsAsked(Model):
    """Drops of a scent in a batch."""

    scent: EntryId
    drops: FiniteNumber
    oils_g: FiniteNumber


class ColourAmount(Model):
    """A colour, and how its rate is to be given."""

    line: ColourLine
    to: ColourBasis


@router.post("/additive", summary="Give the amount of an additive another way")
def convert_additive(asked: AdditiveAmount) -> AdditiveLine:
    """The line with the same amount in the other basis, to four decimals. Nothing else of it changes. 422 when the weight of
    all oils is needed and not entered.
    """
    return additive_in_basis(asked.formula, asked.index, asked.to)


@router.post("/liquid", summary="Give the amount of a liquid another way")
def convert_liquid(asked: LiquidAmount) -> LiquidLine:
    """The line with the same amount in the other basis, to four decimals. 422 with what is still missing when the amount is a
    share of the water and the formula cannot be calculated yet.
    """
    return liquid_in_basis(asked.formula, asked.index, asked.to, catalogue())


@router.post("/scent-drops", summary="Weigh drops of a scent")
def weigh_drops(asked: DropsAsked) -> ScentDrops:
    """About what they weigh, from the fewest to the most, and the share of the oils that is: a rule of thumb. Drops are no
    measure; what is planned and weighed is the weight.
    """
    return drops_weighed(asked.scent, asked.drops, asked.oils_g)


@router.post("/colour", summary="Give the rate of a colour another way")
def convert_colour(asked: ColourAmount) -> ColourLine:
    """The line with the same rate in the other basis, to four decimals."""
    if asked.line.colorant not in colorants():
        raise FormulaError([stopping("unknown_colorant", "line.colorant", colorant=asked.line.colorant)])
    return colour_in_basis(asked.line, asked.to)
