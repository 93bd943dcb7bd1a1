"""The life of a formula as one line: versions, batches, tests, trials and lessons, what changed and what it did."""

from collections import defaultdict
from typing import Literal

from sapolin.core.cure.state import cure_state
from sapolin.core.formula.changes import changes_between
from sapolin.core.quantities.model import Model
from sapolin.core.quantities.text import Text, number, template, text
from sapolin.core.trials.criteria import criteria
from sapolin.services.comparisons import comparisons_of
from sapolin.services.lessons import notes_of
from sapolin.services.lists import BatchSummary, batches_of
from sapolin.services.trial_sets import trials_of
from sapolin.store.stores import Stores

__all__ = ["TimelineEntry", "timeline_of"]

WORTH_WORDS = 0.3
"""A mean that moved less than this from one version to the next is not told."""
Kind = Literal["version", "batch", "comparison", "trial", "lesson"]


class TimelineEntry(Model):
    """Something in the life of a formula."""

    at: str
    kind: Kind
    title: str
    text: tuple[Text, ...]
    id: str
    """Of the batch, comparison or trial; the number of a version; empty for a note."""


def timeline_of(formula_id: str, stores: Stores) -> tuple[TimelineEntry, ...]:
    """What happened to a formula, the newest first. Raises UnknownFormulaError."""
    stores.formulas.get(formula_id)
    batches = stores.batches.find(formula_id)
    summaries = batches_of(stores, {one.id for one in batches})
    found = [
        *_versions(formula_id, stores, {one.id: one.plan.version for one in batches}),
        *(_batch(summaries[one.id], stores) for one in batches if one.id in summaries),
        *_trials(formula_id, stores),
        *_comparisons({one.id for one in batches}, stores),
        *(
            TimelineEntry(
                at=one.noted_at, kind="lesson", id="", text=((one.text,),),
                title=template("timeline.heeded" if one.heeded_at else "timeline.lesson"),
            )
            for one in notes_of(formula_id, stores)
        ),
    ]  # fmt: skip
    return tuple(sorted(found, key=lambda one: one.at, reverse=True))


def _versions(formula_id: str, stores: Stores, version_of: dict[str, int]) -> list[TimelineEntry]:
    """Each version with what it changed, and how its bars were judged beside those of the last version that was."""
    versions = sorted(stores.formulas.versions(formula_id), key=lambda one: one.number)
    means = {number_: _means([id_ for id_, of in version_of.items() if of == number_], stores) for number_ in
             {one.number for one in versions}}  # fmt: skip
    found = []
    last: dict[str, tuple[float, int]] = {}
    for i, version in enumerate(versions):
        changes = () if i == 0 else changes_between(versions[i - 1].formula, version.formula)
        mine = means[version.number]
        did = [
            text(
                "timeline.did", criterion=criteria()[one].name, was=number(last[one][0], 1), now=number(mean, 1),
                sheets=number(count),
            )
            for one, (mean, count) in mine.items()
            if one in last and abs(mean - last[one][0]) >= WORTH_WORDS
        ]  # fmt: skip
        note = ((version.note,),) if version.note else ()
        found.append(
            TimelineEntry(
                at=version.created_at, kind="version", id=str(version.number), text=(*note, *changes, *did),
                title=template("timeline.version").replace("{number}", str(version.number)),
            )
        )  # fmt: skip
        last |= mine
    return found


def _means(batch_ids: list[str], stores: Stores) -> dict[str, tuple[float, int]]:
    """Mean score and number of sheets by criterion, over all bars of some batches."""
    scores: dict[str, list[int]] = defaultdict(list)
    for batch_id in batch_ids:
        events = stores.cures.events(batch_id)
        for one in cure_state(events, events[0].at).judged if events else ():
            for criterion, score in one.sheet.scores.items():
                if criterion in criteria():
                    scores[criterion].append(score)
    return {one: (sum(all_of) / len(all_of), len(all_of)) for one, all_of in scores.items()}


def _batch(batch: BatchSummary, stores: Stores) -> TimelineEntry:
    words = [text(f"timeline.batch.{batch.status}")]
    events = stores.cures.events(batch.id)
    state = cure_state(events, events[0].at) if events else None
    if state is not None and state.cut_at is not None:
        words.append(text("timeline.cut", bars=number(state.bars), here=number(state.here)))
    if state is not None and state.judged:
        words.append(text("timeline.judged", sheets=number(len(state.judged))))
    if state is not None and state.seen:
        seen = ", ".join(dict.fromkeys(template(f"faults.symptoms.{one.fault}.name").lower() for one in state.seen))
        words.append(text("timeline.seen", faults=seen))
    at = batch.started_at or batch.created_at
    return TimelineEntry(at=at, kind="batch", id=batch.id, title=batch.code, text=tuple(words))


def _trials(formula_id: str, stores: Stores) -> list[TimelineEntry]:
    return [
        TimelineEntry(
            at=one.created_at, kind="trial", id=one.id, title=one.name,
            text=(*(step.words for step in one.result.steps), *(() if one.result.next is None else (one.result.next.words,))),
        )
        for one in trials_of(stores, formula_id=formula_id)
    ]  # fmt: skip


def _comparisons(batches: set[str], stores: Stores) -> list[TimelineEntry]:
    return [
        TimelineEntry(
            at=one.events[-1].at if one.events else one.created_at, kind="comparison", id=one.id, title=one.setup.question,
            text=() if one.verdict is None else (one.verdict.words,),
        )
        for one in comparisons_of(stores)
        if batches & {bar.batch_id for bar in one.setup.bars}
    ]  # fmt: skip
