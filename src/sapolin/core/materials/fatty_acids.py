"""The fatty acids of soap making: structure, molar mass, and what follows from them.

A *profile* is a tuple of mass percent of all fatty acids, one number per acid in the order of :data:`ACIDS`.
"""

from collections.abc import Sequence
from functools import cache

from sapolin.core.quantities.model import Model
from sapolin.core.quantities.molar_masses import KOH_G_PER_MOL
from sapolin.data import read_table

__all__ = [
    "ACIDS",
    "ACID_INDEX",
    "Acid",
    "Profile",
    "iodine_value_of",
    "mean_molar_mass_g_per_mol",
    "sap_of_free_acids_koh_mg_per_g",
    "sap_of_triglyceride_koh_mg_per_g",
]

GLYCEROL_LESS_WATER_G_PER_MOL = 38.049
"""What the glycerol backbone adds to three free acids in a triglyceride: glycerol 92.094 less three waters, g/mol."""
IODINE_G_PER_MOL_DOUBLE_BOND = 253.81
"""I2 taken up per mole of double bonds, g/mol."""

Profile = tuple[float, ...]
"""Mass percent of all fatty acids, in the order of :data:`ACIDS`."""


class Acid(Model):
    """One fatty acid."""

    id: str
    """Carbons and double bonds, as the field writes them: `C18:1`; `-OH` marks the hydroxyl acid."""
    name: str
    carbons: int
    double_bonds: int
    hydroxyls: int
    molar_mass_g_per_mol: float
    group: str
    """The kind of work it does: short, lauric, palmitic, stearic, oleic, ricinoleic, linoleic or linolenic."""
    oxidation_rate_relative_to_oleic: float
    does_in_the_bar: str

    @property
    def iodine_factor(self) -> float:
        """Iodine value of the pure triglyceride of this acid, per percent (AOCS Cd 1c-85).

        >>> [round(ACIDS[ACID_INDEX[a]].iodine_factor, 3) for a in ("C16:1", "C18:1", "C18:2", "C18:3")]
        [0.95, 0.86, 1.732, 2.616]
        """
        triglyceride_g_per_mol = 3 * self.molar_mass_g_per_mol + GLYCEROL_LESS_WATER_G_PER_MOL
        return 3 * self.double_bonds * IODINE_G_PER_MOL_DOUBLE_BOND / triglyceride_g_per_mol


@cache
def _load() -> tuple[Acid, ...]:
    return tuple(Acid.model_validate(row) for row in read_table("acids"))


ACIDS: tuple[Acid, ...] = _load()
"""Every acid Sapolin keeps account of, by chain length, then double bonds."""
ACID_INDEX: dict[str, int] = {acid.id: position for position, acid in enumerate(ACIDS)}
_IODINE_FACTORS = tuple(acid.iodine_factor for acid in ACIDS)


def mean_molar_mass_g_per_mol(profile: Sequence[float]) -> float:
    """Mean molar mass, g/mol, of the fatty acids in `profile` (mass percent): 1 / sum(w / M).

    Raises ValueError when the profile is empty.
    """
    total = sum(profile)
    if total <= 0:
        raise ValueError("a profile without any fatty acid has no mean molar mass")
    return total / sum(percent / acid.molar_mass_g_per_mol for percent, acid in zip(profile, ACIDS, strict=True))


def sap_of_triglyceride_koh_mg_per_g(profile: Sequence[float], unsaponifiable_percent: float = 0.0) -> float:
    """SAP value, mg KOH/g, that a triglyceride of this `profile` must have by stoichiometry (ISO 3657).

    3 * 56105.6 / (3M + 38.049), less the unsaponifiable share. Waxes and free acids differ.

    >>> pure_oleic = tuple(100.0 if acid.id == "C18:1" else 0.0 for acid in ACIDS)
    >>> round(sap_of_triglyceride_koh_mg_per_g(pure_oleic), 1)
    190.1
    """
    triglyceride_g_per_mol = 3 * mean_molar_mass_g_per_mol(profile) + GLYCEROL_LESS_WATER_G_PER_MOL
    return 3 * KOH_G_PER_MOL * 1000 / triglyceride_g_per_mol * (1 - unsaponifiable_percent / 100)


def sap_of_free_acids_koh_mg_per_g(profile: Sequence[float]) -> float:
    """SAP value, mg KOH/g, of free fatty acids of this `profile` by stoichiometry (ISO 3657): 56105.6 / M.

    >>> pure_stearic = tuple(100.0 if acid.id == "C18:0" else 0.0 for acid in ACIDS)
    >>> round(sap_of_free_acids_koh_mg_per_g(pure_stearic), 1)  # of 284.48 g/mol
    197.2
    """
    return KOH_G_PER_MOL * 1000 / mean_molar_mass_g_per_mol(profile)


def iodine_value_of(profile: Sequence[float]) -> float:
    """Iodine value, g I2/100 g, calculated from `profile` (mass percent) as triglyceride (AOCS Cd 1c-85)."""
    return sum(percent * factor for percent, factor in zip(profile, _IODINE_FACTORS, strict=True))
