"""A key belongs to one filled form: whatever is sent again under it is done once, at whatever time it comes."""

from concurrent.futures import ThreadPoolExecutor
from uuid import uuid4

import pytest

from api.batches import Batch, plan_json
from api.conftest import client_on
from api.test_stock import goods, record
from conftest import formula_json

HARD = [{"feature": "hardness", "minimum": 40}]


def sent(client, path, body, key, **more):
    return client.post(path, json=body, headers={"idempotency-key": key} | more)


def creating(client) -> dict[str, tuple[str, dict, str]]:
    """What makes something new: address, body, and the list in which it then is."""
    formula = client.post("/api/formulas", json=formula_json(name="First")).json()
    at = f"/api/formulas/{formula['id']}"
    batch = Batch(client).id
    return {
        "formula": ("/api/formulas", formula_json(name="Another"), "/api/formulas"),
        "duplicate": (f"{at}/duplicate", {"name": "A copy"}, "/api/formulas"),
        "version": (f"{at}/versions", {"revision": formula["revision"], "note": ""}, f"{at}/versions"),
        "batch": ("/api/batches", plan_json(), "/api/batches"),
        "again": (f"/api/batches/{batch}/again", {}, "/api/batches"),
        "targets": ("/api/target-sets", {"name": "Hard", "targets": HARD}, "/api/target-sets"),
        "criterion": ("/api/criteria", {"name": "Swirl", "words": ["none", "hint", "lines", "clear", "wow"]}, "/api/criteria"),
        "backup": ("/api/safekeeping/backups", {}, "/api/safekeeping"),
    }  # fmt: skip


def how_many(client, path: str) -> int:
    listed = client.get(path).json()
    if isinstance(listed, list):
        return len(listed)
    # The one that is due is taken in the background.
    return listed.get("total") or sum(one["reason"] == "asked" for one in listed.get("backups", []))


@pytest.mark.parametrize(
    "what", ["formula", "duplicate", "version", "batch", "again", "targets", "criterion", "backup"]
)
def test_eight_taps_at_once_make_one(client, what):
    path, body, listed = creating(client)[what]
    before = how_many(client, listed)
    with ThreadPoolExecutor(8) as taps:
        answers = [*taps.map(lambda _: sent(client, path, body, "tapped-at-once"), range(8))]
    assert {one.status_code for one in answers} <= {200, 201}
    assert len({one.text for one in answers}) == 1
    assert sum("idempotency-replayed" in one.headers for one in answers) == 7
    assert how_many(client, listed) == before + 1
    assert sent(client, path, body, "another-form").status_code in (200, 201, 409, 422)


def test_it_is_known_after_the_server_was_ended(client, database):
    first = sent(client, "/api/batches", plan_json(), "before-the-end").json()
    with client_on(database) as later:
        again = sent(later, "/api/batches", plan_json(), "before-the-end")
        assert (again.status_code, again.json()) == (200 if again.status_code == 200 else 201, first)
        assert later.get("/api/batches").json()["total"] == 1


def test_a_key_is_not_for_something_else(client):
    sent(client, "/api/formulas", formula_json(name="One"), "one-and-only")
    other = sent(client, "/api/formulas", formula_json(name="Two"), "one-and-only")
    assert (other.status_code, other.json()["error"]["code"]) == (409, "key_used")
    elsewhere = sent(client, "/api/batches", plan_json(), "one-and-only")
    assert elsewhere.status_code == 409
    assert [one["name"] for one in client.get("/api/formulas").json()["formulas"]] == ["One"]


def test_after_an_error_the_same_key_is_tried_anew(client):
    wrong = sent(client, "/api/formulas", {"name": "No blend"}, "tried-anew-1")
    assert wrong.status_code == 422
    assert sent(client, "/api/formulas", formula_json(name="With"), "tried-anew-1").status_code == 201


def test_a_key_has_a_length(client):
    assert sent(client, "/api/formulas", formula_json(), "short").json()["error"]["code"] == "key_malformed"
    assert sent(client, "/api/formulas", formula_json(), "x" * 65).status_code == 422


class TestEntriesOfRecords:
    """They name their key themselves."""

    def test_of_make_day(self, client, batch):
        batch.send(kind="started")
        for _ in range(2):
            assert batch.send(key="a-note-said", kind="noted", text="thick").status_code == 200
        other = batch.send(key="a-note-said", kind="noted", text="thin")
        assert (other.status_code, other.json()["error"]["code"]) == (409, "key_used")
        notes = [one["event"].get("text") for one in client.get(f"/api/batches/{batch.id}/record").json()]
        assert notes.count("thick") == 1
        assert "thin" not in notes

    def test_eight_weights_at_once_are_one(self, client, batch):
        step = next(one for one in batch.run()["prepared"]["steps"] if one["weigh"])
        run = batch.up_to(step["id"])
        body = {
            "key": "weighed-once", "after_seq": run["events"],
            "event": {"kind": "captured", "item": step["weigh"]["item"], "weight_g": 79.0, "source": "typed", "adds": True},
        }  # fmt: skip
        with ThreadPoolExecutor(8) as taps:
            answers = [*taps.map(lambda _: client.post(f"/api/batches/{batch.id}/events", json=body), range(8))]
        assert {one.status_code for one in answers} == {200}
        assert batch.run()["state"]["captured_g"][step["weigh"]["item"]] == 79.0

    def test_of_the_shelf(self, client):
        lot = goods(client, key="goods-in-once").json()
        assert goods(client, key="goods-in-once", grams=6000).json()["error"]["code"] == "key_used"
        for _ in range(2):
            record(client, lot["id"], key="spilled-once", kind="wasted", grams=100, why="spilled")
        other = record(client, lot["id"], key="spilled-once", kind="wasted", grams=300, why="spilled")
        assert other.status_code == 409
        [material] = client.get("/api/stock").json()["materials"]
        assert material["in_hand_g"] == 4900

    def test_the_same_key_belongs_to_another_record(self, client, batch):
        other = Batch(client)
        for one in (batch, other):
            one.send(kind="started")
            assert one.send(key="a-note-said", kind="noted", text=one.id).status_code == 200

    def test_what_was_seen_of_the_record_may_differ(self, client, batch):
        batch.send(kind="started")
        batch.send(key="a-note-said", after_seq=1, kind="noted", text="thick")
        assert batch.send(key="a-note-said", after_seq=None, kind="noted", text="thick").status_code == 200


def test_preparations_are_planned_once(client):
    plan = {"kind": "master_blend", "name": "Base"}
    before = len(client.get("/api/preparations").json())
    first, again = (sent(client, "/api/preparations", plan, "planned-once") for _ in range(2))
    assert first.json() == again.json()
    assert len(client.get("/api/preparations").json()) == before + 1


def test_another_workshop_at_this_address_is_told_apart(client):
    key = uuid4().hex
    refused = sent(client, "/api/formulas", formula_json(), key, **{"sapolin-database": "of another one"})
    assert (refused.status_code, refused.json()["error"]["code"]) == (409, "another_database")
    assert client.get("/api/formulas", headers={"sapolin-database": "of another one"}).status_code == 409
    assert client.get("/api/formulas").json()["total"] == 0
