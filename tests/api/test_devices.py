"""Scale and thermometer over HTTP: what is done to the simulated ones is what they show."""

import json

import pytest
from anyio.from_thread import start_blocking_portal
from fastapi.testclient import TestClient
from starlette.requests import Request

from api.batches import Batch, plan_json
from sapolin.api import devices as room
from sapolin.api.app import create_app
from sapolin.api.errors import Refusal
from sapolin.api.settings import Settings
from sapolin.devices.protocol import ScaleReading
from sapolin.devices.simulated import SimulatedScale, SimulatedThermometer
from sapolin.devices.workbench import Workbench


class Clock:
    """Time that passes when told to."""

    def __init__(self) -> None:
        self.now = 0.0

    def __call__(self) -> float:
        return self.now


@pytest.fixture
def clock(client) -> Clock:
    clock = Clock()
    client.app.state.devices = Workbench.simulated(SimulatedScale(clock), SimulatedThermometer(clock))
    return clock


@pytest.fixture
def scale(client, clock):
    """What the scale shows once it has come to rest, after something was done to it."""

    def play(what: str, grams: float = 0.0, *, wait: bool = True) -> dict:
        shown = client.post("/api/devices/scale/play", json={"what": what, "grams": grams}).json()["scale"]
        if not wait:
            return shown
        clock.now += 3
        return client.get("/api/devices").json()["scale"]

    return play


class TestScale:
    def test_it_takes_what_is_poured_and_gives_back_what_is_taken_off(self, scale):
        assert scale("pour", 120.0) == {
            "state": "steady", "weight_g": pytest.approx(120.0, abs=0.1), "tare": None, "resolution_g": 0.1,
            "capacity_g": 5000.0,
        }  # fmt: skip
        assert scale("take_off", 20.0)["weight_g"] == pytest.approx(100.0, abs=0.1)
        assert scale("clear")["weight_g"] == pytest.approx(0.0, abs=0.1)

    def test_nothing_can_be_taken_from_an_empty_scale(self, scale):
        assert scale("take_off", 50.0)["weight_g"] == pytest.approx(0.0, abs=0.1)

    def test_pouring_until_a_weight_takes_the_container_for_nothing(self, client, scale):
        scale("pour", 310.0)
        client.app.state.devices.scale.tare()
        assert scale("pour_until", 97.4)["weight_g"] == pytest.approx(97.4, abs=0.05)
        assert scale("pour_until", 90.0)["weight_g"] == pytest.approx(97.4, abs=0.05)

    def test_a_knock_makes_it_settle_anew_on_the_same_weight(self, scale):
        before = scale("pour", 200.0)["weight_g"]
        assert scale("bump", wait=False)["state"] == "settling"
        assert scale("bump")["weight_g"] == pytest.approx(before, abs=0.1)

    def test_too_heavy_shows_no_weight(self, scale):
        shown = scale("overload")
        assert (shown["state"], shown["weight_g"]) == ("overload", None)
        assert scale("clear")["state"] == "steady"

    def test_unplugged_it_shows_nothing_and_comes_back_at_zero(self, client, scale):
        scale("pour", 80.0)
        assert scale("unplug") == {
            "state": "unplugged", "weight_g": None, "tare": None, "resolution_g": 0.1, "capacity_g": 5000.0
        }  # fmt: skip
        assert scale("plug")["weight_g"] == pytest.approx(0.0, abs=0.1)

    @pytest.mark.parametrize("grams", [-1, 20_001, "NaN", None, "much"])
    def test_absurd_weights_are_refused(self, client, grams):
        assert client.post("/api/devices/scale/play", json={"what": "pour", "grams": grams}).status_code == 422


class TestThermometer:
    def play(self, client, what: str, **more) -> dict:
        body = {"what": what, **more}
        return client.post("/api/devices/thermometer/play", json=body).json()["thermometer"]

    def test_each_bowl_has_a_temperature_of_its_own(self, client):
        self.play(client, "heat", bowl="lye", celsius=80)
        shown = self.play(client, "heat", bowl="oils", celsius=45)
        assert shown["celsius"]["lye"] == pytest.approx(80, abs=1)
        assert shown["celsius"]["oils"] == pytest.approx(45, abs=1)
        assert shown["celsius"]["room"] == pytest.approx(20, abs=1)

    def test_ice_cools_faster_than_the_table_and_a_bowl_can_be_taken_out_again(self):
        clock = Clock()
        thermometer = SimulatedThermometer(clock)
        for bowl in ("oils", "lye"):
            thermometer.heat(bowl, 60)
        thermometer.ice_bath("lye")
        clock.now += 1200
        on_ice = thermometer.read().celsius
        assert on_ice["lye"] < on_ice["oils"] - 10
        thermometer.out_of_bath("lye")
        clock.now += 600
        # Ice had brought it below the room; back on the table it comes up again.
        assert on_ice["lye"] < 20 < 21 < on_ice["oils"]
        assert on_ice["lye"] + 1 < thermometer.read().celsius["lye"] < 20.5

    def test_without_its_battery_it_shows_nothing(self, client):
        assert self.play(client, "unplug") == {"state": "unplugged", "celsius": {}}
        assert self.play(client, "plug")["state"] == "reading"

    @pytest.mark.parametrize("celsius", [-21, 141, "NaN"])
    def test_absurd_temperatures_are_refused(self, client, celsius):
        body = {"what": "heat", "bowl": "lye", "celsius": celsius}
        assert client.post("/api/devices/thermometer/play", json=body).status_code == 422


class Listener:
    """A screen that listens for so many readings and then goes away."""

    def __init__(self, readings: int) -> None:
        self.left = readings

    async def is_disconnected(self) -> bool:
        self.left -= 1
        return self.left < 0


def listen(bench: Workbench, readings: int) -> list[dict]:
    async def heard() -> list[dict]:
        answer = await room.stream(Listener(readings), bench)  # type: ignore[arg-type]
        chunks = [chunk async for chunk in answer.body_iterator]
        return [json.loads(str(chunk).removeprefix("data: ")) for chunk in chunks]

    with start_blocking_portal() as portal:
        return portal.call(heard)


class TestStream:
    def test_readings_come_until_the_screen_goes_away(self, monkeypatch):
        monkeypatch.setattr(room, "READINGS_PER_SECOND", 1000)
        bench = Workbench.simulated()
        heard = listen(bench, 5)
        assert [reading["scale"]["state"] for reading in heard] == ["steady"] * 5
        assert set(heard[0]["thermometer"]["celsius"]) == {"oils", "lye", "room"}
        assert bench.listeners == 0

    def test_the_number_of_screens_is_bounded(self):
        bench = Workbench.simulated()
        bench.listeners = room.MOST_LISTENERS
        with pytest.raises(Refusal) as refused, start_blocking_portal() as portal:
            portal.call(room.stream, Request({"type": "http"}), bench)
        assert refused.value.status == 429
        assert bench.listeners == room.MOST_LISTENERS


def test_the_simulated_bowls_follow_the_work(batch, client):
    batch.up_to("make-lye")
    cold = client.get("/api/devices").json()["thermometer"]["celsius"]["lye"]
    run = batch.run()
    step = next(step for step in run["prepared"]["steps"] if step["id"] == "make-lye")
    batch.send(kind="step_done", step="make-lye", confirmed=step["checks"])
    peak = run["prepared"]["planned"]["lye_peak"]["low_c"]
    hot = client.get("/api/devices").json()["thermometer"]["celsius"]["lye"]
    assert cold < 25
    assert hot == pytest.approx(peak, abs=1.5)
    batch.send(kind="chose", what="ice_bath")
    assert client.get("/api/devices").json()["thermometer"]["celsius"]["lye"] <= hot + 1


class Balance:
    """A scale that is not the simulated one: all that it has is what the protocol asks for."""

    def tare(self) -> str:
        return "its own zero"

    def read(self) -> ScaleReading:
        return ScaleReading(state="steady", weight_g=123.4, tare="its own zero", resolution_g=0.1, capacity_g=2000.0)


class TestWithoutInstruments:
    """A real workshop has none until it has some."""

    @pytest.fixture
    def bare(self, tmp_path):
        with TestClient(create_app(Settings(database=tmp_path / "own.db")), base_url="http://127.0.0.1:8719") as client:
            yield client

    def test_nothing_is_read_and_nothing_is_simulated(self, bare):
        assert bare.get("/api/devices").json() == {"scale": None, "thermometer": None, "is_simulated": False}
        answer = bare.post("/api/devices/scale/play", json={"what": "pour", "grams": 10})
        assert (answer.status_code, answer.json()["error"]["code"]) == (409, "not_simulated")

    def test_a_batch_is_made_with_typed_weights_alone(self, bare):
        batch = Batch(bare)
        batch.up_to("")
        assert batch.send(kind="finished").status_code == 200
        assert {one["event"].get("source") for one in bare.get(f"/api/batches/{batch.id}/record").json()} == {
            None,
            "typed",
        }

    def test_no_scale_is_tared_and_no_weight_comes_from_one(self, bare):
        batch = Batch(bare)
        batch.up_to("weigh-oil:0")
        answer = batch.tare("oil:0")
        assert (answer.status_code, answer.json()["error"]["code"]) == (409, "unplugged")
        sent = batch.send(kind="captured", item="oil:0", weight_g=100.0, source="scale", tare="mine")
        assert [problem["code"] for problem in sent.json()["error"]["problems"]] == ["untared"]


class TestDevicesOfTheWorkshop:
    @pytest.fixture
    def workshop(self, client):
        client.app.state.devices = Workbench(Balance(), SimulatedThermometer(Clock()))
        return client

    def test_a_scale_needs_nothing_beyond_the_protocol(self, workshop):
        shown = workshop.get("/api/devices").json()
        assert shown["scale"]["weight_g"] == 123.4
        assert shown["is_simulated"] is False

    def test_there_is_nothing_to_play_with(self, workshop):
        answer = workshop.post("/api/devices/scale/play", json={"what": "pour", "grams": 10})
        assert (answer.status_code, answer.json()["error"]["code"]) == (409, "not_simulated")

    def test_it_is_tared_and_read_for_a_batch(self, workshop):
        batch = workshop.post("/api/batches", json=plan_json()).json()["id"]
        sent = {"key": "started-1", "after_seq": 0, "event": {"kind": "started", "plan_revision": 1}}
        assert workshop.post(f"/api/batches/{batch}/events", json=sent).status_code == 200
        assert workshop.post("/api/devices/thermometer/play", json={"what": "unplug"}).status_code == 409
