"""What was predicted and what was seen, put beside one another by hand."""

from math import exp, sqrt

import pytest

from core.test_judging import sheets
from sapolin.core.cure.learning import Learned, Observed
from sapolin.core.trials.judging import learned_quality, seen_of
from sapolin.core.trials.predictions import Predicted, Prediction, held, prediction_of
from sapolin.core.trials.rules import Taught

Z_80 = 1.2815515655446
"""Eight of ten of a normal distribution lie within so many deviations."""


def one_held(topic: str, predicted: tuple[float, float], seen: Observed):
    prediction = Prediction(predicted={topic: Predicted(offset=predicted[0], sd=predicted[1])})
    [found] = held([("b7", "B-107", prediction, Taught(rules={topic: seen}))])
    return found


class TestHeld:
    def test_a_time_by_its_logarithm(self):
        """24 h by the rule; 0.1 more was predicted, give or take 0.3, and 0.2 more was seen, give or take 0.1."""
        found = one_held("unmould", (0.1, 0.3), Observed(offset=0.2, sd=0.1, rule=24.0))
        width = Z_80 * sqrt(0.09 + 0.01)
        [one] = found.held
        assert (found.topic, found.unit, found.total, found.inside) == ("unmould", "h", 1, 1)
        assert (one.code, one.batch_id, one.is_inside) == ("B-107", "b7", True)
        assert (one.predicted, one.seen) == pytest.approx((24 * exp(0.1), 24 * exp(0.2)))
        assert (one.low, one.high) == pytest.approx((24 * exp(0.1 - width), 24 * exp(0.1 + width)))

    def test_a_part_in_per_cent_and_a_temperature_in_degrees(self):
        fill = one_held("fill", (0.01, 0.03), Observed(offset=0.02, sd=0.0, rule=0.0)).held[0]
        assert (fill.predicted, fill.seen, fill.low, fill.high) == pytest.approx((1, 2, 1 - 3 * Z_80, 1 + 3 * Z_80))
        peak = one_held("lye_peak", (-2.0, 4.0), Observed(offset=-5.0, sd=3.0, rule=90.0)).held[0]
        assert (peak.predicted, peak.seen, peak.low) == pytest.approx((88, 85, 88 - 5 * Z_80))

    @pytest.mark.parametrize(("deviations", "is_inside"), [(1.28, True), (-1.28, True), (1.29, False), (-1.29, False)])
    def test_inside_is_within_eight_in_ten(self, deviations, is_inside):
        found = one_held("lye_peak", (1.0, 3.0), Observed(offset=1.0 + 5 * deviations, sd=4.0, rule=90.0))
        assert (found.held[0].is_inside, found.inside) == (is_inside, int(is_inside))

    def test_a_quality_in_points_never_below_none(self):
        judged = (sheets(-4.0, predicted=3.0),)
        prediction = Prediction(predicted={"open_lather": Predicted(offset=-1.0, sd=2.0)})
        [found] = held([("b1", "B-1", prediction, Taught(judged={"open_lather": judged}))])
        seen = seen_of(judged, "open_lather")
        [one] = found.held
        assert (found.unit, one.low, one.predicted) == ("points", 0.0, pytest.approx(seen.rule - 1.0))
        assert one.high == pytest.approx(seen.rule - 1.0 + Z_80 * sqrt(4 + seen.sd**2))

    def test_what_was_not_seen_is_not_counted(self):
        prediction = Prediction(
            predicted={"trace": Predicted(offset=0.0, sd=0.3), "wear_life": Predicted(offset=0.0, sd=1.0)}
        )
        assert held([("b1", "B-1", prediction, Taught())]) == ()

    def test_all_count_and_the_latest_are_shown(self):
        prediction = Prediction(predicted={"fill": Predicted(offset=0.0, sd=0.01)})
        batches = [
            (f"b{i}", f"B-{i}", prediction, Taught(rules={"fill": Observed(offset=0.0 if i < 100 else 0.5, sd=0.0)}))
            for i in range(130)
        ]
        [found] = held(batches)
        assert (found.total, found.inside, len(found.held)) == (130, 100, 120)
        assert (found.held[0].code, found.held[-1].code) == ("B-10", "B-129")


def test_a_prediction_is_what_was_known_before():
    rule = Learned(batches=3, offset=0.2, offset_sd=0.3, batch_sd=0.4)
    quality = learned_quality("open_lather", [[sheets(-6.0)]])
    made = prediction_of({"unmould": rule}, {"open_lather": quality, "hardness": quality}, {"open_lather": 20.0})
    assert set(made.predicted) == {"unmould", "open_lather"}
    assert (made.predicted["unmould"].offset, made.predicted["unmould"].sd) == pytest.approx((0.2, 0.5))
    expected, sd = quality.expected(20.0)
    assert (made.predicted["open_lather"].offset, made.predicted["open_lather"].sd) == pytest.approx(
        (expected - 20, sd)
    )
    assert expected < 20
