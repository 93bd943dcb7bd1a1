"""What a workshop's own bars teach: values by hand, and made-up workshops that differ, and that do not."""

from math import exp, log, sqrt

import numpy as np
import pytest

from sapolin.core.cure.drying import (
    BarAsCut,
    DryingPrior,
    Room,
    Weighing,
    drying_days,
    drying_forecast,
    drying_observed,
)
from sapolin.core.cure.learning import Observed, from_posterior, learned

RULE_SD = 0.35
BAR = BarAsCut(sides_mm=(25.0, 60.0, 80.0), wet_g=130.0, end_fraction=0.88)


class TestLearned:
    def test_without_a_batch_the_rule_stands(self) -> None:
        nothing = learned([], RULE_SD)
        assert nothing.offset == 0
        assert nothing.next_sd == pytest.approx(RULE_SD)

    def test_one_exact_batch_by_hand(self) -> None:
        # Of 0.35² = 0.1225, the workshop is 0.8: 0.098, the batch 0.0245. One batch off by 0.3, exactly known:
        # μ = 0.3 · 0.098 / (0.098 + σ²), with σ² near 0.0245 still.
        one = learned([Observed(offset=0.3, sd=1e-4)], RULE_SD)
        assert one.offset == pytest.approx(0.3 * 0.098 / (0.098 + one.batch_sd**2), abs=1e-6)
        assert one.batch_sd**2 == pytest.approx(0.0245, rel=0.2)

    def test_a_batch_that_is_hardly_known_teaches_hardly_anything(self) -> None:
        assert abs(learned([Observed(offset=0.3, sd=2.0)], RULE_SD).offset) < 0.01

    def test_more_batches_are_believed_more(self) -> None:
        offsets = [learned([Observed(offset=0.3, sd=0.1)] * n, RULE_SD).offset for n in (1, 2, 4, 8, 30)]
        assert offsets == sorted(offsets)
        assert offsets[-1] == pytest.approx(0.3, abs=0.01)

    def test_batches_that_differ_widen_what_is_expected_of_the_next(self) -> None:
        alike = learned([Observed(offset=0.1, sd=0.05)] * 12, RULE_SD)
        apart = learned([Observed(offset=0.1 + (0.4 if i % 2 else -0.4), sd=0.05) for i in range(12)], RULE_SD)
        assert apart.batch_sd > 2 * alike.batch_sd


class TestFromPosterior:
    def test_the_share_of_the_rule_is_taken_out(self) -> None:
        # A rule N(0, 0.35²) and weights that say 0.2 ± 0.1: the fit has precision 1/0.1225 + 100 and mean 20 / precision.
        precision = 1 / 0.1225 + 100
        seen = from_posterior(20 / precision, sqrt(1 / precision), RULE_SD)
        assert seen is not None
        assert seen.offset == pytest.approx(0.2)
        assert seen.sd == pytest.approx(0.1)

    def test_weights_that_say_nothing_teach_nothing(self) -> None:
        assert from_posterior(0.01, 0.349, RULE_SD) is None


def a_batch(rng: np.random.Generator, shop_log: float, batch_sd: float) -> tuple[float, list[Weighing]]:
    """The drying time of a batch of a workshop, and its weighings over five weeks."""
    tau = exp(log(drying_days(BAR.sides_mm)) + shop_log + batch_sd * rng.standard_normal())
    start = 130 * exp(0.03 * rng.standard_normal())
    weighings = [
        Weighing(
            seq=i, mark="A", day=float(day),
            weight_g=start * (0.88 + 0.12 * exp(-day / tau)) * exp(0.003 * rng.standard_normal()),
        )
        for i, day in enumerate((0, 7, 14, 21, 28, 35))
    ]  # fmt: skip
    return tau, weighings


def test_after_eight_batches_the_error_is_at_most_half_of_that_of_the_rule() -> None:
    rng = np.random.default_rng(3)
    by_rule, by_bars, held = [], [], 0
    workshops = 60
    for _ in range(workshops):
        shop = 0.33 * rng.standard_normal()
        seen = [drying_observed(BAR, a_batch(rng, shop, 0.1)[1], Room())[0] for _ in range(8)]
        taught = learned([one for one in seen if one is not None], RULE_SD)
        tau, _ = a_batch(rng, shop, 0.1)
        off = log(tau / drying_days(BAR.sides_mm))
        by_rule.append(off**2)
        by_bars.append((off - taught.offset) ** 2)
        held += abs(off - taught.offset) <= 1.645 * taught.next_sd
    assert sqrt(np.mean(by_bars)) <= 0.5 * sqrt(np.mean(by_rule))
    assert held / workshops >= 0.85


def test_a_workshop_that_does_not_differ_is_not_taught_nonsense() -> None:
    rng = np.random.default_rng(5)
    for _ in range(20):
        seen = [drying_observed(BAR, a_batch(rng, 0.0, 0.05)[1], Room())[0] for _ in range(8)]
        taught = learned([one for one in seen if one is not None], RULE_SD)
        assert abs(taught.offset) < 0.12


def test_what_was_taught_moves_the_next_forecast_and_narrows_it() -> None:
    usual = drying_forecast(BAR, [], 0)
    quicker = drying_forecast(BAR, [], 0, prior=DryingPrior(log_time_offset=-0.3, log_time_sd=0.15, end_sd=0.01))
    assert quicker.drying_days == pytest.approx(usual.drying_days * exp(-0.3))
    assert quicker.ready_high_day - quicker.ready_low_day < usual.ready_high_day - usual.ready_low_day
