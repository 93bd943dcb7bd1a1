"""Likely causes of faults, from the record of a batch."""

import pytest

from sapolin.core.cure.causes import RULES, BatchRecordFacts, causes_of
from sapolin.core.cure.events import FAULTS, Fault
from sapolin.core.quantities.text import plain

USUAL = BatchRecordFacts(
    lye_concentration_percent=33, superfat_low_percent=2, oxidation_load=8, hardness=42, sugar_percent=0,
    has_titanium_dioxide=False, gel="full", room_c=20, cover="insulate", alcohol_spray=True, combined_oils_c=42, melts_at_c=35,
    trace="medium", scent_hurries=False, unmould_hours=24, unmould_low_h=18,
)  # fmt: skip


def first(fault: Fault, **facts: object) -> tuple[str, bool]:
    cause = causes_of(fault, USUAL.model_copy(update=facts)).causes[0]
    return cause.code, cause.from_record


@pytest.mark.parametrize(
    ("fault", "facts", "cause"),
    [
        ("ash", {"lye_concentration_percent": 28}, "wet"),
        ("ash", {"cover": "cover"}, "uncovered"),
        ("ash", {"alcohol_spray": False}, "unsprayed"),
        ("gel_ring", {"gel": "partial"}, "partial_gel"),
        ("rivers", {"has_titanium_dioxide": True}, "titanium_dioxide"),
        ("pockets", {"combined_oils_c": 30, "melts_at_c": 35}, "false_trace"),
        ("pockets", {"lye_concentration_percent": 44}, "undissolved_lye"),
        ("bubbles", {"trace": "heavy"}, "thick_pour"),
        ("separation", {"trace": "emulsion"}, "poured_early"),
        ("crumble", {"lye_concentration_percent": 40}, "dry"),
        ("crumble", {"superfat_low_percent": -1}, "lye_heavy"),
        ("crumble", {"hardness": 50, "unmould_hours": 60}, "cut_late"),
        ("colour_shift", {"sugar_percent": 3, "gel": "none"}, "sugar"),
        ("spots", {"oxidation_load": 20}, "oxidation"),
    ],
)
def test_what_the_record_speaks_for_comes_first(fault: Fault, facts: dict[str, object], cause: str) -> None:
    assert first(fault, **facts) == (cause, True)


def test_what_a_record_cannot_tell_comes_before_what_it_speaks_against() -> None:
    assert first("bubbles") == ("blender_air", False)
    assert first("spots") == ("old_oil", False)


@pytest.mark.parametrize("fault", FAULTS)
def test_every_fault_says_what_to_do_now_and_next_time(fault: Fault) -> None:
    found = causes_of(fault, USUAL)
    assert plain(found.now)
    assert 1 <= len(found.causes) <= 3
    for cause in found.causes:
        assert plain(cause.why)
        assert plain(cause.next_time)


@pytest.mark.parametrize("fault", FAULTS)
def test_every_cause_has_its_words_when_the_record_speaks_for_it(fault: Fault) -> None:
    speaking = USUAL.model_copy(
        update={
            "lye_concentration_percent": 45, "superfat_low_percent": -1, "oxidation_load": 20, "hardness": 60,
            "sugar_percent": 3, "has_titanium_dioxide": True, "gel": "partial", "room_c": 15, "cover": "cover",
            "alcohol_spray": False, "combined_oils_c": 25, "trace": "light", "scent_hurries": True, "unmould_hours": 80,
        }
    )  # fmt: skip
    for facts in (
        speaking,
        speaking.model_copy(update={"lye_concentration_percent": 28, "trace": "heavy", "cover": "heat_pad"}),
    ):
        assert all(plain(cause.why) for cause in causes_of(fault, facts).causes)
    assert len({rule.code for rule in RULES[fault]}) == len(RULES[fault])
