"""The sheet of a batch as it was made: what was weighed, read, timed and noted, beside what was planned."""

from collections.abc import Iterator
from datetime import datetime

from sapolin.core.batch.planned import PlannedBatch
from sapolin.core.batch.procedure import weigh_targets
from sapolin.core.batch.sheet import Fact, Sheet, SheetRow, mould_words
from sapolin.core.production.actual import ActualBatch
from sapolin.core.production.record import RunState

__all__ = ["actual_sheet"]


def actual_sheet(sheet: Sheet, planned: PlannedBatch, state: RunState, made: ActualBatch) -> Sheet:
    """The same sheet with what was weighed, read and noted; `planned` holds volume, portions and moulds as poured."""
    by_item = state.captured_g
    decimals = {target.item: target.decimals for target in weigh_targets(planned)}

    def told(row: SheetRow) -> SheetRow:
        grams = by_item.get(row.item)
        return row if grams is None else row.model_copy(update={"weighed_g": f"{grams:,.{decimals.get(row.item, 1)}f}"})

    sections = tuple(
        section.model_copy(update={"rows": tuple(told(row) for row in section.rows)}) for section in sheet.sections
    )
    return sheet.model_copy(update={
        "made": state.status == "made",
        "sections": sections,
        "moulds": mould_words(planned),
        "happened": tuple(_happened(planned, state, made)),
    })  # fmt: skip


def _happened(planned: PlannedBatch, state: RunState, made: ActualBatch) -> Iterator[Fact]:
    if made.result is not None:
        interval = made.result.lye.superfat_interval
        yield Fact(
            name="Superfat as weighed",
            value=f"{made.result.lye.superfat_total_percent:.1f} %; true {interval.low_percent:.1f} to "
            f"{interval.high_percent:.1f} %".replace("-", "−"),
        )
        yield Fact(name="Lye concentration", value=f"{made.result.water.lye_concentration_percent:.1f} %")
        yield Fact(name="Oils", value=f"{made.result.total_oils_g:,.1f} g")
    elif made.problems:
        yield Fact(name="Cannot be calculated", value=made.problems[0].message)
    lye = [reading for reading in state.readings if reading.bowl == "lye"]
    if lye:
        yield Fact(name="Lye at its hottest", value=f"{max(reading.celsius for reading in lye):.0f} °C")
    met = [
        f"{bowl} {readings[-1].celsius:.0f} °C"
        for bowl in ("oils", "lye")
        if (readings := [reading for reading in state.readings if reading.bowl == bowl])
    ]
    if met:
        yield Fact(name="When they met", value=", ".join(met))
    stages = [
        f"{mark.what} after {_minutes(state.combined_at, mark.at):.0f} min"
        for mark in state.marks
        if state.combined_at is not None and mark.what not in ("ice_bath", "heat_pad", "fridge")
    ]
    if stages:
        yield Fact(name="Trace", value=", ".join(stages))
    for mould, over_ml in sorted(state.poured_ml.items()):
        words = "just filled" if over_ml == 0 else f"{abs(over_ml):,.0f} mL {'left over' if over_ml > 0 else 'short'}"
        yield Fact(name=planned.moulds[mould].name, value=words)
    for note in state.notes:
        yield Fact(name="Note", value=note.what)
    if state.abort_reason:
        yield Fact(name="Given up", value=state.abort_reason)


def _minutes(since: str, at: str) -> float:
    return (datetime.fromisoformat(at) - datetime.fromisoformat(since)).total_seconds() / 60
