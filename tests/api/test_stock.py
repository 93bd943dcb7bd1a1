"""The shelf, over HTTP: goods in, promised and free, what make day takes, and where a lot went."""

from datetime import date, timedelta
from uuid import uuid4

import pytest

from api.batches import Batch
from api.test_cure import refused, send
from api.test_preparations import Work, dilution

TODAY = date.today()
OF_BATCH = {"O1": "olive-refined", "C1": "coconut", "K1": "castor"}


def goods(client, code="O1", material="olive-refined", kind="oil", grams=5000, *, key=None, **more):
    lot = {
        "code": code,
        "material": material,
        "kind": kind,
        "amount_g": grams,
        "arrived": str(TODAY - timedelta(days=9)),
    }
    return client.post("/api/stock/lots", json={"key": key or uuid4().hex, "lot": lot | more})


def record(client, lot_id, key=None, **event):
    return client.post(f"/api/stock/lots/{lot_id}/events", json={"key": key or uuid4().hex, "event": event})


def material(client, name):
    return next((one for one in client.get("/api/stock").json()["materials"] if one["material"] == name), None)


def test_goods_in_once_and_for_good(client):
    for _ in range(2):
        lot = goods(client, key="the-same-key", price=31, freight=4).json()
    assert lot["per_kg"] == pytest.approx(7.0)
    assert len(client.get("/api/stock").json()["materials"]) == 1
    assert refused(goods(client, code="o1")) == "lot_code_taken"
    assert refused(goods(client, code="X", material="unobtainium")) == "unknown_stock_material"
    assert refused(goods(client, code="N1", material="naoh", kind="lye")) == "lot_purity_missing"
    assert client.get("/api/stock/lots/none").status_code == 404


def test_one_name_for_an_oil_and_an_additive_are_two_materials(client):
    goods(client, code="A", material="poppy-seed")
    goods(client, code="B", material="additive:poppy-seed", kind="additive", grams=200)
    assert {one["kind"] for one in client.get("/api/stock").json()["materials"]} == {"oil", "additive"}


def test_the_ledger_is_sent_twice_and_added_once(client):
    lot = goods(client).json()
    for _ in range(2):
        told = record(client, lot["id"], key="wasted-once", kind="wasted", grams=200, why="spilt").json()
    assert told["now"]["in_hand_g"] == 4800
    assert record(client, lot["id"], kind="used", grams=1, batch_id="no-such-batch").status_code == 404
    assert refused(record(client, lot["id"], kind="wasted", grams=9000)) == "not_so_much_in_hand"


def test_planned_batches_reserve_and_make_day_takes_what_was_captured(client):
    old = goods(client, code="O1", grams=300, best_before=str(TODAY + timedelta(days=20))).json()
    new = goods(client, code="O2", best_before=str(TODAY + timedelta(days=300))).json()
    batch = Batch(client)
    before = material(client, "olive-refined")
    assert before["promised_g"] > 300
    assert before["free_g"] == pytest.approx(5300 - before["promised_g"])
    assert [one["code"] for one in before["needs"]] == [batch.run()["record"]["code"]]
    batch.send(kind="started")
    batch.up_to("")
    batch.send(kind="finished")
    after = material(client, "olive-refined")
    captured = batch.run()["state"]["captured_g"]["oil:0"]
    assert after["promised_g"] == 0
    assert after["in_hand_g"] == pytest.approx(5300 - captured)
    # First to expire first, the rest from the next.
    assert client.get(f"/api/stock/lots/{old['id']}").json()["now"]["in_hand_g"] == pytest.approx(0)
    assert client.get(f"/api/stock/lots/{new['id']}").json()["now"]["in_hand_g"] == pytest.approx(5300 - captured)


def test_what_the_customer_brings_is_neither_promised_nor_taken(client):
    goods(client, code="O1", best_before=str(TODAY + timedelta(days=300)))
    batch = Batch(client, brought=["olive-refined"])
    assert material(client, "olive-refined")["promised_g"] == 0
    batch.send(kind="started")
    batch.up_to("")
    batch.send(kind="finished")
    assert batch.run()["state"]["captured_g"]["oil:0"] > 0
    assert material(client, "olive-refined")["in_hand_g"] == 5000


def test_a_stopped_lot_is_not_taken_and_one_past_its_label_neither(client):
    stopped = goods(client, code="O1").json()
    record(client, stopped["id"], kind="checked", is_good=False, text="smells of paint")
    past = goods(client, code="O2", best_before=str(TODAY - timedelta(days=1))).json()
    good = goods(client, code="O3", best_before=str(TODAY + timedelta(days=300))).json()
    assert material(client, "olive-refined")["in_hand_g"] == 5000
    batch = Batch(client)
    batch.send(kind="started")
    batch.up_to("")
    batch.send(kind="finished")
    in_hand = [client.get(f"/api/stock/lots/{one['id']}").json()["now"]["in_hand_g"] for one in (stopped, past, good)]
    assert in_hand[:2] == [5000, 5000]
    assert in_hand[2] < 5000


def test_a_lot_is_traced_to_its_bars_and_where_they_went(client):
    lot = goods(client).json()
    batch = Batch(client)
    batch.send(kind="started")
    batch.up_to("")
    batch.send(kind="finished")
    send(client, batch.id, kind="cut", sure=True, bars=9, samples=1)
    send(client, batch.id, kind="fit_tested", sure=True, ph=9.4)
    send(client, batch.id, kind="left", bars=5, to="sold", where="Larch Hut")
    trace = client.get(f"/api/stock/lots/{lot['id']}/trace").json()
    [stop] = trace["batches"]
    assert (stop["bars"], stop["here"]) == (9, 3)
    assert [(one["bars"], one["to"], one["where"]) for one in stop["gone"]] == [
        (5, "sold", "Larch Hut"), (1, "for tests", "the workshop"),
    ]  # fmt: skip
    assert (trace["bars"], trace["bars_known"], trace["uncut"]) == (9, 9, [])
    assert trace["explained_percent"] == pytest.approx(100)


def test_a_trace_says_where_it_ends(client, paste):
    lot = goods(client, material="coconut").json()
    assert record(client, lot["id"], kind="used", grams=300, batch_id=paste.id, item="oil:0").status_code == 200
    at = f"/api/stock/lots/{lot['id']}/trace"
    code = client.get(f"/api/batches/{paste.id}").json()["code"]
    trace = client.get(at).json()
    assert (trace["ends_at"], trace["uncut"], trace["batches"][0]["is_paste"]) == (
        [f"{code} (paste in jars)"],
        [],
        True,
    )
    wash = Work(client, dilution(paste))
    wash.send(kind="started")
    assert client.get(at).json()["ends_at"] == [f"{wash.record['code']} Hand wash"]
    assert client.get(f"{at}.pdf").content.startswith(b"%PDF")


def test_what_is_struck_is_no_use_of_a_lot(client):
    lot = goods(client).json()
    batch = Batch(client)
    batch.send(kind="started")
    batch.up_to("")
    batch.send(kind="finished")
    trace = client.get(f"/api/stock/lots/{lot['id']}/trace").json()
    assert len(trace["batches"]) == 1
    [used] = [one["seq"] for one in trace["lot"]["entries"] if one["event"]["kind"] == "used"]
    assert record(client, lot["id"], kind="struck", seq=used, reason="the other tub").status_code == 200
    trace = client.get(f"/api/stock/lots/{lot['id']}/trace").json()
    assert trace["batches"] == []
    assert trace["lot"]["now"]["in_hand_g"] == pytest.approx(5000)


def test_a_batch_costs_what_its_lots_were_paid_and_good_bars_pay_for_the_rest(client):
    goods(client, code="O1", grams=300, price=2.4, best_before=str(TODAY + timedelta(days=20)))
    goods(client, code="O2", price=45, freight=5, best_before=str(TODAY + timedelta(days=300)))
    goods(client, code="C1", material="coconut")
    batch = Batch(client)
    batch.send(kind="started")
    batch.up_to("")
    batch.send(kind="finished")
    send(client, batch.id, kind="cut", sure=True, bars=9, samples=1, seconds=2)
    cost = client.get(f"/api/stock/cost/{batch.id}").json()
    captured = batch.run()["state"]["captured_g"]["oil:0"]
    # 300 g at 8 per kg, the rest at 10.
    by_hand = 300 * 0.008 + (captured - 300) * 0.010
    assert cost["actual"]["total"] == pytest.approx(by_hand, abs=0.001)
    assert (cost["actual"]["bars"], cost["unpriced"]) == (6, ["Coconut"])
    assert cost["actual"]["per_bar"] == pytest.approx(by_hand / 6, abs=0.001)
    assert cost["lines"][0]["lots"] == ["O1", "O2"]
    assert client.get("/api/stock/cost/none").status_code == 404


def test_the_demo_has_a_shelf(demo):
    stock = demo.get("/api/stock").json()
    by = {one["material"]: one for one in stock["materials"]}
    assert by["lard"]["free_g"] < 0
    assert any(lot["now"]["is_stopped"] for lot in by["hemp"]["lots"])
    assert all(lot["now"]["in_hand_g"] >= -1e-6 for one in stock["materials"] for lot in one["lots"])
    [coconut] = [lot for lot in by["coconut"]["lots"] if lot["lot"]["code"] == "C7"]
    assert len(demo.get(f"/api/stock/lots/{coconut['id']}/trace").json()["batches"]) > 3


class TestGivenUp:
    """What a batch that was given up had weighed is put back, or gone."""

    def begun(self, client, until: str):
        lots = {one: goods(client, code=one, material=material).json()["id"] for one, material in OF_BATCH.items()}
        batch = Batch(client)
        batch.up_to(until)
        return batch, lots

    def in_hand(self, client, lots):
        return {code: client.get(f"/api/stock/lots/{lot}").json()["now"]["in_hand_g"] for code, lot in lots.items()}

    def test_oils_that_are_gone_leave_the_ledger(self, client):
        batch, lots = self.begun(client, "protect")
        weighed = batch.run()["state"]["captured_g"]
        assert batch.send(kind="aborted", reason="a power cut", weighed="wasted").status_code == 200
        assert sum(5000 - grams for grams in self.in_hand(client, lots).values()) == pytest.approx(
            sum(grams for item, grams in weighed.items() if item.startswith("oil")), abs=0.01
        )

    def test_what_goes_back_is_there_as_before(self, client):
        batch, lots = self.begun(client, "protect")
        batch.send(kind="aborted", reason="a power cut", weighed="put_back")
        assert set(self.in_hand(client, lots).values()) == {5000}

    def test_what_lye_has_met_does_not_go_back(self, client):
        batch, lots = self.begun(client, "trace")
        batch.send(kind="aborted", reason="it seized", weighed="put_back")
        assert all(grams < 5000 for grams in self.in_hand(client, lots).values())


def test_what_went_in_without_a_price_costs_what_nobody_knows(client):
    client.patch("/api/workshop", json={"costs": {"per_hour": 30, "energy": 2}})
    batch = Batch(client)
    batch.up_to("")
    batch.send(kind="finished")
    send(client, batch.id, kind="cut", sure=True, bars=9, samples=1)
    cost = client.get(f"/api/stock/cost/{batch.id}").json()
    assert (cost["materials_known"], cost["actual"]["per_bar"], cost["price"], cost["parts"]) == (False, None, None, [])
