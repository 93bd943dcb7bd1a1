"""The catalogue held to its own chemistry: what each row lists against what its composition must give."""

from collections.abc import Iterator

from sapolin.core.materials.catalogue import Catalogue, Oil
from sapolin.core.materials.fatty_acids import (
    ACIDS,
    IODINE_G_PER_MOL_DOUBLE_BOND,
    iodine_value_of,
    sap_of_free_acids_koh_mg_per_g,
    sap_of_triglyceride_koh_mg_per_g,
)
from sapolin.core.quantities.model import Model
from sapolin.core.quantities.molar_masses import KOH_G_PER_MOL

__all__ = ["AuditRow", "audit"]

SAP_ABOVE = 0.01
"""A fat's listed SAP value may lie above the one its composition gives by this part: too much of it is too much lye."""
SAP_BELOW = 0.025
"""Below, by this part: that is on the side of more superfat."""
SAP_WITH_REASON = 0.1
"""How far it may differ in a row that states why."""
IODINE_TOLERANCE = 0.06
"""A fat's listed iodine value may differ by this part, or by `IODINE_SLACK` where it is close to nothing."""
IODINE_SLACK = 0.6
ACIDS_SUM_PERCENT = (96.0, 101.0)
"""What the acids of the table may account for, of all fatty acids."""
IODINE_WITH_REASON = 0.25
"""How far an iodine value may differ in a row that states why."""
WAX_ESTER_G_PER_MOL = (430.0, 1300.0)
"""Mass of a wax per ester bond: the esters of C16 to C34 acids and alcohols, with free alcohols and hydrocarbons."""
WAX_UNSAPONIFIABLE_PERCENT = 40.0
"""Of a wax, at least this much is alcohol or hydrocarbon."""


class AuditRow(Model):
    """One material, listed against computed."""

    oil: str
    kind: str
    sap_listed_koh_mg_per_g: float
    sap_computed_koh_mg_per_g: float | None
    """Null for waxes, whose alcohols the table does not hold."""
    iodine_listed: float
    iodine_computed: float | None
    acids_sum_percent: float
    reason: str
    """Why the row may differ, when it states one."""
    faults: tuple[str, ...]
    """What does not agree; empty when the row passes."""


def _computed(oil: Oil) -> tuple[float, float]:
    profile = [acid.typical for acid in oil.acids_percent]
    saponifiable = 1 - oil.unsaponifiable_percent.typical / 100
    if oil.kind == "free_acid":
        sap = sap_of_free_acids_koh_mg_per_g(profile) * saponifiable
        iodine = sum(
            percent * acid.double_bonds * IODINE_G_PER_MOL_DOUBLE_BOND / acid.molar_mass_g_per_mol
            for percent, acid in zip(profile, ACIDS, strict=True)
        )
        return sap, iodine * saponifiable
    sap = sap_of_triglyceride_koh_mg_per_g(profile, oil.unsaponifiable_percent.typical)
    return sap, iodine_value_of(profile) * saponifiable


def _differs(listed: float, computed: float, tolerance: float, slack: float = 0.0) -> bool:
    return abs(computed - listed) > max(tolerance * listed, slack)


def _wax_faults(oil: Oil) -> Iterator[str]:
    low, high = WAX_ESTER_G_PER_MOL
    ester_g_per_mol = 1000 * KOH_G_PER_MOL / oil.sap_koh_mg_per_g.typical
    if not low <= ester_g_per_mol <= high:
        yield f"SAP {oil.sap_koh_mg_per_g.typical:g} means {ester_g_per_mol:.0f} g per ester bond, no wax has that"
    if oil.unsaponifiable_percent.typical < WAX_UNSAPONIFIABLE_PERCENT:
        yield f"a wax with {oil.unsaponifiable_percent.typical:g} % unsaponifiables is none"


def _faults(oil: Oil, sap: float, iodine: float, acids_sum: float) -> Iterator[str]:
    named = oil.audit_note.partition(":")[0]
    above, below = (SAP_WITH_REASON,) * 2 if "SAP" in named else (SAP_ABOVE, SAP_BELOW)
    iodine_tolerance = IODINE_WITH_REASON if "iodine value" in named else IODINE_TOLERANCE
    if not -below <= oil.sap_koh_mg_per_g.typical / sap - 1 <= above:
        yield f"SAP {oil.sap_koh_mg_per_g.typical:g} listed, {sap:.1f} from the composition"
    if _differs(oil.iodine_value.typical, iodine, iodine_tolerance, IODINE_SLACK):
        yield f"iodine value {oil.iodine_value.typical:g} listed, {iodine:.1f} from the composition"
    low, high = ACIDS_SUM_PERCENT
    if "acids" not in named and not low <= acids_sum <= high:
        yield f"acids sum to {acids_sum:.1f} %"


def audit(catalogue: Catalogue) -> tuple[AuditRow, ...]:
    """Audit every row of `catalogue`, in its order.

    Fats: SAP no more than 1 % above what the composition gives and 2.5 % below it, iodine value within 6 %, acids 96-101 %.
    Free acids: the same with the stoichiometry of acids. Waxes: a mass per ester bond that waxes have, and their
    unsaponifiables. Where the row states a reason in `audit_note`, SAP may differ by a tenth, an iodine value by a quarter.

    >>> from sapolin.core.materials.catalogue import catalogue
    >>> [row.oil for row in audit(catalogue()) if row.faults]
    []
    """
    rows = []
    for oil in catalogue.values():
        acids_sum = sum(acid.typical for acid in oil.acids_percent)
        is_wax = oil.kind == "wax"
        sap, iodine = _computed(oil)
        faults = [*(_wax_faults(oil) if is_wax else _faults(oil, sap, iodine, acids_sum))]
        if abs(acids_sum + oil.other_percent - 100) > 0.06:
            faults.append(f"acids and other sum to {acids_sum + oil.other_percent:.1f} %")
        rows.append(
            AuditRow(
                oil=oil.id,
                kind=oil.kind,
                sap_listed_koh_mg_per_g=oil.sap_koh_mg_per_g.typical,
                sap_computed_koh_mg_per_g=None if is_wax else sap,
                iodine_listed=oil.iodine_value.typical,
                iodine_computed=None if is_wax else iodine,
                acids_sum_percent=acids_sum,
                reason="a wax: half of it is alcohol, which the acid table does not hold" if is_wax else oil.audit_note,
                faults=tuple(faults),
            )
        )
    return tuple(rows)
