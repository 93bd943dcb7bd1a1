"""What the record and the formula of a batch say that bears on faults: facts, and the yes or no of each piece of evidence."""

from collections.abc import Callable
from typing import NamedTuple

from sapolin.core.quantities.coefficients import coefficient
from sapolin.core.quantities.model import Model, Truth, given
from sapolin.core.quantities.text import Param, Temperature, Text, has_template, number, percent, text, weight

__all__ = ["EVIDENCE", "BatchRecordFacts", "Evidence", "evidence_of"]

WARM_COVERS = ("insulate", "heat_pad", "oven")


class BatchRecordFacts(Model):
    """What the record of a batch says that bears on faults."""

    lye_concentration_percent: float
    superfat_low_percent: float
    """Low end of the expected superfat."""
    superfat_percent: float
    oxidation_load: float
    """Points: linoleic and linolenic acids, weighted."""
    hardness: float
    cleansing: float
    open_lather: float
    oleic_percent: float
    """C18:1, % of all fatty acids."""
    long_saturated_percent: float
    """C16 to C22 saturated, % of all fatty acids."""
    hardly_dissolves: Truth
    """Little but soap of palmitic and stearic acid."""
    free_acid_percent: float
    """Stearic acid and the like, % of the oils."""
    sugar_percent: float
    """Sugars, of the oils."""
    salt_percent: float
    """Salt, of the oils."""
    has_titanium_dioxide: Truth
    has_powders: Truth
    """Clays, seeds or colours that may sink."""
    has_humectant: Truth
    has_milk: Truth
    milk_chilled: Truth
    """The liquid met the lye chilled, not frozen."""
    has_scent: Truth
    has_colour: Truth
    gel: str
    """full, partial or none, by its forecast; empty when it was not forecast."""
    room_c: float
    cover: str
    alcohol_spray: Truth
    mixing: str
    combined_oils_c: float | None
    """The last temperature of the oils before the lye came in."""
    melts_at_c: float | None
    """The hardest fat."""
    trace: str
    """The last stage of trace before pouring; empty when none was recorded."""
    scent_hurries: Truth
    scent_fades: Truth
    oils_g: float
    wash_water: str
    age_days: float | None
    """Since it was poured or packed; null when that is not known."""
    unmould_hours: float | None
    """How long it was in the mould."""
    unmould_low_h: float | None
    """From when it could be unmoulded, by its forecast."""


class _Rule(NamedTuple):
    holds: Callable[[BatchRecordFacts], bool | None]
    """Null when the record cannot tell."""
    params: Callable[[BatchRecordFacts], dict[str, Param]] = lambda _: {}
    """Asked only when the record can tell."""


def _lye(facts: BatchRecordFacts) -> dict[str, Param]:
    return {"concentration": percent(facts.lye_concentration_percent, 0)}


def _hardness(facts: BatchRecordFacts) -> dict[str, Param]:
    return {"hardness": number(facts.hardness, 0)}


def _superfat(facts: BatchRecordFacts) -> dict[str, Param]:
    return {"superfat": percent(facts.superfat_percent, 1), "low": percent(facts.superfat_low_percent, 1)}


def _oils(facts: BatchRecordFacts) -> dict[str, Param]:
    return {"temperature": Temperature(c=given(facts.combined_oils_c))}


def _fats(facts: BatchRecordFacts) -> dict[str, Param]:
    return _oils(facts) | {"melts": Temperature(c=given(facts.melts_at_c))}


def _sugar(facts: BatchRecordFacts) -> dict[str, Param]:
    return {"sugar": percent(facts.sugar_percent, 1)}


def _hours(facts: BatchRecordFacts) -> dict[str, Param]:
    return {"hours": number(given(facts.unmould_hours), 0, "h"), "low": number(given(facts.unmould_low_h), 0, "h")}


def _warm(facts: BatchRecordFacts, above: float) -> bool | None:
    return None if facts.combined_oils_c is None else facts.combined_oils_c > above


def _cold_fat(facts: BatchRecordFacts) -> bool | None:
    if facts.combined_oils_c is None or facts.melts_at_c is None:
        return None
    return facts.combined_oils_c < facts.melts_at_c - 1


def _out(facts: BatchRecordFacts, late: bool) -> bool | None:
    hours, low = facts.unmould_hours, facts.unmould_low_h
    if hours is None or low is None:
        return None
    return hours > 2 * low if late else hours < low


def _gelled(facts: BatchRecordFacts, *outcomes: str) -> bool | None:
    return facts.gel in outcomes if facts.gel else None


def _traced(facts: BatchRecordFacts, *stages: str) -> bool | None:
    return facts.trace in stages if facts.trace else None


def _room(facts: BatchRecordFacts) -> dict[str, Param]:
    return {"room": Temperature(c=facts.room_c)}


EVIDENCE: dict[str, _Rule] = {
    "wet": _Rule(lambda f: f.lye_concentration_percent < 32, _lye),
    "dry": _Rule(lambda f: f.lye_concentration_percent > 37, _lye),
    "very_strong_lye": _Rule(lambda f: f.lye_concentration_percent > 40, _lye),
    "open_cover": _Rule(lambda f: f.cover not in WARM_COVERS),
    "warm_cover": _Rule(lambda f: f.cover in WARM_COVERS),
    "unsprayed": _Rule(lambda f: not f.alcohol_spray),
    "cool_room": _Rule(lambda f: f.room_c < 18, _room),
    "no_gel": _Rule(lambda f: _gelled(f, "none")),
    "partial_gel": _Rule(lambda f: _gelled(f, "partial")),
    "gelled": _Rule(lambda f: _gelled(f, "full", "partial")),
    "thin": _Rule(lambda f: _traced(f, "emulsion", "light")),
    "thick": _Rule(lambda f: _traced(f, "heavy", "seized")),
    "whisked": _Rule(lambda f: f.mixing == "whisk"),
    "cold_fat": _Rule(_cold_fat, _fats),
    "hot_batter": _Rule(lambda f: _warm(f, 48.0), _oils),
    "cool_batter": _Rule(lambda f: None if f.combined_oils_c is None else f.combined_oils_c < 30.0, _oils),
    "lye_heavy": _Rule(lambda f: f.superfat_low_percent < 0, _superfat),
    "little_superfat": _Rule(lambda f: f.superfat_percent < 3, _superfat),
    "some_superfat": _Rule(lambda f: f.superfat_percent > coefficient("paste.clear_superfat_percent"), _superfat),
    "much_superfat": _Rule(lambda f: f.superfat_percent > 7, _superfat),
    "hard": _Rule(lambda f: f.hardness > 45, _hardness),
    "very_hard": _Rule(lambda f: f.hardness > 55, _hardness),
    "soft": _Rule(lambda f: f.hardness < 32, _hardness),
    "high_oleic": _Rule(lambda f: f.oleic_percent > 55, lambda f: {"oleic": percent(f.oleic_percent, 0)}),
    "long_saturated": _Rule(
        lambda f: f.long_saturated_percent > coefficient("liquid.long_acids_most"),
        lambda f: {"share": percent(f.long_saturated_percent, 0)},
    ),
    "high_cleansing": _Rule(lambda f: f.cleansing > 22, lambda f: {"cleansing": number(f.cleansing, 0)}),
    "low_lather": _Rule(lambda f: f.open_lather < 14, lambda f: {"lather": number(f.open_lather, 0)}),
    "hardly_dissolves": _Rule(lambda f: f.hardly_dissolves),
    "free_acids": _Rule(lambda f: f.free_acid_percent > 3, lambda f: {"share": percent(f.free_acid_percent, 0)}),
    "turns_early": _Rule(lambda f: f.oxidation_load > 15, lambda f: {"load": number(f.oxidation_load, 0)}),
    "some_sugar": _Rule(lambda f: f.sugar_percent > 1, _sugar),
    "much_sugar": _Rule(lambda f: f.sugar_percent > 2, _sugar),
    "milk": _Rule(lambda f: f.has_milk),
    "milk_chilled": _Rule(lambda f: f.milk_chilled if f.has_milk else None),
    "salt": _Rule(lambda f: f.salt_percent > 0.5),
    "salt_bar": _Rule(lambda f: f.salt_percent >= coefficient("salt.bar_from_percent")),
    "titanium": _Rule(lambda f: f.has_titanium_dioxide),
    "powders": _Rule(lambda f: f.has_powders),
    "humectant": _Rule(lambda f: f.has_humectant),
    "scented": _Rule(lambda f: f.has_scent),
    "scent_hurries": _Rule(lambda f: f.scent_hurries if f.has_scent else None),
    "fading_scent": _Rule(lambda f: f.scent_fades if f.has_scent else None),
    "coloured": _Rule(lambda f: f.has_colour),
    "big": _Rule(lambda f: f.oils_g > 5000, lambda f: {"oils": weight(f.oils_g, 0)}),
    "late_out": _Rule(lambda f: _out(f, late=True), _hours),
    "early_out": _Rule(lambda f: _out(f, late=False), _hours),
    "hard_water": _Rule(lambda f: f.wash_water != "soft"),
    "young": _Rule(
        lambda f: None if f.age_days is None else f.age_days < 28,
        lambda f: {"days": number(given(f.age_days), 0, "days")},
    ),
}
"""Every piece of evidence by id: whether it holds in a record, and the numbers of its sentence."""


class Evidence(Model):
    """A piece of evidence as a record has it."""

    id: str
    holds: Truth
    words: Text
    """What the record says, in a sentence."""


def evidence_of(facts: BatchRecordFacts) -> dict[str, Evidence]:
    """What `facts` say for or against each piece of evidence; what the record cannot tell is left out."""
    found = {}
    for id_, rule in EVIDENCE.items():
        holds = rule.holds(facts)
        if holds is not None:
            key = f"faults.evidence.{id_}.{'yes' if holds else 'no'}"
            words = text(key, **rule.params(facts)) if has_template(key) else ()
            found[id_] = Evidence(id=id_, holds=holds, words=words)
    return found
