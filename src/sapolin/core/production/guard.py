"""What may be recorded next: steps in their order, caustic ones only with protection confirmed, readings that can be."""

from collections.abc import Sequence

from sapolin.core.batch.planned import PlannedBatch
from sapolin.core.batch.procedure import Step
from sapolin.core.production.record import (
    Captured,
    CorrectionTaken,
    EntryAmended,
    Event,
    Finished,
    Noted,
    Photographed,
    Poured,
    RecordedEvent,
    RunState,
    Started,
    StepDone,
    Tared,
    Temperature,
    is_used,
)
from sapolin.core.production.weighing import WeighingNow, weighing_now
from sapolin.core.quantities.diagnostics import Offer, Problem
from sapolin.core.quantities.units import from_grams, to_grams

__all__ = ["refusal"]

MOST_WEIGHT_G = 200_000.0
TEMPERATURE_C = (-30.0, 150.0)
OILS_SELDOM_ABOVE_C = 85.0
PEAK_MISSES_BY_C = 8.0
"""Lye may come to this much more than was calculated."""
SELDOM_WARMS_BY_C = 20.0
"""Bowls that cool seldom warm by more than this between two readings."""
SELDOM_BELOW_ROOM_C = 12.0
"""Nor does either bowl fall so far below the room, unless it stands in ice or began as ice."""
ICE_SELDOM_BELOW_C = -2.0
"""Not even lye in an ice bath is colder."""
SLIP_FRACTION = 0.15
SLIP_TIMES = 6.0
"""A weight that is less than this part, or more than this many times, of what was asked for looks like a slip."""


def _problem(code: str, field: str, message: str, remedy: str, offers: tuple[Offer, ...] = ()) -> Problem:
    return Problem(code=code, severity="impossible", field=field, message=message, remedy=remedy, offers=offers)


def refusal(
    event: Event,
    state: RunState,
    steps: Sequence[Step],
    planned: PlannedBatch,
    events: Sequence[RecordedEvent],
    stops: Sequence[str] = (),
) -> Problem | None:
    """Why `event` cannot be added to the record now; null when it can.

    `stops` says in words what forbids to begin at all.
    """
    after_the_fact = isinstance(event, Noted | Photographed | Poured | EntryAmended)
    if isinstance(event, Started):
        if state.status != "planned":
            return _problem("started_already", "kind", "This batch is being made already.", "Go on where it is.")
        return _problem("not_safe", "kind", stops[0], "Change the plan first.") if stops else None
    if state.status == "planned":
        return _problem("not_started", "kind", "Make day has not begun.", "Begin it first.")
    if state.status in ("made", "aborted") and not after_the_fact:
        what = "made" if state.status == "made" else "given up"
        return _problem(
            "over", "kind", f"This batch is {what}; its record only takes notes now.", "Add a note instead."
        )
    if isinstance(event, StepDone):
        return _step(event, state, steps)
    if isinstance(event, Tared):
        return None if event.item in state.targets_g else _unknown_item()
    if isinstance(event, Captured):
        return _capture(event, state, steps)
    if isinstance(event, CorrectionTaken) and event.item not in state.captured_g:
        return _problem("not_weighed", "item", "It has not been weighed yet.", "Take its weight first.")
    if isinstance(event, Temperature):
        return _temperature(event, state, planned)
    if isinstance(event, Poured):
        return _pour(event, planned)
    if isinstance(event, EntryAmended):
        return _correction(event, events, state, steps)
    if isinstance(event, Finished) and state.current is not None:
        return _problem(
            "steps_left", "kind", "There are steps left.", "Finish them, or give the batch up with a reason."
        )
    return None


def _step(event: StepDone, state: RunState, steps: Sequence[Step]) -> Problem | None:
    step = next((step for step in steps if step.id == event.step), None)
    if step is None:
        return _problem("unknown_step", "step", "This batch has no such step.", "Load it again.")
    if event.step in state.done:
        return _problem("done_already", "step", f"“{step.title}” is done already, perhaps on another device.",
                        "Go on with the next step.")  # fmt: skip
    if event.step != state.current:
        return _problem("out_of_order", "step", f"“{step.title}” is not next.", "Do the steps in their order.")
    missing = [check for check in step.checks if check not in event.confirmed]
    if missing:
        return _problem("not_confirmed", "confirmed", f"Not confirmed yet: {missing[0]}", "Confirm each point first.")
    if step.weigh is not None and step.weigh.item not in state.settled:
        item = step.weigh.item
        if item not in state.captured_g:
            return _problem("not_weighed", "step", f"{step.weigh.name} has not been weighed yet.", "Take its weight.")
        return _problem("off_target", "step", f"{step.weigh.name} is off, and nothing is decided about it.",
                        "Choose a way out.")  # fmt: skip
    return None


def _unknown_item() -> Problem:
    return _problem("unknown_item", "item", "Nothing of that name is weighed for this batch.", "Load it again.")


def _capture(event: Captured, state: RunState, steps: Sequence[Step]) -> Problem | None:
    weigh = next((step.weigh for step in steps if step.weigh and step.weigh.item == event.item), None)
    if event.item not in state.targets_g or weigh is None:
        return _unknown_item()
    now = weighing_now(weigh, state)
    if event.source == "scale" and (now.tare is None or event.tare != now.tare):
        return _problem("untared", "weight_g", f"The scale has not been tared for {weigh.name}.",
                        "Put the container on it, tare, then pour.")  # fmt: skip
    if event.weight_g < 0:
        return _problem("negative", "weight_g", f"A weight of {event.weight_g:g} g cannot be.",
                        "Tare with the container on the scale.")  # fmt: skip
    if event.weight_g == 0:
        return _problem("nothing", "weight_g", "There is nothing on the scale.", "Pour, then take the weight.")
    if event.weight_g > MOST_WEIGHT_G:
        return _problem(
            "too_heavy", "weight_g", f"{event.weight_g:,.0f} g is beyond any scale here.", "Check the unit."
        )
    return None if event.sure else _slip(event, now, weigh.name, weigh.decimals)


def _slip(event: Captured, now: WeighingNow, name: str, decimals: int) -> Problem | None:
    """A weight that looks like a slip of the finger, a comma in the wrong place, or another unit."""
    from_scale = event.source == "scale"
    asked_g = now.to_show_g if from_scale else now.target_g - (now.in_bowl_g if event.adds else 0.0)
    if asked_g <= 0 or SLIP_FRACTION < event.weight_g / asked_g < SLIP_TIMES:
        return None
    meant = [event.weight_g * factor for factor in (10.0, 0.1, to_grams(1, "oz"), from_grams(1, "oz"))]
    offers = tuple(
        Offer(value=round(grams, decimals), label=f"{grams:,.{decimals}f} g")
        for grams in meant
        if not from_scale and abs(grams / asked_g - 1) < 0.05
    )
    size = "far less" if event.weight_g < asked_g else "far more"
    return _problem(
        "slip", "weight_g", f"{event.weight_g:,.{decimals}f} g is {size} than the {asked_g:,.{decimals}f} g of {name} "
        "asked for.",
        "Pour on, or correct it. Only if it is right, say so.", offers,
    )  # fmt: skip


def _temperature(event: Temperature, state: RunState, planned: PlannedBatch) -> Problem | None:
    """A reading that cannot be, or that looks like one in the other unit."""
    low, high = TEMPERATURE_C
    last = next((reading.celsius for reading in reversed(state.readings) if reading.bowl == event.bowl), None)
    hottest = OILS_SELDOM_ABOVE_C if event.bowl == "oils" else planned.lye_peak.high_c + PEAK_MISSES_BY_C
    if event.celsius > high:
        return _doubted(event, "out_of_range", "is hotter than any bowl here gets.", too_hot=True)
    if event.celsius < low:
        return _doubted(event, "out_of_range", "is colder than any bowl here gets.", too_hot=False)
    if event.sure:
        return None
    if event.celsius > max(hottest, planned.window.high_c + 20):
        return _doubted(event, "unlikely", f"is hotter than {event.bowl} should be here.", too_hot=True)
    iced = event.bowl == "lye" and (
        planned.window.milk or any(mark.what == "ice_bath" for mark in state.marks)
    )  # fmt: skip
    coldest = ICE_SELDOM_BELOW_C if iced else planned.room_c - SELDOM_BELOW_ROOM_C
    if event.celsius < coldest:
        why = "is colder than ice can make it." if iced else "is far colder than the room."
        return _doubted(event, "unlikely", why, too_hot=False)
    if last is not None and last >= coldest and event.celsius > last + SELDOM_WARMS_BY_C:
        return _doubted(event, "unlikely", "is much hotter than it was before.", too_hot=True)
    return None


def _doubted(event: Temperature, code: str, why: str, *, too_hot: bool) -> Problem:
    """A reading that is asked about. Too hot may be °F taken for °C, too cold °C taken for °F."""
    shown = round(event.celsius if event.read_in == "C" else event.celsius * 1.8 + 32, 1)
    other_unit, other_c = ("F", (shown - 32) / 1.8) if event.read_in == "C" else ("C", shown)
    low, high = TEMPERATURE_C
    swapped = (other_c < event.celsius) == too_hot and low <= other_c <= high
    remedy = "Read it again." if code == "out_of_range" else "If it is right, say so."
    return _problem(
        code, "celsius", f"{shown:g} °{event.read_in} {why}",
        f"Does the thermometer show °{other_unit}? {remedy}" if swapped else remedy,
        (Offer(value=round(other_c, 2), label=f"{shown:g} °{other_unit}"),) if swapped else (),
    )  # fmt: skip


def _pour(event: Poured, planned: PlannedBatch) -> Problem | None:
    if event.mould >= len(planned.moulds):
        return _problem("unknown_mould", "mould", "This batch has no such mould.", "Load it again.")
    fill = planned.moulds[event.mould]
    if -event.difference_ml > fill.batter_ml:
        return _problem("short_of_all", "difference_ml",
                        f"{-event.difference_ml:,.0f} mL short is more than {fill.name} was to take.",
                        f"It was to take {fill.batter_ml:,.0f} mL.")  # fmt: skip
    if event.difference_ml > fill.batter_ml:
        return _problem("over_all", "difference_ml",
                        f"{event.difference_ml:,.0f} mL left over is more than there was for {fill.name}.",
                        f"It was to take {fill.batter_ml:,.0f} mL.")  # fmt: skip
    return None


def _correction(
    event: EntryAmended, events: Sequence[RecordedEvent], state: RunState, steps: Sequence[Step]
) -> Problem | None:
    meant = next((record for record in events if record.seq == event.seq), None)
    if meant is None or isinstance(meant.event, Started | EntryAmended | Tared):
        return _problem("nothing_to_correct", "seq", "There is no such entry to correct.", "Choose one of the record.")
    earlier = [r.event for r in events if isinstance(r.event, EntryAmended) and r.event.seq == event.seq]
    if any(correction.weight_g is None for correction in earlier):
        return _problem("corrected_already", "seq", "It is corrected already.", "Add a note instead.")
    if not isinstance(meant.event, Captured):
        if event.weight_g is not None or event.in_bowl is not None:
            return _problem("not_a_weight", "weight_g", "That entry is no weight.", "Say only what is wrong about it.")
        return None
    return _weight_correction(event, meant.event.item, state, steps)


def _weight_correction(event: EntryAmended, item: str, state: RunState, steps: Sequence[Step]) -> Problem | None:
    if event.in_bowl is None:
        return _problem("in_bowl_unsaid", "in_bowl", "It is not said whether what was weighed is in the bowl or the pot.",
                        "Say so: if it is, its true weight counts; if not, it is weighed anew.")  # fmt: skip
    if event.in_bowl and (event.weight_g is None or not 0 < event.weight_g <= MOST_WEIGHT_G):
        return _problem("no_true_weight", "weight_g", "The true weight is missing.",
                        "Enter what really went in, in this load alone.")  # fmt: skip
    roles = {step.weigh.item: step.weigh.role for step in steps if step.weigh}
    if not event.in_bowl and event.weight_g is not None:
        return _problem("weight_of_nothing", "weight_g", "What is not in the pot has no weight there.",
                        "Leave the weight out.")  # fmt: skip
    if not event.in_bowl and is_used(item, roles, state.done):
        return _problem("in_bowl_for_good", "in_bowl", "It has met the lye or the oils already, so it is in there.",
                        "Enter the true weight that went in.")  # fmt: skip
    return None
