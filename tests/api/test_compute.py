"""The stateless half: result from a formula sent along, and one error shape for whatever is wrong with it."""

import json

import pytest

from conftest import formula_json
from sapolin.core.bar.calculation import calculate
from sapolin.core.formula.document import Formula


def problems(answer) -> list[tuple[str, str]]:
    return [(problem["code"], problem["path"]) for problem in answer.json()["error"]["problems"]]


def test_compute_answers_what_the_core_calculates(client):
    answer = client.post("/api/compute", json=formula_json())
    assert answer.status_code == 200
    assert answer.json() == calculate(Formula.model_validate(formula_json())).model_dump(mode="json")


def test_rounded_weights_come_in_the_unit_asked_for(client):
    grams = client.post("/api/compute", json=formula_json()).json()
    ounces = client.post("/api/compute?weight_unit=oz", json=formula_json()).json()
    assert ounces["lye"] == grams["lye"] | {"superfat_as_weighed_percent": ounces["lye"]["superfat_as_weighed_percent"]}
    assert ounces["weights"]["naoh"] == pytest.approx(grams["lye"]["naoh_g"] / 28.349523125, abs=0.005)
    assert client.post("/api/compute?weight_unit=stone", json=formula_json()).status_code == 422


@pytest.mark.parametrize(
    ("changes", "code", "field"),
    [
        ({"superfat_percent": "five"}, "malformed_float_type", "superfat_percent"),
        ({"superfat_percent": "5"}, "malformed_float_type", "superfat_percent"),
        ({"superfat_percent": True}, "malformed_float_type", "superfat_percent"),
        ({"superfat": 5}, "malformed_extra_forbidden", "superfat"),
        ({"name": ""}, "malformed_string_too_short", "name"),
        ({"blend": {"lines": [{"oil": "palm", "by": "volume", "value": 5.0}]}}, "malformed_literal_error", "blend.lines[0].by"),
        ({"blend": {"lines": [{"oil": "palm", "by": "weight_g", "value": "a lot"}]}},
         "malformed_float_type", "blend.lines[0].value"),
        ({"superfat_percent": 77}, "out_of_range", "superfat_percent"),
        ({"lye": {"naoh_purity_percent": 12}}, "out_of_range", "lye.naoh_purity_percent"),
    ],
)  # fmt: skip
def test_bad_entries_are_named(client, changes, code, field):
    answer = client.post("/api/compute", json=formula_json(**changes))
    assert answer.status_code == 422
    assert problems(answer) == [(code, field)]
    problem = answer.json()["error"]["problems"][0]
    assert problem["message"]
    assert problem["remedy"]


def test_a_missing_superfat_is_not_defaulted(client):
    body = formula_json()
    del body["superfat_percent"]
    answer = client.post("/api/compute", json=body)
    assert problems(answer) == [("malformed_missing", "superfat_percent")]


@pytest.mark.parametrize("body", ["", "{", "[]", "null", '{"name": NaN}', '"text"'])
def test_what_is_no_formula_is_refused_in_the_one_shape(client, body):
    answer = client.post("/api/compute", content=body, headers={"content-type": "application/json"})
    assert answer.status_code == 422
    assert answer.json()["error"]["code"] == "malformed"


def test_numbers_beyond_reach_are_refused(client):
    for number in ("1e999", "-1e999", "1e308"):
        content = json.dumps(formula_json({"palm": 12345.0})).replace("12345.0", number)
        answer = client.post("/api/compute", content=content, headers={"content-type": "application/json"})
        assert answer.status_code == 422, number
        assert answer.json()["error"]["problems"][0]["path"] == "blend.lines[0].value"


def test_check_tells_state_and_problems_without_failing(client):
    answer = client.post("/api/compute/check", json=formula_json({"palm": 40.0}))
    assert answer.status_code == 200
    assert answer.json()["state"] == "incomplete"
    assert answer.json()["diagnostics"][0]["code"] == "sum_not_100"


def test_explanation_of_a_quantity(client):
    answer = client.post("/api/compute/explanation?quantity=naoh_g", json=formula_json())
    calculated = client.post("/api/compute", json=formula_json()).json()
    assert answer.json()["value"] == calculated["lye"]["naoh_g"]
    unknown = client.post("/api/compute/explanation?quantity=luck", json=formula_json())
    assert (unknown.status_code, unknown.json()["error"]["code"]) == (404, "unknown_quantity")


def test_balance_and_convert(client):
    blend = formula_json({"palm": 60.0, "coconut": 60.0})["blend"]
    balanced = client.post("/api/blend/balance", json={"blend": blend}).json()["blend"]
    assert [line["value"] for line in balanced["lines"]] == [50, 50]
    converted = client.post("/api/blend/convert", json={"blend": balanced, "to": "weight_g"}).json()["blend"]
    assert [line["value"] for line in converted["lines"]] == [500, 500]
    stuck = client.post("/api/blend/balance", json={"blend": blend, "onto": 9})
    assert problems(stuck) == [("no_such_line", "blend.lines")]


def test_reference_and_catalogue(client):
    reference = client.get("/api/reference").json()
    assert [unit["id"] for unit in reference["weight_units"]] == ["g", "kg", "oz", "lb"]
    oils = client.get("/api/oils").json()
    full = client.get(f"/api/oils/{oils[0]['id']}").json()
    assert full["sap_koh_mg_per_g"]["minimum"] < full["sap_koh_mg_per_g"]["maximum"]
    assert client.get("/api/oils/unobtainium").json()["error"]["code"] == "unknown_oil"


class TestGuard:
    @pytest.mark.parametrize("host", ["soap.example", "127.0.0.1.soap.example", "localhost:x", "", "[::2]:8719"])
    def test_other_hosts_are_refused(self, client, host):
        assert client.get("/api/health", headers={"host": host}).status_code == 400

    @pytest.mark.parametrize("host", ["127.0.0.1:8719", "localhost:9", "LocalHost", "[::1]:8719"])
    def test_loopback_names_are_answered(self, client, host):
        assert client.get("/api/health", headers={"host": host}).status_code == 200

    def test_other_origins_cannot_change_anything(self, client):
        answer = client.post("/api/formulas", json=formula_json(), headers={"origin": "http://soap.example"})
        assert (answer.status_code, answer.json()["error"]["code"]) == (403, "wrong_origin")
        assert client.get("/api/formulas").json()["formulas"] == []
        own = client.post("/api/formulas", json=formula_json(), headers={"origin": "http://127.0.0.1:8719"})
        assert own.status_code == 201

    def test_bodies_are_bounded(self, client):
        answer = client.post("/api/compute", content=b" " * 1_100_000, headers={"content-type": "application/json"})
        assert (answer.status_code, answer.json()["error"]["code"]) == (413, "too_large")

    def test_pages_may_load_only_their_own_files(self, client):
        assert "default-src 'self'" in client.get("/api/health").headers["content-security-policy"]

    def test_unknown_paths_have_the_one_shape(self, client):
        assert client.get("/api/nothing").json()["error"]["code"] == "not_found"
        assert client.delete("/api/compute").json()["error"]["code"] == "method_not_allowed"
