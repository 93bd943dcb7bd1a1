"""Formulas as kept: nothing acknowledged is lost, nothing is overwritten unasked."""

import json
import sqlite3

import pytest
from jsonschema import Draft202012Validator

from api.conftest import client_on
from conftest import formula_json
from sapolin.exchange.formula_document import document_schema


def create(client, **changes) -> dict:
    answer = client.post("/api/formulas", json=formula_json(**changes))
    assert answer.status_code == 201
    return answer.json()


def save(client, record, formula, revision=None):
    body = {"revision": record["revision"] if revision is None else revision, "formula": formula}
    return client.put(f"/api/formulas/{record['id']}", json=body)


def test_created_saved_and_found_again_after_a_restart(client, database):
    record = create(client)
    saved = save(client, record, record["formula"] | {"superfat_percent": 7.0}).json()
    assert saved["revision"] == record["revision"] + 1
    with client_on(database) as restarted:
        again = restarted.get(f"/api/formulas/{record['id']}").json()
    assert again == saved
    assert again["formula"]["superfat_percent"] == 7.0


def test_unfinished_work_is_kept_as_it_is(client):
    unfinished = create(client, superfat_percent=None, lye={"naoh_purity_percent": None})
    again = client.get(f"/api/formulas/{unfinished['id']}").json()
    assert again["formula"]["superfat_percent"] is None
    assert client.get("/api/formulas").json()["formulas"][0]["state"] == "incomplete"


def test_impossible_results_are_kept_but_called_so(client):
    create(client, superfat_percent=90.0)
    assert client.get("/api/formulas").json()["formulas"][0]["state"] == "impossible"


def test_the_second_of_two_tabs_is_refused(client):
    record = create(client)
    first = save(client, record, record["formula"] | {"name": "First tab"})
    second = save(client, record, record["formula"] | {"name": "Second tab"})
    assert first.status_code == 200
    assert (second.status_code, second.json()["error"]["code"]) == (409, "revision_conflict")
    assert client.get(f"/api/formulas/{record['id']}").json()["formula"]["name"] == "First tab"


def test_duplicate_archived_and_restore(client):
    record = create(client)
    copy = client.post(f"/api/formulas/{record['id']}/duplicate", json={"name": "A copy"}).json()
    assert copy["formula"] == record["formula"] | {"name": "A copy"}
    client.delete(f"/api/formulas/{record['id']}")
    assert [entry["name"] for entry in client.get("/api/formulas").json()["formulas"]] == ["A copy"]
    assert [entry["id"] for entry in client.get("/api/formulas?deleted=true").json()["formulas"]] == [record["id"]]
    refused = save(client, record, record["formula"])
    assert (refused.status_code, refused.json()["error"]["code"]) == (410, "deleted")
    restored = client.post(f"/api/formulas/{record['id']}/restore").json()
    assert restored["formula"] == record["formula"]
    assert len(client.get("/api/formulas").json()["formulas"]) == 2


def test_search_looks_at_names_notes_and_oils(client):
    create(client, name="Morning bar", notes="smells of rain")
    create(client, name="Night_bar 100%")

    def names(words: str) -> list[str]:
        return sorted(
            entry["name"] for entry in client.get("/api/formulas", params={"search": words}).json()["formulas"]
        )

    assert names("MORNING") == ["Morning bar"]
    assert names("rain bar") == ["Morning bar"]
    assert names("coconut") == ["Morning bar", "Night_bar 100%"]
    assert names("100%") == ["Night_bar 100%"]
    assert names("t_b") == ["Night_bar 100%"]
    assert names("share_percent") == []


class TestVersions:
    def test_kept_versions_never_change(self, client):
        record = create(client)
        path = f"/api/formulas/{record['id']}/versions"
        first = client.post(path, json={"revision": 1, "note": "as first made"}).json()
        assert (first["number"], first["note"]) == (1, "as first made")
        save(client, record, record["formula"] | {"superfat_percent": 8.0})
        second = client.post(path, json={"revision": 2}).json()
        kept = client.get(path).json()
        assert [version["number"] for version in kept] == [2, 1]
        assert [version["formula"]["superfat_percent"] for version in kept] == [8.0, 5.0]
        assert second["formula"]["superfat_percent"] == 8.0
        assert client.get(f"/api/formulas/{record['id']}").json()["latest_version"] == 2

    def test_what_cannot_be_calculated_is_no_version(self, client):
        record = create(client, superfat_percent=None)
        answer = client.post(f"/api/formulas/{record['id']}/versions", json={"revision": 1})
        assert answer.status_code == 422
        assert answer.json()["error"]["problems"][0]["path"] == "superfat_percent"

    def test_a_version_of_another_revision_is_refused(self, client):
        record = create(client)
        save(client, record, record["formula"])
        answer = client.post(f"/api/formulas/{record['id']}/versions", json={"revision": 1})
        assert answer.status_code == 409

    def test_no_such_formula(self, client):
        for answer in (client.get("/api/formulas/none"), client.get("/api/formulas/none/versions")):
            assert (answer.status_code, answer.json()["error"]["code"]) == (404, "not_found")


class TestDocuments:
    def test_written_and_read_back(self, client):
        record = create(client, notes="Grüße, 100 % “soap”\n")
        written = client.get(f"/api/formulas/{record['id']}/document")
        assert "attachment" in written.headers["content-disposition"]
        Draft202012Validator(document_schema()).validate(written.json())
        read = client.post("/api/formulas/import", content=written.content).json()
        assert read["formula"] == record["formula"]
        assert read["id"] != record["id"]

    @pytest.mark.parametrize(
        "change",
        [{"format": "other"}, {"format_version": 3}, {"superfat": 5}, {"superfat_percent": "5"}, {"lye": None}],
    )
    def test_crooked_documents_are_refused_by_reader_and_schema_alike(self, client, change):
        document = {"format": "sapolin-formula", "format_version": 2, **formula_json()} | change
        assert not Draft202012Validator(document_schema()).is_valid(document)
        answer = client.post("/api/formulas/import", content=json.dumps(document))
        assert answer.status_code == 422
        assert answer.json()["error"]["problems"]
        assert client.get("/api/formulas").json()["formulas"] == []


class TestDemo:
    def test_a_new_demo_holds_the_demo_world(self, demo):
        formulas = demo.get("/api/formulas").json()["formulas"]
        assert len(formulas) >= 6
        assert formulas[0]["name"] == "Hut guest bar"
        assert formulas[0]["latest_version"] == 3
        assert {"complete", "incomplete"} <= {formula["state"] for formula in formulas}

    def test_reset_brings_it_back(self, demo):
        before = [entry["name"] for entry in demo.get("/api/formulas").json()["formulas"]]
        for entry in demo.get("/api/formulas").json()["formulas"]:
            demo.delete(f"/api/formulas/{entry['id']}")
        create(demo, name="Mine")
        assert demo.post("/api/demo/reset", json={"confirm": False}).status_code == 422
        assert demo.post("/api/demo/reset", json={"confirm": True}).status_code == 200
        assert [entry["name"] for entry in demo.get("/api/formulas").json()["formulas"]] == before

    def test_own_data_cannot_be_reset(self, client):
        create(client)
        answer = client.post("/api/demo/reset", json={"confirm": True})
        assert (answer.status_code, answer.json()["error"]["code"]) == (403, "not_demo")
        assert len(client.get("/api/formulas").json()["formulas"]) == 1


def test_the_database_is_written_through(database, client):
    create(client)
    with sqlite3.connect(database) as connection:
        assert connection.execute("PRAGMA journal_mode").fetchone() == ("wal",)
        assert connection.execute("SELECT count(*) FROM formulas").fetchone() == (1,)
        assert connection.execute("SELECT version_num FROM alembic_version").fetchone() == ("0022",)


class TestAnotherBarInItsPlace:
    """The draft is never overwritten: it is a version before anything takes its place."""

    def other(self, **changes):
        return formula_json(name="Swapped bar", superfat_percent=8.0, **changes)

    def test_a_draft_without_a_version_is_kept_as_one_first(self, client):
        record = create(client)
        adopted = client.post(
            f"/api/formulas/{record['id']}/adopt",
            json={"revision": record["revision"], "formula": self.other(), "note": "palm out"},
        ).json()
        assert adopted["record"]["formula"]["superfat_percent"] == 8.0
        versions = client.get(f"/api/formulas/{record['id']}/versions").json()
        assert [version["number"] for version in versions] == [2, 1]
        assert versions[1]["formula"] == record["formula"]
        assert (versions[0]["note"], versions[0]["formula"]["superfat_percent"]) == ("palm out", 8.0)
        assert adopted["draft_version"]["number"] == 1

    def test_an_empty_draft_is_nothing_to_keep(self, client):
        record = create(client, blend={"total_oils_g": 1000.0, "lines": []})
        address = f"/api/formulas/{record['id']}"
        adopted = client.post(f"{address}/adopt", json={"revision": record["revision"], "formula": self.other()}).json()
        assert (adopted["draft_version"], adopted["version"]["number"]) == (None, 1)

    def test_a_draft_that_is_the_newest_version_is_not_kept_twice(self, client):
        record = create(client)
        address = f"/api/formulas/{record['id']}"
        client.post(f"{address}/versions", json={"revision": record["revision"], "note": "first"})
        adopted = client.post(f"{address}/adopt", json={"revision": record["revision"], "formula": self.other()}).json()
        assert (adopted["draft_version"], adopted["version"]["number"]) == (None, 2)

    def test_an_unfinished_draft_is_kept_too(self, client):
        record = create(client, superfat_percent=None)
        address = f"/api/formulas/{record['id']}"
        client.post(f"{address}/adopt", json={"revision": record["revision"], "formula": self.other()})
        assert client.get(f"{address}/versions").json()[1]["formula"]["superfat_percent"] is None

    def test_what_is_still_to_be_entered_in_becomes_the_draft_and_no_version(self, client):
        record = create(client)
        address = f"/api/formulas/{record['id']}"
        koh = {"by": "saponification_percent", "value": 40.0, "purity_percent": None}
        opened = self.other() | {"lye": {"naoh_purity_percent": 99.0, "koh": koh}}
        adopted = client.post(f"{address}/adopt", json={"revision": record["revision"], "formula": opened}).json()
        assert adopted["version"] is None
        assert adopted["record"]["formula"]["lye"]["koh"]["value"] == 40
        # What was there is kept all the same.
        assert len(client.get(f"{address}/versions").json()) == 1

    def test_what_is_impossible_takes_no_place(self, client):
        record = create(client)
        address = f"/api/formulas/{record['id']}"
        impossible = {"revision": record["revision"], "formula": self.other() | {"superfat_percent": 90.0}}
        assert client.post(f"{address}/adopt", json=impossible).status_code == 422
        assert client.get(f"{address}/versions").json() == []

    def test_saved_elsewhere_meanwhile_nothing_happens(self, client):
        record = create(client)
        address = f"/api/formulas/{record['id']}"
        client.put(address, json={"revision": record["revision"], "formula": formula_json(notes="newer")})
        stale = {"revision": record["revision"], "formula": self.other()}
        assert client.post(f"{address}/adopt", json=stale).status_code == 409
        assert client.get(f"{address}/versions").json() == []
        assert client.get(address).json()["formula"]["notes"] == "newer"

    def test_going_back_keeps_what_was_there(self, client):
        record = create(client)
        address = f"/api/formulas/{record['id']}"
        client.post(f"{address}/versions", json={"revision": record["revision"], "note": "first"})
        saved = client.put(address, json={"revision": record["revision"], "formula": self.other()}).json()
        back = client.post(f"{address}/versions/1/return", json={"revision": saved["revision"]}).json()
        assert back["record"]["formula"] == record["formula"]
        assert (back["draft_version"]["number"], back["draft_version"]["formula"]["superfat_percent"]) == (2, 8.0)
        assert (
            client.post(f"{address}/versions/9/return", json={"revision": back["record"]["revision"]}).status_code
            == 404
        )

    def test_an_unfinished_formula_is_no_error_while_it_is_written(self, client):
        live = client.post("/api/compute/report", json=formula_json(superfat_percent=None))
        assert live.status_code == 200
        assert live.json()["result"] is None
        assert [problem["code"] for problem in live.json()["diagnostics"]] == ["missing"]
        assert client.post("/api/compute/report", json=formula_json()).json()["result"]["lye"]["naoh_g"] > 0

    def test_a_kept_formula_says_what_the_same_formula_sent_along_says(self, client):
        record = create(client)
        address = f"/api/formulas/{record['id']}"
        for formula in (formula_json(superfat_percent=8.0), formula_json(superfat_percent=None)):
            record = client.put(address, json={"revision": record["revision"], "formula": formula}).json()
            kept = client.get(f"{address}/report", params={"weight_unit": "oz"}).json()
            sent = client.post("/api/compute/report", params={"weight_unit": "oz"}, json=formula).json()
            assert kept == sent | {"revision": record["revision"]}
        assert client.get("/api/formulas/none/report").status_code == 404


def test_no_word_of_a_library_and_no_path_is_in_a_message(client):
    asked = client.post(
        "/api/swap", json={"formula": formula_json(), "outgoing": [{"oil": "palm", "keep_percent": -3}]}
    )
    none = client.post("/api/swap", json={"formula": formula_json(), "outgoing": []})
    odd = client.post("/api/formulas", json=formula_json(superfat_percent=[]) | {"purpose": 7})
    for answer in (asked, none, odd):
        assert answer.status_code == 422
        for problem in answer.json()["error"]["problems"]:
            assert not any(
                sign in str(part)
                for part in (*problem["message"], *problem["remedy"])
                if isinstance(part, str)
                for sign in ("[", "Tuple", "Input", "_", "should")
            )
    assert asked.json()["error"]["problems"][0]["message"] == ["The share that may stay is too small."]
    assert none.json()["error"]["problems"][0]["message"] == ["The oil that goes has no entries."]


class TestRecipes:
    def test_a_recipe_is_read_and_made_a_formula(self, client):
        read = client.post("/api/recipes/read", json={"text": "coconut oil 10 oz, lard 1 lb\nsuperfat 4 %"}).json()
        assert [(line["kind"], line["oil"]) for line in read["lines"]] == [
            ("oil", "coconut"), ("oil", "lard"), ("superfat", None),
        ]  # fmt: skip
        oils = [{"oil": line["oil"], "amount": line["amount"], "unit": line["unit"]} for line in read["lines"][:2]]
        asked = {"name": "Paper", "oils": oils, "superfat_percent": read["superfat_percent"]}
        formula = client.post("/api/recipes/formula", json=asked).json()
        assert formula["superfat_percent"] == 4.0
        assert client.post("/api/formulas", json=formula).status_code == 201

    def test_too_much_and_nothing_are_refused_in_words(self, client):
        assert client.post("/api/recipes/read", json={"text": "x" * 8001}).status_code == 422
        nothing = client.post("/api/recipes/formula", json={"name": "Paper", "oils": []})
        assert nothing.status_code == 422
        assert nothing.json()["error"]["message"]
