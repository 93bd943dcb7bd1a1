"""What a batch costs beside its materials: packaging, energy and time; planned beside actual; the price for a margin."""

import pytest

from api.batches import Batch
from api.test_cure import refused, send
from api.test_stock import goods

RATES = {"per_hour": 24.0, "minutes": 60.0, "minutes_after": 30.0, "energy": 1.5, "margin_percent": 60.0,
         "packs": [{"material": "packaging:wrap", "pieces": 2.0}]}  # fmt: skip


@pytest.fixture
def made(client):
    goods(client, "O1", price=50)
    goods(client, "W1", "packaging:wrap", "packaging", 100, price=20)
    client.patch("/api/workshop", json={"costs": RATES})
    batch = Batch(client)
    batch.send(kind="started")
    batch.up_to("")
    batch.send(kind="finished")
    send(client, batch.id, kind="cut", sure=True, bars=9, samples=1, seconds=2)
    return batch


def cost_of(client, batch):
    return client.get(f"/api/stock/cost/{batch.id}").json()


def test_everything_is_counted_and_good_bars_pay(client, made):
    cost = cost_of(client, made)
    olive = made.run()["state"]["captured_g"]["oil:0"] * 0.010
    # 6 good bars with two wraps at 0.20; a make day of seconds is none, so the usual hour counts, and half an hour after it.
    assert not cost["minutes_by_record"]
    assert cost["actual"]["minutes"] == 90
    assert cost["actual"]["packaging"] == pytest.approx(6 * 2 * 0.2)
    total = olive + 2.4 + 1.5 + 36
    assert cost["actual"]["total"] == pytest.approx(total, abs=0.002)
    assert cost["actual"]["per_bar"] == pytest.approx(total / 6, abs=0.001)
    assert cost["price"] == pytest.approx(total / 6 / 0.4, abs=0.002)
    assert sum(part["percent"] for part in cost["parts"]) == pytest.approx(100)


def test_the_plan_counts_the_usual_minutes_and_all_bars(client, made):
    planned = cost_of(client, made)["planned"]
    olive = made.run()["state"]["targets_g"]["oil:0"] * 0.010
    assert planned["time"] == pytest.approx(36.0)
    assert planned["materials"] == pytest.approx(olive, abs=0.02)
    assert planned["packaging"] == pytest.approx(planned["bars"] * 2 * 0.2)
    assert set(cost_of(client, made)["planned_unpriced"]) >= {"Coconut"}


def test_packaging_is_booked_once(client, made):
    for _ in range(2):
        cost = client.post(f"/api/stock/cost/{made.id}/packaging").json()
    assert (cost["packaging_booked"], cost["packaging_open"]) == (12, 0)
    shelf = {one["material"]: one for one in client.get("/api/stock").json()["materials"]}
    assert shelf["packaging:wrap"]["in_hand_g"] == 88


def test_packaging_that_is_not_there_is_not_booked(client, made):
    client.patch("/api/workshop", json={"costs": RATES | {"packs": [{"material": "packaging:wrap", "pieces": 50.0}]}})
    assert refused(client.post(f"/api/stock/cost/{made.id}/packaging")) == "too_little_packaging"
    assert refused(client.post(f"/api/stock/cost/{Batch(client).id}/packaging")) == "no_bars_to_wrap"
    client.patch("/api/workshop", json={"costs": RATES | {"packs": []}})
    assert refused(client.post(f"/api/stock/cost/{made.id}/packaging")) == "no_packaging_set"


@pytest.mark.parametrize(
    "wrong", [{"margin_percent": 100.0}, {"per_hour": -1}, {"packs": [{"material": "olive", "pieces": 1}]}]
)
def test_rates_that_cannot_be_are_refused(client, wrong):
    assert client.patch("/api/workshop", json={"costs": RATES | wrong}).status_code == 422
    assert client.get("/api/workshop").json()["costs"]["per_hour"] == 0


def test_what_was_made_in_a_year(client, made, demo):
    found = {one["name"]: one for one in demo.get("/api/formulas").json()["formulas"]}
    year = demo.get(f"/api/stock/year/{found['Hut guest bar']['id']}").json()
    assert year["batches"] >= 4
    assert year["oils_g"] > 1500
    assert demo.get("/api/stock/year/none").json() == {"batches": 0, "oils_g": 0}
