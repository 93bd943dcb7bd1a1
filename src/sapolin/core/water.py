"""Water, said in three ways that are one thing. Lye counts as weighed, its impurities included."""

from sapolin.core.formula import WaterRule

__all__ = ["FULL_WATER_PERCENT_OF_OILS", "lye_concentration_percent", "water_g"]

FULL_WATER_PERCENT_OF_OILS = 38.0
"""What makers call full water: 38 g per 100 g of oils (craft rule of thumb)."""


def water_g(rule: WaterRule, value: float, *, lye_g: float, oils_g: float) -> float:
    """Water, g, that `value` asks for under `rule`, with `lye_g` lye as weighed and `oils_g` oils.

    >>> round(water_g("lye_concentration_percent", 33.0, lye_g=100.0, oils_g=700.0), 2)
    203.03
    >>> water_g("water_to_lye", 2.0, lye_g=100.0, oils_g=700.0)
    200.0
    >>> water_g("percent_of_oils", 30.0, lye_g=100.0, oils_g=700.0)
    210.0
    """
    if rule == "lye_concentration_percent":
        return lye_g * (100 - value) / value
    if rule == "water_to_lye":
        return lye_g * value
    return oils_g * value / 100


def lye_concentration_percent(water_to_lye: float) -> float:
    """Lye concentration, %, of a solution with `water_to_lye` g water per g lye."""
    return 100 / (1 + water_to_lye)
