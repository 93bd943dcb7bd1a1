"""Buying over HTTP: what is short, price lists, the cheapest purchase, and what to take along."""

import csv
from base64 import b64encode
from io import StringIO

import pytest

from api.batches import Batch
from api.test_cure import refused
from api.test_stock import goods

LIST = "Article;Pack;Price\nOlive oil;1 l;8,20\nOlive oil;5 l;33,50\nCoconut oil;1 kg;5,40\nMystery wax;1 kg;3,00\n"


def sent(text=LIST, name="list.csv"):
    return {"name": name, "content": b64encode(text.encode()).decode()}


def preview(client, text=LIST, **more):
    return client.post("/api/price-lists/preview", json={"file": sent(text)} | more)


def keep(client, text=LIST, supplier="Mill", **more):
    columns = preview(client, text).json()["columns"]
    return client.post("/api/price-lists", json={"file": sent(text), "supplier": supplier, "columns": columns} | more)


def buying(client):
    return client.get("/api/buying").json()


@pytest.fixture
def short(client):
    """A planned batch, and 300 g of its olive oil on the shelf."""
    goods(client, "O1", grams=300)
    return Batch(client)


def test_a_list_is_seen_before_it_is_kept(client):
    seen = preview(client).json()
    assert seen["columns"]["fields"] == {"name": "Article", "pack": "Pack", "price": "Price"}
    assert (seen["read"]["usable"], seen["read"]["unmatched"], seen["read"]["unreadable"]) == (3, 1, 0)
    assert seen["read"]["rows"][0]["name"] == "Mystery wax"
    assert buying(client)["lists"] == []
    assert refused(preview(client, "nothing")) == "no_table"


def test_how_it_was_read_is_remembered_of_its_supplier(client):
    columns = preview(client).json()["columns"] | {"chosen": {"Mystery wax": "beeswax"}, "decimal": ","}
    client.post("/api/price-lists", json={"file": sent(), "supplier": " The  Mill ", "columns": columns})
    again = preview(client, LIST.replace("3,00", "3,10"), supplier="the mill").json()
    assert again["is_remembered"]
    assert (again["read"]["usable"], again["read"]["unmatched"]) == (4, 0)
    other = preview(client, LIST.replace("Article", "Product"), supplier="the mill").json()
    assert not other["is_remembered"]


def test_a_new_list_takes_the_place_of_the_last_and_can_be_archived_and_restored(client):
    first = keep(client).json()
    second = keep(client, LIST.replace("8,20", "7,00"), supplier="MILL").json()
    assert [one["id"] for one in buying(client)["lists"]] == [second["id"]]
    client.delete(f"/api/price-lists/{second['id']}")
    assert buying(client)["lists"] == []
    client.post(f"/api/price-lists/{first['id']}/restore")
    assert [one["id"] for one in buying(client)["lists"]] == [first["id"]]
    assert client.delete("/api/price-lists/none").status_code == 404


def test_what_planned_batches_are_short_of_is_bought_as_cheaply_as_can_be(client, short):
    keep(client, freight=4.0)
    now = buying(client)
    [need] = now["needs"]
    assert (need["material"], need["batches"]) == ("olive-refined", [short.run()["record"]["code"]])
    [order] = now["purchase"]["orders"]
    grams = need["short_g"]
    # Packs of 915 and 4575 g: as many small ones as cost no more than a large one.
    small = -(-grams // 915)
    assert now["purchase"]["goods"] == pytest.approx(min(8.2 * small, 33.5))
    assert order["freight"] == 4.0
    assert now["purchase"]["is_proven"]


def test_something_else_can_be_bought_too(client):
    keep(client)
    client.patch(
        "/api/workshop", json={"also_buy": [{"material": "coconut", "grams": 1500}, {"material": "emu", "grams": 10}]}
    )
    now = buying(client)
    assert now["purchase"]["total"] == pytest.approx(10.8)
    assert now["purchase"]["not_offered"] == ["emu"]
    assert client.patch("/api/workshop", json={"also_buy": [{"material": "coconut", "grams": 0}]}).status_code == 422


def test_the_list_for_a_spreadsheet_and_on_paper(client):
    text = LIST.replace("Coconut oil;", "=Coconut oil;")
    columns = preview(client, text).json()["columns"]
    client.post("/api/price-lists", json={"file": sent(text), "supplier": "Mill", "columns": columns, "freight": 3.5})
    client.patch("/api/workshop", json={"also_buy": [{"material": "coconut", "grams": 1500}]})
    answer = client.get("/api/buying/list.csv")
    assert answer.content.startswith(b"\xef\xbb\xbf")
    rows = list(csv.reader(StringIO(answer.content.decode("utf-8-sig"))))
    assert rows[1][:4] == ["Mill", "'=Coconut oil", "Coconut", "2"]
    assert rows[2] == ["Mill", "freight", "", "", "", "", "", "3.50"]
    assert client.get("/api/buying/list.pdf").content.startswith(b"%PDF")


@pytest.mark.parametrize(
    ("more", "status"),
    [({"supplier": " "}, 422), ({"freight": -1}, 422), ({"file": {"name": "x", "content": "%%"}}, 422)],
)
def test_bad_input_keeps_nothing(client, more, status):
    assert keep(client, **more).status_code == status if "file" not in more else True
    if "file" in more:
        body = {"supplier": "Mill", "columns": {}} | more
        assert client.post("/api/price-lists", json=body).status_code == status
    assert buying(client)["lists"] == []


def test_the_demo_buys_from_two_suppliers(demo):
    now = buying(demo)
    assert {one["supplier"] for one in now["lists"]} == {"The mill", "Valley store"}
    assert now["purchase"]["is_proven"]
    assert {"lard", "coconut", "shea", "packaging:paper wrap"} == {one["material"] for one in now["needs"]}


def test_what_is_needed_first_comes_first_with_its_day(client):
    goods(client, "O1", grams=300)
    goods(client, "C1", "coconut", grams=10)
    client.patch("/api/workshop", json={"also_buy": [{"material": "shea", "grams": 100}]})
    for day in (None, "2031-05-04", "2031-04-02"):
        Batch(client, make_on=day)
    needs = buying(client)["needs"]
    assert {one["material"]: one["by"] for one in needs} == {
        "olive-refined": "2031-04-02", "coconut": "2031-04-02", "shea": None,
    }  # fmt: skip
    assert needs[-1]["material"] == "shea"
    # The next batch of a formula has no day yet.
    [batch, *_] = client.get("/api/batches").json()["batches"]
    assert batch["make_on"] == "2031-04-02"


def test_what_a_price_is_for_stands_in_its_heading_or_is_asked(client):
    goods(client, material="coconut", grams=5000, price=20)
    rows = "Coconut oil;5 kg;4.20\nLard;10 kg;3.10\n"
    by_kg = preview(client, f"Name;Pack;Price/kg\n{rows}").json()
    assert (by_kg["columns"]["priced_by"], by_kg["read"]["doubts"]) == ("kg", [])
    assert by_kg["read"]["rows"][0]["pack_price"] == pytest.approx(21)
    plain = preview(client, f"Name;Pack;Price\n{rows}").json()
    assert plain["columns"]["priced_by"] == "pack"
    assert [one["code"] for one in plain["read"]["doubts"]] == ["prices_far_off"]
