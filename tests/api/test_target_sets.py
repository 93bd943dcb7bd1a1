"""Targets under a name: kept, replaced by choice, removed with a way back."""

from conftest import formula_json

TARGETS = [
    {"feature": "hardness", "minimum": 38, "maximum": 48, "required": True},
    {"feature": "price_per_kg", "maximum": 6.5},
]


def keep(client, name="Winter guests", targets=TARGETS):
    return client.post("/api/target-sets", json={"name": name, "targets": targets})


def test_a_set_is_kept_as_it_was_given(client):
    assert client.get("/api/target-sets").json() == []
    kept = keep(client, "  Winter guests ")
    assert kept.status_code == 201
    assert kept.json()["name"] == "Winter guests"
    (listed,) = client.get("/api/target-sets").json()
    assert listed == kept.json()
    assert listed["targets"][0] == {"feature": "hardness", "minimum": 38, "maximum": 48, "required": True, "weight": 1}


def test_sets_are_listed_by_name(client):
    for name in ("spring", "Autumn", "winter"):
        keep(client, name)
    assert [row["name"] for row in client.get("/api/target-sets").json()] == ["Autumn", "spring", "winter"]


def test_a_name_is_not_taken_over_unasked(client):
    first = keep(client).json()
    refused = keep(client, "winter GUESTS")
    assert (refused.status_code, refused.json()["error"]["code"]) == (409, "name_taken")
    body = {"name": "Winter guests", "targets": TARGETS[:1]}
    assert client.put(f"/api/target-sets/{first['id']}?revision=1", json=body).json()["targets"] == first["targets"][:1]
    assert len(client.get("/api/target-sets").json()) == 1


def test_what_is_removed_can_be_kept_again(client):
    kept = keep(client).json()
    removed = client.delete(f"/api/target-sets/{kept['id']}").json()
    assert client.get("/api/target-sets").json() == []
    assert keep(client, removed["name"], removed["targets"]).json()["targets"] == kept["targets"]


def test_what_cannot_be_aimed_at_is_refused_at_its_place(client):
    upside_down = keep(client, targets=[TARGETS[0], {"feature": "cleansing", "minimum": 20, "maximum": 10}])
    assert upside_down.status_code == 422
    assert upside_down.json()["error"]["problems"][0]["path"] == "targets[1]"
    assert keep(client, targets=[{"feature": "sparkle", "minimum": 1}]).status_code == 422
    assert keep(client, "   ").status_code == 422
    assert keep(client, targets=[]).status_code == 422
    assert client.delete("/api/target-sets/99").status_code == 404
    assert client.put("/api/target-sets/99?revision=1", json={"name": "x", "targets": TARGETS}).status_code == 404
    assert client.get("/api/target-sets").json() == []


def test_own_target_ranges_travel_with_the_formula(client):
    target_ranges = [{"quality": "hardness", "minimum": 30.0, "maximum": 44.0}]
    record = client.post("/api/formulas", json=formula_json(target_ranges=target_ranges)).json()
    document = client.get(f"/api/formulas/{record['id']}/document").json()
    again = client.post("/api/formulas/import", json=document).json()
    assert again["formula"]["target_ranges"] == target_ranges
    assert client.post("/api/formulas", json=formula_json()).json()["formula"]["target_ranges"] is None
