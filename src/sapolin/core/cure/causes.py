"""Why a batch has what is seen on it: likely causes from its own record, the likeliest first, and what to do.

Each fault has its causes with how much they are believed from the start, and what of the record makes each more likely. They
are rules of thumb: what the record does not tell is asked of the maker in the words.
"""

from collections.abc import Callable
from typing import NamedTuple

from sapolin.core.cure.events import Fault
from sapolin.core.quantities.model import Model
from sapolin.core.quantities.text import Param, Text, number, percent, template, text

__all__ = ["BatchRecordFacts", "Cause", "FaultCauses", "causes_of"]

SHOWN = 3
"""So many causes are named for a fault."""


class BatchRecordFacts(Model):
    """What the record of a batch says that bears on faults."""

    lye_concentration_percent: float
    superfat_low_percent: float
    """Low end of the expected superfat."""
    oxidation_load: float
    """Points: linoleic and linolenic acids, weighted."""
    hardness: float
    sugar_percent: float
    """Sugars, of the oils."""
    has_titanium_dioxide: bool
    gel: str
    """full, partial or none, by its forecast; empty when it was not forecast."""
    room_c: float
    cover: str
    alcohol_spray: bool
    combined_oils_c: float | None
    """The last temperature of the oils before the lye came in."""
    melts_at_c: float | None
    """The hardest fat."""
    trace: str
    """The last stage of trace before pouring; empty when none was recorded."""
    scent_hurries: bool
    unmould_hours: float | None
    """How long it was in the mould."""
    unmould_low_h: float | None
    """From when it could be unmoulded, by its forecast."""


class Cause(Model):
    """One likely cause."""

    code: str
    from_record: bool
    """The record itself speaks for it."""
    why: Text
    next_time: Text


class FaultCauses(Model):
    """A fault with its likely causes, the likeliest first, and what to do with these bars."""

    fault: Fault
    name: str
    now: Text
    """What to do with the bars that have it."""
    causes: tuple[Cause, ...]


class _Rule(NamedTuple):
    code: str
    base: float
    """How likely without anything in the record, against the others of the fault."""
    speaks: Callable[[BatchRecordFacts], bool] | None
    """Whether the record speaks for it; null when a record can't tell."""
    params: Callable[[BatchRecordFacts], dict[str, Param]] = lambda _: {}


def _wet(facts: BatchRecordFacts) -> bool:
    return facts.lye_concentration_percent < 32


def _dry(facts: BatchRecordFacts) -> bool:
    return facts.lye_concentration_percent > 37


def _thin(facts: BatchRecordFacts) -> bool:
    return facts.trace in ("", "emulsion", "light")


def _cold_fat(facts: BatchRecordFacts) -> bool:
    return (
        facts.combined_oils_c is not None
        and facts.melts_at_c is not None
        and facts.combined_oils_c < facts.melts_at_c - 1
    )


def _concentration(facts: BatchRecordFacts) -> dict[str, Param]:
    return {"concentration": percent(facts.lye_concentration_percent, 0)}


RULES: dict[Fault, tuple[_Rule, ...]] = {
    "ash": (
        _Rule("wet", 2, _wet, _concentration),
        _Rule("uncovered", 2, lambda f: f.cover not in ("insulate", "heat_pad")),
        _Rule("unsprayed", 1.5, lambda f: not f.alcohol_spray),
        _Rule("cool", 1.5, lambda f: f.gel == "none" or f.room_c < 18),
        _Rule("thin_trace", 1, lambda f: f.trace in ("emulsion", "light")),
    ),
    "gel_ring": (
        _Rule("partial_gel", 3, lambda f: f.gel == "partial"),
        _Rule("lost_heat", 1.5, lambda f: f.cover in ("cover", "fridge") and f.room_c < 20),
    ),
    "rivers": (
        _Rule("wet_and_warm", 2, lambda f: _wet(f) and f.gel != "none", _concentration),
        _Rule("titanium_dioxide", 2, lambda f: f.has_titanium_dioxide),
        _Rule("overheated", 1, lambda f: f.cover in ("heat_pad", "insulate")),
    ),
    "pockets": (
        _Rule("false_trace", 3, _cold_fat),
        _Rule("undissolved_lye", 2, lambda f: f.lye_concentration_percent > 40, _concentration),
        _Rule("poured_early", 2, _thin),
        _Rule("lye_heavy", 1.5, lambda f: f.superfat_low_percent < 0),
    ),
    "bubbles": (
        _Rule("blender_air", 2, None),
        _Rule("thick_pour", 1.5, lambda f: f.trace in ("heavy", "seized")),
        _Rule("scent_hurried", 1, lambda f: f.scent_hurries),
    ),
    "separation": (
        _Rule("poured_early", 3, _thin),
        _Rule("false_trace", 2, _cold_fat),
        _Rule("overheated", 1, lambda f: f.sugar_percent > 2 or f.cover in ("heat_pad", "insulate")),
    ),
    "crumble": (
        _Rule("dry", 2, _dry, _concentration),
        _Rule("lye_heavy", 2, lambda f: f.superfat_low_percent < 0),
        _Rule("cut_late", 1.5, lambda f: f.hardness > 45 and _late(f)),
        _Rule("false_trace", 1.5, _cold_fat),
        _Rule("hard_fats", 1, lambda f: f.hardness > 55, lambda f: {"hardness": number(f.hardness, 0)}),
    ),
    "colour_shift": (
        _Rule("vanillin", 2, None),
        _Rule("gelled", 1.5, lambda f: f.gel in ("full", "partial")),
        _Rule("sugar", 1.5, lambda f: f.sugar_percent > 1),
        _Rule("colour_not_alkali_proof", 1.5, None),
    ),
    "spots": (
        _Rule("oxidation", 2, lambda f: f.oxidation_load > 15, lambda f: {"load": number(f.oxidation_load, 0)}),
        _Rule("old_oil", 2, None),
        _Rule("superfat", 1.5, lambda f: f.superfat_low_percent > 5),
        _Rule("metals", 1, None),
    ),
}
"""Causes by fault, the usually likeliest first."""
SPEAKS_FACTOR = 3.0
"""What the record speaks for is so many times likelier than without it."""
SPEAKS_AGAINST_FACTOR = 0.4
"""What the record could have spoken for, and does not, is so much less likely."""


def _late(facts: BatchRecordFacts) -> bool:
    hours, low = facts.unmould_hours, facts.unmould_low_h
    return hours is not None and low is not None and hours > 2 * low


def causes_of(fault: Fault, facts: BatchRecordFacts) -> FaultCauses:
    """The likely causes of a fault in the batch of `facts`."""
    ranked = []
    for rule in RULES[fault]:
        speaks = rule.speaks is not None and rule.speaks(facts)
        factor = SPEAKS_FACTOR if speaks else 1.0 if rule.speaks is None else SPEAKS_AGAINST_FACTOR
        ranked.append((rule.base * factor, speaks, rule))
    ranked.sort(key=lambda one: -one[0])
    return FaultCauses(
        fault=fault,
        name=template(f"cure.faults.{fault}.name"),
        now=text(f"cure.faults.{fault}.now"),
        causes=tuple(
            Cause(
                code=rule.code,
                from_record=speaks,
                why=text(f"cure.causes.{rule.code}.{'why' if speaks else 'maybe'}", **rule.params(facts)),
                next_time=text(f"cure.causes.{rule.code}.next_time"),
            )
            for _, speaks, rule in ranked[:SHOWN]
        ),
    )
