"""A row that cannot be read is in the way of nothing but itself: every list, every other thing and the export go on."""

import sqlite3
from contextlib import closing

import pytest

from api.conftest import client_on
from api.test_safekeeping import archive_of, bring_in
from demo_copy import put_demo

TABLES = (
    "formulas", "formula_versions", "materials", "moulds", "target_sets", "batches", "batch_starts", "batch_outcomes",
    "batch_events", "cure_events", "cure_taught", "predictions", "trays", "trials", "comparisons", "comparison_events",
    "price_lists", "preparations", "labels", "lots", "ledger", "workshop",
)  # fmt: skip
LISTS = (
    "formulas", "batches", "stock", "today", "coming", "buying", "imports", "preparations", "preparations/starts", "pastes",
    "trays", "trials", "comparisons", "learning", "criteria", "materials", "moulds", "target-sets", "oil-notes", "prices",
    "workshop", "starting-formula", "safekeeping", "find?words=bar", "calendar.ics", "practice",
)  # fmt: skip


def spoil(file, table: str) -> None:
    """Make the newest row of a table unreadable, past what watches over records."""
    column = "value" if table == "workshop" else "content"
    own = "WHERE name NOT LIKE 'mark:%'" if table == "workshop" else ""
    with closing(sqlite3.connect(file)) as connection, connection:
        watching = connection.execute("SELECT name, sql FROM sqlite_master WHERE type = 'trigger'").fetchall()
        for name, _ in watching:
            connection.execute(f'DROP TRIGGER "{name}"')
        newest = f'SELECT max(rowid) FROM "{table}" {own}'
        done = connection.execute(f"UPDATE \"{table}\" SET {column} = '{{' WHERE rowid = ({newest})").rowcount
        assert done == 1
        for _, made_by in watching:
            connection.execute(made_by)


@pytest.mark.parametrize("table", TABLES)
def test_everything_else_goes_on(table, tmp_path):
    file = tmp_path / "sapolin.db"
    put_demo(file)
    spoil(file, table)
    with client_on(file) as client:
        wrong = {name: client.get(f"/api/{name}").status_code for name in LISTS}
        assert {name: status for name, status in wrong.items() if status != 200} == {}
        batches = client.get("/api/batches", params={"limit": 100}).json()["batches"]
        assert len(batches) == 21
        pages = [
            f"/api/{page}"
            for one in batches[::4]
            for page in (
                f"stock/cost/{one['id']}",
                f"labels/{one['id']}",
                f"batches/{one['id']}/cure",
                f"batches/{one['id']}",
            )
        ]
        assert [page for page in pages if client.get(page).status_code >= 500] == []
        assert len(archive_of(client)) > 10_000


def test_what_cannot_be_read_does_not_come_in_and_is_named(tmp_path):
    there = tmp_path / "there.db"
    put_demo(there)
    spoil(there, "formulas")
    with client_on(there) as full, client_on(tmp_path / "here.db") as empty:
        report = bring_in(empty, archive_of(full)).json()["report"]
        left_out = next(one for one in report["left_out"] if one["why"] == "unreadable")
        assert (left_out["what"], left_out["rows"]) == ("formulas", 1)
        assert empty.get("/api/formulas").status_code == 200
