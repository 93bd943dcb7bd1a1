"""Today, what is found by words, the workshop's own settings, and lists by the page."""

from datetime import UTC, date, datetime, timedelta

import pytest

from api.batches import Batch, plan_json
from conftest import formula_json
from sapolin.core.formula.document import Formula
from sapolin.services.lists import sum_up
from sapolin.services.today import today


def kept(client, name: str, shares=None, **changes):
    return client.post("/api/formulas", json=formula_json(shares, name=name, **changes)).json()


class TestToday:
    def test_an_empty_workshop_has_nothing_due(self, client):
        assert client.get("/api/today").json() == {"due": [], "ready": [], "lessons": [], "formulas": 0}

    def test_a_batch_from_plan_to_ready(self, client):
        batch = Batch(client)
        [due] = client.get("/api/today").json()["due"]
        assert (due["kind"], due["batch_id"]) == ("make", batch.id)
        batch.send(kind="started")
        [due] = client.get("/api/today").json()["due"]
        assert (due["kind"], due["at"]) == ("go_on", batch.run()["prepared"]["steps"][0]["title"])
        batch.up_to("")
        batch.send(kind="finished")
        [due] = client.get("/api/today").json()["due"]
        assert (due["kind"], due["standing"]) == ("unmould", "later")
        later = today(client.app.state.stores, datetime.now(UTC) + timedelta(weeks=60))
        assert later.due == ()
        assert [one.batch_id for one in later.ready] == [batch.id]

    def test_a_plan_with_gaps_is_to_be_finished(self, client):
        batch = Batch(client, formula=formula_json({"coconut": None}))
        [due] = client.get("/api/today").json()["due"]
        assert (due["kind"], due["batch_id"]) == ("finish_plan", batch.id)

    def test_lessons_stand_by_the_batch_that_is_planned_next(self, client):
        formula = kept(client, "Bar with a lesson")
        first = Batch(client, formula=formula["formula"], formula_id=formula["id"])
        first.send(kind="started")
        first.send(kind="noted", text="Line the corners twice.", next_time=True)
        assert client.get("/api/today").json()["lessons"] == []
        second = Batch(client, formula=formula["formula"], formula_id=formula["id"])
        [lesson] = client.get("/api/today").json()["lessons"]
        assert (lesson["batch_id"], lesson["notes"]) == (second.id, ["Line the corners twice."])


class TestFind:
    def test_by_name_oil_and_code(self, client):
        alder, birch = kept(client, "Alder bar"), kept(client, "Birch bar", {"lard": 100.0})
        batch = client.post("/api/batches", json=plan_json()).json()

        def found(words):
            return [one["address"] for one in client.get("/api/find", params={"words": words}).json()]

        assert found("alder") == [f"/formulas/{alder['id']}"]
        assert found("lard BAR") == [f"/formulas/{birch['id']}"]
        assert found(batch["code"].lower()) == [f"/batches/{batch['id']}"]
        assert found("nothing of that name") == []
        assert set(found("")) == {f"/formulas/{alder['id']}", f"/formulas/{birch['id']}", f"/batches/{batch['id']}"}


class TestWorkshop:
    def test_what_is_named_is_changed_and_the_rest_stays(self, client):
        tub = {"name": "Blue tub", "lye": "naoh", "purity_percent": 99.2}
        client.patch("/api/workshop", json={"tubs": [tub]})
        client.patch("/api/workshop", json={"emergency_number": " 555 0100 "})
        now = client.get("/api/workshop").json()
        assert (now["tubs"], now["emergency_number"], now["poison_number"]) == ([tub], "555 0100", "")

    @pytest.mark.parametrize(
        ("change", "path", "code"),
        [
            (
                {"tubs": [{"name": "x", "lye": "koh", "purity_percent": 0.9}]},
                "tubs[0].purity_percent",
                "out_of_range_fraction",
            ),
            ({"tubs": [{"name": "x", "lye": "naoh", "purity_percent": 120}]}, "tubs[0].purity_percent", "out_of_range"),
            ({"habits": {"superfat_percent": 60}}, "habits.superfat_percent", "out_of_range"),
            ({"habits": {"water_by": "water_to_lye", "water_value": 40}}, "habits.water_value", None),
        ],
    )
    def test_what_cannot_be_is_refused_with_its_place(self, client, change, path, code):
        answer = client.patch("/api/workshop", json=change)
        assert answer.status_code == 422
        [problem] = answer.json()["error"]["problems"]
        assert problem["path"] == path
        assert code in (None, problem["code"])
        assert client.get("/api/workshop").json()["tubs"] == []

    def test_new_formulas_begin_by_habit_and_never_with_a_purity(self, client):
        habits = {"superfat_percent": 7, "water_by": "water_to_lye", "water_value": 2, "method": "hot"}
        client.patch("/api/workshop", json={"habits": habits, "scale_capacity_g": 3000,
                                            "tubs": [{"name": "x", "lye": "naoh", "purity_percent": 98}]})  # fmt: skip
        blank = client.get("/api/starting-formula").json()
        assert (blank["superfat_percent"], blank["water"]) == (7, {"by": "water_to_lye", "value": 2})
        assert (blank["process"]["method"], blank["lye"]["naoh_purity_percent"]) == ("hot", None)
        formula = kept(client, "Bar")
        plan = client.get(f"/api/formulas/{formula['id']}/batch-plan").json()
        assert plan["choices"]["scale_capacity_g"] == 3000

    def test_each_starter_meets_what_it_is_for_once_its_lye_is_known(self, client):
        starters = client.get("/api/starters").json()
        assert len(starters) == 3
        for starter in starters:
            formula = starter["formula"]
            assert formula["lye"]["naoh_purity_percent"] is None
            formula["lye"]["naoh_purity_percent"] = 99.0
            report = client.post("/api/compute/report", json=formula).json()
            assert report["state"] == "complete"
            assert [one["code"] for one in report["diagnostics"] if one["severity"] != "note"] == []


class TestPages:
    def test_pages_follow_one_another_and_miss_nothing(self, client):
        names = [f"Bar {number:02d}" for number in range(7)]
        for name in names:
            kept(client, name)
        seen = []
        for offset in (0, 3, 6):
            page = client.get("/api/formulas", params={"limit": 3, "offset": offset, "order": "name"}).json()
            assert page["total"] == 7
            seen += [one["name"] for one in page["formulas"]]
        assert seen == names

    def test_by_purpose_and_state(self, client):
        kept(client, "Done")
        kept(client, "Half", {"coconut": 50.0})
        kept(client, "Face", purpose="face")

        def names(**asked):
            return sorted(one["name"] for one in client.get("/api/formulas", params=asked).json()["formulas"])

        assert names(state="incomplete") == ["Half"]
        assert names(purpose="face") == ["Face"]
        assert names(state="complete", purpose="everyday-body") == ["Done"]

    def test_a_save_shows_at_once(self, client):
        record = kept(client, "Bar")
        [listed] = client.get("/api/formulas").json()["formulas"]
        assert (listed["state"], [one["quality"] for one in listed["marks"]][:1]) == ("complete", ["hardness"])
        formula = Formula.model_validate(record["formula"]).model_dump(mode="json") | {"superfat_percent": None}
        client.put(f"/api/formulas/{record['id']}", json={"revision": 1, "formula": formula})
        [listed] = client.get("/api/formulas").json()["formulas"]
        assert (listed["state"], listed["revision"], listed["marks"]) == ("incomplete", 2, [])

    def test_a_version_shows_without_a_save(self, client):
        record = kept(client, "Bar")
        client.get("/api/formulas")
        client.post(f"/api/formulas/{record['id']}/versions", json={"revision": 1})
        assert client.get("/api/formulas").json()["formulas"][0]["latest_version"] == 1

    def test_batches_by_status_and_words(self, client):
        planned, begun = Batch(client), Batch(client)
        begun.send(kind="started")

        def ids(**asked):
            return [one["id"] for one in client.get("/api/batches", params=asked).json()["batches"]]

        assert ids(status="planned") == [planned.id]
        assert ids(status=["planned", "making"]) == [begun.id, planned.id]
        code = client.get(f"/api/batches/{begun.id}").json()["code"]
        assert ids(search=code.lower()) == [begun.id]

    def test_tags_are_found_and_shown(self, client):
        kept(client, "Bar", tags=["winter", "gift box"])
        kept(client, "Other bar")
        [listed] = client.get("/api/formulas", params={"search": "gift"}).json()["formulas"]
        assert (listed["name"], listed["tags"]) == ("Bar", ["winter", "gift box"])
        refused = client.post("/api/formulas", json=formula_json(name="x", tags=["a" * 41]))
        assert refused.status_code == 422


class TestSummingUp:
    def test_a_damaged_beginning_hides_no_other_batch(self, client):
        good, bad = Batch(client), Batch(client)
        for batch in (good, bad):
            batch.send(kind="started")
        with client.app.state.stores.engine.begin() as connection:
            connection.exec_driver_sql("DROP TRIGGER batch_starts_never_change")
            connection.exec_driver_sql(f"UPDATE batch_starts SET content = '{{}}' WHERE batch_id = '{bad.id}'")
        statuses = {one["id"]: one["status"] for one in client.get("/api/batches").json()["batches"]}
        assert statuses == {good.id: "making", bad.id: "unreadable"}

    def test_it_ends_when_the_server_does(self, client):
        stores = client.app.state.stores
        for i in range(3):
            kept(client, f"Bar {i}")
        stores.formulas.forget_summaries()
        sum_up(stores, lambda: False)
        assert len(stores.formulas.unsummed(10)) == 3
        sum_up(stores)
        assert stores.formulas.unsummed(10) == []

    def test_two_changes_of_the_workshop_at_once_keep_both(self, client):
        store = client.app.state.stores.workshop
        store.change(emergency_number="555 0100")
        store.change(scale_capacity_g=3000.0)
        now = store.get()
        assert (now.emergency_number, now.scale_capacity_g) == ("555 0100", 3000.0)


def test_no_batch_is_too_many_to_be_counted(client):
    """What is promised and due is summed over all of them."""
    for _ in range(3):
        plan = plan_json(size={"by": "oils_g", "value": 1000.0}, moulds=[], make_on=str(date.today()))
        for _ in range(40):
            assert client.post("/api/batches", json=plan).status_code == 201
    olive = next(one for one in client.get("/api/stock").json()["materials"] if one["material"] == "olive-refined")
    assert olive["promised_g"] == pytest.approx(120 * 700, rel=1e-3)
    assert len([one for one in client.get("/api/today").json()["due"] if one["kind"] == "make"]) == 120
