"""What was predicted of a batch before it was made, and how such predictions have held."""

from collections.abc import Mapping, Sequence
from math import sqrt

from sapolin.core.cure.learning import Learned, Observed
from sapolin.core.quantities.chances import EIGHT_IN_TEN
from sapolin.core.quantities.model import Model, Truth
from sapolin.core.trials.judging import LearnedQuality, range_of, seen_of
from sapolin.core.trials.rules import RULES, Taught

__all__ = ["Held", "Predicted", "Prediction", "TopicHeld", "held", "prediction_of"]

MOST_SHOWN = 120
"""The latest so many are told one by one."""


class Predicted(Model):
    """One value as predicted: the rule and what was known of the workshop by then."""

    offset: float
    """Off the rule; of a time, its logarithm."""
    sd: float
    """How far the batch may lie off that."""


class Prediction(Model):
    """What was predicted of a batch when it was begun."""

    predicted: dict[str, Predicted]
    """By rule or quality."""


class Held(Model):
    """One prediction and what was seen, in the unit of its rule or in points."""

    code: str
    """Of the batch."""
    batch_id: str
    predicted: float
    low: float
    """Eight of ten lie between these."""
    high: float
    seen: float
    is_inside: Truth


class TopicHeld(Model):
    """How the predictions of one value have held."""

    topic: str
    unit: str
    held: tuple[Held, ...]
    """The latest of them."""
    total: int
    inside: int
    """Of all of them."""


def prediction_of(
    rules: Mapping[str, Learned], qualities: Mapping[str, LearnedQuality], points: Mapping[str, float]
) -> Prediction:
    """What is predicted of a batch with so many `points` by quality, by what was learned until now."""
    predicted = {one: Predicted(offset=known.offset, sd=known.next_sd) for one, known in rules.items()}
    for quality, learned in qualities.items():
        if quality in points:
            expected, sd = learned.expected(points[quality])
            predicted[quality] = Predicted(offset=expected - points[quality], sd=sd)
    return Prediction(predicted=predicted)


def held(batches: Sequence[tuple[str, str, Prediction, Taught]]) -> tuple[TopicHeld, ...]:
    """How predictions have held: of each batch its id, its code, what was predicted and what its record taught later."""
    found: dict[str, list[tuple[str, str, Predicted, Observed]]] = {}
    for batch_id, code, prediction, taught in batches:
        for topic, value in prediction.predicted.items():
            seen = _seen(topic, taught)
            if seen is not None:
                found.setdefault(topic, []).append((batch_id, code, value, seen))
    return tuple(
        TopicHeld(
            topic=topic, unit=RULES[topic].unit if topic in RULES else "points",
            held=tuple(_held(topic, *one) for one in ones[-MOST_SHOWN:]), total=len(ones),
            inside=sum(abs(seen.offset - value.offset) <= _width(value, seen) for _, _, value, seen in ones),
        )
        for topic, ones in found.items()
    )  # fmt: skip


def _width(value: Predicted, seen: Observed) -> float:
    """Half the range that eight of ten lie in. What is seen is blurred too: a prediction need only be as near as that lets one
    tell."""
    return EIGHT_IN_TEN * sqrt(value.sd**2 + seen.sd**2)


def _seen(topic: str, taught: Taught) -> Observed | None:
    if topic in RULES:
        return taught.rules.get(topic)
    return seen_of(taught.judged.get(topic, ()), topic) if range_of(topic) is not None else None


def _held(topic: str, batch_id: str, code: str, predicted: Predicted, seen: Observed) -> Held:
    width, rule = _width(predicted, seen), RULES.get(topic)

    def value(offset: float) -> float:
        return max(seen.rule + offset, 0.0) if rule is None else rule.value(seen.rule, offset)

    return Held(
        code=code, batch_id=batch_id, predicted=value(predicted.offset), low=value(predicted.offset - width),
        high=value(predicted.offset + width), seen=value(seen.offset),
        is_inside=abs(seen.offset - predicted.offset) <= width,
    )  # fmt: skip
