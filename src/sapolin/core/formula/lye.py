"""How much lye a batch takes, in moles of hydroxide: what the fats can take, less the superfat, plus what acids eat.

Source: definition of the SAP value (ISO 3657) and the molar masses of NaOH and KOH (CIAAW).
"""

from collections.abc import Sequence

from sapolin.core.formula.blend import Component
from sapolin.core.formula.document import Koh
from sapolin.core.materials.fatty_acids import KOH_G_PER_MOL
from sapolin.core.quantities.model import Model

__all__ = [
    "NAOH_G_PER_MOL",
    "NAOH_PER_KOH",
    "CausticCheckError",
    "LyeWeights",
    "hydroxide_mol",
    "koh_need_g",
    "superfat_left_percent",
    "verify_lye",
    "weigh_lye",
]

NAOH_G_PER_MOL = 39.997
"""Molar mass of sodium hydroxide, g/mol (CIAAW)."""
NAOH_PER_KOH = NAOH_G_PER_MOL / KOH_G_PER_MOL
"""Grams of NaOH that do the work of one gram of KOH: 0.71289."""

MAX_PURE_NAOH_PER_OIL = 0.30
"""No fat takes more pure NaOH, g/g: caprylic acid by itself, the heaviest consumer of lye among soap-making acids, takes
39.997 / 144.21 = 0.277, and 0.291 at the largest excess accepted (5 %)."""


class CausticCheckError(RuntimeError):
    """A lye quantity failed its checks, so it must not be shown. This is a fault of the program, never of the maker."""


class LyeWeights(Model):
    """Lye as bought, and the hydroxide in it."""

    naoh_g: float
    """NaOH to weigh, as bought, g; 0 when the lye is all KOH."""
    koh_g: float
    """KOH to weigh, as bought, g; 0 when the lye is all NaOH."""
    naoh_pure_g: float
    koh_pure_g: float

    @property
    def total_g(self) -> float:
        """All lye as bought, g."""
        return self.naoh_g + self.koh_g


def koh_need_g(components: Sequence[Component]) -> float:
    """Pure KOH, g, that saponifies all of `parts`: sum of weight * SAP / 1000."""
    return sum(component.weight_g * component.oil.sap_koh_mg_per_g.typical for component in components) / 1000


def weigh_lye(demand_mol: float, naoh_purity_percent: float | None, koh: Koh | None) -> LyeWeights:
    """Lye to weigh, as bought, that holds `demand_mol` mol of hydroxide.

    Parameters: `naoh_purity_percent`, NaOH in what is weighed, %, may be null when `koh` takes all; `koh`, share and
    purity of the KOH, or null for none. Expects entries that :mod:`sapolin.core.formula.check` has passed.

    A thousand grams of olive oil (SAP 190) at 5 % superfat, with 99 % NaOH:

    >>> round(weigh_lye(190.0 / 56.1056 * 0.95, 99.0, None).naoh_g, 2)
    129.98

    The same with a tenth of the saponification by 90 % KOH:

    >>> koh = Koh(by="saponification_percent", value=10.0, purity_percent=90.0)
    >>> lye = weigh_lye(190.0 / 56.1056 * 0.95, 99.0, koh)
    >>> round(lye.naoh_g, 2), round(lye.koh_g, 2)
    (116.98, 20.06)
    """
    naoh_mol_per_g = (naoh_purity_percent or 0.0) / 100 / NAOH_G_PER_MOL
    if koh is None:
        naoh_g, koh_g = demand_mol / naoh_mol_per_g, 0.0
    else:
        koh_mol_per_g = (koh.purity_percent or 0.0) / 100 / KOH_G_PER_MOL
        share = (koh.value or 0.0) / 100
        if koh.by == "saponification_percent":
            koh_g = demand_mol * share / koh_mol_per_g
            naoh_g = demand_mol * (1 - share) / naoh_mol_per_g if share < 1 else 0.0
        else:
            total_g = demand_mol / (share * koh_mol_per_g + (1 - share) * naoh_mol_per_g)
            koh_g, naoh_g = total_g * share, total_g * (1 - share)
    return LyeWeights(
        naoh_g=naoh_g,
        koh_g=koh_g,
        naoh_pure_g=naoh_g * naoh_mol_per_g * NAOH_G_PER_MOL,
        koh_pure_g=0.0 if koh is None else koh_g * (koh.purity_percent or 0.0) / 100,
    )


def hydroxide_mol(naoh_pure_g: float, koh_pure_g: float) -> float:
    """Hydroxide in pure lye, mol."""
    return naoh_pure_g / NAOH_G_PER_MOL + koh_pure_g / KOH_G_PER_MOL


def superfat_left_percent(fats_mol: float, lye_mol: float, consumed_mol: float) -> float:
    """Superfat, %, left when `lye_mol` of hydroxide meets acids that eat `consumed_mol` and fats that could take
    `fats_mol`."""
    return 100 * (1 - (lye_mol - consumed_mol) / fats_mol)


def verify_lye(
    lye: LyeWeights, *, saponified_koh_g: float, superfat_percent: float, added_back_naoh_g: float, oils_g: float
) -> None:
    """Check a lye quantity by another way before anyone sees it.

    In grams of NaOH, from the SAP values and from the listed lye needs of the acids: `saponified_koh_g` is the pure KOH
    that the oils calculated with lye take, `added_back_naoh_g` the pure NaOH added back for acids. The weight must also be
    one that fats can need at all. Raises CausticCheckError when anything fails.
    """
    as_naoh_g = lye.naoh_pure_g + lye.koh_pure_g * NAOH_PER_KOH
    for_fats_g = saponified_koh_g * NAOH_PER_KOH * (100 - superfat_percent) / 100
    # The acids' listed needs have four decimals: 0.05 % of them is the rounding of the table.
    allowed_g = 1e-9 * max(for_fats_g, 1e-9) + 5e-4 * added_back_naoh_g
    agrees = abs(as_naoh_g - for_fats_g - added_back_naoh_g) <= allowed_g
    possible = 0 < as_naoh_g <= MAX_PURE_NAOH_PER_OIL * oils_g + added_back_naoh_g * 1.001
    weighed_as_bought = lye.naoh_pure_g <= lye.naoh_g * (1 + 1e-12) and lye.koh_pure_g <= lye.koh_g * (1 + 1e-12)
    if not (agrees and possible and weighed_as_bought and lye.naoh_g >= 0 and lye.koh_g >= 0):
        raise CausticCheckError(f"{lye} for {oils_g} g oils: check wants {for_fats_g + added_back_naoh_g} g NaOH")
