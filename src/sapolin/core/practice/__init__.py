"""Practice: exercises made from a seed by the real calculations, judged with their explanation, and short courses of them."""

from collections.abc import Callable, Mapping

from sapolin.core.practice.courses import Course, CourseStep, courses
from sapolin.core.practice.designing import mould, swap, unsafe
from sapolin.core.practice.exercise import KINDS, Answered, Exercise, Graded, Kind, Made
from sapolin.core.practice.making import overshoot, trace
from sapolin.core.practice.records import fault

__all__ = [
    "KINDS",
    "Answered",
    "Course",
    "CourseStep",
    "Exercise",
    "Graded",
    "Kind",
    "courses",
    "exercise",
    "grade",
]

MAKERS: Mapping[Kind, Callable[[int], Made]] = {
    "swap": swap, "overshoot": overshoot, "trace": trace, "fault": fault, "mould": mould, "unsafe": unsafe,
}  # fmt: skip


def exercise(kind: Kind, seed: int) -> Exercise:
    """The exercise of a kind that a seed makes; the same one every time.

    >>> exercise("trace", 3) == exercise("trace", 3)
    True
    """
    return MAKERS[kind](seed).exercise


def grade(kind: Kind, seed: int, answered: Answered) -> Graded:
    """How an answer to that exercise is judged."""
    return MAKERS[kind](seed).graded(answered)
