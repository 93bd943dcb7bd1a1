"""What every test may ask for."""

import gc
import os
from collections.abc import Callable
from itertools import groupby
from typing import Any

import pytest
from hypothesis import HealthCheck, settings

from sapolin.core.formula.document import Formula

settings.register_profile("default", max_examples=60, deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.register_profile("ci", settings.get_profile("default"), derandomize=True)
settings.register_profile("many", settings.get_profile("default"), max_examples=1000)  # --hypothesis-profile=many
settings.load_profile("ci" if os.environ.get("CI") else "default")


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Files of walks in a browser come evenly between the others: half of a walk is waiting, in which others can go on."""
    files = [[*tests] for _, tests in groupby(items, lambda item: item.path)]
    walks, others = ([one for one in files if ("e2e" in one[0].path.parts) is is_walk] for is_walk in (True, False))
    placed = [(i / len(kind), one) for kind in (walks, others) for i, one in enumerate(kind)]
    items[:] = [item for _, tests in sorted(placed, key=lambda pair: pair[0]) for item in tests]


def pytest_collection_finish() -> None:
    """All that is imported stays: the collector need not go through it again and again, a twelfth of all time here."""
    gc.collect()
    gc.freeze()
    gc.set_threshold(20_000, 20, 50)


@pytest.fixture(scope="session", autouse=True)
def _one_demo_for_all_workers(tmp_path_factory: pytest.TempPathFactory) -> None:
    if "PYTEST_XDIST_WORKER" in os.environ:
        # Read by `demo_copy`, which is not imported here: tests of the core alone need no database.
        os.environ["SAPOLIN_SHARED_COPIES"] = str(tmp_path_factory.getbasetemp().parent)


FormulaMaker = Callable[..., Formula]


def formula_json(shares: dict[str, float | None] | None = None, **changes: Any) -> dict[str, Any]:
    """A sound formula led by shares, as JSON, with `changes` to its top-level entries."""
    shares = {"olive-refined": 70.0, "coconut": 25.0, "castor": 5.0} if shares is None else shares
    return {
        "name": "Test bar",
        "purpose": "everyday-body",
        "notes": "",
        "blend": {
            "total_oils_g": 1000.0,
            "lines": [{"oil": oil, "value": share} for oil, share in shares.items()],
        },
        "lye": {"naoh_purity_percent": 99.0},
        "superfat_percent": 5.0,
        "water": {"by": "lye_concentration_percent", "value": 33.0},
    } | changes


@pytest.fixture
def make_formula() -> FormulaMaker:
    """Makes a sound formula, or one changed at the top level."""
    return lambda shares=None, **changes: Formula.model_validate(formula_json(shares, **changes))
