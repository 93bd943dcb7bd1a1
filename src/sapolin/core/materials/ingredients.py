"""What goes in beside oils, lye and water: liquids, additives, and the acids in them that consume lye."""

from collections.abc import Callable, Mapping
from functools import cache
from typing import Literal, TypeVar

from sapolin.core.quantities.model import Model, Range
from sapolin.core.quantities.molar_masses import WATER_G_PER_MOL
from sapolin.core.quantities.tables import table
from sapolin.data import read_json, read_table

__all__ = ["Additive", "Behaviour", "Colorant", "Liquid", "LyeConsumer", "Scent", "additives", "colorants", "liquids",
           "lye_consumers", "scents"]  # fmt: skip


class LyeConsumer(Model):
    """An acid, or bicarbonate, that takes hydroxide before the fats get it."""

    id: str
    name: str
    molar_mass_g_per_mol: float
    """As weighed, crystal water included."""
    anhydrous_g_per_mol: float
    hydroxide_per_mol: int
    """Moles of hydroxide that one mole takes."""
    naoh_g_per_g: float
    """As tables list it, g NaOH per g; the calculation goes by moles, this checks it."""
    salt: str
    """What it becomes, named after sodium or potassium."""

    @property
    def hydroxide_mol_per_g(self) -> float:
        """Hydroxide taken by one gram, mol."""
        return self.hydroxide_per_mol / self.molar_mass_g_per_mol

    def salt_g(self, weight_g: float, base_g_per_mol: float) -> float:
        """Salt, g anhydrous, that `weight_g` forms with a base of `base_g_per_mol`: acid + base - water.

        Ten grams of anhydrous citric acid make trisodium citrate, 258.07 g/mol:

        >>> round(lye_consumers()["citric-anhydrous"].salt_g(10.0, 39.997), 2)
        13.43
        """
        acid_mol = weight_g / self.molar_mass_g_per_mol
        return acid_mol * (self.anhydrous_g_per_mol + self.hydroxide_per_mol * (base_g_per_mol - WATER_G_PER_MOL))


class Liquid(Model):
    """Something wet that takes the place of water."""

    id: str
    name: str
    synonyms: tuple[str, ...]
    water_percent: float
    fat_percent: Range
    fat_like: str
    """Catalogue id of the fat whose SAP value stands for its own; empty when it has none worth counting."""
    sugar_percent: float
    protein_percent: float
    consumer: str
    """The acid in it that consumes lye, if any."""
    consumer_percent: float
    vegan: Literal["yes", "no", "maybe"]
    allergens: str
    brings: str
    cautions: str
    cautions_in_lye: str
    """What is to be minded instead where it dissolves the lye; empty when that is the same."""
    sources: tuple[str, ...]
    salt_percent: float
    """Common salt in it, which firms the bar as an additive does."""
    scorches: Literal["yes", "no"]
    """Its sugar or protein browns in hot lye and in a warm batter, as milk does: it is frozen first, kept cool, not gelled."""

    @property
    def is_egg(self) -> bool:
        """It cooks in lye and in hot batter."""
        return self.allergens == "egg"

    def cautions_of(self, use: str) -> str:
        """What is to be minded where it is used so: `dissolves_lye`, `into_oils` or `at_trace`."""
        return self.cautions_in_lye or self.cautions if use == "dissolves_lye" else self.cautions


class Additive(Model):
    """Something a maker adds in small amounts."""

    id: str
    name: str
    synonyms: tuple[str, ...]
    role: Literal[
        "acid", "bicarbonate", "lactate", "salt", "sugar", "humectant", "chelator", "protein", "clay", "colour",
        "exfoliant", "antioxidant",
    ]  # fmt: skip
    consumer: str
    consumer_percent: float
    """Part of it that is the `consumer`, %."""
    sugar_percent: float
    usual_minimum_percent: float
    """Usual rate, % of oils."""
    usual_maximum_percent: float
    stage: str
    effect: str
    cautions: str
    palm_derived: Literal["yes", "no", "maybe"] = "no"
    vegan: Literal["yes", "no", "maybe"]
    allergens: str
    sources: tuple[str, ...]
    g_per_tsp: float
    """A level teaspoon of it, g; weights are the truth."""
    density_g_per_ml: float
    """In the batter."""
    preparation: str
    """How it goes in."""
    wet_in: Literal["water", "oil", ""]
    """What of the batch's own it is wetted with beforehand; empty when it needs none."""
    wet_times: float
    """How many times its own weight of that."""

    def percent_of_oils(self, tsp_per_500_g: float) -> float:
        """Spoons for 500 g of oils as a percentage of them.

        >>> additives()["kaolin"].percent_of_oils(2.0)
        1.04
        """
        return tsp_per_500_g * self.g_per_tsp / 5


Behaviour = Literal["accelerates", "rices", "seizes", "discolours", "heats", "fades"]


class Scent(Model):
    """A scent by its kind; the bottle in hand has its own limit."""

    id: str
    name: str
    density_g_per_ml: float
    usual_minimum_percent: float
    """Usual rate, % of oils."""
    usual_maximum_percent: float
    behaviour: tuple[Behaviour, ...]
    """What it is known to do in the batter and the bar."""
    about: str
    declarable: tuple[str, ...]
    """What in it has to be named on a label from 0.01 % of what is rinsed off, by the names of the European list of 2023
    (`eu-2023-1545`), as such a scent usually holds it. The supplier's sheet says what this bottle holds."""
    source: str


class Colorant(Model):
    """Something that colours."""

    id: str
    name: str
    kind: Literal["mica", "oxide", "ultramarine", "white", "charcoal", "clay", "plant"]
    hue_degrees: float | None
    """On the colour wheel, red 0, yellow 60, green 120, blue 240; null for black, white and pearl."""
    usual_tsp_per_500_g: float
    """Usual rate, level teaspoons per 500 g of oils."""
    least_tsp_per_500_g: float
    g_per_tsp: float
    disperse_in: tuple[Literal["oil", "water", "glycerin", "lye"], ...]
    """The first is the usual one."""
    about: str
    density_g_per_ml: float
    source: str


_Row = TypeVar("_Row", bound=Model)


def _words(cell: str) -> tuple[str, ...]:
    return tuple(word for word in (component.strip() for component in cell.split(";")) if word)


def _read(table: str, kind: type[_Row], cells: Mapping[str, Callable[[str], object]]) -> dict[str, _Row]:
    rows = (
        {column: cells[column](cell) if column in cells else cell for column, cell in row.items()}
        for row in read_table(table)
    )
    return {str(row["id"]): kind.model_validate(row) for row in rows}


def _number(cell: str) -> float:
    return float(cell or 0)


@cache
def _lye_consumers() -> dict[str, LyeConsumer]:
    return {
        row["id"]: LyeConsumer.model_validate({column: cell for column, cell in row.items() if column != "sources"})
        for row in read_table("lye_consumers")
    }


@cache
def _liquids() -> dict[str, Liquid]:
    cells = {"fat_percent": Range.parse, "synonyms": _words, "sources": _words, "consumer_percent": _number}
    return _read("liquids", Liquid, cells)


@cache
def _additives() -> dict[str, Additive]:
    cells = {"synonyms": _words, "sources": _words, "consumer_percent": _number, "wet_times": _number}
    return _read("additives", Additive, cells)


@cache
def _scents() -> dict[str, Scent]:
    return {entry["id"]: Scent.model_validate(entry) for entry in read_json("scents")}


@cache
def _colorants() -> dict[str, Colorant]:
    return {entry["id"]: Colorant.model_validate(entry) for entry in read_json("colorants")}


def lye_consumers() -> dict[str, LyeConsumer]:
    """Everything that consumes lye, by id."""
    return table("lye_consumers", _lye_consumers())


def liquids() -> dict[str, Liquid]:
    """Liquids other than plain water, by id."""
    return table("liquids", _liquids())


def additives() -> dict[str, Additive]:
    """Additives by id."""
    return table("additives", _additives())


def scents() -> dict[str, Scent]:
    """Scents by id."""
    return table("scents", _scents())


def colorants() -> dict[str, Colorant]:
    """Colorants by id."""
    return table("colorants", _colorants())
