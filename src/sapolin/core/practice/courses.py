"""Short courses: pages to read, exercises to do, and then the first real thing."""

from functools import cache
from typing import Literal

from sapolin.core.practice.exercise import Kind
from sapolin.core.quantities.model import Model
from sapolin.core.quantities.text import template
from sapolin.data import read_json

__all__ = ["Course", "CourseStep", "courses"]


class CourseStep(Model):
    """One step."""

    kind: Literal["page", "exercise", "do"]
    page: str = ""
    """Of the guide."""
    exercise: Kind | None = None
    times: int = 0
    """So many right answers make the step done."""
    to: str = ""
    """Where the real thing is done."""
    title: str


class Course(Model):
    """A course."""

    id: str
    title: str
    short: str
    steps: tuple[CourseStep, ...]


@cache
def courses() -> tuple[Course, ...]:
    """Every course, the first one first.

    >>> [course.id for course in courses()]
    ['first_bar', 'first_swap', 'first_liquid']
    """
    return tuple(
        Course(
            id=row["id"], title=template(f"practice.courses.{row['id']}.title"),
            short=template(f"practice.courses.{row['id']}.short"),
            steps=tuple(
                CourseStep.model_validate(step | {"title": _title(row["id"], i, step)})
                for i, step in enumerate(row["steps"])
            ),
        )
        for row in read_json("courses")
    )  # fmt: skip


def _title(course: str, index: int, step: dict[str, str]) -> str:
    if step["kind"] == "page":
        return template(f"guide.pages.{step['page']}.title")
    if step["kind"] == "exercise":
        return template(f"practice.{step['exercise']}.title")
    return template(f"practice.courses.{course}.do_{index}")
