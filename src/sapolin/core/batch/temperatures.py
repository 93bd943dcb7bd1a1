"""The temperatures at which oils and lye may meet, by school and by what is in the pot. All in C."""

from collections.abc import Sequence

from sapolin.core.batch.plan import BatchPlan, Choices
from sapolin.core.formula.blend import Component
from sapolin.core.formula.document import Formula, LiquidLine
from sapolin.core.materials.ingredients import liquids
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.model import Model

__all__ = [
    "APART_C",
    "TemperatureWindow",
    "apart_words",
    "holds_milk",
    "meets_milk",
    "temperature_window",
    "usual_choices",
]

APART_C = {"within_10_f": 10 / 1.8, "within_5_f": 5 / 1.8, "within_10_c": 10.0, "room_temperature": 10 / 1.8}
"""How far apart oils and lye may be, by school."""
ROOM_TEMPERATURE_LOW_C = 18.0


class TemperatureWindow(Model):
    """Where oils and lye should be when they meet."""

    low_c: float
    high_c: float
    apart_c: float
    """At most so far from one another."""
    hardest_fat: str
    """Name of the fat that melts last."""
    melts_c: float
    milk: bool
    """Milk, or what scorches as it does, keeps it cool."""
    meets_milk: bool = False
    """The lye is dissolved in it."""
    conflict: str
    """Why no temperature suits everything; empty when one does."""


def apart_words(apart_c: float) -> str:
    """A difference of temperatures, in both units: it is not turned into the other one as a temperature is.

    >>> apart_words(10 / 1.8)
    '5.6 °C (10 °F)'
    """
    return f"{apart_c:.1f} °C ({apart_c * 1.8:.0f} °F)"


def holds_milk(lines: Sequence[LiquidLine]) -> bool:
    """Whether a liquid scorches, as milk does, and so keeps the batch cool."""
    return any(liquids()[line.liquid].scorches == "yes" for line in lines if line.liquid in liquids())


def meets_milk(lines: Sequence[LiquidLine]) -> bool:
    """Whether the lye is dissolved in a liquid that scorches: it is frozen or chilled first."""
    return holds_milk([line for line in lines if line.use == "dissolves_lye"])


def usual_choices(formula: Formula) -> Choices:
    """How a batch of `formula` is usually made: one that scorches is kept cool, with ice at hand."""
    if not holds_milk(formula.liquids):
        return Choices()
    return Choices(cover="fridge", ice_bath=meets_milk(formula.liquids))


def temperature_window(plan: BatchPlan, components: Sequence[Component]) -> TemperatureWindow:
    """The window of a plan: above the hardest fat, not too hot for milk, at the temperature the formula asks for if any."""
    hardest = max(components, key=lambda component: component.oil.melting_c.typical)
    melts = hardest.oil.melting_c.typical
    floor = melts + coefficient("temperature.above_melting_c")
    milk = holds_milk(plan.formula.liquids)
    wanted = plan.formula.process.batter_temperature_c
    low, high = coefficient("temperature.usual_low_c"), coefficient("temperature.usual_high_c")
    if plan.choices.school == "room_temperature":
        low, high = ROOM_TEMPERATURE_LOW_C, low
    if milk:
        low, high = min(low, coefficient("temperature.milk_high_c") - 6), coefficient("temperature.milk_high_c")
    if wanted is not None:
        low, high = wanted - 3, wanted + 3
    conflict = ""
    if floor > high:
        why = "milk wants it no warmer" if milk else "the plan wants it cooler"
        if milk or wanted is not None or plan.choices.school == "room_temperature":
            conflict = f"{hardest.oil.name} melts at {melts:.0f} °C, and {why} than {high:.0f} °C."
        else:
            low, high = floor, floor + (high - low) / 2
    elif floor > low:
        low = floor
    return TemperatureWindow(
        low_c=low,
        high_c=high,
        apart_c=APART_C[plan.choices.school],
        hardest_fat=hardest.oil.name,
        melts_c=melts,
        milk=milk,
        meets_milk=meets_milk(plan.formula.liquids),
        conflict=conflict,
    )
