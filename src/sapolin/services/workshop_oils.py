"""The oils of the workshop as questions go by them: what the maker says of each, what is free on the shelf, what it costs."""

from collections import defaultdict
from datetime import date
from math import floor

from sapolin.core.formula.document import Formula
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.materials.usual_shares import class_of
from sapolin.core.optimise.own_oils import OilNote
from sapolin.core.quantities.model import Model, Truth
from sapolin.services.stock import needs_now, stock_of, view_of
from sapolin.store.materials import UnknownMaterialError
from sapolin.store.stores import Stores

__all__ = ["UseUp", "landed_prices", "oil_notes", "oil_prices", "refuse_unknown_oil", "use_up"]


def refuse_unknown_oil(stores: Stores, oil_id: str) -> None:
    """Raises UnknownMaterialError for what is neither in the catalogue nor a material of the maker's own, archived or not."""
    if oil_id not in catalogue() and oil_id not in {one.material.id for one in stores.materials.find(archived=None)}:
        raise UnknownMaterialError(oil_id)


def oil_notes(stores: Stores) -> dict[str, OilNote]:
    """What the maker says of each oil, by id, with what is free of it: in lots that can be used, less what is promised."""
    notes = stores.oil_notes.all()
    today = stores.today()
    free: dict[str, float] = defaultdict(float)
    for one in stores.stock.standing():
        if one.lot.kind == "oil" and view_of(one.id, one.lot, one.now, today).is_usable:
            free[one.lot.material] += one.now.in_hand_g
    for material, needs in needs_now(stores).items():
        if material in free:
            free[material] = max(free[material] - sum(need.grams for need in needs), 0.0)
    for material, grams in free.items():
        notes[material] = notes.get(material, OilNote()).model_copy(update={"on_hand_g": round(grams, 1)})
    return notes


class UseUp(Model):
    """A lot that nears its date, and the share of a blend that would use it up."""

    oil: str
    name: str
    code: str
    grams: float
    until: date
    share_percent: float
    """Of the oils: all of it, or the most that makers use of such an oil."""
    is_all: Truth
    """That share uses all of it."""


def use_up(formula: Formula, stores: Stores) -> tuple[UseUp, ...]:
    """The lots of oils to use first, with the share of `formula` each could be; those past their date or stopped left out."""
    total_g = formula.blend.total_oils_g or sum(
        line.value or 0.0 for line in formula.blend.lines if line.by == "weight_g"
    )
    found = []
    for lot in stock_of(stores).use_first:
        oil = catalogue().get(lot.lot.material)
        if oil is None or lot.keeping is None or lot.keeping.is_past or lot.now.is_stopped or total_g <= 0:
            continue
        most = class_of(oil).most
        all_of_it = 100 * lot.now.in_hand_g / total_g
        share = floor(2 * min(all_of_it, most)) / 2
        if share > 0:
            found.append(
                UseUp(
                    oil=oil.id, name=oil.name, code=lot.lot.code, grams=lot.now.in_hand_g, until=lot.keeping.until,
                    share_percent=share, is_all=all_of_it <= most,
                )
            )  # fmt: skip
    return tuple(found)


def landed_prices(stores: Stores, *, oils_only: bool = False) -> dict[str, float]:
    """Price per kg by material: what its lots in hand were paid, landed, by weight."""
    paid: dict[str, list[tuple[float, float]]] = defaultdict(list)
    for one in stores.stock.standing():
        if one.lot.per_kg is not None and (one.lot.kind == "oil" or not oils_only):
            paid[one.lot.material].append((one.lot.per_kg, one.now.in_hand_g))
    return {
        material: sum(price * grams for price, grams in lots) / sum(grams for _, grams in lots)
        for material, lots in paid.items()
    }


def oil_prices(stores: Stores) -> dict[str, float]:
    """Price per kg by oil: as typed; of an oil without one, what its lots in hand were paid, landed."""
    return landed_prices(stores, oils_only=True) | stores.prices.all()
