"""Blind comparisons: set up, judged round by round, and told only when all is judged."""

from datetime import UTC, datetime
from secrets import randbits

from sapolin.core.cure.state import fit_standing
from sapolin.core.quantities.diagnostics import FormulaError, stopping
from sapolin.core.quantities.model import Model, Truth
from sapolin.core.trials.comparison import (
    ComparisonEvent,
    ComparisonRecord,
    ComparisonSetup,
    KeyShown,
    Round,
    comparison_refusal,
    comparison_state,
    drawn,
)
from sapolin.core.trials.verdict import Verdict, verdict_of
from sapolin.services.followed import FollowedBatch
from sapolin.store.stores import Stores
from sapolin.store.trials import ComparisonKept

__all__ = [
    "ComparisonView",
    "Turn",
    "add_comparison_event",
    "comparison_of",
    "comparisons_of",
    "key_of",
    "start_comparison",
]


class Turn(Model):
    """How far a tester is."""

    tester: str
    judged: int
    of: int
    round: int | None
    """The next round, to be named with the choice; null when there is none."""
    codes: tuple[str, ...]
    """Side by side in it, from left to right."""


class ComparisonView(Model):
    """A comparison as far as it may be seen."""

    id: str
    created_at: str
    setup: ComparisonSetup
    turns: tuple[Turn, ...]
    events: tuple[ComparisonRecord, ...]
    is_done: Truth
    key_shown_at: str | None
    """Who is who was looked at before all was judged; null when it was not."""
    verdict: Verdict | None
    """Null until all is judged."""
    rounds: tuple[Round, ...]
    """Who stood where, once all is judged; empty until then."""


def start_comparison(setup: ComparisonSetup, stores: Stores) -> ComparisonView:
    """Draw and keep a comparison. Raises UnknownBatchError, or FormulaError when a bar is not fit or it cannot be drawn."""
    bars = []
    for i, bar in enumerate(setup.bars):
        batch = FollowedBatch.of(bar.batch_id, stores.batches, stores.cures)
        if fit_standing(batch.state().fit) != "fit":
            raise FormulaError([stopping("bars_not_fit", f"bars[{i}]", batch=batch.record.code)])
        label = f"{batch.record.code} {batch.record.plan.formula.name}"[:120]
        bars.append(bar.model_copy(update={"label": label}))
    whole = setup.model_copy(update={"bars": tuple(bars)})
    return _view(stores.comparisons.create(drawn(whole, randbits(63))))


def comparison_of(comparison_id: str, stores: Stores) -> ComparisonView:
    """A comparison. Raises UnknownComparisonError."""
    return _view(stores.comparisons.get(comparison_id))


def comparisons_of(stores: Stores, batch_id: str | None = None) -> tuple[ComparisonView, ...]:
    """The comparisons, the newest first; those that a batch takes part in."""
    return tuple(_view(one) for one in stores.comparisons.all(batch_id))


def add_comparison_event(
    comparison_id: str, key: str, event: ComparisonEvent, at: datetime | None, after_seq: int | None, stores: Stores
) -> ComparisonView:  # fmt: skip
    """Add to its record, once for each `key`. Raises UnknownComparisonError, StaleRecordError or FormulaError."""
    comparison = stores.comparisons.get(comparison_id).comparison

    def check(events: list[ComparisonRecord]) -> None:
        problem = comparison_refusal(event, comparison, events)
        if problem is not None:
            raise FormulaError([problem])

    happened = None if at is None else at.astimezone(UTC).isoformat(timespec="milliseconds")
    return _view(stores.comparisons.add_event(comparison_id, key, event, check, happened, after_seq))


def key_of(comparison_id: str, key: str, stores: Stores) -> tuple[Round, ...]:
    """Who stands where, for a helper who lays the bars out; that it was seen is recorded. Raises UnknownComparisonError."""
    add_comparison_event(comparison_id, key, KeyShown(kind="key_shown"), None, None, stores)
    return stores.comparisons.get(comparison_id).comparison.rounds


def _view(kept: ComparisonKept) -> ComparisonView:
    comparison, state = kept.comparison, comparison_state(kept.comparison, kept.events)
    turns = []
    for tester in comparison.setup.testers:
        mine = [i for i, one in enumerate(comparison.rounds) if one.tester == tester]
        following = None if state.is_done else state.next_of(comparison, tester)
        turns.append(
            Turn(
                tester=tester, judged=sum(i in state.chosen for i in mine), of=len(mine), round=following,
                codes=() if following is None else comparison.rounds[following].codes,
            )
        )  # fmt: skip
    return ComparisonView(
        id=kept.id, created_at=kept.created_at, setup=comparison.setup, turns=tuple(turns), events=kept.events,
        is_done=state.is_done, key_shown_at=state.key_shown_at,
        verdict=verdict_of(comparison, state) if state.is_done and state.chosen else None,
        rounds=comparison.rounds if state.is_done else (),
    )  # fmt: skip
