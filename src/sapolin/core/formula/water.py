"""Water, said in four ways that are one thing. Lye counts as weighed, its impurities included."""

from typing import Literal

from sapolin.core.formula.document import WaterRule
from sapolin.core.quantities.text import template

__all__ = ["FULL_WATER_PERCENT_OF_OILS", "discount_percent", "lye_concentration_percent", "water_g", "water_in_words"]

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
    >>> round(water_g("discount_percent", 15.0, lye_g=100.0, oils_g=1000.0), 2)
    323.0
    """
    if rule == "lye_concentration_percent":
        return lye_g * (100 - value) / value
    if rule == "water_to_lye":
        return lye_g * value
    if rule == "discount_percent":
        return oils_g * FULL_WATER_PERCENT_OF_OILS * (100 - value) / 10_000
    return oils_g * value / 100


def lye_concentration_percent(water_to_lye: float) -> float:
    """Lye concentration, %, of a solution with `water_to_lye` g water per g lye."""
    return 100 / (1 + water_to_lye)


def discount_percent(percent_of_oils: float) -> float:
    """How much less than full water `percent_of_oils` is, %; below 0 it is more."""
    return 100 * (1 - percent_of_oils / FULL_WATER_PERCENT_OF_OILS)


def water_in_words(concentration_percent: float, makes: Literal["bar", "paste"]) -> str:
    """What a lye concentration, %, means while making for what it `makes` (craft rules of thumb)."""
    if makes == "paste":
        return template("water_means.paste")
    steps = {40: "very_little", 35: "little", 29: "usual", 25: "much"}
    means = next((word for least, word in steps.items() if concentration_percent >= least), "very_much")
    return template(f"water_means.{means}")
