"""What the oils of a blend cost."""

from collections.abc import Mapping, Sequence

from sapolin.core.formula.blend import OilShare
from sapolin.core.formula.composition import OilComponent
from sapolin.core.materials.catalogue import Oil
from sapolin.core.quantities.model import Model

__all__ = ["OilCost", "oil_cost", "price_of"]

Prices = Mapping[str, float]
"""Price per kg by oil id, in whatever currency the maker keeps."""


class OilCost(Model):
    """What the oils of a blend cost."""

    per_kg: float | None
    """Per kg of oils; null while any oil has no price."""
    total: float | None
    """Of the batch's oils."""
    unpriced: tuple[str, ...]
    """Names of oils without a price."""


def price_of(oil: Oil, prices: Prices) -> float | None:
    """Price per kg: the oil's own, or for a mixture without one the price of what it is made of.

    >>> from sapolin.core.materials.catalogue import catalogue
    >>> price_of(catalogue()["coconut"], {"coconut": 3.2}), price_of(catalogue()["shea"], {"coconut": 3.2})
    (3.2, None)
    """
    if oil.id in prices:
        return prices[oil.id]
    if oil.components and all(component.oil in prices for component in oil.components):
        return sum(prices[component.oil] * component.share_percent / 100 for component in oil.components)
    return None


def oil_cost(oils: Sequence[OilComponent | OilShare], prices: Prices) -> OilCost:
    """What the `oils` of a composition cost, or those of a blend whose lye is not settled yet.

    >>> from sapolin.core.formula.blend import OilShare
    >>> from sapolin.core.materials.catalogue import catalogue
    >>> oils = [OilShare(catalogue()[oil], percent, 10 * percent) for oil, percent in (("olive-refined", 70), ("coconut", 30))]
    >>> oil_cost(oils, {"olive-refined": 6.0, "coconut": 3.0}).per_kg  # 0.7 × 6 + 0.3 × 3
    5.1
    >>> oil_cost(oils, {"coconut": 3.0}).unpriced
    ('Olive, refined',)
    """
    known = [(component, price_of(component.oil, prices)) for component in oils]
    unpriced = tuple(component.oil.name for component, price in known if price is None and component.share_percent > 0)
    if unpriced:
        return OilCost(per_kg=None, total=None, unpriced=unpriced)
    per_kg = sum(component.share_percent * (price or 0.0) for component, price in known) / 100
    return OilCost(per_kg=per_kg, total=per_kg * sum(component.weight_g for component in oils) / 1000, unpriced=())
