"""What the workshop's own batches teach: added up batch by batch, put together when a forecast or a screen asks for it."""

from collections.abc import Mapping
from functools import lru_cache
from math import exp
from typing import Literal

from sqlalchemy.orm import Session

from sapolin.core.bar.calculation import CALCULATION_VERSION
from sapolin.core.bar.expectations import firmness_at
from sapolin.core.bar.qualities import qualities
from sapolin.core.bar.result import FormulaResult
from sapolin.core.cure.drying import BarAsCut
from sapolin.core.cure.learning import Learned
from sapolin.core.cure.state import CureState
from sapolin.core.production.state import RunState
from sapolin.core.quantities.chances import EIGHT_IN_TEN
from sapolin.core.quantities.model import Model, Truth
from sapolin.core.quantities.text import Param, TemperatureDifference, Text, number, percent, template, text
from sapolin.core.trials.judging import JudgedPoints, LearnedQuality, judged_points, learned_quality, range_of
from sapolin.core.trials.predictions import Prediction, TopicHeld, held, prediction_of
from sapolin.core.trials.rules import RULES, Rule, Taught, cure_seen, day_seen, learned_rules
from sapolin.services.batches import BatchWork, Outcome, work_of
from sapolin.store.cures import CureStore, taught_from
from sapolin.store.stores import Stores

__all__ = [
    "LearnedTopic", "Learning", "YourBars", "keep_prediction", "keep_prediction_in", "learning_of", "predicted_points",
    "qualities_by", "rules_by", "taught_anew", "taught_by", "wants_teaching", "your_bars",
]  # fmt: skip

LEAST_BATCHES = 2
"""Fewer judged batches than this move no mark on a scale."""
TAUGHT_VERSION = 1
"""Of what a batch teaches: raised when more is taken from its record."""


class YourBars(Model):
    """Where the workshop's own bars put one quality of a formula; an estimate."""

    quality: str
    points: float
    low: float
    """Eight of ten batches lie between these."""
    high: float
    batches: int
    words: Text


class LearnedTopic(Model):
    """What was learned about one rule or quality."""

    topic: str
    name: str
    kind: Literal["rule", "quality"]
    unit: str
    batches: int
    words: Text
    """What it says, with how many batches and how sure."""
    is_clear: Truth
    """The offset lies clear of what chance gives."""


class Learning(Model):
    """What this workshop's bars say of the rules, and how what was predicted has held."""

    is_used: Truth
    """Forecasts and scales go by it."""
    topics: tuple[LearnedTopic, ...]
    testers: tuple[Text, ...]
    """How testers differ, in words."""
    held: tuple[TopicHeld, ...]
    predicted: int
    inside: int
    """Predictions whose range of eight in ten held what was seen."""
    words: Text


def taught_by(
    work: BatchWork,
    outcome: Outcome,
    run: RunState,
    state: CureState | None,
    poured_at: str | None,
    bar: BarAsCut | None,
) -> Taught:
    """What the record of one batch teaches, from its make day and what followed."""
    planned = work.planned
    result = outcome.actual.result or planned.result
    points = None if planned.result.bar is None else planned.result.bar.trace_points
    mixing = work.record.plan.choices.mixing
    filled = {i: fill.batter_ml for i, fill in enumerate(outcome.poured.moulds)}
    seen = (
        day_seen(run, points, (planned.lye_peak.low_c + planned.lye_peak.high_c) / 2, filled, mixing)
        if run.status == "made"
        else {}
    )
    if state is None or poured_at is None:
        return Taught(rules=seen)
    seen |= cure_seen(state, poured_at, planned.unmould_hours, bar)
    return Taught(rules=seen, judged=_judged(state, result, planned.formula.process.cure_weeks))


def predicted_points(quality: str, result: FormulaResult, cure_weeks: float | None, age_weeks: float) -> float | None:
    """Points predicted of a bar at an age; null when nothing is. What a thumb feels is the firmness of that age."""
    if quality == "hardness" and result.bar is not None:
        return firmness_at(result.bar, cure_weeks, age_weeks)
    return next((one.points for one in result.qualities if one.quality == quality), None)


def _judged(state: CureState, result: FormulaResult, cure_weeks: float | None) -> dict[str, tuple[JudgedPoints, ...]]:
    found: dict[str, dict[tuple[str, int], list[tuple[float, float]]]] = {}
    for one in state.judged:
        for quality, points in judged_points(one.sheet.scores, one.sheet.measures).items():
            key = (one.sheet.tester.strip(), round(one.age_weeks))
            found.setdefault(quality, {}).setdefault(key, []).append((points, one.age_weeks))
    judged: dict[str, tuple[JudgedPoints, ...]] = {}
    for quality, by_sheet in found.items():
        rows = []
        for (tester, _), sheets in by_sheet.items():
            age = sum(weeks for _, weeks in sheets) / len(sheets)
            predicted = predicted_points(quality, result, cure_weeks, age)
            if predicted is not None:
                points = sum(one for one, _ in sheets) / len(sheets)
                rows.append(
                    JudgedPoints(tester=tester, age_weeks=age, predicted=predicted, points=points, sheets=len(sheets))
                )
        if rows:
            judged[quality] = tuple(rows)
    return judged


@lru_cache(maxsize=16)
def _rules(contents: tuple[str, ...]) -> dict[str, Learned]:
    return learned_rules([taught_from(content) for content in contents])


@lru_cache(maxsize=8)
def _qualities(contents: tuple[str, ...]) -> dict[str, LearnedQuality]:
    taught = [taught_from(content) for content in contents]
    return {
        quality: learned_quality(quality, [one.judged[quality] for one in taught if quality in one.judged])
        for quality in qualities()
        if range_of(quality) is not None
    }


def rules_by(taught: Mapping[str, str], without: str | None = None) -> dict[str, Learned]:
    """What batches taught about each rule (by batch, as kept); all `without` one."""
    return _rules(tuple(content for batch_id, content in taught.items() if batch_id != without))


def qualities_by(taught: Mapping[str, str], without: str | None = None) -> dict[str, LearnedQuality]:
    """What their judged bars say of each quality."""
    return _qualities(tuple(content for batch_id, content in taught.items() if batch_id != without))


@lru_cache(maxsize=8192)
def _prediction(content: str) -> Prediction:
    return Prediction.model_validate_json(content)


def your_bars(result: FormulaResult | None, stores: Stores) -> tuple[YourBars, ...]:
    """Where the workshop's own bars put the qualities of a formula; none while it has judged few, or does not go by them."""
    if result is None or not stores.workshop.get().learns:
        return ()
    known = qualities_by(stores.cures.taught())
    found = []
    for one in result.qualities:
        learned = known.get(one.quality)
        if learned is None or learned.batches < LEAST_BATCHES:
            continue
        points, sd = learned.expected(one.points)
        least = max(points - EIGHT_IN_TEN * sd, 0.0)
        found.append(
            YourBars(
                quality=one.quality, points=max(points, 0.0), low=least, high=max(points + EIGHT_IN_TEN * sd, 0.0),
                batches=learned.batches, words=_quality_words(learned, points - one.points),
            )
        )  # fmt: skip
    return tuple(found)


def _quality_words(learned: LearnedQuality, off: float) -> Text:
    key = "even" if abs(off) < HARDLY_POINTS else "above" if off > 0 else "below"
    return text(
        f"learning.quality.{key}", points=number(abs(off), 1), sure=number(learned.offset_sd, 1),
        batches=number(learned.batches), sheets=number(learned.sheets),
    )  # fmt: skip


HARDLY_POINTS = 0.5


def keep_prediction_in(session: Session, batch_id: str, result: FormulaResult) -> None:
    """Keep what is predicted of a batch by what was learned until now, in the transaction that begins it."""
    taught = CureStore.taught_in(session)
    CureStore.keep_prediction_in(session, batch_id, _predicted(taught, batch_id, result).model_dump_json())


def keep_prediction(batch_id: str, stores: Stores) -> None:
    """The same of a batch whose record came in whole, in a transaction of its own."""
    result = work_of(stores.batches.get(batch_id), stores.batches).planned.result
    taught = stores.cures.taught()
    stores.cures.keep_prediction(batch_id, _predicted(taught, batch_id, result).model_dump_json())


def _predicted(taught: Mapping[str, str], batch_id: str, result: FormulaResult) -> Prediction:
    points = {one.quality: one.points for one in result.qualities}
    return prediction_of(rules_by(taught, batch_id), qualities_by(taught, batch_id), points)


def learning_of(stores: Stores) -> Learning:
    """What this workshop's bars say, and how predictions have held."""
    taught = stores.cures.taught()
    by_rule, by_quality = rules_by(taught), qualities_by(taught)
    predicted = [
        (batch_id, code, _prediction(content), taught_from(taught[batch_id]))
        for batch_id, code, content in stores.cures.predictions()
        if batch_id in taught
    ]
    topics = held(predicted)
    total, inside = sum(one.total for one in topics), sum(one.inside for one in topics)
    words = text(
        "learning.held" if total else "learning.nothing_held", total=number(total), inside=number(inside),
        percent=percent(100 * inside / total if total else 0.0, 0),
    )  # fmt: skip
    return Learning(
        is_used=stores.workshop.get().learns, topics=(*_rule_topics(by_rule), *_quality_topics(by_quality)),
        testers=_testers(by_quality), held=topics, predicted=total, inside=inside, words=words,
    )  # fmt: skip


def _rule_topics(known: Mapping[str, Learned]) -> list[LearnedTopic]:
    found = []
    for rule in RULES.values():
        learned = known[rule.id]
        key = "nothing" if learned.batches == 0 else "more" if learned.offset >= 0 else "less"
        found.append(
            LearnedTopic(
                topic=rule.id, name=template(f"learning.rules.{rule.id}.name"), kind="rule", unit=rule.unit,
                batches=learned.batches, is_clear=abs(learned.offset) > EIGHT_IN_TEN * learned.offset_sd,
                words=text(
                    f"learning.rules.{rule.id}.{key}", offset=_told_offset(rule, abs(learned.offset), learned.offset),
                    sure=_told_offset(rule, learned.offset_sd, learned.offset_sd), batches=number(learned.batches),
                ),
            )
        )  # fmt: skip
    return found


def _told_offset(rule: Rule, size: float, offset: float) -> Param:
    """An offset as it is said: of times in percent, of temperatures in degrees."""
    if rule.unit == "°C":
        return TemperatureDifference(c=size)
    return number(abs(100 * (exp(offset) - 1)), 0) if rule.is_time else number(100 * size, 1)


def _quality_topics(known: Mapping[str, LearnedQuality]) -> list[LearnedTopic]:
    return [
        LearnedTopic(
            topic=one.quality, name=qualities()[one.quality].name, kind="quality", unit="points", batches=one.batches,
            is_clear=abs(one.offset) > EIGHT_IN_TEN * one.offset_sd,
            words=_quality_words(one, one.offset) if one.batches else text("learning.quality.nothing"),
        )
        for one in known.values()
    ]  # fmt: skip


def _testers(known: Mapping[str, LearnedQuality]) -> tuple[Text, ...]:
    """Testers that clearly judge off the others, by quality."""
    return tuple(
        text(
            "learning.tester.higher" if one.offset > 0 else "learning.tester.lower", tester=one.tester,
            quality=qualities()[learned.quality].name.lower(), points=number(abs(one.offset), 1), sure=number(one.sd, 1),
        )
        for learned in known.values()
        for one in learned.testers
        if abs(one.offset) > EIGHT_IN_TEN * one.sd
    )  # fmt: skip


_TAUGHT_OF = "taught_of"


def wants_teaching(stores: Stores) -> bool:
    """Whether what batches teach was added up by an earlier release, so that it is to be done anew."""
    return stores.workshop.mark(_TAUGHT_OF) != f"{CALCULATION_VERSION}.{TAUGHT_VERSION}"


def taught_anew(stores: Stores) -> None:
    """Leave a mark that this release added it up."""
    stores.workshop.set_mark(_TAUGHT_OF, f"{CALCULATION_VERSION}.{TAUGHT_VERSION}")
