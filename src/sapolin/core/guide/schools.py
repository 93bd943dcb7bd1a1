"""Where makers differ: each question with what every school says, what is usual here and why; and what this workshop chose."""

from typing import Literal

from sapolin.core.bar.pace import Mixing
from sapolin.core.batch.plan import Choices
from sapolin.core.formula.document import Formula, Process
from sapolin.core.optimise.swap.question import School
from sapolin.core.quantities.choices import Choice, choices
from sapolin.core.quantities.model import Model
from sapolin.core.quantities.text import template

__all__ = ["SchoolQuestion", "Schools", "chosen_choices", "chosen_process", "school_questions"]


class Schools(Model):
    """What a workshop chose where makers differ; new batches, formulas and swaps begin with it. The usual is the default."""

    apart: Literal["within_10_f", "within_5_f", "within_10_c", "room_temperature"] = "within_10_f"
    gel: Literal["natural", "encouraged", "prevented"] = "natural"
    scent_at: Literal["trace", "oils"] = "trace"
    extras_at: Literal["trace", "lye"] = "trace"
    milk: Literal["frozen", "chilled"] = "frozen"
    mixing: Mixing = "stick_blender"
    weigh_into: Literal["one_bowl", "separate"] = "one_bowl"
    swap_school: School = "profile_and_role"
    indices: Literal["secondary", "main", "hidden"] = "secondary"


class SchoolQuestion(Model):
    """A question that makers answer differently."""

    id: str
    """The field of :class:`Schools` that it sets."""
    question: str
    options: tuple[Choice, ...]
    """What each school says, the usual one first."""
    usual: str
    why: str
    """Why that is the usual choice here."""


def school_questions() -> tuple[SchoolQuestion, ...]:
    """Every question, in the order of the work.

    >>> {question.usual for question in school_questions() if question.id == "milk"}
    {'frozen'}
    """
    known, usual = choices(), Schools()
    return tuple(
        SchoolQuestion(
            id=field, question=template(f"guide.schools.{field}.question"), options=known[field],
            usual=getattr(usual, field), why=template(f"guide.schools.{field}.why"),
        )
        for field in Schools.model_fields
    )  # fmt: skip


def chosen_choices(schools: Schools, usual: Choices) -> Choices:
    """The choices that a new batch begins with: the `usual` ones of its formula, as this workshop makes it."""
    return usual.model_copy(
        update={
            "school": schools.apart, "scent_at": schools.scent_at, "extras_at": schools.extras_at, "milk": schools.milk,
            "mixing": schools.mixing, "weigh_into": schools.weigh_into,
        }
    )  # fmt: skip


def chosen_process(schools: Schools, formula: Formula) -> Process:
    """How a new formula is made: its own process, with the gel that this workshop wants."""
    return formula.process.model_copy(update={"gel": schools.gel})
