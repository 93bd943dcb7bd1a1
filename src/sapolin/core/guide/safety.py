"""The safety sheet: gear, first aid, storage, spill, disposal, children, and what to ask before selling."""

from functools import cache

from sapolin.core.batch.procedure import first_aid
from sapolin.core.guide.pages import paragraphs
from sapolin.core.quantities.model import Model
from sapolin.core.quantities.text import template, templates

__all__ = ["SafetySection", "safety_sheet"]


class SafetySection(Model):
    """One part of the sheet."""

    id: str
    title: str
    points: tuple[str, ...]


@cache
def safety_sheet() -> tuple[SafetySection, ...]:
    """The whole sheet, the most urgent first. Local advice comes before it.

    >>> [section.id for section in safety_sheet()][:2]
    ['gear', 'first_aid']
    """
    return tuple(
        SafetySection(
            id=id_,
            title=template(f"guide.safety.{id_}.title"),
            # First aid exists once, in one wording.
            points=first_aid() if id_ == "first_aid" else paragraphs(f"guide.safety.{id_}"),
        )
        for id_ in templates("guide.safety")
    )
