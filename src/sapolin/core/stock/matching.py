"""Which material a price list means, by its name in one of several languages. What is not sure is left to the maker."""

import re
import unicodedata
from collections import defaultdict
from collections.abc import Mapping
from functools import cache

from sapolin.core.materials.catalogue import catalogue
from sapolin.core.materials.ingredients import additives, colorants, liquids, scents
from sapolin.core.materials.usual_shares import variants
from sapolin.core.quantities.model import Model
from sapolin.data import read_json

__all__ = ["Matched", "density_of", "match_name"]

LANGUAGES = ("en", "de", "fr", "es")
MOST_SUGGESTIONS = 6
_IDLE = frozenset((
    "oil", "oils", "of", "the", "de", "d", "la", "le", "du", "des", "huile", "aceite", "el", "bio", "organic", "raw", "pure",
    "refined", "cold", "pressed", "grade", "cosmetic",
))  # fmt: skip
"""Words that tell no two materials apart."""
_OF_A_KIND = frozenset((
    "virgin", "vierge", "nativ", "native", "natives", "virgen", "unrefined", "extra", "high", "oleic", "ho", "pomace", "red",
    "stearin", "olein", "hydrogenated", "fractionated", "gehartet", "gehartetes", "fraktioniert", "nilotica", "raffine",
))  # fmt: skip
"""Words of one kind of an oil: with one of them, the usual kind is not taken for meant."""
Names = tuple[tuple[frozenset[str], str], ...]


class Matched(Model):
    """What a name may stand for."""

    material: str | None
    """The one material that it names; null while the maker has to choose."""
    suggestions: tuple[str, ...]
    """Ids of those it may be, the likeliest first."""


def _words(name: str) -> frozenset[str]:
    plain = unicodedata.normalize("NFKD", name.lower())
    letters = (
        "".join(letter for letter in plain if not unicodedata.combining(letter)).replace("œ", "oe").replace("ß", "ss")
    )
    return frozenset(re.findall(r"[a-z0-9]+", letters))


@cache
def _known() -> Names:
    """Words of every name a material goes by, the longest first."""
    names = read_json("label_names")
    found: list[tuple[frozenset[str], str]] = []

    def add(id_: str, *called: str) -> None:
        found.extend((_words(one), id_) for one in called if one)

    for id_, oil in catalogue().items():
        add(
            id_,
            oil.name,
            *oil.synonyms,
            oil.inci,
            *(names["oils"].get(id_, {}).get(language, "") for language in LANGUAGES),
        )
    for group, kind, rows in (
        ("liquids", "liquid", liquids()), ("additives", "additive", additives()), ("scents", "scent", scents()),
        ("colorants", "colorant", colorants()),
    ):  # fmt: skip
        for id_, row in rows.items():
            called = names[group].get(id_, {})
            add(f"{kind}:{id_}", str(getattr(row, "name", id_)), *(called.get(one, "") for one in LANGUAGES))
    add(
        "naoh",
        "sodium hydroxide",
        "NaOH",
        "caustic soda",
        "Natriumhydroxid",
        "Ätznatron",
        "soude caustique",
        "sosa cáustica",
    )
    add(
        "koh",
        "potassium hydroxide",
        "KOH",
        "caustic potash",
        "Kaliumhydroxid",
        "Ätzkali",
        "potasse caustique",
        "potasa cáustica",
    )
    telling = [(words, id_) for words, id_ in found if words - _IDLE]
    return tuple(sorted(telling, key=lambda one: -len(one[0])))


@cache
def _order() -> Mapping[str, int]:
    """Where a material stands among the known names: what is named at more length comes first."""
    return {id_: i for i, (_, id_) in enumerate(reversed(_known()))}


@cache
def _by_word() -> Mapping[str, Names]:
    """The known names by one of their telling words."""
    index: dict[str, list[tuple[frozenset[str], str]]] = defaultdict(list)
    for words, id_ in _known():
        for word in words - _IDLE:
            index[word].append((words, id_))
    return {word: tuple(names) for word, names in index.items()}


def match_name(written: str, own: Mapping[str, str] | None = None) -> Matched:
    """What a list calls `written` may be: the longest name whose words are all in it. `own` are names of own materials by id.

    >>> match_name("Kokosöl raffiniert, 5 kg Eimer").material, match_name("Shea butter (karité)").material
    ('coconut', 'shea')
    >>> match_name("Olivenöl nativ extra").material, match_name("Olivenöl nativ extra").suggestions[:2]
    (None, ('olive-virgin', 'olive-refined'))
    """
    words = _words(written)
    best: dict[str, int] = {}
    for id_, name in (own or {}).items():
        named = _words(name)
        if named and named <= words:
            best[id_] = 10 * len(named)
    for word in words - _IDLE:
        for named, id_ in _by_word().get(word, ()):
            # Names of one or two words need all of their telling words; idle ones may be missing.
            if named - _IDLE <= words:
                best[id_] = max(best.get(id_, 0), 10 * len(named - _IDLE) + len(named & words))
    if not best:
        return Matched(material=None, suggestions=())
    top = max(best.values())
    meant = [id_ for id_, score in best.items() if score == top]
    if not words & _OF_A_KIND:
        # Where nothing says which kind, the usual one is meant, if it is among them.
        meant = [id_ for id_ in meant if variants().get(id_) not in meant]
        plain = [id_ for id_ in meant if id_ in catalogue() and _words(catalogue()[id_].name) - _IDLE <= words]
        meant = plain if len(plain) == 1 else meant
    ranked = sorted(best, key=lambda id_: (-best[id_], -_order().get(id_, 0)))
    return Matched(material=meant[0] if len(meant) == 1 else None, suggestions=tuple(ranked[:MOST_SUGGESTIONS]))


def density_of(material: str) -> float | None:
    """Density of what is sold by volume, g/mL; null where none is known. Watery liquids count as water."""
    if material in catalogue():
        return catalogue()[material].density_g_per_ml
    kind, _, id_ = material.partition(":")
    if kind == "scent" and id_ in scents():
        return scents()[id_].density_g_per_ml
    if kind == "liquid" and id_ in liquids():
        return 1.0
    if kind == "additive" and id_ in additives() and additives()[id_].role in ("lactate", "humectant"):
        return additives()[id_].density_g_per_ml
    return None
