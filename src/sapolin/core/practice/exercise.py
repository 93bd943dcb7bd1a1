"""What an exercise is: a question made from a seed, how it is answered, and how an answer is judged.

Everything in an exercise is calculated by the same code as a maker's own work, on made-up batches: nothing of theirs is read
or written.
"""

from collections.abc import Sequence
from typing import Literal, NamedTuple

import numpy as np

from sapolin.core.formula.document import Blend, Formula, Lye, OilLine, Water
from sapolin.core.quantities.model import Model, Truth
from sapolin.core.quantities.text import Text, template

__all__ = ["Answered", "Dice", "Exercise", "Graded", "Made", "Option", "practice_formula"]

Kind = Literal["swap", "overshoot", "trace", "fault", "mould", "unsafe"]
KINDS: tuple[Kind, ...] = ("swap", "overshoot", "trace", "fault", "mould", "unsafe")


class Option(Model):
    """One answer to choose."""

    id: str
    label: Text


class Exercise(Model):
    """A question."""

    kind: Kind
    seed: int
    title: str
    question: Text
    given: tuple[Text, ...]
    """What is known, line by line."""
    answered_by: Literal["choice", "number", "scale"]
    """An option; a number typed; what a simulated scale is brought to."""
    options: tuple[Option, ...] = ()
    unit: str = ""
    starts_at: float | None = None
    """What the scale shows at first, g."""
    aims_at: float | None = None
    """What was asked for, g."""


class Answered(Model):
    """An answer."""

    option: str | None = None
    number: float | None = None


class Graded(Model):
    """Whether an answer is right, and why."""

    right: Truth
    answer: Text
    """The right one."""
    why: tuple[Text, ...]
    """How it comes about, sentence by sentence."""


class Made(NamedTuple):
    """An exercise with what its answers are judged by."""

    exercise: Exercise
    option: str | None
    """The right one."""
    number: float | None
    """The right number."""
    tolerance: float
    """How far off a number may be."""
    answer: Text
    why: tuple[Text, ...]

    def graded(self, answered: Answered) -> Graded:
        """How an answer is judged; one of the other sort is wrong."""
        if self.option is not None:
            right = answered.option == self.option
        else:
            right = (
                answered.number is not None
                and self.number is not None
                and abs(answered.number - self.number) <= self.tolerance + 1e-9
            )
        return Graded(right=right, answer=self.answer, why=self.why)


class Dice:
    """Chances from a seed: the same seed makes the same exercise."""

    def __init__(self, kind: Kind, seed: int) -> None:
        self._generator = np.random.default_rng([KINDS.index(kind), seed])

    def one_of(self, things: Sequence[str]) -> str:
        """One of several."""
        return things[int(self._generator.integers(len(things)))]

    def between(self, low: int, high: int, step: int = 1) -> int:
        """A whole number from `low` to `high`, both counted, in steps."""
        return low + step * int(self._generator.integers((high - low) // step + 1))

    def shuffled(self, things: Sequence[Option]) -> tuple[Option, ...]:
        """In another order."""
        return tuple(things[int(i)] for i in self._generator.permutation(len(things)))


BLENDS: dict[str, dict[str, float]] = {
    "body": {"olive-refined": 45, "coconut": 22, "cocoa": 15, "shea": 14, "castor": 4},
    "palm": {"olive-refined": 38, "palm": 30, "coconut": 26, "castor": 6},
    "lard": {"lard": 50, "olive-refined": 25, "coconut": 20, "castor": 5},
    "sunflower": {"sunflower-high-oleic": 40, "tallow-beef": 30, "coconut": 25, "castor": 5},
}
"""Made-up bars that exercises start from."""


def practice_formula(blend: str, oils_g: float = 1000.0, **changes: object) -> Formula:
    """A sound bar of one of the made-up blends."""
    lines = tuple(OilLine(oil=oil, by="percent_of_oils", value=share) for oil, share in BLENDS[blend].items())
    formula = Formula(
        name=template("practice.formula"), blend=Blend(total_oils_g=oils_g, lines=lines), lye=Lye(naoh_purity_percent=99.0),
        superfat_percent=5.0, water=Water(by="lye_concentration_percent", value=33.0),
    )  # fmt: skip
    return formula.model_copy(update=changes)
