"""The net weight to print: what bars will weigh on the last day of sale, by one of two rules.

minimum: 95 % of the bars weigh at least so much; the rest are found on the scale before they are wrapped.
average: the mean of the batch is not below it, and few bars fall short of it by more than a tolerated error.
"""

from math import floor, inf
from statistics import NormalDist
from typing import Literal

from sapolin.core.cure.drying import BarWeight
from sapolin.core.labels.design import NetRule
from sapolin.core.quantities.chances import KEPT_BY_95_PERCENT
from sapolin.core.quantities.model import Model
from sapolin.core.quantities.text import Text, number, percent, text, weight
from sapolin.core.quantities.units import from_grams

__all__ = ["NetWeight", "letter_height_mm", "net_weight", "net_words", "tolerated_error_g"]

SHORT_FRACTION = 0.025
"""So many bars may be short by more than the tolerated error (EU 76/211)."""
NEVER_SHORT = NormalDist().inv_cdf(0.999)
"""By twice the error none may be: here one in a thousand."""
TOLERATED: tuple[tuple[float, float, Literal["%", "g"]], ...] = (
    (50.0, 9.0, "%"), (100.0, 4.5, "g"), (200.0, 4.5, "%"), (300.0, 9.0, "g"), (500.0, 3.0, "%"), (1000.0, 15.0, "g"),
    (inf, 1.5, "%"),
)  # fmt: skip
"""Up to a weight in g: an error in g, or in per cent (EU 76/211, annex I)."""
HEIGHTS_MM = ((50.0, 2.0), (200.0, 3.0), (1000.0, 4.0))
"""Least height of the digits of a net weight, up to a weight in g (EU 76/211); above it 6 mm."""


class NetWeight(Model):
    """What may be printed, and why."""

    rule: NetRule
    printed_g: int
    """Whole grams; the most that the rule allows."""
    mean_g: float
    """Of the bars on the last day of sale; an estimate."""
    at_least_g: float
    """95 % of the bars weigh at least so much."""
    weighings: int
    """How many weighings of bars it rests on."""
    words: Text


def tolerated_error_g(nominal_g: float) -> float:
    """By how much a bar of that net weight may fall short under the average rule, g.

    >>> tolerated_error_g(92), tolerated_error_g(120), tolerated_error_g(40)
    (4.5, 5.4, 3.6)
    """
    error, of = next((error, of) for up_to, error, of in TOLERATED if nominal_g <= up_to)
    return error if of == "g" else round(nominal_g * error / 100, 6)


def letter_height_mm(net_g: float) -> float:
    """Least height of the digits of a net weight, mm.

    >>> letter_height_mm(92), letter_height_mm(40)
    (3.0, 2.0)
    """
    return next((height for up_to, height in HEIGHTS_MM if net_g <= up_to), 6.0)


def net_weight(bars: BarWeight, rule: NetRule) -> NetWeight:
    """The net weight for bars that weigh so much on the last day of sale."""
    spread = (bars.bar_spread**2 + bars.mean_spread**2) ** 0.5
    at_least = bars.mean_g * max(1 - KEPT_BY_95_PERCENT * spread, 0.0)
    printed = at_least
    if rule == "average":
        sure_mean = bars.mean_g * max(1 - KEPT_BY_95_PERCENT * bars.mean_spread, 0.0)
        printed = next((net for net in range(floor(sure_mean), 0, -1) if _average_holds(net, bars)), 0)
    words = text(
        f"label.net.{rule}", mean=weight(bars.mean_g), least=weight(at_least), error=weight(tolerated_error_g(printed)),
        spread=percent(100 * bars.bar_spread, 1), weighings=number(bars.weighings),
    )  # fmt: skip
    return NetWeight(
        rule=rule, printed_g=floor(printed + 1e-9), mean_g=bars.mean_g, at_least_g=at_least, weighings=bars.weighings,
        words=words,
    )  # fmt: skip


def _average_holds(net_g: float, bars: BarWeight) -> bool:
    """Whether few enough bars are short of `net_g` by the tolerated error, and hardly one by twice of it."""
    error = tolerated_error_g(net_g)
    weights = NormalDist(bars.mean_g, max(bars.mean_g * bars.bar_spread, 1e-9))
    return weights.cdf(net_g - error) <= SHORT_FRACTION and net_g - 2 * error <= bars.mean_g * (
        1 - NEVER_SHORT * bars.bar_spread
    )


def net_words(grams: float, *, in_ounces: bool) -> str:
    """A net weight as it is printed; ounces are rounded down, so that none promises more.

    >>> net_words(92, in_ounces=True), net_words(92, in_ounces=False)
    ('92 g (3.2 oz)', '92 g')
    """
    shown = f"{grams:g} g"
    return f"{shown} ({floor(10 * from_grams(grams, 'oz')) / 10:.1f} oz)" if in_ounces else shown
