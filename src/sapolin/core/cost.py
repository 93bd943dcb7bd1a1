"""What the oils of a blend cost."""

from collections.abc import Mapping, Sequence

from sapolin.core.blend import Portion
from sapolin.core.catalogue import Oil
from sapolin.core.model import Model

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
    """Price per kg: the oil's own, or for a mixture without one the price of its parts."""
    if oil.id in prices:
        return prices[oil.id]
    if oil.parts and all(part.oil in prices for part in oil.parts):
        return sum(prices[part.oil] * part.share_percent / 100 for part in oil.parts)
    return None


def oil_cost(parts: Sequence[Portion], prices: Prices) -> OilCost:
    """What `parts` cost together."""
    known = [(part, price_of(part.oil, prices)) for part in parts]
    unpriced = tuple(part.oil.name for part, price in known if price is None and part.share_percent > 0)
    if unpriced:
        return OilCost(per_kg=None, total=None, unpriced=unpriced)
    per_kg = sum(part.share_percent * (price or 0.0) for part, price in known) / 100
    return OilCost(per_kg=per_kg, total=per_kg * sum(part.weight_g for part in parts) / 1000, unpriced=())
