"""What the whole core keeps to."""

import importlib
import inspect
import pkgutil
from dataclasses import is_dataclass

import pytest

import sapolin.core
from sapolin.core.quantities.limits import LIMITS

MODULES = [
    importlib.import_module(one.name) for one in pkgutil.walk_packages(sapolin.core.__path__, "sapolin.core.")
    if not one.ispkg
]  # fmt: skip


def test_nothing_that_was_calculated_changes():
    found = {cls for module in MODULES for _, cls in inspect.getmembers(module, inspect.isclass) if is_dataclass(cls)}
    of_core = {cls for cls in found if cls.__module__.startswith("sapolin.core")}
    assert len(of_core) > 10
    assert {cls.__qualname__ for cls in of_core if not cls.__dataclass_params__.frozen} == set()


SENSE = {
    "superfat_percent": (-5, 40), "naoh_purity_percent": (50, 100), "koh_purity_percent": (50, 100),
    "koh_share_percent": (0, 100), "master_percent": (10, 50), "purity_tolerance_percent": (0, 10),
    "scale_step_g": (0.001, 100), "soap_percent": (5, 60), "batter_temperature_c": (0, 110), "cure_weeks": (0, 260),
    "share_percent": (0, 100), "weight_g": (0, 500_000), "total_oils_g": (10, 500_000), "water_to_lye": (1, 10),
}  # fmt: skip
"""From where to where each quantity makes sense."""


@pytest.mark.parametrize("limit", LIMITS)
def test_where_a_quantity_makes_sense(limit):
    least, most = SENSE[limit]
    beyond = (most - least) * 1e-4
    assert LIMITS[limit].id == limit
    assert [LIMITS[limit].holds(value) for value in (least - beyond, least, most, most + beyond)] == [
        False, True, True, False,
    ]  # fmt: skip
