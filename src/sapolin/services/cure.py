"""After the pour: adding to the record of a batch, and what it adds up to."""

from collections.abc import Mapping
from datetime import UTC, datetime, timedelta
from math import exp, sqrt
from typing import Literal

from sapolin.core.batch.procedure import HURRIES
from sapolin.core.cure.causes import BatchRecordFacts, FaultCauses, causes_of
from sapolin.core.cure.drying import (
    BarAsCut,
    DryingForecast,
    DryingPrior,
    days_between,
    drying_forecast,
    drying_observed,
)
from sapolin.core.cure.due import CureFacts
from sapolin.core.cure.events import CureEvent, CureRecord
from sapolin.core.cure.guard import refusal
from sapolin.core.cure.learning import Learned, Taught, learned
from sapolin.core.cure.state import CureState, FitStanding, cure_state, fit_standing, struck
from sapolin.core.cure.unmould import UnmouldForecast, unmould_forecast
from sapolin.core.materials.ingredients import additives, scents
from sapolin.core.production.events import started_of
from sapolin.core.production.state import RunState
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.diagnostics import FormulaError, stopping
from sapolin.core.quantities.model import Model
from sapolin.core.quantities.text import Text, number, percent, template, text
from sapolin.services.batches import BatchWork, Outcome, outcome_of, work_of
from sapolin.store.batches import BatchStore
from sapolin.store.clock import utc_now
from sapolin.store.cures import AddedUp, AddUp, CureStore
from sapolin.store.stores import Stores

__all__ = ["CureView", "LifeStage", "add_cure_event", "added_up_by", "cure_facts", "cure_of"]

USUAL_PROPORTIONS = (1.0, 2.2, 3.0)
"""Sides of a bar whose shape the mould does not tell."""
YOUNG_WEEKS = 4.0
"""A bar under this age may still come down to its limit of pH."""


class PlannedBars(Model):
    """Bars as the cutting plan has them."""

    mould: str
    label: Text
    bars: int
    wet_g: float
    cured_g: float
    sides_mm: tuple[float, ...]
    """All three; of usual proportions when the mould does not tell them."""


class LifeStage(Model):
    """One stage in the life of a batch."""

    stage: Literal["planned", "made", "unmoulded", "cut", "dry", "fit", "gone"]
    name: str
    at: str | None
    """When it was reached; null when it is still to come."""
    expected_at: str | None
    """When it is expected; an estimate."""


class CureView(Model):
    """A batch after its pour."""

    batch_id: str
    code: str
    name: str
    formula_id: str
    events: tuple[CureRecord, ...]
    struck: tuple[int, ...]
    """Entries that do not count."""
    state: CureState
    here: int
    """Bars still in the workshop."""
    poured_at: str | None
    """Null while it is not poured."""
    is_bar: bool
    """False for a paste, which has no mould and no rack."""
    planned: tuple[PlannedBars, ...]
    unmould: UnmouldForecast | None
    """Null when no forecast can be made, or once it is out."""
    unmould_from: str | None
    unmould_to: str | None
    drying: DryingForecast | None
    """Null before it is cut, or when nothing is known of its bars."""
    taught: "DryingTaught"
    """What other batches say of drying, and whether the forecast goes by it."""
    ready_from: str | None
    ready_at: str | None
    ready_to: str | None
    """When bars are ready: by weight, or by the usual weeks where nothing is known of how they dry; estimates."""
    ready_by_weeks: str | None
    """When bars are ready by the usual weeks for such a formula; an estimate."""
    best_from: str | None
    """When they are at their best; an estimate."""
    fit: FitStanding
    fit_words: Text
    faults: tuple[FaultCauses, ...]
    """What was seen, with its likely causes."""
    life: tuple[LifeStage, ...]
    now: str


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


def _bar(planned: tuple[PlannedBars, ...], outcome: Outcome, state: CureState | None = None) -> BarAsCut | None:
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


def _later(at: str, days: float) -> str:
    return (datetime.fromisoformat(at) + timedelta(days=days)).isoformat(timespec="seconds")


class _Batch:
    """A batch after its pour, with what its forecasts rest on."""

    def __init__(self, batch_id: str, batches: BatchStore, cures: CureStore) -> None:
        self.record = batches.get(batch_id)
        self.work: BatchWork = work_of(self.record, batches)
        self.run_events = batches.events(batch_id)
        self.run: RunState = self.work.state(self.run_events)
        self.poured_at = self.run.ended_at if self.run.status == "made" else None
        self.outcome = outcome_of(self.work, self.run, batches)
        self.planned = _planned_bars(self.outcome)
        self.events = cures.events(batch_id)

    @property
    def hours(self) -> tuple[float, float] | None:
        started = started_of(self.run_events)
        return (started.unmould_hours if started else None) or self.work.planned.unmould_hours

    def state(self) -> CureState:
        return cure_state(self.events, self.poured_at or self.record.created_at)

    def unmould(self, state: CureState) -> UnmouldForecast | None:
        return None if self.hours is None else unmould_forecast(*self.hours, state.presses)

    def drying(self, state: CureState, now: str, prior: DryingPrior) -> DryingForecast | None:
        bar = _bar(self.planned, self.outcome, state)
        if state.cut_at is None or bar is None:
            return None
        age = max(days_between(state.cut_at, now), 0.0)
        return drying_forecast(bar, state.weighings, age, state.room, prior=prior)

    def add_up(self, events: list[CureRecord]) -> AddedUp:
        """What its record adds up to that is kept with it."""
        state = cure_state(events, self.poured_at or self.record.created_at)
        bar = _bar(self.planned, self.outcome, state)
        taught = None
        if bar is not None and state.weighings:
            time, end = drying_observed(bar, state.weighings, state.room)
            taught = Taught(time=time, end=end)
        return AddedUp(trays=state.trays, taught=taught)

    def weeks(self) -> tuple[float, float] | None:
        result = self.outcome.actual.result or self.work.planned.result
        return None if result.bar is None else (result.bar.usable_weeks, result.bar.best_weeks)


class DryingTaught(Model):
    """What the workshop's other batches taught about drying."""

    time: Learned
    """Of the logarithm of the drying time."""
    end: Learned
    """Of the end weight, as a fraction of the weight at cutting."""
    is_used: bool
    """The maker lets forecasts go by it."""
    words: Text
    """What they taught, in a sentence; empty while nothing."""


def _taught(batch_id: str, cures: CureStore, is_used: bool) -> DryingTaught:
    """What all batches but one taught."""
    others = cures.taught(without=batch_id)
    times = [one.time for one in others if one.time is not None]
    ends = [one.end for one in others if one.end is not None]
    return _told(
        learned(times, coefficient("drying.time_spread")), learned(ends, coefficient("drying.end_spread")), is_used
    )


def _told(time: Learned, end: Learned, is_used: bool) -> DryingTaught:
    quicker = 100 * (1 - exp(time.offset))
    words = text(
        "cure.taught.quicker" if quicker >= 0 else "cure.taught.slower", batches=number(time.batches),
        percent=percent(abs(quicker), 0), sure=number(100 * time.offset_sd, 0, "%"),
        end=number(100 * end.offset, 1), end_sure=number(100 * end.offset_sd, 1),
    )  # fmt: skip
    return DryingTaught(time=time, end=end, is_used=is_used, words=words if time.batches > 0 else ())


def _prior(taught: DryingTaught) -> DryingPrior:
    if not taught.is_used:
        return DryingPrior()
    return DryingPrior(
        log_time_offset=taught.time.offset, log_time_sd=taught.time.next_sd, end_offset=taught.end.offset,
        end_sd=taught.end.next_sd,
    )  # fmt: skip


def _ready(
    batch: _Batch, state: CureState, drying: DryingForecast | None
) -> tuple[str | None, str | None, str | None]:  # fmt: skip
    """From when, about when and until when its bars are ready; by the usual weeks where nothing is known of how they dry."""
    if state.cut_at is None or batch.poured_at is None:
        return None, None, None
    weeks = batch.weeks()
    if drying is None:
        return None, None if weeks is None else _later(batch.poured_at, 7 * weeks[0]), None
    part_days = 0.0 if weeks is None else 7 * weeks[0] * coefficient("drying.least_part_of_weeks")
    least = _later(batch.poured_at, max(coefficient("drying.least_days"), part_days))
    days = (drying.ready_low_day, drying.ready_day, drying.ready_high_day)
    low, middle, high = (max(least, _later(state.cut_at, day)) for day in days)
    return low, middle, high


def added_up_by(batch_id: str, stores: Stores) -> AddUp:
    """How the record of a batch adds up to what is kept with it."""
    return _Batch(batch_id, stores.batches, stores.cures).add_up


def cure_facts(batch_id: str, batches: BatchStore, cures: CureStore, *, learns: bool = True) -> CureFacts | None:
    """What lists and the day need to know of a batch after its pour; null while it is not poured. `learns`: its forecasts go by
    what other batches taught.
    """
    batch = _Batch(batch_id, batches, cures)
    if batch.poured_at is None:
        return None
    state = batch.state()
    unmould = batch.unmould(state)
    # Dates do not hang on the day they are asked for.
    drying = batch.drying(state, state.cut_at or batch.poured_at, _prior(_taught(batch_id, cures, learns)))
    low, middle, high = _ready(batch, state, drying)
    return CureFacts.model_validate(
        {
            "seq": state.seq,
            "unmould_from": unmould and _later(batch.poured_at, unmould.low_h / 24),
            "unmould_to": unmould and _later(batch.poured_at, unmould.high_h / 24),
            "unmoulded_at": state.unmoulded_at,
            "cut_at": state.cut_at,
            "bars": state.bars,
            "here": state.here,
            "ready_from": low,
            "ready_at": middle,
            "ready_to": high,
            "fit": fit_standing(state.fit),
            "fit_at": state.fit_at,
            "turned_at": state.turned_at,
            "weighed_at": state.weighed_at,
            "looked_at": state.looks[-1] if state.looks else None,
        }
    )


def cure_of(batch_id: str, stores: Stores) -> CureView:
    """A batch after its pour. Raises UnknownBatchError, or FormulaError when it cannot be calculated."""
    batch = _Batch(batch_id, stores.batches, stores.cures)
    state, now = batch.state(), utc_now()
    poured = batch.poured_at
    unmould = batch.unmould(state) if state.unmoulded_at is None and poured is not None else None
    taught = _taught(batch_id, stores.cures, stores.workshop.get().learns)
    drying = batch.drying(state, now, _prior(taught))
    low, middle, high = _ready(batch, state, drying)
    weeks = batch.weeks()
    facts = _facts(batch, state)
    faults = tuple(dict.fromkeys(one.fault for one in state.seen))
    return CureView(
        batch_id=batch_id, code=batch.record.code, name=batch.record.plan.formula.name, formula_id=batch.record.formula_id,
        events=tuple(batch.events), struck=tuple(sorted(struck(batch.events))), state=state, here=state.here,
        poured_at=poured, is_bar=weeks is not None, planned=batch.planned, unmould=unmould,
        unmould_from=_later(poured, unmould.low_h / 24) if poured and unmould else None,
        unmould_to=_later(poured, unmould.high_h / 24) if poured and unmould else None,
        drying=drying, taught=taught, ready_from=low, ready_at=middle, ready_to=high,
        ready_by_weeks=_later(poured, 7 * weeks[0]) if poured and weeks else None,
        best_from=_later(poured, 7 * weeks[1]) if poured and weeks else None,
        fit=fit_standing(state.fit), fit_words=_fit_words(state, poured),
        faults=tuple(causes_of(fault, facts) for fault in faults) if facts is not None else (),
        life=_life(batch, state, middle), now=now,
    )  # fmt: skip


def _fit_words(state: CureState, poured_at: str | None) -> Text:
    test, standing = state.fit, fit_standing(state.fit)
    if test is None or standing in ("untested", "fit"):
        return text(f"cure.fit.{standing}")
    limit = number(coefficient("fit.ph_high"))
    if standing == "wait":
        return text("cure.fit.wait", ph=number(test.ph or 0.0), limit=limit)
    is_over = test.ph is not None and test.ph > coefficient("fit.ph_much_too_high")
    if not test.zap and not is_over:
        return text("cure.fit.unfit_looks")
    sign = text("cure.fit.ph", ph=number(test.ph or 0.0)) if is_over else text("cure.fit.stings")
    is_young = poured_at and state.fit_at and days_between(poured_at, state.fit_at) < 7 * YOUNG_WEEKS
    return text("cure.fit.unfit_young" if is_young else "cure.fit.unfit", sign=sign, limit=limit)


def _life(batch: _Batch, state: CureState, ready_at: str | None) -> tuple[LifeStage, ...]:
    poured, created = batch.poured_at, batch.record.created_at
    unmould = batch.unmould(state)
    is_fit = fit_standing(state.fit) == "fit"
    is_gone = state.cut_at is not None and state.here <= 0
    is_dry = ready_at is not None and ready_at <= utc_now()
    reached = {
        "planned": min(created, batch.run.started_at or created), "made": poured,
        "unmoulded": state.unmoulded_at, "cut": state.cut_at,
        "dry": ready_at if is_dry else None, "fit": state.fit_at if is_fit else None,
        "gone": state.gone[-1].at if is_gone and state.gone else None,
    }  # fmt: skip
    expected = {
        "unmoulded": _later(poured, sqrt(unmould.low_h * unmould.high_h) / 24) if poured and unmould else None,
        "dry": ready_at,
    }
    return tuple(
        LifeStage.model_validate(
            {
                "stage": stage,
                "name": template(f"cure.stages.{stage}"),
                "at": at,
                "expected_at": None if at else expected.get(stage),
            }
        )
        for stage, at in reached.items()
    )


def _facts(batch: _Batch, state: CureState) -> BatchRecordFacts | None:
    """What the record says that bears on faults; null when it was lye that nothing can be calculated from."""
    result = batch.outcome.actual.result
    if result is None:
        return None
    planned, plan = batch.work.planned, batch.record.plan
    points = {one.quality: one.points for one in result.qualities}
    oils_c = [one.celsius for one in batch.run.readings if one.bowl == "oils"]
    stages = [mark.what for mark in batch.run.marks if mark.what in ("emulsion", "light", "medium", "heavy", "seized")]
    sugar = 100 * sum(one.weight_g for one in result.additives if additives()[one.additive].role == "sugar")
    hours = None
    if batch.poured_at is not None and state.unmoulded_at is not None:
        hours = 24 * days_between(batch.poured_at, state.unmoulded_at)
    return BatchRecordFacts(
        lye_concentration_percent=result.water.lye_concentration_percent,
        superfat_low_percent=result.lye.superfat_interval.low_percent,
        oxidation_load=points.get("oxidation_load", 0.0),
        hardness=points.get("hardness", 0.0),
        sugar_percent=sugar / result.total_oils_g,
        has_titanium_dioxide=any(line.colorant.startswith("titanium") for one in plan.portions for line in one.colours),
        gel=planned.gel.outcome if planned.gel is not None else "",
        room_c=planned.room_c,
        cover=plan.choices.cover,
        alcohol_spray=plan.choices.alcohol_spray,
        combined_oils_c=oils_c[-1] if oils_c else None,
        melts_at_c=planned.window.melts_c,
        trace=stages[-1] if stages else "",
        scent_hurries=any(word in HURRIES for line in plan.scents for word in scents()[line.scent].behaviour),
        unmould_hours=hours,
        unmould_low_h=batch.hours[0] if batch.hours else None,
    )


def add_cure_event(
    batch_id: str, key: str, event: CureEvent, at: datetime | None, after_seq: int | None, stores: Stores
) -> CureView:
    """Add to the record after the pour, once for each `key`. `at` is when it happened, now when null.

    Raises UnknownBatchError, StaleRecordError, or FormulaError with why it cannot be.
    """
    batch = _Batch(batch_id, stores.batches, stores.cures)
    poured_at = batch.poured_at
    if poured_at is None:
        raise FormulaError([stopping("not_poured", "kind")])
    now = utc_now()
    happened = now if at is None else at.astimezone(UTC).isoformat(timespec="milliseconds")
    trays = {tray.code: tray.places for tray in stores.trays.all()}
    bars = sum(one.bars for one in batch.planned) or None
    low_h = batch.hours[0] if batch.hours else None

    def check(events: list[CureRecord], standing: Mapping[str, int]) -> None:
        free = {code: places - standing.get(code, 0) for code, places in trays.items()}
        bar = _bar(batch.planned, batch.outcome, cure_state(events, poured_at))
        problem = refusal(event, happened, now, poured_at, events, bar, bars, free, low_h)
        if problem is not None:
            raise FormulaError([problem])

    stores.cures.add_event(batch_id, key, event, check, batch.add_up, happened, after_seq)
    return cure_of(batch_id, stores)
