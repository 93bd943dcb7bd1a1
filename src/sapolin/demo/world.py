"""Juniper Ridge: a made-up two-person workshop that supplies guest bars to a string of mountain huts."""

import json
from importlib.resources import files

from sapolin.core.formula.document import Formula
from sapolin.core.materials.own import OwnMaterial
from sapolin.demo.batches import fill_batches
from sapolin.demo.trials import days_ago
from sapolin.exchange.formula_document import read_document
from sapolin.store.stores import Stores
from sapolin.store.target_sets import TargetSet

__all__ = ["fill", "formula", "slugs", "wants_filling"]

_HERE = files("sapolin.demo")
_MARK = "demo"


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


def wants_filling(stores: Stores) -> bool:
    """Whether there is no demo world yet, or only a part of one because the filling was cut off."""
    if stores.workshop.mark(_MARK) == "filling":
        return True
    return stores.formulas.is_empty()


def fill(stores: Stores) -> None:
    """Empty the stores and fill them with the demo world; a filling that is cut off is begun again at the next start."""
    stores.clear()
    stores.workshop.set_mark(_MARK, "filling")
    store = stores.formulas
    for oil, per_kg in json.loads(_HERE.joinpath("prices.json").read_text(encoding="utf-8")).items():
        stores.prices.set(oil, per_kg)
    for targets in json.loads(_HERE.joinpath("target_sets.json").read_text(encoding="utf-8")):
        stores.target_sets.create(TargetSet.model_validate(targets))
    for material in materials():
        stores.materials.create(material)
    for slug, versions in _history().items():
        first = versions[0]["file"] if versions else slug
        record = store.create(formula(first))
        for version in versions:
            record = store.update(record.id, record.revision, formula(version["file"]))
            store.keep_version(record.id, record.revision, version["note"], days_ago(float(version["days_ago"])))
        if versions:
            store.update(record.id, record.revision, formula(slug))
    fill_batches(stores)
    stores.workshop.set_mark(_MARK, "filled")
