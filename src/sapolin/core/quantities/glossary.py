"""The words of the job, each with a plain meaning, from the catalogue of messages."""

from functools import cache

from sapolin.core.quantities.model import Model
from sapolin.core.quantities.text import template, templates

__all__ = ["GlossaryTerm", "glossary"]


class GlossaryTerm(Model):
    """A word of the job."""

    id: str
    term: str
    meaning: str
    group: str
    """What it belongs to, in words."""


@cache
def glossary() -> tuple[GlossaryTerm, ...]:
    """Every term, group by group.

    >>> next(one.term for one in glossary() if one.id == "superfat")
    'Superfat'
    """
    return tuple(
        GlossaryTerm(
            id=term,
            term=template(f"glossary.{group}.{term}.term"),
            meaning=template(f"glossary.{group}.{term}.meaning"),
            group=template(f"glossary_groups.{group}"),
        )
        for group in templates("glossary")
        for term in templates(f"glossary.{group}")
    )
