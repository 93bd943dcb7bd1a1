"""Sentences as data: plain words, with quantities in them that keep their unit until they are shown.

A :data:`Text` is a sequence of strings and quantities. Whoever shows it (a screen, a sheet, the command line) puts the units
and the number format of the maker in; nobody parses a sentence again. Words come from the catalogue of messages,
``data/messages/en.json``, one file a language.
"""

import json
from collections.abc import Iterable, Mapping, Sequence
from functools import cache
from importlib.resources import files
from re import compile as pattern
from sys import float_info
from typing import Annotated, Any, Literal

from pydantic import Field

from sapolin.core.quantities.model import Model
from sapolin.core.quantities.units import WEIGHT_UNITS, TemperatureUnitId, WeightUnitId

__all__ = [
    "THOUSANDS",
    "Grams",
    "Message",
    "Number",
    "Param",
    "Quantity",
    "Temperature",
    "TemperatureDifference",
    "Text",
    "as_entered",
    "as_sentence",
    "digits",
    "filled",
    "has_template",
    "in_unit",
    "joined",
    "listed",
    "listed_with_or",
    "message",
    "number",
    "percent",
    "plain",
    "significant",
    "template",
    "templates",
    "text",
    "weight",
    "within_sentence",
]

LANGUAGE = "en"
THOUSANDS = "\u00a0"
"""What stands between thousands: a space that does not break, since a comma means tenths to half of all readers."""
_PLACE = pattern(r"\{([A-Za-z_]+)\}")


class Grams(Model):
    """A weight."""

    kind: Literal["weight"] = "weight"
    g: float
    decimals: int = 0
    """As finely as this many decimals of a gram would say it."""


class Temperature(Model):
    """A temperature, or the range between two."""

    kind: Literal["temperature"] = "temperature"
    c: float
    to_c: float | None = None


class TemperatureDifference(Model):
    """How far two temperatures are apart."""

    kind: Literal["temperature_difference"] = "temperature_difference"
    c: float


class Number(Model):
    """Any other number with its unit, which every maker reads alike."""

    kind: Literal["number"] = "number"
    value: float
    decimals: int | None = None
    """Null shows as many digits as the number has, up to ten."""
    unit: str = ""


Quantity = Annotated[Grams | Temperature | TemperatureDifference | Number, Field(discriminator="kind")]
Text = tuple[str | Quantity, ...]
"""Strings and quantities, in the order they are read."""
Param = str | Grams | Temperature | TemperatureDifference | Number
"""What a message is about: a name, or a quantity."""


class Message(Model):
    """Something said to a maker."""

    code: str
    """Its template in the catalogue."""
    params: dict[str, str | Quantity] = Field(default={})
    text: Text
    """The words, from the catalogue, with the quantities in their places."""


def _tellable(value: float) -> float:
    """The number, or the largest there is in the place of one beyond it: a sum of what was entered can be too much for a float,
    and what is wrong with it is to be said all the same.
    """
    return max(-float_info.max, min(value, float_info.max))


def weight(g: float, decimals: int = 1) -> Grams:
    """A weight, as finely as `decimals` of a gram."""
    return Grams(g=_tellable(g), decimals=decimals)


def number(value: float, decimals: int | None = None, unit: str = "") -> Number:
    """A number in `unit`."""
    return Number(value=_tellable(value), decimals=decimals, unit=unit)


def percent(value: float, decimals: int | None = None) -> Number:
    """A percentage.

    >>> plain((percent(12.5), " and ", percent(1.7e308 + 1.7e308)))
    '12.5 % and 1.797693135e+308 %'
    """
    return Number(value=_tellable(value), decimals=decimals, unit="%")


def significant(value: float, digits: int = 3, unit: str = "") -> Number:
    """A number of so many digits that count; below half a thousandth it is nothing.

    >>> plain((significant(12.3456, unit="%"), ", ", significant(0.25), ", ", significant(4.6e-9)))
    '12.3 %, 0.25, 0'
    """
    return Number(value=float(f"{value:.{digits}g}") if abs(value) >= 0.0005 else 0.0, unit=unit)


def in_unit(value: float, unit: str, decimals: int | None = None) -> Grams | Temperature | Number:
    """A quantity of its kind by its unit: `g` is a weight, `°C` a temperature, anything else a number."""
    if unit == "g":
        return weight(value, 1 if decimals is None else decimals)
    return Temperature(c=value) if unit == "°C" else number(value, decimals, unit)


def as_entered(value: float, unit: str) -> Grams | Temperature | Number:
    """A quantity with the digits that it has, up to six after the point.

    >>> plain((as_entered(500_000, "g"), ", ", as_entered(0.001, "g"), ", ", as_entered(2.5, "%")))
    '500\\xa0000 g, 0.001 g, 2.5 %'
    """
    return in_unit(value, unit, len(f"{value:.6f}".rstrip("0").partition(".")[2]) if unit == "g" else None)


@cache
def _catalogue() -> Mapping[str, Any]:
    file = files("sapolin.data").joinpath("messages", f"{LANGUAGE}.json")
    catalogue: dict[str, Any] = json.loads(file.read_text(encoding="utf-8"))
    return catalogue


@cache
def template(code: str) -> str:
    """The template of a message, such as `check.missing.remedy`. Raises KeyError when there is none."""
    entry: Any = _catalogue()
    for name in code.split("."):
        entry = entry[name]
    if not isinstance(entry, str):
        raise KeyError(code)
    return entry


def templates(section: str) -> tuple[str, ...]:
    """Names of what a section of the catalogue holds, in its order; `a.b` is section b of a."""
    entry: Any = _catalogue()
    for name in section.split("."):
        entry = entry[name]
    return tuple(entry)


def has_template(code: str) -> bool:
    """Whether the catalogue has a message of that code."""
    try:
        template(code)
    except (KeyError, TypeError):
        return False
    return True


def filled(words: str, params: Mapping[str, "Param | Text"]) -> Text:
    """A template with its quantities in their places.

    `{name}` stands for a param; `{Name}` for the same with a capital letter, at the beginning of a sentence. A param that is
    a text itself is read on as it is.

    >>> filled("{Name} weighs {grams}.", {"name": "shea", "grams": weight(50.0)})
    ('Shea weighs ', Grams(kind='weight', g=50.0, decimals=1), '.')
    """
    segments: list[str | Quantity] = []
    for words_before, name in _parsed(words):
        segments.append(words_before)
        if name:
            value = params[name[0].lower() + name[1:]]
            read = value if isinstance(value, tuple) else (value,)
            segments += (_capital(read[0]), *read[1:]) if name[0].isupper() and read else read
    return _run_together(segments)


@cache
def _parsed(words: str) -> tuple[tuple[str, str], ...]:
    """A template as what stands before each of its places, and the name of the place; the last has none."""
    *pairs, rest = _PLACE.split(words) if words else ("",)
    return (*zip(pairs[::2], pairs[1::2], strict=True), (rest, ""))


def _capital(segment: str | Quantity) -> str | Quantity:
    return segment[:1].upper() + segment[1:] if isinstance(segment, str) else segment


def _run_together(segments: Iterable[str | Quantity]) -> Text:
    """The same text with no empty string in it and no two beside one another."""
    read: list[str | Quantity] = []
    for segment in segments:
        if isinstance(segment, str) and read and isinstance(read[-1], str):
            read[-1] += segment
        elif segment != "":
            read.append(segment)
    return tuple(read)


def text(code: str, **params: "Param | Text") -> Text:
    """The words of the message `code`.

    >>> text("explanation.term", weight=weight(340.0), sap=number(190.0))
    (Grams(kind='weight', g=340.0, decimals=1), ' × ', Number(kind='number', value=190.0, decimals=None, unit=''), ' / 1000')
    """
    return filled(template(code), params)


def joined(texts: Iterable["Param | Text"], between: str) -> Text:
    """Texts one after the other with `between` between them.

    >>> joined([number(1.5), ("a", number(2.0)), "b"], " + ")[1:3]
    (' + a', Number(kind='number', value=2.0, decimals=None, unit=''))
    """
    segments: list[str | Quantity] = []
    for i, one in enumerate(texts):
        segments += ([between] if i else []) + list(one if isinstance(one, tuple) else (one,))
    return _run_together(segments)


def message(code: str, **params: Param) -> Message:
    """The message `code` with its params and words."""
    return Message(code=code, params=params, text=text(code, **params))


def within_sentence(name: str) -> str:
    """A name with a small first letter, unless it is an abbreviation.

    >>> within_sentence("Olive, refined"), within_sentence("BHT")
    ('olive, refined', 'BHT')
    """
    return name if name[1:2].isupper() else name[:1].lower() + name[1:]


def as_sentence(words: str) -> str:
    """Words of a table with a capital and a full stop; none are none.

    >>> as_sentence("strain it"), as_sentence("")
    ('Strain it.', '')
    """
    return f"{words[:1].upper()}{words[1:]}." if words else ""


def listed(names: Sequence[str]) -> str:
    """Names as a list that is read: `shea, olive and castor`.

    >>> listed(["shea"]), listed(["shea", "olive", "castor"])
    ('shea', 'shea, olive and castor')
    """
    if len(names) < 2:
        return "".join(names)
    return f"{', '.join(names[:-1])} {template('list.and')} {names[-1]}"


def listed_with_or(names: Sequence[str]) -> str:
    """Names to choose from: `olive or castor`."""
    return f" {template('list.or')} ".join(names)


def plain(said: Text, weights: WeightUnitId = "g", temperatures: TemperatureUnitId = "C") -> str:
    """A text with the units put in, for paper and the command line.

    >>> plain((Temperature(c=32, to_c=43),), temperatures="F"), plain((weight(453.6, 0),), "lb"), plain((number(1.5),))
    ('90 to 109 °F', '1.000 lb', '1.5')
    """
    return "".join(part if isinstance(part, str) else _shown(part, weights, temperatures) for part in said)


def digits(value: float, decimals: int | None = None) -> str:
    """A number as all are shown, with :data:`THOUSANDS` and a true minus, none before nothing; without `decimals`, with as
    many as it needs.

    >>> digits(1279.93, 1), digits(-0.04, 1), digits(-2.50)
    ('1\\xa0279.9', '0.0', '−2.5')
    """
    shown = f"{value:,.10g}" if decimals is None else f"{value:z,.{decimals}f}"
    return shown.replace(",", THOUSANDS).replace("-", "−")


def _shown(quantity: Quantity, weights: WeightUnitId, temperatures: TemperatureUnitId) -> str:
    if isinstance(quantity, Grams):
        unit = WEIGHT_UNITS[weights]
        decimals = quantity.decimals if weights == "g" else unit.decimals_as_fine_as(quantity.decimals)
        return f"{digits(quantity.g / unit.grams, decimals)} {weights}"
    if isinstance(quantity, Temperature):
        ends = [quantity.c] if quantity.to_c is None else [quantity.c, quantity.to_c]
        shown = [c if temperatures == "C" else c * 1.8 + 32 for c in ends]
        said = f" {template('list.to')} ".join(f"{degrees:z.0f}" for degrees in shown)
        return f"{said.replace('-', '−')} °{temperatures}"
    if isinstance(quantity, TemperatureDifference):
        return f"{quantity.c:.1f} °C" if temperatures == "C" else f"{quantity.c * 1.8:.0f} °F"
    return digits(quantity.value, quantity.decimals) + (f" {quantity.unit}" if quantity.unit else "")
