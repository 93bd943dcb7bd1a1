"""What a batch takes from the shelf, and how shapes keep their warmth: by hand."""

from math import pi

import pytest

from core.batches import plan
from sapolin.core.batch.gel import kept_fraction
from sapolin.core.batch.moulds import Cavities, Cylinder, HalfSpheres, Measured, Slab
from sapolin.core.batch.planned import plan_batch
from sapolin.core.stock.needs import material_of, needs_of


class TestWarmth:
    def slab(self, a: float, b: float, c: float) -> Slab:
        return Slab(kind="slab", length_mm=a, width_mm=b, height_mm=c)

    def test_a_round_bar_keeps_warm_as_a_square_one_of_the_same_section(self) -> None:
        # A circle of 80 mm has π·40² mm²; a square with as much has sides of 40·√π mm.
        side = 40 * pi**0.5
        square = kept_fraction(self.slab(side, side, 200), None, "cover")
        assert kept_fraction(Cylinder(kind="cylinder", diameter_mm=80, length_mm=200), None, "cover") == pytest.approx(
            square
        )
        low = kept_fraction(self.slab(side, side, 90), None, "cover")
        assert kept_fraction(Cylinder(kind="cylinder", diameter_mm=80, length_mm=200), 90, "cover") == pytest.approx(
            low
        )

    def test_other_shapes_keep_warm_as_a_cube_of_their_volume(self) -> None:
        # 216 mL are a cube of 60 mm; half a sphere of diameter d holds π·d³/12.
        cube = kept_fraction(self.slab(60, 60, 60), None, "insulate")
        diameter = (216_000 * 12 / pi) ** (1 / 3)
        for shape in (
            Cavities(kind="cavities", count=6, cavity_ml=216), Measured(kind="measured", volume_ml=216),
            HalfSpheres(kind="half_spheres", diameter_mm=diameter, count=4),
        ):  # fmt: skip
            assert kept_fraction(shape, None, "insulate") == pytest.approx(cube), shape

    def test_the_height_that_is_filled_counts(self) -> None:
        full, half = self.slab(200, 100, 60), self.slab(200, 100, 30)
        assert kept_fraction(full, 30, "cover") == pytest.approx(kept_fraction(half, None, "cover"))
        assert kept_fraction(full, None, "cover") > kept_fraction(half, None, "cover")

    def test_what_is_wrapped_keeps_more_and_by_the_rule(self) -> None:
        # The hours that it keeps its heat go with the wrapping: share / (1 - share) of a loaf is in proportion to them.
        shape = self.slab(250, 80, 70)
        kept = {
            cover: kept_fraction(shape, None, cover) for cover in ("fridge", "cover", "insulate", "heat_pad", "oven")
        }
        hours = {cover: share / (1 - share) for cover, share in kept.items()}
        assert hours["cover"] == pytest.approx(3 * hours["fridge"])
        assert hours["insulate"] == pytest.approx(8 * hours["fridge"])
        assert hours["heat_pad"] == pytest.approx(12 * hours["fridge"])
        assert hours["oven"] == pytest.approx(16 * hours["fridge"])


class TestNeeds:
    def test_lye_is_taken_dry_unless_it_comes_as_a_solution(self) -> None:
        dry, solved = plan_batch(plan()), plan_batch(plan({"lye": {"naoh_purity_percent": 99, "master_percent": 50}}))
        grams = dry.result.lye.naoh_g
        assert grams > 100
        assert needs_of(dry)["naoh"] == round(grams, 2)
        assert not [one for one in needs_of(dry) if one.startswith("naoh:")]
        taken = needs_of(solved)
        assert "naoh" not in taken
        # What is poured weighs twice the lye in it, and brings its water along.
        assert taken["naoh:50"] == pytest.approx(2 * solved.result.lye.naoh_g, abs=0.01)
        assert material_of("lye:naoh", solved) == ("naoh:50", 1.0)
        assert material_of("lye:naoh", dry) == ("naoh", 1.0)

    def test_every_kind_of_thing_is_taken_under_its_own_name_and_twice_used_once(self) -> None:
        made = plan_batch(plan(
            {
                "liquids": [{"liquid": "goat-milk", "use": "dissolves_lye", "by": "percent_of_water", "value": 60.0}],
                "additives": [{"additive": "sugar", "by": "percent_of_oils", "value": 1.0}],
            },
            scents=({"scent": "lavender", "percent_of_oils": 2.0, "limit_percent": 3.0},),
        ))  # fmt: skip
        taken = needs_of(made)
        assert taken["olive-refined"] == pytest.approx(340 * made.result.total_oils_g / 1000, abs=0.01)
        assert taken["additive:sugar"] == pytest.approx(made.result.total_oils_g / 100, abs=0.01)
        assert taken["scent:lavender"] == pytest.approx(made.result.total_oils_g / 50, abs=0.01)
        assert taken["liquid:goat-milk"] == pytest.approx(made.result.liquids[0].weight_g, abs=0.01)
        assert not any(one.startswith("water") for one in taken)
        assert material_of("liquid:0", made) == ("liquid:goat-milk", 1.0)
        assert material_of("additive:0", made) == ("additive:sugar", 1.0)
        assert material_of("scent:0", made) == ("scent:lavender", 1.0)
        assert material_of("oil:1", made) == (made.result.oils[1].oil, 1.0)
        assert material_of("water", made) is None
