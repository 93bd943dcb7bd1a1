"""The sheet of a batch that has begun: what was weighed, read, timed and noted, beside what was planned."""

from collections.abc import Iterator, Sequence
from datetime import datetime

from sapolin.core.batch.planned import PlannedBatch
from sapolin.core.batch.sheet import Fact, Sheet, SheetRow, fact, mould_words
from sapolin.core.batch.targets import weigh_targets
from sapolin.core.production.actual import ActualBatch
from sapolin.core.production.state import Reading, RunState
from sapolin.core.quantities.text import Temperature, Text, digits, number, percent, template, text, weight

__all__ = ["actual_sheet"]

CHOICES = ("ice_bath", "heat_pad", "fridge")
"""What was decided on the way: no stage of trace."""


def actual_sheet(sheet: Sheet, planned: PlannedBatch, state: RunState, actual: ActualBatch) -> Sheet:
    """The same sheet with what was weighed, read and noted; `planned` holds volume, portions and moulds as poured."""
    by_item = state.captured_g
    decimals = {target.item: target.decimals for target in weigh_targets(planned)}

    def weighed(row: SheetRow) -> SheetRow:
        grams = by_item.get(row.item)
        return row if grams is None else row.model_copy(update={"weighed_g": digits(grams, decimals[row.item])})

    sections = tuple(
        section.model_copy(update={"rows": tuple(weighed(row) for row in section.rows)}) for section in sheet.sections
    )
    return sheet.model_copy(update={
        "made": state.status == "made",
        "sections": sections,
        "moulds": mould_words(planned),
        "happened": tuple(_happened(planned, state, actual)),
    })  # fmt: skip


def _happened(planned: PlannedBatch, state: RunState, actual: ActualBatch) -> Iterator[Fact]:
    yield from _composition(actual)
    lye, oils = ([one for one in state.readings if one.bowl == bowl] for bowl in ("lye", "oils"))
    if lye:
        yield fact("hottest_lye", peak=Temperature(c=max(reading.celsius for reading in lye)))
    met = [words for words in (_met("oils", oils), _met("lye", lye)) if words]
    if met:
        yield Fact(name=template("facts.met.name"), value=_in_a_row(met))
    stages = [
        text("facts.traced.stage", stage=mark.what, minutes=number(_minutes(state.combined_at, mark.at), 0))
        for mark in state.marks
        if state.combined_at is not None and mark.what not in CHOICES
    ]
    if stages:
        yield Fact(name=template("facts.traced.name"), value=_in_a_row(stages))
    yield from _cooked(state)
    for mould, over_ml in sorted(state.poured_ml.items()):
        code = "just_filled" if round(over_ml) == 0 else "left_over" if over_ml > 0 else "short"
        difference = number(abs(over_ml), 0, "mL")
        yield Fact(name=planned.moulds[mould].name, value=text(f"facts.poured.{code}", difference=difference))
    for note in state.notes:
        yield fact("note", words=note.what)
    if state.abort_reason:
        yield fact("given_up", reason=state.abort_reason)


def _in_a_row(parts: Sequence[Text]) -> Text:
    return tuple(segment for part in parts for segment in (", ", *part))[1:]


def _cooked(state: RunState) -> Iterator[Fact]:
    """What was cooked, tested and packed."""
    reached = [
        text("facts.reached.stage", stage=template(f"stages.{mark.what}"),
             minutes=number(_minutes(state.combined_at or mark.at, mark.at), 0, "min"))
        for mark in state.stages
    ]  # fmt: skip
    if reached:
        yield Fact(name=template("facts.reached.name"), value=_in_a_row(reached))
    for test in state.tests:
        if test.ph is not None:
            said = text("facts.tested_ph.value", ph=number(test.ph, 1))
        else:
            said = (template(f"steps.{test.test}.outcomes.{test.outcome}"),)
        yield Fact(name=template(f"facts.tested.{test.test}"), value=said)
    if state.packed is not None:
        yield fact("packed", jars=number(state.packed.jars), weight=weight(state.packed.weight_g, 0))


def _composition(actual: ActualBatch) -> Iterator[Fact]:
    result = actual.result
    if result is not None:
        interval = result.lye.superfat_interval
        yield fact(
            "superfat_as_weighed", superfat=percent(result.lye.superfat_total_percent, 1),
            low=number(interval.low_percent, 1), high=percent(interval.high_percent, 1),
        )  # fmt: skip
        concentration = percent(result.water.lye_concentration_percent, 1)
        yield fact("lye_concentration_as_weighed", concentration=concentration)
        yield fact("oils", oils=weight(result.total_oils_g))
    elif actual.problems:
        yield Fact(name=template("facts.not_calculated.name"), value=actual.problems[0].message)


def _met(bowl: str, readings: list[Reading]) -> Text:
    if not readings:
        return ()
    return text(f"facts.met.{bowl}", temperature=Temperature(c=readings[-1].celsius))


def _minutes(since: str, at: str) -> float:
    return (datetime.fromisoformat(at) - datetime.fromisoformat(since)).total_seconds() / 60
