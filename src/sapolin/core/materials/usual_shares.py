"""How much of a blend each kind of oil usually is, and at most: what keeps a blend one that makers would pour.

Rules of thumb of the craft, in ``data/usual_shares.json``: every oil of the catalogue belongs to one class. How familiar an
oil is to most workshops is in ``data/familiar_oils.json``; what is in neither list is a rarity.
"""

from functools import cache
from typing import Literal

from sapolin.core.materials.catalogue import Oil
from sapolin.core.quantities.model import Model, Truth
from sapolin.data import read_json

__all__ = ["Familiarity", "ShareClass", "class_of", "familiarity_of", "share_classes", "variants"]

Familiarity = Literal["everyday", "known", "rare"]

_OF_GROUP = {
    "lauric": "lauric", "palmitic": "palm", "stearic": "soft-butter", "oleic": "kernel", "linoleic": "linoleic",
    "linolenic": "flax", "ricinoleic": "castor", "short": "fractionated",
}  # fmt: skip
"""The class of an oil of the maker's own, by the fatty acids that make it what it is."""


class ShareClass(Model):
    """Oils that do the same in a blend, and how much of it they usually are."""

    id: str
    name: str
    usual: tuple[float, float]
    """Usual share in a bar for skin, % of oils, from and to."""
    most: float
    """Most of it that makers use, % of oils; a purpose may allow more."""
    together: Truth
    """Both count for all oils of the class together, not for each."""
    least: float = 3.0
    """Less of such an oil than this is not worth weighing, % of oils."""
    oils: tuple[str, ...]


@cache
def share_classes() -> dict[str, ShareClass]:
    """Every class by id."""
    return {entry["id"]: ShareClass.model_validate(entry) for entry in read_json("usual_shares")}


@cache
def _class_ids() -> dict[str, str]:
    return {oil: one.id for one in share_classes().values() for oil in one.oils}


def class_of(oil: Oil) -> ShareClass:
    """The class of an oil; one of the maker's own is sorted by what it is.

    >>> from sapolin.core.materials.catalogue import catalogue
    >>> class_of(catalogue()["babassu"]).id
    'lauric'
    """
    known = _class_ids().get(oil.id)
    if known is None:
        if oil.kind == "wax":
            known = "hard-wax" if oil.is_hard else "jojoba"
        else:
            known = "fatty-acid" if oil.kind == "free_acid" else _OF_GROUP.get(oil.group, "kernel")
    return share_classes()[known]


@cache
def variants() -> dict[str, str]:
    """Oils so like another, better known one that a blend takes that one unless it is not to be had, with its id."""
    found: dict[str, str] = read_json("oil_variants")
    return found


@cache
def _familiar() -> dict[str, Familiarity]:
    lists: dict[Familiarity, list[str]] = read_json("familiar_oils")
    return {oil: rank for rank, oils in lists.items() for oil in oils}


def familiarity_of(oil: Oil) -> Familiarity:
    """Whether most workshops have an oil at hand, know it, or seldom see it. Materials of the maker's own are at hand."""
    return "everyday" if "own" in oil.sources else _familiar().get(oil.id, "rare")
