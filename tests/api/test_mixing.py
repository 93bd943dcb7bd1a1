"""One lot out of others, over HTTP: split, poured together, a master blend, a master lye; traced through."""

from uuid import uuid4

import pytest

from api.batches import Batch
from api.test_cure import refused
from api.test_stock import goods, record
from conftest import formula_json


def mix(client, *parts, code="M1", key=None, **more):
    body = {"code": code, "parts": [{"lot_id": lot["id"], "grams": grams} for lot, grams in parts]} | more
    return client.post("/api/stock/mixes", json={"key": key or uuid4().hex, "mix": body})


def in_hand(client, lot):
    return client.get(f"/api/stock/lots/{lot['id']}").json()["now"]["in_hand_g"]


def test_a_tub_is_split_once(client):
    tub = goods(
        client, "C7", "coconut", price=20, supplier="Mill", supplier_code="77", certificate={"sap_koh_mg_per_g": 258.0}
    ).json()
    for _ in range(2):
        part = mix(client, (tub, 1200), code="C7a", key="split-once").json()
    assert in_hand(client, tub) == 3800
    assert (part["now"]["in_hand_g"], part["per_kg"]) == (1200, pytest.approx(4.0))
    assert (part["lot"]["material"], part["lot"]["supplier_code"]) == ("coconut", "77")
    assert part["lot"]["certificate"]["sap_koh_mg_per_g"] == 258.0


def test_several_oils_become_a_master_blend_of_ones_own(client):
    olive, coconut = goods(client, "O1", price=40).json(), goods(client, "C1", "coconut", price=25).json()
    assert refused(mix(client, (olive, 3000), (coconut, 1000))) == "blend_without_a_name"
    blend = mix(client, (olive, 3000), (coconut, 1000), name="Ridge base").json()
    # 3 kg at 8 and 1 kg at 5.
    assert blend["per_kg"] == pytest.approx(29 / 4)
    [own] = [one for one in client.get("/api/materials").json() if one["record"]["material"]["name"] == "Ridge base"]
    shares = {one["oil"]: one["share_percent"] for one in own["record"]["material"]["content"]["components"]}
    assert shares == {"olive-refined": 75.0, "coconut": 25.0}
    named = {one["material"]: one["name"] for one in client.get("/api/stock").json()["materials"]}
    assert named[own["record"]["material"]["id"]] == "Ridge base"


def test_dry_lye_and_water_become_a_master_lye_that_batches_take(client):
    lye = goods(client, "N1", "naoh", "lye", 1000, purity_percent=99.0).json()
    assert refused(mix(client, (lye, 600), water_g=200)) == "master_lye_strange"
    master = mix(client, (lye, 600), water_g=600, code="ML1").json()
    assert (master["lot"]["material"], master["lot"]["purity_percent"]) == ("naoh:50", 99.0)
    formula = formula_json()
    formula["lye"] |= {"naoh_purity_percent": 99.0, "master_percent": 50.0}
    batch = Batch(client, formula=formula)
    shelf = {one["material"]: one for one in client.get("/api/stock").json()["materials"]}
    assert shelf["naoh:50"]["promised_g"] > 0
    assert shelf["naoh"]["promised_g"] == 0
    batch.send(kind="started")
    batch.up_to("")
    batch.send(kind="finished")
    weighed = batch.run()["state"]["captured_g"]["lye:naoh"]
    assert in_hand(client, master) == pytest.approx(1200 - weighed, abs=0.01)
    # The dry lye is traced through the master lye: half of what was poured.
    [stop] = client.get(f"/api/stock/lots/{lye['id']}/trace").json()["batches"]
    assert stop["grams"] == pytest.approx(weighed / 2, abs=0.01)


def test_without_a_lot_of_master_lye_the_dry_one_counts(client):
    lye = goods(client, "N1", "naoh", "lye", 1000, purity_percent=99.0).json()
    formula = formula_json()
    formula["lye"] |= {"naoh_purity_percent": 99.0, "master_percent": 50.0}
    batch = Batch(client, formula=formula)
    batch.send(kind="started")
    batch.up_to("")
    batch.send(kind="finished")
    assert in_hand(client, lye) == pytest.approx(1000 - batch.run()["state"]["captured_g"]["lye:naoh"] / 2, abs=0.01)


def test_what_cannot_be_poured_together_is_refused_and_nothing_is_poured(client):
    olive, lye = goods(client, "O1").json(), goods(client, "N1", "naoh", "lye", 1000, purity_percent=99.0).json()
    weak = goods(client, "N2", "naoh", "lye", 1000, purity_percent=95.0).json()
    stopped = goods(client, "O2").json()
    record(client, stopped["id"], kind="stopped", why="leaks")
    assert refused(mix(client, (olive, 10), (lye, 10))) == "not_mixed"
    assert refused(mix(client, (lye, 10), (weak, 10))) == "lyes_of_two_purities"
    assert refused(mix(client, (olive, 10), water_g=5)) == "water_with_lye_only"
    assert refused(mix(client, (olive, 5001))) == "not_so_much_in_hand"
    assert refused(mix(client, (olive, -1))) == "no_amount"
    assert refused(mix(client, (stopped, 5))) == "lot_is_stopped"
    assert refused(mix(client, (olive, 5), (olive, 6))) == "lot_named_twice"
    assert refused(mix(client, (olive, 5), code="o1")) == "lot_code_taken"
    assert in_hand(client, olive) == 5000
    assert mix(client, ({"id": "none"}, 5)).status_code == 404
    assert refused(record(client, olive["id"], kind="mixed", grams=5, into="X")) == "mixed_by_itself"
