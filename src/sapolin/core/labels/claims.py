"""Words on a label that say more than washing, or more than what is in the bar. It informs; local rules decide."""

from collections.abc import Iterator, Mapping, Sequence
from functools import cache
from re import IGNORECASE, Pattern
from re import compile as pattern
from typing import Literal, NamedTuple

from sapolin.core.formula.composition import Composition
from sapolin.core.labels.design import Language
from sapolin.core.materials.catalogue import Oil
from sapolin.core.materials.ingredients import Additive, colorants, scents
from sapolin.core.quantities.model import Model
from sapolin.core.quantities.text import Text, listed, text
from sapolin.data import read_json

__all__ = ["ClaimFlag", "InTheBar", "check_claims", "in_the_bar"]

Verdict = Literal["reword", "contradicted", "check", "holds"]
"""reword: it says more than washing. contradicted: what is in the bar says otherwise. check: it needs a proof or a certificate.
holds: nothing in the bar speaks against it."""


class ClaimFlag(Model):
    """Words that were looked at."""

    start: int
    end: int
    """Where they stand in the text."""
    words: str
    verdict: Verdict
    reason: Text
    instead: str
    """What says it within washing, in the language of the label; empty when there is nothing."""


class InTheBar(NamedTuple):
    """What is in a bar, as claims ask for it: names of what speaks against each."""

    not_vegan: tuple[str, ...]
    perhaps_not_vegan: tuple[str, ...]
    palm: tuple[str, ...]
    perhaps_palm: tuple[str, ...]
    not_natural: tuple[str, ...]
    scented: tuple[str, ...]
    coloured: tuple[str, ...]
    nuts: tuple[str, ...]
    milk: tuple[str, ...]


class _Claim(NamedTuple):
    words: Pattern[str]
    kind: str
    instead: str


@cache
def _claims(language: Language) -> tuple[_Claim, ...]:
    return tuple(
        _Claim(pattern(rf"(?<!\w)(?:{entry['words']})(?!\w)", IGNORECASE), entry["kind"], entry.get("instead", ""))
        for entry in read_json("claims")[language]
    )


SYNTHETIC_ADDITIVES = ("tetrasodium-edta", "bht", "titanium-dioxide")
MINERAL_COLOURS = ("mica", "oxide", "ultramarine", "white")
"""Kinds of colours that are made, however natural their mineral is."""
NUTS = ("tree nuts", "peanut")
SYNTHETIC_SCENTS = "-type"
"""Ids of scents that imitate end so."""


def in_the_bar(composition: Composition, scent_ids: Sequence[str], colour_ids: Sequence[str]) -> InTheBar:
    """What the components of a batch say about claims."""
    oils = [one.oil for one in composition.pure_oils]
    others = [item.row for item in (*composition.liquids, *composition.additives)]
    everything = (*oils, *others)
    maybe_of_palm: tuple[Oil | Additive, ...] = (*oils, *(one.additive for one in composition.additives))
    additives = [one.additive for one in composition.additives]
    synthetic_scents = tuple(scents()[id_].name for id_ in scent_ids if id_.endswith(SYNTHETIC_SCENTS))
    mineral = tuple(colorants()[id_].name for id_ in colour_ids if colorants()[id_].kind in MINERAL_COLOURS)
    return InTheBar(
        not_vegan=tuple(one.name for one in everything if one.vegan == "no"),
        perhaps_not_vegan=tuple(one.name for one in everything if one.vegan == "maybe"),
        palm=tuple(one.name for one in maybe_of_palm if one.palm_derived == "yes"),
        perhaps_palm=tuple(one.name for one in maybe_of_palm if one.palm_derived == "maybe"),
        not_natural=(
            *(one.name for one in additives if one.id in SYNTHETIC_ADDITIVES), *synthetic_scents, *mineral
        ),
        scented=tuple(scents()[id_].name for id_ in scent_ids),
        coloured=tuple(colorants()[id_].name for id_ in colour_ids),
        nuts=tuple(one.name for one in everything if any(nut in one.allergens for nut in NUTS)),
        milk=tuple(one.name for one in everything if "milk" in one.allergens),
    )  # fmt: skip


def check_claims(words: str, languages: Sequence[Language], bar: InTheBar) -> tuple[ClaimFlag, ...]:
    """What in `words` to look at, in order; the longest of what overlaps.

    >>> nothing = InTheBar(*[()] * 9)
    >>> flag, = check_claims("It heals dry skin.", ["en"], nothing)
    >>> flag.words, flag.verdict, flag.instead
    ('heals dry skin', 'reword', 'washes dry skin gently')
    """
    found = [flag for language in dict.fromkeys(languages) for flag in _found(words, language, bar)]
    found.sort(key=lambda one: (one.start, -one.end))
    kept: list[ClaimFlag] = []
    for flag in found:
        if not kept or flag.start >= kept[-1].end:
            kept.append(flag)
    return tuple(kept)


def _found(words: str, language: Language, bar: InTheBar) -> Iterator[ClaimFlag]:
    for claim in _claims(language):
        for match in claim.words.finditer(words):
            verdict, reason = _verdict(claim.kind, bar)
            yield ClaimFlag(
                start=match.start(), end=match.end(), words=match.group(), verdict=verdict, reason=reason,
                instead=claim.instead if verdict in ("reword", "check") else "",
            )  # fmt: skip


def _verdict(kind: str, bar: InTheBar) -> tuple[Verdict, Text]:
    against: Mapping[str, tuple[tuple[str, ...], tuple[str, ...]]] = {
        "vegan": (bar.not_vegan, bar.perhaps_not_vegan),
        "palm_free": (bar.palm, bar.perhaps_palm),
        "natural": (bar.not_natural, ()),
        "unscented": (bar.scented, ()),
        "uncoloured": (bar.coloured, ()),
        "nut_free": (bar.nuts, ()),
        "milk_free": (bar.milk, ()),
    }
    if kind not in against:
        verdict: Verdict = "check" if kind in ("organic", "tested", "environment") else "reword"
        return verdict, text(f"label.claims.{kind}")
    no, perhaps = against[kind]
    if no:
        return "contradicted", text(f"label.claims.{kind}", names=listed([name.lower() for name in no]))
    if perhaps:
        return "check", text(f"label.claims.{kind}_perhaps", names=listed([name.lower() for name in perhaps]))
    return ("check" if kind in ("natural", "nut_free") else "holds"), text(f"label.claims.{kind}_holds")
