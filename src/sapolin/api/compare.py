"""Formulas and versions side by side, and what changed between versions."""

from typing import Annotated

from fastapi import Response
from pydantic import Field

from sapolin.api.prices import cost_of
from sapolin.api.room import room
from sapolin.api.stores import AllStores, Formulas
from sapolin.core.advice.report import advice
from sapolin.core.bar.calculation import calculation_of
from sapolin.core.formula.changes import changes_between
from sapolin.core.formula.document import Formula
from sapolin.core.quantities.model import Model
from sapolin.core.quantities.text import Text
from sapolin.exchange.comparison import MOST_COLUMNS, Column, Row, comparison_csv, comparison_pdf, comparison_rows
from sapolin.services.timeline import TimelineEntry, timeline_of
from sapolin.services.workshop_oils import oil_prices

__all__ = ["router"]

router = room("/api", "compare")


class Compared(Model):
    """A formula to compare, under a label of its own."""

    label: Annotated[str, Field(min_length=1, max_length=160)]
    formula: Formula


class CompareRequest(Model):
    """Two to six formulas or versions."""

    formulas: Annotated[tuple[Compared, ...], Field(min_length=1, max_length=MOST_COLUMNS)]


class Comparison(Model):
    """Formulas side by side."""

    columns: tuple[Column, ...]
    rows: tuple[Row, ...]
    changes: tuple[tuple[Text, ...], ...]
    """What each column changes against the first, in words."""


class HistoryEntry(Model):
    """One version and what it changed."""

    number: int | None
    """Null for the draft."""
    note: str
    created_at: str
    changes: tuple[Text, ...]
    """Against the version before it; empty for the first, and when nothing changed."""


def _columns(request: CompareRequest, prices: dict[str, float]) -> tuple[Column, ...]:
    return tuple(
        Column(
            label=one.label, result=calculation.result, diagnostics=advice(calculation), cost=cost_of(one.formula, prices)
        )
        for one in request.formulas
        for calculation in (calculation_of(one.formula),)
    )  # fmt: skip


@router.post("/compare", summary="Compare formulas")
def compare(request: CompareRequest, stores: AllStores) -> Comparison:
    """Every quantity side by side, and each column's changes against the first."""
    columns = _columns(request, oil_prices(stores))
    first = request.formulas[0].formula
    return Comparison(
        columns=columns,
        rows=comparison_rows(columns),
        changes=tuple(changes_between(first, one.formula) for one in request.formulas),
    )


@router.post("/compare/csv", summary="A comparison as CSV", response_class=Response)
def compare_csv(request: CompareRequest, stores: AllStores) -> Response:
    """One line a quantity, one column a formula. UTF-8, comma separated, safe to open in a spreadsheet."""
    return Response(
        comparison_csv(_columns(request, oil_prices(stores))),
        media_type="text/csv; charset=utf-8",
        headers={"content-disposition": 'attachment; filename="comparison.csv"'},
    )


@router.post("/compare/pdf", summary="A comparison as PDF", response_class=Response)
def compare_pdf(request: CompareRequest, stores: AllStores) -> Response:
    """A4 on its side; what differs first."""
    return Response(
        comparison_pdf(_columns(request, oil_prices(stores))),
        media_type="application/pdf",
        headers={"content-disposition": 'attachment; filename="comparison.pdf"'},
    )


@router.get("/formulas/{formula_id}/history", summary="What changed, version by version")
def history(formula_id: str, store: Formulas) -> list[HistoryEntry]:
    """The draft first, then every kept version, newest first."""
    record, versions = store.get(formula_id), store.versions(formula_id)
    entries = []
    before = versions[0].formula if versions else None
    draft = () if before is None else changes_between(before, record.formula)
    entries.append(HistoryEntry(number=None, note="draft", created_at=record.updated_at, changes=draft))
    for i, version in enumerate(versions):
        older = versions[i + 1].formula if i + 1 < len(versions) else None
        entries.append(
            HistoryEntry(
                number=version.number,
                note=version.note,
                created_at=version.created_at,
                changes=() if older is None else changes_between(older, version.formula),
            )
        )
    return entries


@router.get("/formulas/{formula_id}/timeline", summary="The life of a formula")
def timeline(formula_id: str, stores: AllStores) -> tuple[TimelineEntry, ...]:
    """Versions, batches, comparisons, trials and notes for next time, the newest first: what changed and what it did."""
    return timeline_of(formula_id, stores)
