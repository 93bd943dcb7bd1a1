"""Quantities worked through on paper: each expected number is written out, none comes from the code it tests."""

import pytest

from core.batches import GUEST, Making, plan
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


class TestHeat:
    def test_koh(self):
        """2.5 mol KOH (140.264 g) in 200 g water, 4.44 mol of water a mol: 35.76 kJ a mol for NaOH, times 57.6 / 44.5.

        115.7 kJ warm 340.264 g at 3.5 J/g K by 97.2 K.
        """
        assert lye_peak(0.0, 140.264, 200.0, start_c=20.0).high_c == pytest.approx(117.2, abs=0.1)

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
