"""Batches over HTTP: planned, listed, on paper; moulds beside them."""

import csv
import io

import pytest

from api.batches import LOAF, Batch, plan_json
from conftest import formula_json
from sapolin.core.quantities.text import THOUSANDS


class TestPlanning:
    def test_a_plan_is_calculated_without_being_kept(self, client):
        answer = client.post("/api/batch-plan", json=plan_json())
        assert answer.status_code == 200
        assert answer.json()["planned"]["moulds"][0]["cuts"][0]["bars"] == 9
        assert client.get("/api/batches").json()["batches"] == []

    def test_what_stands_in_the_way_is_said_at_its_place(self, client):
        scent = {"scent": "clove", "percent_of_oils": 3.0, "limit_percent": 0.5}
        answer = client.post("/api/batch-plan", json=plan_json(scents=[scent]))
        assert answer.status_code == 422
        assert answer.json()["error"]["problems"][0]["path"] == "scents[0].percent_of_oils"

    def test_gaps_can_be_kept_and_are_listed_as_open(self, client):
        client.post("/api/batches", json=plan_json(moulds=[]))
        (listed,) = client.get("/api/batches").json()["batches"]
        assert (listed["status"], listed["oils_g"]) == ("open", None)

    def test_saves_elsewhere_are_not_overwritten(self, client, batch):
        changed = {"revision": 1, "plan": plan_json(notes="mine")}
        assert client.put(f"/api/batches/{batch.id}", json=changed).json()["revision"] == 2
        again = client.put(f"/api/batches/{batch.id}", json=changed)
        assert (again.status_code, again.json()["error"]["code"]) == (409, "revision_conflict")

    def test_codes_are_short_and_count_on(self, client):
        codes = [client.post("/api/batches", json=plan_json()).json()["code"] for _ in range(3)]
        assert codes == ["B-101", "B-102", "B-103"]

    def test_archived_and_back(self, client, batch):
        client.delete(f"/api/batches/{batch.id}")
        assert client.get("/api/batches").json()["batches"] == []
        client.post(f"/api/batches/{batch.id}/restore")
        assert len(client.get("/api/batches").json()["batches"]) == 1
        assert client.get("/api/batches/nothing").status_code == 404

    def test_the_list_tells_what_was_begun_and_what_comes_next(self, client, batch):
        run = batch.up_to("weigh-oil:1")
        (listed,) = client.get("/api/batches").json()["batches"]
        oils_g = sum(grams for item, grams in run["state"]["targets_g"].items() if item.startswith("oil:"))
        assert listed["status"] == "making"
        assert listed["oils_g"] == pytest.approx(oils_g)
        assert listed["current"].startswith("Weigh ")
        batch.up_to("nothing")
        batch.send(kind="finished")
        (listed,) = client.get("/api/batches").json()["batches"]
        assert (listed["status"], listed["current"]) == ("made", None)
        assert listed["unmould_hours_low"] < listed["unmould_hours_high"]

    def test_the_list_of_one_formula(self, client):
        first, second = (client.post("/api/formulas", json=formula_json()).json()["id"] for _ in range(2))
        batches = [Batch(client, formula_id=one) for one in (first, first, second)]
        listed = client.get("/api/batches", params={"formula_id": first}).json()["batches"]
        assert {one["id"] for one in listed} == {batch.id for batch in batches[:2]}


class TestSheet:
    def test_temperatures_are_told_in_the_unit_asked_for(self, client, batch):
        address = f"/api/batches/{batch.id}/sheet"
        facts = {fact["name"]: fact["value"] for fact in client.get(address).json()["facts"]}
        window, apart = (part for part in facts["Temperatures"] if isinstance(part, dict))
        assert apart == {"kind": "temperature_difference", "c": pytest.approx(10 / 1.8, abs=0.05)}
        celsius, fahrenheit = (client.get(f"{address}.md", params={"temperature": unit}).text for unit in "CF")
        assert f"{window['c']:.0f} to {window['to_c']:.0f} °C" in celsius
        assert f"{window['c'] * 1.8 + 32:.0f} to {window['to_c'] * 1.8 + 32:.0f} °F" in fahrenheit
        assert "at most 10 °F apart" in fahrenheit
        assert " °C" not in fahrenheit

    def test_pdf_on_both_papers(self, client, batch):
        for paper, size in (("a4", b"595"), ("letter", b"612")):
            answer = client.get(f"/api/batches/{batch.id}/sheet.pdf", params={"paper": paper})
            assert answer.headers["content-type"] == "application/pdf"
            assert answer.content.startswith(b"%PDF")
            assert size in answer.content
            assert 1 <= answer.content.count(b"/Type /Page\n") + answer.content.count(b"/Type /Page ") <= 3

    def test_csv_holds_every_weight_and_adds_up(self, client, batch):
        rows = list(csv.DictReader(io.StringIO(client.get(f"/api/batches/{batch.id}/sheet.csv").text)))
        oils = [float(row["weight_g"]) for row in rows if row["section"] == "Oils"]
        assert sum(oils[:-1]) == pytest.approx(oils[-1])
        names = {row["name"] for row in rows}
        assert {"NaOH", "Water, into the jug", "Everything together"} <= names

    def test_what_is_typed_cannot_become_a_formula_or_markup(self, client):
        formula = formula_json(name="=HYPERLINK(1)|*x*")
        portions = [{"name": "=1+1", "share_percent": 100, "colours": [{"colorant": "mica-blue", "value": 1}]}]
        batch = Batch(client, formula=formula, portions=portions)
        cells = [
            row["name"] for row in csv.DictReader(io.StringIO(client.get(f"/api/batches/{batch.id}/sheet.csv").text))
        ]
        assert "'=1+1: Blue mica" in cells
        assert "# =HYPERLINK(1)\\|\\*x\\*" in client.get(f"/api/batches/{batch.id}/sheet.md").text
        assert client.get(f"/api/batches/{batch.id}/sheet.pdf").status_code == 200

    def test_no_sheet_while_something_stands_in_the_way(self, client):
        batch = Batch(client, moulds=[])
        assert client.get(f"/api/batches/{batch.id}/sheet").status_code == 422


class TestMoulds:
    def test_kept_changed_and_archived(self, client):
        kept = client.put("/api/moulds", json=LOAF).json()
        assert kept["capacity_ml"] == pytest.approx(1400)
        changed = kept["mould"] | {"name": "Long loaf"}
        assert client.put("/api/moulds?revision=1", json=changed).json()["revision"] == 2
        assert [one["mould"]["name"] for one in client.get("/api/moulds").json()] == ["Long loaf"]
        archived = client.delete(f"/api/moulds/{kept['mould']['id']}").json()
        assert client.get("/api/moulds").json() == []
        back = client.put(f"/api/moulds?revision={archived['revision']}", json=archived["mould"]).json()
        assert client.get("/api/moulds").json() == [back]

    def test_absurd_ones_are_refused_in_words(self, client):
        shape = LOAF["shape"] | {"height_mm": 0}
        answer = client.put("/api/moulds", json=LOAF | {"shape": shape})
        assert answer.json()["error"]["problems"][0]["path"] == "shape.height_mm"
        assert client.get("/api/moulds").json() == []


class TestActualSheet:
    def test_after_the_pour_it_tells_what_was_made(self, client):
        batch = Batch(client)
        batch.up_to("weigh-oil:0")
        target = batch.run()["state"]["targets_g"]["oil:0"]
        batch.send(kind="captured", item="oil:0", weight_g=round(target + 1.0, 1), source="typed")
        batch.send(kind="step_done", step="weigh-oil:0")
        batch.up_to("temperatures")
        batch.send(kind="temperature", bowl="lye", celsius=41.0, source="typed")
        batch.send(kind="temperature", bowl="oils", celsius=40.0, source="typed")
        batch.up_to("trace")
        batch.send(kind="traced", stage="light")
        batch.up_to("nothing")
        batch.send(kind="noted", text="It smelled of rain.")
        batch.send(kind="finished")
        batch.send(kind="poured", mould=0, difference_ml=25.0)
        sheet = client.get(f"/api/batches/{batch.id}/sheet").json()
        rows = {row["item"]: row for section in sheet["sections"] for row in section["rows"]}
        assert sheet["made"] is True
        assert float(rows["oil:0"]["weighed_g"].replace(THOUSANDS, "")) == pytest.approx(target + 1, abs=0.06)
        happened = {fact["name"]: fact["value"] for fact in sheet["happened"]}
        assert [part["c"] for part in happened["When they met"] if isinstance(part, dict)] == [40.0, 41.0]
        assert happened["Loaf"] == [{"kind": "number", "value": 25.0, "decimals": 0, "unit": "mL"}, " left over"]
        assert happened["Note"] == ["It smelled of rain."]
        assert happened["Superfat as weighed"][0]["unit"] == "%"
        assert client.get(f"/api/batches/{batch.id}/sheet.pdf").status_code == 200
        fahrenheit = client.get(f"/api/batches/{batch.id}/sheet.md", params={"temperature": "F"}).text
        assert "oils 104 °F, lye 106 °F" in fahrenheit


class TestNewBatch:
    def start(self, client, **changes):
        formula = client.post("/api/formulas", json=formula_json(**changes)).json()["id"]
        return formula, client.get(f"/api/formulas/{formula}/batch-plan").json()

    def test_a_first_batch_has_the_usual_choices(self, client):
        formula, plan = self.start(client)
        assert (plan["formula_id"], plan["moulds"], plan["choices"]["cover"]) == (formula, [], "cover")

    @pytest.mark.parametrize(
        ("liquid", "cover", "ice"), [("goat-milk", "fridge", True), ("lemon-juice", "cover", False)]
    )
    def test_what_scorches_is_kept_cool(self, client, liquid, cover, ice):
        line = {"liquid": liquid, "use": "dissolves_lye", "by": "percent_of_water", "value": 50}
        _, plan = self.start(client, liquids=[line])
        assert (plan["choices"]["cover"], plan["choices"]["ice_bath"]) == (cover, ice)

    def test_a_later_one_is_made_as_the_last_was_but_of_the_formula_as_it_is_now(self, client):
        formula, plan = self.start(client)
        record = client.get(f"/api/formulas/{formula}").json()
        made = plan | {
            "moulds": plan_json()["moulds"],
            "notes": "Only then.",
            "choices": plan["choices"] | {"room_c": 17.0},
        }
        client.post("/api/batches", json=made)
        newer = record["formula"] | {"superfat_percent": 7.0}
        client.put(f"/api/formulas/{formula}", json={"revision": record["revision"], "formula": newer})
        again = client.get(f"/api/formulas/{formula}/batch-plan").json()
        assert (again["choices"]["room_c"], len(again["moulds"]), again["notes"]) == (17.0, 1, "")
        assert again["formula"]["superfat_percent"] == 7.0


def test_the_same_batch_is_planned_again_without_its_day_and_its_notes(client):
    batch = Batch(client, notes="For the fair.", make_on="2031-02-03", choices={"cover": "insulate"})
    again = client.post(f"/api/batches/{batch.id}/again").json()
    before = client.get(f"/api/batches/{batch.id}").json()
    assert again["id"] != batch.id
    assert again["plan"] == before["plan"] | {"notes": "", "make_on": None}
    assert client.post("/api/batches/nothing/again").status_code == 404
