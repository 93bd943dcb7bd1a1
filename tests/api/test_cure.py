"""After the pour, over HTTP: from the mould to the last bar, two devices, trays, labels, and what is told of the demo."""

from datetime import UTC, datetime, timedelta
from uuid import uuid4

import pytest

from api.batches import Batch
from api.begun import TRAY
from api.conftest import client_on
from conftest import formula_json
from sapolin.core.quantities import coefficients
from sapolin.core.quantities.text import plain
from sapolin.exchange.tray_label import TrayLabel, tray_label_pdf
from sapolin.services.today import today


def send(client, batch_id: str, *, key: str = "", at: datetime | None = None, after_seq: int | None = None, **event):
    body = {"key": key or uuid4().hex, "event": event, "after_seq": after_seq, "at": at and at.isoformat()}
    return client.post(f"/api/batches/{batch_id}/cure/events", json=body)


def view_of(client, batch_id: str):
    return client.get(f"/api/batches/{batch_id}/cure").json()


def refused(answer) -> str:
    assert answer.status_code == 422, answer.json()
    return answer.json()["error"]["problems"][0]["code"]


class TestFromTheMouldToTheLastBar:
    def test_a_whole_life(self, client, made_batch):
        view = send(client, made_batch.id, kind="unmoulded", sure=True, how="clean").json()
        assert view["drying"] is None
        planned = sum(one["bars"] for one in view["planned"])
        assert planned > 0
        view = send(client, made_batch.id, kind="cut", sure=True, bars=planned, samples=1).json()
        assert view["here"] == planned - 1
        assert view["drying"]["weighings"] == 0
        wet_g = view["planned"][0]["wet_g"]
        assert view["drying"]["start_g"] == pytest.approx(wet_g)
        view = send(client, made_batch.id, kind="placed", bars=planned - 1, tray="R1").json()
        assert view["state"]["trays"] == {"R1": planned - 1}
        [tray] = client.get("/api/trays").json()
        assert (tray["bars"], tray["free"]) == (planned - 1, 12 - planned + 1)
        view = send(client, made_batch.id, kind="weighed", mark="A", weight_g=wet_g * 0.99, source="typed").json()
        assert view["drying"]["bars"] == 1
        assert refused(send(client, made_batch.id, kind="left", bars=1, to="sold", tray="R1")) == "not_fit_untested"
        view = send(client, made_batch.id, kind="fit_tested", sure=True, ph=9.5).json()
        assert view["fit"] == "fit"
        view = send(
            client, made_batch.id, kind="left", bars=planned - 1, to="sold", tray="R1", where="Larch Hut"
        ).json()
        assert view["here"] == 0
        assert [stage["stage"] for stage in view["life"] if stage["at"]] == [
            "planned",
            "made",
            "unmoulded",
            "cut",
            "fit",
            "gone",
        ]

    def test_a_whole_tray_is_weighed_at_once_and_counts_by_the_bar(self, client, made_batch):
        wet_g = view_of(client, made_batch.id)["planned"][0]["wet_g"]
        send(client, made_batch.id, kind="cut", sure=True, bars=6)
        send(client, made_batch.id, kind="placed", bars=6, tray="R1")
        weighed = {"kind": "weighed", "mark": "R1", "source": "typed"}
        assert refused(send(client, made_batch.id, **weighed, bars=7, weight_g=7 * wet_g)) == "not_so_many_here"
        assert refused(send(client, made_batch.id, **weighed, bars=6, weight_g=wet_g)) == "unlike_the_plan"
        [one] = send(client, made_batch.id, **weighed, bars=6, weight_g=6 * wet_g).json()["state"]["weighings"]
        assert one["weight_g"] == pytest.approx(wet_g)
        assert refused(send(client, made_batch.id, **weighed, bars=6, weight_g=6.1 * wet_g)) == "heavier_than_before"

    def test_nothing_can_be_recorded_before_the_pour(self, client):
        batch = Batch(client)
        assert refused(send(client, batch.id, kind="pressed", firmness="soft")) == "not_poured"
        assert view_of(client, batch.id)["poured_at"] is None

    def test_a_press_is_asked_about_when_it_cannot_be(self, client, made_batch):
        before = view_of(client, made_batch.id)
        later = datetime.fromisoformat(before["unmould_to"]) + timedelta(hours=1)
        assert refused(send(client, made_batch.id, kind="pressed", firmness="soft", at=later)) == "in_the_future"
        assert refused(send(client, made_batch.id, kind="pressed", firmness="firm")) == "firm_so_soon"
        assert send(client, made_batch.id, kind="pressed", firmness="firm", sure=True).json()["unmould"]["can_now"]

    def test_faults_are_told_with_causes_from_the_record(self, client, made_batch):
        view = send(client, made_batch.id, kind="seen", fault="ash", where="outside").json()
        [fault] = view["faults"]
        assert fault["symptom"]["id"] == "ash"
        assert "unsprayed" not in [
            cause["cause"] for cause in fault["causes"] if cause["percent"] > cause["prior_percent"]
        ]
        assert all(plain(tuple(cause["next_time"])) for cause in fault["causes"])

    def test_over_the_limit_says_what_to_do(self, client, made_batch):
        send(client, made_batch.id, kind="cut", sure=True, bars=3)
        young = send(client, made_batch.id, kind="fit_tested", sure=True, ph=11.6).json()
        assert young["fit"] == "unfit"
        assert "test again in two weeks" in "".join(part for part in young["fit_words"] if isinstance(part, str))
        wait = send(client, made_batch.id, kind="fit_tested", sure=True, ph=10.7).json()
        assert wait["fit"] == "wait"

    def test_notes_for_next_time_come_back_with_the_formula(self, client):
        formula = client.post("/api/formulas", json=Batch(client).run()["record"]["plan"]["formula"]).json()
        batch = Batch(client, formula=formula["formula"], formula_id=formula["id"])
        batch.send(kind="started")
        batch.up_to("")
        batch.send(kind="finished")
        send(client, batch.id, kind="noted", text="Cut it an hour earlier.", next_time=True)
        assert [one["text"] for one in client.get(f"/api/formulas/{formula['id']}/next-time").json()] == [
            "Cut it an hour earlier."
        ]


class TestRecording:
    def test_the_same_key_adds_nothing_twice(self, client, made_batch):
        for _ in range(3):
            view = send(client, made_batch.id, key="the-same-key", kind="room", celsius=18.0).json()
        assert len(view["events"]) == 1

    def test_two_devices_do_not_fill_a_tray_twice(self, client, made_batch):
        send(client, made_batch.id, kind="cut", bars=9, sure=True)
        assert send(client, made_batch.id, kind="placed", bars=9, tray="R1").status_code == 200
        assert refused(send(client, made_batch.id, kind="placed", bars=9, tray="R1")) == "none_on_no_tray"

    def test_a_device_that_is_behind_is_told(self, client, made_batch):
        send(client, made_batch.id, kind="room", celsius=18.0)
        answer = send(client, made_batch.id, kind="room", celsius=18.0, after_seq=0)
        assert (answer.status_code, answer.json()["error"]["code"]) == (409, "stale")

    def test_a_slip_is_struck_and_stays_in_the_record(self, client, made_batch):
        send(client, made_batch.id, kind="cut", bars=5, sure=True)
        view = send(client, made_batch.id, kind="struck", seq=1, reason="counted the wrong loaf").json()
        assert view["struck"] == [1]
        assert view["state"]["cut_at"] is None
        assert len(view["events"]) == 2
        assert send(client, made_batch.id, kind="cut", bars=6, sure=True).json()["here"] == 6

    @pytest.mark.parametrize(
        "event",
        [
            {"kind": "weighed", "mark": "A", "weight_g": "much", "source": "typed"},
            {"kind": "cut", "bars": -1},
            {"kind": "cut", "bars": 1.5},
            {"kind": "placed", "bars": 0, "tray": "R1"},
            {"kind": "pressed", "firmness": "like butter"},
            {"kind": "noted", "text": ""},
            {"kind": "melted"},
            {"kind": "weighed", "mark": "A\u0000", "weight_g": 1, "source": "typed"},
        ],
    )
    def test_what_cannot_be_read_is_refused_in_words(self, client, made_batch, event):
        answer = send(client, made_batch.id, **event)
        assert answer.status_code == 422
        said = "".join(part for part in answer.json()["error"]["problems"][0]["message"] if isinstance(part, str))
        assert "pydantic" not in said.lower()
        assert view_of(client, made_batch.id)["events"] == []

    def test_a_time_has_a_time_zone(self, client, made_batch):
        body = {"key": "no-zone-123", "at": "2026-03-01T12:00:00", "event": {"kind": "room", "celsius": 18.0}}
        answer = client.post(f"/api/batches/{made_batch.id}/cure/events", json=body)
        assert answer.json()["error"]["code"] == "no_time_zone"

    def test_an_unknown_batch_is_not_found(self, client):
        assert client.get("/api/batches/nobody/cure").status_code == 404
        assert send(client, "nobody", kind="room", celsius=18.0).status_code == 404

    def test_the_record_only_grows(self, client, made_batch):
        send(client, made_batch.id, kind="room", celsius=18.0)
        engine = client.app.state.stores.engine
        for statement in ("UPDATE cure_events SET at = 'x'", "DELETE FROM cure_events"):
            with pytest.raises(Exception, match="only grows"), engine.begin() as connection:
                connection.exec_driver_sql(statement)


class TestTrays:
    def test_a_tray_is_kept_changed_and_taken_away(self, client, made_batch):
        refused = client.put("/api/trays/R1", json=TRAY | {"rows": 1})
        assert (refused.status_code, refused.json()["error"]["code"]) == (409, "code_taken")
        assert client.put("/api/trays/R1?revision=1", json=TRAY | {"shelf": "Door"}).json()["shelf"] == "Door"
        late = client.put("/api/trays/R1?revision=1", json=TRAY | {"shelf": "Window"})
        assert (late.status_code, late.json()["error"]["code"]) == (409, "changed_elsewhere")
        (tray,) = client.get("/api/trays").json()
        assert (tray["tray"]["shelf"], tray["revision"]) == ("Door", 2)
        assert client.delete("/api/trays/R1").status_code == 204
        assert client.get("/api/trays").json() == []
        # Its code is free again.
        assert client.put("/api/trays/R1", json=TRAY).status_code == 200
        assert client.delete("/api/trays/R9").status_code == 404

    def test_with_bars_on_it_it_stays(self, client, made_batch):
        send(client, made_batch.id, kind="cut", bars=9, sure=True)
        send(client, made_batch.id, kind="placed", bars=9, tray="R1")
        assert client.delete("/api/trays/R1").status_code == 409
        assert client.put("/api/trays/R1?revision=1", json=TRAY | {"rows": 2}).json()["error"]["code"] == "tray_in_use"

    @pytest.mark.parametrize("change", [{"columns": 0}, {"rows": 99}, {"code": "R2"}, {"code": ""}])
    def test_what_is_no_tray_is_refused(self, client, change):
        assert client.put("/api/trays/R1", json=TRAY | change).status_code == 422

    def test_places_become_free_when_bars_are_ready(self, client, made_batch):
        send(client, made_batch.id, kind="cut", bars=9, sure=True)
        send(client, made_batch.id, kind="placed", bars=9, tray="R1")
        far = (datetime.now(UTC) + timedelta(days=200)).isoformat()
        assert client.get("/api/trays", params={"on": far}).json()[0]["free"] == 12
        assert client.get("/api/trays", params={"on": datetime.now(UTC).isoformat()}).json()[0]["free"] == 3

    @pytest.mark.parametrize("size", ["label", "a4"])
    def test_a_label_is_a_page(self, client, made_batch, size):
        send(client, made_batch.id, kind="cut", bars=9, sure=True)
        answer = client.get(f"/api/batches/{made_batch.id}/tray-label.pdf", params={"size": size, "tray": "R1"})
        assert answer.headers["content-type"] == "application/pdf"
        assert answer.content.startswith(b"%PDF")
        assert answer.content.count(b"/Type /Page\n") == 1


@pytest.mark.parametrize("size", ["label", "a4"])
@pytest.mark.parametrize(
    "name", ["Bar", "W" * 120, "A bar with many words in its name " * 3, "Мыло с ромашкой " * 7, "<b>&"]
)
def test_a_label_takes_any_name(size, name):
    label = TrayLabel(
        code="B-1000", name=name[:120], tray="WINDOWTOP-12", bars=120, made=None, cut=None, ready_from=None,
        address="http://192.168.100.200:8719/batches/" + "a" * 32 + "/cure",
    )  # fmt: skip
    assert tray_label_pdf(label, size).count(b"/Type /Page\n") == 1


class TestTheDemo:
    def test_it_has_batches_at_every_stage(self, demo):
        day = today(demo.app.state.stores)
        kinds = {due.kind for due in (*day.due, *day.ready)}
        assert {"go_on", "unmould", "unfit", "fit_test", "weigh", "turn", "look", "curing", "fit", "make"} <= kinds

    def test_the_one_with_ash_has_its_cause_on_record(self, demo):
        [batch] = [one for one in demo.get("/api/batches").json()["batches"] if one["code"] == "B-098"]
        [fault] = view_of(demo, batch["id"])["faults"]
        assert fault["causes"][0]["reasons"][0]["from_record"]

    def test_the_one_that_failed_is_not_sold(self, demo):
        [batch] = [one for one in demo.get("/api/batches").json()["batches"] if one["code"] == "B-094"]
        view = view_of(demo, batch["id"])
        assert view["fit"] == "unfit"
        assert refused(send(demo, batch["id"], kind="left", bars=1, to="sold", tray="R5")) == "not_fit_unfit"

    def test_dates_told_in_the_record_are_no_later_than_now(self, demo):
        now = datetime.now(UTC)
        for batch in demo.get("/api/batches").json()["batches"]:
            if batch["status"] == "made":
                assert all(datetime.fromisoformat(one["at"]) <= now for one in view_of(demo, batch["id"])["events"])


class TestLearning:
    def ready(self, client, code):
        [batch] = [one for one in client.get("/api/batches").json()["batches"] if one["code"] == code]
        return batch["id"], batch["cure"]["ready_at"], view_of(client, batch["id"])

    def test_other_batches_move_the_forecast_until_it_is_switched_off(self, demo):
        _, _, by_bars = self.ready(demo, "B-097")
        assert by_bars["taught"]["time"]["batches"] == 3
        assert demo.patch("/api/workshop", json={"learns": False}).json()["learns"] is False
        _, _, by_rule = self.ready(demo, "B-097")
        assert not by_rule["taught"]["is_used"]
        assert by_rule["ready_at"] != by_bars["ready_at"]

    def test_lists_and_the_batch_tell_the_same_day(self, demo):
        for code in ("B-096", "B-097", "B-098"):
            _, listed, view = self.ready(demo, code)
            assert datetime.fromisoformat(listed) == datetime.fromisoformat(view["ready_at"])

    def test_a_weighing_elsewhere_moves_the_others_too(self, demo):
        other, _, _ = self.ready(demo, "B-095")
        _, before, _ = self.ready(demo, "B-097")
        send(demo, other, kind="weighed", mark="A", weight_g=103.0, source="typed", sure=True)
        _, listed, view = self.ready(demo, "B-097")
        assert listed != before
        assert datetime.fromisoformat(listed) == datetime.fromisoformat(view["ready_at"])


class TestTheCalendar:
    def test_it_tells_what_is_due_and_what_comes(self, demo):
        from icalendar import Calendar

        answer = demo.get("/api/calendar.ics")
        assert answer.headers["content-type"].startswith("text/calendar")
        events = Calendar.from_ical(answer.content).walk("VEVENT")
        said = [str(event["summary"]) for event in events]
        assert "Unmould: Hut guest bar B-100" in said
        assert "Turn the bars: Nut-free winter body bar B-096" in said
        # It is not dry yet, and will be within six weeks.
        assert "Test before use: Galley block B-097" in said
        assert len({str(event["uid"]) for event in events}) == len(events)
        assert all(event["dtstart"].dt >= datetime.now(UTC) for event in events)
        assert all(event.walk("VALARM") for event in events)

    def test_a_thing_keeps_its_identity(self, demo):
        first, second = (demo.get("/api/calendar.ics").text for _ in range(2))
        assert [line for line in first.splitlines() if line.startswith("UID")] == [
            line for line in second.splitlines() if line.startswith("UID")
        ]

    def test_a_name_cannot_break_out_of_its_line(self, client):
        batch = Batch(client, formula=formula_json(name="Bar\\, with; signs"))
        lines = client.get("/api/calendar.ics").text.splitlines()
        [summary] = [line for line in lines if line.startswith("SUMMARY")]
        assert summary.startswith("SUMMARY:Make day: Bar")
        assert "\\;" in summary
        assert batch.id in client.get("/api/calendar.ics").text


class TestPuttingOff:
    def test_until_a_time_and_back(self, demo):
        def kinds(code):
            return {one["kind"] for one in demo.get("/api/today").json()["due"] if one["code"] == code}

        [batch] = [one for one in demo.get("/api/batches").json()["batches"] if one["code"] == "B-096"]
        what = {"batch_id": batch["id"], "kind": "turn"}
        assert kinds("B-096") == {"turn", "curing"}
        far = (datetime.now(UTC) + timedelta(days=1)).isoformat()
        assert demo.post("/api/today/put-off", json=what | {"until": far}).status_code == 200
        assert kinds("B-096") == {"curing"}
        past = (datetime.now(UTC) - timedelta(minutes=1)).isoformat()
        demo.post("/api/today/put-off", json=what | {"until": past})
        assert kinds("B-096") == {"turn", "curing"}
        demo.post("/api/today/put-off", json=what | {"until": far})
        demo.post("/api/today/put-off", json=what | {"until": None})
        assert kinds("B-096") == {"turn", "curing"}

    def test_what_cannot_be_is_refused(self, client):
        far = (datetime.now(UTC) + timedelta(days=1)).isoformat()
        for what, status in (
            ({"batch_id": "nobody", "kind": "turn", "until": far}, 404),
            ({"batch_id": "nobody", "kind": "melt", "until": far}, 422),
            ({"batch_id": "nobody", "kind": "turn", "until": "2031-01-01T00:00:00"}, 422),
        ):
            assert client.post("/api/today/put-off", json=what).status_code == status

    def test_soap_in_its_mould_does_not_wait(self, demo):
        due = demo.get("/api/today").json()["due"]
        mould = next(one for one in due if one["kind"] == "unmould")
        assert not mould["may_wait"]
        far = (datetime.now(UTC) + timedelta(days=1)).isoformat()
        refused = demo.post("/api/today/put-off", json={"batch_id": mould["batch_id"], "kind": "unmould", "until": far})
        assert (refused.status_code, refused.json()["error"]["code"]) == (422, "cannot_wait")
        assert mould in demo.get("/api/today").json()["due"]
        # What only comes later is not put off either; what is due and does no harm is.
        assert {(one["kind"], one["may_wait"]) for one in due if one["kind"] in ("turn", "curing")} >= {
            ("turn", True), ("curing", False)
        }  # fmt: skip


def test_a_paste_has_no_mould_but_a_test_before_use(demo):
    listed = demo.get("/api/formulas", params={"search": "Wool-wash paste"}).json()["formulas"]
    found = next(one for one in listed if one["name"] == "Wool-wash paste")
    formula = demo.get(f"/api/formulas/{found['id']}").json()["formula"]
    batch = Batch(demo, formula=formula, moulds=[], size={"by": "oils_g", "value": 600})
    batch.send(kind="started")
    batch.up_to("")
    batch.send(kind="finished")
    view = view_of(demo, batch.id)
    assert not view["is_bar"]
    assert view["unmould"] is None
    assert send(demo, batch.id, kind="fit_tested", sure=True, ph=9.8).json()["fit"] == "fit"


def test_rules_of_thumb_that_change_later_move_nothing_of_a_batch_that_began(client, database, fit_batch, monkeypatch):
    at = f"/api/batches/{fit_batch.id}/cure"
    moving = {"now", "drying", "events"}
    before = {name: value for name, value in client.get(at).json().items() if name not in moving}
    dry = client.get(at).json()["drying"]["ready_day"]
    listed = client.get("/api/batches").json()["batches"][0]["cure"]
    shipped = dict(coefficients.coefficient_values())
    monkeypatch.setattr(
        coefficients, "coefficient_values", lambda: {name: value * 1.5 for name, value in shipped.items()}
    )
    with client_on(database) as later:
        after = later.get(at).json()
        assert {name: value for name, value in after.items() if name not in moving} == before
        assert after["drying"]["ready_day"] == pytest.approx(dry, abs=1e-6)
        assert later.get("/api/batches").json()["batches"][0]["cure"] == listed
