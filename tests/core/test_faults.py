"""The fault finder: described cases with the cause a maker of twenty years would name, and the arithmetic of the table."""

import json
from pathlib import Path

import pytest

from sapolin.core.faults import EVIDENCE, evidence_of, rank, symptoms
from sapolin.core.practice.records import SOUND as USUAL
from sapolin.core.quantities.diagnostics import FormulaError
from sapolin.core.quantities.text import plain
from sapolin.data import read_json

CASES = json.loads((Path(__file__).parent / "fault_cases.json").read_text(encoding="utf-8"))
"""What happened, told in a line; what its record says beside a usual one; what the maker answers; the cause."""


@pytest.mark.parametrize("case", CASES, ids=[case["told"] for case in CASES])
def test_a_described_case_has_the_cause_a_maker_would_name(case):
    ranking = rank(case["symptom"], USUAL.model_copy(update=case["record"]), case["answers"])
    assert ranking.causes[0].cause == case["cause"], [(one.cause, round(one.percent)) for one in ranking.causes]


def test_there_are_cases_of_every_symptom():
    told = {case["symptom"] for case in CASES}
    assert len(CASES) >= 40
    assert {one.id for one in symptoms()} - told == {"muddy"}


def test_by_hand():
    # Crumbling: priors 2.5 dry, 1.5 lye-heavy, 2.5 cut late, 1.5 false trace, 1.2 hard fats, 0.5 salt bar, 1 else.
    without = rank("crumble")
    assert without.causes[0].percent == pytest.approx(100 * 2.5 / 10.7)
    assert without.other_percent == pytest.approx(100 / 10.7)
    # It zaps: 12 times as often when there is too much lye; 0.2, 1, 1, 1, 1 for no other cause.
    zaps = rank("crumble", None, {"zaps": True})
    assert zaps.causes[0].cause == "lye_heavy"
    assert zaps.causes[0].percent == pytest.approx(100 * 18 / (18 + 2.5 + 2.5 + 1.5 + 1.2 + 0.5 + 1))
    calm = rank("crumble", None, {"zaps": False})
    lye = next(one for one in calm.causes if one.cause == "lye_heavy")
    assert lye.percent == pytest.approx(100 * 0.3 / (0.3 + 2.5 + 2.5 + 1.5 + 1.2 + 0.5 + 1))


@pytest.mark.parametrize(
    ("evidence", "entry", "without", "with_it"),
    [
        ("little_superfat", "superfat_percent", 3.5, 2.9), ("lye_heavy", "superfat_low_percent", 0.0, -0.1),
        ("wet", "lye_concentration_percent", 32.0, 31.9), ("dry", "lye_concentration_percent", 37.0, 37.1),
        ("very_strong_lye", "lye_concentration_percent", 40.0, 40.1), ("cool_room", "room_c", 18.0, 17.9),
        ("some_sugar", "sugar_percent", 1.0, 1.1), ("much_sugar", "sugar_percent", 2.0, 2.1),
        ("hot_batter", "combined_oils_c", 48.0, 48.1), ("cool_batter", "combined_oils_c", 30.0, 29.9),
        ("late_out", "unmould_hours", 36.0, 36.1), ("early_out", "unmould_hours", 18.0, 17.9),
        ("cold_fat", "combined_oils_c", 34.0, 33.9), ("some_superfat", "superfat_percent", 2.0, 2.1),
        ("much_superfat", "superfat_percent", 7.0, 7.1), ("hard", "hardness", 45.0, 45.1),
        ("very_hard", "hardness", 55.0, 55.1), ("soft", "hardness", 32.0, 31.9),
        ("high_oleic", "oleic_percent", 55.0, 55.1), ("long_saturated", "long_saturated_percent", 15.0, 15.1),
        ("high_cleansing", "cleansing", 22.0, 22.1), ("low_lather", "open_lather", 14.0, 13.9),
        ("free_acids", "free_acid_percent", 3.0, 3.1), ("turns_early", "oxidation_load", 15.0, 15.1),
        ("salt", "salt_percent", 0.5, 0.6), ("salt_bar", "salt_percent", 19.9, 20.0), ("big", "oils_g", 5000.0, 5001.0),
        ("young", "age_days", 28.0, 27.9),
    ],
)  # fmt: skip
def test_where_evidence_begins(evidence, entry, without, with_it):
    holds = [evidence_of(USUAL.model_copy(update={entry: value}))[evidence].holds for value in (without, with_it)]
    assert holds == [False, True]


def test_evidence_multiplies_and_says_so():
    facts = USUAL.model_copy(update={"lye_concentration_percent": 40.0, "unmould_hours": None, "unmould_low_h": None})
    dry = next(one for one in rank("crumble", facts).causes if one.cause == "dry")
    assert [(reason.ratio, plain(reason.words)) for reason in dry.reasons] == [(3.0, "Lye at 40 %: dry.")]
    odds = {"dry": 2.5 * 3, "lye_heavy": 1.5 * 0.4, "cut_late": 2.5 * 0.6, "false_trace": 1.5 * 0.5, "hard_fats": 1.2 * 0.4,
            "salt_bar_late": 0.5 * 0.05}  # fmt: skip
    assert dry.percent == pytest.approx(100 * odds["dry"] / (sum(odds.values()) + 1))


def test_what_a_record_cannot_tell_moves_nothing():
    blank = USUAL.model_copy(
        update={"gel": "", "trace": "", "combined_oils_c": None, "unmould_hours": None, "age_days": None}
    )
    known = evidence_of(blank)
    assert not {
        "no_gel",
        "partial_gel",
        "gelled",
        "thin",
        "thick",
        "cold_fat",
        "hot_batter",
        "late_out",
        "young",
    } & set(known)
    cause = next(one for one in rank("gel_ring", blank).causes if one.cause == "partial_gel")
    assert not any("forecast" in plain(reason.words) for reason in cause.reasons)


def test_questions_are_those_that_tell_most_and_answered_ones_stay():
    first = rank("crumble")
    assert first.questions[0].answer is None
    assert {one.id for one in first.questions} == {"zaps", "breaks_at_the_cutter"}
    second = rank("crumble", None, {"zaps": True})
    assert [(one.id, one.answer) for one in second.questions] == [("zaps", True), ("breaks_at_the_cutter", None)]


def test_a_reason_says_whether_the_record_gives_it_or_the_maker():
    heavy = USUAL.model_copy(update={"superfat_low_percent": -1.0})
    causes = rank("crumble", heavy, {"zaps": True}).causes
    reasons = next(one for one in causes if one.cause == "lye_heavy").reasons
    assert {(plain(one.words).split(" ")[0], one.from_record) for one in reasons} == {("Its", True), ("Does", False)}


@pytest.mark.parametrize("symptom", read_json("faults"))
def test_what_is_asked_first_parts_the_likely_causes(symptom):
    """Each question by what its answers differ, of the larger, times how likely the cause is that it speaks of."""
    row = read_json("faults")[symptom]
    worth = {}
    for cause in row["causes"]:
        for question, (yes, no) in cause.get("asks", {}).items():
            worth[question] = worth.get(question, 0.0) + cause["prior"] * (1 - min(yes, no) / max(yes, no))
    asked = [one.id for one in rank(symptom).questions]
    assert len(asked) == min(3, len(worth))
    assert [worth[one] for one in asked] == pytest.approx(sorted(worth.values(), reverse=True)[: len(asked)])


def test_unknown_symptoms_and_questions_are_refused():
    for symptom, answers, code in (("rain", {}, "unknown_symptom"), ("ash", {"zaps": True}, "unknown_question")):
        with pytest.raises(FormulaError) as error:
            rank(symptom, None, answers)
        assert error.value.problems[0].code == code


@pytest.mark.parametrize("symptom", [one.id for one in symptoms()])
def test_every_symptom_has_whole_words_and_its_chances_add_up(symptom):
    ranking = rank(symptom, USUAL)
    assert sum(one.percent for one in ranking.causes) + ranking.other_percent == pytest.approx(100.0)
    assert sum(one.prior_percent for one in ranking.causes) < 100
    assert plain(ranking.now).endswith(".")
    for cause in ranking.causes:
        assert plain(cause.next_time).endswith((".", "?"))
        assert all(plain(reason.words).endswith((".", "?")) for reason in cause.reasons)


def test_the_table_is_modest_and_complete():
    table = read_json("faults")
    used = {evidence for row in table.values() for cause in row["causes"] for evidence in cause["evidence"]}
    assert used == set(EVIDENCE)
    for row in table.values():
        names = [cause["cause"] for cause in row["causes"]]
        assert len(names) == len(set(names)) >= 3
        for cause in row["causes"]:
            for yes, no in (*cause["evidence"].values(), *cause["asks"].values()):
                # What makes a cause likelier when it holds makes it less likely when it does not.
                assert (yes - 1) * (no - 1) <= 0 or yes == no
                assert 0.02 <= min(yes, no) <= max(yes, no) <= 30
