"""A running application on a database of its own, spoken to over HTTP."""

from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from api.batches import Batch
from api.begun import BEGINNINGS, begun, put_begun
from demo_copy import put_demo, put_empty
from sapolin.api.app import create_app
from sapolin.api.settings import Settings
from sapolin.demo import world
from sapolin.devices.workbench import Workbench


def client_on(database: Path, *, demo: bool = False) -> TestClient:
    app = create_app(Settings(database=database), demo=world if demo else None)
    app.state.devices = Workbench.simulated()
    return TestClient(app, base_url="http://127.0.0.1:8719", raise_server_exceptions=False)


@pytest.fixture
def database(request: pytest.FixtureRequest, tmp_path: Path) -> Path:
    """An empty one, or one that begins with what the test asks for."""
    file = tmp_path / "sapolin.db"
    name = next((name for name in BEGINNINGS if name in request.fixturenames), None)
    if name is None:
        put_empty(file)
    else:
        put_begun(name, file, client_on)
    return file


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


@pytest.fixture
def made_batch(client):
    """In its mould; there is a tray R1."""
    return begun("made_batch", client, client_on)[0]


@pytest.fixture
def fit_batch(client):
    """Cut, and fit for use."""
    return begun("fit_batch", client, client_on)[0]


@pytest.fixture
def fit_batches(client):
    """Three of them."""
    return begun("fit_batches", client, client_on)


@pytest.fixture
def paste(client):
    """Cooked, tested and packed: 1,500 g."""
    return begun("paste", client, client_on)[0]
