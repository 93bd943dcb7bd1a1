"""Reading a recipe from the lines of a paper: amounts in any unit and order, names as people write them.

Nothing is guessed: a name that is not that of one oil alone comes back with suggestions for the maker to choose from, and what
could not be read comes back as it was written.
"""

import re
from collections.abc import Iterator, Sequence
from difflib import SequenceMatcher
from typing import Annotated, Literal

from pydantic import Field

from sapolin.core.formula.document import Blend, Formula, Koh, OilLine
from sapolin.core.formula.starting import starting_formula
from sapolin.core.materials.catalogue import Catalogue, Oil
from sapolin.core.quantities.model import EntryId, FiniteNumber, Model, Truth
from sapolin.core.quantities.numbers_written import NUMBER, CannotReadError, read_number
from sapolin.core.quantities.units import WEIGHT_UNITS, WeightUnitId

__all__ = ["RecipeLine", "RecipeOil", "RecipeRead", "Suggestion", "formula_of_recipe", "read_recipe"]

KOH_ALONE = Koh(by="saponification_percent", value=100.0, purity_percent=None)
MOST_LINES = 60
SUGGESTIONS = 6
LIKE_ENOUGH = 0.55
"""Names less alike than this are not suggested."""
SAME_WORD = 0.7
"""Words as alike as this are the same but for a slip."""
_FRACTIONS = {"½": 1 / 2, "¼": 1 / 4, "¾": 3 / 4, "⅓": 1 / 3, "⅔": 2 / 3, "⅛": 1 / 8}
_NUMBER = rf"(?:\d+\s+\d+\s*/\s*\d+|\d+\s*/\s*\d+|\d+\s*[½¼¾⅓⅔⅛]|[½¼¾⅓⅔⅛]|{NUMBER})"
_UNITS: dict[str, WeightUnitId | Literal["%"]] = {
    "g": "g", "gr": "g", "gram": "g", "grams": "g", "gramme": "g", "grammes": "g", "kg": "kg", "kilo": "kg", "kilos": "kg",
    "kilogram": "kg", "kilograms": "kg", "oz": "oz", "ounce": "oz", "ounces": "oz", "lb": "lb", "lbs": "lb", "pound": "lb",
    "pounds": "lb", "%": "%", "percent": "%",
}  # fmt: skip
_UNIT = "|".join(sorted(_UNITS, key=len, reverse=True))
_AMOUNT = re.compile(rf"(?<![\w.])({_NUMBER})\s*({_UNIT})(?![A-Za-z])\.?", re.IGNORECASE)
_ADDS = re.compile(r"\s*")
"""What stands between two weights that are one: 1 lb 4 oz."""
_SMALLER: dict[str, tuple[WeightUnitId, float]] = {"lb": ("oz", 16.0), "kg": ("g", 1000.0)}
"""The smaller unit that goes with another in one weight, and how many make a whole one."""
SAME_WEIGHT = 0.02
"""Weights of a line that differ by no more, as a fraction, are one weight in two units: 12 oz (340 g)."""
_LYE = re.compile(r"\b(lye|naoh|koh|sodium hydroxide|potassium hydroxide|caustic soda|caustic potash)\b", re.IGNORECASE)
_KOH = re.compile(r"\b(koh|potassium hydroxide|caustic potash)\b", re.IGNORECASE)
_WATER = re.compile(r"\bwater\b", re.IGNORECASE)
_SUPERFAT = re.compile(r"\b(super\s*fat|sf|lye discount)\b", re.IGNORECASE)
_NO_FATS = frozenset((
    "milk", "yogurt", "yoghurt", "cream", "honey", "sugar", "salt", "clay", "essential", "fragrance", "eo", "fo", "scent",
    "mica", "powder", "puree", "juice", "beer", "wine", "charcoal", "oatmeal", "oats", "pigment", "colour", "color", "citric",
    "lactate", "tree",
))  # fmt: skip
"""Words of what is no fat, whatever else the name resembles."""
_ANY_OIL = frozenset(("vegetable", "cooking", "frying", "salad", "plant", "household"))
"""Words that say of no oil which one it is."""
_KINDS = frozenset(("oil", "oils", "butter", "fat", "seed", "of", "the", "and", "a"))
"""Words that tell no two oils apart."""
_PRAISE = frozenset(("organic", "raw", "pure", "natural", "cold", "pressed", "unrefined"))
"""Words that most oils are praised with; where one belongs to a name, it counts."""


class Suggestion(Model):
    """An oil that may be meant."""

    oil: str
    name: str


class RecipeLine(Model):
    """One line as it was read."""

    text: str
    """As it was written."""
    kind: Literal["oil", "lye", "water", "superfat", "unread"]
    """Lye and water are calculated anew; what is unread has no amount, or no name of an oil."""
    amount: float | None = None
    unit: Literal["g", "percent"] | None = None
    """Weights come in grams."""
    name: str = ""
    """What stands for the oil."""
    why: Literal["", "ambiguous", "two_amounts", "no_fat", "no_amount", "no_name"] = ""
    """Why it was not read: its number could be two, its amounts contradict each other, it is no fat, or one is missing."""
    lye: Literal["naoh", "koh"] | None = None
    """Which lye it is of."""
    holds_an_amount: Truth = False
    """Something is to be done about it before a formula is made: it is not left out silently."""
    oil: str | None = None
    """The one oil that the name stands for; null while the maker has to choose."""
    suggestions: tuple[Suggestion, ...] = ()


class RecipeRead(Model):
    """A recipe as it was read."""

    lines: tuple[RecipeLine, ...]
    superfat_percent: float | None
    """Null when none is written."""


def _number(written: str, unit: str = "") -> float:
    """A number of a recipe. Of kilograms, pounds and percent `1.250` has decimals, as nobody has a thousand of them, and of
    ounces too; of grams it is asked about. Raises CannotReadError.

    >>> [_number(one) for one in ("1 1/2", "12,5", "1,250", "2½", "3/4", "1 250")]
    [1.5, 12.5, 1250.0, 2.5, 0.75, 1250.0]
    >>> _number("1.250", "kg"), _number("33.333", "%"), _number("33,333", "%"), _number("0.125", "g")
    (1.25, 33.333, 33.333, 0.125)
    """
    written = written.strip()
    for sign, value in _FRACTIONS.items():
        if sign in written:
            whole = written.replace(sign, "").strip()
            return (float(whole) if whole else 0.0) + value
    if "/" in written:
        *wholes, fraction = re.sub(r"\s*/\s*", "/", written).split()
        over, under = fraction.split("/")
        return sum(float(one) for one in wholes) + (float(over) / float(under) if float(under) else 0.0)
    if re.fullmatch(r"\d{1,3},\d{3}", written):
        return float(written.replace(",", "." if unit in ("kg", "lb", "%") else ""))
    return read_number(written, "." if unit in ("kg", "lb", "oz", "%") and re.fullmatch(r"\d+\.\d+", written) else "")


def _words(name: str) -> frozenset[str]:
    return frozenset(re.findall(r"[a-z0-9]+", name.lower())) - _KINDS


def _names(oil: Oil) -> tuple[frozenset[str], ...]:
    return tuple(_words(name) for name in (oil.name, *oil.synonyms))


def _meant(name: str, oils: Catalogue) -> tuple[str | None, tuple[Suggestion, ...]]:
    """The one oil that is called so, or those that may be meant, the likeliest first."""
    written = _words(name)
    exact: list[Oil] = []
    if written & _NO_FATS or written <= _ANY_OIL:
        written = frozenset()
    for words in dict.fromkeys((written, written - _PRAISE)):
        exact = exact or [oil for oil in oils.values() if words and words in _names(oil)]
    if len(exact) == 1 and _is_a_butter(name) and not _is_a_butter(" ".join((exact[0].name, *exact[0].synonyms))):
        # Avocado butter is no avocado oil: it is hydrogenated, or mixed with something hard.
        return None, (Suggestion(oil=exact[0].id, name=exact[0].name),)
    if len(exact) == 1:
        return exact[0].id, ()
    scored = sorted(
        ((_alike(written - _PRAISE, oil), -i, oil) for i, oil in enumerate(oils.values())),
        key=lambda one: one[:2],
        reverse=True,
    )
    found = [*exact, *(oil for score, _, oil in scored if score >= LIKE_ENOUGH and oil not in exact)]
    return None, tuple(Suggestion(oil=oil.id, name=oil.name) for oil in found[:SUGGESTIONS])


def _is_a_butter(name: str) -> bool:
    return "butter" in re.findall(r"[a-z]+", name.lower())


def _alike(words: frozenset[str], oil: Oil) -> float:
    """How alike the words written are to those of one of the names of an oil, from 0 to 1; slips of spelling allowed."""

    def near(word: str, others: frozenset[str]) -> float:
        return max((SequenceMatcher(None, word, other).ratio() for other in others), default=0.0)

    best = 0.0
    for names in _names(oil):
        own = {word: near(word, names) for word in words}
        if own and max(own.values()) >= SAME_WORD:
            # A word that is a slip of "butter" or "oil" tells nothing for or against.
            telling = [one for word, one in own.items() if one >= SAME_WORD or near(word, _KINDS) < SAME_WORD]
            best = max(best, sum(telling) / len(telling))
    return best


def _pieces(text: str) -> Iterator[str]:
    """One piece an amount: lines, and what stands in one line with commas, semicolons, "and" or plus signs between."""
    for line in re.split(r"[\n;]+", text):
        line = line.strip(" \t-*•·–—")
        if not line:
            continue
        parts = re.split(r",\s+|\s+\+\s+|\s+and\s+", line)
        if sum(bool(_AMOUNT.search(part)) for part in parts) > 1:
            gathered = ""
            for part in parts:
                gathered = f"{gathered}, {part}" if gathered else part
                if _AMOUNT.search(gathered):
                    yield gathered
                    gathered = ""
            if gathered:
                yield gathered
        else:
            yield line


def _weight_g(piece: str) -> float | None:
    """The weight of a line, g: once if it stands in two units; 0 without one, null when two of them contradict each other.

    >>> [_weight_g(one) for one in ("1 kg 500 g", "500 g (0.5 kg)", "500 g / 2 kg", "30%")]
    [1500.0, 500.0, None, 0.0]
    """
    weights: list[float] = []
    smaller, whole, end = "", 0.0, 0
    for found in _AMOUNT.finditer(piece):
        unit = _UNITS[found[2].lower()]
        value = _number(found[1], unit)
        if unit == "%":
            continue
        grams = value * WEIGHT_UNITS[unit].grams
        if weights and unit == smaller and value < whole and _ADDS.fullmatch(piece[end : found.start()]):
            weights[-1] += grams
        else:
            weights.append(grams)
        smaller, whole = _SMALLER.get(unit, ("", 0.0))
        end = found.end()
    agree = not weights or max(weights) - min(weights) <= SAME_WEIGHT * max(weights)
    return next(iter(weights), 0.0) if agree else None


def _line(piece: str, oils: Catalogue) -> RecipeLine:
    name = re.sub(r"[():=/\-–—]+", " ", _AMOUNT.sub(" ", piece))
    name = re.sub(r"(\s*,)+\s*", ", ", name)
    name = re.sub(r"^\s*(of|at)\s+", "", re.sub(r"\s+", " ", name).strip(" .,:")).strip()
    holds = bool(re.search(r"\d|[½¼¾⅓⅔⅛]", piece))
    unread = RecipeLine(text=piece, kind="unread", name=name, holds_an_amount=holds)
    try:
        amounts = [
            (_number(number, _UNITS[one.lower()]), _UNITS[one.lower()]) for number, one in _AMOUNT.findall(piece)
        ]
        shares = [value for value, of in amounts if of == "%"]
        if _SUPERFAT.search(piece):
            # A bare number is percent too: SF 6.
            numbers = shares or [_number(one, "%") for one in re.findall(_NUMBER, piece)]
            superfat = numbers[0] if len(numbers) == 1 else None
            return RecipeLine(text=piece, kind="superfat", amount=superfat, unit="percent", name="")
        grams = _weight_g(piece)
    except CannotReadError:
        return unread.model_copy(update={"why": "ambiguous"})
    by_share = grams == 0 and bool(shares)
    amount = shares[0] if by_share else grams or None
    unit: Literal["g", "percent"] | None = None if amount is None else "percent" if by_share else "g"
    if _LYE.search(piece):
        lye: Literal["naoh", "koh"] = "koh" if _KOH.search(piece) else "naoh"
        return RecipeLine(text=piece, kind="lye", amount=amount, unit=unit, name=name, lye=lye)
    if _WATER.search(piece):
        return RecipeLine(text=piece, kind="water", amount=amount, unit=unit, name=name)
    oil, suggestions = _meant(name, oils)
    unread = unread.model_copy(update={"amount": amount, "unit": unit, "suggestions": suggestions})
    if amount is None:
        return unread.model_copy(update={"why": "two_amounts" if grams is None else "no_amount"})
    if oil is None and not suggestions:
        return unread.model_copy(update={"why": "no_fat" if name else "no_name"})
    return RecipeLine(
        text=piece, kind="oil", amount=round(amount, 4), unit=unit, name=name, oil=oil, suggestions=suggestions,
        holds_an_amount=True,
    )  # fmt: skip


def read_recipe(text: str, oils: Catalogue) -> RecipeRead:
    """Read the lines of a recipe. What stands after the first 60 comes back unread.

    >>> from sapolin.core.materials.catalogue import catalogue
    >>> read = read_recipe("12 oz coconut oil, 2 lb lard, superfat 5%", catalogue())
    >>> [(line.oil, round(line.amount)) for line in read.lines if line.kind == "oil"], read.superfat_percent
    ([('coconut', 340), ('lard', 907)], 5.0)
    """
    pieces = list(_pieces(text))
    lines = (
        *(_line(piece, oils) for piece in pieces[:MOST_LINES]),
        *(RecipeLine(text=piece, kind="unread", holds_an_amount=True) for piece in pieces[MOST_LINES:]),
    )
    superfat = next((line.amount for line in lines if line.kind == "superfat" and line.amount is not None), None)
    return RecipeRead(lines=lines, superfat_percent=superfat)


class RecipeOil(Model):
    """An oil of a recipe, once the maker has said which is meant."""

    oil: EntryId
    amount: Annotated[FiniteNumber, Field(gt=0, le=1_000_000)]
    unit: Literal["g", "percent"]


def formula_of_recipe(
    name: str, oils: Sequence[RecipeOil], superfat_percent: float | None, *, is_koh: bool = False, notes: str = ""
) -> Formula:
    """A formula with the oils of a recipe; the same oil named twice comes together. Its lye waits for a purity, that of KOH
    where the paper says KOH. What else the paper says goes into its notes.

    Without a superfat written it has the usual one, which the formula shows.
    """
    amounts: dict[tuple[str, str], float] = {}
    for one in oils:
        key = (one.oil, "weight_g" if one.unit == "g" else "percent_of_oils")
        amounts[key] = amounts.get(key, 0.0) + one.amount
    lines = tuple(
        OilLine(oil=oil, by="weight_g" if by == "weight_g" else "percent_of_oils", value=amount)
        for (oil, by), amount in amounts.items()
    )
    start = starting_formula()
    weighed = any(line.by == "weight_g" for line in lines)
    return start.model_copy(update={
        "name": name,
        "blend": Blend(total_oils_g=None if weighed else start.blend.total_oils_g, lines=lines),
        "superfat_percent": start.superfat_percent if superfat_percent is None else superfat_percent,
        "lye": start.lye.model_copy(update={"koh": KOH_ALONE if is_koh else start.lye.koh}),
        "notes": notes,
    })  # fmt: skip
