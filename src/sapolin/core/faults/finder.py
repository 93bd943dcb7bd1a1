"""Which cause a fault most likely has: a small Bayesian table, and the sum of what speaks for and against each cause.

Each symptom has its causes with a prior: how often, of makers who see it, that cause is behind it (a rule of thumb). Evidence
from the record of the batch, and what the maker answers, multiply the odds of a cause by a likelihood ratio: how many times as
often that is found when this is the cause. So P(cause | evidence) = prior · Π ratio, over the same of all causes and of
something else. The table is data (``data/faults.json``). Pieces of evidence are taken as independent, which they are not quite,
so ratios are kept modest and the answer is called a rank, not a measurement.
"""

from collections.abc import Mapping
from functools import cache
from typing import Literal

from sapolin.core.faults.facts import BatchRecordFacts, Evidence, evidence_of
from sapolin.core.quantities.diagnostics import FormulaError, stopping
from sapolin.core.quantities.model import Model, Truth
from sapolin.core.quantities.text import Text, template, text
from sapolin.data import read_json

__all__ = ["FaultRanking", "LikelyCause", "Question", "Reason", "Symptom", "rank", "symptoms"]

ASKED = 3
"""So many questions are asked at once: those that tell the likeliest causes apart best."""
SPEAKS = 1.25
"""A ratio nearer to 1 than this, either way, is not worth a sentence."""
Group = Literal["outside", "inside", "making", "use", "paste"]


class CauseRow(Model):
    """A cause of a symptom."""

    cause: str
    prior: float
    """Against the other causes of the symptom."""
    evidence: dict[str, tuple[float, float]]
    """By piece of evidence: the ratio when it holds, and when it does not."""
    asks: dict[str, tuple[float, float]]
    """By question: the ratio of yes, and of no."""


class SymptomRow(Model):
    """A symptom with its causes."""

    group: Group
    makes: Literal["bar", "paste"]
    other: float
    """Prior of something that is not in the table."""
    causes: tuple[CauseRow, ...]


class Symptom(Model):
    """What is seen."""

    id: str
    group: Group
    group_name: str
    makes: Literal["bar", "paste"]
    name: str
    looks: str
    """How one knows it."""


class Reason(Model):
    """What speaks for or against a cause."""

    words: Text
    ratio: float
    """Above 1 it speaks for it."""
    from_record: Truth
    """From the record; else from an answer."""


class LikelyCause(Model):
    """A cause and how likely it is."""

    cause: str
    name: str
    percent: float
    """Of all causes together; a rank by rules of thumb."""
    prior_percent: float
    """Before anything of this batch was looked at."""
    reasons: tuple[Reason, ...]
    """The strongest first."""
    next_time: Text


class Question(Model):
    """What would tell the causes apart."""

    id: str
    words: str
    answer: Truth | None
    """Null while it is not answered."""


class FaultRanking(Model):
    """The causes of a symptom, the likeliest first, and what to do."""

    symptom: Symptom
    now: Text
    """What to do with the bars that have it."""
    causes: tuple[LikelyCause, ...]
    other_percent: float
    """Something else."""
    questions: tuple[Question, ...]


@cache
def _table() -> Mapping[str, SymptomRow]:
    return {id_: SymptomRow.model_validate(row) for id_, row in read_json("faults").items()}


def _symptom(id_: str) -> Symptom:
    row, at = _table()[id_], f"faults.symptoms.{id_}"
    return Symptom(
        id=id_, group=row.group, group_name=template(f"faults.groups.{row.group}"), makes=row.makes,
        name=template(f"{at}.name"), looks=template(f"{at}.looks"),
    )  # fmt: skip


def symptoms() -> tuple[Symptom, ...]:
    """Everything that can be looked for, by where it is seen."""
    order = ("outside", "inside", "making", "use", "paste")
    return tuple(sorted((_symptom(id_) for id_ in _table()), key=lambda one: order.index(one.group)))


def rank(
    symptom: str, facts: BatchRecordFacts | None = None, answers: Mapping[str, bool] | None = None
) -> FaultRanking:  # fmt: skip
    """The likely causes of a `symptom`, from the `facts` of a batch (null without one) and what the maker answered.

    Without any evidence the ranks are the priors: of 0.15 against 13.15 in all, growth is about one case in ninety.

    >>> growth = next(one for one in rank("ash").causes if one.cause == "mould_growth")
    >>> round(growth.percent, 1)
    1.2

    Raises FormulaError when there is no such symptom or question.
    """
    if symptom not in _table():
        raise FormulaError([stopping("unknown_symptom", "symptom")])
    row, told = _table()[symptom], answers or {}
    asked = {question for one in row.causes for question in one.asks}
    if any(answer not in asked for answer in told):
        raise FormulaError([stopping("unknown_question", "answers")])
    found = {} if facts is None else evidence_of(facts)
    odds = {one.cause: one.prior * _product(one, found, told) for one in row.causes}
    total, priors = sum(odds.values()) + row.other, sum(one.prior for one in row.causes) + row.other
    causes = sorted(row.causes, key=lambda one: (-odds[one.cause], one.cause))
    return FaultRanking(
        symptom=_symptom(symptom),
        now=text(f"faults.symptoms.{symptom}.now"),
        causes=tuple(
            LikelyCause(
                cause=one.cause, name=template(f"faults.causes.{one.cause}.name"), percent=100 * odds[one.cause] / total,
                prior_percent=100 * one.prior / priors, reasons=_reasons(one, found, told),
                next_time=text(f"faults.causes.{one.cause}.next_time"),
            )
            for one in causes
        ),
        other_percent=100 * row.other / total,
        questions=_questions(row, odds, told),
    )  # fmt: skip


def _ratios(
    row: CauseRow, found: Mapping[str, Evidence], told: Mapping[str, bool]
) -> list[tuple[float, Text, bool]]:  # fmt: skip
    """Every ratio that counts for a cause, with its sentence and whether it is from the record."""
    counted = [
        (holds if found[id_].holds else not_so, found[id_].words, True)
        for id_, (holds, not_so) in row.evidence.items() if id_ in found
    ]  # fmt: skip
    counted += [
        (yes if told[id_] else no, text(f"faults.answers.{'yes' if told[id_] else 'no'}", words=_asked(id_)), False)
        for id_, (yes, no) in row.asks.items() if id_ in told
    ]  # fmt: skip
    return counted


def _asked(question: str) -> str:
    return template(f"faults.questions.{question}")


def _product(row: CauseRow, found: Mapping[str, Evidence], told: Mapping[str, bool]) -> float:
    product = 1.0
    for ratio, _, _ in _ratios(row, found, told):
        product *= ratio
    return product


def _reasons(row: CauseRow, found: Mapping[str, Evidence], told: Mapping[str, bool]) -> tuple[Reason, ...]:
    reasons = [
        Reason(words=words, ratio=ratio, from_record=from_record)
        for ratio, words, from_record in _ratios(row, found, told)
        if words and (ratio >= SPEAKS or ratio <= 1 / SPEAKS)
    ]
    return tuple(sorted(reasons, key=lambda one: -max(one.ratio, 1 / one.ratio)))


def _questions(row: SymptomRow, odds: Mapping[str, float], told: Mapping[str, bool]) -> tuple[Question, ...]:
    """Those answered, then those that would move the ranks most: by how far apart their answers are, weighted by the odds."""
    worth: dict[str, float] = {}
    for one in row.causes:
        for question, (yes, no) in one.asks.items():
            worth[question] = worth.get(question, 0.0) + odds[one.cause] * abs(yes - no) / max(yes, no)
    open_ones = sorted((one for one in worth if one not in told), key=lambda one: (-worth[one], one))
    chosen = [*(one for one in worth if one in told), *open_ones[:ASKED]]
    return tuple(Question(id=one, words=_asked(one), answer=told.get(one)) for one in chosen)
