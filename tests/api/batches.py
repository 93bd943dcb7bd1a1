"""Batches for the tests over HTTP."""

from typing import Self

from fastapi.testclient import TestClient

from conftest import formula_json

LOAF = {"name": "Loaf", "shape": {"kind": "loaf", "length_mm": 250, "width_mm": 80, "height_mm": 70}}


def plan_json(**changes):
    cut = {"bar_mm": 25, "kerf_mm": 1, "trim_mm": 0}
    moulds = [{"mould": LOAF, "headroom_mm": 5, "cut": cut}]
    return {"formula": formula_json(), "moulds": moulds} | changes


class Batch:
    """A kept batch, spoken to over HTTP."""

    def __init__(self, client: TestClient, **changes):
        self.client = client
        self.id = client.post("/api/batches", json=plan_json(**changes)).json()["id"]
        self.keys = 0

    @classmethod
    def kept(cls, client: TestClient, batch_id: str) -> Self:
        """One that is kept already, with events of its own: further ones have other keys."""
        batch = cls.__new__(cls)
        batch.client, batch.id, batch.keys = client, batch_id, 50_000
        return batch

    def run(self):
        """What stays as it is for the whole day, and how far it has come."""
        whole = self.client.get(f"/api/batches/{self.id}/run").json()
        return whole | whole.pop("progress")

    def send(self, key: str | None = None, after_seq: int | None = -1, **event):
        """Add an event after the last one there is, unless the test says after which."""
        self.keys += 1
        if after_seq == -1:
            record = self.client.get(f"/api/batches/{self.id}/record").json()
            after_seq = len(record) if isinstance(record, list) else 0
        if event.get("kind") == "started" and "plan_revision" not in event:
            event["plan_revision"] = self.client.get(f"/api/batches/{self.id}").json().get("revision", 1)
        body = {"key": key or f"test-key-{self.keys:05d}", "after_seq": after_seq, "event": event}
        return self.client.post(f"/api/batches/{self.id}/events", json=body)

    def tare(self, item: str, **answers):
        self.keys += 1
        body = {"key": f"tare-key-{self.keys:05d}", "item": item} | answers
        return self.client.post(f"/api/batches/{self.id}/tare", json=body)

    def take(self, item: str, grams: float, **more):
        """Take a weight from the scale, as a screen would that shows the scale's present zero."""
        tare = self.client.get("/api/devices").json()["scale"]["tare"]
        return self.send(kind="captured", item=item, weight_g=grams, source="scale", tare=tare or "", **more)

    def up_to(self, step_id: str):
        if self.run()["state"]["status"] == "planned":
            self.send(kind="started")
        run = self.run()
        for step in run["prepared"]["steps"]:
            if step["id"] == step_id:
                break
            if step["id"] in run["state"]["done"]:
                continue
            if step["weigh"]:
                grams = run["state"]["targets_g"][step["weigh"]["item"]]
                sent = self.send(kind="captured", item=step["weigh"]["item"], weight_g=grams, source="typed")
                assert sent.status_code == 200, sent.json()
            if step["test"]:
                self.send(kind="tested", test=step["test"], outcome=step["outcomes"][0]["id"], ph=None)
            if step["kind"] == "pack":
                self.send(kind="packed", jars=1, weight_g=run["prepared"]["planned"]["size"]["batter_g"])
            sent = self.send(kind="step_done", step=step["id"], confirmed=step["checks"])
            assert sent.status_code == 200, sent.json()
        return self.run()
