"""What a new formula, and every line that is added to one, begins with."""

from sapolin.core.formula.document import AdditiveLine, Blend, Formula, LiquidLine, Lye, Water
from sapolin.core.materials.ingredients import Additive, Liquid
from sapolin.core.quantities.text import template

__all__ = ["starting_additive", "starting_formula", "starting_liquid"]


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
