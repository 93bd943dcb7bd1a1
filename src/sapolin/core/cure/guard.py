"""What may be recorded after the pour: things in their order, numbers that can be, slips asked about."""

from collections.abc import Mapping, Sequence
from datetime import datetime, timedelta

from sapolin.core.cure.drying import BarAsCut, days_between, planned_weight_g
from sapolin.core.cure.events import (
    CureEvent,
    CureRecord,
    Cut,
    EntryStruck,
    FitTested,
    Judged,
    Left,
    Looked,
    Placed,
    Pressed,
    RoomRead,
    Turned,
    Unmoulded,
    Weighed,
)
from sapolin.core.cure.state import CureState, cure_state, fit_standing, struck
from sapolin.core.quantities.diagnostics import Diagnostic, Offer, stopping
from sapolin.core.quantities.text import Temperature, number, percent, weight

__all__ = ["AHEAD", "refusal"]

PH = (0.0, 14.0)
SELDOM_PH = (8.0, 12.0)
"""Strips read 8 to 10 on rinsed lather, fresh lye-heavy soap up to 12: beyond these the strip or the water is at fault."""
SELDOM_FIT_BEFORE_H = 24.0
"""Cold-process soap is still caustic until about a day after pouring."""
AHEAD = timedelta(minutes=10)
"""Clocks of two devices may differ by this much."""
MOST_BAR_G = 5_000.0
OFF_FRACTION = 0.25
"""A bar that weighs this much more or less than its plan looks like a slip."""
HEAVIER_FRACTION = 0.003
"""A bar may seem to gain this much: the scale, or damp air."""
MOST_MORE_BARS = 1.15
"""So many times the bars of the cutting plan is a slip."""
SELDOM_FIRMS_WITHIN_H = 2.0
"""A loaf that was too soft is seldom firm enough so soon after."""
SELDOM_FIRM_BEFORE = 0.3
"""A loaf is seldom firm before this part of the hours it is expected to take."""
ROOM_C = (-20.0, 60.0)
WATER_C = (1.0, 60.0)


def refusal(
    event: CureEvent,
    at: str,
    now: str,
    poured_at: str,
    events: Sequence[CureRecord],
    bar: BarAsCut | None,
    planned_bars: int | None,
    free: Mapping[str, int],
    unmould_low_h: float | None = None,
    *,
    is_cooked: bool = False,
) -> Diagnostic | None:
    """Why `event`, which happened `at`, cannot be added to the record now; null when it can.

    `bar` and `planned_bars` are those of the cutting plan, null without one. `free` has the free places of every tray by its
    code. `unmould_low_h` is when it could be unmoulded at the earliest, by its forecast, h. `is_cooked`: it was soap already
    when it was poured.
    """
    state = cure_state(events, poured_at)
    if datetime.fromisoformat(at) < datetime.fromisoformat(poured_at):
        return stopping("before_the_pour", "at")
    if datetime.fromisoformat(at) > datetime.fromisoformat(now) + AHEAD:
        return stopping("in_the_future", "at")
    if isinstance(event, Pressed | Unmoulded) and state.unmoulded_at is not None:
        return stopping("unmoulded_already", "kind")
    hours = 24 * days_between(poured_at, at)
    if isinstance(event, Pressed | Unmoulded | Cut) and not event.sure:
        doubt = _so_soon(event, hours, state, unmould_low_h)
        if doubt is not None:
            return doubt
    if isinstance(event, Cut):
        return _cut(event, state, planned_bars)
    if isinstance(event, Placed):
        return _placed(event, state, free)
    if isinstance(event, Weighed):
        return _weighed(event, at, state, bar)
    if isinstance(event, RoomRead):
        return _room(event)
    if isinstance(event, FitTested):
        is_bar = bar is not None or planned_bars is not None or unmould_low_h is not None
        return _fit(event, at, None if is_cooked else hours, state, is_bar=is_bar)
    if isinstance(event, Left):
        return _left(event, at, state)
    if isinstance(event, Judged):
        return _judged(event, at, state)
    if isinstance(event, Turned | Looked) and state.cut_at is None:
        return stopping("not_cut", "kind")
    if isinstance(event, EntryStruck):
        return _struck(event, events, poured_at)
    return None


def _so_soon(
    event: Pressed | Unmoulded | Cut, hours: float, state: CureState, unmould_low_h: float | None
) -> Diagnostic | None:
    """Soap that was hardly poured is seldom firm, nor out of its mould, nor cut; and a loaf that was soft is left in it."""
    told = number(hours, 0 if hours >= 1 else 1, "h")
    is_soon = unmould_low_h is not None and hours < SELDOM_FIRM_BEFORE * unmould_low_h
    if isinstance(event, Pressed):
        is_firm = event.firmness in ("firm", "brittle")
        return stopping("firm_so_soon", "firmness", is_doubt=True, hours=told) if is_soon and is_firm else None
    if is_soon and (isinstance(event, Unmoulded) or state.unmoulded_at is None):
        return stopping("out_so_soon", "kind", is_doubt=True, hours=told)
    if isinstance(event, Unmoulded) and state.presses and state.presses[-1].firmness in ("tacky", "soft"):
        last = state.presses[-1]
        if hours - last.hours < SELDOM_FIRMS_WITHIN_H:
            return stopping(f"out_though_{last.firmness}", "kind", is_doubt=True)
    return None


def _cut(event: Cut, state: CureState, planned_bars: int | None) -> Diagnostic | None:
    if state.cut_at is not None:
        return stopping("cut_already", "kind", bars=number(state.bars))
    if event.bars == 0:
        return stopping("no_bars", "bars")
    if event.seconds + event.samples > event.bars:
        return stopping("more_seconds_than_bars", "seconds", bars=number(event.bars))
    if event.trims_g is not None and event.trims_g < 0:
        return stopping("negative_trims", "trims_g")
    if planned_bars and not event.sure and event.bars > max(planned_bars * MOST_MORE_BARS, planned_bars + 1):
        return stopping(
            "more_bars_than_planned", "bars", is_doubt=True, bars=number(event.bars), planned=number(planned_bars)
        )
    return None


def _placed(event: Placed, state: CureState, free: Mapping[str, int]) -> Diagnostic | None:
    if state.cut_at is None:
        return stopping("not_cut", "kind")
    if event.tray not in free:
        return stopping("unknown_tray", "tray", tray=event.tray)
    if event.from_tray == event.tray:
        return stopping("same_tray", "tray", tray=event.tray)
    source = state.on_table if event.from_tray is None else state.trays.get(event.from_tray, 0)
    if event.bars > source:
        return _too_few(source, event.from_tray)
    if event.bars > free[event.tray]:
        left = number(max(free[event.tray], 0))
        return stopping("tray_is_full", "tray", tray=event.tray, free=left, bars=number(event.bars))
    return None


def _too_few(bars: int, tray: str | None) -> Diagnostic:
    """So few bars are where they are to be taken from."""
    if not bars:
        return stopping("none_on_no_tray" if tray is None else "none_on_tray", "bars", tray=tray or "")
    return stopping(
        "not_so_many_bars" if tray is None else "not_so_many_on_tray", "bars", bars=number(bars), tray=tray or ""
    )


def _weighed(event: Weighed, at: str, state: CureState, bar: BarAsCut | None) -> Diagnostic | None:
    if state.cut_at is None:
        return stopping("not_cut", "kind")
    if event.weight_g <= 0:
        return stopping("no_weight", "weight_g")
    # Bars weighed together are held to what one of them may weigh.
    each_g = event.weight_g / event.bars
    if each_g > MOST_BAR_G:
        return stopping("too_heavy_for_a_bar", "weight_g", weight=weight(each_g, 0))
    if event.bars > 1 and event.bars > state.here:
        return stopping("not_so_many_here", "bars", bars=number(state.here))
    if at < state.cut_at:
        return stopping("before_the_cut", "at")
    if event.sure:
        return None
    own = [one for one in state.weighings if one.mark == event.mark]
    day = days_between(state.cut_at, at)
    earlier = [one for one in own if one.day <= day]
    if earlier:
        last = max(earlier, key=lambda one: one.day)
        if each_g > last.weight_g * (1 + HEAVIER_FRACTION):
            return stopping(
                "heavier_than_before", "weight_g", is_doubt=True, weight=weight(each_g), before=weight(last.weight_g),
                mark=event.mark,
            )  # fmt: skip
        if bar is not None:
            dry_g = last.weight_g * bar.end_fraction * 0.95
            if each_g < dry_g:
                return _slip("lighter_than_dry", event, dry_g)
    elif bar is not None and abs(each_g / planned_weight_g(bar, day) - 1) > OFF_FRACTION:
        return _slip("unlike_the_plan", event, planned_weight_g(bar, day))
    return None


def _slip(code: str, event: Weighed, expected_g: float) -> Diagnostic:
    """A weight that is asked about; ten times too much or too little is offered the other way."""
    each_g = event.weight_g / event.bars
    offers = tuple(
        Offer(value=round(event.weight_g * times, 1), label=(weight(event.weight_g * times),))
        for times in (10.0, 0.1)
        if abs(each_g * times / expected_g - 1) < OFF_FRACTION
    )
    return stopping(
        code, "weight_g", is_doubt=True, offers=offers, weight=weight(each_g), expected=weight(expected_g),
        mark=event.mark,
    )  # fmt: skip


def _room(event: RoomRead) -> Diagnostic | None:
    if event.celsius is None and event.humidity_percent is None:
        return stopping("nothing_read", "celsius")
    if event.celsius is not None and not ROOM_C[0] <= event.celsius <= ROOM_C[1]:
        return stopping("not_a_room", "celsius", temperature=Temperature(c=event.celsius))
    if event.humidity_percent is not None and not 0 <= event.humidity_percent <= 100:
        return stopping("not_a_humidity", "humidity_percent", humidity=percent(event.humidity_percent))
    return None


def _fit(
    event: FitTested, at: str, raw_for_h: float | None, state: CureState, *, is_bar: bool
) -> Diagnostic | None:  # fmt: skip
    """`raw_for_h`: hours since it was poured raw; null when it was cooked."""
    if is_bar and state.cut_at is None:
        return stopping("not_cut", "kind")
    if state.cut_at is not None and at < state.cut_at:
        return stopping("before_the_cut", "at")
    if event.ph is None and event.zap is None:
        return stopping("nothing_tested", "ph")
    if raw_for_h is not None and raw_for_h < SELDOM_FIT_BEFORE_H and not event.sure:
        return stopping("fit_so_soon", "ph", is_doubt=True, hours=number(raw_for_h, 0 if raw_for_h >= 1 else 1, "h"))
    if event.ph is None:
        return None
    if not PH[0] <= event.ph <= PH[1]:
        tenth = event.ph / 10
        offers = (Offer(value=tenth, label=(number(tenth),)),) if 7 <= tenth <= PH[1] else ()
        return stopping("not_a_ph", "ph", offers=offers, ph=number(event.ph))
    if not SELDOM_PH[0] <= event.ph <= SELDOM_PH[1] and not event.sure:
        code = "soap_is_not_so_acid" if event.ph < SELDOM_PH[0] else "soap_is_not_so_caustic"
        return stopping(code, "ph", is_doubt=True, ph=number(event.ph))
    return None


def _left(event: Left, at: str, state: CureState) -> Diagnostic | None:
    if state.cut_at is None:
        return stopping("not_cut", "kind")
    there = state.on_table if event.tray is None else state.trays.get(event.tray, 0)
    if event.bars > there:
        return _too_few(there, event.tray)
    # Kept for the makers' own skin is no less a use than sold.
    if event.to != "lost" and fit_standing(state.fit) != "fit":
        return stopping(f"not_fit_{fit_standing(state.fit)}", "to")
    if event.to != "lost" and state.fit_at is not None and at < state.fit_at:
        return stopping("left_before_fit", "at")
    return None


def _judged(event: Judged, at: str, state: CureState) -> Diagnostic | None:
    if state.cut_at is None:
        return stopping("not_cut", "kind")
    if fit_standing(state.fit) != "fit":
        return stopping("judged_before_fit", "kind")
    if at < state.cut_at:
        return stopping("before_the_cut", "at")
    if not event.scores and not event.measures:
        return stopping("nothing_judged", "scores")
    if event.water_c is not None and not WATER_C[0] <= event.water_c <= WATER_C[1]:
        return stopping("not_washing_water", "water_c", temperature=Temperature(c=event.water_c))
    return None


def _struck(event: EntryStruck, events: Sequence[CureRecord], poured_at: str) -> Diagnostic | None:
    known = next((one for one in events if one.seq == event.seq), None)
    if known is None or event.seq in struck(events) or isinstance(known.event, EntryStruck):
        return stopping("nothing_to_strike", "seq", number=number(event.seq))
    record = CureRecord(seq=len(events) + 1, at=events[-1].at, recorded_at=events[-1].recorded_at, event=event)
    after = cure_state([*events, record], poured_at)
    bars_left_over = after.on_table < 0 or any(bars < 0 for bars in after.trays.values())
    needs_cut = after.cut_at is None and (
        after.trays or after.weighings or after.gone or after.fit is not None or after.judged
    )
    if bars_left_over or needs_cut:
        return stopping("later_entries_rest_on_it", "seq", number=number(event.seq))
    return None
