"""Bringing tables in: formulas, lots and past batches; what is not sure is left out and says why; undone at once."""

from base64 import b64encode
from uuid import uuid4

import pytest

from api.test_cure import refused
from api.test_stock import goods
from conftest import formula_json

FORMULAS = """Formula;Oil;Amount;Superfat
Kitchen bar;Coconut oil;300 g;6
;Olive oil;600 g;
;Castor oil;50 g;
Half read;Coconut oil;300 g;5
;Mystery oil;100 g;
Mixed;Lard;50 %;
;Coconut oil;300 g;
"""
LOTS = """Code,Material,Amount,Price,Arrived,Best before,Purity
O9,Olive oil,5 l,33.50,2026-03-02,2027-09-01,
N9,Sodium hydroxide,2 kg,7.80,02.03.2026,,99
N8,Sodium hydroxide,2 kg,7.80,2026-03-02,,
O9,Olive oil,1 kg,8,2026-03-02,,
X1,Mystery wax,1 kg,8,2026-03-02,,
C9,Coconut oil,1 kg,8,3/4/2026,,
"""


def sent(text):
    return {"name": "table.csv", "content": b64encode(text.encode()).decode()}


def preview(client, kind, text, **mapping):
    body = {"kind": kind, "file": sent(text)}
    first = client.post("/api/imports/preview", json=body).json()
    if not mapping:
        return first
    return client.post("/api/imports/preview", json=body | {"mapping": first["mapping"] | mapping}).json()


def bring_in(client, kind, text, key=None, **mapping):
    seen = preview(client, kind, text, **mapping)
    body = {"kind": kind, "file": sent(text), "mapping": seen["mapping"], "key": key or uuid4().hex}
    return client.post("/api/imports", json=body)


def problems(seen):
    return {item["title"]: item["problem"] and item["problem"]["code"] for item in seen["items"]}


def names(client):
    return {one["name"] for one in client.get("/api/formulas").json()["formulas"]}


def test_formulas_whole_or_not_at_all(client):
    seen = preview(client, "formulas", FORMULAS)
    assert problems(seen) == {"Kitchen bar": None, "Half read": "import_unknown_oil", "Mixed": "import_two_units"}
    assert (seen["usable"], seen["left_out"]) == (1, 2)
    assert names(client) == set()
    for _ in range(2):
        kept = bring_in(client, "formulas", FORMULAS, key="formulas-once").json()
    assert len(kept["made"]) == 1
    formula = client.get(f"/api/formulas/{kept['made'][0]}").json()["formula"]
    assert {line["oil"]: line["value"] for line in formula["blend"]["lines"]} == {
        "coconut": 300, "olive-refined": 600, "castor": 50,
    }  # fmt: skip
    assert (formula["superfat_percent"], formula["lye"]["naoh_purity_percent"]) == (6, None)


def test_an_import_is_undone(client):
    kept = bring_in(client, "formulas", FORMULAS).json()
    assert names(client) == {"Kitchen bar"}
    assert client.post(f"/api/imports/{kept['id']}/undo").json() == {"taken_away": 1, "kept": 0}
    assert names(client) == set()
    assert client.get("/api/imports").json()[0]["undone_at"] is not None
    assert client.post("/api/imports/none/undo").status_code == 404


def test_lots_row_by_row(client):
    seen = preview(client, "stock", LOTS)
    found = [(item["title"], item["problem"] and item["problem"]["code"]) for item in seen["items"]]
    assert sorted(found, key=str) == sorted(
        [
            ("O9", None), ("N9", None), ("N8", "lot_purity_missing"), ("O9", "lot_code_taken"),
            ("X1 Mystery wax", "import_unknown_material"), ("C9 Coconut oil", "import_ambiguous_day"),
        ],
        key=str,
    )  # fmt: skip
    kept = bring_in(client, "stock", LOTS, day_first="day").json()
    assert len(kept["made"]) == 3
    lots = {
        lot["lot"]["code"]: lot["lot"] for one in client.get("/api/stock").json()["materials"] for lot in one["lots"]
    }
    assert lots["O9"]["amount_g"] == pytest.approx(4575)
    assert (lots["N9"]["arrived"], lots["C9"]["arrived"]) == ("2026-03-02", "2026-04-03")


def test_a_lot_that_was_used_since_stays(client):
    kept = bring_in(client, "stock", LOTS).json()
    used = kept["made"][0]
    client.post(f"/api/stock/lots/{used}/events", json={"key": "wasted-some", "event": {"kind": "wasted", "grams": 5}})
    assert client.post(f"/api/imports/{kept['id']}/undo").json() == {"taken_away": 1, "kept": 1}
    assert goods(client, "N9").status_code == 201  # the code is free again


def test_batches_of_before_are_made_by_their_plan_and_say_so(client):
    client.post("/api/formulas", json=formula_json() | {"name": "Old bar"})
    table = (
        "Formula;Made;Oils;Bars;Note\nOld bar;2025-05-04;1200 g;11;Good lather\nNo such;2025-05-04;900 g;;\n"
        "Old bar;2099-01-01;900 g;;\n"
    )
    seen = preview(client, "batches", table)
    assert [item["problem"] and item["problem"]["code"] for item in seen["items"]] == [
        "import_unknown_formula", "import_no_day", None,
    ]  # fmt: skip
    kept = bring_in(client, "batches", table).json()
    [batch] = client.get("/api/batches").json()["batches"]
    assert (batch["status"], batch["ended_at"][:10], batch["cure"]["bars"]) == ("made", "2025-05-04", 11)
    assert batch["oils_g"] == pytest.approx(1200, abs=1)
    notes = [one["event"].get("text") for one in client.get(f"/api/batches/{batch['id']}/record").json()]
    assert {"From a table: weights as planned, not as weighed.", "Good lather"} <= set(notes)
    client.post(f"/api/imports/{kept['id']}/undo")
    assert client.get("/api/batches").json()["batches"] == []


@pytest.mark.parametrize(
    ("kind", "text", "code"), [("formulas", "a;b\n1;2\n", "column_missing"), ("stock", "nothing", "no_table")]
)
def test_a_table_that_says_nothing_is_refused(client, kind, text, code):
    body = {"kind": kind, "file": sent(text), "mapping": {}, "key": "nothing-at-all"}
    assert refused(client.post("/api/imports", json=body)) == code
    assert client.get("/api/imports").json() == []


@pytest.mark.parametrize(
    ("mapping", "grams"), [({"unit": "kg", "decimal": ","}, 1500), ({"unit": "oz", "decimal": ","}, 42.52)]
)
def test_a_bare_number_has_the_unit_that_is_chosen(client, mapping, grams):
    table = "Formula;Oil;Amount\nBar;Olive oil;1,5\n"
    assert problems(preview(client, "formulas", table)) == {"Bar": "import_no_amount"}
    [made] = bring_in(client, "formulas", table, **mapping).json()["made"]
    [line] = client.get(f"/api/formulas/{made}").json()["formula"]["blend"]["lines"]
    assert line["value"] == pytest.approx(grams, abs=0.01)
