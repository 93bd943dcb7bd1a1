"""What oils cost: kept per kg, in the maker's own currency."""

from typing import Annotated

from pydantic import Field

from sapolin.api.room import room
from sapolin.api.stores import AllStores, Prices
from sapolin.core.formula.blend import oil_shares
from sapolin.core.formula.check import examine
from sapolin.core.formula.cost import OilCost, oil_cost
from sapolin.core.formula.document import Formula
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.quantities.diagnostics import FormulaError
from sapolin.core.quantities.model import FiniteNumber, Model
from sapolin.services.workshop_oils import oil_prices, refuse_unknown_oil

__all__ = ["cost_of", "router"]

router = room("/api/prices", "prices")


class Price(Model):
    """A price to keep."""

    per_kg: Annotated[FiniteNumber, Field(ge=0, le=100_000)] | None
    """Null forgets it."""
    was: Annotated[FiniteNumber, Field(ge=0, le=100_000)] | None = None
    """What it was when it was looked at, null for none; left out, it is set whatever it was."""


@router.get("", summary="Every price")
def get_prices(prices: Prices) -> dict[str, float]:
    """Price per kg by oil id, in the maker's own currency. An oil without a price is not in it."""
    return prices.all()


@router.put("/{oil_id}", summary="Set a price")
def set_price(oil_id: str, price: Price, stores: AllStores) -> dict[str, float]:
    """Of a catalogue oil or an own material; null forgets it. Answers with every price. 404 for what is neither, 409 when the
    price is no longer what it was.
    """
    refuse_unknown_oil(stores, oil_id)
    stores.prices.set(oil_id, price.per_kg, was=(price.was,) if "was" in price.model_fields_set else None)
    return stores.prices.all()


@router.post("/cost", summary="What the oils of a formula cost")
def cost(formula: Formula, stores: AllStores) -> OilCost:
    """Per kg of oils and for the batch, by the prices typed or what lots in hand were paid; null while an oil has no price."""
    return cost_of(formula, oil_prices(stores))


def cost_of(formula: Formula, known: dict[str, float]) -> OilCost:
    """What the oils of `formula` cost. Raises FormulaError when its blend cannot be calculated."""
    seen = examine(formula, catalogue())
    stopping = [
        problem for problem in seen.problems
        if problem.stops_calculation and problem.path.startswith(("blend", "materials"))
    ]  # fmt: skip
    if stopping:
        raise FormulaError(stopping)
    return oil_cost(oil_shares(formula.blend, seen.oils), known)
