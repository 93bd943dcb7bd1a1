"""Juniper Ridge: a made-up two-person workshop that supplies guest bars to a string of mountain huts."""

import json
from importlib.resources import files

from sapolin.core.formula import Formula
from sapolin.core.materials import OwnMaterial
from sapolin.exchange.formula_document import read_document
from sapolin.store.formulas import FormulaStore
from sapolin.store.materials import MaterialStore
from sapolin.store.prices import PriceStore

__all__ = ["fill", "formula", "slugs"]

_HERE = files("sapolin.demo")


def slugs() -> tuple[str, ...]:
    """The demo formulas by file name, the one to open first last."""
    return tuple(_history())


def formula(slug: str) -> Formula:
    """One demo formula, read from its document."""
    return read_document(_HERE.joinpath("formulas", f"{slug}.json").read_bytes())


def _history() -> dict[str, list[dict[str, str]]]:
    history: dict[str, list[dict[str, str]]] = json.loads(_HERE.joinpath("history.json").read_text(encoding="utf-8"))
    return history


def materials() -> tuple[OwnMaterial, ...]:
    """The workshop's own materials, parts before what holds them."""
    rows = json.loads(_HERE.joinpath("materials.json").read_text(encoding="utf-8"))
    return tuple(OwnMaterial.model_validate(row) for row in rows)


def fill(store: FormulaStore, shelf: MaterialStore, prices: PriceStore) -> None:
    """Empty the stores and fill them with the demo world."""
    store.clear()
    shelf.clear()
    prices.clear()
    for oil, per_kg in json.loads(_HERE.joinpath("prices.json").read_text(encoding="utf-8")).items():
        prices.set(oil, per_kg)
    for material in materials():
        shelf.create(material)
    for slug, versions in _history().items():
        first = versions[0]["file"] if versions else slug
        record = store.create(formula(first))
        for version in versions:
            record = store.update(record.id, record.revision, formula(version["file"]))
            store.keep_version(record.id, record.revision, version["note"])
        if versions:
            store.update(record.id, record.revision, formula(slug))
