"""Packs and prices as price lists write them: `12 x 500 ml`, `1x5l`, `2,5 kg`, `1 gal`, `100 pcs`, `12,50 €`.

Nothing is guessed silently: `1.250` may be one and a quarter or a thousand and more, so it is asked about unless the list says
which sign stands before decimals.
"""

import re
from typing import NamedTuple

from sapolin.core.quantities.numbers_written import NUMBER, CannotReadError, Decimal, read_number
from sapolin.core.quantities.units import WEIGHT_UNITS

__all__ = ["Pack", "pack_g", "read_pack"]

ML_PER_UNIT = {"ml": 1.0, "cl": 10.0, "dl": 100.0, "l": 1000.0, "fl oz": 29.5735295625, "pt": 473.176473, "qt": 946.352946,
               "gal": 3785.411784}  # fmt: skip
"""Of the United States where they have their own."""
_UNITS: dict[str, str] = {
    "g": "g", "gr": "g", "gram": "g", "grams": "g", "gramm": "g", "kg": "kg", "kgs": "kg", "kilo": "kg", "kilos": "kg",
    "oz": "oz", "ounce": "oz", "ounces": "oz", "lb": "lb", "lbs": "lb", "pound": "lb", "pounds": "lb", "ml": "ml",
    "cl": "cl", "dl": "dl", "l": "l", "lt": "l", "ltr": "l", "liter": "l", "litre": "l", "liters": "l", "litres": "l",
    "floz": "fl oz", "fl oz": "fl oz", "fl. oz": "fl oz", "fluid ounce": "fl oz", "fluid ounces": "fl oz", "pt": "pt",
    "pint": "pt", "pints": "pt", "qt": "qt", "quart": "qt", "quarts": "qt", "gal": "gal", "gallon": "gal", "gallons": "gal",
    "pc": "piece", "pcs": "piece", "piece": "piece", "pieces": "piece", "stk": "piece", "stück": "piece", "ea": "piece",
    "each": "piece", "unit": "piece", "units": "piece", "pièce": "piece", "pièces": "piece", "ud": "piece", "uds": "piece",
}  # fmt: skip
_UNIT = "|".join(sorted((re.escape(unit) for unit in _UNITS), key=len, reverse=True))
_FRACTION = re.compile(r"(?:(\d+)\s+)?(\d+)\s*/\s*(\d+)")
_SIGNS = {"½": " 1/2", "¼": " 1/4", "¾": " 3/4"}
_AMOUNT = rf"(?:\d+\s+)?\d+\s*/\s*\d+|{NUMBER}"
_TIMES = re.compile(rf"(\d+)\s*[x×*]\s*({_AMOUNT})\s*({_UNIT})(?![a-zäöüé])", re.IGNORECASE)
_ONE = re.compile(rf"({_AMOUNT})\s*({_UNIT})(?![a-zäöüé])", re.IGNORECASE)


class Pack(NamedTuple):
    """What one pack holds."""

    amount: float
    """In all, of `unit`."""
    unit: str
    """`g`, `ml` or `piece`."""


def read_pack(written: str, decimal: Decimal = "", unit: str = "") -> Pack:
    """What a pack holds; a bare number counts in `unit`. Raises CannotReadError.

    >>> read_pack("1x5l"), read_pack("12 x 500 g"), read_pack("Canister 2,5 kg"), read_pack("1/2 kg")
    (Pack(amount=5000.0, unit='ml'), Pack(amount=6000.0, unit='g'), Pack(amount=2500.0, unit='g'), Pack(amount=500.0, unit='g'))
    """
    for sign, fraction in _SIGNS.items():
        written = written.replace(sign, fraction)
    times = _TIMES.search(written)
    if times is not None:
        return _pack(int(times[1]) * _amount(times[2], decimal), times[3])
    one = _ONE.search(written)
    if one is not None:
        return _pack(_amount(one[1], decimal), one[2])
    if not re.search(r"\d", written):
        raise CannotReadError("no_number")
    if not unit:
        raise CannotReadError("no_unit")
    return _pack(_amount(written, decimal), unit)


def _amount(written: str, decimal: Decimal) -> float:
    """A number, or a fraction such as 1 1/2."""
    fraction = _FRACTION.fullmatch(written.strip())
    if fraction is None:
        return read_number(written, decimal)
    whole, over, under = (int(part or 0) for part in fraction.groups())
    if under == 0:
        raise CannotReadError("no_number")
    return whole + over / under


def _pack(amount: float, written_unit: str) -> Pack:
    unit = _UNITS.get(re.sub(r"\s+", " ", written_unit.strip().lower().rstrip(".")))
    if unit is None:
        raise CannotReadError("no_unit")
    if amount <= 0:
        raise CannotReadError("not_positive")
    if unit == "piece":
        return Pack(amount, "piece")
    if unit in ML_PER_UNIT:
        return Pack(amount * ML_PER_UNIT[unit], "ml")
    return Pack(amount * next(one.grams for id_, one in WEIGHT_UNITS.items() if id_ == unit), "g")


def pack_g(pack: Pack, density_g_per_ml: float | None) -> float | None:
    """What a pack weighs, g; pieces stay pieces. Null when it is sold by volume and no density is known.

    >>> pack_g(Pack(5000.0, "ml"), 0.92)
    4600.0
    """
    if pack.unit == "ml":
        return None if density_g_per_ml is None else pack.amount * density_g_per_ml
    return pack.amount
