"""Rules of thumb that a workshop's own batches put right, each with what it says, how far it may be off, and what was seen.

Times are compared by their logarithms, all else as it is. What is seen is taken from the record of the batch: the hours until
it was firm, the minutes until light trace, the highest temperature of the lye, how a mould took it, how bars dried.
"""

from collections.abc import Mapping, Sequence
from datetime import datetime
from math import exp, log
from typing import Literal

from pydantic import Field

from sapolin.core.bar.pace import Mixing, minutes_to_trace
from sapolin.core.cure.drying import BarAsCut, days_between, drying_days, drying_observed
from sapolin.core.cure.learning import Learned, Observed, learned
from sapolin.core.cure.state import CureState
from sapolin.core.cure.unmould import Press, unmould_observed
from sapolin.core.production.state import RunState
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.model import Model, Truth
from sapolin.core.trials.judging import JudgedPoints

__all__ = ["RULES", "Rule", "Taught", "cure_seen", "day_seen", "learned_rules"]

RuleId = Literal["unmould", "trace", "lye_peak", "fill", "drying_time", "drying_end"]


class Rule(Model):
    """A rule that is learned about."""

    id: RuleId
    spread: str
    """Id of the coefficient that says how far it may be off."""
    is_time: Truth
    """Compared by logarithms."""
    unit: str

    def value(self, rule: float, offset: float) -> float:
        """What the rule says, and so much off, in its unit; fractions in %.

        >>> round(RULES["unmould"].value(24.0, 0.1), 1), RULES["lye_peak"].value(80.0, -4.0)
        (26.5, 76.0)
        """
        if self.is_time:
            return rule * exp(offset)
        return (100 if self.unit == "%" else 1) * (rule + offset)


RULES: dict[str, Rule] = {
    one.id: one
    for one in (
        Rule(id="unmould", spread="unmould.pressed_spread", is_time=True, unit="h"),
        Rule(id="trace", spread="learning.trace_spread", is_time=True, unit="min"),
        Rule(id="lye_peak", spread="learning.lye_peak_spread", is_time=False, unit="°C"),
        Rule(id="fill", spread="learning.fill_spread", is_time=False, unit="%"),
        Rule(id="drying_time", spread="drying.time_spread", is_time=True, unit="days"),
        Rule(id="drying_end", spread="drying.end_spread", is_time=False, unit="%"),
    )
}
"""By id, in the order they are shown."""


class Taught(Model):
    """What the record of one batch teaches."""

    rules: dict[str, Observed] = Field(default={})
    """How far it lies off each rule, by id; what it says nothing of is not there."""
    judged: dict[str, tuple[JudgedPoints, ...]] = Field(default={})
    """What its bars were judged to be, by quality."""


def learned_rules(taught: Sequence[Taught]) -> dict[str, Learned]:
    """What batches teach about each rule."""
    return {
        rule.id: learned([one.rules[rule.id] for one in taught if rule.id in one.rules], coefficient(rule.spread))
        for rule in RULES.values()
    }


def day_seen(
    state: RunState,
    trace_points: float | None,
    lye_peak_c: float,
    filled_ml: Mapping[int, float],
    mixing: Mixing = "stick_blender",
) -> dict[str, Observed]:
    """What make day says of the rules. `filled_ml` is what each mould was calculated to take."""
    seen: dict[str, Observed] = {}
    blur = coefficient("learning.reading_spread")
    light = next((mark.at for mark in state.marks if mark.what in ("light", "medium", "heavy")), None)
    if trace_points is not None and state.combined_at is not None and light is not None:
        took = (datetime.fromisoformat(light) - datetime.fromisoformat(state.combined_at)).total_seconds() / 60
        rule = minutes_to_trace(trace_points, mixing)
        if took > 0.5:
            seen["trace"] = Observed(offset=log(took / rule), sd=2 * blur, rule=rule)
    lye = [one.celsius for one in state.readings if one.bowl == "lye"]
    if lye and max(lye) > LEAST_PEAK_PART * lye_peak_c:
        # A reading misses the very top: it is told a little too low, and never too high.
        seen["lye_peak"] = Observed(offset=max(lye) - lye_peak_c, sd=2.0, rule=lye_peak_c)
    for mould, difference in state.poured_ml.items():
        if filled_ml.get(mould, 0.0) > 0:
            seen["fill"] = Observed(offset=difference / filled_ml[mould], sd=0.01, rule=0.0)
    return seen


LEAST_PEAK_PART = 0.75
"""A lye that was never read above this part of its forecast was read when it had cooled."""


def cure_seen(
    state: CureState, poured_at: str, unmould_hours: tuple[float, float] | None, bar: BarAsCut | None
) -> dict[str, Observed]:
    """What the record after the pour says of the rules."""
    seen: dict[str, Observed] = {}
    if unmould_hours is not None:
        presses = list(state.presses)
        if state.unmoulded_at is not None and state.unmoulded_how in (None, "clean"):
            # What leaves its mould well is firm.
            presses.append(Press(hours=max(24 * days_between(poured_at, state.unmoulded_at), 0.1), firmness="firm"))
        unmould = unmould_observed(*unmould_hours, presses) if presses else None
        if unmould is not None:
            seen["unmould"] = unmould
    if bar is not None and state.weighings:
        time, end = drying_observed(bar, state.weighings, state.room)
        if time is not None:
            seen["drying_time"] = time.model_copy(update={"rule": drying_days(bar.sides_mm, state.room)})
        if end is not None:
            seen["drying_end"] = end.model_copy(update={"rule": bar.end_fraction})
    return seen
