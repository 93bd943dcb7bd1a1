"""Names and kinds of what the shelf holds, by the ids that lots go by."""

from collections.abc import Mapping

from sapolin.core.materials.catalogue import catalogue
from sapolin.core.materials.ingredients import additives, colorants, liquids, scents
from sapolin.core.quantities.text import percent, plain, template, text
from sapolin.core.stock.ledger import MaterialKind
from sapolin.core.stock.mixing import master_percent_of
from sapolin.store.stores import Stores

__all__ = ["Named", "name_of", "named_materials", "own_names"]

Named = tuple[str, MaterialKind]


def own_names(stores: Stores) -> dict[str, str]:
    """Names of the maker's own materials by id, archived ones too: what stands on the shelf keeps its name."""
    return {one.material.id: one.material.name for one in stores.materials.find(archived=None)}


def name_of(material: str, own: Mapping[str, str]) -> Named | None:
    """Name and kind of a material by its id; null when there is none. A packaging is called by its id."""
    if material in ("naoh", "koh"):
        return template(f"stock.lye.{material}"), "lye"
    share = master_percent_of(material)
    if share is not None:
        lye = material.partition(":")[0].upper().replace("NAOH", "NaOH")
        return plain(text("stock.master_lye", lye=lye, share=percent(share))), "lye"
    if material in catalogue():
        return catalogue()[material].name, "oil"
    tables: dict[str, tuple[Mapping[str, object], MaterialKind]] = {
        "liquid": (liquids(), "liquid"), "additive": (additives(), "additive"), "scent": (scents(), "scent"),
        "colorant": (colorants(), "colorant"),
    }  # fmt: skip
    prefix, _, id_ = material.partition(":")
    if prefix == "packaging" and id_.strip():
        return id_.strip(), "packaging"
    if prefix in tables and id_ in tables[prefix][0]:
        table, kind = tables[prefix]
        return str(getattr(table[id_], "name", id_)), kind
    return (own[material], "oil") if material in own else None


def named_materials(stores: Stores) -> dict[str, Named]:
    """Everything that can stand on the shelf but packaging, by id."""
    found: dict[str, Named] = {id_: (oil.name, "oil") for id_, oil in catalogue().items()}
    found |= {id_: (name, "oil") for id_, name in own_names(stores).items()}
    found |= {id_: (template(f"stock.lye.{id_}"), "lye") for id_ in ("naoh", "koh")}
    found |= {f"liquid:{id_}": (row.name, "liquid") for id_, row in liquids().items()}
    found |= {f"additive:{id_}": (row.name, "additive") for id_, row in additives().items()}
    found |= {f"scent:{id_}": (row.name, "scent") for id_, row in scents().items()}
    found |= {f"colorant:{id_}": (row.name, "colorant") for id_, row in colorants().items()}
    return found
