"""Lots on make day: offered, confirmed by their code, booked where they were taken from; lye by the purity of its tub."""

from datetime import date, timedelta

import pytest

from api.batches import Batch
from api.test_cure import refused
from api.test_stock import goods, record
from conftest import formula_json

TODAY = date.today()


def soon(days):
    return str(TODAY + timedelta(days=days))


def lot(client, lot_id):
    return client.get(f"/api/stock/lots/{lot_id}").json()


def in_hand(client, lot_id):
    return lot(client, lot_id)["now"]["in_hand_g"]


def offered(client, batch, item):
    return next(one for one in client.get(f"/api/batches/{batch.id}/lots").json() if one["item"] == item)


def choose(batch, item, code, **more):
    return batch.send(kind="lot_chosen", item=item, code=code, **more)


@pytest.fixture
def begun(batch):
    batch.send(kind="started")
    return batch


def finish(batch):
    batch.up_to("")
    assert batch.send(kind="finished").status_code == 200


def test_the_first_to_expire_is_offered_and_another_can_be_taken(client, begun):
    old = goods(client, "O1", best_before=soon(30)).json()
    new = goods(client, "O2", best_before=soon(300)).json()
    stopped = goods(client, "O3", best_before=soon(10)).json()
    record(client, stopped["id"], kind="stopped", why="leaks")
    lots = offered(client, begun, "oil:0")["lots"]
    assert [(one["lot"]["code"], one["is_first"]) for one in lots] == [("O1", True), ("O2", False)]
    assert choose(begun, "oil:0", " o2 ").json()["state"]["lots"]["oil:0"]["code"] == "O2"
    finish(begun)
    captured = begun.run()["state"]["captured_g"]["oil:0"]
    assert in_hand(client, old["id"]) == 5000
    assert in_hand(client, new["id"]) == pytest.approx(5000 - captured)


def test_what_a_lot_lacks_comes_from_the_next(client, begun):
    small = goods(client, "O1", grams=100).json()
    other = goods(client, "O2").json()
    choose(begun, "oil:0", "O1")
    finish(begun)
    captured = begun.run()["state"]["captured_g"]["oil:0"]
    assert in_hand(client, small["id"]) == pytest.approx(0)
    assert in_hand(client, other["id"]) == pytest.approx(5100 - captured)


@pytest.mark.parametrize("code", ["X9", "C1", "P1", "S1"])
def test_a_wrong_tub_is_refused(client, begun, code):
    goods(client, "O1")
    goods(client, "C1", material="coconut")
    goods(client, "P1", best_before=soon(-1))
    stopped = goods(client, "S1").json()
    record(client, stopped["id"], kind="checked", is_good=False, text="old paint")
    codes = {"X9": "no_such_lot", "C1": "lot_of_something_else", "P1": "lot_is_past", "S1": "lot_is_stopped_for"}
    assert refused(choose(begun, "oil:0", code)) == codes[code]
    assert begun.run()["state"]["lots"] == {}


class TestLye:
    def purity(self):
        return formula_json()["lye"]["naoh_purity_percent"]

    def test_of_another_purity_is_asked_about_and_weighed_so_that_it_holds_the_same(self, client, begun):
        goods(client, "N7", material="naoh", kind="lye", grams=2000, purity_percent=95.0)
        begun.up_to("weigh-lye:naoh")
        planned = begun.run()
        target = planned["state"]["targets_g"]["lye:naoh"]
        answer = choose(begun, "lye:naoh", "N7")
        assert refused(answer) == "lye_of_other_purity"
        assert answer.json()["error"]["problems"][0]["is_doubt"]
        now = choose(begun, "lye:naoh", "N7", sure=True).json()
        assert now["state"]["targets_g"]["lye:naoh"] == pytest.approx(target * self.purity() / 95.0, abs=0.06)
        finish(begun)
        made = begun.run()
        assert made["actual"]["superfat_percent"] == pytest.approx(planned["actual"]["superfat_percent"], abs=0.1)
        weighed = made["state"]["captured_g"]["lye:naoh"]
        # By the planned purity the very same weight would be far too much lye.
        assert weighed > target * 1.02

    def test_two_purities_are_never_added_up_in_one_bowl(self, client, begun):
        goods(client, "N7", material="naoh", kind="lye", grams=2000, purity_percent=self.purity())
        goods(client, "N8", material="naoh", kind="lye", grams=2000, purity_percent=95.0)
        begun.up_to("weigh-lye:naoh")
        assert choose(begun, "lye:naoh", "N7").status_code == 200
        begun.send(kind="captured", item="lye:naoh", weight_g=20, source="typed", sure=True)
        assert refused(choose(begun, "lye:naoh", "N8", sure=True)) == "lye_of_two_purities"

    def test_without_a_lot_the_planned_weight_is_the_target_again(self, client, begun):
        """Also after several lots: what is to be weighed is never calculated from what was to be weighed before."""
        for code, purity in (("N7", 90.0), ("N8", 97.3)):
            goods(client, code, material="naoh", kind="lye", grams=2000, purity_percent=purity)
        begun.up_to("weigh-lye:naoh")
        planned_g = begun.run()["state"]["targets_g"]["lye:naoh"]
        for code in ("N7", "", "N8", "N7", "N8", ""):
            assert refused(choose(begun, "lye:naoh", code)) in ("lye_of_other_purity", "lye_as_planned_again")
            assert choose(begun, "lye:naoh", code, sure=True).status_code == 200
        assert begun.run()["state"]["targets_g"]["lye:naoh"] == planned_g

    def test_with_lye_in_the_cup_the_lot_is_not_taken_back(self, client, begun):
        goods(client, "N7", material="naoh", kind="lye", grams=2000, purity_percent=90.0)
        begun.up_to("weigh-lye:naoh")
        choose(begun, "lye:naoh", "N7", sure=True)
        begun.send(kind="captured", item="lye:naoh", weight_g=20, source="typed", sure=True)
        assert refused(choose(begun, "lye:naoh", "", sure=True)) == "planned_lye_of_two_purities"

    def halve_the_first_oil(self, client, begun):
        """Its true weight was half of what was recorded, as is found out now. Returns what is missing, g."""
        [entry] = [
            one for one in client.get(f"/api/batches/{begun.id}/record").json()
            if one["event"]["kind"] == "captured" and one["event"]["item"] == "oil:0"
        ]  # fmt: skip
        missing_g = entry["event"]["weight_g"] / 2
        begun.send(kind="amended", seq=entry["seq"], reason="misread", in_bowl=True, weight_g=missing_g)
        return missing_g

    def test_no_step_passes_while_there_is_more_lye_than_the_oils_take(self, client, begun):
        begun.up_to("pour")
        missing_g = self.halve_the_first_oil(client, begun)
        run = begun.run()
        assert run["actual"]["superfat_percent"] < 0
        step = next(one for one in run["prepared"]["steps"] if one["id"] == run["state"]["current"])
        done = {"kind": "step_done", "step": step["id"], "confirmed": step["checks"]}
        assert refused(begun.send(**done)) == "lye_heavy_as_weighed"
        # More oil makes it sound again.
        more = begun.send(kind="captured", item="oil:0", weight_g=missing_g, source="typed", adds=True)
        assert more.status_code == 200
        assert begun.send(**done).status_code == 200

    def test_nothing_is_finished_with_more_lye_than_the_oils_take(self, client, begun):
        begun.up_to("")
        self.halve_the_first_oil(client, begun)
        assert refused(begun.send(kind="finished")) == "lye_heavy_as_weighed"
        assert begun.send(kind="aborted", reason="too much lye").status_code == 200

    def test_nothing_more_of_the_lye_once_it_is_made(self, client, begun):
        begun.up_to("combine")
        for adds in (False, True):
            sent = begun.send(kind="captured", item="lye:naoh", weight_g=5, source="typed", adds=adds, sure=True)
            assert refused(sent) == "lye_is_made"

    def test_an_oil_in_the_batch_is_not_weighed_over(self, client, begun):
        begun.up_to("pour")
        captured = {"kind": "captured", "item": "oil:0", "weight_g": 50, "source": "typed", "sure": True}
        assert refused(begun.send(**captured)) == "in_the_batch"
        assert begun.send(**captured, adds=True).status_code == 200

    def test_the_plan_can_go_by_the_next_tub(self, client, batch):
        goods(client, "N7", material="naoh", kind="lye", grams=2000, purity_percent=96.5)
        plan = batch.run()["record"]["plan"]
        [said] = client.post("/api/batch-plan/lots", json=plan).json()
        assert (said["code"], said["plan"]["formula"]["lye"]["naoh_purity_percent"]) == ("N7", 96.5)
        assert client.post("/api/batch-plan/lots", json=said["plan"]).json() == []


def test_nothing_is_weighed_from_a_lot_that_was_stopped_after_it_was_chosen(client, begun):
    kept = goods(client, "O1").json()
    choose(begun, "oil:0", "O1")
    record(client, kept["id"], kind="checked", is_good=False, text="old paint")
    weight = begun.run()["state"]["targets_g"]["oil:0"]
    sent = begun.send(kind="captured", item="oil:0", weight_g=weight, source="typed")
    assert refused(sent) == "lot_is_stopped_for"


def test_a_certificate_of_an_oil_can_be_planned_with(client, batch):
    goods(client, "O1", certificate={"sap_koh_mg_per_g": 193.0})
    plan = batch.run()["record"]["plan"]
    [said] = client.post("/api/batch-plan/lots", json=plan).json()
    before, after = (
        client.post("/api/batch-plan", json=one).json()["planned"]["result"]["lye"]["naoh_g"]
        for one in (plan, said["plan"])
    )
    share = next(one["value"] for one in plan["formula"]["blend"]["lines"] if one["oil"] == "olive-refined")
    assert after > before
    assert after / before == pytest.approx(1 + share / 100 * 3 / 190, rel=0.02)


def test_a_workshop_can_ask_for_every_lot(client, begun):
    goods(client, "O1")
    client.patch("/api/workshop", json={"confirms_lots": True})
    begun.up_to("weigh-oil:0") if any(
        step["id"] == "weigh-oil:0" for step in begun.run()["prepared"]["steps"]
    ) else None
    weight = begun.run()["state"]["targets_g"]["oil:0"]
    sent = begun.send(kind="captured", item="oil:0", weight_g=weight, source="typed")
    assert refused(sent) == "lot_not_confirmed"
    choose(begun, "oil:0", "O1")
    assert begun.send(kind="captured", item="oil:0", weight_g=weight, source="typed").status_code == 200


def test_from_no_lot_is_an_answer_too(client, begun):
    goods(client, "O1")
    client.patch("/api/workshop", json={"confirms_lots": True})
    assert choose(begun, "oil:0", "").status_code == 200
    weight = begun.run()["state"]["targets_g"]["oil:0"]
    assert begun.send(kind="captured", item="oil:0", weight_g=weight, source="typed").status_code == 200


def test_a_weight_amended_after_make_day_is_booked_again(client, begun):
    kept = goods(client, "O1").json()
    finish(begun)
    captured = begun.run()["state"]["captured_g"]["oil:0"]
    seq = next(
        one["seq"] for one in client.get(f"/api/batches/{begun.id}/record").json()
        if one["event"]["kind"] == "captured" and one["event"]["item"] == "oil:0"
    )  # fmt: skip
    for true_g in (captured - 40, captured + 25):
        amended = begun.send(kind="amended", seq=seq, reason="misread", in_bowl=True, weight_g=true_g)
        assert amended.status_code == 200
        assert in_hand(client, kept["id"]) == pytest.approx(5000 - true_g, abs=0.01)
    kinds = [one["event"]["kind"] for one in lot(client, kept["id"])["entries"]]
    assert kinds == ["arrived", "used", "returned", "used"]
    trace = client.get(f"/api/stock/lots/{kept['id']}/trace").json()
    assert trace["batches"][0]["grams"] == pytest.approx(captured + 25, abs=0.01)


@pytest.mark.parametrize(
    ("certificate", "code"),
    [
        ({"sap_koh_mg_per_g": 257.0}, "certificate_of_another_oil"), ({"sap_koh_mg_per_g": 0.19}, "certificate_of_another_oil"),
        ({"allergens_percent": {"linalool": 3.0}}, "allergens_are_of_scents"),
    ],
)  # fmt: skip
def test_a_certificate_that_cannot_be_is_refused(client, certificate, code):
    answer = goods(client, "O1", certificate=certificate)
    assert refused(answer) == code
    offers = answer.json()["error"]["problems"][0]["offers"]
    assert [offer["value"] for offer in offers] == ([190.0] if certificate.get("sap_koh_mg_per_g") == 0.19 else [])


def test_sheets_of_scents_are_checked(client):
    def refused_by(**certificate):
        return refused(goods(client, "L1", "scent:lavender", "scent", 100, certificate=certificate))

    assert refused_by(allergens_percent={"linalool": 120.0}) == "allergen_share"
    assert refused_by(allergens_percent={"linalool": 60.0, "limonene": 50.0}) == "allergens_sum"
    assert refused_by(most_percent=0.0) == "most_of_scent"
    assert refused_by(sap_koh_mg_per_g=190.0) == "sap_is_of_oils"


def test_a_lot_is_found_by_any_of_its_codes_and_traced_on_paper(client, begun):
    kept = goods(client, "O1", grams=100, supplier_code="VS-77").json()
    finish(begun)
    assert all(one["lots"] == [] for one in client.get("/api/stock").json()["materials"])
    for words in ("o1", "vs-7"):
        assert [one["code"] for one in client.get("/api/stock/lots", params={"search": words}).json()] == ["O1"]
    assert client.get("/api/stock/lots", params={"search": "%"}).json() == []
    trace = client.get(f"/api/stock/lots/{kept['id']}/trace").json()
    assert trace["uncut"] == [begun.run()["record"]["code"]]
    assert client.get(f"/api/stock/lots/{kept['id']}/trace.pdf").content.startswith(b"%PDF")


def test_what_was_off_at_a_count_is_not_accounted_for(client):
    kept = goods(client, "O1", grams=1000).json()
    record(client, kept["id"], kind="wasted", grams=100, why="spilt")
    record(client, kept["id"], kind="counted", grams=850)
    trace = client.get(f"/api/stock/lots/{kept['id']}/trace").json()
    assert (trace["missing_g"], trace["explained_percent"]) == (pytest.approx(50), pytest.approx(95))


def test_solves_and_swaps_go_by_the_shelf(client):
    goods(client, "K1", material="canola", grams=400, price=2.0, best_before=soon(20))
    assert client.get("/api/oil-notes").json()["canola"]["on_hand_g"] == 400
    [use] = client.post("/api/solve-use-up", json=formula_json()).json()
    assert (use["code"], use["oil"]) == ("K1", "canola")
    total = formula_json()["blend"]["total_oils_g"]
    assert use["share_percent"] == pytest.approx(min(100 * 400 / total, 30), abs=0.5)
    Batch(client)
    assert client.get("/api/oil-notes").json()["canola"]["on_hand_g"] == 400
