"""Whatever is sent to whichever operation, within its description or beside it: an answer as published, never a fault.

Under CI a few examples for each operation; `SAPOLIN_EXAMPLES` asks for more.
"""

import gc
import json
import os
from collections.abc import Iterator
from pathlib import Path

import pytest
import schemathesis
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, settings
from schemathesis.checks import not_a_server_error
from schemathesis.specs.openapi.checks import content_type_conformance, response_schema_conformance

from api.conftest import client_on
from demo_copy import put_demo

EXAMPLES = int(os.environ.get("SAPOLIN_EXAMPLES", "4"))
PUBLISHED = json.loads((Path(__file__).parents[2] / "docs" / "openapi.json").read_text())
WITHOUT_END = "/api/devices/stream"
"""A stream of readings. Like archives, which are no JSON, it has tests of its own."""
CHECKS = [not_a_server_error, response_schema_conformance, content_type_conformance]

_described = schemathesis.openapi.from_dict(PUBLISHED)
_described.config.phases.coverage.enabled = EXAMPLES > 20
schema = _described.exclude(path=WITHOUT_END).exclude(method="POST", path="/api/safekeeping/archive")


@pytest.fixture(scope="module")
def everything(tmp_path_factory: pytest.TempPathFactory) -> Iterator[TestClient]:
    """The demo, which the examples may change as they like."""
    database = tmp_path_factory.mktemp("demo") / "demo.db"
    put_demo(database)
    with client_on(database, demo=True) as client:
        yield client
    # What was made of the descriptions stays in memory, and is much: the collector need not go through it for every later test.
    gc.collect()
    gc.freeze()


@schema.parametrize()
@settings(
    max_examples=EXAMPLES, deadline=None, derandomize=True, database=None, suppress_health_check=list(HealthCheck)
)
def test_no_operation_breaks(case, everything: TestClient):
    request = case.as_transport_kwargs(base_url="http://127.0.0.1:8719")
    request["content"] = request.pop("data", None)
    answer = everything.request(**{name: value for name, value in request.items() if value})
    case.validate_response(answer, checks=CHECKS)
