"""Paste made, diluted on the simulated scale, bottled and labelled over HTTP; and what else is prepared beside batches."""

import pytest

from api.batches import Batch
from api.begun import made_paste
from api.conftest import client_on
from api.test_cure import refused

KEEPS = {"preservative": "phenoxyethanol-glycol", "rate_percent": 1.0, "ph_low": 3, "ph_high": 12}


def dilution(*pastes, **changes):
    lines = [{"batch_id": paste.id, "share_percent": 100 / len(pastes)} for paste in pastes]
    return {"kind": "dilution", "name": "Hand wash", "pastes": lines, "soap_percent": 25, "bottles": 12, "bottle_ml": 200,
            "preservative": KEEPS} | changes  # fmt: skip


class Work:
    """A preparation, spoken to over HTTP."""

    def __init__(self, client, plan):
        self.client = client
        self.record = client.post("/api/preparations", json=plan).json()
        self.at = f"/api/preparations/{self.record['id']}"
        self.keys = 0

    def run(self):
        return self.client.get(f"{self.at}/run").json()

    def send(self, key=None, after_seq=None, **event):
        self.keys += 1
        body = {"key": key or f"prep-key-{self.keys:05d}", "after_seq": after_seq, "event": event}
        return self.client.post(f"{self.at}/events", json=body)

    def finish(self, ph=9.6):
        self.send(kind="started")
        for step in self.run()["prepared"]["steps"]:
            if step["weigh"]:
                grams = step["weigh"]["target_g"]
                self.send(kind="captured", item=step["weigh"]["item"], weight_g=grams, source="typed")
            if step["test"] == "ph":
                self.send(kind="tested", test="ph", ph=ph)
            elif step["test"]:
                self.send(kind="tested", test=step["test"], outcome=step["outcomes"][0]["id"])
            if step["kind"] == "pack":
                self.send(kind="packed", jars=12, weight_g=self.run()["prepared"]["total_g"])
            done = self.send(kind="step_done", step=step["id"], confirmed=step["checks"])
            if done.status_code != 200:
                return done
        return self.send(kind="finished")


def test_a_packed_paste_is_there_with_its_soap(client, paste):
    (there,) = client.get("/api/pastes").json()
    result = paste.run()["prepared"]["planned"]["result"]["paste"]
    assert (there["batch_id"], there["left_g"]) == (paste.id, 1500.0)
    # It was cooked: what is gone is water, so the same soap is in less.
    assert there["soap_percent"] == pytest.approx(100 * result["soap_g"] / 1500.0, rel=1e-3)
    assert sum(there["acids_percent"]) == pytest.approx(100.0, abs=1.0)


def test_nothing_that_was_not_packed_is_diluted(client):
    batch = Batch(client)
    batch.up_to("pour")
    assert client.get("/api/pastes").json() == []
    report = client.post("/api/preparations/report", json={"plan": dilution(batch)}).json()
    assert [(one["code"], one["path"]) for one in report["problems"]] == [("unknown_paste", "pastes[0].batch_id")]


def test_paste_is_diluted_bottled_and_what_is_left_of_it_is_known(client, paste):
    work = Work(client, dilution(paste))
    soap_percent = client.get("/api/pastes").json()[0]["soap_percent"]
    assert work.finish().status_code == 200
    run = work.run()
    assert (run["state"]["status"], run["state"]["packed"]["jars"]) == ("made", 12)
    # 2400 mL at 1.028 g/mL, a quarter of it soap.
    needed = 2400 * 1.028 * 0.25 / soap_percent * 100
    assert client.get("/api/pastes").json()[0]["left_g"] == pytest.approx(1500 - needed, abs=0.6)
    assert [(one["record"]["code"], one["status"]) for one in client.get("/api/preparations").json()] == [
        ("P-101", "made")
    ]


def test_soap_that_reads_too_alkaline_is_not_preserved(client, paste):
    work = Work(client, dilution(paste))
    assert refused(work.finish(ph=10.8)) == "not_passed"
    work.send(kind="tested", test="ph", ph=10.1)
    assert work.send(kind="step_done", step="dilute-ph", confirmed=[]).status_code == 200


def test_an_unsuited_preservative_stops_it_before_anything_is_weighed(client, paste):
    work = Work(client, dilution(paste, preservative={"preservative": "benzoate-sorbate", "rate_percent": 1.0}))
    assert refused(work.send(kind="started")) == "not_safe"


def test_what_is_begun_holds_on_to_its_plan(client, paste):
    work = Work(client, dilution(paste))
    plan = work.record["plan"] | {"bottles": 6}
    kept = client.put(work.at, json={"revision": 1, "plan": plan}).json()
    assert (kept["revision"], kept["plan"]["bottles"]) == (2, 6)
    assert client.put(work.at, json={"revision": 1, "plan": plan}).status_code == 409
    work.send(kind="started")
    assert client.put(work.at, json={"revision": 2, "plan": plan}).status_code == 409
    assert work.run()["prepared"]["diluted"]["bottles"] == 6


def test_an_event_sent_again_adds_nothing_and_survives_a_restart(database):
    with client_on(database) as client:
        work = Work(client, {"kind": "rebatch", "name": "Ends", "soap_g": 500})
        work.send(kind="started")
        once = work.send(key="same-key-1", kind="noted", text="Damp ends.").json()
        again = work.send(key="same-key-1", kind="noted", text="Damp ends.").json()
        assert once["events"] == again["events"] == 2
        assert work.send(after_seq=1, kind="noted", text="Late.").status_code == 409
        at = work.at
    with client_on(database) as client:
        record = client.get(f"{at}/record").json()
        assert [one["event"]["kind"] for one in record] == ["started", "noted"]
        run = client.get(f"{at}/run").json()
        assert run["state"]["notes"][0]["what"] == "Damp ends."


def test_weights_come_from_the_scale_as_on_make_day(client, paste):
    work = Work(client, dilution(paste))
    work.send(kind="started")
    first = work.run()["prepared"]["steps"][0]
    work.send(kind="step_done", step=first["id"], confirmed=first["checks"])
    tared = client.post(f"{work.at}/tare", json={"key": "tare-key-1", "item": "paste:0"}).json()
    target = tared["weighing"]["to_show_g"]
    client.post("/api/devices/scale/play", json={"what": "pour_until", "grams": target})
    event = {"kind": "captured", "item": "paste:0", "weight_g": target, "source": "scale", "tare": "another"}
    assert refused(work.send(**event)) == "untared"
    assert work.send(**event | {"tare": tared["weighing"]["tare"]}).status_code == 200
    assert work.run()["state"]["settled"] == ["paste:0"]


def test_a_wrong_weight_is_amended_and_what_is_over_is_kept(client, paste):
    work = Work(client, dilution(paste))
    work.send(kind="started")
    first = work.run()["prepared"]["steps"][0]
    work.send(kind="step_done", step=first["id"], confirmed=first["checks"])
    target = work.run()["weighing"]["target_g"]
    work.send(kind="captured", item="paste:0", weight_g=target + 40, source="typed")
    assert refused(work.send(kind="step_done", step="weigh-paste:0")) == "off_target"
    assert refused(work.send(kind="correction_taken", item="paste:0", correction="keep_blend")) == "no_such_correction"
    assert work.send(kind="correction_taken", item="paste:0", correction="accept").status_code == 200
    assert work.run()["state"]["targets_g"]["paste:0"] == pytest.approx(target + 40)
    seq = next(one["seq"] for one in client.get(f"{work.at}/record").json() if one["event"]["kind"] == "captured")
    amended = work.send(kind="amended", seq=seq, reason="Misread.", in_bowl=True, weight_g=target)
    assert amended.json()["state"]["captured_g"]["paste:0"] == pytest.approx(target)


def test_a_salt_test_finds_its_peak(client, paste):
    work = Work(client, dilution(paste))
    work.send(kind="started")
    for brine, seconds in ((0, 3), (1, 11), (2, 11), (3, 3)):
        assert work.send(kind="salt_step", sample_g=100, brine_g=brine, seconds=seconds).status_code == 200
    test = work.run()["salt_test"]
    assert test["curve"]["peak_percent"] == pytest.approx(1.5)
    assert test["next_brine_g"] == pytest.approx(4.0)
    # Another sample begins anew.
    work.send(kind="salt_step", sample_g=50, brine_g=1, seconds=3)
    assert work.run()["salt_test"]["curve"] is None
    assert refused(Batch(client).send(kind="salt_step", sample_g=100, brine_g=0, seconds=3)) == "not_started"


def test_pastes_are_mixed_to_order(client):
    olive, coconut = made_paste(client, olive_refined=1000), made_paste(client, coconut=1000)
    answer = client.post("/api/preparations/mix", json={"plan": dilution(olive, coconut)}).json()
    assert answer["misses"] == {}
    assert sum(one["share_percent"] for one in answer["shares"]) == pytest.approx(100.0)
    assert {one["batch_id"] for one in answer["shares"]} == {olive.id, coconut.id}
    # With one in the plan there is nothing to choose from: all there are may be taken.
    from_one = client.post("/api/preparations/mix", json={"plan": dilution(olive)}).json()
    assert from_one["shares"] == answer["shares"]
    greedy = dilution(olive, coconut, bottles=500)
    assert refused(client.post("/api/preparations/mix", json={"plan": greedy})) == "pastes_run_short"


def test_the_label_of_diluted_soap_names_its_potassium_soaps_and_its_preservative(client, paste):
    work = Work(client, dilution(paste))
    work.finish()
    view = client.get(f"/api/labels/{work.record['id']}").json()
    assert (view["code"], view["net_ml"], view["bars"]) == ("P-101", 200.0, 12)
    names = [line["name"] for line in view["lists"]["inci"]]
    assert names[0] == "Aqua"
    assert {"Potassium Olivate", "Potassium Cocoate", "Glycerin", "Phenoxyethanol, Caprylyl Glycol"} <= set(names)
    assert not any("Sodium" in name for name in names)
    assert sum(line["percent"] for line in view["lists"]["inci"]) == pytest.approx(100.0)
    soap = sum(line["percent"] for line in view["lists"]["inci"] if line["name"].startswith("Potassium"))
    assert soap == pytest.approx(25.0, abs=0.2)
    assert "200 mL" in str(view["drawing"])
    pdf = client.get(f"/api/labels/{work.record['id']}/labels.pdf?count=12")
    assert pdf.content.startswith(b"%PDF")
    design = view["design"] | {"claim": "Gentle on hands."}
    kept = client.put(f"/api/labels/{work.record['id']}", json={"revision": 0, "design": design}).json()
    assert kept["revision"] == 1
    assert client.get(f"/api/labels/{work.record['id']}").json()["design"]["claim"] == "Gentle on hands."


def test_only_diluted_soap_and_batches_have_labels(client):
    work = Work(client, {"kind": "rebatch", "name": "Ends", "soap_g": 500})
    assert client.get(f"/api/labels/{work.record['id']}").status_code == 404
    assert client.get("/api/labels/nothing").status_code == 404


def test_it_is_archived_and_restored(client):
    work = Work(client, {"kind": "master_blend", "name": "Base"})
    client.delete(work.at)
    assert client.get("/api/preparations").json() == []
    assert len(client.get("/api/preparations?archived=true").json()) == 1
    client.post(f"{work.at}/restore")
    assert client.get("/api/preparations").json()[0]["record"]["plan"]["name"] == "Base"
    assert client.get("/api/preparations/nothing").status_code == 404


@pytest.mark.parametrize("plan", [
    {"kind": "master_lye", "name": "Lye", "lye_g": 450, "purity_percent": 98},
    {"kind": "rebatch", "name": "Ends", "soap_g": 500, "is_lye_heavy": True},
    {"kind": "master_blend", "name": "Base", "total_g": 2000,
     "parts": [{"oil": "coconut", "share_percent": 40}, {"oil": "olive-refined", "share_percent": 60}]},
])  # fmt: skip
def test_every_other_kind_is_made_to_its_end(client, plan):
    work = Work(client, plan)
    assert work.finish().status_code == 200
    assert work.run()["state"]["status"] == "made"
    assert client.get("/api/pastes").json() == []


def test_demo_has_pastes_to_dilute_and_two_plans(demo):
    assert {one["name"] for one in demo.get("/api/pastes").json()} == {"Wool-wash paste", "Coconut dish paste"}
    entries = demo.get("/api/preparations").json()
    for entry in entries:
        run = demo.get(f"/api/preparations/{entry['record']['id']}/run").json()
        assert not any(one["stops"] for one in run["prepared"]["diagnostics"])
    assert {entry["record"]["plan"]["kind"] for entry in entries} == {"dilution", "master_lye"}


def test_what_can_be_prepared_begins_with_the_paste_there_is_and_can_be_kept(client):
    starts = client.get("/api/preparations/starts").json()
    assert [one["kind"] for one in starts] == ["dilution", "rebatch", "master_lye", "master_blend"]
    assert starts[0]["plan"]["pastes"] == []
    paste = made_paste(client, olive_refined=1000)
    for start in client.get("/api/preparations/starts").json():
        kept = client.post("/api/preparations", json=start["plan"]).json()
        assert kept["plan"] == start["plan"]
    begun = {one["noun"]: one["record"]["plan"] for one in client.get("/api/preparations").json()}
    assert set(begun) == {"liquid soap", "rebatch", "master lye", "master blend"}
    assert [line["batch_id"] for line in begun["liquid soap"]["pastes"]] == [paste.id]


def test_pastes_can_be_mixed_once_there_are_two(client):
    def mixes_for(plan):
        return client.post("/api/preparations/report", json={"plan": plan}).json()["mixes_for"]

    olive = made_paste(client, olive_refined=1000)
    assert mixes_for(dilution(olive)) == []
    made_paste(client, coconut=1000)
    assert mixes_for(dilution(olive)) == ["liquid-soap"]
