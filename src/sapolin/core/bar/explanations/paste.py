"""Explanation of what a paste holds."""

from collections.abc import Callable

from sapolin.core.bar.explanations.desk import BY_SAP, Desk, Explanation
from sapolin.core.quantities.molar_masses import GLYCEROL_G_PER_MOL

__all__ = ["PASTE_QUANTITIES"]


def _soap(desk: Desk) -> Explanation:
    paste, lye = desk.result.paste, desk.result.lye
    assert paste is not None
    reacted_g = desk.result.total_oils_g - paste.free_oil_g
    base_g = paste.soap_g + paste.glycerol_g - reacted_g
    diluted = paste.diluted
    thinning = (
        f"Thinned to {diluted.soap_percent:g} %: {paste.soap_g:,.1f} / {diluted.soap_percent / 100:g} = "
        f"{diluted.yield_g:,.1f} g in all, so {diluted.water_to_add_g:,.1f} g of water to add."
        if diluted is not None
        else "Not thinned: it stays paste."
    )
    return desk.explanation(
        "soap_g", "Soap in the paste", paste.soap_g, "g",
        "oils that react + hydroxide spent on them − glycerol (and water of free acids)",
        f"{reacted_g:,.2f} + {base_g:,.2f} − {paste.glycerol_g:,.2f}",
        assumes=(
            f"Superfat of the whole batch {lye.superfat_total_percent:.2f} % leaves {paste.free_oil_g:,.1f} g of oil.",
            f"One mole of glycerol ({GLYCEROL_G_PER_MOL:g} g) for three of hydroxide that met triglycerides.",
            f"The paste weighs {paste.paste_g:,.1f} g, nothing boiled off: {paste.soap_percent:.1f} % of it is soap.",
            thinning,
        ),
        certainty=BY_SAP, cites=("iso-3657", "ciaaw"),
    )  # fmt: skip


PASTE_QUANTITIES: dict[str, Callable[[Desk], Explanation]] = {"soap_g": _soap}
"""Explanations by quantity id."""
