"""Practice: exercises, answers judged and kept, and how far each course has come."""

from sapolin.core.practice import KINDS, Answered, Course, Exercise, Graded, Kind, courses, exercise, grade
from sapolin.core.quantities.model import Model
from sapolin.core.quantities.text import template
from sapolin.store.practice import Practised
from sapolin.store.stores import Stores

__all__ = ["CourseProgress", "ExerciseKind", "PracticeOverview", "answer", "overview"]


class ExerciseKind(Model):
    """A kind of exercise and how it has gone so far."""

    kind: Kind
    title: str
    so_far: Practised


class CourseProgress(Model):
    """A course, and which of its exercises are done."""

    course: Course
    done: tuple[bool | None, ...]
    """Step by step; null where nothing is kept: a page is read, the real thing is done elsewhere."""


class PracticeOverview(Model):
    """Everything that can be practised."""

    kinds: tuple[ExerciseKind, ...]
    courses: tuple[CourseProgress, ...]


def overview(stores: Stores) -> PracticeOverview:
    """Every kind of exercise and every course, with how far the maker is."""
    so_far = stores.practice.so_far()
    none = Practised(answered=0, right=0)

    def right(kind: Kind | None) -> int:
        return so_far.get(kind or "", none).right

    return PracticeOverview(
        kinds=tuple(
            ExerciseKind(kind=kind, title=template(f"practice.{kind}.title"), so_far=so_far.get(kind, none)) for kind in KINDS
        ),
        courses=tuple(
            CourseProgress(
                course=course,
                done=tuple(right(step.exercise) >= step.times if step.kind == "exercise" else None for step in course.steps),
            )
            for course in courses()
        ),
    )  # fmt: skip


def answer(kind: Kind, seed: int, answered: Answered, key: str, stores: Stores) -> Graded:
    """Judge an answer, and keep whether it was right, once for each `key`."""
    graded = grade(kind, seed, answered)
    stores.practice.add(key, kind, seed, right=graded.right)
    return graded


def question(kind: Kind, seed: int) -> Exercise:
    """The exercise that a seed makes."""
    return exercise(kind, seed)
