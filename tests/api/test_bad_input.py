"""Whatever is sent, however crooked: an answer in the one shape, never a fault, and nothing kept that was refused."""

import copy
import json
from itertools import count
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from api.batches import plan_json
from api.conftest import client_on
from conftest import formula_json

ODD_VALUES = st.one_of(
    st.none(), st.booleans(), st.integers(-(10**12), 10**12), st.floats(allow_nan=False, allow_infinity=False),
    st.sampled_from([0, -1, 1e-12, 1e12, "", " ", "5", "NaN", "<b>", "olive-refined", "'; DROP TABLE", "\u202e", "🧼" * 40]),
    st.just([]), st.just({}), st.lists(st.integers(), max_size=2),
    st.dictionaries(st.text(max_size=3), st.integers(), max_size=2),
)  # fmt: skip

KEYS = count()
CROOKED = settings(max_examples=60, suppress_health_check=list(HealthCheck))


def paths_of(value: Any, here: tuple[Any, ...] = ()) -> list[tuple[Any, ...]]:
    """Where every entry of a document is."""
    if isinstance(value, dict):
        return [here, *(path for key, component in value.items() for path in paths_of(component, (*here, key)))]
    if isinstance(value, list):
        return [here, *(path for i, component in enumerate(value) for path in paths_of(component, (*here, i)))]
    return [here]


def bent(document: Any, path: tuple[Any, ...], how: str, value: Any) -> Any:
    """The document with one entry replaced, dropped or doubled."""
    if not path:
        return value
    changed = copy.deepcopy(document)
    at = changed
    for key in path[:-1]:
        at = at[key]
    if how == "drop":
        del at[path[-1]]
    elif how == "double" and isinstance(at, list):
        at.append(copy.deepcopy(at[path[-1]]))
    else:
        at[path[-1]] = value
    return changed


QUESTIONS: dict[str, tuple[str, Any]] = {
    "compute": ("/api/compute", formula_json(
        liquids=[{"liquid": "goat-milk", "use": "dissolves_lye", "by": "percent_of_water", "value": 40.0}],
        additives=[{"additive": "citric-acid", "by": "percent_of_oils", "value": 1.0, "compensated": True}],
        lye={"naoh_purity_percent": 99.0, "koh": {"by": "lye_weight_percent", "value": 10.0, "purity_percent": 90.0}},
    )),
    "batch": ("/api/batch-plan", plan_json(
        scents=[{"scent": "lavender", "percent_of_oils": 2.5, "limit_percent": 3.0}],
        portions=[
            {"name": "white", "share_percent": 60.0},
            {"name": "blue", "share_percent": 40.0, "colours": [{"colorant": "mica-blue", "value": 1.0}]},
        ],
        choices={"room_c": 20.0, "lye": "master"},
    )),
    "swap": ("/api/swap", {
        "formula": formula_json(), "outgoing": [{"oil": "coconut", "keep_percent": 5.0}], "reason": "price",
        "school": "profile_and_role", "free_of": ["palm"], "most_replacements": 1,
    }),
    "levers": ("/api/swap/levers", {"before": formula_json(), "formula": formula_json({"olive-refined": 100.0})}),
    "solve targets": ("/api/solve-targets", formula_json()),
    "trades": ("/api/trades", formula_json()),
    "compare": ("/api/compare", {"formulas": [{"label": "One", "formula": formula_json()}]}),
    "mould": ("/api/moulds/check", {
        "name": "Tin", "shape": {"kind": "loaf", "length_mm": 200, "width_mm": 70, "height_mm": 60},
    }),
}  # fmt: skip


@pytest.fixture(scope="module")
def server(tmp_path_factory):
    with client_on(tmp_path_factory.mktemp("bad") / "sapolin.db") as client:
        yield client


@pytest.fixture(scope="module")
def begun(server):
    """Where a batch is that is being made."""
    kept = server.post("/api/batches", json=plan_json()).json()
    body = {"key": "begin-begin", "after_seq": 0, "event": {"kind": "started", "plan_revision": 1}}
    assert server.post(f"/api/batches/{kept['id']}/events", json=body).status_code == 200
    return f"/api/batches/{kept['id']}"


def assert_one_shape(answer) -> None:
    assert answer.status_code < 500, answer.text[:400]
    if answer.status_code >= 400:
        error = answer.json()["error"]
        assert error["code"]
        assert error["message"].strip()
        for problem in error["problems"]:
            assert problem["message"]


@pytest.mark.parametrize("question", QUESTIONS)
class TestCrookedQuestions:
    def test_as_it_should_be_it_is_answered(self, server, question):
        address, document = QUESTIONS[question]
        answer = server.post(address, json=document)
        assert answer.status_code == 200, answer.text[:400]

    @CROOKED
    @given(data=st.data())
    def test_one_entry_is_not_what_it_should_be(self, server, question, data):
        address, document = QUESTIONS[question]
        path = data.draw(st.sampled_from(paths_of(document)))
        how = data.draw(st.sampled_from(["replace", "replace", "drop", "double"]))
        crooked = bent(document, path, how, data.draw(ODD_VALUES))
        answer = server.post(address, json=crooked)
        assert_one_shape(answer)
        if answer.status_code == 200:
            # Whatever is answered can be read by any program: no NaN, no infinity.
            json.loads(answer.text, parse_constant=lambda word: pytest.fail(f"{word} in the answer"))

    @pytest.mark.parametrize("body", [b"", b"null", b"[]", b"{", b'"\xff"', b"1e999", b"\x00", b"[" * 5000])
    def test_what_is_no_document_at_all(self, server, question, body):
        answer = server.post(QUESTIONS[question][0], content=body, headers={"content-type": "application/json"})
        assert 400 <= answer.status_code < 500
        assert_one_shape(answer)

    @pytest.mark.parametrize("number", ["NaN", "Infinity", "-Infinity", "1e400"])
    def test_numbers_that_are_none(self, server, question, number):
        address, document = QUESTIONS[question]
        text = json.dumps(document)
        first = next(token for token in ("5.0", "99.0", "200", "70.0") if f" {token}" in text)
        answer = server.post(
            address, content=text.replace(f" {first}", f" {number}", 1), headers={"content-type": "application/json"}
        )
        assert 400 <= answer.status_code < 500
        assert_one_shape(answer)


class TestCrookedRecords:
    """The record of a batch takes what can be, and stays as it was when it is sent what cannot."""

    @CROOKED
    @given(data=st.data())
    def test_an_event_that_is_not_right(self, server, begun, data):
        event = data.draw(st.sampled_from([
            {"kind": "captured", "item": "oil:0", "weight_g": 100.0, "source": "typed", "tared": True, "adds": False},
            {"kind": "temperature", "bowl": "oils", "celsius": 40.0, "source": "typed", "read_in": "C"},
            {"kind": "step_done", "step": "gear", "confirmed": ["all"]},
            {"kind": "correction_taken", "item": "oil:0", "correction": "accept", "targets_g": {"oil:0": 5.0}},
            {"kind": "poured", "mould": 0, "difference_ml": 20.0},
            {"kind": "amended", "seq": 1, "reason": "wrong"},
            {"kind": "noted", "text": "Warm.", "next_time": False},
        ]))  # fmt: skip
        path = data.draw(st.sampled_from([path for path in paths_of(event) if path]))
        crooked = bent(event, path, data.draw(st.sampled_from(["replace", "drop"])), data.draw(ODD_VALUES))
        before = server.get(f"{begun}/progress").json()["events"]
        sent = {"key": f"crooked-{next(KEYS):06d}", "after_seq": before, "event": crooked}
        answer = server.post(f"{begun}/events", json=sent)
        assert_one_shape(answer)
        after = server.get(f"{begun}/progress")
        assert after.status_code == 200
        assert after.json()["events"] == before + (answer.status_code == 200)

    def test_what_is_kept_can_always_be_shown(self, server, begun):
        assert server.get("/api/batches").status_code == 200
        assert server.get(f"{begun}/record").status_code == 200
        assert server.get(f"{begun}/sheet").status_code == 200


class TestCrookedPlansAreKept:
    """A plan with gaps may be kept; it never makes a list or a desk fail."""

    @CROOKED
    @given(data=st.data())
    def test_whatever_is_kept_is_listed(self, server, data):
        document = plan_json()
        path = data.draw(st.sampled_from([path for path in paths_of(document) if path]))
        crooked = bent(document, path, "replace", data.draw(ODD_VALUES))
        kept = server.post("/api/batches", json=crooked)
        assert_one_shape(kept)
        if kept.status_code == 201:
            batch = kept.json()["id"]
            assert server.get("/api/batches").status_code == 200
            assert server.get(f"/api/batches/{batch}").json()["plan"] == kept.json()["plan"]
            for address in ("run", "sheet", "sheet.pdf", "sheet.md", "sheet.csv"):
                assert_one_shape(server.get(f"/api/batches/{batch}/{address}"))
            server.delete(f"/api/batches/{batch}")
