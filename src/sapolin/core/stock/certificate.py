"""What a supplier's sheet says of a lot, checked: whether it can be of that material at all."""

from sapolin.core.materials.catalogue import Oil
from sapolin.core.quantities.diagnostics import Diagnostic, Offer, stopping
from sapolin.core.quantities.molar_masses import NAOH_PER_KOH
from sapolin.core.quantities.text import number, percent, text
from sapolin.core.stock.ledger import Lot

__all__ = ["certificate_problem"]

BEYOND_RANGE = 4.0
"""A lot may lie so far, mg KOH/g, outside the known range of its oil; farther off it is a slip, or another oil's sheet."""


def certificate_problem(lot: Lot, oil: Oil | None) -> Diagnostic | None:
    """Why the certificate of a lot cannot be taken; null when it can, or there is none. `oil` is its row of the catalogue."""
    sheet = lot.certificate
    if sheet is None:
        return None
    if sheet.sap_koh_mg_per_g is not None:
        if lot.kind != "oil":
            return stopping("sap_is_of_oils", "certificate.sap_koh_mg_per_g")
        problem = None if oil is None else _sap_problem(sheet.sap_koh_mg_per_g, oil)
        if problem is not None:
            return problem
    if (sheet.allergens_percent or sheet.most_percent is not None) and lot.kind != "scent":
        return stopping("allergens_are_of_scents", "certificate.allergens_percent")
    for name, share in sheet.allergens_percent.items():
        if not 0 <= share <= 100:
            return stopping("allergen_share", "certificate.allergens_percent", name=name, share=percent(share))
    total = sum(sheet.allergens_percent.values())
    if total > 100.5:
        return stopping("allergens_sum", "certificate.allergens_percent", total=percent(total, 1))
    if sheet.most_percent is not None and not 0 < sheet.most_percent <= 100:
        return stopping("most_of_scent", "certificate.most_percent", most=percent(sheet.most_percent))
    return None


def _sap_problem(value: float, oil: Oil) -> Diagnostic | None:
    known = oil.sap_koh_mg_per_g
    low, high = known.minimum - BEYOND_RANGE, known.maximum + BEYOND_RANGE
    if low <= value <= high:
        return None
    meant = (value * 1000, value * 10, value / 10, value / NAOH_PER_KOH, 1000 * value / NAOH_PER_KOH)
    offers = [
        Offer(value=round(sap, 1), label=text("sap_meant.koh_g", sap=number(sap, 1)))
        for sap in meant
        if low <= sap <= high
    ]
    return stopping(
        "certificate_of_another_oil", "certificate.sap_koh_mg_per_g", offers=offers, sap=number(value), oil=oil.name,
        low=number(known.minimum, 0), high=number(known.maximum, 0),
    )  # fmt: skip
