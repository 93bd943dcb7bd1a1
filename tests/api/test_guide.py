"""The guide over HTTP: the fault finder on a batch's own record, practice that touches nothing, schools as defaults, safety."""

import pytest

from api.batches import Batch
from api.test_cure import refused
from conftest import formula_json


def counted(client):
    """How much real data there is."""
    return [len(client.get("/api/formulas").json()["formulas"]), len(client.get("/api/batches").json()["batches"])]


def test_symptoms_and_their_causes_without_a_batch(client):
    symptoms = client.get("/api/faults").json()
    assert {"ash", "zaps", "cloudy_liquid"} <= {one["id"] for one in symptoms}
    ranking = client.post("/api/faults/rank", json={"symptom": "ash"}).json()
    assert ranking["causes"][0]["percent"] == ranking["causes"][0]["prior_percent"]
    answered = client.post("/api/faults/rank", json={"symptom": "ash", "answers": {"wipes_off_fuzzy": True}}).json()
    assert answered["causes"][0]["cause"] == "mould_growth"
    assert refused(client.post("/api/faults/rank", json={"symptom": "rain"})) == "unknown_symptom"
    assert client.post("/api/faults/rank", json={"symptom": "ash", "batch_id": "nothing"}).status_code == 404


def test_a_batch_is_asked_what_its_record_says(client):
    wet = formula_json() | {"water": {"by": "lye_concentration_percent", "value": 26}}
    batch = Batch(client, formula=wet, choices={"cover": "insulate", "alcohol_spray": True})
    batch.up_to("nothing")
    batch.send(kind="finished")
    ranking = client.post("/api/faults/rank", json={"symptom": "ash", "batch_id": batch.id}).json()
    first = ranking["causes"][0]
    assert first["cause"] == "wet"
    assert first["reasons"][0]["from_record"]
    assert first["percent"] > first["prior_percent"]


def test_what_was_seen_on_bars_is_ranked_where_they_cure(client):
    batch = Batch(client, choices={"cover": "cover", "alcohol_spray": False})
    batch.up_to("nothing")
    batch.send(kind="finished")
    seen = {"kind": "seen", "fault": "ash", "where": "outside", "text": ""}
    view = client.post(f"/api/batches/{batch.id}/cure/events", json={"key": "cure-key-1", "event": seen})
    (fault,) = view.json()["faults"]
    assert fault["symptom"]["id"] == "ash"
    assert {one["cause"] for one in fault["causes"][:3]} >= {"uncovered", "unsprayed"}


@pytest.mark.parametrize("kind", ["swap", "overshoot", "trace", "fault", "mould", "unsafe"])
def test_exercises_are_answered_and_counted_once(client, kind):
    before = counted(client)
    made = client.get(f"/api/practice/{kind}/7").json()
    assert made == client.get(f"/api/practice/{kind}/7").json()
    tries = [{"option": one["id"]} for one in made["options"]] or [{"number": made["aims_at"] or 0.0}, {"number": 1e6}]
    rights = 0
    for i, answered in enumerate(tries):
        sent = {"key": f"answer-key-{i}", "answered": answered}
        graded = client.post(f"/api/practice/{kind}/7", json=sent).json()
        assert graded == client.post(f"/api/practice/{kind}/7", json=sent).json()
        rights += graded["right"]
        assert graded["why"]
    overview = client.get("/api/practice").json()
    so_far = next(one["so_far"] for one in overview["kinds"] if one["kind"] == kind)
    assert so_far == {"answered": len(tries), "right": rights}
    assert counted(client) == before


def test_a_course_is_done_by_different_exercises(client):
    def done():
        course = client.get("/api/practice").json()["courses"][0]
        at = next(i for i, step in enumerate(course["course"]["steps"]) if step["exercise"] == "unsafe")
        return course["done"][at]

    def solve(seed):
        for option in "abcd":
            body = {"key": f"key-{seed}-{option}-key", "answered": {"option": option}}
            client.post(f"/api/practice/unsafe/{seed}", json=body)

    assert done() is False
    solve(1)
    solve(1)
    assert done() is False
    solve(2)
    assert done() is True


def test_unknown_exercises_and_seeds_are_refused(client):
    assert client.get("/api/practice/magic/1").status_code == 422
    assert client.get("/api/practice/swap/-1").status_code == 422
    assert client.get(f"/api/practice/swap/{2**31}").status_code == 422


def test_what_a_workshop_chose_is_what_its_new_batches_begin_with(client):
    schools = {"apart": "within_5_f", "gel": "encouraged", "mixing": "whisk", "weigh_into": "separate"}
    assert client.patch("/api/workshop", json={"schools": schools}).json()["schools"]["mixing"] == "whisk"
    assert client.get("/api/starting-formula").json()["process"]["gel"] == "encouraged"
    formula = client.post("/api/formulas", json=formula_json()).json()
    plan = client.get(f"/api/formulas/{formula['id']}/batch-plan").json()
    chosen = plan["choices"]
    assert (chosen["school"], chosen["mixing"], chosen["weigh_into"]) == ("within_5_f", "whisk", "separate")
    assert client.patch("/api/workshop", json={"schools": {"mixing": "spoon"}}).status_code == 422
    questions = {one["id"]: one for one in client.get("/api/guide/schools").json()}
    assert questions["mixing"]["usual"] == "stick_blender"


def test_the_safety_sheet_prints_with_the_numbers_typed_once(client):
    assert client.get("/api/guide/safety").json()[1]["id"] == "first_aid"
    client.patch("/api/workshop", json={"emergency_number": "112", "poison_number": "0800 <b>7</b>"})
    for page in ("a4", "letter"):
        assert client.get(f"/api/guide/safety.pdf?page={page}").content.startswith(b"%PDF")
    assert client.get("/api/guide/safety.pdf?page=a3").status_code == 422


def test_pages_name_quantities_that_can_be_explained(client):
    for page in client.get("/api/guide/pages").json():
        if page["quantity"] is not None:
            asked = client.post(f"/api/compute/explanation?quantity={page['quantity']}", json=formula_json())
            assert asked.status_code == 200, page["id"]
