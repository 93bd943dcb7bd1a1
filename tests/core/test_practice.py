"""Exercises are made by the real calculations: redone here from definitions, over many seeds."""

import re

import pytest

from sapolin.core.bar.explanations import explain
from sapolin.core.batch.plan import Choices
from sapolin.core.faults import rank
from sapolin.core.guide import Schools, guide_pages, safety_sheet, school_questions
from sapolin.core.guide.schools import chosen_choices
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.practice import KINDS, Answered, courses, exercise, grade
from sapolin.core.practice.exercise import practice_formula
from sapolin.core.practice.records import CASES, SOUND
from sapolin.core.quantities.text import Grams, Number, plain

SEEDS = range(30)


def right_option(kind, seed):
    made = exercise(kind, seed)
    return next(one.id for one in made.options if grade(kind, seed, Answered(option=one.id)).right)


@pytest.mark.parametrize("kind", KINDS)
def test_a_seed_makes_one_exercise_with_one_right_answer(kind):
    seen = set()
    for seed in SEEDS:
        made = exercise(kind, seed)
        assert made == exercise(kind, seed)
        seen.add(plain(sum(made.given, ())))
        graded = grade(kind, seed, Answered())
        assert not graded.right
        assert all(plain(line) for line in (made.question, graded.answer, *made.given, *graded.why))
        if made.answered_by == "choice":
            rights = [one.id for one in made.options if grade(kind, seed, Answered(option=one.id)).right]
            assert len(rights) == 1
            assert not grade(kind, seed, Answered(number=1.0)).right
    # Seeds make different exercises; there are fourteen faults to find.
    assert len(seen) >= 10


def test_the_unsafe_recipe_has_more_lye_than_its_oils_can_take():
    names = {oil.name.lower(): oil for oil in catalogue().values()}
    for seed in SEEDS:
        made = exercise("unsafe", seed)
        heavy = []
        for option, line in zip(("a", "b", "c", "d"), made.given, strict=True):
            said = plain(line)
            oils = said.split(": ", 1)[1].split("; NaOH")[0]
            need = 0.0
            for part in oils.split("; "):
                name, grams = re.fullmatch(r"(.+) (\d+) g", part).groups()
                need += int(grams) * names[name].sap_koh_mg_per_g.typical / 1000 * 39.997 / 56.1056
            naoh = next(one.g for one in line if isinstance(one, Grams))
            if naoh * 0.99 > need * 1.02:
                heavy.append(option)
        assert heavy == [right_option("unsafe", seed)]


def test_a_mould_is_filled_by_its_volume():
    for seed in SEEDS:
        made = exercise("mould", seed)
        length, width, height, headroom = (one.value for one in made.given[0] if isinstance(one, Number))
        volume = length * width * (height - headroom) / 1000
        # Batter of 33 % lye: 1 g of oil, about 0.14 g of lye in 0.28 g of water; 1.09 mL of oil and 0.31 mL of solution.
        oils = volume / 1.41
        assert grade("mould", seed, Answered(number=oils)).right
        assert not grade("mould", seed, Answered(number=oils * 1.2)).right
        assert not grade("mould", seed, Answered(number=oils * 0.8)).right


def test_a_swap_goes_the_way_of_its_fatty_acids():
    for seed in SEEDS:
        graded = grade("swap", seed, Answered())
        was, now = (one.value for one in graded.answer if isinstance(one, Number))
        option = right_option("swap", seed)
        assert option == ("up" if now - was > 2.5 else "down" if now - was < -2.5 else "same")
        # Nobody is asked what a second decimal decides.
        assert abs(now - was) <= 1.1 or abs(now - was) >= 3.9


def test_lye_over_is_taken_out_to_within_its_tolerance():
    scales = [seed for seed in SEEDS if exercise("overshoot", seed).answered_by == "scale"]
    assert len(scales) >= 5
    for seed in scales:
        made = exercise("overshoot", seed)
        assert made.starts_at > made.aims_at
        assert grade("overshoot", seed, Answered(number=made.aims_at)).right
        assert not grade("overshoot", seed, Answered(number=made.starts_at)).right
        assert not grade("overshoot", seed, Answered(number=made.aims_at + 1.0)).right
        # A superfat of 5 %: 95 % of the lye that the oils take, and more by as much as the scale shows.
        superfat = 100 - 95 * made.starts_at / made.aims_at
        [said] = [one.value for one in grade("overshoot", seed, Answered()).why[0] if isinstance(one, Number)][1:]
        assert said == pytest.approx(superfat, abs=0.1)
        assert ("burn" in plain(grade("overshoot", seed, Answered()).why[0])) is (superfat < 0)


def test_an_oil_over_in_the_bowl_is_answered_by_the_rest():
    bowls = [seed for seed in SEEDS if exercise("overshoot", seed).answered_by == "choice"]
    for seed in bowls:
        assert right_option("overshoot", seed) == "scale_up"
        target, captured = (one.g for one in exercise("overshoot", seed).given[0] if isinstance(one, Grams))
        assert captured / target >= 1.13


def test_false_trace_is_told_by_its_temperature():
    for seed in SEEDS:
        oils, melts = (one.c for one in exercise("trace", seed).given[1] if not isinstance(one, str))
        assert (right_option("trace", seed) == "warm") == (oils < melts)


def test_the_fault_is_the_likeliest_of_its_record_by_far():
    for symptom, changed, _ in CASES:
        first, second, *_ = rank(symptom, SOUND.model_copy(update=changed)).causes
        assert first.percent > 1.25 * second.percent, (symptom, first.cause, second.cause)


def test_courses_lead_through_what_there_is():
    pages = {page.id for page in guide_pages()}
    for course in courses():
        assert course.steps[-1].kind == "do"
        for step in course.steps:
            assert step.title
            assert step.kind != "page" or step.page in pages
            assert step.kind != "exercise" or (step.exercise in KINDS and step.times >= 1)


@pytest.mark.parametrize("page", guide_pages(), ids=lambda page: page.id)
def test_a_page_says_something_and_its_example_is_a_quantity_of_any_bar(page):
    assert 2 <= len(page.paragraphs) <= 4
    if page.quantity is not None:
        assert explain(practice_formula("body"), page.quantity).name
    assert page.exercise is None or page.exercise in KINDS


def test_schools_have_their_usual_choice_first_and_new_batches_follow_them():
    for question in school_questions():
        assert question.options[0].value == question.usual
        assert question.question.endswith("?")
    strict = chosen_choices(Schools(apart="within_5_f", mixing="whisk", milk="chilled"), Choices(cover="fridge"))
    assert (strict.school, strict.mixing, strict.milk, strict.cover) == ("within_5_f", "whisk", "chilled", "fridge")


def test_the_safety_sheet_has_what_hurts_first():
    said = {section.id: " ".join(section.points) for section in safety_sheet()}
    assert list(said)[:2] == ["gear", "first_aid"]
    for word in ("15 to 20 minutes", "20 minutes", "No vinegar", "emergency"):
        assert word in said["first_aid"]
    assert said["selling"].count("?") >= 4
