"""The solver finds the best blend on the grid and proves it, and says why when not everything can be had."""

import itertools
import random
from dataclasses import replace

import numpy as np
import pytest

from core.plain_milp import plain_milp
from core.strategies import weight_formula
from sapolin.core.bar.calculation import calculate
from sapolin.core.formula.document import Blend, Formula
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.materials.usual_shares import familiarity_of
from sapolin.core.optimise.solve import GroupLimit, ShareLimit, SolveQuestion, Target, answer_solve
from sapolin.core.optimise.solve.answer import solve_model
from sapolin.core.optimise.solve.branch import Progress, find_best, value_within
from sapolin.core.optimise.solve.question import (
    check_question,
    in_group,
    starting_question,
    targets_like,
    targets_of_purpose,
)
from sapolin.core.quantities.diagnostics import FormulaError

SHELF = (
    "olive-refined", "coconut", "palm", "shea", "castor", "cocoa", "mango", "sunflower-high-oleic", "canola", "lard",
    "tallow-beef", "soy-wax", "rice-bran", "avocado", "almond-sweet", "babassu", "kokum", "grapeseed", "hemp",
    "apricot-kernel",
)  # fmt: skip
GUEST = {"olive-refined": 340.0, "palm": 300.0, "coconut": 260.0, "shea": 50.0, "castor": 50.0}
FORMULA = weight_formula({"olive-refined": 700.0, "coconut": 250.0, "castor": 50.0})


def ask(*targets: Target, **changes) -> SolveQuestion:
    return SolveQuestion(**({"formula": FORMULA, "targets": targets, "pool": SHELF} | changes))


def target_range(feature: str, low: float | None, high: float | None, **changes) -> Target:
    return Target(feature=feature, minimum=low, maximum=high, **changes)


ACIDS_WANTED = (("C12:0", 9), ("C16:0", 15), ("C18:0", 8), ("C18:2", 9))
EVERYDAY = targets_of_purpose("everyday-body")


def seeded(seed: int) -> SolveQuestion:
    chance = random.Random(seed)
    targets = []
    for feature, width in (
        ("hardness", 6),
        ("cleansing", 4),
        ("open_lather", 5),
        ("dense_lather", 5),
        ("oxidation_load", 6),
    ):
        middle = chance.uniform(5, 45)
        targets.append(target_range(feature, middle - width / 2, middle + width / 2, weight=chance.choice([1.0, 2.0])))
    pool = tuple(chance.sample(SHELF, 9))
    return ask(*targets, pool=pool, most_oils=chance.choice([2, 3, 4]), step_percent=chance.choice([1.0, 2.0, 5.0]))


@pytest.mark.parametrize("seed", range(24))
def test_the_best_blend_is_that_of_the_plain_mixed_integer_model(seed):
    model = solve_model(seeded(seed))
    ours = find_best(model)
    theirs, is_proven = plain_milp(model, 60)
    if theirs == np.inf:
        assert (ours.status, ours.shares) == ("impossible", None)
        return
    assert is_proven
    assert ours.status == "proven"
    assert value_within(model, ours.value) - 1e-6 <= theirs <= ours.value + 1e-6
    assert ours.bound <= theirs + 1e-6
    assert model.cost(ours.shares) == pytest.approx(ours.value, abs=1e-9)


@pytest.mark.parametrize("seed", range(100, 116))
def test_with_rare_oils_it_is_that_of_the_plain_model_too(seed):
    model = solve_model(seeded(seed))
    rare = np.random.default_rng(seed).random(len(model.oils)) < 0.6
    model = replace(model, rare=rare, use_cost=model.use_cost + np.where(rare, 0.5, 0.0))
    ours = find_best(model)
    theirs, is_proven = plain_milp(model, 60)
    if theirs == np.inf:
        assert (ours.status, ours.shares) == ("impossible", None)
        return
    assert (is_proven, ours.status) == (True, "proven")
    assert value_within(model, ours.value) - 1e-6 <= theirs <= ours.value + 1e-6
    assert ours.bound <= theirs + 1e-6
    assert (ours.shares[rare] > 0).sum() <= 1


@pytest.mark.parametrize("seed", range(40, 46))
def test_the_best_blend_is_that_of_an_exhaustive_search(seed):
    question = seeded(seed).model_copy(update={"most_oils": 3, "step_percent": 5.0, "least_share_percent": 5.0})
    model = solve_model(question)
    best = np.inf
    for oils in itertools.combinations(range(len(model.oils)), 3):
        for first in range(0, 101, 5):
            for second in range(0, 101 - first, 5):
                shares = np.zeros(len(model.oils))
                shares[list(oils)] = first, second, 100 - first - second
                used = shares[shares > 0]
                if np.all(shares <= model.most + 1e-9) and model.keeps_rows(shares) and np.all(used >= 5):
                    best = min(best, model.cost(shares))
    found = find_best(model).value
    assert found == best or value_within(model, found) <= best <= found + 1e-6


def _rare(formula: Formula) -> list[str]:
    return [line.oil for line in formula.blend.lines if familiarity_of(catalogue()[line.oil]) == "rare"]


@pytest.mark.parametrize(
    ("oil", "groups"),
    [
        ("shea", {"hard", "butters"}), ("cocoa", {"hard", "butters"}), ("olive-refined", {"soft"}), ("castor", {"soft"}),
        # Hard and of palmitic acid, yet no butter: one is palm, one of an animal, one a wax; coconut is of lauric acid.
        ("palm", {"hard", "palm"}), ("tallow-beef", {"hard", "animal"}), ("beeswax", {"hard", "animal", "waxes"}),
        ("coconut", {"hard"}),
    ],
)  # fmt: skip
def test_what_an_oil_counts_to(oil, groups):
    named = ("hard", "soft", "butters", "animal", "waxes", "palm")
    assert {group for group in named if in_group(catalogue()[oil], group)} == groups


class TestAnEverydayBar:
    def test_everything_is_met_by_really_different_blends(self):
        answer = answer_solve(ask(*EVERYDAY))
        assert answer.status == "done"
        assert answer.conflict is None
        assert len(answer.solutions) == 5
        first = answer.solutions[0]
        assert (first.status, first.miss) == ("proven", pytest.approx(0))
        assert all(quantity.outside_by == 0 for quantity in first.result.qualities)
        sets = [frozenset(line.oil for line in one.formula.blend.lines) for one in answer.solutions]
        assert len(set(sets)) == 5

    def test_a_rare_oil_has_to_save_something(self):
        every = answer_solve(ask(*EVERYDAY, pool=None, with_specialties=True)).solutions[0]
        assert every.is_met
        assert _rare(every.formula) == []
        # No oil that workshops have holds much erucic acid.
        erucic = target_range("acid:C22:1", 12, 20)
        found = answer_solve(ask(erucic, pool=None, with_specialties=True)).solutions[0]
        assert found.is_met
        assert len(_rare(found.formula)) == 1

    def test_shares_are_on_the_grid_and_few(self):
        for solution in answer_solve(ask(*EVERYDAY, most_oils=4, step_percent=0.5)).solutions:
            shares = [line.value for line in solution.formula.blend.lines]
            assert sum(shares) == pytest.approx(100)
            assert len(shares) <= 4
            assert all(share * 2 == pytest.approx(round(share * 2)) and share >= 3 for share in shares)

    def test_what_is_shown_is_what_was_optimised(self):
        solution = answer_solve(
            ask(*EVERYDAY, target_range("trace_points", None, 40), target_range("firmness_at_unmould", 25, None))
        ).solutions[0]
        values = {target.feature: target.value for target in solution.targets}
        result = calculate(solution.formula)
        for quantity in result.qualities:
            if quantity.quality in values:
                assert values[quantity.quality] == pytest.approx(quantity.points, abs=1e-6)
        assert values["trace_points"] == pytest.approx(result.bar.trace_points, abs=1e-6)
        assert values["firmness_at_unmould"] == pytest.approx(result.bar.firmness_at_unmould, abs=1e-6)

    def test_limits_groups_and_what_must_be_avoided(self):
        question = ask(
            *EVERYDAY,
            limits=(
                ShareLimit(oil="lard", minimum_percent=20, maximum_percent=30),
                ShareLimit(oil="castor", maximum_percent=4),
            ),
            groups=(GroupLimit(group="butters", maximum_percent=10),),
            free_of=("palm", "tree nuts"),
        )
        for solution in answer_solve(question).solutions:
            shares = {line.oil: line.value for line in solution.formula.blend.lines}
            assert 20 <= shares["lard"] <= 30
            assert shares.get("castor", 0) <= 4
            assert sum(share for oil, share in shares.items() if in_group(catalogue()[oil], "butters")) <= 10
            assert not {"palm", "shea", "almond-sweet"} & set(shares)

    def test_nearest_to_the_present_formula(self):
        closer = answer_solve(ask(*EVERYDAY, prefer="closer")).solutions[0]
        shares = {line.oil: line.value for line in closer.formula.blend.lines}
        anyhow = answer_solve(ask(*EVERYDAY)).solutions[0]
        other = {line.oil: line.value for line in anyhow.formula.blend.lines}
        assert shares.get("olive-refined", 0) >= other.get("olive-refined", 0)

    def test_money_decides_among_equals_and_caps_the_blend(self):
        prices = {oil: 2.0 + 0.5 * i for i, oil in enumerate(SHELF[:14])}
        cheap = answer_solve(ask(*EVERYDAY, prefer="cheaper", prices=prices)).solutions[0]
        anyhow = answer_solve(ask(*EVERYDAY, prices=prices)).solutions[0]
        assert cheap.miss == pytest.approx(0)
        assert {line.oil for line in cheap.formula.blend.lines} <= set(prices)
        if anyhow.cost.per_kg is not None:
            assert cheap.cost.per_kg <= anyhow.cost.per_kg + 1e-9
        by_hand = sum(line.value * prices[line.oil] for line in cheap.formula.blend.lines) / 100
        assert cheap.cost.per_kg == pytest.approx(by_hand)
        cap = cheap.cost.per_kg - 0.5
        capped = answer_solve(ask(*EVERYDAY, target_range("price_per_kg", None, cap, required=True), prices=prices))
        assert all(solution.cost.per_kg <= cap + 1e-6 for solution in capped.solutions)

    def test_fewer_oils_when_they_do_as_well(self):
        block = {"formula": FORMULA.model_copy(update={"purpose": "cleaning-block"}), "most_oils": 5}
        many = answer_solve(ask(*targets_of_purpose("cleaning-block"), **block)).solutions[0]
        few = answer_solve(ask(*targets_of_purpose("cleaning-block"), **block, prefer="fewer")).solutions[0]
        assert few.miss == many.miss == pytest.approx(0)
        assert len(few.formula.blend.lines) <= len(many.formula.blend.lines)
        # Coconut and anything saturated do for a cleaning block; one oil alone overshoots a target range or misses it.
        assert len(few.formula.blend.lines) <= 2

    def test_fewer_oils_are_no_reason_to_miss_more(self):
        """Four oils held together by narrow ranges around their own results: three miss them."""
        four = {"olive-refined": 450.0, "tallow-beef": 300.0, "coconut": 200.0, "castor": 50.0}
        narrow = tuple(
            target_range(one.quality, one.points - 0.3, one.points + 0.3)
            for one in calculate(weight_formula(four)).qualities
        )
        few = answer_solve(ask(*narrow, pool=(*four, "palm", "shea"), prefer="fewer")).solutions[0]
        assert few.miss == pytest.approx(0)
        assert len(few.formula.blend.lines) >= 4

    def test_the_slack_is_a_bound_that_blends_keep(self):
        prices = {oil: 3.0 + i for i, oil in enumerate(SHELF)}
        answer = answer_solve(ask(*EVERYDAY, prices=prices))
        cheap = answer_solve(ask(*EVERYDAY, prices=prices, prefer="cheaper", most_oils=9)).solutions[0]
        said = next(words for words in answer.slack if words.startswith("oils down to"))
        bound = float(said.split()[3])
        assert bound <= cheap.cost.per_kg + 0.005
        assert bound >= min(prices.values()) - 0.005

    def test_no_more_is_used_than_there_is(self):
        # 310 g of lard on a batch of 1000 g of oils
        question = ask(*EVERYDAY, available_g={"lard": 310.0, "olive-refined": 200.0, "palm": 0.0})
        for solution in answer_solve(question).solutions:
            weights = {oil.oil: oil.weight_g for oil in solution.result.oils}
            assert weights.get("lard", 0) <= 310
            assert weights.get("olive-refined", 0) <= 200
            assert "palm" not in weights

    def test_a_blank_page_is_enough(self):
        blank = FORMULA.model_copy(update={"blend": FORMULA.blend.model_copy(update={"lines": ()})})
        answer = answer_solve(ask(*targets_of_purpose("shaving"), formula=blank))
        assert answer.solutions[0].miss == pytest.approx(0)


class TestWhatCannotBeHad:
    def test_the_see_saw_is_named(self):
        answer = answer_solve(
            ask(
                target_range("hardness", 60, None),
                target_range("conditioning", 60, None),
                target_range("cleansing", 5, 25),
            )
        )
        assert set(answer.conflict.targets) == {"hardness", "conditioning"}
        # Hardness and conditioning share the acids: together they hardly exceed 100, so 60 + 60 must give about 20.
        assert {give.target: give.points for give in answer.conflict.gives}["hardness"] == pytest.approx(20, abs=3)
        assert "cannot hold together" in answer.conflict.words
        assert "would have to give" in answer.conflict.words
        assert answer.solutions[0].miss > 15
        # What is offered instead is the end less what it gives, rounded away from it to a tenth.
        for give in answer.conflict.gives:
            assert give.minimum == pytest.approx(60 - give.points, abs=0.1)
            assert give.minimum <= 60 - give.points + 1e-9
            assert give.maximum is None

    def test_a_single_requirement_beyond_all_oils(self):
        answer = answer_solve(ask(target_range("cleansing", 95, None)))
        assert answer.conflict.targets == ("cleansing",)
        assert "No mixture of the allowed oils" in answer.conflict.words

    def test_only_the_number_of_oils_stands_in_the_way(self):
        # TargetRanges around a blend of five oils can be met, but not with two.
        five = {"olive-refined": 400.0, "tallow-beef": 300.0, "coconut": 200.0, "castor": 50.0, "shea": 50.0}
        around = calculate(weight_formula(five)).qualities
        narrow = tuple(
            target_range(quantity.quality, quantity.points - 0.3, quantity.points + 0.3) for quantity in around
        )
        assert answer_solve(ask(*narrow)).conflict is None
        answer = answer_solve(ask(*narrow, most_oils=2))
        assert answer.conflict.targets == ()
        assert "More oils would meet everything" in answer.conflict.words
        assert answer.conflict.words.endswith(".")

    def test_a_must_that_cannot_be_leaves_no_blend(self):
        answer = answer_solve(ask(target_range("cleansing", 95, None, required=True)))
        assert answer.solutions == ()
        assert answer.conflict is not None


class TestHowItEnds:
    def test_it_stops_when_told(self):
        told: list[Progress] = []

        def report(progress: Progress) -> str:
            told.append(progress)
            return "on" if len(told) < 3 else "stop"

        narrow = tuple(
            target_range(f"acid:{acid}", x, x + 0.1)
            for acid, x in (("C12:0", 9), ("C16:0", 15), ("C18:0", 8), ("C18:2", 9))
        )
        best = find_best(solve_model(ask(*narrow, most_oils=3)), report=report)
        assert best.status == "stopped"
        assert best.shares is not None
        assert best.bound <= best.value

    def test_it_ends_in_bounds_with_a_known_gap(self):
        narrow = tuple(
            target_range(f"acid:{acid}", x, x + 0.05)
            for acid, x in (("C12:0", 9), ("C16:0", 15), ("C18:0", 8), ("C18:2", 9))
        )
        question = ask(*narrow, pool=None, with_specialties=True, most_oils=4)
        best = find_best(solve_model(question), most_nodes=60)
        assert best.status in ("gap", "proven")
        assert best.bound <= best.value


@pytest.mark.parametrize(
    ("changes", "code"),
    [
        (
            {"limits": (ShareLimit(oil="lard", minimum_percent=60), ShareLimit(oil="palm", minimum_percent=60))},
            "minimums_over_100",
        ),
        ({"limits": (ShareLimit(oil="lard", minimum_percent=60, maximum_percent=20),)}, "limit_reversed"),
        ({"limits": (ShareLimit(oil="palm", minimum_percent=10),), "free_of": ("palm",)}, "wanted_but_forbidden"),
        ({"pool": ("palm",), "free_of": ("palm",)}, "nothing_allowed"),
        ({"targets": (target_range("hardness", 50, 40),)}, "target_range_reversed"),
        ({"targets": (target_range("hardness", None, None),)}, "target_range_open"),
        ({"targets": (target_range("sparkle", 1, 2),)}, "unknown_target"),
    ],
)  # fmt: skip
def test_what_cannot_be_asked_is_said_with_a_remedy(changes, code):
    with pytest.raises(FormulaError) as error:
        answer_solve(ask(**({"targets": EVERYDAY} | changes)))
    assert code in [problem.code for problem in error.value.problems]
    assert all(problem.remedy for problem in error.value.problems)


@pytest.mark.parametrize(
    ("least", "most_oils", "said"),
    [
        (20.0, 8, []),
        (50.0, 3, []),
        (50.5, 2, ["least_share_too_large"]),
        (60.0, 1, []),
        (60.0, 4, ["least_share_too_large"]),
    ],
)
def test_two_shares_have_to_fit_unless_one_oil_is_all(least, most_oils, said):
    question = ask(*EVERYDAY, least_share_percent=least, most_oils=most_oils)
    if not said:
        check_question(question, catalogue())
        return
    with pytest.raises(FormulaError) as error:
        check_question(question, catalogue())
    assert [(one.code, one.path) for one in error.value.problems] == [(code, "least_share_percent") for code in said]


def test_more_like_this_one():
    result = calculate(FORMULA)
    targets = targets_like(result)
    for target, quantity in zip(targets, result.qualities, strict=True):
        assert target.minimum <= quantity.points <= target.maximum
        assert target.maximum - target.minimum <= 8
    assert answer_solve(ask(*targets)).solutions[0].miss == pytest.approx(0)


def test_an_answer_is_held_against_what_was_asked_not_against_the_formulas_own_ranges():
    own = ({"quality": "hardness", "minimum": 70.0, "maximum": 80.0},)
    formula = weight_formula({"olive-refined": 500.0, "coconut": 300.0, "tallow-beef": 200.0}, target_ranges=list(own))
    question = SolveQuestion(
        formula=formula, targets=(Target(feature="hardness", minimum=36.0, maximum=44.0),),
        pool=("olive-refined", "coconut", "tallow-beef"),
    )  # fmt: skip
    solution = answer_solve(question).solutions[0]
    (hardness,) = [quantity for quantity in solution.result.qualities if quantity.quality == "hardness"]
    assert (hardness.target_range.minimum, hardness.target_range.maximum) == (36.0, 44.0)
    assert hardness.standing == "in"
    # The formula keeps its own ranges.
    assert solution.formula.target_ranges == formula.target_ranges


class TestStartingQuestion:
    def test_it_asks_for_the_ranges_of_the_purpose_near_to_the_blend(self):
        asked = starting_question(weight_formula(GUEST))
        assert {one.feature: (one.minimum, one.maximum) for one in asked.targets}["hardness"] == (36.0, 48.0)
        # Where a range begins at the end of its scale, nothing is asked of its lower end.
        assert {one.feature: one.minimum for one in asked.targets}["oxidation_load"] is None
        assert (asked.prefer, asked.purpose) == ("closer", None)

    def test_own_ranges_win_and_the_wrong_way_round_is_left_out(self):
        own = [
            {"quality": "hardness", "minimum": 30, "maximum": 40}, {"quality": "cleansing", "minimum": 20, "maximum": 10},
        ]  # fmt: skip
        asked = starting_question(weight_formula(GUEST, target_ranges=own))
        assert [(one.feature, one.minimum, one.maximum) for one in asked.targets] == [("hardness", 30.0, 40.0)]

    def test_another_purpose_brings_its_own(self):
        asked = starting_question(weight_formula(GUEST), "face")
        assert asked.purpose == "face"
        assert {one.feature: (one.minimum, one.maximum) for one in asked.targets}["cleansing"] == (8.0, 14.0)

    def test_nothing_to_keep_near_to_and_nothing_wanted(self):
        empty = weight_formula(GUEST, target_ranges=[]).model_copy(update={"blend": Blend()})
        asked = starting_question(empty)
        assert (asked.targets, asked.prefer) == ((), "none")

    def test_a_salt_bar_comes_with_its_salt(self):
        asked = starting_question(weight_formula(GUEST), "salt-bar")
        answer = answer_solve(SolveQuestion(**asked.model_dump()))
        first = answer.solutions[0].formula
        assert {line.additive: line.value for line in first.additives} == {"salt": 50.0}
        assert sum(line.value for line in first.blend.lines if line.oil == "coconut") >= 70
        assert first.superfat_percent == 18.0

    def test_salt_that_is_there_already_stays_as_it_is(self):
        salted = weight_formula(GUEST, additives=[{"additive": "salt", "by": "percent_of_oils", "value": 80.0}])
        answer = answer_solve(SolveQuestion(**starting_question(salted, "salt-bar").model_dump()))
        assert [line.value for line in answer.solutions[0].formula.additives] == [80.0]
