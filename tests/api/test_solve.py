"""Solving and swapping over HTTP: refused at once, watched, cancelled, and without a trace on any formula."""

import time

from anyio.from_thread import start_blocking_portal
from fastapi import Response

from conftest import formula_json
from sapolin.api.swap import swap
from sapolin.core.formula.document import Formula
from sapolin.core.optimise.swap import Outgoing, SwapQuestion

NARROW = [
    {"feature": f"acid:{acid}", "minimum": percent, "maximum": percent + 0.02}
    for acid, percent in (("C12:0", 9), ("C14:0", 4), ("C16:0", 15), ("C18:0", 8), ("C18:1", 41), ("C18:2", 9))
]
EASY = [{"feature": "hardness", "minimum": 36, "maximum": 48}, {"feature": "cleansing", "minimum": 12, "maximum": 19}]


def percent_json(value: float) -> dict:
    """A percentage in a text, as the API gives it."""
    return {"kind": "number", "value": value, "decimals": None, "unit": "%"}


def question(targets=None, **changes) -> dict:
    return {"formula": formula_json(), "targets": targets or EASY} | changes


def test_an_easy_question_is_done_at_once(client):
    # However slow the machine is: it has all the time it may have, and is waited for.
    started = client.post("/api/solve", json=question(most_seconds=30))
    assert started.status_code == 202
    state = {"state": "running"}
    while state["state"] != "done":
        state = client.get(f"/api/solve/{started.json()['id']}", params={"wait_seconds": 10}).json()
    assert state["answer"]["solutions"][0]["miss"] == 0
    assert state["answer"]["solutions"][0]["status"] == "proven"


def test_a_hard_question_is_watched_and_cancelled(client):
    hard = question(NARROW, with_specialties=True, most_oils=4, most_seconds=30)
    job = client.post("/api/solve", json=hard).json()["id"]
    for _ in range(40):
        state = client.get(f"/api/solve/{job}", params={"wait_seconds": 0.1}).json()
        if state["best"] is not None:
            break
    assert state["state"] == "running"
    assert state["bound"] <= state["miss"]
    client.delete(f"/api/solve/{job}")
    ended = client.get(f"/api/solve/{job}", params={"wait_seconds": 10}).json()
    assert ended["state"] == "done"
    assert ended["answer"]["status"] == "stopped"
    assert ended["answer"]["solutions"]
    assert client.get("/api/formulas").json()["formulas"] == []


def test_an_impossible_question_is_refused_at_once(client):
    upside_down = [{"feature": "hardness", "minimum": 50, "maximum": 40}]
    error = client.post("/api/solve", json=question(upside_down)).json()["error"]
    assert error["problems"][0]["code"] == "target_range_reversed"
    assert error["problems"][0]["path"] == "targets[0]"


def test_a_lost_job_says_so(client):
    answer = client.get("/api/solve/none")
    assert (answer.status_code, answer.json()["error"]["code"]) == (404, "not_found")


def test_a_swap_is_answered_in_full(client):
    formula = formula_json({"olive-refined": 34.0, "palm": 30.0, "coconut": 26.0, "shea": 5.0, "castor": 5.0})
    answer = client.post("/api/swap", json={"formula": formula, "outgoing": [{"oil": "palm"}]}).json()
    assert answer["proven"]
    first = answer["candidates"][0]
    assert client.post("/api/compute", json=first["formula"]).json() == first["result"]
    levers = client.post("/api/swap/levers", json={"before": formula, "formula": first["formula"]}).json()
    assert {"superfat", "water"} <= {lever["id"] for lever in levers}
    refused = client.post("/api/swap", json={"formula": formula, "outgoing": [{"oil": "lard"}]})
    assert refused.json()["error"]["problems"][0]["code"] == "not_in_blend"


def test_a_swap_begins_with_what_the_bar_is_to_do_without_by_the_school_of_the_workshop(client):
    formula = formula_json({"olive-refined": 60.0, "coconut": 30.0, "lard": 10.0}, free_of=["animal"])
    assert client.patch("/api/workshop", json={"schools": {"swap_school": "equal_sap"}}).status_code == 200
    first = client.post("/api/swap/start", json=formula).json()
    assert (first["outgoing"], first["school"]) == ([{"oil": "lard", "keep_percent": 0.0}], "equal_sap")
    assert client.post("/api/swap", json=first).json()["candidates"]
    named = client.post("/api/swap/start", json=formula, params={"out": "coconut"}).json()
    assert named["outgoing"][0]["oil"] == "coconut"
    refused = client.post("/api/swap/start", json=formula_json({}))
    assert (refused.status_code, refused.json()["error"]["problems"][0]["code"]) == (422, "no_oils")


def test_trades_over_http(client):
    formula = formula_json({"olive-refined": 60.0, "coconut": 40.0})
    trades = client.post("/api/trades", json=formula).json()
    assert (trades[0]["give"], trades[0]["take"]) == ("coconut", "olive-refined")


def test_formulas_are_compared_and_written_as_files(client):
    body = {
        "formulas": [
            {"label": "with palm", "formula": formula_json({"olive-refined": 70.0, "palm": 30.0})},
            {"label": "with lard", "formula": formula_json({"olive-refined": 70.0, "lard": 30.0})},
        ]
    }
    compared = client.post("/api/compare", json=body).json()
    assert compared["changes"][1] == [
        ["Lard in at ", percent_json(30.0)], ["Palm out, from ", percent_json(30.0)],
    ]  # fmt: skip
    olive = next(row for row in compared["rows"] if row["name"] == "Olive, refined")
    assert olive["differs"] is False
    assert client.post("/api/compare/csv", json=body).text.startswith("group,quantity,unit,with palm,with lard")
    pdf = client.post("/api/compare/pdf", json=body)
    assert pdf.headers["content-type"] == "application/pdf"
    assert pdf.content.startswith(b"%PDF-")
    assert client.post("/api/compare", json={"formulas": body["formulas"] * 4}).status_code == 422


def test_the_history_tells_what_changed(demo):
    guest = next(entry for entry in demo.get("/api/formulas").json()["formulas"] if entry["name"] == "Hut guest bar")
    history = demo.get(f"/api/formulas/{guest['id']}/history").json()
    assert [entry["number"] for entry in history] == [None, 3, 2, 1]
    assert ["Shea butter in at ", percent_json(5.0)] in history[1]["changes"]
    assert history[3]["changes"] == []


def test_a_trial_set_over_http(client):
    trials = client.post("/api/trial-set", json=formula_json()).json()
    assert trials[0]["id"] == "base"
    assert all(trial["formula"]["blend"]["total_oils_g"] == 500 for trial in trials)


class TestStart:
    def test_a_question_begins_with_the_purpose_that_is_asked_for(self, client):
        begun = client.post("/api/solve-start", json=formula_json(), params={"purpose": "shaving"}).json()
        assert begun["purpose"] == "shaving"
        assert {one["feature"] for one in begun["targets"]} >= {"dense_lather", "wear_life"}

    def test_an_unknown_purpose_is_refused_in_words(self, client):
        answer = client.post("/api/solve-start", json=formula_json(), params={"purpose": "magic"})
        assert answer.status_code == 422
        assert answer.json()["error"]["problems"][0]["code"] == "unknown_purpose"


class TestOilNotes:
    def test_they_are_kept_and_forgotten_when_they_say_nothing(self, client):
        note = {"liking": "favourite", "on_hand_g": None, "most_percent": 12.0}
        assert client.put("/api/oil-notes/shea", json=note).json() == {"shea": note}
        assert client.get("/api/oil-notes").json() == {"shea": note}
        assert client.put("/api/oil-notes/shea", json={}).json() == {}

    def test_swaps_and_solves_go_by_them(self, client):
        formula = formula_json()
        asked = {"formula": formula, "outgoing": [{"oil": formula["blend"]["lines"][0]["oil"]}]}
        first = client.post("/api/swap", json=asked).json()["candidates"][0]["incoming"][0]["oil"]
        client.put(f"/api/oil-notes/{first}", json={"liking": "never"})
        after = client.post("/api/swap", json=asked).json()
        assert first not in {new["oil"] for one in after["candidates"] for new in one["incoming"]}

    def test_what_cannot_be_is_refused_in_words(self, client):
        answer = client.put("/api/oil-notes/shea", json={"on_hand_g": -5})
        assert answer.status_code == 422
        assert answer.json()["error"]["problems"]


class TestSwapsThatNobodyWaitsFor:
    class Left:
        """A request whose client has closed its connection."""

        async def is_disconnected(self) -> bool:
            return True

    def test_they_end_without_an_answer(self, monkeypatch):
        def slowly_nothing(_stores):
            time.sleep(0.2)
            return {}

        for name in ("oil_prices", "oil_notes"):
            monkeypatch.setattr(f"sapolin.api.swap.{name}", slowly_nothing)
        formula = Formula.model_validate(formula_json())
        question = SwapQuestion(
            formula=formula, outgoing=(Outgoing(oil=formula.blend.lines[0].oil),), others="free", most_replacements=3,
            with_specialties=True,
        )  # fmt: skip
        with start_blocking_portal() as portal:
            answer = portal.call(swap, question, self.Left(), None)
        assert isinstance(answer, Response)
        assert answer.status_code == 499
