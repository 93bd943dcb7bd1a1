"""Why: short pages on each quality, fatty acid and part of the work, each with the quantity that a formula shows it by."""

from functools import cache
from typing import Literal

from sapolin.core.quantities.model import Model
from sapolin.core.quantities.text import template, templates
from sapolin.data import read_json

__all__ = ["GuidePage", "guide_pages", "paragraphs"]


class GuidePage(Model):
    """A page of the guide."""

    id: str
    group: Literal["qualities", "acids", "making"]
    group_name: str
    title: str
    short: str
    """What it is about, in a line."""
    paragraphs: tuple[str, ...]
    quantity: str | None
    """The quantity of the reader's own formula that is its live example; null when there is none."""
    exercise: str | None
    """The exercise that practises it."""


def paragraphs(key: str) -> tuple[str, ...]:
    """The paragraphs `p1`, `p2` ... under a key of the catalogue."""
    return tuple(template(f"{key}.{part}") for part in templates(key) if part[:1] == "p" and part[1:].isdigit())


@cache
def guide_pages() -> tuple[GuidePage, ...]:
    """Every page, group by group.

    >>> next(page.quantity for page in guide_pages() if page.id == "superfat")
    'superfat_total_percent'
    """
    return tuple(
        GuidePage(
            id=row["id"], group=row["group"], group_name=template(f"guide.groups.{row['group']}"),
            title=template(f"guide.pages.{row['id']}.title"), short=template(f"guide.pages.{row['id']}.short"),
            paragraphs=paragraphs(f"guide.pages.{row['id']}"), quantity=row["quantity"], exercise=row["exercise"],
        )
        for row in read_json("guide")
    )  # fmt: skip
