"""Designs: the batches that teach most, checked by trying every set; and what their sheets show."""

from fractions import Fraction
from itertools import combinations_with_replacement

import numpy as np
import pytest

from sapolin.core.quantities.diagnostics import FormulaError
from sapolin.core.trials.design import DesignAsked, OilLimits, design_of, determinant, grid_of, terms_of
from sapolin.core.trials.effects import RunSheet, oil_effects, run_results, step_results


def asked(oils=3, total=30.0, step=10.0, batches=4, low=0.0, high=30.0):
    limits = tuple(OilLimits(oil=f"o{i}", minimum_percent=low, maximum_percent=high) for i in range(oils))
    return DesignAsked(oils=limits, total_percent=total, step_percent=step, batches=batches)


def refused(question):
    with pytest.raises(FormulaError) as error:
        design_of(question)
    return error.value.problems[0].code


def rows_of(question, design):
    return [
        terms_of([round(share / question.step_percent) for share in batch], has_pairs=design.has_pairs)
        for batch in design.batches
    ]


@pytest.mark.parametrize(
    ("oils", "total", "step", "batches", "low", "high"),
    [
        (3, 30, 10, 4, 0, 30),
        (3, 30, 10, 5, 0, 20),
        (3, 40, 10, 6, 0, 40),
        (3, 25, 5, 4, 5, 15),
        (3, 35, 5, 3, 5, 20),
        (4, 20, 10, 4, 0, 20),
        (4, 30, 10, 4, 0, 20),
        (5, 20, 10, 5, 0, 10),
    ],
)
def test_no_other_set_of_batches_teaches_more(oils, total, step, batches, low, high):
    question = asked(oils, total, step, batches, low, high)
    design = design_of(question)
    every = [terms_of(point, has_pairs=design.has_pairs) for point in grid_of(question)]
    most = max(determinant(chosen) for chosen in combinations_with_replacement(every, batches))
    assert determinant(rows_of(question, design)) == most > 0


def test_a_determinant_is_exact():
    rng = np.random.default_rng(3)
    for _ in range(30):
        rows = [tuple(int(x) for x in rng.integers(0, 60, size=4)) for _ in range(6)]
        m = [[sum(Fraction(row[i] * row[j]) for row in rows) for j in range(4)] for i in range(4)]
        assert determinant(rows) == by_fractions(m)


def by_fractions(m):
    """Gauss with fractions, another way than the one under test."""
    value = Fraction(1)
    for k in range(len(m)):
        pivot = next((i for i in range(k, len(m)) if m[i][k] != 0), None)
        if pivot is None:
            return 0
        if pivot != k:
            m[k], m[pivot], value = m[pivot], m[k], -value
        value *= m[k][k]
        for i in range(k + 1, len(m)):
            factor = m[i][k] / m[k][k]
            m[i] = [a - factor * b for a, b in zip(m[i], m[k], strict=True)]
    return value


def test_every_batch_keeps_its_limits_and_the_total():
    question = asked(4, 45.0, 5.0, 10, 5.0, 25.0)
    for batch in design_of(question).batches:
        assert sum(batch) == pytest.approx(45)
        assert all(5 <= share <= 25 for share in batch)


@pytest.mark.parametrize(
    ("question", "code"),
    [
        (asked(batches=2), "too_few_batches"),
        (asked(total=33.0), "total_off_the_grid"),
        (asked(low=20.0, high=10.0), "limits_cross"),
        (asked(low=-5.0), "limits_cross"),
        (asked(total=100.0), "no_blend_inside_limits"),
        (asked(5, 100.0, 0.5, 5, 0.0, 100.0), "grid_too_fine"),
        (asked(low=10.0, high=10.0), "limits_too_narrow"),
    ],
)
def test_what_cannot_be_designed_says_why(question, code):
    assert refused(question) == code


def test_one_oil_twice_is_refused():
    twice = asked().model_copy(update={"oils": (asked().oils[0],) * 3})
    assert refused(twice) == "same_oil_twice"


class TestEffects:
    LABELS = ("castor 2 %", "castor 5 %", "castor 8 %")

    def sheets(self, *scores):
        return [RunSheet(run=i, tester="Runa", score=one) for i, ones in enumerate(scores) for one in ones]

    def test_a_clear_step_and_one_that_is_not(self):
        first, second = step_results(self.LABELS, self.sheets([2, 1, 2, 2], [4, 3, 4, 4], [4, 4, 3, 4]))
        assert (first.told, second.told) == ("surely", "close")
        assert first.low > 0 > second.low

    def test_one_sheet_each_tells_nothing(self):
        assert {one.told for one in step_results(self.LABELS, self.sheets([2], [4], [3]))} <= {"not_yet", "close"}

    def test_many_like_sheets_tell_that_there_is_no_difference(self):
        steps = step_results(self.LABELS[:2], self.sheets([3] * 120, [3] * 120))
        assert [one.told for one in steps] == ["alike"]

    def test_a_harsh_tester_does_not_lower_the_batch_that_only_they_judged(self):
        sheets = [RunSheet(run=0, tester="Runa", score=4), RunSheet(run=0, tester="Ilmo", score=2)] * 6
        sheets += [RunSheet(run=1, tester="Ilmo", score=2)] * 6
        first, second = run_results(self.LABELS[:2], sheets)
        assert second.score > 2.3
        assert first.score - second.score < 1.0

    def test_one_batch_and_one_sheet_by_hand(self):
        # Prior of the batch N(3, 1), of the tester N(0, 0.25), error 0.49: a score of 5 moves the batch by 2 · 1 / 1.74.
        [one] = run_results(self.LABELS[:1], self.sheets([5]))
        assert one.score == pytest.approx(3 + 2 / 1.74)

    def test_the_oil_that_does_it_is_found_and_led_to(self):
        shares = [(20, 5, 5), (5, 20, 5), (5, 5, 20), (10, 10, 10)]
        sheets = [
            RunSheet(run=i, tester="Runa", score=score)
            for i, batch in enumerate(shares)
            for score in [min(5, 1 + batch[0] / 5)] * 4
        ]
        grid = [(a, b, 30 - a - b) for a in (5, 10, 15, 20) for b in (5, 10, 15, 20) if 5 <= 30 - a - b <= 20]
        effects, following = oil_effects([("a", "A"), ("b", "B"), ("c", "C")], shares, sheets, grid)
        assert [one.told for one in effects] == ["surely", "not_yet", "not_yet"] or effects[0].low > 0 > effects[
            1
        ].effect
        assert following.shares_percent[0] == 20

    def test_a_mild_tester_of_one_batch_does_not_make_its_oil_better(self):
        shares = [(20, 5, 5), (5, 20, 5), (5, 5, 20), (10, 10, 10)]
        grid = [(10, 10, 10), (20, 5, 5)]
        oils = [("a", "A"), ("b", "B"), ("c", "C")]
        harsh = [RunSheet(run=i, tester="Ilmo", score=2) for i in range(4)] * 4
        mild = [RunSheet(run=0, tester="Runa", score=3)] * 4
        told_apart, _ = oil_effects(oils, shares, harsh + mild, grid)
        taken_for_one, _ = oil_effects(
            oils, shares, harsh + [one.model_copy(update={"tester": "Ilmo"}) for one in mild], grid
        )
        assert 0 < told_apart[0].effect < 0.7 * taken_for_one[0].effect

    def test_without_a_sheet_there_is_no_next_batch(self):
        assert oil_effects([("a", "A")] * 3, [(10, 10, 10)], [], [(10, 10, 10)]) == ((), None)
