"""Labels over HTTP: what is in the bars, what may be printed, kept once, and refused in plain words."""

import pytest

from api.batches import LOAF, Batch
from api.test_cure import refused, send
from api.test_stock import goods


def label(client, batch_id):
    return client.get(f"/api/labels/{batch_id}").json()


def keep(client, batch_id, revision, **changes):
    design = label(client, batch_id)["design"] | changes
    return client.put(f"/api/labels/{batch_id}", json={"revision": revision, "design": design})


def codes(view):
    return [one["code"] for one in view["diagnostics"]]


@pytest.fixture
def made(client, batch):
    batch.up_to("")
    batch.send(kind="finished")
    send(client, batch.id, kind="unmoulded", sure=True, how="clean")
    send(client, batch.id, kind="cut", sure=True, bars=9)
    return batch


def test_a_label_begins_with_the_name_and_what_is_known(client, made):
    view = label(client, made.id)
    assert view["revision"] == 0
    assert view["design"]["name"] == view["name"]
    assert view["bars"] == 9
    assert {"label_not_fit", "label_not_weighed", "label_maker_missing"} <= set(codes(view))
    for lines in view["lists"].values():
        assert sum(line["percent"] for line in lines) == pytest.approx(100)
    bar = view["lists"]["soap"]
    assert sum(line["grams"] for line in bar) == pytest.approx(view["bar_g"])
    assert view["printed_g"] == view["net"]["printed_g"] < view["bar_g"]


def test_it_is_kept_once_and_by_one_screen(client, made):
    kept = keep(client, made.id, 0, maker="Juniper Ridge", address="Upper Valley 3").json()
    assert (kept["revision"], kept["design"]["maker"]) == (1, "Juniper Ridge")
    assert keep(client, made.id, 0, maker="Other").status_code == 409
    assert label(client, made.id)["design"]["maker"] == "Juniper Ridge"
    assert keep(client, made.id, 1, maker="Other").json()["revision"] == 2


def test_the_next_batch_begins_with_the_last_label(client, made):
    keep(client, made.id, 0, maker="Juniper Ridge", lot_code="X1", net_g=80.0)
    other = Batch(client)
    begins = label(client, other.id)["design"]
    assert (begins["maker"], begins["lot_code"], begins["net_g"]) == ("Juniper Ridge", "", None)


def test_a_planned_batch_has_a_list_and_no_weight(client, batch):
    view = label(client, batch.id)
    assert view["net"] is None
    assert view["last_sale"] is None
    assert view["lists"]["soap"]
    assert client.get("/api/labels/none").status_code == 404


def test_it_prints_when_nothing_stands_in_the_way(client, made):
    keep(client, made.id, 0)
    printed = client.get(f"/api/labels/{made.id}/labels.pdf?count=12")
    assert printed.headers["content-type"] == "application/pdf"
    assert client.get(f"/api/labels/{made.id}/test.pdf").content.startswith(b"%PDF")
    assert client.get(f"/api/labels/{made.id}/labels.pdf?count=0").status_code == 422
    assert client.get(f"/api/labels/{made.id}/labels.pdf?count=501").status_code == 422
    keep(client, made.id, 1, width_mm=30.0, height_mm=15.0)
    assert refused(client.get(f"/api/labels/{made.id}/labels.pdf")) in ("label_name_does_not_fit", "label_does_not_fit")


@pytest.mark.parametrize(
    ("changes", "status"),
    [
        ({"width_mm": "wide"}, 422), ({"languages": []}, 422), ({"languages": ["xx"]}, 422), ({"sheet": {"rows": 0}}, 422),
        ({"name": "x" * 400}, 422), ({"width_mm": -4.0}, 200), ({"net_g": 99999.0}, 200),
    ],
)  # fmt: skip
def test_bad_input_is_refused_or_said(client, made, changes, status):
    kept = keep(client, made.id, 0, **changes)
    assert kept.status_code == status
    if status == 200:
        assert kept.json()["may_print"] is False
        assert kept.json()["drawing"] is None


def test_a_net_weight_above_the_rule_is_said(client, made):
    assert "label_net_more" in codes(keep(client, made.id, 0, net_g=900.0).json())


def test_a_sheet_of_a_scent_says_what_to_name_and_how_much_is_too_much(client):
    batch = Batch(client, scents=[{"scent": "lavender", "percent_of_oils": 3.0}])
    assert "label_no_sheet" in codes(label(client, batch.id))
    certificate = {"allergens_percent": {"linalool": 30.0, "geraniol": 0.001}, "most_percent": 1.0}
    goods(client, "L1", "scent:lavender", "scent", 200, certificate=certificate)
    view = label(client, batch.id)
    named = {one["name"]: one["is_named"] for one in view["allergens"]}
    assert named == {"linalool": True, "geraniol": False}
    assert "Linalool" in view["printed"][0]["text"]
    assert {"label_over_limit"} <= set(codes(view))
    assert "label_no_sheet" not in codes(view)


def test_words_are_looked_at_in_the_languages_of_the_label(client, made):
    view = keep(client, made.id, 0, claim="Heilt Haut. It heals.", languages=["de"]).json()
    assert [flag["words"] for flag in view["flags"]] == ["Heilt"]
    both = keep(client, made.id, 1, claim="Heilt Haut. It heals.", languages=["de", "en"], name="Healing bar").json()
    assert [flag["words"] for flag in both["flags"]] == ["Heilt", "heals"]
    assert [flag["words"] for flag in both["name_flags"]] == ["Healing"]


def test_another_shape_has_the_size_and_sheet_of_such(client, made):
    design = label(client, made.id)["design"]
    box = client.post("/api/labels/reshape", json={"design": design, "shape": "box"}).json()
    assert (box["width_mm"], box["sheet"]["columns"]) == (80.0, 2)
    letter = client.post("/api/labels/sheet", json=box | {"sheet": box["sheet"] | {"page": "letter"}}).json()
    assert letter["page"] == "letter"


def test_bars_of_several_sizes_weigh_what_the_lightest_does(client):
    loaf = {"mould": LOAF, "headroom_mm": 5}
    cuts = [{"bar_mm": bar, "kerf_mm": 1, "trim_mm": 0} for bar in (35, 25)]
    printed = []
    for moulds in ([loaf | {"cut": cuts[1]}], [loaf | {"cut": one} for one in cuts]):
        batch = Batch(client, moulds=moulds, size={"by": "moulds"})
        batch.up_to("")
        batch.send(kind="finished")
        send(client, batch.id, kind="cut", sure=True, bars=9, samples=1)
        printed.append(label(client, batch.id))
    one_size, two_sizes = printed
    assert "label_sizes_differ" not in codes(one_size)
    assert "label_sizes_differ" in codes(two_sizes)
    assert two_sizes["net"]["printed_g"] == pytest.approx(one_size["net"]["printed_g"], abs=1)
