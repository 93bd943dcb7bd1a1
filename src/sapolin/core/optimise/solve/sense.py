"""What keeps a solved blend one that a maker would pour: usual shares, what a purpose wants, and the rule book, as linear rows.

Each row has a name, so that it can be said which one bound and the maker can lift it.
"""

from collections.abc import Callable, Iterator, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from sapolin.core.bar.adjustments import LONG_SATURATED, Conditions
from sapolin.core.bar.qualities import qualities
from sapolin.core.formula.purposes import Purpose
from sapolin.core.formula.usual import usual_of
from sapolin.core.materials.catalogue import Oil
from sapolin.core.materials.fatty_acids import ACID_INDEX
from sapolin.core.materials.usual_shares import class_of, share_classes
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.text import template, within_sentence

__all__ = ["RARITIES", "USUAL_SHARES", "Row", "class_row", "rule_rows", "sense_name", "share_rows", "want_rows"]

Floats = NDArray[np.float64]
USUAL_SHARES = "usual_shares"
"""Lifts every usual share at once."""
RARITIES = "rarities"
"""Lifts the limit of one oil that a workshop seldom has."""
UNDER = 0.05
"""Values are compared as shown, to one decimal: below a limit by this, none shows above it."""


class Row(NamedTuple):
    """A limit on a sum over the oils."""

    name: str
    per_percent: Floats
    """What each percent of an oil adds, shape (oils,)."""
    low: float
    high: float


def sense_name(name: str) -> str:
    """What a limit of good sense is called in a sentence.

    >>> sense_name("share:lauric")
    'the usual share of coconut, palm kernel and babassu'
    """
    kind, _, class_id = name.partition(":")
    if kind in ("share", "want"):
        return template(f"sense.{kind}").format(name=within_sentence(share_classes()[class_id].name))
    return template(f"sense.{name}")


def class_row(oils: Sequence[Oil], class_id: str) -> Floats:
    """Ones where an oil belongs to the class."""
    return np.array([1.0 if class_of(oil).id == class_id else 0.0 for oil in oils])


def share_rows(oils: Sequence[Oil], purpose: Purpose, at_least: dict[str, float]) -> Iterator[Row]:
    """The most of each class whose oils count together; never less than `at_least`, % by class, that was asked for."""
    for one in share_classes().values():
        row = class_row(oils, one.id)
        if one.together and row.sum() > 1:
            yield Row(f"share:{one.id}", row, 0.0, max(usual_of(one, purpose).most, at_least.get(one.id, 0.0)))


def want_rows(oils: Sequence[Oil], purpose: Purpose) -> Iterator[Row]:
    """What makes the purpose what it is: olive in a high-olive bar, coconut in a salt bar."""
    for class_id, (low, high) in purpose.wants.items():
        yield Row(f"want:{class_id}", class_row(oils, class_id), low, high)


def rule_rows(
    oils: Sequence[Oil], purpose: Purpose, conditions: Conditions, wanted: dict[str, float], batter_c: float | None
) -> Iterator[Row]:
    """The warnings of the rule book that depend on the blend, as limits under which none of them fires.

    Parameters: `wanted`, the upper ends of what is aimed at, points by quality; `batter_c`, when it is decided.
    """

    def quality(name: str) -> Floats:
        return np.array([qualities()[name].points(oil.profile) for oil in oils]) / 100

    def which(counts: Callable[[Oil], bool]) -> Floats:
        return np.array([1.0 if counts(oil) else 0.0 for oil in oils])

    makes_bar = purpose.makes == "bar" and conditions.koh_percent < 100
    yield Row("rancidity", quality("oxidation_load"), 0.0, coefficient("limit.rancid_load") - UNDER)
    yield Row("much_wax", which(lambda oil: oil.kind == "wax" and oil.is_hard), 0.0, coefficient("limit.wax_percent"))
    if makes_bar:
        yield Row("much_castor", which(lambda oil: oil.group == "ricinoleic"), 0.0, coefficient("limit.castor_percent"))
        yield Row("brittle", quality("wear_life"), 0.0, coefficient("limit.brittle_long_saturated") - UNDER)
        # Potassium soap of long saturated acids dissolves too.
        hardly = 1 - conditions.koh_percent / 100
        soluble = np.array(
            [100 - hardly * sum(oil.profile[ACID_INDEX[acid]] for acid in LONG_SATURATED) for oil in oils]
        )
        yield Row("hardly_dissolves", soluble / 100, coefficient("solubility.needs_percent") + UNDER, 100.0)
        hardest = max(coefficient("limit.brittle_hardness"), wanted.get("hardness", 0.0))
        yield Row("crumbles_if_cut_late", quality("hardness"), 0.0, hardest - UNDER)
    if conditions.method == "cold":
        free = which(lambda oil: oil.kind == "free_acid")
        yield Row("free_acids", free, 0.0, coefficient("limit.free_acid_percent"))
    if purpose.for_skin:
        spare = max(conditions.superfat_percent - coefficient("superfat.usual"), 0.0)
        allowed = coefficient("limit.drying_cleansing") + coefficient("limit.drying_per_superfat") * spare
        yield Row("drying", quality("cleansing"), 0.0, max(allowed, wanted.get("cleansing", 0.0)) - UNDER)
    if batter_c is not None:
        setting = which(lambda oil: oil.melting_c.typical > batter_c and oil.kind != "triglyceride")
        if setting.any():
            yield Row("false_trace", setting, 0.0, 0.0)
