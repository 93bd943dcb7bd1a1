"""Why not everything can be had: the smallest set is smallest, it really conflicts, and giving way really helps."""

import random
from dataclasses import replace
from itertools import combinations

import numpy as np
import pytest
from scipy.optimize import linprog

from core.strategies import weight_formula
from sapolin.core.optimise.solve import SolveQuestion, Target
from sapolin.core.optimise.solve import conflict as room
from sapolin.core.optimise.solve.answer import solve_model
from sapolin.core.optimise.solve.conflict import smallest_conflict, would_give
from sapolin.core.optimise.solve.model import BlendModel

OILS = ("olive-refined", "coconut", "palm", "shea", "castor", "cocoa", "lard", "sunflower-high-oleic", "babassu")
QUALITIES = ("hardness", "cleansing", "conditioning", "open_lather", "dense_lather", "oxidation_load", "iodine_value")


def model_of(*target_ranges: tuple[str, float, float]) -> BlendModel:
    targets = tuple(Target(feature=feature, minimum=low, maximum=high) for feature, low, high in target_ranges)
    formula = weight_formula({"olive-refined": 700.0, "coconut": 300.0})
    return solve_model(SolveQuestion(formula=formula, targets=targets, pool=OILS))


def least_given(model: BlendModel, targets: tuple[int, ...], gives: int | None = None) -> float:
    """Points by which target `gives` must be missed when some mixture meets all others; infinite when none does. Asked of a
    linear program of its own: shares of 100 % in all, each up to its most, and one more unknown for what is given."""
    rows, high, low = model.features[list(targets)], model.high[list(targets)], model.low[list(targets)]
    slack = np.array([float(target == gives) for target in targets]).reshape(-1, 1)
    above = np.vstack([np.hstack([rows, -slack]), np.hstack([-rows, -slack])])
    limits = np.concatenate([high, -low])
    finite = np.isfinite(limits)
    oils = len(model.oils)
    sense = np.vstack([model.rows, -model.rows])
    above = np.vstack([above[finite], np.hstack([sense, np.zeros((len(sense), 1))])])
    limits = np.concatenate([limits[finite], model.row_high, -model.row_low])
    finite = np.isfinite(limits)
    found = linprog(
        [0.0] * oils + [1.0], A_ub=above[finite], b_ub=limits[finite], A_eq=[[1.0] * oils + [0.0]], b_eq=[100.0],
        bounds=[*((0, most) for most in model.most), (0, None)],
    )  # fmt: skip
    return float(found.fun) if found.status == 0 else np.inf


def can_hold(model: BlendModel, targets: tuple[int, ...]) -> bool:
    return bool(np.isfinite(least_given(model, targets)))


def seeded(seed: int) -> BlendModel:
    chance = random.Random(seed)
    target_ranges = []
    for feature in chance.sample(QUALITIES, 5):
        middle = chance.uniform(5, 70)
        target_ranges.append((feature, middle - 1.5, middle + 1.5))
    return model_of(*target_ranges)


@pytest.mark.parametrize("seed", range(30))
def test_the_smallest_set_conflicts_and_no_smaller_one_does(seed):
    model = seeded(seed)
    conflict = smallest_conflict(model)
    everything = tuple(range(len(model.low)))
    if not conflict:
        assert can_hold(model, everything)
        return
    assert not can_hold(model, conflict)
    for size in range(1, len(conflict)):
        assert all(can_hold(model, smaller) for smaller in combinations(everything, size))


@pytest.mark.parametrize("seed", range(30))
def test_each_would_have_to_give_what_a_linear_program_of_its_own_says(seed):
    model = seeded(seed)
    conflict = smallest_conflict(model)
    given = would_give(model, conflict)
    for target in conflict:
        least = least_given(model, conflict, gives=target)
        if np.isfinite(least):
            assert sum(given[target]) == pytest.approx(least, abs=1e-5)
            assert min(given[target]) == 0
        else:
            assert target not in given


def test_giving_that_much_is_enough_and_less_is_not():
    model = model_of(("hardness", 60, 70), ("conditioning", 60, 70), ("cleansing", 0, 30))
    conflict = smallest_conflict(model)
    for target, (falls, rises) in would_give(model, conflict).items():
        for component, holds in ((1.001, True), (0.99, False)):
            low, high = model.low.copy(), model.high.copy()
            # Only the end that is named has to move.
            low[target] -= component * falls
            high[target] += component * rises
            assert can_hold(replace(model, low=low, high=high), conflict) is holds


def test_a_target_range_out_of_reach_of_every_oil_stands_alone():
    model = model_of(("cleansing", 10, 20), ("hardness", 120, 130))
    assert smallest_conflict(model) == (1,)


def test_where_sets_are_too_large_to_try_one_by_one_what_is_left_still_conflicts_and_needs_every_member(monkeypatch):
    monkeypatch.setattr(room, "MOST_TOGETHER", 0)
    for seed in range(30):
        model = seeded(seed)
        conflict = smallest_conflict(model)
        if conflict:
            assert not can_hold(model, conflict)
            for target in conflict:
                assert can_hold(model, tuple(one for one in conflict if one != target))
