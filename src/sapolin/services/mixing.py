"""One lot out of others: split, poured together, a master blend, a master lye."""

from collections.abc import Sequence
from typing import Annotated
from uuid import uuid4

from pydantic import Field
from sqlalchemy.orm import Session

from sapolin.core.materials.catalogue import catalogue
from sapolin.core.materials.own import OwnMaterial, Recipe, RecipeComponent
from sapolin.core.quantities.diagnostics import FormulaError, stopping
from sapolin.core.quantities.model import FiniteNumber, Model
from sapolin.core.stock.ledger import Lot, MaterialKind, lot_problem
from sapolin.core.stock.mixing import MixedPart, master_lye, mix_problem, mixed_lot
from sapolin.services.stock import LotWhole, lot_whole
from sapolin.store.stock import LotStanding
from sapolin.store.stores import Stores

__all__ = ["LotMix", "MixPart", "mix_lots"]


class MixPart(Model):
    """So much of a lot."""

    lot_id: Annotated[str, Field(max_length=32)]
    grams: FiniteNumber


class LotMix(Model):
    """What is poured together."""

    code: Annotated[str, Field(min_length=1, max_length=24, pattern=r"\S")]
    """Of the new tub."""
    name: Annotated[str, Field(max_length=120)] = ""
    """Of a master blend; it becomes a material of one's own."""
    parts: Annotated[tuple[MixPart, ...], Field(min_length=1, max_length=20)]
    water_g: FiniteNumber = 0.0
    """Of a master lye."""
    place: Annotated[str, Field(max_length=60)] = ""


def mix_lots(mix: LotMix, key: str, stores: Stores) -> LotWhole:
    """Pour lots together, once for each `key`. Raises UnknownLotError, or FormulaError with why it cannot be."""
    today = stores.today()
    blend: list[OwnMaterial] = []

    def make(standing: Sequence[LotStanding], codes: Sequence[str]) -> Lot:
        parts = [
            MixedPart(one.id, one.lot, one.now.in_hand_g, one.now.is_stopped, float(part.grams))
            for one, part in zip(standing, mix.parts, strict=True)
        ]
        if len({part.lot_id for part in parts}) < len(parts):
            raise FormulaError([stopping("lot_named_twice", "parts")])
        problem = mix_problem(parts, mix.water_g)
        if problem is not None:
            raise FormulaError([problem])
        material, kind = _material(parts, mix, blend)
        lot = mixed_lot(parts, mix.water_g, mix.code.strip(), material, kind, mix.place, today)
        problem = lot_problem(lot, codes, today)
        if problem is not None:
            raise FormulaError([problem])
        return lot

    def then(session: Session) -> None:
        for material in blend:
            stores.materials.create_in(session, material)

    kept = stores.stock.mix([(part.lot_id, float(part.grams)) for part in mix.parts], key, make, then)
    return lot_whole(kept.id, stores)


def _material(parts: Sequence[MixedPart], mix: LotMix, blend: list[OwnMaterial]) -> tuple[str, MaterialKind]:
    """What the new lot is. A blend of several oils is put into `blend`, to be kept as a material of one's own."""
    materials = {part.lot.material for part in parts}
    first = parts[0].lot
    if mix.water_g > 0:
        lye_g = sum(part.grams for part in parts)
        return master_lye(first.material, round(100 * lye_g / (lye_g + mix.water_g), 1)), "lye"
    if len(materials) == 1:
        return first.material, first.kind
    if not mix.name.strip():
        raise FormulaError([stopping("blend_without_a_name", "name")])
    total = sum(part.grams for part in parts)
    shares: dict[str, float] = {}
    for part in parts:
        shares[part.lot.material] = shares.get(part.lot.material, 0.0) + 100 * part.grams / total
    unknown = [oil for oil in shares if oil not in catalogue() and not oil.startswith("own-")]
    if unknown:
        raise FormulaError([stopping("not_mixed", "parts")])
    rounded = {oil: round(share, 3) for oil, share in shares.items()}
    # What rounding leaves goes to the largest, so that they sum to 100.
    largest = max(rounded, key=lambda oil: rounded[oil])
    rounded[largest] = round(rounded[largest] + 100 - sum(rounded.values()), 3)
    material = OwnMaterial(
        id=f"own-mix-{uuid4().hex[:12]}", name=mix.name.strip(), notes=f"lot {mix.code.strip()}",
        content=Recipe(
            kind="recipe",
            components=tuple(RecipeComponent(oil=oil, share_percent=share) for oil, share in rounded.items()),
        ),
    )  # fmt: skip
    blend.append(material)
    return material.id, "oil"
