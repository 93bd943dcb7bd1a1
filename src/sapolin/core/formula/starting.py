"""What a new formula, and every line that is added to one, begins with."""

from sapolin.core.formula.document import AdditiveLine, Blend, Formula, Koh, LiquidLine, Lye, Process, Water
from sapolin.core.formula.purposes import Purpose
from sapolin.core.materials.ingredients import Additive, Liquid
from sapolin.core.quantities.text import template

__all__ = ["formula_for", "starting_additive", "starting_formula", "starting_liquid"]


def starting_formula() -> Formula:
    """A formula to start from: no oils yet, and no purity, which is on the maker's own tub: no lye is shown without."""
    return Formula(
        name=template("starting_formula.name"),
        purpose="everyday-body",
        blend=Blend(total_oils_g=1000.0, lines=()),
        lye=Lye(naoh_purity_percent=None),
        superfat_percent=5.0,
        water=Water(by="lye_concentration_percent", value=33.0),
    )


def formula_for(purpose: Purpose) -> Formula:
    """A formula to start from with the superfat, kind of lye, way of making and additives that `purpose` usually has."""
    koh = None
    if purpose.koh_percent > 0:
        koh = Koh(by="saponification_percent", value=purpose.koh_percent, purity_percent=None)
    return starting_formula().model_copy(
        update={
            "purpose": purpose.id,
            "superfat_percent": purpose.superfat_percent,
            "lye": Lye(naoh_purity_percent=None, koh=koh),
            "process": Process(method=purpose.method),
            "additives": tuple(
                AdditiveLine(additive=additive, by="percent_of_oils", value=rate)
                for additive, rate in purpose.additives.items()
            ),
        }
    )


def starting_additive(additive: Additive) -> AdditiveLine:
    """An additive as it is first added: at the low end of what is usual; the lye it consumes is added back."""
    return AdditiveLine(
        additive=additive.id,
        by="percent_of_oils",
        value=additive.usual_minimum_percent,
        compensated=bool(additive.consumer),
    )


def starting_liquid(liquid: Liquid) -> LiquidLine:
    """A liquid as it is first added: in the place of water for the lye, its amount still to be entered."""
    return LiquidLine(
        liquid=liquid.id, use="dissolves_lye", by="percent_of_water", value=None, compensated=bool(liquid.consumer)
    )
