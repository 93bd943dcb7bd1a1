"""The tests of a batch: its sheets, what was predicted of its bars and what they were judged to be."""

from collections import defaultdict

from sapolin.core.bar.qualities import qualities
from sapolin.core.bar.result import FormulaResult, QualityResult
from sapolin.core.cure.drying import days_between
from sapolin.core.cure.state import CureState, FitStanding, JudgedSheet, fit_standing
from sapolin.core.formula.purposes import TargetRange
from sapolin.core.quantities.model import Model, Truth
from sapolin.core.quantities.text import Text, text
from sapolin.core.trials.criteria import Criterion, Measure, criteria, measures
from sapolin.core.trials.judging import judged_points
from sapolin.services.comparisons import ComparisonView, comparisons_of
from sapolin.services.followed import FollowedBatch
from sapolin.services.learning import YourBars, predicted_points, your_bars
from sapolin.services.trial_sets import TrialBrief, trials_of
from sapolin.store.clock import utc_now
from sapolin.store.stores import Stores

__all__ = ["TestsView", "tests_of"]

JUDGED_FROM_WEEKS = 6.0
"""The age that firmness is told for while no sheet tells one."""
SAME_AGE_WEEKS = 2.0
"""Sheets that lie no further apart are told together."""


class JudgedAt(Model):
    """Sheets of one batch at about one age."""

    age_weeks: float
    sheets: int
    scores: dict[str, float]
    """Mean by criterion, from 1 to 5."""
    measures: dict[str, float]
    """Mean by measure, in its unit."""


class PredictedJudged(Model):
    """One quality: what was predicted of these bars, and what they were judged to be."""

    quality: str
    name: str
    axis_minimum: float
    axis_maximum: float
    target_range: TargetRange | None
    predicted: float
    """Points, by the rule; of hardness the firmness at the age of the sheets."""
    judged: float | None
    """Points that the words of the sheets stand for, their mean; null without a sheet."""
    sheets: int
    yours: YourBars | None
    """Where the workshop's bars put it; null while few were judged."""


class TestsView(Model):
    """The tests of a batch."""

    __test__ = False

    batch_id: str
    code: str
    name: str
    formula_id: str
    is_cut: Truth
    fit: FitStanding
    age_weeks: float | None
    """Since it was cut; null while it is not."""
    criteria: tuple[Criterion, ...]
    """In the order of the sheet, the workshop's own last."""
    measures: tuple[Measure, ...]
    testers: tuple[str, ...]
    """Who judged before, the last first."""
    sheets: tuple[JudgedSheet, ...]
    """The last first."""
    ages: tuple[JudgedAt, ...]
    predicted: tuple[PredictedJudged, ...]
    summary: Text
    comparisons: tuple[ComparisonView, ...]
    trials: tuple[TrialBrief, ...]
    next_time: tuple[str, ...]


def tests_of(batch_id: str, stores: Stores) -> TestsView:
    """The tests of a batch. Raises UnknownBatchError, or FormulaError when it cannot be calculated."""
    batch = FollowedBatch.of(batch_id, stores.batches, stores.cures)
    state = batch.state()
    sheets = state.judged[::-1]
    predicted = _predicted(batch, state, stores)
    told = sum(one.judged is not None for one in predicted)
    return TestsView(
        batch_id=batch_id, code=batch.record.code, name=batch.record.plan.formula.name, formula_id=batch.record.formula_id,
        is_cut=state.cut_at is not None, fit=fit_standing(state.fit),
        age_weeks=None if state.cut_at is None else max(days_between(state.cut_at, utc_now()), 0.0) / 7,
        criteria=(*criteria().values(), *stores.criteria.all()), measures=tuple(measures().values()),
        testers=tuple(dict.fromkeys(one.sheet.tester for one in sheets)) or _known_testers(stores),
        sheets=sheets, ages=_ages(state), predicted=predicted,
        summary=text("judging.some" if told else "judging.none"),
        comparisons=comparisons_of(stores, batch_id), trials=trials_of(stores, batch_id=batch_id),
        next_time=state.next_time,
    )  # fmt: skip


def _known_testers(stores: Stores) -> tuple[str, ...]:
    return tuple(dict.fromkeys(name for one in comparisons_of(stores) for name in one.setup.testers))[:6]


def _ages(state: CureState) -> tuple[JudgedAt, ...]:
    groups: list[list[JudgedSheet]] = []
    for one in sorted(state.judged, key=lambda sheet: sheet.age_weeks):
        if groups and one.age_weeks - groups[-1][0].age_weeks <= SAME_AGE_WEEKS:
            groups[-1].append(one)
        else:
            groups.append([one])
    found = []
    for group in groups:
        scores, measured = defaultdict(list), defaultdict(list)
        for one in group:
            for name, score in one.sheet.scores.items():
                scores[name].append(score)
            for name, value in one.sheet.measures.items():
                measured[name].append(value)
        found.append(
            JudgedAt(
                age_weeks=sum(one.age_weeks for one in group) / len(group), sheets=len(group),
                scores={name: sum(ones) / len(ones) for name, ones in scores.items()},
                measures={name: sum(ones) / len(ones) for name, ones in measured.items()},
            )
        )  # fmt: skip
    return tuple(found)


def _at_age(quality: QualityResult, result: FormulaResult, cure_weeks: float | None, age_weeks: float) -> float:
    points = predicted_points(quality.quality, result, cure_weeks, age_weeks)
    return quality.points if points is None else points


def _predicted(batch: FollowedBatch, state: CureState, stores: Stores) -> tuple[PredictedJudged, ...]:
    result = batch.outcome.actual.result or batch.work.planned.result
    yours = {one.quality: one for one in your_bars(result, stores)}
    points: dict[str, list[float]] = defaultdict(list)
    for judged in state.judged:
        for quality, seen in judged_points(judged.sheet.scores, judged.sheet.measures).items():
            points[quality].append(seen)
    cure_weeks = batch.work.planned.formula.process.cure_weeks
    ages = [one.age_weeks for one in state.judged]
    age = sum(ages) / len(ages) if ages else JUDGED_FROM_WEEKS
    found = []
    for one in result.qualities:
        declared, told = qualities()[one.quality], points[one.quality]
        found.append(
            PredictedJudged(
                quality=one.quality, name=declared.name, axis_minimum=declared.axis_minimum,
                axis_maximum=declared.axis_maximum, target_range=one.target_range,
                predicted=_at_age(one, result, cure_weeks, age), judged=sum(told) / len(told) if told else None,
                sheets=len(told), yours=yours.get(one.quality),
            )
        )  # fmt: skip
    return tuple(found)
