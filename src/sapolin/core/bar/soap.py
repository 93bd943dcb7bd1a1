"""What lye and fats become: soap, glycerol, and the oil that no lye is left for.

By mass, fats that reacted + hydroxide spent on them = soap + glycerol (triglycerides: one mole for three of hydroxide) or
soap + water (free acids: one mole for one); the alcohols of waxes stay with the soap. Free acids take the lye at once, before
any fat; what is left of it, triglycerides and waxes share by what they could take.
"""

from typing import NamedTuple

from sapolin.core.formula.composition import Composition, OilComponent
from sapolin.core.quantities.molar_masses import GLYCEROL_G_PER_MOL, KOH_G_PER_MOL, WATER_G_PER_MOL

__all__ = ["Soap", "soap_of"]


class Soap(NamedTuple):
    """What a batch becomes, nothing boiled off."""

    soap_g: float
    """Soap, dry, g."""
    glycerol_g: float
    water_formed_g: float
    """Of free acids, g."""
    free_fat_g: float
    """Fat that no lye is left for, that of liquids too, g."""
    spent_mol: float
    """Hydroxide that fats take, mol."""
    glycerides_mol: tuple[tuple[OilComponent, float], ...]
    """What of it each triglyceride takes."""


def soap_of(composition: Composition) -> Soap:
    """What the fats of a `composition`, those of liquids too, become with the lye that acids leave.

    More lye than fats can take stays lye and makes no soap.
    """
    fats = (*composition.pure_oils, *composition.fats[len(composition.oils) :])
    acids = [one for one in fats if one.oil.kind == "free_acid"]
    esters = [one for one in fats if one.oil.kind != "free_acid"]
    left_mol = max(composition.lye_mol - composition.consumed_mol, 0.0)
    acids_react = _fraction(left_mol, acids)
    acids_mol = acids_react * _takes_mol(acids)
    esters_react = _fraction(left_mol - acids_mol, esters)
    glycerides = [one for one in esters if one.oil.kind == "triglyceride"]
    glycerol_g = esters_react * _takes_mol(glycerides) / 3 * GLYCEROL_G_PER_MOL
    water_g = acids_mol * WATER_G_PER_MOL
    spent_mol = acids_mol + esters_react * _takes_mol(esters)
    reacted_g = acids_react * _weight_g(acids) + esters_react * _weight_g(esters)
    return Soap(
        soap_g=reacted_g + spent_mol * composition.base_g_per_mol - glycerol_g - water_g,
        glycerol_g=glycerol_g,
        water_formed_g=water_g,
        free_fat_g=_weight_g(composition.fats) - reacted_g,
        spent_mol=spent_mol,
        glycerides_mol=tuple((one, esters_react * _takes_mol([one])) for one in glycerides),
    )


def _takes_mol(fats: list[OilComponent]) -> float:
    return sum(one.koh_g for one in fats) / KOH_G_PER_MOL


def _weight_g(fats: list[OilComponent] | tuple[OilComponent, ...]) -> float:
    return sum(one.weight_g for one in fats)


def _fraction(lye_mol: float, fats: list[OilComponent]) -> float:
    """How much of `fats` so much hydroxide turns into soap, from 0 to 1."""
    takes_mol = _takes_mol(fats)
    return min(max(lye_mol, 0.0) / takes_mol, 1.0) if takes_mol > 0 else 0.0
