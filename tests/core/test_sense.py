"""What keeps a solved blend sensible, how surely it holds, and what is asked for when a purpose is named."""

import numpy as np
import pytest

from core.strategies import weight_formula
from sapolin.core.formula.purposes import purposes
from sapolin.core.formula.starting import formula_for
from sapolin.core.formula.usual import most_share_percent
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.materials.fatty_acids import ACIDS
from sapolin.core.materials.usual_shares import class_of, familiarity_of, share_classes, variants
from sapolin.core.optimise.solve import ShareLimit, SolveQuestion, Target, answer_solve
from sapolin.core.optimise.solve.answer import solve_model
from sapolin.core.optimise.solve.question import settled, targets_of_purpose
from sapolin.core.optimise.solve.spread import (
    chance_in_range,
    chance_of_all,
    covariance_of,
    deviation_of,
    deviations,
)
from sapolin.core.quantities.model import Range

EVERYDAY = formula_for(purposes()["everyday-body"])


def ask(purpose: str = "everyday-body", **changes) -> SolveQuestion:
    entries = {"formula": formula_for(purposes()[purpose]), "targets": targets_of_purpose(purpose)} | changes
    return SolveQuestion(**entries)


def shares(solution) -> dict[str, float]:
    return {line.oil: line.value for line in solution.formula.blend.lines}


class TestClasses:
    def test_every_oil_has_one(self):
        listed = [oil for one in share_classes().values() for oil in one.oils]
        assert sorted(listed) == sorted(catalogue())

    def test_usual_is_at_most_the_most(self):
        for one in share_classes().values():
            assert 0 <= one.usual[0] < one.usual[1] <= one.most

    @pytest.mark.parametrize(
        ("oil", "purpose", "most"),
        [
            ("coconut", "everyday-body", 33), ("coconut", "cleaning-block", 100), ("coconut", "salt-bar", 100),
            ("stearic-acid", "everyday-body", 5), ("stearic-acid", "shaving", 50), ("beeswax", "liquid-soap", 0),
            ("olive-refined", "high-olive", 100), ("castor", "everyday-body", 12), ("shea", "everyday-body", 25),
        ],
    )  # fmt: skip
    def test_a_purpose_may_take_more_or_less(self, oil, purpose, most):
        assert most_share_percent(catalogue()[oil], purposes()[purpose]) == most

    def test_an_oil_of_the_makers_own_is_sorted_by_what_it_is(self):
        own = catalogue()["tallow-beef"].model_copy(update={"id": "own-fat", "sources": ("own",)})
        assert class_of(own).id == "palm"
        assert familiarity_of(own) == "everyday"
        wax = catalogue()["candelilla"].model_copy(update={"id": "own-wax"})
        assert class_of(wax).id == "hard-wax"
        acid = catalogue()["stearic-acid"].model_copy(update={"id": "own-acid"})
        assert class_of(acid).id == "fatty-acid"

    def test_variants_name_oils_that_there_are(self):
        assert {*variants(), *variants().values()} <= set(catalogue())
        assert not {*variants()} & {*variants().values()}


class TestLimitsOfGoodSense:
    def test_no_more_coconut_than_makers_use_unless_lifted(self):
        harsh = (Target(feature="cleansing", minimum=30, maximum=34),)
        kept = answer_solve(ask(targets=harsh, lifted=("drying",))).solutions[0]
        assert sum(v for oil, v in shares(kept).items() if class_of(catalogue()[oil]).id == "lauric") <= 33
        assert not kept.is_met
        free = answer_solve(ask(targets=harsh, lifted=("drying", "usual_shares"))).solutions[0]
        assert free.is_met

    def test_what_the_maker_says_of_an_oil_goes_first(self):
        limits = (ShareLimit(oil="coconut", minimum_percent=40, maximum_percent=100),)
        found = answer_solve(ask(limits=limits, lifted=("drying",))).solutions[0]
        assert shares(found)["coconut"] >= 40

    def test_when_nothing_is_left_it_says_what_to_lift(self):
        conflict = answer_solve(ask(pool=("coconut", "castor", "canola", "shea"))).conflict
        assert "usual_shares" in conflict.lift
        assert "the usual shares of all oils" in conflict.lift_names
        assert "Lifting one of these does" in conflict.words

    def test_a_bar_that_the_rule_book_warns_of_is_not_answered(self):
        greasy = (Target(feature="oxidation_load", minimum=19, maximum=24),)
        for solution in answer_solve(ask(targets=greasy)).solutions:
            assert next(q.points for q in solution.result.qualities if q.quality == "oxidation_load") <= 18
        lifted = answer_solve(ask(targets=greasy, lifted=("rancidity",))).solutions[0]
        assert lifted.is_met

    def test_oils_on_the_shelf_come_before_rarities(self):
        anyhow = answer_solve(ask(free_of=("palm", "animal"))).solutions[0]
        assert all(familiarity_of(catalogue()[oil]) != "rare" for oil in shares(anyhow))
        mango = answer_solve(
            ask(
                free_of=("palm", "animal"),
                available_g={"mango": 150.0},
                limits=(ShareLimit(oil="mango", minimum_percent=5),),
            )
        ).solutions[0]
        assert 5 <= shares(mango)["mango"] <= 15


class TestClosest:
    PRESENT = weight_formula({"olive-refined": 420.0, "coconut": 210.0, "palm": 280.0, "shea": 40.0, "castor": 50.0})

    def test_what_meets_everything_stays(self):
        first = answer_solve(ask(formula=self.PRESENT, prefer="closer")).solutions[0]
        assert shares(first) == {"olive-refined": 42, "palm": 28, "coconut": 21, "castor": 5, "shea": 4}
        assert (first.changed_percent, first.status) == (0, "proven")

    def test_points_changed_are_half_of_all_differences(self):
        first = answer_solve(ask(formula=self.PRESENT, prefer="closer", free_of=("palm",))).solutions[0]
        before = {"olive-refined": 42.0, "palm": 28.0, "coconut": 21.0, "castor": 5.0, "shea": 4.0}
        now = shares(first)
        moved = sum(abs(now.get(oil, 0) - before.get(oil, 0)) for oil in {*now, *before}) / 2
        assert first.changed_percent == pytest.approx(moved)
        assert 28 <= moved <= 36


class TestSpread:
    OILS = tuple(catalogue()[oil] for oil in ("olive-refined", "coconut", "castor"))
    SHARES = np.array([70.0, 25.0, 5.0])
    FEATURES = ("hardness", "cleansing", "conditioning", "oxidation_load")

    def test_a_lot_deviates_by_a_sixth_of_its_range(self):
        """Olive holds 55 to 83 % oleic acid by its row: 28 / 6."""
        assert deviation_of(catalogue()["olive-refined"], "acid:C18:1") == pytest.approx(28 / 6)
        assert deviation_of(catalogue()["olive-refined"], "iodine_value") == pytest.approx((94 - 75) / 6)
        assert deviation_of(catalogue()["olive-refined"], "trace_points") == 0
        # Beeswax: 55 to 70 % of what is acid in it, 48 %.
        assert deviation_of(catalogue()["beeswax"], "acid:C16:0") == pytest.approx(15 * 0.48 / 6)

    @pytest.mark.parametrize(
        ("value", "deviation", "low", "high", "percent"),
        [
            (40.0, 2.0, None, 42.0, 84.134), (40.0, 2.0, 38.0, None, 84.134), (40.0, 2.0, 38.0, 42.0, 68.269),
            (40.0, 0.0, 38.0, 42.0, 100.0), (43.0, 0.0, 38.0, 42.0, 0.0), (40.0, 1.0, None, None, 100.0),
        ],
    )  # fmt: skip
    def test_the_chance_of_one_target(self, value, deviation, low, high, percent):
        assert chance_in_range(value, deviation, low, high) == pytest.approx(percent, abs=0.001)

    def test_qualities_that_are_two_ends_of_one_go_against_each_other(self):
        between = covariance_of(catalogue()["olive-refined"], ["hardness", "conditioning"])
        together = between[0, 1] / (between[0, 0] * between[1, 1]) ** 0.5
        assert together == pytest.approx(-1, abs=0.1)

    def test_acids_go_together_by_the_squares_of_their_ranges(self):
        """Ranges of 12, 6 and 6 points: 4, 1 and 1 as squares, 6 together. What oleic has more, the others have less: −4/6 for
        palmitic, beside 4 − 16/6 and 1 − 1/6 alone."""
        ranges = {"C18:1": (64.0, 76.0), "C16:0": (12.0, 18.0), "C18:0": (12.0, 18.0)}
        oil = catalogue()["olive-refined"]
        acids = [
            Range(typical=sum(ranges[acid.id]) / 2, minimum=ranges[acid.id][0], maximum=ranges[acid.id][1])
            if acid.id in ranges else Range(typical=0.0, minimum=0.0, maximum=0.0)
            for acid in ACIDS
        ]  # fmt: skip
        between = covariance_of(oil.model_copy(update={"acids_percent": tuple(acids)}), ["acid:C18:1", "acid:C16:0"])
        together = between[0, 1] / (between[0, 0] * between[1, 1]) ** 0.5
        assert together == pytest.approx(-(4 / 6) / ((4 - 16 / 6) * (1 - 1 / 6)) ** 0.5)

    def test_the_chance_of_all_is_that_of_many_drawn_lots(self):
        values = np.array([22.0, 17.0, 70.0, 14.0])
        room = np.array([1.5, 1.0, 3.0, 2.0])
        low, high = values - room, values + room
        said = chance_of_all(self.OILS, self.SHARES, self.FEATURES, values, low, high)
        dice = np.random.default_rng(99)
        drawn = np.tile(values, (40_000, 1))
        for oil, share in zip(self.OILS, self.SHARES, strict=True):
            lots = dice.multivariate_normal(np.zeros(4), covariance_of(oil, self.FEATURES), 40_000)
            drawn = drawn + share / 100 * lots
        inside = 100 * np.all((drawn >= low) & (drawn <= high), axis=1).mean()
        assert said == pytest.approx(inside, abs=2.5)
        # All at once is no likelier than the least likely alone.
        spread = np.sqrt(((deviations(self.OILS, self.FEATURES) * self.SHARES / 100) ** 2).sum(axis=1))
        each = [chance_in_range(*one) for one in zip(values, spread, low, high, strict=True)]
        assert said <= min(each) + 1.0

    def test_a_blend_that_holds_whatever_arrives_holds_at_the_worst(self):
        question = ask(holds_whatever_arrives=True, free_of=("palm", "animal"))
        first = answer_solve(question).solutions[0]
        assert first.is_met
        features = [target.feature for target in question.targets]
        blend = shares(first)
        oils = [catalogue()[oil] for oil in blend]
        worst = 1.645 * deviations(oils, features) @ np.array(list(blend.values())) / 100
        for target, met, off in zip(question.targets, first.targets, worst, strict=True):
            assert met.value - off >= (target.minimum or -1e9) - 0.01
            assert met.value + off <= target.maximum + 0.01
        assert (
            first.chance_in_range_percent
            > answer_solve(ask(free_of=("palm", "animal"))).solutions[0].chance_in_range_percent - 5
        )

    def test_the_model_has_two_rows_a_target_then(self):
        assert len(solve_model(ask(holds_whatever_arrives=True)).low) == 2 * len(EVERYDAY_TARGETS)


EVERYDAY_TARGETS = targets_of_purpose("everyday-body")


class TestPurpose:
    def test_it_brings_superfat_lye_and_process(self):
        asked = settled(SolveQuestion(formula=EVERYDAY, targets=targets_of_purpose("shaving"), purpose="shaving"))
        assert (asked.formula.purpose, asked.formula.superfat_percent) == ("shaving", 4)
        assert asked.formula.lye.koh.value == 40
        assert asked.formula.process.method == "hot"
        back = settled(SolveQuestion(formula=asked.formula, targets=EVERYDAY_TARGETS, purpose="everyday-body"))
        assert back.formula.lye.koh is None

    def test_the_formulas_own_changes_nothing(self):
        mild = EVERYDAY.model_copy(update={"superfat_percent": 7.0})
        asked = settled(SolveQuestion(formula=mild, targets=EVERYDAY_TARGETS, purpose="everyday-body"))
        assert asked.formula == mild

    def test_no_purity_is_needed_and_no_lye_is_told(self):
        first = answer_solve(ask()).solutions[0]
        assert not first.lye_is_known
        assert first.formula.lye.naoh_purity_percent is None
        sure = EVERYDAY.model_copy(update={"lye": EVERYDAY.lye.model_copy(update={"naoh_purity_percent": 98.0})})
        assert answer_solve(ask(formula=sure)).solutions[0].lye_is_known

    def test_why_names_every_oil_with_its_numbers(self):
        first = answer_solve(ask(free_of=("palm", "animal"))).solutions[0]
        for oil, share in shares(first).items():
            name = catalogue()[oil].name
            assert any(line.startswith(f"{name} {share:g} %: ") for line in first.why)
