"""A batch followed after its pour: its record, the bars it was cut into, and what its forecasts rest on."""

from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime, timedelta
from math import exp, sqrt
from typing import NamedTuple

from pydantic import ValidationError

from sapolin.core.cure.drying import (
    BarAsCut,
    DryingForecast,
    DryingPrior,
    days_between,
    drying_forecast,
)
from sapolin.core.cure.events import CureRecord
from sapolin.core.cure.learning import Learned
from sapolin.core.cure.state import CureState, cure_state
from sapolin.core.cure.unmould import UnmouldForecast, unmould_forecast
from sapolin.core.production.events import RecordedEvent, started_of
from sapolin.core.production.state import RunState
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.diagnostics import FormulaError
from sapolin.core.quantities.model import Model, Truth
from sapolin.core.quantities.text import Text, number, percent, text
from sapolin.services.batches import BatchWork, Outcome, outcome_of, work_of
from sapolin.services.learning import rules_by, taught_anew, taught_by, wants_teaching
from sapolin.store.batches import BatchRecord, BatchStore
from sapolin.store.cures import AddedUp, AddUp, CureStore
from sapolin.store.reading import UnreadableError
from sapolin.store.stores import Stores

__all__ = ["DryingTaught", "FollowedBatch", "PlannedBars", "Taken", "added_up_by", "bar_of", "keep_missing_taught", "later",
           "prior_of", "taken_by"]  # fmt: skip

USUAL_PROPORTIONS = (1.0, 2.2, 3.0)
"""Sides of a bar whose shape the mould does not tell."""


class PlannedBars(Model):
    """Bars as the cutting plan has them."""

    mould: str
    label: Text
    bars: int
    wet_g: float
    cured_g: float
    sides_mm: tuple[float, ...]
    """All three; of usual proportions when the mould does not tell them."""


def _sides(thickness_mm: float, width_mm: float, height_mm: float, bar_ml: float) -> tuple[float, float, float]:
    if thickness_mm > 0 and width_mm > 0 and height_mm > 0:
        return thickness_mm, width_mm, height_mm
    a, b, c = USUAL_PROPORTIONS
    unit = (1000 * bar_ml / (a * b * c)) ** (1 / 3)
    return a * unit, b * unit, c * unit


def _planned_bars(outcome: Outcome) -> tuple[PlannedBars, ...]:
    found = []
    for fill in outcome.poured.moulds:
        if fill.cuts:
            cut = fill.cuts[0]
            sides = _sides(cut.bar_thickness_mm, cut.bar_width_mm, cut.bar_height_mm, cut.bar_ml)
            found.append(
                PlannedBars(
                    mould=fill.name,
                    label=cut.label,
                    bars=cut.bars,
                    wet_g=cut.wet_g,
                    cured_g=cut.cured_g,
                    sides_mm=sides,
                )
            )
    return tuple(found)


def bar_of(planned: tuple[PlannedBars, ...], outcome: Outcome, state: CureState | None = None) -> BarAsCut | None:
    """The bar of the mould that makes most of them; one that was weighed where no plan tells of it."""
    sized = [one for one in planned if one.bars > 0]
    if sized:
        most = max(sized, key=lambda one: one.bars)
        a, b, c = most.sides_mm
        return BarAsCut(sides_mm=(a, b, c), wet_g=most.wet_g, end_fraction=most.cured_g / most.wet_g)
    if state is None or not state.weighings:
        return None
    first = state.weighings[0].weight_g
    density = outcome.poured.volume.density_g_per_ml
    return BarAsCut(
        sides_mm=_sides(0, 0, 0, first / density), wet_g=first, end_fraction=outcome.poured.volume.cured_fraction
    )


def later(at: str, days: float) -> str:
    """So many days after a time."""
    return (datetime.fromisoformat(at) + timedelta(days=days)).isoformat(timespec="seconds")


@dataclass(frozen=True)
class FollowedBatch:
    """A batch after its pour, with what its forecasts rest on."""

    work: BatchWork
    run_events: list[RecordedEvent]
    run: RunState
    outcome: Outcome
    events: list[CureRecord]
    """After its pour."""

    @classmethod
    def of(cls, batch_id: str, batches: BatchStore, cures: CureStore) -> "FollowedBatch":
        """A batch as kept. Raises UnknownBatchError, or FormulaError when it cannot be calculated."""
        work = work_of(batches.get(batch_id), batches)
        run_events = batches.events(batch_id)
        run = work.state(run_events)
        return cls(work, run_events, run, outcome_of(work, run, batches), cures.events(batch_id))

    @property
    def record(self) -> BatchRecord:
        """As kept."""
        return self.work.record

    @property
    def poured_at(self) -> str | None:
        """When it was poured; null while it is not."""
        return self.run.ended_at if self.run.status == "made" else None

    @property
    def planned(self) -> tuple["PlannedBars", ...]:
        """Bars by mould, as the cutting plan has them."""
        return _planned_bars(self.outcome)

    @property
    def hours(self) -> tuple[float, float] | None:
        """From when to when it may leave the mould by the rule, h after its pour; null without a forecast."""
        started = started_of(self.run_events)
        return (started.unmould_hours if started else None) or self.work.planned.unmould_hours

    def state(self) -> CureState:
        """What its record adds up to."""
        return cure_state(self.events, self.poured_at or self.record.created_at)

    def unmould(self, state: CureState, taught: Learned | None) -> UnmouldForecast | None:
        """When it can leave the mould; `taught` is what other batches say of the rule, null when it does not go by them."""
        if self.hours is None:
            return None
        low, high = self.hours
        if taught is not None and taught.batches > 0:
            # The middle moves by what was learned; the range narrows as the workshop is known.
            middle = sqrt(low * high) * exp(taught.offset)
            half = (high / low) ** (0.5 * min(taught.next_sd / coefficient("unmould.pressed_spread"), 1.0))
            low, high = middle / half, middle * half
        return unmould_forecast(low, high, state.presses)

    def drying(self, state: CureState, now: str, prior: DryingPrior) -> DryingForecast | None:
        """How its bars dry; null before it is cut, or when nothing is known of them."""
        bar = bar_of(self.planned, self.outcome, state)
        if state.cut_at is None or bar is None:
            return None
        age = max(days_between(state.cut_at, now), 0.0)
        return drying_forecast(bar, state.weighings, age, state.room, prior=prior)

    def add_up(self, events: list[CureRecord]) -> AddedUp:
        """What its record adds up to that is kept with it."""
        with self.work.in_force():
            state = cure_state(events, self.poured_at or self.record.created_at)
            bar = bar_of(self.planned, self.outcome, state)
            taught = taught_by(self.work, self.outcome, self.run, state, self.poured_at, bar)
            return AddedUp(trays=state.trays, taught=taught)

    def weeks(self) -> tuple[float, float] | None:
        """Weeks until it can be used and until it is at its best, by the rule; null for a paste."""
        result = self.outcome.actual.result or self.work.planned.result
        return None if result.bar is None else (result.bar.usable_weeks, result.bar.best_weeks)


class DryingTaught(Model):
    """What the workshop's other batches taught about drying."""

    time: Learned
    """Of the logarithm of the drying time."""
    end: Learned
    """Of the end weight, as a fraction of the weight at cutting."""
    is_used: Truth
    """The maker lets forecasts go by it."""
    words: Text
    """What they taught, in a sentence; empty while nothing."""


def taken_by(batch_id: str, cures: CureStore, is_used: bool) -> "Taken":
    """What all batches but one taught about times and weights after the pour."""
    rules = rules_by(cures.taught(), without=batch_id)
    return Taken(
        unmould=rules["unmould"] if is_used else None, drying=_told(rules["drying_time"], rules["drying_end"], is_used)
    )


def _told(time: Learned, end: Learned, is_used: bool) -> DryingTaught:
    quicker = 100 * (1 - exp(time.offset))
    words = text(
        "cure.taught.quicker" if quicker >= 0 else "cure.taught.slower", batches=number(time.batches),
        percent=percent(abs(quicker), 0), sure=number(100 * time.offset_sd, 0, "%"),
        end=number(100 * end.offset, 1), end_sure=number(100 * end.offset_sd, 1),
    )  # fmt: skip
    return DryingTaught(time=time, end=end, is_used=is_used, words=words if time.batches > 0 else ())


class Taken(NamedTuple):
    """What forecasts of one batch take from the others."""

    unmould: Learned | None
    """Null when they do not go by it."""
    drying: DryingTaught


def prior_of(taught: DryingTaught) -> DryingPrior:
    """What is known of drying before a batch is weighed."""
    if not taught.is_used:
        return DryingPrior()
    return DryingPrior(
        log_time_offset=taught.time.offset, log_time_sd=taught.time.next_sd, end_offset=taught.end.offset,
        end_sd=taught.end.next_sd,
    )  # fmt: skip


def added_up_by(batch_id: str, stores: Stores) -> AddUp:
    """How the record of a batch adds up to what is kept with it."""
    return FollowedBatch.of(batch_id, stores.batches, stores.cures).add_up


def keep_missing_taught(stores: Stores, goes_on: Callable[[], bool] = lambda: True) -> None:
    """Add up anew what all batches teach, when an earlier release did it last. `goes_on` is asked after each: it may wait, to
    give way to those who work meanwhile, and ends it by answering no; then the next start does it.
    """
    if not wants_teaching(stores):
        return
    for record in stores.batches.find():
        with suppress(FormulaError, UnreadableError, ValidationError, LookupError):
            batch = FollowedBatch.of(record.id, stores.batches, stores.cures)
            if batch.poured_at is not None:
                stores.cures.keep_taught(record.id, batch.add_up(batch.events).taught)
        if not goes_on():
            return
    taught_anew(stores)
