"""What can be chosen where schools differ, and what each choice means; the words are in the catalogue of messages."""

from sapolin.core.quantities.model import Model
from sapolin.core.quantities.text import template, templates

__all__ = ["Choice", "choices"]


class Choice(Model):
    """One of several ways to do something."""

    value: str
    """As formulas, plans and questions name it."""
    label: str
    meaning: str
    """One sentence; empty when the label says it."""


def choices() -> dict[str, tuple[Choice, ...]]:
    """Every choice by what it is about, the usual one first.

    >>> [choice.value for choice in choices()["milk"]]
    ['frozen', 'chilled']
    """
    return {
        about: tuple(
            Choice(
                value=value,
                label=template(f"choices.{about}.{value}.label"),
                meaning=template(f"choices.{about}.{value}.meaning"),
            )
            for value in templates(f"choices.{about}")
        )
        for about in templates("choices")
    }
