"""Days are the workshop's: they begin at its own midnight, east and west of Greenwich and when summer time ends."""

from datetime import datetime

import pytest

from api.batches import Batch
from api.test_cure import refused
from api.test_stock import goods, record
from sapolin.store import clock


@pytest.fixture
def at(client, monkeypatch):
    """Set the clock to an instant, UTC, in a workshop with its time zone."""

    def at(zone: str, instant: str) -> None:
        monkeypatch.setattr(clock, "present", lambda: datetime.fromisoformat(instant))
        assert client.patch("/api/workshop", json={"time_zone": zone}).status_code == 200

    return at


def test_goods_of_today_have_arrived_east_of_greenwich(client, at):
    at("Pacific/Kiritimati", "2026-06-30T11:00:00+00:00")  # UTC+14: 1 July, 1 h
    assert goods(client, "O1", arrived="2026-07-01", best_before="2026-12-01").status_code == 201
    assert refused(goods(client, "O2", arrived="2026-07-02", best_before="2026-12-01")) == "lot_arrives_later"


def test_goods_of_tomorrow_have_not_arrived_west_of_greenwich(client, at):
    at("Pacific/Pago_Pago", "2026-07-01T05:00:00+00:00")  # UTC-11: 30 June, 18 h
    assert refused(goods(client, "O1", arrived="2026-07-01", best_before="2026-12-01")) == "lot_arrives_later"
    assert goods(client, "O2", arrived="2026-06-30", best_before="2026-12-01").status_code == 201


def test_a_lot_is_past_from_the_workshops_own_midnight(client, at):
    at("Pacific/Pago_Pago", "2026-07-01T05:00:00+00:00")
    kept = goods(client, "O1", arrived="2026-06-01", best_before="2026-06-30").json()
    assert client.get(f"/api/stock/lots/{kept['id']}").json()["keeping"]["is_past"] is False
    at("Pacific/Pago_Pago", "2026-07-01T12:00:00+00:00")
    assert client.get(f"/api/stock/lots/{kept['id']}").json()["keeping"]["is_past"] is True


def test_what_is_planned_for_a_day_is_due_all_of_it(client, at):
    """25 October 2026 has 25 hours in Zurich."""
    batch = Batch(client, make_on="2026-10-25")
    standings = {}
    for instant in ("2026-10-24T21:30", "2026-10-24T22:30", "2026-10-25T22:30", "2026-10-25T23:10"):
        at("Europe/Zurich", f"{instant}:00+00:00")
        [due] = [one for one in client.get("/api/today").json()["due"] if one["batch_id"] == batch.id]
        standings[instant] = due["standing"]
    assert [*standings.values()] == ["later", "now", "now", "late"]


def test_what_lies_ahead_is_not_booked(client, at):
    at("Europe/Zurich", "2026-10-25T12:00:00+00:00")
    kept = goods(client, "O1", arrived="2026-10-01", best_before="2026-12-01").json()
    ahead = {"key": "ahead-ahead", "at": "2026-10-25T14:00:00+01:00", "event": {"kind": "opened"}}
    at_lot = f"/api/stock/lots/{kept['id']}/events"
    assert refused(client.post(at_lot, json=ahead)) == "in_the_future"
    assert client.post(at_lot, json=ahead | {"at": "2026-10-25T13:05:00+01:00"}).status_code == 200
    assert record(client, kept["id"], kind="wasted", grams=10, why="spilt").status_code == 200


def test_a_zone_that_this_machine_does_not_know_leaves_its_own():
    assert clock.zone_named("Mars/Olympus") == clock.zone_named("")


def test_an_unknown_time_zone_is_refused_in_words(client):
    answer = client.patch("/api/workshop", json={"time_zone": "Mars/Olympus"})
    assert refused(answer) == "unknown_time_zone"
