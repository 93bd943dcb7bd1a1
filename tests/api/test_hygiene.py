"""What is taken in is cleaned and bounded: names, pictures, lists of problems, the time of a solve."""

import json
from time import monotonic

import pytest
from hypothesis import given
from hypothesis import strategies as st

from api.pictures import kept, taken
from conftest import formula_json
from sapolin.api.clean_text import without_hidden_signs
from sapolin.api.errors import MOST_PROBLEMS
from sapolin.store import pictures

HIDDEN = "\u202e\u200f\x00\x07\u2066\ufeff"


class TestNames:
    def test_signs_that_nobody_sees_are_taken_out_of_what_is_kept(self, client):
        formula = formula_json(name=f"Oli{HIDDEN}ve b\u202dar", notes="one\ntwo\tthree")
        kept_formula = client.post("/api/formulas", json=formula).json()["formula"]
        assert kept_formula["name"] == "Olive bar"
        assert kept_formula["notes"] == "one\ntwo\tthree"
        # Written as escapes, or as the bytes themselves.
        raw = json.dumps(formula, ensure_ascii=False).encode()
        answer = client.post("/api/formulas", content=raw, headers={"content-type": "application/json"})
        assert answer.json()["formula"]["name"] == "Olive bar"

    def test_letters_that_look_alike_but_are_seen_stay(self, client):
        name = "Öl, мыло, صابون, 石鹸, 👩\u200d🔬, naïve — ½"
        assert client.post("/api/formulas", json=formula_json(name=name)).json()["formula"]["name"] == name

    def test_half_a_letter_is_no_fault(self, client):
        raw = json.dumps(formula_json(name="NAME")).replace("NAME", "bar \\ud83d\\u0000 \\\\ud83d").encode()
        answer = client.post("/api/formulas", content=raw, headers={"content-type": "application/json"})
        assert answer.status_code == 201, answer.text
        assert answer.json()["formula"]["name"] == "bar  \\ud83d"

    def test_a_body_that_is_no_json_is_still_told_so(self, client):
        answer = client.post(
            "/api/formulas", content=b'{"name": "\\\\u202e', headers={"content-type": "application/json"}
        )
        assert answer.status_code == 422

    @given(st.text())
    def test_cleaning_twice_changes_nothing_more_and_it_can_be_written(self, text):
        once = without_hidden_signs(text)
        assert without_hidden_signs(once) == once
        once.encode()


class TestPictures:
    def batch_with(self, batch, picture):
        batch.send(kind="started")
        address = f"/api/batches/{batch.id}/photos?key=picture-1&name=top%E2%80%AE.jpg%00"
        answer = batch.client.post(address, content=picture, headers={"content-type": "image/jpeg"})
        assert answer.status_code == 200, answer.text
        return answer.json()["state"]["photos"][0]["what"]

    def test_a_row_shows_them_small_and_the_browser_keeps_them(self, batch):
        number, name = self.batch_with(batch, taken(1500, 1000, "JPEG")).split(":")
        assert name == "top.jpg"
        whole = batch.client.get(f"/api/batches/{batch.id}/photos/{number}")
        small = batch.client.get(f"/api/batches/{batch.id}/photos/{number}?small=true")
        assert kept(whole.content).size == (1500, 1000)
        assert kept(small.content).size == (360, 240)
        assert len(small.content) < len(whole.content) / 4
        assert "immutable" in whole.headers["cache-control"]

    def test_all_of_them_together_are_bounded(self, batch, monkeypatch):
        monkeypatch.setattr(pictures, "MOST_PICTURES_BYTES", 100)
        batch.send(kind="started")
        address = f"/api/batches/{batch.id}/photos?key=picture-1"
        answer = batch.client.post(address, content=taken(300, 200, "JPEG"), headers={"content-type": "image/jpeg"})
        assert answer.status_code == 507
        assert answer.json()["error"]["code"] == "pictures_full"
        assert batch.client.get("/api/safekeeping").json()["pictures"] == 0


def test_no_more_problems_are_listed_than_anyone_reads(client):
    lines = [{"oil": "olive-refined", "by": "percent_of_oils", "value": "x"} for _ in range(300)]
    formula = formula_json() | {"blend": {"total_oils_g": 500, "lines": lines}}
    answer = client.post("/api/compute", json=formula)
    assert answer.status_code == 422
    assert 1 <= len(answer.json()["error"]["problems"]) <= MOST_PROBLEMS
    assert len(answer.content) < 100_000


@pytest.mark.parametrize("seconds", [0.05, 0.3])
def test_a_solve_never_outlives_what_it_may_take(client, seconds):
    oils = [one["id"] for one in client.get("/api/oils").json()]
    formula = client.get("/api/starting-formula").json()
    formula["blend"] = {
        "total_oils_g": 500, "lines": [{"oil": oil, "by": "percent_of_oils", "value": 50} for oil in oils[:2]]
    }  # fmt: skip
    question = client.post("/api/solve-start", json=formula).json()
    question = question.get("question", question) | {"most_seconds": seconds}
    before = monotonic()
    job = client.post("/api/solve", json=question).json()
    answer = client.get(f"/api/solve/{job['id']}?wait_seconds=10").json()
    assert answer["state"] == "done"
    # What is around the searches (the surroundings, the words of the answer) is not searching.
    assert monotonic() - before < seconds + 2
