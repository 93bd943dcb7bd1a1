"""A running application on a database of its own, spoken to over HTTP."""

from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from api.batches import Batch
from demo_copy import put_demo
from sapolin.api.app import create_app
from sapolin.api.settings import Settings
from sapolin.demo import world


def client_on(database: Path, *, demo: bool = False) -> TestClient:
    app = create_app(Settings(database=database), demo=world if demo else None)
    return TestClient(app, base_url="http://127.0.0.1:8719", raise_server_exceptions=False)


@pytest.fixture
def database(tmp_path: Path) -> Path:
    return tmp_path / "sapolin.db"


@pytest.fixture
def client(database: Path) -> Iterator[TestClient]:
    with client_on(database) as client:
        yield client


@pytest.fixture
def demo(tmp_path: Path) -> Iterator[TestClient]:
    put_demo(tmp_path / "demo.db")
    with client_on(tmp_path / "demo.db", demo=True) as client:
        yield client


@pytest.fixture
def batch(client):
    return Batch(client)
