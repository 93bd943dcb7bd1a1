"""What lye and fats become: soap, glycerol, and the oil that no lye is left for.

By mass, fats that reacted + hydroxide spent on them = soap + glycerol (triglycerides: one mole for three of hydroxide) or
soap + water (free acids: one mole for one); the alcohols of waxes stay with the soap. Free acids take the lye at once, before
any fat; what is left of it, triglycerides and waxes share by what they could take.
"""

from typing import NamedTuple

from sapolin.core.formula.composition import Composition, OilComponent
from sapolin.core.quantities.molar_masses import GLYCEROL_G_PER_MOL, KOH_G_PER_MOL, WATER_G_PER_MOL

__all__ = ["Soap", "SoapOfFat", "soap_of"]


class SoapOfFat(NamedTuple):
    """What one fat of a batch becomes."""

    fat: OilComponent
    of_liquid: bool
    """It came with a liquid, such as the fat of milk."""
    reacted_g: float
    """What of it meets lye, g; the rest stays as it is."""
    spent_mol: float
    """Hydroxide that it takes, mol."""

    @property
    def glycerol_g(self) -> float:
        """Glycerol that comes off, g: one mole for three of hydroxide, of triglycerides alone."""
        return self.spent_mol / 3 * GLYCEROL_G_PER_MOL if self.fat.oil.kind == "triglyceride" else 0.0

    @property
    def water_formed_g(self) -> float:
        """Water that forms, g: of free acids alone."""
        return self.spent_mol * WATER_G_PER_MOL if self.fat.oil.kind == "free_acid" else 0.0

    @property
    def free_g(self) -> float:
        """What of it stays fat, g."""
        return self.fat.weight_g - self.reacted_g

    def soap_g(self, base_g_per_mol: float) -> float:
        """Its soap with a base of that molar mass, dry, g."""
        return self.reacted_g + self.spent_mol * base_g_per_mol - self.glycerol_g - self.water_formed_g


class Soap(NamedTuple):
    """What a batch becomes, nothing boiled off."""

    of_fats: tuple[SoapOfFat, ...]
    """Fat by fat: oils with every mixture taken apart, then those of liquids."""
    base_g_per_mol: float
    filler_g: float
    """What of mixtures is no fat at all, g."""

    @property
    def soap_g(self) -> float:
        """Soap, dry, g."""
        return sum(one.soap_g(self.base_g_per_mol) for one in self.of_fats)

    @property
    def glycerol_g(self) -> float:
        """Glycerol that forms, g."""
        return sum(one.glycerol_g for one in self.of_fats)

    @property
    def water_formed_g(self) -> float:
        """Water that free acids form, g."""
        return sum(one.water_formed_g for one in self.of_fats)

    @property
    def free_fat_g(self) -> float:
        """Fat that no lye is left for, and fillers, g."""
        return sum(one.free_g for one in self.of_fats) + self.filler_g

    @property
    def spent_mol(self) -> float:
        """Hydroxide that fats take, mol."""
        return sum(one.spent_mol for one in self.of_fats)

    @property
    def glycerides_mol(self) -> tuple[tuple[OilComponent, float], ...]:
        """What of the hydroxide each triglyceride takes."""
        return tuple((one.fat, one.spent_mol) for one in self.of_fats if one.fat.oil.kind == "triglyceride")


def soap_of(composition: Composition) -> Soap:
    """What the fats of a `composition`, those of liquids too, become with the lye that acids leave.

    More lye than fats can take stays lye and makes no soap.
    """
    of_liquids = composition.fats[len(composition.oils) :]
    fats = (*((one, False) for one in composition.pure_oils), *((one, True) for one in of_liquids))
    acids = [one for one, _ in fats if one.oil.kind == "free_acid"]
    esters = [one for one, _ in fats if one.oil.kind != "free_acid"]
    left_mol = max(composition.lye_mol - composition.consumed_mol, 0.0)
    acids_react = _fraction(left_mol, acids)
    esters_react = _fraction(left_mol - acids_react * _takes_mol(acids), esters)
    return Soap(
        of_fats=tuple(
            SoapOfFat(fat, of_liquid, reacts * fat.weight_g, reacts * _takes_mol([fat]))
            for fat, of_liquid in fats
            for reacts in (acids_react if fat.oil.kind == "free_acid" else esters_react,)
        ),
        base_g_per_mol=composition.base_g_per_mol,
        filler_g=composition.oils_g - sum(one.weight_g for one in composition.pure_oils),
    )


def _takes_mol(fats: list[OilComponent]) -> float:
    return sum(one.koh_g for one in fats) / KOH_G_PER_MOL


def _fraction(lye_mol: float, fats: list[OilComponent]) -> float:
    """How much of `fats` so much hydroxide turns into soap, from 0 to 1."""
    takes_mol = _takes_mol(fats)
    return min(max(lye_mol, 0.0) / takes_mol, 1.0) if takes_mol > 0 else 0.0
