"""How much lye a batch takes, in moles of hydroxide: what the fats can take, less the superfat, plus what acids consume.

Source: definition of the SAP value (ISO 3657) and the molar masses of NaOH and KOH (CIAAW).
"""

from typing import NamedTuple

from sapolin.core.formula.document import Koh
from sapolin.core.quantities.model import given
from sapolin.core.quantities.molar_masses import KOH_G_PER_MOL, NAOH_G_PER_MOL

__all__ = ["LyeWeights", "weigh_lye"]


class LyeWeights(NamedTuple):
    """Lye as bought, g."""

    naoh_g: float
    """0 when the lye is all KOH."""
    koh_g: float
    """0 when the lye is all NaOH."""

    @property
    def total_g(self) -> float:
        """All lye as bought, g."""
        return self.naoh_g + self.koh_g


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
    if koh is None:
        return LyeWeights(demand_mol / _mol_per_g(naoh_purity_percent, NAOH_G_PER_MOL), 0.0)
    share, koh_mol_per_g = given(koh.value) / 100, _mol_per_g(koh.purity_percent, KOH_G_PER_MOL)
    if koh.by == "saponification_percent":
        naoh_mol = demand_mol * (1 - share)
        naoh_g = naoh_mol / _mol_per_g(naoh_purity_percent, NAOH_G_PER_MOL) if share < 1 else 0.0
        return LyeWeights(naoh_g, demand_mol * share / koh_mol_per_g)
    of_naoh = (1 - share) * _mol_per_g(naoh_purity_percent, NAOH_G_PER_MOL) if share < 1 else 0.0
    total_g = demand_mol / (share * koh_mol_per_g + of_naoh)
    return LyeWeights(total_g * (1 - share), total_g * share)


def _mol_per_g(purity_percent: float | None, g_per_mol: float) -> float:
    """Hydroxide in a g as bought, mol."""
    return given(purity_percent) / 100 / g_per_mol
