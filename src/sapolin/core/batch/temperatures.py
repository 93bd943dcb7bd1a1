"""The temperatures at which oils and lye may meet, by school and by what is in the batch. All in C."""

from collections.abc import Sequence

from sapolin.core.batch.plan import BatchPlan, Choices
from sapolin.core.formula.composition import Composition
from sapolin.core.formula.document import Formula, LiquidLine
from sapolin.core.materials.ingredients import liquids
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.model import Model, Truth
from sapolin.core.quantities.text import Temperature, TemperatureDifference, Text, listed, text, within_sentence

__all__ = [
    "APART_C",
    "TemperatureWindow",
    "holds_milk",
    "meets_milk",
    "temperature_window",
    "that_scorch",
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
    milk: Truth
    """Milk, or what scorches as it does, keeps it cool."""
    meets_milk: Truth = False
    """The lye is dissolved in it."""
    conflict: Text
    """Why no temperature suits everything; empty when one does."""

    @property
    def range(self) -> Temperature:
        """Where both should be."""
        return Temperature(c=self.low_c, to_c=self.high_c)

    @property
    def apart(self) -> TemperatureDifference:
        """How far apart they may be."""
        return TemperatureDifference(c=self.apart_c)


def that_scorch(lines: Sequence[LiquidLine]) -> tuple[str, ...]:
    """Names of the liquids that scorch, as milk does."""
    rows = [liquids()[line.liquid] for line in lines if line.liquid in liquids()]
    return tuple(row.name for row in rows if row.scorches == "yes")


def holds_milk(lines: Sequence[LiquidLine]) -> bool:
    """Whether a liquid scorches, as milk does, and so keeps the batch cool."""
    return bool(that_scorch(lines))


def meets_milk(lines: Sequence[LiquidLine]) -> bool:
    """Whether the lye is dissolved in a liquid that scorches: it is frozen or chilled first."""
    return holds_milk([line for line in lines if line.use == "dissolves_lye"])


def usual_choices(formula: Formula) -> Choices:
    """How a batch of `formula` is usually made: one that scorches is kept cool, with ice at hand."""
    if not holds_milk(formula.liquids):
        return Choices()
    return Choices(cover="fridge", ice_bath=meets_milk(formula.liquids))


def temperature_window(plan: BatchPlan, composition: Composition) -> TemperatureWindow:
    """The window of a plan: above the hardest fat, not too hot for milk, at the temperature the formula asks for if any."""
    hardest = max(composition.oils, key=lambda component: component.oil.melting_c.typical)
    melts = hardest.oil.melting_c.typical
    floor = melts + coefficient("temperature.above_melting_c")
    milk = holds_milk(plan.formula.liquids)
    wanted = plan.formula.process.batter_temperature_c
    low, high = coefficient("temperature.usual_low_c"), coefficient("temperature.usual_high_c")
    hot = plan.formula.process.method == "hot" and not milk
    if hot:
        # It is cooked next: warm oils are no harm, and lye need not cool far.
        low, high = coefficient("cook.combine_low_c"), coefficient("cook.combine_high_c")
    elif plan.choices.school == "room_temperature":
        low, high = ROOM_TEMPERATURE_LOW_C, low
    if milk:
        low, high = min(low, coefficient("temperature.milk_high_c") - 6), coefficient("temperature.milk_high_c")
    if wanted is not None:
        low, high = wanted - 3, wanted + 3
    conflict: Text = ()
    if floor > high:
        if milk or wanted is not None or plan.choices.school == "room_temperature":
            code = "temperatures.milk_too_cool_for_fat" if milk else "temperatures.plan_too_cool_for_fat"
            names = listed([within_sentence(name) for name in that_scorch(plan.formula.liquids)])
            conflict = text(
                code, name=hardest.oil.name, melts=Temperature(c=melts), limit=Temperature(c=high), names=names
            )  # fmt: skip
        else:
            low, high = floor, floor + (high - low) / 2
    elif floor > low:
        low = floor
    return TemperatureWindow(
        low_c=low,
        high_c=high,
        apart_c=high - low if hot else APART_C[plan.choices.school],
        hardest_fat=hardest.oil.name,
        melts_c=melts,
        milk=milk,
        meets_milk=meets_milk(plan.formula.liquids),
        conflict=conflict,
    )
