"""Two screens change the same thing: the second is told, and nothing of the first is lost; what is removed is archived."""

import sqlite3
from contextlib import closing

import pytest

from api.test_batches import LOAF

TARGETS = {"name": "Winter", "targets": [{"feature": "hardness", "minimum": 30, "maximum": 50}]}


def told(answer) -> str:
    assert answer.status_code == 409, answer.text
    assert "nothing was saved" in answer.json()["error"]["message"]
    return answer.json()["error"]["code"]


def test_a_mould_that_was_changed_meanwhile_is_not_overwritten(client):
    kept = client.put("/api/moulds", json=LOAF).json()
    mine, theirs = kept["mould"] | {"name": "Mine"}, kept["mould"] | {"name": "Theirs"}
    assert client.put("/api/moulds?revision=1", json=theirs).status_code == 200
    assert told(client.put("/api/moulds?revision=1", json=mine)) == "changed_elsewhere"
    assert told(client.put("/api/moulds", json=mine)) == "changed_elsewhere"
    (now,) = client.get("/api/moulds").json()
    assert (now["mould"]["name"], now["revision"]) == ("Theirs", 2)
    unknown = kept["mould"] | {"id": "never-kept"}
    assert client.put("/api/moulds?revision=4", json=unknown).status_code == 404


def test_a_price_that_was_changed_meanwhile_is_not_overwritten(client, database):
    path = "/api/prices/coconut"
    assert client.put(path, json={"per_kg": 4.5, "was": None}).json() == {"coconut": 4.5}
    assert told(client.put(path, json={"per_kg": 5, "was": None})) == "changed_elsewhere"
    assert told(client.put(path, json={"per_kg": 5, "was": 4.4})) == "changed_elsewhere"
    assert client.put(path, json={"per_kg": 5, "was": 4.5}).json() == {"coconut": 5.0}
    assert client.put(path, json={"per_kg": None, "was": 5}).json() == {}
    # Forgotten, and still there for whoever looks for it.
    with closing(sqlite3.connect(database)) as connection:
        row = connection.execute("SELECT per_kg, revision, archived_at IS NOT NULL FROM prices").fetchone()
    assert row == (5.0, 3, 1)
    assert client.put(path, json={"per_kg": 6, "was": None}).json() == {"coconut": 6.0}


@pytest.mark.parametrize("oil", ["dragon-fat", "", " ", "olive-refined ", "x" * 500])
def test_what_is_no_oil_has_no_price_and_no_note(client, oil):
    assert client.put(f"/api/prices/{oil}", json={"per_kg": 3}).status_code in (404, 405)
    assert client.put(f"/api/oil-notes/{oil}", json={"liking": "never"}).status_code in (404, 405)
    assert client.get("/api/prices").json() == {}
    assert client.get("/api/oil-notes").json() == {}


def test_a_note_that_was_changed_meanwhile_is_not_overwritten(client):
    path, nothing = "/api/oil-notes/coconut", {"liking": "", "most_percent": None}
    assert client.put(path, json={"liking": "favourite", "was": nothing}).json()["coconut"]["liking"] == "favourite"
    assert told(client.put(path, json={"liking": "never", "was": nothing})) == "changed_elsewhere"
    seen = {"liking": "favourite", "on_hand_g": 120.0}
    assert client.put(path, json={"liking": "", "was": seen}).json() == {}
    assert client.put(path, json={"liking": "never", "was": nothing}).json()["coconut"]["liking"] == "never"


def test_a_setting_that_was_changed_meanwhile_is_not_overwritten_and_others_are_free(client):
    tub = {"name": "Blue tub", "lye": "naoh", "purity_percent": 98.5}
    other = {"name": "Red tub", "lye": "koh", "purity_percent": 90.0}
    assert client.patch("/api/workshop", json={"tubs": [tub], "was": {"tubs": []}}).status_code == 200
    lost = client.patch("/api/workshop", json={"tubs": [other], "was": {"tubs": []}})
    assert told(lost) == "changed_elsewhere"
    both = client.patch("/api/workshop", json={"tubs": [other, tub], "was": {"tubs": [tub]}}).json()
    assert [one["name"] for one in both["tubs"]] == ["Red tub", "Blue tub"]
    # What the other screen did not touch does not stand in its way.
    assert (
        client.patch("/api/workshop", json={"emergency_number": "112", "was": {"emergency_number": ""}}).status_code
        == 200
    )


def test_targets_that_were_saved_meanwhile_are_not_overwritten_and_come_back_as_they_were(client):
    kept = client.post("/api/target-sets", json=TARGETS).json()
    path = f"/api/target-sets/{kept['id']}"
    softer = TARGETS | {"targets": [{"feature": "hardness", "minimum": 20, "maximum": 40}]}
    assert client.put(f"{path}?revision=1", json=softer).json()["revision"] == 2
    assert told(client.put(f"{path}?revision=1", json=TARGETS)) == "changed_elsewhere"
    assert client.delete(path).status_code == 200
    assert client.get("/api/target-sets").json() == []
    assert client.delete(path).status_code == 404
    assert client.put(f"{path}?revision=2", json=TARGETS).status_code == 404
    assert client.post(f"{path}/restore").json()["targets"] == client.get("/api/target-sets").json()[0]["targets"]
    # A new set under an archived name takes its place.
    client.delete(path)
    again = client.post("/api/target-sets", json=TARGETS | {"name": "WINTER"}).json()
    assert (again["id"], again["name"], again["targets"]) == (kept["id"], "WINTER", kept["targets"])


@pytest.mark.parametrize("value", [1, 0, "true", "yes", None])
def test_true_and_false_are_no_numbers_and_no_words(client, value):
    assert client.patch("/api/workshop", json={"learns": True}).json()["learns"] is True
    answer = client.patch("/api/workshop", json={"learns": value})
    assert answer.status_code == (200 if value is None else 422)
    assert client.get("/api/workshop").json()["learns"] is True
