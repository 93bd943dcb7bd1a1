"""What may be recorded next: steps in their order, caustic ones only with protection confirmed, readings that can be."""

from collections.abc import Sequence
from typing import NamedTuple

from sapolin.core.batch.planned import PlannedBatch
from sapolin.core.batch.procedure import Step
from sapolin.core.production.events import (
    Burst,
    Captured,
    Chose,
    CorrectionTaken,
    EntryAmended,
    Event,
    Finished,
    LotChosen,
    Noted,
    Packed,
    Photographed,
    Poured,
    RecordedEvent,
    SaltStepped,
    SoapTested,
    StageReached,
    Started,
    StepDone,
    Tared,
    Temperature,
    Traced,
)
from sapolin.core.production.state import RunState, is_used
from sapolin.core.production.weighing import WeighingNow, weighing_now
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.diagnostics import Diagnostic, Offer, stopping
from sapolin.core.quantities.text import number, plain, template, weight
from sapolin.core.quantities.units import from_grams, to_grams

__all__ = ["Surroundings", "amendable", "passes", "refusal"]

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
PH_READ = (5.0, 14.0)
"""What a strip or meter can say of soap."""
MOST_PACKED = 1.5
"""Water that loosened it weighs too, but never so many times what was planned."""
SLIP_FRACTION = 0.15
SLIP_TIMES = 6.0
"""A weight that is less than this fraction, or more than this many times, of what was asked for looks like a slip."""
AMENDABLE = (
    Captured, Temperature, Traced, Burst, Noted, Poured, Chose, CorrectionTaken, StageReached, SoapTested, SaltStepped,
    Packed,
)  # fmt: skip
"""What may have been entered wrongly. The rest happened all the same: a step, a zero of the scale, an amendment."""


class Surroundings(NamedTuple):
    """What limits what can be recorded of work."""

    batter_g: float
    """All of it together, g."""
    batch: PlannedBatch | None = None
    """Null for work that is no batch: it has no bowls to cool and no moulds."""


def refusal(
    event: Event,
    state: RunState,
    steps: Sequence[Step],
    planned: PlannedBatch | Surroundings,
    events: Sequence[RecordedEvent],
    forbids: Sequence[Diagnostic] = (),
) -> Diagnostic | None:
    """Why `event` cannot be added to the record now; null when it can.

    `forbids` is what forbids to begin at all.
    """
    around = planned if isinstance(planned, Surroundings) else Surroundings(planned.size.batter_g, planned)
    after_the_fact = isinstance(event, Noted | Photographed | Poured | Packed | EntryAmended)
    if isinstance(event, Started):
        if state.status != "planned":
            return stopping("started_already", "kind")
        return stopping("not_safe", "kind", why=plain(forbids[0].message)) if forbids else None
    if state.status == "planned":
        return stopping("not_started", "kind")
    if state.status in ("made", "aborted") and not after_the_fact:
        return stopping("made_already" if state.status == "made" else "given_up", "kind")
    if isinstance(event, StepDone):
        return _step(event, state, steps)
    if isinstance(event, Tared):
        return None if event.item in state.targets_g else stopping("unknown_item", "item")
    if isinstance(event, LotChosen):
        return None if event.item in state.targets_g else stopping("unknown_item", "item")
    if isinstance(event, Captured):
        return _capture(event, state, steps)
    if isinstance(event, CorrectionTaken) and event.item not in state.captured_g:
        return stopping("nothing_weighed", "item")
    if isinstance(event, Temperature):
        return _temperature(event, state, around.batch)
    if isinstance(event, Poured):
        return stopping("unknown_mould", "mould") if around.batch is None else _pour(event, around.batch)
    if isinstance(event, StageReached | SoapTested | Packed):
        return _seen(event, state, steps, around.batter_g)
    if isinstance(event, SaltStepped) and around.batch is not None:
        return stopping("unknown_test", "kind")
    if isinstance(event, EntryAmended):
        return _amendment(event, events, state, steps)
    if isinstance(event, Finished) and state.current is not None:
        return stopping("steps_left", "kind")
    return None


def _step(event: StepDone, state: RunState, steps: Sequence[Step]) -> Diagnostic | None:
    step = next((step for step in steps if step.id == event.step), None)
    if step is None:
        return stopping("unknown_step", "step")
    if event.step in state.done:
        return stopping("done_already", "step", title=step.title)
    if event.step != state.current:
        return stopping("out_of_order", "step", title=step.title)
    missing = [check for check in step.checks if check not in event.confirmed]
    if missing:
        return stopping("not_confirmed", "confirmed", check=missing[0])
    if step.weigh is not None and step.weigh.item not in state.settled:
        weighed = step.weigh.item in state.captured_g
        return stopping("off_target" if weighed else "not_weighed", "step", name=step.weigh.name)
    if step.test is not None:
        last = next((one for one in reversed(state.tests) if one.test == step.test), None)
        if last is None or not last.passed:
            return stopping("not_tested" if last is None else "not_passed", "step", title=step.title)
    if step.kind == "pack" and state.packed is None:
        return stopping("not_packed", "step")
    return None


def passes(event: SoapTested, steps: Sequence[Step]) -> bool:
    """Whether the work may go on after a test: by the pH that was read, else by its outcome."""
    if event.ph is not None:
        return event.ph <= coefficient("soap.ph_most")
    return any(
        one.passed for step in steps if step.test == event.test for one in step.outcomes if one.id == event.outcome
    )


def _seen(
    event: StageReached | SoapTested | Packed, state: RunState, steps: Sequence[Step], batter_g: float
) -> Diagnostic | None:
    """Whether what is cooked, tested or packed can be so."""
    if isinstance(event, StageReached):
        known = {stage.id for step in steps for stage in step.stages}
        return None if event.stage in known else stopping("unknown_stage", "stage")
    if isinstance(event, SoapTested):
        tests = [step for step in steps if step.test == event.test]
        if not tests:
            return stopping("unknown_test", "test")
        if event.ph is None and all(event.outcome != one.id for step in tests for one in step.outcomes):
            return stopping("unknown_outcome", "outcome")
        if event.ph is not None and not PH_READ[0] <= event.ph <= PH_READ[1]:
            low, high = (number(end, 0) for end in PH_READ)
            return stopping("ph_out_of_range", "ph", ph=number(event.ph, 1), low=low, high=high)
        return None
    most_g = batter_g * MOST_PACKED
    if not 0 < event.weight_g <= most_g:
        return stopping("packed_out_of_range", "weight_g", weight=weight(event.weight_g, 0), most=weight(most_g, 0))
    return None


def _capture(event: Captured, state: RunState, steps: Sequence[Step]) -> Diagnostic | None:
    weigh = next((step.weigh for step in steps if step.weigh and step.weigh.item == event.item), None)
    if event.item not in state.targets_g or weigh is None:
        return stopping("unknown_item", "item")
    roles = {step.weigh.item: step.weigh.role for step in steps if step.weigh}
    if event.item in state.captured_g and is_used(event.item, roles, state.done):
        if weigh.role == "lye":
            return stopping("lye_is_made", "item", name=weigh.name)
        adds = event.adds if event.source == "typed" else not (state.tare is not None and state.tare.emptied)
        if not adds:
            return stopping("in_the_batch", "item", name=weigh.name)
    now = weighing_now(weigh, state)
    if event.source == "scale" and (now.tare is None or event.tare != now.tare):
        return stopping("untared", "weight_g", name=weigh.name)
    if event.weight_g < 0:
        return stopping("negative", "weight_g", weight=weight(event.weight_g, weigh.decimals))
    if event.weight_g == 0:
        return stopping("nothing", "weight_g")
    if event.weight_g > MOST_WEIGHT_G:
        return stopping("too_heavy", "weight_g", weight=weight(event.weight_g, 0))
    return None if event.sure else _slip(event, now, weigh.name, weigh.decimals)


def _slip(event: Captured, now: WeighingNow, name: str, decimals: int) -> Diagnostic | None:
    """A weight that looks like a slip of the finger, a comma in the wrong place, or another unit."""
    from_scale = event.source == "scale"
    asked_g = now.to_show_g if from_scale else now.target_g - (now.in_bowl_g if event.adds else 0.0)
    if asked_g <= 0 or SLIP_FRACTION < event.weight_g / asked_g < SLIP_TIMES:
        return None
    read = event.weight_g
    meant = (read * 10, read / 10, to_grams(read, "oz"), from_grams(read, "oz"))
    offers = tuple(
        Offer(value=round(grams, decimals), label=(weight(round(grams, decimals), decimals),))
        for grams in meant
        if not from_scale and abs(grams / asked_g - 1) < 0.05
    )
    return stopping(
        "slip_less" if event.weight_g < asked_g else "slip_more", "weight_g", offers=offers, is_doubt=True,
        name=name, weight=weight(event.weight_g, decimals), asked=weight(asked_g, decimals),
    )  # fmt: skip


def _temperature(event: Temperature, state: RunState, planned: PlannedBatch | None) -> Diagnostic | None:
    """A reading that cannot be, or that looks like one in the other unit."""
    low, high = TEMPERATURE_C
    last = next((reading.celsius for reading in reversed(state.readings) if reading.bowl == event.bowl), None)
    if planned is None:
        return None
    hottest = OILS_SELDOM_ABOVE_C if event.bowl == "oils" else planned.lye_peak.high_c + PEAK_MISSES_BY_C
    if event.celsius > high:
        return _doubted(event, "hotter_than_any_bowl", too_hot=True, possible=False)
    if event.celsius < low:
        return _doubted(event, "colder_than_any_bowl", too_hot=False, possible=False)
    if event.sure:
        return None
    if event.celsius > max(hottest, planned.window.high_c + 20):
        return _doubted(event, f"hotter_than_{event.bowl}", too_hot=True)
    iced = event.bowl == "lye" and (
        planned.window.milk or any(mark.what == "ice_bath" for mark in state.marks)
    )  # fmt: skip
    coldest = ICE_SELDOM_BELOW_C if iced else planned.room_c - SELDOM_BELOW_ROOM_C
    if event.celsius < coldest:
        return _doubted(event, "colder_than_ice" if iced else "colder_than_the_room", too_hot=False)
    if last is not None and last >= coldest and event.celsius > last + SELDOM_WARMS_BY_C:
        return _doubted(event, "hotter_than_before", too_hot=True)
    return None


def _doubted(event: Temperature, code: str, *, too_hot: bool, possible: bool = True) -> Diagnostic:
    """A reading that is asked about. Too hot may be °F taken for °C, too cold °C taken for °F."""
    shown = round(event.celsius if event.read_in == "C" else event.celsius * 1.8 + 32, 1)
    other_unit, other_c = ("F", (shown - 32) / 1.8) if event.read_in == "C" else ("C", shown)
    low, high = TEMPERATURE_C
    swapped = (other_c < event.celsius) == too_hot and low <= other_c <= high
    offers = (Offer(value=round(other_c, 2), label=(number(shown, unit=f"°{other_unit}"),)),) if swapped else ()
    return stopping(
        f"{code}_or_other_unit" if swapped else code, "celsius", offers=offers, is_doubt=possible,
        bowl=template(f"bowls.{event.bowl}"), reading=number(shown, unit=f"°{event.read_in}"), unit=f"°{other_unit}",
    )  # fmt: skip


def _pour(event: Poured, planned: PlannedBatch) -> Diagnostic | None:
    if event.mould >= len(planned.moulds):
        return stopping("unknown_mould", "mould")
    fill = planned.moulds[event.mould]
    if abs(event.difference_ml) > fill.batter_ml:
        code = "short_of_all" if event.difference_ml < 0 else "over_all"
        return stopping(
            code, "difference_ml", difference=number(abs(event.difference_ml), 0, "mL"), name=fill.name,
            planned=number(fill.batter_ml, 0, "mL"),
        )  # fmt: skip
    return None


def _amendment(
    event: EntryAmended, events: Sequence[RecordedEvent], state: RunState, steps: Sequence[Step]
) -> Diagnostic | None:
    meant = next((record for record in events if record.seq == event.seq), None)
    if meant is None or not isinstance(meant.event, AMENDABLE):
        return stopping("nothing_to_amend", "seq")
    earlier = [r.event for r in events if isinstance(r.event, EntryAmended) and r.event.seq == event.seq]
    if any(amendment.weight_g is None for amendment in earlier):
        return stopping("amended_already", "seq")
    if not isinstance(meant.event, Captured):
        no_weight = event.weight_g is None and event.in_bowl is None
        return None if no_weight else stopping("not_a_weight", "weight_g")
    return _weight_amendment(event, meant.event.item, state, steps)


def _weight_amendment(event: EntryAmended, item: str, state: RunState, steps: Sequence[Step]) -> Diagnostic | None:
    if event.in_bowl is None:
        return stopping("in_bowl_unsaid", "in_bowl")
    if event.in_bowl and (event.weight_g is None or not 0 < event.weight_g <= MOST_WEIGHT_G):
        return stopping("no_true_weight", "weight_g")
    roles = {step.weigh.item: step.weigh.role for step in steps if step.weigh}
    if not event.in_bowl and event.weight_g is not None:
        return stopping("weight_of_nothing", "weight_g")
    if not event.in_bowl and is_used(item, roles, state.done):
        return stopping("in_bowl_for_good", "in_bowl")
    return None


def amendable(events: Sequence[RecordedEvent]) -> tuple[int, ...]:
    """The entries of a record that can be amended: what was weighed, as often as needed; anything else once."""
    void = {
        record.event.seq
        for record in events
        if isinstance(record.event, EntryAmended) and record.event.weight_g is None
    }
    return tuple(record.seq for record in events if record.seq not in void and isinstance(record.event, AMENDABLE))
