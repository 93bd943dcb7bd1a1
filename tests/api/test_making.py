"""Make day over HTTP: the record, what is off, pictures, two devices, the scale."""

import sqlite3

import pytest

from api.batches import LOAF, Batch, plan_json
from api.conftest import client_on
from api.pictures import kept, taken
from conftest import formula_json

PNG = taken()


class TestMaking:
    def test_a_day_from_gloves_to_cover(self, client, batch):
        run = batch.up_to("nothing")
        assert run["state"]["current"] is None
        done = batch.send(kind="finished").json()
        assert done["state"]["status"] == "made"
        assert done["unmould_from"] < done["unmould_to"]
        assert done["actual"]["superfat_percent"] == pytest.approx(5.0, abs=0.1)
        (listed,) = client.get("/api/batches").json()["batches"]
        assert listed["status"] == "made"

    def test_the_plan_is_fixed_once_begun(self, client, batch):
        batch.send(kind="started")
        answer = client.put(f"/api/batches/{batch.id}", json={"revision": 1, "plan": plan_json()})
        assert (answer.status_code, answer.json()["error"]["code"]) == (409, "begun")

    def test_the_same_key_adds_nothing(self, batch):
        batch.up_to("weigh-oil:1")
        event = {"kind": "captured", "item": "oil:1", "weight_g": 100.0, "source": "typed", "adds": True}
        first = batch.send(key="the-same-key", **event).json()
        again = batch.send(key="the-same-key", **event).json()
        assert again["state"]["seq"] == first["state"]["seq"]
        assert again["state"]["captured_g"]["oil:1"] == 100

    def test_two_devices_do_not_do_a_step_twice(self, batch):
        run = batch.up_to("weigh-oil:1")
        seq = run["state"]["seq"]
        event = {"kind": "captured", "item": "oil:1", "weight_g": run["state"]["targets_g"]["oil:1"], "source": "typed"}
        assert batch.send(after_seq=seq, **event).status_code == 200
        late = batch.send(after_seq=seq, **event)
        assert (late.status_code, late.json()["error"]["code"]) == (409, "stale")
        # A note may be added whatever the other device did meanwhile.
        assert batch.send(kind="noted", text="Both of us are here.").status_code == 200

    def test_an_overshoot_is_put_right_by_what_the_server_calculates(self, batch):
        run = batch.up_to("weigh-oil:0")
        target = run["state"]["targets_g"]["oil:0"]
        batch.send(kind="captured", item="oil:0", weight_g=round(target * 1.03, 1), source="typed")
        off = batch.client.get(f"/api/batches/{batch.id}/deviation/oil:0").json()
        assert off["off_g"] == pytest.approx(target * 0.03, abs=0.1)
        # Targets sent along are not believed.
        sent = batch.send(
            kind="correction_taken", item="oil:0", correction="keep_blend", targets_g={"lye:naoh": 500.0}
        ).json()
        assert sent["state"]["targets_g"]["lye:naoh"] == pytest.approx(
            run["state"]["targets_g"]["lye:naoh"] * 1.03, abs=0.1
        )
        early = batch.send(kind="correction_taken", item="lye:naoh", correction="accept")
        assert (early.status_code, early.json()["error"]["problems"][0]["code"]) == (422, "nothing_weighed")
        assert batch.up_to("make-lye")["actual"]["superfat_percent"] == pytest.approx(5.0, abs=0.15)

    def test_dangerous_lye_cannot_be_accepted(self, batch):
        run = batch.up_to("weigh-lye:naoh")
        target = run["state"]["targets_g"]["lye:naoh"]
        batch.send(kind="captured", item="lye:naoh", weight_g=round(target * 1.08, 1), source="typed")
        refused = batch.send(kind="correction_taken", item="lye:naoh", correction="accept")
        assert (refused.status_code, refused.json()["error"]["problems"][0]["code"]) == (422, "correction_not_possible")
        assert (
            batch.send(kind="step_done", step="weigh-lye:naoh").json()["error"]["problems"][0]["code"] == "off_target"
        )

    def test_fahrenheit_taken_for_celsius_is_asked_about(self, batch):
        batch.up_to("temperatures")
        asked = batch.send(kind="temperature", bowl="oils", celsius=100.0, source="typed")
        problem = asked.json()["error"]["problems"][0]
        assert (problem["code"], problem["offers"][0]["value"]) == ("hotter_than_oils_or_other_unit", 37.78)
        sure = batch.send(kind="temperature", bowl="oils", celsius=100.0, source="typed", sure=True)
        assert sure.status_code == 200

    def test_the_record_only_grows(self, batch, database):
        batch.up_to("weigh-oil:1")
        with sqlite3.connect(database) as connection:
            for change in ("UPDATE batch_events SET content = '{}'", "DELETE FROM batch_events"):
                with pytest.raises(sqlite3.IntegrityError, match="only grows"):
                    connection.execute(change)
        record = batch.client.get(f"/api/batches/{batch.id}/record").json()
        assert [entry["seq"] for entry in record] == list(range(1, len(record) + 1))

    def test_a_restart_loses_nothing(self, batch, database):
        before = batch.up_to("weigh-oil:2")
        with client_on(database) as other:
            after = other.get(f"/api/batches/{batch.id}/run").json()
        assert after["progress"]["state"] == before["state"]

    def test_given_up_with_a_reason_and_remembered_next_time(self, client):
        formula_id = client.post("/api/formulas", json=formula_json()).json()["id"]
        batch = Batch(client, formula_id=formula_id)
        batch.up_to("weigh-oil:1")
        batch.send(kind="noted", text="Freeze it harder.", next_time=True)
        assert batch.send(kind="aborted", reason="").status_code == 422
        assert batch.send(kind="aborted", reason="It scorched.").json()["state"]["status"] == "aborted"
        assert client.get(f"/api/formulas/{formula_id}/next-time").json()[0]["text"] == "Freeze it harder."
        other = Batch(client, formula_id=formula_id)
        assert client.get(f"/api/batches/{other.id}/sheet").json()["lessons"] == ["Freeze it harder."]

    def test_pictures_are_kept_and_only_pictures(self, client, batch):
        address = f"/api/batches/{batch.id}/photos"
        early = client.post(address, params={"key": "photo-key-1"}, content=PNG, headers={"content-type": "image/png"})
        assert early.status_code == 422
        batch.send(kind="started")
        sent = client.post(address, params={"key": "photo-key-1"}, content=PNG, headers={"content-type": "image/png"})
        (photo,) = sent.json()["state"]["photos"]
        file_id = photo["what"].partition(":")[0]
        shown = client.get(f"{address}/{file_id}")
        assert (kept(shown.content).size, shown.headers["content-type"]) == ((60, 40), "image/jpeg")
        script = client.post(
            address, params={"key": "photo-key-2"}, content=b"<script>", headers={"content-type": "image/png"}
        )
        assert script.status_code == 422
        assert client.get(f"{address}/999").status_code == 404

    def test_a_picture_is_scaled_turned_upright_and_says_nothing_of_where_it_was_taken(self, client, batch):
        batch.send(kind="started")
        address = f"/api/batches/{batch.id}/photos"
        sent = client.post(
            address, params={"key": "photo-key-1"}, headers={"content-type": "image/jpeg"},
            content=taken(3000, 1500, "JPEG", place=True, sideways=True),
        )  # fmt: skip
        (photo,) = sent.json()["state"]["photos"]
        picture = kept(client.get(f"{address}/{photo['what'].partition(':')[0]}").content)
        assert picture.size == (1000, 2000)
        assert not picture.getexif()
        red, _, blue = picture.getpixel((500, 100))
        assert red > 200 > 60 > blue

    @pytest.mark.parametrize("content", [b"", b"\xff\xd8 not all", taken(900, 900, "JPEG")[:400]])
    def test_what_is_no_whole_picture_is_refused(self, client, batch, content):
        batch.send(kind="started")
        refusal = client.post(
            f"/api/batches/{batch.id}/photos", params={"key": "photo-key-1"}, content=content,
            headers={"content-type": "image/jpeg"},
        )  # fmt: skip
        assert (refusal.status_code, refusal.json()["error"]["code"]) == (422, "not_a_picture")

    def test_what_was_left_over_teaches_the_mould(self, client):
        mould = client.put("/api/moulds", json=LOAF).json()["mould"]
        batch = Batch(client, moulds=[{"mould": mould, "headroom_mm": 0, "cut": None}])
        batch.up_to("nothing")
        batch.send(kind="finished")
        batch.send(kind="poured", mould=0, difference_ml=70.0)
        calibration = lambda: client.get("/api/moulds").json()[0]["mould"]["calibration_percent"]  # noqa: E731
        assert calibration() == pytest.approx(97.5)
        # Told again, it teaches once; sent again, nothing; set aside, it is forgotten.
        batch.send(key="poured-again", kind="poured", mould=0, difference_ml=14.0)
        assert calibration() == pytest.approx(99.5)
        batch.send(key="poured-again", kind="poured", mould=0, difference_ml=14.0)
        assert calibration() == pytest.approx(99.5)
        for entry in client.get(f"/api/batches/{batch.id}/record").json():
            if entry["event"]["kind"] == "poured":
                batch.send(kind="amended", seq=entry["seq"], reason="It was the other mould.")
        assert calibration() == pytest.approx(100.0)

    def test_a_small_mould_beside_a_large_one_cannot_be_untaught_into_nothing(self, client):
        small = client.put("/api/moulds", json={
            "name": "Cup", "shape": {"kind": "cavities", "count": 1, "cavity_ml": 100},
        }).json()["mould"]  # fmt: skip
        moulds = [{"mould": small, "headroom_mm": 0}, {"mould": LOAF, "headroom_mm": 0, "cut": None}]
        batch = Batch(client, moulds=moulds)
        batch.up_to("pour")
        # Twice what the cup takes: there is as much in the batch, but not in the cup.
        refused = batch.send(kind="poured", mould=0, difference_ml=200.0)
        assert refused.json()["error"]["problems"][0]["code"] == "over_all"
        for difference_ml, percent in ((100.0, 80.0), (-100.0, 120.0)):
            assert batch.send(kind="poured", mould=0, difference_ml=difference_ml).status_code == 200
            assert client.get("/api/moulds").json()[0]["mould"]["calibration_percent"] == percent

    def test_a_lye_heavy_plan_is_not_begun(self, client):
        heavy = formula_json(superfat_percent=0.0, lye={"naoh_purity_percent": 90.0})
        batch = Batch(client, formula=heavy)
        run = batch.run()
        assert [one["code"] for one in run["prepared"]["diagnostics"] if one["stops"]]
        refused = batch.send(kind="started")
        assert (refused.status_code, refused.json()["error"]["problems"][0]["code"]) == (422, "not_safe")
        assert batch.run()["state"]["status"] == "planned"

    def test_an_entry_set_aside_leads_back_to_its_weighing(self, client, batch):
        batch.up_to("make-lye")
        record = client.get(f"/api/batches/{batch.id}/record").json()
        weighed = next(entry["seq"] for entry in record if entry["event"].get("item") == "water")
        back = batch.send(kind="amended", seq=weighed, reason="Read off the wrong line.", in_bowl=False).json()
        assert back["state"]["current"] == "weigh-water"
        assert batch.up_to("make-lye")["state"]["current"] == "make-lye"
