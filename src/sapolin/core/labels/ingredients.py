"""What is in a bar on a day, by weight, and how an ingredient list names it.

The bar is followed from what was weighed: soap of each oil (oil + alkali − glycerol), glycerol, the oil that the superfat
leaves, salts of acids, everything added, and the water that has not dried off. All of it together is the bar: nothing is lost
and nothing counted twice. A list runs by weight, from the most; below 1 % any order is allowed, colours come last.
"""

from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence
from functools import cache
from re import sub
from typing import Literal, NamedTuple

from sapolin.core.bar.soap import SoapOfFat, soap_of
from sapolin.core.batch.additions import PortionWeights, ScentWeight
from sapolin.core.formula.composition import Composition, LiquidComponent
from sapolin.core.labels.design import Language, Region, Style
from sapolin.core.materials.catalogue import Oil
from sapolin.core.materials.ingredients import LyeConsumer, additives
from sapolin.core.preparations.preservatives import preservatives
from sapolin.core.quantities.model import Model, Truth
from sapolin.core.quantities.molar_masses import KOH_G_PER_MOL, NAOH_G_PER_MOL, WATER_G_PER_MOL
from sapolin.core.quantities.text import Text, number, text, weight
from sapolin.data import read_json

__all__ = ["Allergen", "BarOnDay", "BarPart", "IngredientLine", "Kind", "allergens_of", "bar_on_day", "diluted_on_day",
           "ingredient_lines",
           "ingredient_text"]  # fmt: skip

NAMED_FROM_PERCENT = 0.01
"""Fragrance allergens are named from here on in what is rinsed off (EU 1223/2009, as amended 2023/1545)."""
ANY_ORDER_BELOW_PERCENT = 1.0
Kind = Literal["oil", "soap_na", "soap_k", "free_oil", "water", "glycerin", "lye", "salt", "liquid", "additive", "scent",
               "colour", "preservative", "filler"]  # fmt: skip


class BarPart(NamedTuple):
    """One substance of the whole batch."""

    kind: Kind
    id: str
    """Of the oil, liquid, additive, scent or colour; `naoh` or `koh` of lye; of a salt its acid and its base."""
    grams: float
    oil: Oil | None
    """What is soap or free oil of it."""
    why: Text
    """How its weight comes about."""


class BarOnDay(NamedTuple):
    """A batch on a day of its cure."""

    poured: tuple[BarPart, ...]
    """As it went in."""
    parts: tuple[BarPart, ...]
    """As it is on the day; with the water that is left it is all of the bars."""
    total_g: float
    """All bars on that day."""
    poured_g: float
    """All of it as it went in."""
    water_g: float
    """Water that is left. Below 0 the bars have lost more than all their water: a weight is wrong."""


class IngredientLine(Model):
    """One name of an ingredient list."""

    name: str
    percent: float
    """Of the bar on the day; as poured, of the batter."""
    grams: float
    """In one bar; as poured, in the batter of one bar."""
    is_colour: Truth
    is_constructed: Truth
    """The name is built as the nomenclature builds such names, and is to be looked up there before it is printed."""
    why: Text


class Allergen(Model):
    """A substance of scents that labels name."""

    name: str
    percent: float | None
    """Of the finished bar, summed over scents; null when a scent that may hold it has no sheet."""
    is_named: Truth
    """From 0.01 % of the finished bar, or while that is not known."""
    scents: tuple[str, ...]
    """Names of those that hold it."""


@cache
def _names() -> Mapping[str, Mapping[str, Mapping[str, str]]]:
    names: dict[str, dict[str, dict[str, str]]] = read_json("label_names")
    return {group: entries for group, entries in names.items() if group != "about"}


def bar_on_day(
    composition: Composition, scents: Sequence[ScentWeight], portions: Sequence[PortionWeights], left: float
) -> BarOnDay:
    """A batch that still weighs `left` (a fraction) of what it weighed when it was poured; what is gone is water."""
    soap = soap_of(composition)
    poured = (*_as_poured(composition), *_added(scents, portions))
    poured_g = sum(part.grams for part in poured)
    lost_g = (1 - left) * poured_g
    consumed = [*_salts(composition)]
    crystal_g = sum(_water_of_salt(consumer, grams, mol) for consumer, grams, mol in consumed)
    wet_g = (
        composition.water_g + soap.water_formed_g + crystal_g
        + sum(lye.weight_g - lye.pure_g for lye in composition.lyes)
        # What an acid as bought holds beside acid is water.
        + sum(one.weight_g - one.acid_g for one in composition.additives if one.row.consumer)
    )  # fmt: skip
    water_g = wet_g - lost_g
    formed_g = soap.glycerol_g
    unspent_mol = max(composition.lye_mol - composition.consumed_mol - soap.spent_mol, 0.0)
    parts = [
        *(part for one in soap.of_fats if not one.of_liquid for part in _soap_parts(one, composition)),
        BarPart("glycerin", "glycerin", formed_g, None, text("label.why.glycerin", formed=weight(formed_g))),
        BarPart("water", "water", max(water_g, 0.0), None,
                text("label.why.water", all=weight(wet_g), dried=weight(lost_g))),
        BarPart("filler", "filler", soap.filler_g, None, ()),
        *_salt_parts(composition, consumed),
        *(_liquid_part(one, [fat for fat in soap.of_fats if fat.of_liquid], composition) for one in composition.liquids),
        *(BarPart("additive", one.additive.id, one.weight_g, None, _put_in(one.weight_g))
          for one in composition.additives if not one.row.consumer),
        BarPart("lye", "naoh", unspent_mol * composition.base_g_per_mol, None, text("label.why.lye_left")),
        *_added(scents, portions),
    ]  # fmt: skip
    return BarOnDay(
        poured=tuple(part for part in poured if part.grams > 1e-9),
        parts=tuple(part for part in parts if part.grams > 1e-9), total_g=poured_g - lost_g, poured_g=poured_g,
        water_g=water_g,
    )  # fmt: skip


def diluted_on_day(pastes: Sequence[tuple[BarOnDay, float]], added: Mapping[tuple[Kind, str], float]) -> BarOnDay:
    """Diluted soap: each paste as it is now with the weight of it that was taken, g, and what was `added`, g by kind and id.

    Nothing dries off in a bottle, so it is the same on every day.
    """
    parts: dict[tuple[Kind, str, str], BarPart] = {}
    poured: dict[tuple[Kind, str, str], BarPart] = {}

    def grow(into: dict[tuple[Kind, str, str], BarPart], part: BarPart, times: float) -> None:
        key = (part.kind, part.id, "" if part.oil is None else part.oil.id)
        grams = part.grams * times + (into[key].grams if key in into else 0.0)
        into[key] = part._replace(grams=grams, why=text("label.why.from_paste", weight=weight(grams)))

    for paste, taken_g in pastes:
        for part in paste.parts:
            grow(parts, part, taken_g / paste.total_g)
        for part in paste.poured:
            grow(poured, part, taken_g / paste.total_g)
    for (kind, id_), grams in added.items():
        for into in (parts, poured):
            grow(into, BarPart(kind, id_, grams, None, ()), 1.0)
    total_g = sum(part.grams for part in parts.values())
    return BarOnDay(
        poured=tuple(poured.values()), parts=tuple(parts.values()), total_g=total_g,
        poured_g=sum(part.grams for part in poured.values()), water_g=0.0,
    )  # fmt: skip


def _put_in(grams: float) -> Text:
    return text("label.why.put_in", weight=weight(grams, 2))


def _as_poured(composition: Composition) -> Iterator[BarPart]:
    for one in composition.pure_oils:
        yield BarPart("oil", one.oil.id, one.weight_g, one.oil, _put_in(one.weight_g))
    filler_g = composition.oils_g - sum(one.weight_g for one in composition.pure_oils)
    yield BarPart("filler", "filler", max(filler_g, 0.0), None, ())
    plain_g = composition.plain_water_g + composition.master_water_g
    yield BarPart("water", "water", plain_g, None, _put_in(plain_g))
    for lye in composition.lyes:
        yield BarPart("lye", lye.kind, lye.weight_g, None, _put_in(lye.weight_g))
    for liquid in composition.liquids:
        yield BarPart("liquid", liquid.liquid.id, liquid.weight_g, None, _put_in(liquid.weight_g))
    for additive in composition.additives:
        yield BarPart("additive", additive.additive.id, additive.weight_g, None, _put_in(additive.weight_g))


def _added(scents: Sequence[ScentWeight], portions: Sequence[PortionWeights]) -> Iterator[BarPart]:
    for scent in scents:
        yield BarPart("scent", scent.scent, scent.weight_g, None, _put_in(scent.weight_g))
    colours: dict[str, float] = defaultdict(float)
    glycerin_g = 0.0
    for portion in portions:
        for colour in portion.colours:
            colours[colour.colorant] += colour.weight_g
            if colour.disperse_in == "glycerin":
                glycerin_g += colour.disperse_g
    for colorant, grams in colours.items():
        yield BarPart("colour", colorant, grams, None, _put_in(grams))
    yield BarPart("glycerin", "glycerin", glycerin_g, None, _put_in(glycerin_g))


def _soap_parts(one: SoapOfFat, composition: Composition) -> Iterator[BarPart]:
    """Soap with sodium, soap with potassium (by their moles), and what stays oil."""
    potassium = composition.koh_share_percent / 100
    for kind, part, base in (("soap_na", 1 - potassium, NAOH_G_PER_MOL), ("soap_k", potassium, KOH_G_PER_MOL)):
        if part > 0:
            grams = part * one.soap_g(base)
            why = text(
                "label.why.soap", oil=weight(part * one.reacted_g), lye=weight(part * one.spent_mol * base),
                off=weight(part * (one.glycerol_g + one.water_formed_g)),
            )  # fmt: skip
            yield BarPart("soap_na" if kind == "soap_na" else "soap_k", one.fat.oil.id, grams, one.fat.oil, why)
    why = text("label.why.free_oil", left=number(100 * one.free_g / one.fat.weight_g if one.fat.weight_g else 0.0, 1, "%"),
               oil=weight(one.fat.weight_g))  # fmt: skip
    yield BarPart("free_oil", one.fat.oil.id, one.free_g, one.fat.oil, why)


def _salts(composition: Composition) -> Iterator[tuple[LyeConsumer, float, float]]:
    """Each acid with its weight, g, and the hydroxide it takes, mol."""
    for consumed in composition.consumed:
        yield consumed.consumer, consumed.acid_g, consumed.mol


def _water_of_salt(consumer: LyeConsumer, acid_g: float, mol: float) -> float:
    """Water that comes off when an acid meets lye: that of its crystals, and one mole for each of hydroxide."""
    crystal = acid_g * (1 - consumer.anhydrous_g_per_mol / consumer.molar_mass_g_per_mol)
    return crystal + mol * WATER_G_PER_MOL


def _salt_parts(
    composition: Composition, consumed: Sequence[tuple[LyeConsumer, float, float]]
) -> Iterator[BarPart]:  # fmt: skip
    potassium = composition.koh_share_percent / 100
    for consumer, acid_g, _ in consumed:
        for base, part, molar in (("sodium", 1 - potassium, NAOH_G_PER_MOL), ("potassium", potassium, KOH_G_PER_MOL)):
            grams = part * consumer.salt_g(acid_g, molar)
            why = text("label.why.salt", acid=weight(part * acid_g, 2), name=consumer.name)
            yield BarPart("salt", f"{consumer.salt}:{base}", grams, None, why)


def _liquid_part(liquid: LiquidComponent, fats: Sequence[SoapOfFat], composition: Composition) -> BarPart:
    """What of a liquid is neither water nor acid; its fat as soap, with the glycerol of it apart."""
    own = next((one for one in fats if one.fat.oil is liquid.fat and one.fat.weight_g == liquid.fat_g), None)
    grams = liquid.weight_g - liquid.water_g - liquid.acid_g
    if own is not None:
        grams += own.soap_g(composition.base_g_per_mol) + own.free_g - own.fat.weight_g
    return BarPart("liquid", liquid.liquid.id, grams, None, text("label.why.liquid", whole=weight(liquid.weight_g)))


def ingredient_lines(
    bar: BarOnDay, style: Style, language: Language, region: Region, bar_g: float
) -> tuple[IngredientLine, ...]:
    """The list of a bar that weighs `bar_g` on the day: most first, colours last; what shares a name is one line."""
    parts = bar.poured if style == "poured" else bar.parts
    whole_g = bar.poured_g if style == "poured" else bar.total_g
    if whole_g <= 0:
        return ()
    one_bar_g = bar_g * bar.poured_g / bar.total_g if style == "poured" else bar_g
    grams: dict[str, float] = defaultdict(float)
    whys: dict[str, list[Text]] = defaultdict(list)
    colours, constructed = set(), set()
    for part in parts:
        name = _name(part, style, language, region)
        grams[name] += part.grams
        whys[name].append(part.why)
        if part.kind == "colour" or (part.kind == "additive" and additives()[part.id].role == "colour"):
            colours.add(name)
        is_soap = part.kind in ("soap_na", "soap_k")
        if style == "inci" and is_soap and part.oil is not None and part.oil.inci_soap == "constructed":
            constructed.add(name)
    lines = [
        IngredientLine(
            name=name, percent=100 * amount / whole_g, grams=one_bar_g * amount / whole_g, is_colour=name in colours,
            is_constructed=name in constructed, why=tuple(word for why in _between(whys[name]) for word in why),
        )
        for name, amount in grams.items()
    ]  # fmt: skip
    return tuple(sorted(lines, key=lambda line: (line.is_colour, -line.percent, line.name)))


def _between(whys: Sequence[Text]) -> Iterator[Text]:
    said = [why for why in whys if why]
    for i, why in enumerate(said):
        if i:
            yield (" ",)
        yield why


def _name(part: BarPart, style: Style, language: Language, region: Region) -> str:
    if part.oil is not None and part.kind in ("soap_na", "soap_k"):
        soap = part.oil.inci_sodium_soap if part.kind == "soap_na" else part.oil.inci_potassium_soap
        return soap if style == "inci" else soap.lower()
    if part.oil is not None:
        return _of_region(part.oil.inci, region) if style == "inci" else _oil_name(part.oil, language)
    named = _named(part, language)
    if style != "inci":
        return named[language]
    if region == "north_america" and part.kind == "water":
        return "Water"
    return named["inci"].replace("Parfum", "Fragrance") if region == "north_america" else named["inci"]


def _oil_name(oil: Oil, language: Language) -> str:
    known = _names()["oils"].get(oil.id)
    return oil.name.lower() if known is None else known[language]


def _of_region(inci: str, region: Region) -> str:
    """Europe leaves out the common name in brackets.

    >>> _of_region("Olea Europaea (Olive) Fruit Oil", "europe")
    'Olea Europaea Fruit Oil'
    """
    return sub(r" \([^)]*\)", "", inci) if region == "europe" else inci


def _named(part: BarPart, language: Language) -> Mapping[str, str]:
    names = _names()
    if part.kind == "preservative":
        row = preservatives()[part.id]
        return {"inci": row.inci, language: row.inci.lower()}
    if part.kind == "salt":
        salt, base = part.id.split(":")
        of_base = names["bases"][base]
        return {
            key: words.format(base=of_base[key]) for key, words in names["salts"][salt].items()
        }  # fmt: skip
    groups = {"liquid": "liquids", "additive": "additives", "scent": "scents", "colour": "colorants"}
    group = groups.get(part.kind, "fixed")
    known = names[group].get(part.id)
    return {"inci": part.id, language: part.id} if known is None else known


def ingredient_text(lines: Sequence[IngredientLine], allergens: Sequence[Allergen], style: Style) -> str:
    """The list as it is printed, with the allergens that are to be named after what weighs least, before the colours."""
    names = [line.name for line in lines if not line.is_colour]
    written = {name.casefold() for name in names}
    named = [one.name for one in allergens if one.is_named and one.name.casefold() not in written]
    names += [name.title() if style == "inci" else name for name in named]
    names += [line.name for line in lines if line.is_colour]
    return f"{', '.join(names)}." if names else ""


def allergens_of(
    bar: BarOnDay, sheets: Mapping[str, Mapping[str, float]], declarable: Mapping[str, tuple[str, Sequence[str]]]
) -> tuple[Allergen, ...]:
    """What scents bring that labels name, % of the bars on the day.

    `sheets`: by scent, % of each allergen in it, from its supplier. `declarable`: by scent, its name and what such a scent
    usually holds. A scent without a sheet names all of those: too many rather than one too few.
    """
    percents: dict[str, float] = defaultdict(float)
    holders: dict[str, list[str]] = defaultdict(list)
    unknown: set[str] = set()
    for part in bar.parts:
        if part.kind != "scent":
            continue
        name, usual = declarable[part.id]
        sheet = sheets.get(part.id)
        for allergen in usual if sheet is None else sheet:
            holders[allergen].append(name)
            if sheet is None:
                unknown.add(allergen)
            else:
                percents[allergen] += sheet[allergen] * part.grams / bar.total_g
    found = [
        Allergen(
            name=name, percent=None if name in unknown else percents[name],
            is_named=name in unknown or percents[name] >= NAMED_FROM_PERCENT - 1e-12, scents=tuple(scents),
        )
        for name, scents in holders.items()
    ]  # fmt: skip
    return tuple(sorted(found, key=lambda one: (not one.is_named, -(one.percent or 0.0), one.name)))
