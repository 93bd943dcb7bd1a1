"""What a new formula, and every line that is added to one, begins with."""

from typing import Literal

from sapolin.core.formula.document import (
    AdditiveLine,
    Blend,
    Formula,
    Koh,
    LiquidLine,
    Lye,
    OilLine,
    Process,
    Water,
    WaterRule,
)
from sapolin.core.formula.purposes import Purpose
from sapolin.core.materials.ingredients import Additive, Liquid
from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.model import FiniteNumber, Model
from sapolin.core.quantities.text import template
from sapolin.data import read_json

__all__ = [
    "USUAL_WATER",
    "Habits",
    "LyesWithKoh",
    "Starter",
    "formula_for",
    "starters",
    "starting_additive",
    "starting_formula",
    "starting_koh",
    "starting_liquid",
]


class Habits(Model):
    """How a maker likes to work: what their new formulas begin with."""

    superfat_percent: FiniteNumber = 5.0
    water_by: WaterRule = "lye_concentration_percent"
    water_value: FiniteNumber = 33.0
    """In the unit that `water_by` names."""
    method: Literal["cold", "hot"] = "cold"


USUAL_WATER: dict[WaterRule, float] = {
    "lye_concentration_percent": 33.0, "water_to_lye": 2.0, "percent_of_oils": 33.0, "discount_percent": 10.0,
}  # fmt: skip
"""What a maker who has just begun to think of water in another way starts from."""


def starting_formula(habits: Habits | None = None) -> Formula:
    """A formula to start from: no oils yet, and no purity, which is on the maker's own tub: no lye is shown without."""
    usual = Habits() if habits is None else habits
    return Formula(
        name=template("starting_formula.name"),
        purpose="everyday-body",
        blend=Blend(total_oils_g=1000.0, lines=()),
        lye=Lye(naoh_purity_percent=None),
        superfat_percent=usual.superfat_percent,
        water=Water(by=usual.water_by, value=usual.water_value),
        process=Process(method=usual.method),
    )


class Starter(Model):
    """A formula for those who have none yet."""

    id: str
    why: str
    """What kind of bar it is, in a line or two."""
    formula: Formula


def starters(habits: Habits | None = None) -> tuple[Starter, ...]:
    """Three bars to begin with, by the habits of the maker; the purity of the lye is still to be entered."""
    made = []
    for entry in read_json("starters"):
        start = starting_formula(habits)
        lines = tuple(OilLine(oil=oil, value=float(share)) for oil, share in entry["shares"].items())
        formula = start.model_copy(
            update={
                "name": template(f"starters.{entry['id']}.name"),
                "purpose": entry["purpose"],
                "blend": Blend(total_oils_g=start.blend.total_oils_g, lines=lines),
            }
        )
        made.append(Starter(id=entry["id"], why=template(f"starters.{entry['id']}.why"), formula=formula))
    return tuple(made)


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


LyesWithKoh = Literal["both", "koh"]
"""KOH beside NaOH, or alone."""


def starting_koh(lyes: LyesWithKoh) -> Koh:
    """KOH as it is first chosen, beside NaOH or alone; its purity is still to be read from its label."""
    value = 100.0 if lyes == "koh" else coefficient("koh.joining_percent")
    return Koh(by="saponification_percent", value=value, purity_percent=None)


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
