"""Lists of formulas and batches: paged, searched and sorted in the database, from what was kept of each when it was last
summed up. A save takes that away; the next list makes it anew, so a list never shows what is no longer so."""

from collections.abc import Callable, Collection
from contextlib import suppress
from datetime import date
from typing import Literal

from pydantic import Field, ValidationError

from sapolin.core.bar.calculation import CALCULATION_VERSION, calculate
from sapolin.core.bar.qualities import Standing
from sapolin.core.cure.due import CureFacts
from sapolin.core.formula.blend import entered_shares
from sapolin.core.formula.check import State, examine
from sapolin.core.formula.check import state_of as state_of_formula
from sapolin.core.formula.document import Formula
from sapolin.core.formula.purposes import purposes
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.production.events import started_of
from sapolin.core.production.state import state_of
from sapolin.core.quantities.diagnostics import FormulaError
from sapolin.core.quantities.model import Model, Truth
from sapolin.core.stock.needs import needs_of
from sapolin.services.batches import outcome_of, work_of
from sapolin.services.cure import cure_facts
from sapolin.store.batches import BatchEntry, BatchRecord
from sapolin.store.formulas import FormulaEntry, FormulaFilter, FormulaRecord, FormulaStore
from sapolin.store.reading import UnreadableError
from sapolin.store.stores import Stores

__all__ = [
    "BatchPage",
    "BatchStatus",
    "BatchSummary",
    "FormulaPage",
    "FormulaSummary",
    "batches_of",
    "every_batch",
    "forget_old_summaries",
    "page_of_batches",
    "page_of_formulas",
    "sum_up",
]  # fmt: skip

AT_ONCE = 40
"""So many are summed up in one transaction."""
PAGE = 500
"""Batches of which all are asked for come so many at a time."""
BatchStatus = Literal["planned", "open", "making", "made", "aborted", "unreadable"]
SUMMARY_VERSION = 5
"""Of what a summary holds: raised when a field is added that older ones lack."""
_SUMMARIES_OF = "summaries_of"


class Stratum(Model):
    """One oil in the small picture of a formula."""

    oil: str
    name: str
    share_percent: float
    """Of what has been entered so far, %."""
    hard: Truth
    group: str


class QualityMark(Model):
    """Where one quality of a bar stands, for a small mark."""

    quality: str
    points: float
    standing: Standing


class FormulaSummary(Model):
    """A formula in the list."""

    id: str
    name: str
    purpose: str
    state: State | Literal["unreadable"]
    revision: int
    latest_version: int
    """0 when no version has been kept yet."""
    updated_at: str
    """UTC, ISO 8601."""
    archived_at: str | None
    can_be_mixed: Truth
    """It is a paste that can be calculated: it can be mixed with other pastes."""
    strata: tuple[Stratum, ...]
    tags: tuple[str, ...] = ()
    marks: tuple[QualityMark, ...] = ()
    """Where its qualities stand; none while it cannot be calculated."""


class FormulaPage(Model):
    """A page of a list of formulas."""

    total: int
    """How many there are on all pages."""
    formulas: tuple[FormulaSummary, ...]


class BatchSummary(Model):
    """A batch in the list."""

    id: str
    code: str
    name: str
    formula_id: str
    version: int
    status: BatchStatus
    """`planned`, `making`, `aborted` or `made`; `open` while something stands in the way of making it; `unreadable`."""
    oils_g: float | None
    created_at: str
    started_at: str | None
    ended_at: str | None
    current: str | None
    """Title of the step it is at."""
    unmould_hours_low: float | None
    """After it was poured; an estimate."""
    unmould_hours_high: float | None
    usable_weeks: float | None = None
    """After it was poured; an estimate, so below."""
    best_weeks: float | None = None
    make_on: date | None = None
    """The day it is planned for."""
    needs: dict[str, float] = Field(default={})
    """What it takes of each material, g, while it is planned or being made."""
    cure: CureFacts | None = None
    """What its record after the pour adds up to; null while it is not poured."""


class BatchPage(Model):
    """A page of a list of batches."""

    total: int
    """How many there are on all pages."""
    batches: tuple[BatchSummary, ...]


def _summary_of_formula(record: FormulaRecord) -> FormulaSummary:
    formula = record.formula
    seen = examine(formula, catalogue())
    state = state_of_formula(formula, seen.problems)
    return FormulaSummary(
        id=record.id,
        name=formula.name,
        purpose=formula.purpose,
        state=state,
        revision=record.revision,
        latest_version=record.latest_version,
        updated_at=record.updated_at,
        archived_at=record.archived_at,
        tags=formula.tags,
        can_be_mixed=state == "complete" and purposes()[formula.purpose].makes == "paste",
        strata=tuple(
            Stratum(
                oil=component.oil.id,
                name=component.oil.name,
                share_percent=component.share_percent,
                hard=component.oil.is_hard,
                group=component.oil.group,
            )
            for component in entered_shares(formula.blend, seen.oils)
        ),
        marks=_marks(formula) if state in ("complete", "unsafe") else (),
    )


def _marks(formula: Formula) -> tuple[QualityMark, ...]:
    try:
        result = calculate(formula)
    except FormulaError:
        return ()
    return tuple(
        QualityMark(quality=one.quality, points=round(one.points, 1), standing=one.standing) for one in result.qualities
    )


def _unreadable_formula(formula_id: str, name: str, updated_at: str) -> FormulaSummary:
    """A formula whose row is damaged: it stays in the list, so that nobody takes it for lost."""
    return FormulaSummary(
        id=formula_id, name=name, purpose="", state="unreadable", revision=0, latest_version=0, updated_at=updated_at,
        archived_at=None, can_be_mixed=False, strata=(),
    )  # fmt: skip


def _summary_of_batch(record: BatchRecord, stores: Stores) -> BatchSummary:
    """What the list shows. A batch that is over needs no explanation out: its record says what was begun."""
    store = stores.batches
    events = store.events(record.id) if record.events else []
    state = state_of(events, ())
    started = started_of(events)
    status: BatchStatus = state.status
    current, oils_g, hours = None, None, None
    if started is not None and started.targets_g:
        oils_g, hours = started.oils_g, started.unmould_hours
    if status in ("planned", "making") or oils_g is None:
        try:
            work = work_of(record, store)
        except FormulaError:
            status = "open" if status == "planned" else status
        else:
            oils_g, hours = oils_g or work.planned.size.oils_g, hours or work.planned.unmould_hours
            at = work.state(events).current
            current = next((step.title for step in work.steps if step.id == at), "everything is done")
    low, high = hours or (None, None)
    bar = None
    if status != "open":
        work = work_of(record, store)
        result = outcome_of(work, state, store).actual.result if status == "made" else work.planned.result
        bar = None if result is None else result.bar
    return BatchSummary(
        id=record.id,
        code=record.code,
        name=record.plan.formula.name,
        formula_id=record.formula_id,
        version=record.plan.version,
        status=status,
        oils_g=oils_g,
        created_at=record.created_at,
        started_at=state.started_at,
        ended_at=state.ended_at,
        current=current if status == "making" else None,
        unmould_hours_low=low,
        unmould_hours_high=high,
        usable_weeks=None if bar is None else bar.usable_weeks,
        best_weeks=None if bar is None else bar.best_weeks,
        make_on=record.plan.make_on,
        needs={} if status in ("open", "made", "aborted") else needs_of(work_of(record, store).planned),
        cure=_facts_after_pour(record.id, stores) if status == "made" else None,
    )


def _facts_after_pour(batch_id: str, stores: Stores) -> CureFacts | None:
    workshop = stores.workshop.get()
    by_weeks = workshop.ready_by == "weeks"
    return cure_facts(batch_id, stores.batches, stores.cures, learns=workshop.learns, by_weeks=by_weeks)


def _unreadable_batch(batch_id: str, code: str, created_at: str) -> BatchSummary:
    """A batch whose row is damaged: it stays in the list, so that nobody takes it for lost."""
    return BatchSummary(
        id=batch_id, code=code, name="cannot be read", formula_id="", version=0, status="unreadable", oils_g=None,
        created_at=created_at, started_at=None, ended_at=None, current=None, unmould_hours_low=None,
        unmould_hours_high=None,
    )  # fmt: skip


def page_of_formulas(store: FormulaStore, asked: FormulaFilter, limit: int, offset: int = 0) -> FormulaPage:
    """A page of formulas. What was saved since the last list is summed up first: all of it when what is kept with summaries is
    asked for."""
    if asked.state is not None or asked.can_be_mixed:
        _sum_up_formulas(store)
    total, entries = store.page(asked, limit, offset)
    missing = [entry.id for entry in entries if entry.summary is None]
    if missing:
        _keep_formulas(store, missing)
        total, entries = store.page(asked, limit, offset)
    return FormulaPage(total=total, formulas=tuple(_shown(entry) for entry in entries))


def _shown(entry: FormulaEntry) -> FormulaSummary:
    if entry.summary is None:  # Saved in this very moment.
        return _unreadable_formula(entry.id, entry.name, entry.updated_at)
    summary = FormulaSummary.model_validate_json(entry.summary)
    # Versions, and whether it is archived, change without a save.
    now = {"latest_version": entry.latest_version, "updated_at": entry.updated_at, "archived_at": entry.archived_at}
    return summary.model_copy(update=now)


def _keep_formulas(store: FormulaStore, ids: list[str]) -> None:
    made = []
    for formula_id in ids:
        with suppress(LookupError):  # Gone in the meantime, as when the demo is reset.
            try:
                summary = _summary_of_formula(store.get(formula_id))
            except UnreadableError:
                revision, name, at = store.label(formula_id)
                summary = _unreadable_formula(formula_id, name, at).model_copy(update={"revision": revision})
            made.append((formula_id, summary.revision, summary.state, summary.model_dump_json()))
    store.keep_summaries(made)


def _sum_up_formulas(store: FormulaStore, goes_on: Callable[[], bool] = lambda: True) -> None:
    while (ids := store.unsummed(AT_ONCE)) and goes_on():
        _keep_formulas(store, ids)


def page_of_batches(
    stores: Stores,
    words: str = "",
    statuses: tuple[BatchStatus, ...] = (),
    formula_id: str | None = None,
    *,
    limit: int,
    offset: int = 0,
) -> BatchPage:
    """A page of batches, newest first."""
    _sum_up_batches(stores)
    total, entries = stores.batches.page(words, statuses, formula_id, limit=limit, offset=offset)
    shown = [BatchSummary.model_validate_json(entry.summary) for entry in entries if entry.summary is not None]
    return BatchPage(total=total, batches=tuple(shown))


def every_batch(stores: Stores, statuses: tuple[BatchStatus, ...]) -> tuple[BatchSummary, ...]:
    """All batches of these statuses, newest first, however many there are: sums leave none out."""
    found: list[BatchSummary] = []
    while (page := page_of_batches(stores, statuses=statuses, limit=PAGE, offset=len(found))).batches:
        found += page.batches
        if len(found) >= page.total:
            break
    return tuple(found)


def batches_of(stores: Stores, ids: Collection[str]) -> dict[str, BatchSummary]:
    """The batches of `ids`, in brief, by id."""
    _sum_up_batches(stores)
    found = stores.batches.entries(ids)
    return {one.id: BatchSummary.model_validate_json(one.summary) for one in found if one.summary is not None}


def _sum_up_batches(stores: Stores, goes_on: Callable[[], bool] = lambda: True) -> None:
    while (entries := stores.batches.unsummed(AT_ONCE)) and goes_on():
        stores.batches.keep_summaries([(entry, *_batch_kept(entry, stores)) for entry in entries])


def _batch_kept(entry: BatchEntry, stores: Stores) -> tuple[BatchStatus, str]:
    try:
        summary = _summary_of_batch(stores.batches.get(entry.id), stores)
    except (UnreadableError, ValidationError, LookupError):
        # Its plan, its record, or what it began with is damaged: it hides no other. One that is gone is not kept anyway.
        summary = _unreadable_batch(entry.id, entry.code, entry.created_at)
    return summary.status, summary.model_dump_json()


def sum_up(stores: Stores, goes_on: Callable[[], bool] = lambda: True) -> None:
    """Sum up whatever was not: after an upgrade, before anybody asks. `goes_on` is asked now and then: it may wait, to give way
    to those who work meanwhile, and ends it by answering no; what is left is summed up when a list needs it.
    """
    _sum_up_batches(stores, goes_on)
    _sum_up_formulas(stores.formulas, goes_on)


def forget_old_summaries(stores: Stores) -> None:
    """What was summed up by an earlier calculation is to be made anew."""
    version = f"{CALCULATION_VERSION}.{SUMMARY_VERSION}"
    if stores.workshop.mark(_SUMMARIES_OF) != version:
        stores.formulas.forget_summaries()
        stores.batches.forget_summaries()
        stores.workshop.set_mark(_SUMMARIES_OF, version)
