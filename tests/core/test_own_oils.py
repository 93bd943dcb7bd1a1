"""What a maker says of their own oils is what solves and swaps go by."""

import pytest
from pydantic import ValidationError

from core.strategies import weight_formula
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.optimise.best_move import best_move
from sapolin.core.optimise.own_oils import OilNote, solve_with_notes, swap_with_notes
from sapolin.core.optimise.solve import ShareLimit, SolveQuestion, answer_solve
from sapolin.core.optimise.solve.question import targets_of_purpose
from sapolin.core.optimise.swap import SwapQuestion, answer_swap
from sapolin.core.optimise.swap.question import Outgoing

GUEST = weight_formula({"olive-refined": 340.0, "palm": 300.0, "coconut": 260.0, "shea": 50.0, "castor": 50.0})
ASKED = SolveQuestion(formula=GUEST, targets=targets_of_purpose("everyday-body"))


def oils_of(answer) -> list[dict[str, float]]:
    return [{line.oil: line.value for line in one.formula.blend.lines} for one in answer.solutions]


def test_what_is_never_used_is_in_no_blend():
    first = oils_of(answer_solve(ASKED))[0]
    unloved = max(first, key=first.__getitem__)
    notes = {unloved: OilNote(liking="never")}
    assert all(unloved not in blend for blend in oils_of(answer_solve(solve_with_notes(ASKED, notes))))


def test_what_the_question_wants_is_used_whatever_was_said():
    wanted = ASKED.model_copy(update={"limits": (ShareLimit(oil="palm", minimum_percent=10.0),)})
    asked = solve_with_notes(wanted, {"palm": OilNote(liking="never")})
    assert asked.never == ()
    assert all(blend["palm"] >= 10 for blend in oils_of(answer_solve(asked)))


def test_an_own_most_share_holds():
    notes = {"olive-refined": OilNote(most_percent=20.0)}
    assert all(blend.get("olive-refined", 0.0) <= 20 for blend in oils_of(answer_solve(solve_with_notes(ASKED, notes))))


def test_a_limit_of_the_question_goes_before_the_own_one():
    limit = ShareLimit(oil="olive-refined", maximum_percent=50.0)
    asked = solve_with_notes(
        ASKED.model_copy(update={"limits": (limit,)}), {"olive-refined": OilNote(most_percent=20.0)}
    )
    assert asked.limits == (limit,)


def test_favourites_and_what_is_on_hand_count_as_familiar():
    notes = {"murumuru": OilNote(liking="favourite"), "marula": OilNote(on_hand_g=300.0), "sal": OilNote(on_hand_g=0.0)}
    assert solve_with_notes(ASKED, notes).at_hand == ("murumuru", "marula")


def test_a_swap_offers_nothing_that_is_never_used():
    question = SwapQuestion(formula=GUEST, outgoing=(Outgoing(oil="palm"),))
    offered = {new.oil for one in answer_swap(question).candidates for new in one.incoming}
    unloved = sorted(offered)[0]
    answer = answer_swap(swap_with_notes(question, {unloved: OilNote(liking="never")}))
    assert unloved not in {new.oil for one in answer.candidates for new in one.incoming}


def test_the_best_move_keeps_to_them_too():
    hard = weight_formula({"olive-refined": 900.0, "castor": 100.0})
    first = best_move(hard, catalogue())
    other = best_move(hard, catalogue(), never=[first.take])
    assert other.take != first.take


@pytest.mark.parametrize(
    "fields", [{"on_hand_g": -1.0}, {"most_percent": 0.0}, {"most_percent": 101.0}, {"liking": "love"}]
)
def test_what_cannot_be_is_refused(fields):
    with pytest.raises(ValidationError):
        OilNote(**fields)
