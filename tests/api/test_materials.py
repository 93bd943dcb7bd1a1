"""Own materials over HTTP: kept, checked, changed without touching formulas; pastes mixed."""

from api.conftest import client_on
from conftest import formula_json


def certificate(**changes) -> dict:
    content = {"kind": "certificate", "of": "coconut", "sap_koh_mg_per_g": 259.5}
    return {"id": "own-new", "name": "Coconut, lot 7", "content": content} | changes


def recipe(name: str, *components: tuple[str, float]) -> dict:
    lines = [{"oil": oil, "share_percent": share} for oil, share in components]
    return {"id": "own-new", "name": name, "content": {"kind": "recipe", "components": lines}}


def keep(client, material: dict) -> dict:
    answer = client.post("/api/materials", json=material)
    assert answer.status_code == 201, answer.text
    return answer.json()


def test_kept_and_found_again_after_a_restart(client, database):
    kept = keep(client, certificate())
    assert kept["record"]["material"]["id"].startswith("own-coconut-lot-7-")
    assert kept["summary"]["sap_koh_mg_per_g"] == 259.5
    with client_on(database) as restarted:
        assert restarted.get("/api/materials").json() == [kept]


def test_a_mixture_brings_what_it_is_made_of(client):
    lot = keep(client, certificate())["record"]["material"]["id"]
    master = keep(client, recipe("Master", (lot, 60.0), ("cocoa", 40.0)))
    assert [entry["name"] for entry in master["definitions"]] == ["Coconut, lot 7", "Master"]
    formula = formula_json({master["record"]["material"]["id"]: 100.0}, materials=master["definitions"])
    result = client.post("/api/compute", json=formula).json()
    # 1000 g x (0.6 x 259.5 + 0.4 x 194) / 1000
    assert result["lye"]["koh_equivalent_g"] == 0.6 * 259.5 + 0.4 * 194


def test_a_change_on_the_shelf_touches_no_formula(client):
    kept = keep(client, certificate())
    material = kept["record"]["material"]
    formula = formula_json({material["id"]: 100.0}, materials=kept["definitions"])
    record = client.post("/api/formulas", json=formula).json()
    changed = material | {"content": material["content"] | {"sap_koh_mg_per_g": 250.0}}
    path = f"/api/materials/{material['id']}"
    assert client.put(path, json={"revision": 1, "material": changed}).json()["record"]["revision"] == 2
    assert client.put(path, json={"revision": 1, "material": changed}).status_code == 409
    again = client.get(f"/api/formulas/{record['id']}").json()["formula"]
    assert client.post("/api/compute", json=again).json()["lye"]["koh_equivalent_g"] == 259.5


def test_archived_and_back(client):
    material_id = keep(client, certificate())["record"]["material"]["id"]
    client.delete(f"/api/materials/{material_id}")
    assert client.get("/api/materials").json() == []
    assert len(client.get("/api/materials", params={"deleted": True}).json()) == 1
    client.post(f"/api/materials/{material_id}/restore")
    assert len(client.get("/api/materials").json()) == 1
    assert client.delete("/api/materials/own-nothing").status_code == 404


def test_an_unsound_material_is_refused_with_its_entries(client):
    odd = certificate(content={"kind": "sap", "sap_koh_mg_per_g": 19.0, "solid_at_20_c": True})
    error = client.post("/api/materials", json=odd).json()["error"]
    assert error["problems"][0]["path"] == "content.sap_koh_mg_per_g"
    assert error["problems"][0]["offers"][0]["value"] == 190.0
    assert client.get("/api/materials").json() == []


def test_a_ring_is_found_against_what_is_kept(client):
    first = keep(client, recipe("First", ("coconut", 100.0)))["record"]["material"]
    second = keep(client, recipe("Second", (first["id"], 100.0)))["record"]["material"]
    ring = first | recipe("First", (second["id"], 100.0)) | {"id": first["id"]}
    checked = client.post("/api/materials/check", json=ring).json()
    assert [problem["code"] for problem in checked["problems"]] == ["cycle"]
    assert client.put(f"/api/materials/{first['id']}", json={"revision": 1, "material": ring}).status_code == 422


def test_the_reference_names_what_the_screens_offer(client):
    reference = client.get("/api/reference").json()
    assert len(reference["liquids"]) >= 15
    assert {"citric-acid", "baking-soda", "sodium-lactate-60"} <= {entry["id"] for entry in reference["additives"]}
    assert set(reference["purposes_to_solve"]) == {one["id"] for one in reference["purposes"]} - {"lye-heavy-paste"}
    assert {"palm", "tree nuts", "milk"} <= set(reference["free_of"])
    rules = client.get("/api/coefficients").json()
    assert all(entry["meaning"] and entry["source"] for entry in rules)
    assert "coefficients" not in reference


ALL_KOH = {"naoh_purity_percent": None, "koh": {"by": "saponification_percent", "value": 100, "purity_percent": 90}}


def paste(oil: str) -> dict:
    return formula_json({oil: 100.0}, purpose="liquid-soap", superfat_percent=2.0, lye=ALL_KOH)


def test_pastes_are_mixed_by_the_soap_they_bring(client):
    order = {"pastes": [{"formula": paste("coconut"), "weight_g": 300}, {"formula": paste("olive-refined"), "weight_g": 700}],
             "soap_percent": 20}  # fmt: skip
    mixed = client.post("/api/compute/paste-mix", json=order).json()
    alone = [client.post("/api/compute", json=paste(oil)).json() for oil in ("coconut", "olive-refined")]
    soap_g = [weight * one["paste"]["soap_percent"] / 100 for weight, one in zip((300, 700), alone, strict=True)]
    assert abs(mixed["mix"]["soap_g"] - sum(soap_g)) < 1e-6
    assert abs(mixed["yield_g"] - sum(soap_g) / 0.2) < 1e-6
    lauric = alone[0]["acids"][2]["percent"] * soap_g[0] / sum(soap_g)
    assert abs(mixed["mix"]["acids_percent"][2] - lauric) < 0.05


def test_a_bar_does_not_mix_as_paste(client):
    answer = client.post("/api/compute/paste-mix", json={"pastes": [{"formula": formula_json(), "weight_g": 100}]})
    assert answer.status_code == 422
    assert answer.json()["error"]["problems"][0]["path"] == "pastes[0].formula.purpose"


def test_prices_are_kept_and_calculated_with(client, database):
    formula = formula_json({"olive-refined": 60.0, "coconut": 40.0})
    assert client.post("/api/prices/cost", json=formula).json()["unpriced"] == ["Olive, refined", "Coconut"]
    client.put("/api/prices/olive-refined", json={"per_kg": 6.0})
    client.put("/api/prices/coconut", json={"per_kg": 5.0})
    with client_on(database) as restarted:
        assert restarted.post("/api/prices/cost", json=formula).json() == {"per_kg": 5.6, "total": 5.6, "unpriced": []}
    assert client.put("/api/prices/coconut", json={"per_kg": None}).json() == {"olive-refined": 6.0}
    assert client.put("/api/prices/coconut", json={"per_kg": -1}).status_code == 422
