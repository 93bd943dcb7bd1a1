"""One lot out of others: a tub split in two, two tubs poured together, a master blend, a master lye.

What goes in leaves its lot at that weight; what comes out is a lot of its own that knows what it is made of, costs what its
parts cost, and keeps no longer than the part that turns first.
"""

from collections.abc import Sequence
from datetime import date
from typing import NamedTuple

from sapolin.core.quantities.diagnostics import Diagnostic, stopping
from sapolin.core.quantities.text import number, percent, weight
from sapolin.core.stock.ledger import Lot, LotPart, MaterialKind, lot_stopped, not_in_hand

__all__ = ["MASTER_PERCENT", "MixedPart", "master_lye", "master_percent_of", "mix_problem", "mixed_lot"]

MASTER_PERCENT = (20.0, 50.0)
"""A master lye is kept between these: below it is hardly worth its tub, above it crystals fall out in the cold."""
ENOUGH_G = 1e-6


class MixedPart(NamedTuple):
    """What goes in from one lot."""

    lot_id: str
    lot: Lot
    in_hand_g: float
    is_stopped: bool
    grams: float


def master_lye(lye: str, lye_percent: float) -> str:
    """Id of a master lye of `naoh` or `koh`.

    >>> master_lye("naoh", 50.0), master_percent_of("naoh:50"), master_percent_of("naoh")
    ('naoh:50', 50.0, None)
    """
    return f"{lye}:{lye_percent:g}"


def master_percent_of(material: str) -> float | None:
    """Lye in a master lye, %; null for anything else."""
    lye, _, part = material.partition(":")
    return float(part) if lye in ("naoh", "koh") and part.replace(".", "", 1).isdigit() else None


def mix_problem(parts: Sequence[MixedPart], water_g: float) -> Diagnostic | None:
    """Why lots cannot be mixed; null when they can."""
    if not parts:
        return stopping("nothing_to_mix", "parts")
    for i, part in enumerate(parts):
        if part.grams <= 0:
            return stopping("no_amount", f"parts[{i}].grams")
        if part.is_stopped:
            return lot_stopped(part.lot.code, "", f"parts[{i}].lot_id")
        if part.grams > part.in_hand_g + ENOUGH_G:
            return not_in_hand(part.lot, part.in_hand_g, f"parts[{i}].grams")
    kinds = {part.lot.kind for part in parts}
    materials = {part.lot.material for part in parts}
    if len(kinds) > 1 or (len(materials) > 1 and kinds != {"oil"}):
        return stopping("not_mixed", "parts")
    if water_g < 0 or (water_g > 0 and (kinds != {"lye"} or any(master_percent_of(one) for one in materials))):
        return stopping("water_with_lye_only", "water_g")
    if kinds == {"lye"}:
        return _lye_problem(parts, water_g)
    return None


def _lye_problem(parts: Sequence[MixedPart], water_g: float) -> Diagnostic | None:
    purities = {part.lot.purity_percent for part in parts}
    if len(purities) > 1:
        return stopping("lyes_of_two_purities", "parts")
    if water_g == 0:
        return None
    lye_g = sum(part.grams for part in parts)
    share = 100 * lye_g / (lye_g + water_g)
    low, high = MASTER_PERCENT
    if not low <= share <= high + 0.05:
        return stopping(
            "master_lye_strange", "water_g", share=percent(share, 1), low=number(low, 0), high=percent(high, 0),
            more=weight(max(lye_g * (100 - high) / high, 0.0), 0),
        )  # fmt: skip
    return None


def mixed_lot(
    parts: Sequence[MixedPart], water_g: float, code: str, material: str, kind: MaterialKind, place: str, today: date
) -> Lot:
    """The lot that comes out. The parts have passed :func:`mix_problem`."""
    total_g = sum(part.grams for part in parts) + water_g
    paid = [part.lot.per_kg * part.grams / 1000 for part in parts if part.lot.per_kg is not None]
    dates = [part.lot.best_before for part in parts if part.lot.best_before is not None]
    one = parts[0].lot if len(parts) == 1 else None
    return Lot(
        code=code, material=material, kind=kind, amount_g=total_g,
        price=sum(paid) if len(paid) == len(parts) else None, arrived=today, place=place,
        supplier="" if one is None else one.supplier, supplier_code="" if one is None else one.supplier_code,
        certificate=None if one is None else one.certificate, best_before=min(dates) if dates else None,
        purity_percent=parts[0].lot.purity_percent, has_antioxidant=all(part.lot.has_antioxidant for part in parts),
        parts=tuple(LotPart(lot_id=part.lot_id, code=part.lot.code, grams=part.grams) for part in parts),
    )  # fmt: skip
