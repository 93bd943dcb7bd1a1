"""Quantities worked through on paper: each expected number is written out, none comes from the code it tests."""

import pytest

from core.batches import GUEST, Making, plan
from core.strategies import weight_formula
from sapolin.core.bar.calculation import calculate
from sapolin.core.bar.qualities import qualities, spans_of
from sapolin.core.batch.heat import lye_peak
from sapolin.core.batch.moulds import Cylinder, HalfSpheres, Mould, Slab, capacity_ml
from sapolin.core.batch.plan import Cut, MouldUse
from sapolin.core.batch.planned import plan_batch
from sapolin.core.materials.catalogue import catalogue
from sapolin.core.materials.fatty_acids import ACIDS
from sapolin.core.production.actual import actual_batch, weights_g
from sapolin.core.quantities.model import Range

ENDS = {"C12:0": (40.0, 45.0, 52.0), "C18:1": (44.0, 50.0, 58.0), "C18:2": (3.0, 5.0, 8.0)}
"""Least, typical and most of each acid, %."""


class TestNaturalRange:
    """Lauric 40 to 52 (45), oleic 44 to 58 (50), linoleic 3 to 8 (5): they always sum to 100."""

    @pytest.mark.parametrize(
        ("quality", "low", "high"),
        [
            # The minima sum to 87: 13 are left. Oleic takes none of them at first: linoleic 5 and lauric 8.
            ("conditioning", 44 + 3 + 1, 44 + 3 + 13),
            # Lauric takes at most 12 more, or what oleic (14) leaves of 13: nothing.
            ("cleansing", 40, 52),
            ("open_lather", 40, 52),
        ],
    )
    def test_both_ends(self, quality, low, high):
        ranges = [
            Range(minimum=ENDS[acid.id][0], typical=ENDS[acid.id][1], maximum=ENDS[acid.id][2])
            if acid.id in ENDS else Range(minimum=0.0, typical=0.0, maximum=0.0)
            for acid in ACIDS
        ]  # fmt: skip
        spans = dict(zip(qualities(), spans_of(ranges), strict=True))
        assert spans[quality] == pytest.approx((low, high))


class TestAsWeighed:
    def need_naoh_g(self, grams: dict[str, float]) -> float:
        """What the oils can take: weight × SAP / 1000 g of KOH, times 39.997 / 56.1056."""
        return sum(g * catalogue()[oil].sap_koh_mg_per_g.typical / 1000 for oil, g in grams.items()) * 39.997 / 56.1056

    def test_master_lye_counts_with_what_is_dissolved_in_it(self):
        making = Making(plan(choices={"lye": "master"}, size={"by": "oils_g", "value": 1000.0}))
        purity = making.plan.formula.lye.naoh_purity_percent
        weights = weights_g(making.state.targets_g, {"lye:naoh": 250.0})
        oils = {oil: weights[f"oil:{i}"] for i, oil in enumerate(GUEST)}
        # 250 g at 50 %: 125 g NaOH as bought.
        expected = 100 * (1 - 125.0 * purity / 100 / self.need_naoh_g(oils))
        assert actual_batch(making.planned, weights).superfat_percent == pytest.approx(expected, abs=0.002)

    def test_two_lyes_count_by_their_molar_masses(self):
        lye = {
            "naoh_purity_percent": 100.0,
            "koh": {"by": "saponification_percent", "value": 20.0, "purity_percent": 90.0},
        }
        making = Making(plan(formula={"lye": lye}, size={"by": "oils_g", "value": 1000.0}))
        weights = weights_g(making.state.targets_g, {"lye:naoh": 100.0, "lye:koh": 40.0})
        oils = {oil: weights[f"oil:{i}"] for i, oil in enumerate(GUEST)}
        # 40 g KOH of 90 % is 36 g, or 36 × 39.997 / 56.1056 = 25.664 g as NaOH.
        expected = 100 * (1 - (100.0 + 25.664) / self.need_naoh_g(oils))
        assert actual_batch(making.planned, weights).superfat_percent == pytest.approx(expected, abs=0.002)

    @pytest.mark.parametrize("master_percent", [50.0, 40.0])
    def test_solutions_to_weigh_of_both_lyes(self, master_percent):
        """As much lye as when it is weighed dry, each in its own solution."""
        lye = {
            "naoh_purity_percent": 100.0,
            "koh": {"by": "saponification_percent", "value": 20.0, "purity_percent": 90.0},
        }
        dry = calculate(weight_formula(GUEST, lye=lye)).lye
        master = calculate(weight_formula(GUEST, lye=lye | {"master_percent": master_percent})).lye.master
        assert master.naoh_solution_g == pytest.approx(dry.naoh_g * 100 / master_percent)
        assert master.koh_solution_g == pytest.approx(dry.koh_g * 100 / master_percent)
        together = dry.naoh_g + dry.koh_g
        assert master.water_in_it_g == pytest.approx(together * (100 - master_percent) / master_percent)

    def test_both_lyes_of_a_master_count_with_what_is_dissolved_in_them(self):
        lye = {
            "naoh_purity_percent": 100.0, "master_percent": 40.0,
            "koh": {"by": "saponification_percent", "value": 20.0, "purity_percent": 90.0},
        }  # fmt: skip
        making = Making(plan(formula={"lye": lye}, size={"by": "oils_g", "value": 1000.0}))
        weights = weights_g(making.state.targets_g, {"lye:naoh": 250.0, "lye:koh": 100.0})
        oils = {oil: weights[f"oil:{i}"] for i, oil in enumerate(GUEST)}
        # 250 g at 40 % are 100 g NaOH; 100 g at 40 % are 40 g KOH of 90 %, or 25.664 g as NaOH.
        expected = 100 * (1 - (100.0 + 25.664) / self.need_naoh_g(oils))
        assert actual_batch(making.planned, weights).superfat_percent == pytest.approx(expected, abs=0.002)


class TestHeat:
    def test_koh(self):
        """2.5 mol dry KOH (140.264 g) in 200 g water: 4.4407 mol of water a mol, so 46.6 + 0.4407 × 2.8 = 47.834 kJ a mol.

        119.585 kJ warm 340.264 g of 41.222 %, at 2.95 − 0.1222 × 0.15 = 2.9317 J/g K, by 119.88 K.
        """
        assert lye_peak(0.0, 140.264, 200.0, start_c=20.0).high_c == pytest.approx(139.9, abs=0.1)

    def test_koh_flakes_hold_water_already(self):
        """The same 2.5 mol as 155.849 g of 90 %: 15.585 g water in them, 0.8651 mol as hydrate, 43 kJ each given off already.

        4.7867 mol of water a mol: 46.6 + 0.7867 × 2.8 = 48.803 kJ; 122.007 − 37.199 = 84.808 kJ for 355.849 g of 39.417 %, at
        3.15 − 0.9417 × 0.2 = 2.9617 J/g K: 80.47 K.
        """
        peak = lye_peak(0.0, 140.264, 200.0, koh_water_g=15.585)
        assert peak.high_c == pytest.approx(100.5, abs=0.1)

    def test_strong_naoh(self):
        """2.5 mol NaOH (99.9925 g) in 100 g water: 2.2203 mol a mol: 20.5 + 0.4407 × 4.8 = 22.615 kJ; 56.538 kJ for 199.99 g of
        50 % at 3.2 J/g K: 88.3 K."""
        assert lye_peak(99.9925, 0.0, 100.0).high_c == pytest.approx(108.3, abs=0.1)

    def test_chilled_and_in_an_ice_bath(self):
        """1 : 2 warms by 84.9 K; half of it from the fridge at 4 °C starts at 20 − 16 × 150 / 300 = 12 °C; in ice at
        most three quarters of the heat stay."""
        warm = lye_peak(100.0, 0.0, 200.0).high_c - 20
        assert lye_peak(100.0, 0.0, 200.0, chilled_g=150.0).high_c == pytest.approx(12 + warm, abs=0.01)
        in_ice = lye_peak(100.0, 0.0, 200.0, in_ice=True)
        assert (in_ice.low_c, in_ice.high_c) == pytest.approx((20 + 0.35 * warm, 20 + 0.75 * warm), abs=0.01)

    def test_half_of_the_water_as_ice(self):
        """2.5 mol NaOH (99.9925 g): 89.4 kJ. 100 g ice from -18 C takes 37.18 kJ and brings no warmth with it."""
        peak = lye_peak(99.9925, 0.0, 200.0, start_c=20.0, frozen_g=100.0)
        assert peak.high_c == pytest.approx(20 * 199.9925 / 299.9925 + (89407 - 37180) / (299.9925 * 3.5), abs=0.05)


class TestMoulds:
    @pytest.mark.parametrize(
        ("shape", "ml"),
        [
            (Slab(kind="loaf", length_mm=250, width_mm=80, height_mm=70), 1400.0),
            # π / 4 × 7.6² × 30 cm³
            (Cylinder(kind="cylinder", diameter_mm=76, length_mm=300), 1360.94),
            # Six times 2 / 3 × π × 3.5³ cm³
            (HalfSpheres(kind="half_spheres", diameter_mm=70, count=6), 538.78),
        ],
    )
    def test_what_they_take(self, shape, ml):
        assert capacity_ml(Mould(name="m", shape=shape)) == pytest.approx(ml, abs=0.05)

    def test_a_round_log_in_whole_slices(self):
        shape = Cylinder(kind="cylinder", diameter_mm=76, length_mm=300)
        use = MouldUse(mould=Mould(name="Tube", shape=shape), cut=Cut(bar_mm=25, kerf_mm=0))
        cut = plan_batch(plan(moulds=(use,))).moulds[0].cuts[0]
        # 12 slices of π / 4 × 7.6² × 2.5 cm³
        assert (cut.bars, cut.bar_ml) == (12, pytest.approx(113.41, abs=0.01))
