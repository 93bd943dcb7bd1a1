"""How batter stands in its moulds, what warmth the middle of them keeps, and what milk does to the lye: by hand."""

from math import pi

import pytest

from core.batches import MILK, loaf, plan
from core.strategies import weight_formula
from sapolin.core.bar.calculation import calculation_of
from sapolin.core.batch.filling import BatterVolume, mould_fills, size_of
from sapolin.core.batch.gel import gel_temperature_c, kept_fraction, saponification_warms_k
from sapolin.core.batch.heat import lye_peak, lye_peak_of
from sapolin.core.batch.moulds import Cavities, Cylinder, HalfSpheres, Measured, Slab
from sapolin.core.batch.planned import plan_batch
from sapolin.core.formula.composition import Composition
from sapolin.core.formula.document import Formula


def batter(ml: float) -> BatterVolume:
    return BatterVolume(
        oils_ml=0.0, solution_ml=0.0, other_ml=0.0, total_ml=ml, low_ml=ml, high_ml=ml, density_g_per_ml=1.02,
        cured_fraction=0.88,
    )  # fmt: skip


class TestFilling:
    """A loaf of 250 × 80 mm holds 1300 mL to 5 mm below its rim and 1400 mL to the rim."""

    def fills(self, ml: float, moulds: int = 1, *, into_headroom: bool = False) -> list[float]:
        asked = plan(moulds=(loaf(),) * moulds)
        return [one.batter_ml for one in mould_fills(asked, batter(ml), into_headroom=into_headroom)]

    def test_as_planned_the_headroom_stays_free(self):
        assert self.fills(1200) == [1200]
        assert self.fills(1350) == [1300]
        assert self.fills(1500, 2) == [1300, 200]
        assert self.fills(1000, 2) == [1000, 0]

    def test_what_is_over_goes_up_to_the_rim(self):
        assert self.fills(1350, into_headroom=True) == [1350]
        assert self.fills(1500, into_headroom=True) == [1400]
        # Both as planned first, then the first one's headroom, then the other's.
        assert self.fills(2650, 2, into_headroom=True) == [1350, 1300]
        assert self.fills(2750, 2, into_headroom=True) == [1400, 1350]
        assert self.fills(3000, 2, into_headroom=True) == [1400, 1400]
        assert self.fills(1200, 2, into_headroom=True) == [1200, 0]

    def test_a_fill_by_weight_and_height(self):
        [fill] = mould_fills(plan(), batter(1200))
        assert (fill.batter_g, fill.height_mm, fill.capacity_ml) == pytest.approx((1224, 60, 1300))

    @pytest.mark.parametrize(
        ("ml", "over_ml", "short_ml"),
        [(1200, 0, 100), (1299.4, 0, 0.6), (1299.6, 0, 0), (1300.4, 0, 0), (1300.6, 0.6, 0), (1450, 150, 0)],
    )
    def test_over_and_short(self, ml, over_ml, short_ml):
        volume = batter(ml)
        fills = [*mould_fills(plan(), volume)]
        size = size_of(plan(), 900.0, 1.02 * ml, volume, fills, "")
        assert (size.capacity_ml, size.over_ml, size.short_ml) == pytest.approx((1300, over_ml, short_ml))
        nowhere = size_of(plan(moulds=()), 900.0, 1.02 * ml, volume, [], "")
        assert (nowhere.capacity_ml, nowhere.over_ml, nowhere.short_ml) == (0, 0, 0)


class TestWarmth:
    """What holds as much keeps as much: a cube stands for a mould of another shape."""

    def cube(self, side: float, cover: str = "cover") -> float:
        return kept_fraction(Slab(kind="slab", length_mm=side, width_mm=side, height_mm=side), side, cover)

    def test_moulds_of_other_shapes(self):
        half_sphere = HalfSpheres(kind="half_spheres", diameter_mm=70, count=6)
        # Two thirds of pi r³.
        assert kept_fraction(half_sphere, None, "cover") == pytest.approx(self.cube((2 / 3 * pi * 35**3) ** (1 / 3)))
        assert kept_fraction(Cavities(kind="cavities", cavity_ml=125, count=8), None, "cover") == pytest.approx(
            self.cube(50)
        )
        assert kept_fraction(Measured(kind="measured", volume_ml=1000), None, "cover") == pytest.approx(self.cube(100))

    def test_a_tube_is_a_square_of_the_same_section(self):
        side = (pi * 38**2) ** 0.5
        as_box = Slab(kind="loaf", length_mm=side, width_mm=side, height_mm=300)
        tube = Cylinder(kind="cylinder", diameter_mm=76, length_mm=300)
        for height in (150, 290):
            assert kept_fraction(tube, height, "cover") == pytest.approx(kept_fraction(as_box, height, "cover"))
        assert kept_fraction(tube, None, "cover") == pytest.approx(kept_fraction(as_box, 300, "cover"))

    def test_a_box_that_is_not_full_counts_as_far_as_it_is(self):
        box = Slab(kind="loaf", length_mm=250, width_mm=80, height_mm=70)
        assert kept_fraction(box, 40, "cover") < kept_fraction(box, 70, "cover")
        assert kept_fraction(box, None, "cover") == kept_fraction(box, 70, "cover")

    def test_wrapping(self):
        box = Slab(kind="loaf", length_mm=250, width_mm=80, height_mm=70)
        fridge, covered, insulated = (kept_fraction(box, 65, cover) for cover in ("fridge", "cover", "insulate"))
        assert 0 < fridge < covered < insulated < 1

    def test_gel_needs_more_warmth_where_there_is_less_water(self):
        # 68 °C at a third of lye and 1.5 K a point.
        assert [gel_temperature_c(percent) for percent in (33, 34, 30)] == pytest.approx([68, 69.5, 63.5])

    def test_how_far_a_batter_warms_itself(self):
        """Olive alone, superfat 5: 0.95 × 190 / 56.1056 mol a kg react; sugar adds a little for each per cent."""
        formula = weight_formula({"olive-refined": 1000.0})
        calculation = calculation_of(formula)
        plain = saponification_warms_k(calculation.composition, calculation.conditions)
        sweet = calculation_of(weight_formula(
            {"olive-refined": 1000.0}, additives=[{"additive": "sugar", "by": "percent_of_oils", "value": 1.0}]
        ))  # fmt: skip
        with_sugar = saponification_warms_k(sweet.composition, sweet.conditions)
        assert 20 < plain < 60
        assert with_sugar > plain


class TestMilkInTheLye:
    """Milk for three fifths of the water; the rest is plain."""

    def composition(self) -> Composition:
        formula: Formula = plan_batch(plan({"liquids": [MILK]})).formula
        return calculation_of(formula).composition

    def test_it_goes_in_frozen_or_from_the_fridge(self):
        made = self.composition()
        [milk] = made.liquids
        for way, cold in (("frozen", {"frozen_g": milk.water_g}), ("chilled", {"chilled_g": milk.water_g})):
            found = lye_peak_of(made, start_c=20.0, milk=way, in_ice=False, set_aside_g=0.0)
            assert found == lye_peak(made.naoh.pure_g, 0.0, made.dissolving_water_g, start_c=20.0, **cold)

    def test_frozen_stays_coolest_and_what_wets_powders_is_missing(self):
        made = self.composition()
        frozen, chilled = (
            lye_peak_of(made, start_c=20.0, milk=way, in_ice=False, set_aside_g=0.0).high_c
            for way in ("frozen", "chilled")
        )
        assert frozen < chilled < lye_peak(made.naoh.pure_g, 0.0, made.dissolving_water_g).high_c
        less = lye_peak_of(made, start_c=20.0, milk="chilled", in_ice=False, set_aside_g=20.0)
        [milk] = made.liquids
        assert less == lye_peak(
            made.naoh.pure_g, 0.0, made.dissolving_water_g - 20, start_c=20.0, chilled_g=milk.water_g
        )

    def test_what_comes_at_trace_cools_no_lye(self):
        formula = plan_batch(plan({"liquids": [MILK | {"use": "at_trace", "value": 30.0}]})).formula
        made = calculation_of(formula).composition
        found = lye_peak_of(made, start_c=20.0, milk="frozen", in_ice=False, set_aside_g=0.0)
        assert found == lye_peak(made.naoh.pure_g, 0.0, made.dissolving_water_g, start_c=20.0)
