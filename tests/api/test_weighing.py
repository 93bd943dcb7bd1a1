"""Weighing over HTTP: the server alone knows from the tares what is in the bowl."""

import json

import pytest

from api.batches import LOAF, Batch
from api.conftest import client_on
from sapolin.core.materials import catalogue as oils
from sapolin.core.materials import ingredients
from sapolin.core.quantities import coefficients

LYE = "lye:naoh"


def play(client, what, grams=0.0):
    return client.post("/api/devices/scale/play", json={"what": what, "grams": grams}).json()["scale"]


def code_of(response):
    return response.json()["error"]["problems"][0]["code"]


@pytest.fixture
def lye(batch):
    batch.up_to(f"weigh-{LYE}")
    return batch


def target_of(batch, item=LYE):
    return batch.run()["state"]["targets_g"][item]


class TestLoads:
    def test_lye_in_two_loads_is_counted_once(self, lye):
        target = target_of(lye)
        lye.tare(LYE)
        lye.take(LYE, 60.0)
        run = lye.tare(LYE).json()
        assert run["weighing"] == {
            "item": LYE, "target_g": target, "in_bowl_g": 60.0, "beside_g": 60.0,
            "to_show_g": pytest.approx(target - 60.0), "needs_tare": False, "tare": run["state"]["tare"]["tare"],
            "load": 1, "loads": 1,
        }  # fmt: skip
        # A device that claims otherwise is not believed.
        run = lye.take(LYE, round(target - 60.0, 1), adds=False).json()
        assert run["state"]["captured_g"][LYE] == pytest.approx(target, abs=0.06)
        assert LYE in run["state"]["settled"]

    def test_a_reading_counts_only_from_a_zero_set_for_it(self, lye):
        assert code_of(lye.take(LYE, 60.0)) == "untared"
        lye.tare(LYE)
        assert code_of(lye.send(kind="captured", item=LYE, weight_g=60.0, source="scale", tare="made-up")) == "untared"

    def test_a_tare_sent_twice_is_one_tare(self, lye):
        body = {"key": "tare-once-only", "item": LYE}
        address = f"/api/batches/{lye.id}/tare"
        first = lye.client.post(address, json=body).json()["state"]["tare"]
        assert lye.client.post(address, json=body).json()["state"]["tare"] == first
        assert lye.client.get("/api/devices").json()["scale"]["tare"] == first["tare"]

    def test_only_a_tare_can_say_that_it_was_tared(self, lye):
        refused = lye.send(kind="tared", item=LYE, tare="made-up")
        assert (refused.status_code, code_of(refused)) == (422, "not_by_itself")


class TestLostZero:
    @pytest.mark.parametrize("loss", ["unplugged", "overloaded", "restarted", "other_batch"])
    def test_the_bowl_has_to_be_emptied_or_its_weight_typed(self, lye, client, database, loss):
        lye.tare(LYE)
        lye.take(LYE, 60.0)
        if loss == "unplugged":
            play(client, "unplug")
            play(client, "plug")
        elif loss == "overloaded":
            play(client, "overload")
            play(client, "clear")
        elif loss == "other_batch":
            other = Batch(client)
            other.up_to("weigh-oil:0")
            assert other.tare("oil:0").status_code == 200
        else:
            restarted = client_on(database)
            restarted.__enter__()
            lye.client = restarted
        # What the scale shows from here on does not count.
        assert code_of(lye.take(LYE, 82.4)) == "untared"
        assert code_of(lye.tare(LYE)) == "zero_lost"
        assert code_of(lye.tare(LYE, sure=True)) == "zero_lost"
        run = lye.tare(LYE, emptied=True).json()
        assert run["weighing"]["to_show_g"] == target_of(lye)
        assert lye.take(LYE, target_of(lye)).json()["state"]["captured_g"][LYE] == target_of(lye)
        if loss == "restarted":
            lye.client.__exit__(None, None, None)

    def test_or_its_true_weight_is_typed(self, lye, client):
        lye.tare(LYE)
        play(client, "unplug")
        assert lye.tare(LYE).status_code == 422
        state = lye.send(kind="captured", item=LYE, weight_g=60.0, source="typed").json()["state"]
        assert state["captured_g"][LYE] == 60.0
        play(client, "plug")
        assert lye.tare(LYE).json()["weighing"]["beside_g"] == 60.0

    def test_an_unplugged_scale_cannot_be_tared(self, lye, client):
        play(client, "unplug")
        refused = lye.tare(LYE)
        assert (refused.status_code, refused.json()["error"]["code"]) == (409, "unplugged")
        assert lye.run()["state"]["tare"] is None

    def test_untaken_material_is_asked_about(self, lye, client):
        lye.tare(LYE)
        play(client, "pour", 100.0)
        assert code_of(lye.tare(LYE)) == "material_on_scale"
        assert lye.tare(LYE, sure=True).status_code == 200


TWO_PORTIONS = [
    {"name": "plain", "share_percent": 60.0, "colours": []},
    {"name": "blue", "share_percent": 40.0, "colours": []},
]


class TestWhatFollowsThePot:
    def overshot(self, client, headroom_mm=8.0):
        moulds = [
            {"mould": client.put("/api/moulds", json=LOAF).json()["mould"], "headroom_mm": headroom_mm, "cut": None}
        ]
        batch = Batch(client, moulds=moulds, portions=TWO_PORTIONS)
        planned = batch.run()["prepared"]["planned"]
        batch.up_to("weigh-oil:0")
        target = target_of(batch, "oil:0")
        batch.send(kind="captured", item="oil:0", weight_g=round(target * 1.08, 1), source="typed")
        assert batch.send(kind="correction_taken", item="oil:0", correction="match_lye").status_code == 200
        batch.send(kind="step_done", step="weigh-oil:0")
        return batch, planned, target * 0.08

    def test_portions_and_fill_are_told_of_what_is_in_the_batch(self, client):
        batch, planned, more = self.overshot(client)
        run = batch.up_to("pour")
        work = run["prepared"] | run["prepared"]["planned"]
        grown = run["actual"]["result"]["batter_g"] - planned["result"]["batter_g"]
        assert grown > more  # The lye and its water followed the oil.
        assert sum(component["batter_g"] for component in work["portions"]) == pytest.approx(
            planned["size"]["batter_g"] + grown, abs=0.5
        )
        assert work["moulds"][0]["batter_g"] == pytest.approx(planned["moulds"][0]["batter_g"] + grown, abs=1.0)
        assert work["moulds"][0]["height_mm"] > planned["moulds"][0]["height_mm"]
        weights = {
            step["id"]: [part["g"] for part in step["text"] if isinstance(part, dict) and part["kind"] == "weight"]
            for step in work["steps"]
        }
        assert weights["split"] == [pytest.approx(portion["batter_g"]) for portion in work["portions"]]
        assert pytest.approx(work["moulds"][0]["batter_g"]) in weights["pour"]

    def test_the_surplus_teaches_the_mould_nothing(self, client):
        batch, _, _ = self.overshot(client)
        batch.up_to("nothing")
        batch.send(kind="finished")
        batch.send(kind="poured", mould=0, difference_ml=0.0)
        assert client.get("/api/moulds").json()[0]["mould"]["calibration_percent"] == 100.0

    def test_step_and_side_panel_tell_one_superfat(self, client):
        batch = Batch(client)
        batch.up_to("weigh-oil:0")
        batch.send(kind="captured", item="oil:0", weight_g=round(target_of(batch, "oil:0") * 1.1, 1), source="typed")
        now = client.get(f"/api/batches/{batch.id}/deviation/oil:0").json()["now"]
        panel = batch.run()["actual"]
        assert now["result"]["lye"]["superfat_interval"] == panel["result"]["lye"]["superfat_interval"]


class TestFrozen:
    def test_nothing_edited_later_moves_a_batch_that_has_begun(self, client, database, monkeypatch):
        batch = Batch(client)
        batch.up_to("trace")
        before = batch.run()
        planned_only = Batch(client)
        was_planned = planned_only.run()
        # Another catalogue, another rule of thumb, other steps: as after an upgrade.
        shipped = dict(coefficients.coefficient_values())
        monkeypatch.setattr(coefficients, "coefficient_values", lambda: {k: v * 1.5 for k, v in shipped.items()})

        heavier = oils.Catalogue(
            tuple(
                oil.model_copy(update={"sap_koh_mg_per_g": oil.sap_koh_mg_per_g.model_copy(
                    update={"typical": oil.sap_koh_mg_per_g.typical * 1.03, "maximum": 400.0}
                )})
                for oil in oils.catalogue().values()
            )
        )  # fmt: skip
        monkeypatch.setattr(oils, "_shipped", lambda: heavier)
        liquids = ingredients.liquids()
        monkeypatch.setattr(ingredients, "_liquids", lambda: liquids)
        from sapolin.services import batches as services

        services._prepared.cache_clear()
        services._thawed.cache_clear()
        with client_on(database) as upgraded:
            after = upgraded.get(f"/api/batches/{batch.id}/run").json()
            after |= after.pop("progress")
            replanned = upgraded.get(f"/api/batches/{planned_only.id}/run").json()
        services._prepared.cache_clear()
        services._thawed.cache_clear()
        for moving in ("now", "minute", "cooling"):
            before.pop(moving), after.pop(moving)
        assert json.dumps(after, sort_keys=True) == json.dumps(before, sort_keys=True)
        # A batch that is only planned does follow.
        result = [run["prepared"]["planned"]["result"] for run in (was_planned, replanned)]
        per_g = [one["lye"]["naoh_g"] / one["total_oils_g"] for one in result]
        assert per_g[1] / per_g[0] == pytest.approx(1.03, abs=1e-6)

    def test_pictures_are_recorded_by_adding_one(self, batch):
        batch.up_to("room")
        refused = batch.send(kind="photographed", file_id=7, name="nowhere")
        assert (refused.status_code, code_of(refused)) == (422, "not_by_itself")
