"""Designs: the batches that teach most, checked by trying every set; and what their sheets show."""

from fractions import Fraction
from itertools import combinations_with_replacement
from math import ceil

import numpy as np
import pytest

from core.strategies import weight_formula
from sapolin.core.quantities.diagnostics import FormulaError
from sapolin.core.quantities.text import plain
from sapolin.core.trials.design import DesignAsked, OilLimits, design_of, determinant, grid_of, terms_of
from sapolin.core.trials.effects import RunSheet, oil_effects, run_results, step_results
from sapolin.core.trials.trial import TrialRun, TrialSetup, trial_result


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
        (asked(low=-0.5), "limits_cross"),
        (asked(high=100.5), "limits_cross"),
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

    @pytest.mark.parametrize(("each", "told"), [(1, "not_yet"), (2, "not_yet"), (3, "close")])
    def test_batches_judged_alike_are_not_called_so_by_one_or_two(self, each, told):
        [step, _] = step_results(self.LABELS, self.sheets([3] * each, [3] * each, [3] * each))
        assert step.told == told
        assert ("too few sheets" in plain(step.words)) == (each < 3)

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

    def test_an_oil_that_is_the_same_in_all_of_them_tells_nothing_of_itself(self):
        sheets = [RunSheet(run=run, tester="Runa", score=score) for run, score in ((0, 2.0), (1, 4.0), (2, 3.0))]
        shares = [(40, 50, 10), (50, 40, 10), (45, 45, 10)]
        effects, following = oil_effects([("a", "A"), ("b", "B"), ("c", "C")], shares, sheets, shares)
        same = next(one for one in effects if one.oil == "c")
        more = next(one for one in effects if one.oil == "a")
        assert more.effect > 0
        assert following is not None
        assert same.low < 0 < same.high


def conditional(rows, spreads, sheets):
    """Mean and covariance of what lies behind the scores, by way of how the scores go together: the score of a sheet is 3 and
    its row of causes, each with its own spread, and an error of 0.7 words."""
    x, before = np.array(rows, dtype=float), np.diag(np.square(np.array(spreads, dtype=float)))
    together = x @ before @ x.T + 0.49 * np.eye(len(rows))
    gain = before @ x.T @ np.linalg.inv(together)
    return gain @ (np.array([one.score for one in sheets]) - 3), before - gain @ x @ before


class TestEffectsByAnotherRoute:
    """Two testers (a spread of 0.5 words), batches a word apart."""

    SHEETS = tuple(
        RunSheet(run=run, tester=tester, score=score)
        for run, tester, score in [
            (0, "Runa", 2), (0, "Ilmo", 1), (0, "Runa", 3), (1, "Runa", 3), (1, "Ilmo", 2), (1, "Ilmo", 3), (1, "Runa", 4),
            (2, "Runa", 4), (2, "Ilmo", 3), (2, "Ilmo", 3),
        ]
    )  # fmt: skip
    LABELS = ("2 %", "5 %", "8 %", "11 %")

    def batches(self):
        rows = [[one.run == i for i in range(4)] + [one.tester == "Ilmo", one.tester == "Runa"] for one in self.SHEETS]
        return conditional(rows, [1.0] * 4 + [0.5] * 2, self.SHEETS)

    def test_each_batch(self):
        mean, covariance = self.batches()
        found = run_results(self.LABELS, self.SHEETS)
        assert [one.sheets for one in found] == [3, 4, 3, 0]
        assert [one.score for one in found] == pytest.approx(3 + mean[:4])
        spread = 1.959963985 * np.sqrt(np.diag(covariance)[:4])
        assert [one.low for one in found] == pytest.approx(np.maximum(3 + mean[:4] - spread, 1))
        assert [one.high for one in found] == pytest.approx(np.minimum(3 + mean[:4] + spread, 5))
        # Nobody judged the last: it lies anywhere about the middle, and at no end of the scale.
        assert (found[3].score, found[3].low, found[3].high) == pytest.approx((3.0, 3 - 1.959963985, 3 + 1.959963985))

    def test_each_step(self):
        mean, covariance = self.batches()
        steps = step_results(self.LABELS, self.SHEETS)
        assert [(one.from_run, one.to_run) for one in steps] == [(0, 1), (1, 2)]
        for one in steps:
            a, b = one.from_run, one.to_run
            sd = (covariance[a, a] + covariance[b, b] - 2 * covariance[a, b]) ** 0.5
            assert one.difference == pytest.approx(mean[b] - mean[a])
            assert (one.low, one.high) == pytest.approx(
                (one.difference - 1.959963985 * sd, one.difference + 1.959964 * sd)
            )
        first, second = steps
        assert (first.told, second.told) == ("probably", "not_yet")
        assert plain(first.words) == f"From 2 % to 5 %: probably more ({first.difference:.1f} words)."
        # Of each, so many that 1.96 deviations are no more than the difference: deviations fall with the root of the sheets.
        further = ceil(3 * (((second.high - second.difference) / second.difference) ** 2 - 1))
        assert f"about {further} more sheets" in plain(second.words)

    @pytest.mark.parametrize(
        ("times", "told"), [(3, "not_yet"), (4, "probably"), (7, "probably"), (8, "surely"), (9, "surely")]
    )
    def test_how_sure_a_step_is(self, times, told):
        """Half a word between two batches: 90 % is 1.2816 deviations of the normal curve, 97.5 % is 1.96."""
        sheets = [
            RunSheet(run=run, tester="Runa", score=score)
            for run, scores in ((0, (3, 3)), (1, (3, 4))) for score in scores * times
        ]  # fmt: skip
        rows = [[one.run == 0, one.run == 1, 1] for one in sheets]
        mean, covariance = conditional(rows, [1.0, 1.0, 0.5], sheets)
        deviations = (mean[1] - mean[0]) / (covariance[0, 0] + covariance[1, 1] - 2 * covariance[0, 1]) ** 0.5
        by_hand = "surely" if deviations >= 1.96 else "probably" if deviations >= 1.2816 else "not_yet"
        [step] = step_results(("2 %", "5 %"), sheets)
        assert step.told == by_hand == told

    def test_less_is_said_as_less(self):
        turned = [one.model_copy(update={"run": 1 - one.run}) for one in self.SHEETS if one.run < 2]
        [step] = step_results(self.LABELS[:2], turned)
        assert plain(step.words).startswith("From 2 % to 5 %: probably less (")

    def test_sheets_that_tell_most_are_asked_for_to_three_of_each(self):
        sheets = [RunSheet(run=run, tester="Runa", score=score) for run, score in ((0, 1), (1, 5))]
        [step] = step_results(self.LABELS[:2], sheets)
        assert step.told == "not_yet"
        assert "about 2 more sheets" in plain(step.words)

    def test_oils_and_the_batch_to_make_next(self):
        shares = [(20, 5, 5), (5, 20, 5), (5, 10, 15)]
        grid = [(20, 5, 5), (15, 10, 5), (5, 20, 5), (5, 5, 20), (10, 10, 10)]
        effects, following = oil_effects([("a", "Olive"), ("b", "Palm"), ("c", "Shea")], shares, self.SHEETS, grid)
        middle, spans = np.array([10, 35 / 3, 25 / 3]), np.array([15.0, 15.0, 10.0])
        rows = [
            [1, *((np.array(shares[one.run]) - middle) / spans), one.tester == "Ilmo", one.tester == "Runa",
             *(one.run == i for i in range(3))]
            for one in self.SHEETS
        ]  # fmt: skip
        mean, covariance = conditional(rows, [1.0] * 4 + [0.5] * 2 + [0.3] * 3, self.SHEETS)
        for i, effect in enumerate(effects):
            # Five points more of it, two and a half less of each other.
            move = np.full(3, -2.5)
            move[i] = 5
            move /= spans
            told, sd = move @ mean[1:4], (move @ covariance[1:4, 1:4] @ move) ** 0.5
            assert (effect.effect, effect.low, effect.high) == pytest.approx(
                (told, told - 1.959963985 * sd, told + 1.959964 * sd)
            )
        expected, spread = [], []
        for point in grid:
            terms = np.array([1, *((np.array(point) - middle) / spans)])
            expected.append(3 + terms @ mean[:4])
            spread.append((terms @ covariance[:4, :4] @ terms) ** 0.5)
        best = int(np.argmax(np.add(expected, spread)))
        assert following.shares_percent == grid[best]
        ends = [
            max(expected[best] - 1.959963985 * spread[best], 1.0),
            min(expected[best] + 1.959964 * spread[best], 5.0),
        ]
        blend = ", ".join(
            f"{name} {share} %" for name, share in zip(("Olive", "Palm", "Shea"), grid[best], strict=True)
        )
        assert plain(following.words) == (
            f"Next: {blend}. It may well be the best: about {min(expected[best], 5.0):.1f}, {ends[0]:.1f} to {ends[1]:.1f}."
        )


class TestTheNextOfASeries:
    """Batches with one oil at several shares: which of them is best, and whether it may go on."""

    LABELS = ("castor 2 %", "castor 5 %", "castor 8 %", "castor 11 %")

    def following(self, *scores):
        formula = weight_formula({"olive-refined": 600.0, "coconut": 380.0, "castor": 20.0})
        runs = tuple(TrialRun(label=label, formula=formula) for label in self.LABELS[: len(scores)])
        setup = TrialSetup(name="Castor", formula_id="f", criterion="lather", runs=runs)
        sheets = [RunSheet(run=i, tester="Runa", score=one) for i, ones in enumerate(scores) for one in ones]
        return trial_result(setup, sheets, {}).next

    def test_none_before_a_sheet_is_there(self):
        assert self.following([], []) is None

    def words(self, *scores):
        return plain(self.following(*scores).words)

    def test_what_gets_better_up_to_the_end_may_go_on(self):
        assert self.words([1] * 6, [3] * 6, [5] * 6).startswith("castor 8 % is best so far and stands at the end")
        # Down by two words and up by four.
        assert self.words([3] * 8, [1] * 8, [5] * 8).startswith("castor 8 % is best so far")

    def test_a_step_that_is_not_sure_adds_nothing_to_the_one_before(self):
        assert self.words([1] * 9, [3, 3, 3, 4] * 9, [3, 3, 3, 4] * 9).startswith("castor 5 % is enough")

    def test_the_best_may_lie_in_the_middle_or_at_the_beginning(self):
        # Up by three words, down by one, down by one: the second has most.
        assert (
            self.words([1] * 8, [4] * 8, [3] * 8, [2] * 8) == "castor 5 % is best: one step further, the score falls."
        )
        assert self.words([5] * 8, [3] * 8, [1] * 8) == "castor 2 % is best: one step further, the score falls."

    def test_the_step_that_is_least_known_comes_first(self):
        assert self.words([1] * 9, [3] * 9, [4]) == "Judge castor 5 % and castor 8 % again: there the least is known."
