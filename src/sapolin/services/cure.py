"""After the pour: adding to the record of a batch, and what it adds up to."""

from collections.abc import Mapping
from datetime import UTC, datetime
from math import sqrt
from typing import Literal

from sapolin.core.cure.drying import (
    DryingForecast,
    days_between,
)
from sapolin.core.cure.due import CureFacts
from sapolin.core.cure.events import CureEvent, CureRecord, Judged
from sapolin.core.cure.guard import refusal
from sapolin.core.cure.state import CureState, FitStanding, cure_state, fit_standing, struck
from sapolin.core.cure.unmould import UnmouldForecast
from sapolin.core.faults import FaultRanking, rank
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.diagnostics import FormulaError, stopping
from sapolin.core.quantities.model import Model, Truth
from sapolin.core.quantities.text import Text, number, template, text
from sapolin.core.trials.criteria import criteria, sheet_refusal
from sapolin.services.faults import facts_of
from sapolin.services.followed import DryingTaught, FollowedBatch, PlannedBars, Taken, bar_of, later, prior_of, taken_by
from sapolin.store.batches import BatchStore
from sapolin.store.clock import utc_now
from sapolin.store.cures import CureStore
from sapolin.store.stores import Stores
from sapolin.store.workshop import Workshop

__all__ = ["CureView", "LifeStage", "add_cure_event", "add_cure_picture", "cure_facts", "cure_of"]

YOUNG_WEEKS = 4.0
"""A bar under this age may still come down to its limit of pH."""


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
    is_bar: Truth
    """False for a paste, which has no mould and no rack."""
    planned: tuple[PlannedBars, ...]
    unmould: UnmouldForecast | None
    """Null when no forecast can be made, or once it is out."""
    unmould_from: str | None
    unmould_to: str | None
    drying: DryingForecast | None
    """Null before it is cut, or when nothing is known of its bars."""
    taught: DryingTaught
    """What other batches say of drying, and whether the forecast goes by it."""
    ready_from: str | None
    ready_at: str | None
    ready_to: str | None
    """When bars are ready: by weight, or by the usual weeks where nothing is known of how they dry; estimates."""
    ready_by: Literal["weight", "weeks"]
    """What counts in this workshop."""
    ready_by_weeks: str | None
    """When bars are ready by the usual weeks for such a formula; an estimate."""
    best_from: str | None
    """When they are at their best; an estimate."""
    fit: FitStanding
    fit_words: Text
    faults: tuple[FaultRanking, ...]
    """What was seen, with its likely causes."""
    life: tuple[LifeStage, ...]
    now: str


def _ready(
    batch: FollowedBatch, state: CureState, drying: DryingForecast | None, *, by_weeks: bool
) -> tuple[str | None, str | None, str | None]:  # fmt: skip
    """From when, about when and until when its bars are ready; by the usual weeks where nothing is known of how they dry."""
    if state.cut_at is None or batch.poured_at is None:
        return None, None, None
    weeks = batch.weeks()
    if drying is None or by_weeks:
        return None, None if weeks is None else later(batch.poured_at, 7 * weeks[0]), None
    part_days = 0.0 if weeks is None else 7 * weeks[0] * coefficient("drying.least_part_of_weeks")
    least = later(batch.poured_at, max(coefficient("drying.least_days"), part_days))
    days = (drying.ready_low_day, drying.ready_day, drying.ready_high_day)
    low, middle, high = (max(least, later(state.cut_at, day)) for day in days)
    return low, middle, high


def cure_facts(
    batch_id: str, batches: BatchStore, cures: CureStore, *, learns: bool = True, by_weeks: bool = False
) -> CureFacts | None:
    """What lists and the day need to know of a batch after its pour; null while it is not poured. `learns`: its forecasts go by
    what other batches taught. `by_weeks`: they are ready by the usual weeks, not by their weight.
    """
    batch = FollowedBatch.of(batch_id, batches, cures)
    # By the rules of thumb that it began with: nothing edited later moves its dates.
    with batch.work.in_force():
        return _facts_in_force(batch, taken_by(batch_id, cures, learns), by_weeks=by_weeks)


def _facts_in_force(batch: FollowedBatch, taken: Taken, *, by_weeks: bool) -> CureFacts | None:
    if batch.poured_at is None:
        return None
    state = batch.state()
    unmould = batch.unmould(state, taken.unmould)
    # Dates do not hang on the day they are asked for.
    drying = batch.drying(state, state.cut_at or batch.poured_at, prior_of(taken.drying))
    low, middle, high = _ready(batch, state, drying, by_weeks=by_weeks)
    return CureFacts.model_validate(
        {
            "seq": state.seq,
            "unmould_from": unmould and later(batch.poured_at, unmould.low_h / 24),
            "unmould_to": unmould and later(batch.poured_at, unmould.high_h / 24),
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
            "judged_at": state.judged[-1].at if state.judged else None,
        }
    )


def cure_of(batch_id: str, stores: Stores) -> CureView:
    """A batch after its pour. Raises UnknownBatchError, or FormulaError when it cannot be calculated."""
    batch = FollowedBatch.of(batch_id, stores.batches, stores.cures)
    workshop = stores.workshop.get()
    with batch.work.in_force():
        return _view_in_force(batch, taken_by(batch_id, stores.cures, workshop.learns), workshop)


def _view_in_force(batch: FollowedBatch, taken: Taken, workshop: Workshop) -> CureView:
    state, now = batch.state(), utc_now()
    poured = batch.poured_at
    unmould = batch.unmould(state, taken.unmould) if state.unmoulded_at is None and poured is not None else None
    drying = batch.drying(state, now, prior_of(taken.drying))
    low, middle, high = _ready(batch, state, drying, by_weeks=workshop.ready_by == "weeks")
    weeks = batch.weeks()
    facts = facts_of(batch, state)
    faults = tuple(dict.fromkeys(one.fault for one in state.seen))
    return CureView(
        batch_id=batch.record.id, code=batch.record.code, name=batch.record.plan.formula.name,
        formula_id=batch.record.formula_id,
        events=tuple(batch.events), struck=tuple(sorted(struck(batch.events))), state=state, here=state.here,
        poured_at=poured, is_bar=weeks is not None, planned=batch.planned, unmould=unmould,
        unmould_from=later(poured, unmould.low_h / 24) if poured and unmould else None,
        unmould_to=later(poured, unmould.high_h / 24) if poured and unmould else None,
        drying=drying, taught=taken.drying, ready_from=low, ready_at=middle, ready_to=high,
        ready_by=workshop.ready_by, ready_by_weeks=later(poured, 7 * weeks[0]) if poured and weeks else None,
        best_from=later(poured, 7 * weeks[1]) if poured and weeks else None,
        fit=fit_standing(state.fit), fit_words=_fit_words(state, poured),
        faults=tuple(rank(fault, facts) for fault in faults),
        life=_life(batch, state, unmould, middle), now=now,
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


def _life(
    batch: FollowedBatch, state: CureState, unmould: UnmouldForecast | None, ready_at: str | None
) -> tuple[LifeStage, ...]:
    poured, created = batch.poured_at, batch.record.created_at
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
        "unmoulded": later(poured, sqrt(unmould.low_h * unmould.high_h) / 24) if poured and unmould else None,
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


def add_cure_event(
    batch_id: str, key: str, event: CureEvent, at: datetime | None, after_seq: int | None, stores: Stores
) -> CureView:
    """Add to the record after the pour, once for each `key`. `at` is when it happened, now when null.

    Raises UnknownBatchError, StaleRecordError, or FormulaError with why it cannot be.
    """
    batch = FollowedBatch.of(batch_id, stores.batches, stores.cures)
    poured_at = batch.poured_at
    if poured_at is None:
        raise FormulaError([stopping("not_poured", "kind")])
    now = utc_now()
    happened = now if at is None else at.astimezone(UTC).isoformat(timespec="milliseconds")
    trays = {tray.code: tray.places for tray in stores.trays.all()}
    bars = sum(one.bars for one in batch.planned) or None
    low_h = batch.hours[0] if batch.hours else None
    is_cooked = batch.record.plan.formula.process.method == "hot"
    criteria_known = {*criteria(), *(one.id for one in stores.criteria.all(archived=None))}

    def check(events: list[CureRecord], standing: Mapping[str, int]) -> None:
        free = {code: places - standing.get(code, 0) for code, places in trays.items()}
        bar = bar_of(batch.planned, batch.outcome, cure_state(events, poured_at))
        if isinstance(event, Judged) and (unknown := sheet_refusal(event, criteria_known)) is not None:
            raise FormulaError([unknown])
        problem = refusal(event, happened, now, poured_at, events, bar, bars, free, low_h, is_cooked=is_cooked)
        if problem is not None:
            raise FormulaError([problem])

    stores.cures.add_event(batch_id, key, event, check, batch.add_up, happened, after_seq)
    return cure_of(batch_id, stores)


def add_cure_picture(batch_id: str, key: str, name: str, media_type: str, content: bytes, stores: Stores) -> CureView:
    """Keep a picture of the bars with its event. Raises UnknownBatchError, or FormulaError before the pour."""
    batch = FollowedBatch.of(batch_id, stores.batches, stores.cures)
    if batch.poured_at is None:
        raise FormulaError([stopping("not_poured", "kind")])
    stores.cures.add_picture(batch_id, key, name, media_type, content, lambda _, __: None, batch.add_up)
    return cure_of(batch_id, stores)
