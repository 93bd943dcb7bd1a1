"""Find formulas, batches and own materials by words, for those who type rather than walk."""

from typing import Literal

from sapolin.core.formula.purposes import purposes
from sapolin.core.quantities.model import Model
from sapolin.services.lists import page_of_batches, page_of_formulas
from sapolin.store.formulas import FormulaFilter
from sapolin.store.stores import Stores

__all__ = ["Hit", "find"]

MOST_FORMULAS = 8
MOST_BATCHES = 5
MOST_MATERIALS = 5


class Hit(Model):
    """Something that can be opened."""

    kind: Literal["formula", "batch", "material"]
    id: str
    name: str
    description: str
    address: str
    """Where the application shows it."""


def find(stores: Stores, words: str) -> tuple[Hit, ...]:
    """What has every one of `words` in its name, its code or its oils; the last changed first. Without words, the newest."""
    formulas = page_of_formulas(stores.formulas, FormulaFilter(words=words, is_counted=False), MOST_FORMULAS).formulas
    batches = page_of_batches(stores, words, limit=MOST_BATCHES).batches
    materials = stores.materials.named(words, MOST_MATERIALS) if words.strip() else []
    kinds = {purpose.id: purpose.name for purpose in purposes().values()}
    return (
        *(
            Hit(
                kind="formula", id=one.id, name=one.name, address=f"/formulas/{one.id}",
                description=" · ".join((kinds.get(one.purpose, one.purpose), *(oil.name for oil in one.strata))),
            )
            for one in formulas
            if one.state != "unreadable"
        ),
        *(
            Hit(
                kind="batch", id=one.id, name=f"{one.code} {one.name}", address=f"/batches/{one.id}",
                description=f"batch, {one.status}",
            )
            for one in batches
            if one.status != "unreadable"
        ),
        *(
            Hit(kind="material", id=material_id, name=name, address="/stock/materials", description="own material")
            for material_id, name in materials
        ),
    )  # fmt: skip
