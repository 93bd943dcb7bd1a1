"""How much sodium hydroxide a blend takes.

Source: definition of the SAP value (ISO 3657) and the molar masses of NaOH and KOH (CIAAW).
"""

from collections.abc import Sequence

from sapolin.core.acids import KOH_G_PER_MOL
from sapolin.core.blend import Portion

__all__ = [
    "NAOH_G_PER_MOL",
    "NAOH_PER_KOH",
    "CausticCheckError",
    "koh_need_g",
    "naoh_to_weigh_g",
    "superfat_left_percent",
    "verify_naoh",
]

NAOH_G_PER_MOL = 39.997
"""Molar mass of sodium hydroxide, g/mol (CIAAW)."""
NAOH_PER_KOH = NAOH_G_PER_MOL / KOH_G_PER_MOL
"""Grams of NaOH that do the work of one gram of KOH: 0.71289."""

MAX_PURE_NAOH_PER_OIL = 0.30
"""No fat takes more pure NaOH, g/g: caprylic acid by itself, the heaviest eater of lye among soap-making acids, takes
39.997 / 144.21 = 0.277, and 0.291 at the largest excess accepted (5 %)."""


class CausticCheckError(RuntimeError):
    """A lye figure failed its checks, so it must not be shown. This is a fault of the program, never of the maker."""


def koh_need_g(parts: Sequence[Portion]) -> float:
    """Pure KOH, g, that saponifies all of the oils: sum of weight * SAP / 1000."""
    return sum(part.weight_g * part.oil.sap_koh_mg_per_g.typical for part in parts) / 1000


def naoh_to_weigh_g(koh_g: float, superfat_percent: float, purity_percent: float) -> float:
    """NaOH to weigh, g, as bought.

    Parameters: `koh_g` pure KOH for full saponification, g; `superfat_percent` share of the lye withheld, %;
    `purity_percent` NaOH in what is weighed, %.

    A thousand grams of olive oil (SAP 190), 5 % superfat, 99 % lye:

    >>> round(naoh_to_weigh_g(190.0, 5.0, 99.0), 2)
    129.98
    """
    return koh_g * NAOH_PER_KOH * (1 - superfat_percent / 100) / (purity_percent / 100)


def superfat_left_percent(koh_g: float, naoh_g: float, purity_percent: float) -> float:
    """Superfat, %, that a weighed `naoh_g` leaves: the inverse of :func:`naoh_to_weigh_g`."""
    return 100 * (1 - naoh_g * purity_percent / 100 / (koh_g * NAOH_PER_KOH))


def verify_naoh(naoh_g: float, *, koh_g: float, oils_g: float, superfat_percent: float, purity_percent: float) -> None:
    """Check a lye figure by another way before anyone sees it.

    In moles: the hydroxide weighed must equal the hydroxide the oils can take, less the superfat; and the weight must
    be one that fats can need at all. Raises CausticCheckError when either fails.
    """
    hydroxide_weighed_mol = naoh_g * purity_percent / 100 / NAOH_G_PER_MOL
    hydroxide_wanted_mol = koh_g / KOH_G_PER_MOL * (100 - superfat_percent) / 100
    agrees = abs(hydroxide_weighed_mol - hydroxide_wanted_mol) <= 1e-9 * max(hydroxide_wanted_mol, 1e-9)
    possible = 0 < naoh_g * purity_percent / 100 <= MAX_PURE_NAOH_PER_OIL * oils_g
    if not agrees or not possible:
        raise CausticCheckError(f"{naoh_g} g NaOH for {oils_g} g oils: check wants {hydroxide_wanted_mol} mol")
