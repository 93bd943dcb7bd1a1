"""What a batch takes from the shelf, material by material."""

from collections import defaultdict

from sapolin.core.batch.planned import PlannedBatch
from sapolin.core.stock.mixing import master_lye, master_percent_of

__all__ = ["dry_lye_of", "material_of", "needs_of"]


def needs_of(planned: PlannedBatch) -> dict[str, float]:
    """What a planned batch takes of each material, g: oils and lye by their id, all else with its kind before it. What the
    customer brings is not taken."""
    result = planned.result
    needs: dict[str, float] = defaultdict(float)
    for oil in result.oils:
        needs[oil.oil] += oil.weight_g
    for lye, grams in (("naoh", result.lye.naoh_g), ("koh", result.lye.koh_g)):
        master = result.lye.master
        if master is None:
            needs[lye] += grams
        else:  # What is poured is the master lye; its water comes with it.
            needs[master_lye(lye, master.lye_concentration_percent)] += 100 * grams / master.lye_concentration_percent
    for liquid in result.liquids:
        needs[f"liquid:{liquid.liquid}"] += liquid.weight_g
    for additive in result.additives:
        needs[f"additive:{additive.additive}"] += additive.weight_g
    for scent in planned.scents:
        needs[f"scent:{scent.scent}"] += scent.weight_g
    for portion in planned.portions:
        for colour in portion.colours:
            needs[f"colorant:{colour.colorant}"] += colour.weight_g
    return {
        material: round(grams, 2) for material, grams in needs.items() if grams > 0 and material not in planned.brought
    }


def material_of(item: str, planned: PlannedBatch) -> tuple[str, float] | None:
    """The material that was weighed as `item`, and how much of the weight is that material; null for water and cups, and for
    what the customer brought."""
    meant = _weighed(item, planned)
    return None if meant is None or meant[0] in planned.brought else meant


def _weighed(item: str, planned: PlannedBatch) -> tuple[str, float] | None:
    kind, *rest = item.split(":")
    at = [int(one) for one in rest if one.isdigit()]
    if kind == "lye":
        master = planned.result.lye.master
        return (rest[0], 1.0) if master is None else (master_lye(rest[0], master.lye_concentration_percent), 1.0)
    if kind == "oil":
        return planned.result.oils[at[0]].oil, 1.0
    if kind == "liquid":
        return f"liquid:{planned.result.liquids[at[0]].liquid}", 1.0
    if kind == "additive":
        return f"additive:{planned.result.additives[at[0]].additive}", 1.0
    if kind == "scent":
        return f"scent:{planned.scents[at[0]].scent}", 1.0
    if kind == "colour":
        return f"colorant:{planned.portions[at[0]].colours[at[1]].colorant}", 1.0
    return None


def dry_lye_of(material: str) -> tuple[str, float] | None:
    """The dry lye that a master lye is made of, and its part of it; null for anything else.

    >>> dry_lye_of("naoh:50")
    ('naoh', 0.5)
    """
    share = master_percent_of(material)
    return None if share is None else (material.partition(":")[0], share / 100)
