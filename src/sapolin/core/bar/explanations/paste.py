"""Explanation of what a paste holds."""

from collections.abc import Callable

from sapolin.core.bar.explanations.desk import Desk, Explanation
from sapolin.core.quantities.molar_masses import GLYCEROL_G_PER_MOL
from sapolin.core.quantities.text import number, percent, template, text, weight

__all__ = ["PASTE_QUANTITIES"]


def _soap(desk: Desk) -> Explanation:
    paste, lye = desk.result.paste, desk.result.lye
    assert paste is not None
    reacted_g = sum(one.weight_g for one in desk.composition.fats) - paste.free_oil_g
    base_g = paste.soap_g + paste.glycerol_g - reacted_g
    diluted = paste.diluted
    thinning = (
        text(
            "explanation.soap.diluted",
            share=percent(diluted.soap_percent), soap=weight(paste.soap_g), part=number(diluted.soap_percent / 100),
            whole=weight(diluted.yield_g), water=weight(diluted.water_to_add_g),
        )
        if diluted is not None
        else text("explanation.soap.undiluted")
    )  # fmt: skip
    return desk.explanation(
        "soap_g", template("explanation.soap.name"), paste.soap_g, "g", text("explanation.soap.rule"),
        text(
            "explanation.soap.numbers",
            reacted=weight(reacted_g, 2), hydroxide=weight(base_g, 2), glycerol=weight(paste.glycerol_g, 2),
        ),
        assumes=(
            text("explanation.soap.free", superfat=percent(lye.superfat_total_percent, 2), grams=weight(paste.free_oil_g)),
            text("explanation.soap.glycerol", grams=number(GLYCEROL_G_PER_MOL, unit="g")),
            text("explanation.soap.paste", grams=weight(paste.paste_g), share=percent(paste.soap_percent, 1)),
            thinning,
        ),
        certainty="sap", cites=("iso-3657", "ciaaw"),
    )  # fmt: skip


PASTE_QUANTITIES: dict[str, Callable[[Desk], Explanation]] = {"soap_g": _soap}
"""Explanations by quantity id."""
