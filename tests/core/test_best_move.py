"""Which oil next: the single move that helps most, against all moves tried one by one."""

import pytest

from conftest import formula_json
from core.strategies import weight_formula
from sapolin.core.bar.qualities import points_of, qualities
from sapolin.core.formula.document import Formula
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.optimise.best_move import best_move


def of(shares: dict[str, float | None], **changes) -> Formula:
    return Formula.model_validate(formula_json(shares, **changes))


def points(shares: dict[str, float], quality: str) -> float:
    at = list(qualities()).index(quality)
    whole = sum(shares.values())
    return sum(share / whole * points_of(catalogue()[oil].profile)[at] for oil, share in shares.items())


def test_from_the_first_oil_on():
    move = best_move(of({"olive-refined": 30.0}, lye={"naoh_purity_percent": None}), catalogue())
    assert (move.give, move.is_new) == ("olive-refined", True)
    assert move.percent <= 33
    after = {"olive-refined": 100 - move.percent, move.take: move.percent}
    for reached in move.reached:
        assert reached.points == pytest.approx(points(after, reached.quality))


def test_it_says_what_it_reaches():
    """45 olive, 25 coconut, 30 sunflower: oxidation load far over 18; a harder or slower oil takes some of the sunflower."""
    move = best_move(of({"olive-refined": 45.0, "coconut": 25.0, "sunflower": 30.0}), catalogue())
    assert move.give == "sunflower"
    assert {one.quality for one in move.reached} & {"oxidation_load", "hardness"}


def test_nothing_is_said_of_a_bar_that_is_right():
    assert (
        best_move(of({"olive-refined": 42.0, "palm": 28.0, "coconut": 21.0, "castor": 5.0, "shea": 4.0}), catalogue())
        is None
    )
    assert best_move(of({}), catalogue()) is None
    assert best_move(of({"olive-refined": 100.0}, purpose="of-another-time"), catalogue()) is None


def test_locked_oils_and_what_must_be_avoided_stay_out():
    formula = of({"olive-refined": 45.0, "coconut": 25.0, "sunflower": 30.0}, free_of=["palm", "animal", "tree nuts"])
    lines = [line.model_copy(update={"locked": line.oil == "sunflower"}) for line in formula.blend.lines]
    locked = formula.model_copy(update={"blend": formula.blend.model_copy(update={"lines": tuple(lines)})})
    move = best_move(locked, catalogue())
    assert move is None or (move.give != "sunflower" and move.take not in ("palm", "lard", "tallow-beef", "shea"))


def test_no_move_takes_more_than_makers_use():
    formula = weight_formula({"canola": 1000.0}, purpose="workshop-hands")
    move = best_move(formula, catalogue())
    assert move.take != "coconut" or move.percent <= 40
    everyday = best_move(weight_formula({"canola": 700.0, "coconut": 300.0}), catalogue())
    assert everyday.take != "coconut" or everyday.percent <= 3


def test_what_helps_most_is_found():
    """All moves of a fixed size between two oils, tried one by one."""
    shares = {"coconut": 40.0, "canola": 60.0}
    move = best_move(of(shares), catalogue())
    formula = of(shares)

    def miss(now: dict[str, float]) -> float:
        return sum(
            max(wanted.minimum - points(now, quality), points(now, quality) - wanted.maximum, 0.0)
            for quality in qualities()
            if (wanted := formula.target_range(quality)) is not None
        )

    after = dict(shares)
    after[move.give] -= move.percent
    after[move.take] = after.get(move.take, 0.0) + move.percent
    assert move.nearer_by == pytest.approx(miss(shares) - miss(after))
    for size in (5.0, 10.0, 15.0, 20.0):
        other = {"coconut": 40.0 - size, "canola": 60.0 + size}
        assert move.nearer_by >= miss(shares) - miss(other) - 0.6


def test_the_blend_after_it_is_the_move_and_nothing_else():
    formula = of({"olive-refined": 45.0, "coconut": 25.0, "sunflower": 30.0})
    move = best_move(formula, catalogue())
    before = {line.oil: line.value for line in formula.blend.lines}
    after = {line.oil: line.value for line in move.blend.lines}
    assert sum(after.values()) == pytest.approx(100)
    changed = {oil: after.get(oil, 0.0) - before.get(oil, 0.0) for oil in {*before, *after}}
    assert {oil: change for oil, change in changed.items() if abs(change) > 1e-6} == {
        move.give: pytest.approx(-move.percent), move.take: pytest.approx(move.percent)
    }  # fmt: skip


def test_weights_stay_weights():
    move = best_move(weight_formula({"olive-refined": 450.0, "coconut": 250.0, "sunflower": 300.0}), catalogue())
    assert {line.by for line in move.blend.lines} == {"weight_g"}
    assert sum(line.value for line in move.blend.lines) == pytest.approx(1000.0)


def test_an_oil_on_several_lines_gives_from_the_first_on():
    formula = of({"olive-refined": 35.0, "coconut": 25.0, "sunflower": 40.0})
    olive, coconut, sunflower = formula.blend.lines
    parts = [sunflower.model_copy(update={"value": value}) for value in (4.0, 36.0)]
    split = formula.model_copy(
        update={"blend": formula.blend.model_copy(update={"lines": (olive, parts[0], coconut, parts[1])})}
    )
    whole, move = best_move(formula, catalogue()), best_move(split, catalogue())
    assert (move.give, move.take, move.percent) == ("sunflower", whole.take, whole.percent)
    assert move.percent > 4
    # The line of 4 % is used up and gone; the other gives the rest.
    assert [line.value for line in move.blend.lines if line.oil == "sunflower"] == [pytest.approx(40 - move.percent)]
    assert sum(line.value for line in move.blend.lines) == pytest.approx(100)


MOST = {"olive-refined": 80, "coconut": 33, "palm": 50, "castor": 12, "shea": 25, "cocoa": 20, "lard": 100}
"""What makers use of them at most in an everyday bar, %: here each is the only one of its class."""


def missed(shares: dict[str, float], formula: Formula) -> float:
    """Points by which a blend lies outside the target ranges, all together."""
    return sum(
        max(wanted.minimum - points(shares, quality), points(shares, quality) - wanted.maximum, 0.0)
        for quality in qualities()
        if (wanted := formula.target_range(quality)) is not None
    )


def every_move(formula: Formula, shares: dict[str, float], takers: set[str]):
    """Each move between two oils that may be made, with how much nearer it comes and what it is worth: a percent moved has to
    bring a fiftieth of a point."""
    for give in shares:
        for take in takers - {give}:
            for percent in (5.0, 10.0, 15.0, 20.0, 25.0, 30.0):
                if percent <= shares[give] and shares.get(take, 0.0) + percent <= MOST[take]:
                    after = shares | {give: shares[give] - percent, take: shares.get(take, 0.0) + percent}
                    nearer = missed(shares, formula) - missed(after, formula)
                    if nearer >= 0.5:
                        yield nearer - percent / 50, nearer, (give, take, percent)


@pytest.mark.parametrize("new", ["shea", "cocoa", "lard"])
@pytest.mark.parametrize(
    "shares",
    [
        {"olive-refined": 45.0, "coconut": 25.0, "palm": 25.0, "castor": 5.0},
        {"olive-refined": 70.0, "coconut": 10.0, "palm": 20.0}, {"olive-refined": 30.0, "coconut": 30.0, "palm": 40.0},
        {"olive-refined": 62.0, "coconut": 28.0, "castor": 10.0}, {"coconut": 33.0, "palm": 50.0, "castor": 17.0},
        {"olive-refined": 80.0, "castor": 12.0, "coconut": 8.0}, {"olive-refined": 4.0, "coconut": 33.0, "palm": 63.0},
        # All of the cocoa butter goes.
        {"cocoa": 20.0, "palm": 60.0, "castor": 20.0},
    ],
)  # fmt: skip
def test_no_other_move_is_worth_more(shares, new):
    formula = of(shares)
    takers = {*shares, new}
    best = max(every_move(formula, shares, takers), default=None)
    move = best_move(formula, catalogue(), at_hand={new}, never=set(catalogue()) - takers)
    if best is None:
        assert move is None
        return
    worth, nearer, _ = best
    assert (move.nearer_by - move.percent / 50, move.nearer_by) == pytest.approx((worth, nearer))
    assert (move.give, move.take, move.percent) in [
        made for value, _, made in every_move(formula, shares, takers) if value > worth - 1e-6
    ]
    after = shares | {move.give: shares[move.give] - move.percent, move.take: shares.get(move.take, 0.0) + move.percent}
    gains = {
        quality: missed_of(shares, formula, quality) - missed_of(after, formula, quality)
        for quality in qualities()
    }  # fmt: skip
    told = [one.quality for one in move.reached]
    assert told == [quality for quality, gain in sorted(gains.items(), key=lambda one: -one[1])[:3] if gain > 0.05]
    for one in move.reached:
        wanted = formula.target_range(one.quality)
        assert one.points == pytest.approx(points(after, one.quality))
        assert one.in_range == (wanted.minimum <= round(one.points, 1) <= wanted.maximum)


def missed_of(shares: dict[str, float], formula: Formula, quality: str) -> float:
    wanted, value = formula.target_range(quality), points(shares, quality)
    return 0.0 if wanted is None else max(wanted.minimum - value, value - wanted.maximum, 0.0)
