"""Safekeeping over HTTP: everything goes out as one zip and comes in again, nothing more and nothing less; faults leave a trace
that can be found, and says nothing of what was typed."""

import csv
import hashlib
import io
import json
import sqlite3
import time
import zipfile
from contextlib import closing
from itertools import pairwise
from pathlib import Path
from threading import Event, Thread
from uuid import uuid4

import jsonschema
import pytest

from api.batches import Batch
from api.conftest import client_on
from api.pictures import kept, taken
from api.test_stock import goods
from conftest import formula_json
from demo_copy import put_demo
from sapolin.core.formula.document import Formula
from sapolin.exchange.formula_document import read_document
from sapolin.store.backup import Backups
from sapolin.store.tables import FOR_LISTS, NOT_KEPT

ZIP = {"content-type": "application/zip"}


def everything(file: Path) -> dict[str, list[tuple]]:
    """Every row of every table, without what is derived from others, and how often each was saved."""
    with closing(sqlite3.connect(file)) as connection:
        connection.row_factory = sqlite3.Row
        tables = [row[0] for row in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")]
        return {
            table: [
                tuple((key, row[key]) for key in row.keys() if key not in {*FOR_LISTS, "revision"})  # noqa: SIM118
                for row in connection.execute(f'SELECT * FROM "{table}" ORDER BY rowid')
                if not str(row[0]).startswith("mark:")
            ]
            for table in tables
            if table not in {"sqlite_sequence", *NOT_KEPT}
        }


def archive_of(client) -> bytes:
    sent = client.get("/api/safekeeping/archive")
    assert sent.status_code == 200
    return sent.content


def bring_in(client, content: bytes):
    return client.post("/api/safekeeping/archive", content=content, headers=ZIP)


def changed(content: bytes, changes: dict[str, bytes | None]) -> bytes:
    """An archive with other entries; null leaves one out."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(content)) as old, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as new:
        for name in old.namelist():
            if changes.get(name, b"") is not None:
                new.writestr(name, changes.get(name) or old.read(name))
        for name in changes.keys() - set(old.namelist()):
            new.writestr(name, changes[name] or b"")
    return out.getvalue()


@pytest.fixture
def full(tmp_path):
    """The demo as if it were a workshop's own, with a picture in it."""
    directory = tmp_path / "full"
    directory.mkdir()
    put_demo(directory / "sapolin.db")
    with client_on(directory / "sapolin.db") as client:
        making = next(one for one in client.get("/api/batches").json()["batches"] if one["status"] == "making")
        sent = client.post(
            f"/api/batches/{making['id']}/photos", params={"key": "photo-key-1"}, content=taken(400, 300), headers={
                "content-type": "image/png"
            },
        )  # fmt: skip
        assert sent.status_code == 200, sent.text
        yield client


class TestArchive:
    def test_into_an_empty_workshop_every_record_comes_back_equal(self, full, tmp_path):
        content = archive_of(full)
        with client_on(tmp_path / "empty.db") as empty:
            done = bring_in(empty, content)
            assert done.status_code == 200, done.text
            report = done.json()["report"]
            assert sum(table["kept"] for table in report["tables"]) == 0
            assert report["renamed"] == []
        assert everything(tmp_path / "empty.db") == everything(tmp_path / "full" / "sapolin.db")

    def test_a_second_time_nothing_comes_in(self, full, tmp_path):
        content, before = archive_of(full), everything(tmp_path / "full" / "sapolin.db")
        done = bring_in(full, content).json()
        assert sum(table["added"] for table in done["report"]["tables"]) == 0
        assert everything(tmp_path / "full" / "sapolin.db") == before

    def test_into_a_used_one_what_is_there_stays_and_all_of_it_can_be_taken_back(self, full, client, database):
        own = client.post("/api/formulas", json=formula_json(name="Ours")).json()
        plan = {"formula_id": own["id"], "version": 0}
        before = everything(database)
        done = bring_in(client, archive_of(full)).json()
        names = {one["name"] for one in client.get("/api/formulas", params={"limit": 100}).json()["formulas"]}
        theirs = {one["name"] for one in full.get("/api/formulas", params={"limit": 100}).json()["formulas"]}
        assert names == theirs | {"Ours"}
        assert plan["formula_id"] in {one["id"] for one in client.get("/api/formulas").json()["formulas"]}
        codes = [one["code"] for one in client.get("/api/batches", params={"limit": 100}).json()["batches"]]
        assert len(codes) == 21
        assert client.post(f"/api/safekeeping/backups/{done['undo']['name']}/restore").status_code == 200
        assert everything(database) == before

    def test_lists_show_what_comes_in_by_the_habits_of_this_workshop(self, client, fit_batch, tmp_path):
        there = client.get("/api/batches").json()["batches"][0]["cure"]
        with client_on(tmp_path / "by-weeks.db") as other:
            other.patch("/api/workshop", json={"ready_by": "weeks"})
            bring_in(other, archive_of(client))
            [listed] = other.get("/api/batches").json()["batches"]
            seen = other.get(f"/api/batches/{fit_batch.id}/cure").json()
        assert listed["cure"]["ready_at"][:19] == seen["ready_at"][:19] != there["ready_at"][:19]

    def test_a_code_that_is_taken_gets_a_letter_and_every_other_batch_keeps_its_own(self, full, client):
        theirs = {one["id"]: one["code"] for one in full.get("/api/batches", params={"limit": 100}).json()["batches"]}
        own = Batch(client)
        code = client.get(f"/api/batches/{own.id}").json()["code"]
        assert code in theirs.values()
        done = bring_in(client, archive_of(full)).json()
        assert done["report"]["renamed"] == [f"{code} → {code}a"]
        found = {one["id"]: one["code"] for one in client.get("/api/batches", params={"limit": 100}).json()["batches"]}
        assert found == {one: f"{was}a" if was == code else was for one, was in theirs.items()} | {own.id: code}

    def test_pictures_and_sets_of_targets_whose_numbers_are_taken_come_in_under_others(self, full, client):
        own = Batch(client)
        own.send(kind="started")
        photos = f"/api/batches/{own.id}/photos"
        png = {"content-type": "image/png"}
        client.post(photos, params={"key": "photo-key-9"}, content=taken(20, 10), headers=png)
        targets = {"targets": [{"feature": "hardness", "minimum": 38, "maximum": 48, "required": True}]}
        assert client.post("/api/target-sets", json={"name": "Ours", **targets}).status_code == 201
        theirs = {one["name"] for one in full.get("/api/target-sets").json()}
        done = bring_in(client, archive_of(full))
        assert done.status_code == 200
        assert {one["name"] for one in client.get("/api/target-sets").json()} == theirs | {"Ours"}
        making = next(one for one in full.get("/api/batches").json()["batches"] if one["status"] == "making")
        for batch_id, size in ((making["id"], (400, 300)), (own.id, (20, 10))):
            (photo,) = client.get(f"/api/batches/{batch_id}/run").json()["progress"]["state"]["photos"]
            number = photo["what"].partition(":")[0]
            assert kept(client.get(f"/api/batches/{batch_id}/photos/{number}").content).size == size

    def test_a_lot_whose_code_is_taken_comes_in_with_a_letter(self, client, tmp_path):
        ours = goods(client, code="O1", grams=1000).json()["id"]
        with client_on(tmp_path / "other.db") as other:
            theirs = goods(other, code="O1", grams=7000).json()["id"]
            done = bring_in(client, archive_of(other)).json()["report"]
        assert done["renamed"] == ["O1 → O1a"]
        lots = {lot: client.get(f"/api/stock/lots/{lot}").json()["lot"] for lot in (ours, theirs)}
        assert [(lots[one]["code"], lots[one]["amount_g"]) for one in (ours, theirs)] == [("O1", 1000), ("O1a", 7000)]

    def test_what_a_shared_thing_has_only_there_is_named(self, client, batch, tmp_path):
        batch.send(kind="started")
        with client_on(tmp_path / "other.db") as other:
            bring_in(other, archive_of(client))
            Batch.kept(other, batch.id).send(kind="noted", text="only there")
            archive = archive_of(other)
        code = client.get(f"/api/batches/{batch.id}").json()["code"]
        report = bring_in(client, archive).json()["report"]
        left = {(one["what"], one["name"], one["rows"]) for one in report["left_out"]}
        assert ("entries of make days", code, 1) in left
        assert all("only there" not in str(one) for one in client.get(f"/api/batches/{batch.id}/record").json())

    def test_other_programs_can_read_it(self, full):
        before = full.get("/api/formulas").json()["total"]
        assert full.post("/api/formulas", json=formula_json(name="=1+1 Ölbad")).status_code == 201
        with zipfile.ZipFile(io.BytesIO(archive_of(full))) as archive:
            assert archive.testzip() is None
            names = archive.namelist()
            documents = [name for name in names if name.startswith("formulas/")]
            for name in documents:
                assert isinstance(read_document(archive.read(name)), Formula)
            content = archive.read("tables.csv/formulas.csv")
            assert content.startswith(b"\xef\xbb\xbf")
            rows = list(csv.DictReader(io.StringIO(content.decode("utf-8-sig"))))
            assert len(rows) == len(documents) == before + 1
            assert "'=1+1 Ölbad" in {row["name"] for row in rows}
            lots = list(csv.DictReader(io.StringIO(archive.read("tables.csv/lots.csv").decode("utf-8-sig"))))
            assert all(float(lot["came_in_g"]) > 0 for lot in lots)
            pictures = [name for name in names if name.startswith("files/")]
            assert [archive.read(name)[:2] for name in pictures] == [b"\xff\xd8"]
            manifest = json.loads(archive.read("manifest.json"))
            assert set(manifest["sha256"]) == set(names) - {"manifest.json"}

    def refused(self, client, database, content: bytes) -> str:
        before = everything(database)
        answer = bring_in(client, content)
        assert (answer.status_code, answer.json()["error"]["code"]) == (422, "not_an_archive")
        assert everything(database) == before
        message: str = answer.json()["error"]["message"]
        assert message.endswith(".")
        return message

    def test_every_row_is_as_the_published_schema_says(self, full):
        published = json.loads((Path(__file__).parents[2] / "docs" / "archive.schema.json").read_text())
        with zipfile.ZipFile(io.BytesIO(full.get("/api/safekeeping/archive").content)) as archive:
            assert json.loads(archive.read("schema.json")) == published
            jsonschema.validate(json.loads(archive.read("manifest.json")), published)
            rows_of = published["$defs"]["rows"]["$defs"]
            seen = 0
            for entry in archive.namelist():
                if not entry.endswith(".jsonl"):
                    continue
                validator = jsonschema.Draft202012Validator(rows_of[Path(entry).stem])
                for line in archive.read(entry).splitlines():
                    validator.validate(json.loads(line))
                    seen += 1
            assert seen > 500
            with pytest.raises(jsonschema.ValidationError):
                jsonschema.validate({"id": 1}, rows_of["formulas"])

    def test_what_is_no_archive_or_was_changed_is_refused_and_nothing_comes_in(self, full, client, database):
        good = archive_of(full)
        manifest = json.loads(zipfile.ZipFile(io.BytesIO(good)).read("manifest.json"))
        assert "cannot be opened as a zip" in self.refused(client, database, b"no zip at all")
        assert "cannot be opened as a zip" in self.refused(client, database, good[: len(good) // 2])
        assert "no list of its contents" in self.refused(client, database, changed(good, {"manifest.json": None}))
        name = "tables/formulas.jsonl"
        assert "not as it was written" in self.refused(client, database, changed(good, {name: b'{"id":"x"}\n'}))
        assert "newer Sapolin" in self.refused(
            client,
            database,
            changed(good, {"manifest.json": json.dumps(manifest | {"database_format": "9999"}).encode()}),
        )
        assert "newer Sapolin" in self.refused(
            client, database, changed(good, {"manifest.json": json.dumps(manifest | {"format_version": 2}).encode()})
        )
        assert "grows more" in self.refused(client, database, changed(good, {"files/bomb.bin": b"0" * 30_000_000}))

    def test_rows_that_fit_no_table_are_refused(self, full, client, database):
        import hashlib

        good = archive_of(full)
        manifest = json.loads(zipfile.ZipFile(io.BytesIO(good)).read("manifest.json"))
        for row in (
            b"[" * 100_000,
            b'{"id":"x","evil":1}\n',
            b'{"id":{"file":"../../etc/passwd"}}\n',
            b"[]\n",
            b"not json\n",
        ):
            manifest["sha256"]["tables/moulds.jsonl"] = hashlib.sha256(row).hexdigest()
            entries = {"tables/moulds.jsonl": row, "manifest.json": json.dumps(manifest).encode()}
            self.refused(client, database, changed(good, entries))

    def test_only_a_zip_is_taken(self, client):
        answer = client.post("/api/safekeeping/archive", content=b"PK", headers={"content-type": "text/plain"})
        assert answer.status_code == 422


class TestBackups:
    def test_one_is_taken_looked_at_and_put_back(self, client):
        kept = client.post("/api/formulas", json=formula_json(name="Then")).json()
        taken_now = client.post("/api/safekeeping/backups").json()
        client.put(
            f"/api/formulas/{kept['id']}", json={"revision": kept["revision"], "formula": formula_json(name="Now")}
        )
        address = f"/api/safekeeping/backups/{taken_now['name']}"
        found = {one["table"]: one for one in client.get(f"{address}/differences").json()}
        assert found["formulas"]["would_change"] == 1
        before = client.post(f"{address}/restore").json()
        assert before["reason"] == "restore"
        assert client.get(f"/api/formulas/{kept['id']}").json()["formula"]["name"] == "Then"
        state = client.get("/api/safekeeping").json()
        assert [one["name"] for one in state["backups"]][:2] == [before["name"], taken_now["name"]]
        file = client.get(f"{address}/file")
        assert file.content.startswith(b"SQLite format 3")

    def test_the_one_that_is_due_is_said_to_be_on_its_way_until_it_is_there(self, tmp_path, monkeypatch):
        may_be_taken = Event()
        take_if_due = Backups.take_if_due
        monkeypatch.setattr(Backups, "take_if_due", lambda self: may_be_taken.wait(60) and take_if_due(self))
        with client_on(tmp_path / "new.db") as client:
            kept = client.get("/api/safekeeping").json()
            assert (kept["is_looking"], kept["backups"]) == (True, [])
            assert client.get("/api/health").json()["is_looking"]
            may_be_taken.set()
            until = time.monotonic() + 60
            while (kept := client.get("/api/safekeeping").json())["is_looking"]:
                assert time.monotonic() < until
                time.sleep(0.02)
            assert [one["reason"] for one in kept["backups"]] == ["weekly"]
            assert not client.get("/api/health").json()["is_looking"]

    def test_of_the_demo_none_is_on_its_way(self, demo):
        demo.app.state.is_looking = True
        assert not demo.get("/api/safekeeping").json()["is_looking"]

    def test_one_of_a_newer_sapolin_is_refused(self, client, database):
        name = client.post("/api/safekeeping/backups").json()["name"]
        with closing(sqlite3.connect(database.parent / "backups" / name)) as connection, connection:
            connection.execute("UPDATE alembic_version SET version_num = '9999'")
        answer = client.post(f"/api/safekeeping/backups/{name}/restore")
        assert answer.status_code == 422
        assert "newer Sapolin" in answer.json()["error"]["message"]
        assert client.get("/api/formulas").status_code == 200

    def test_the_second_place_is_checked(self, client, tmp_path):
        refusal = client.put("/api/safekeeping/second-place", json={"folder": "somewhere"})
        assert (refusal.status_code, refusal.json()["error"]["code"]) == (422, "backup")
        chosen = client.put("/api/safekeeping/second-place", json={"folder": str(tmp_path / "stick")}).json()
        assert (chosen["second_place"], chosen["second_place_is_there"]) == (str(tmp_path / "stick"), True)
        assert client.post("/api/safekeeping/backups").json()["in_second_place"]

    def test_one_is_taken_before_the_demo_is_reset(self, demo):
        demo.post("/api/demo/reset", json={"confirm": True})
        assert [one["reason"] for one in demo.get("/api/safekeeping").json()["backups"]] == ["reset"]

    def test_no_other_site_can_put_one_back(self, client):
        name = client.post("/api/safekeeping/backups").json()["name"]
        answer = client.post(f"/api/safekeeping/backups/{name}/restore", headers={"origin": "http://elsewhere.example"})
        assert answer.status_code == 403


class TestWatch:
    @pytest.mark.parametrize("how", ["deleted", "replaced"])
    def test_a_database_that_went_under_it_is_said_and_nothing_is_called_saved(self, client, database, how):
        kept = client.post("/api/formulas", json=formula_json()).json()
        copy = database.read_bytes()
        database.unlink()
        if how == "replaced":
            database.write_bytes(copy)
        answer = client.put(
            f"/api/formulas/{kept['id']}", json={"revision": kept["revision"], "formula": formula_json()}
        )
        assert (answer.status_code, answer.json()["error"]["code"]) == (503, "database_replaced")
        assert client.get("/api/formulas").status_code == 503
        assert client.get("/api/health").status_code == 200


class TestTraces:
    def test_a_fault_has_a_reference_and_the_log_says_where_but_not_what_was_typed(self, client, caplog, monkeypatch):
        typed = "Grandmother’s " + "sec" + "ret bar"

        def broken(*_args, **_rest):
            raise ValueError(typed)

        monkeypatch.setattr("sapolin.api.formulas.page_of_formulas", broken)
        answer = client.get("/api/formulas", params={"search": "secret"})
        error = answer.json()["error"]
        assert answer.status_code == 500
        assert len(error["reference"]) == 8
        said = caplog.text
        assert f"fault {error['reference']} at GET /api/formulas" in said
        assert "ValueError" in said
        assert "secret" not in said

    @pytest.mark.parametrize("address", ["/api/formulas", "/api/nothing", "/api/formulas/none"])
    def test_every_answer_carries_the_headers(self, client, monkeypatch, address):
        def broken(*_args, **_rest):
            raise RuntimeError

        monkeypatch.setattr("sapolin.api.formulas.page_of_formulas", broken)
        headers = client.get(address).headers
        assert headers["x-content-type-options"] == "nosniff"
        assert "frame-ancestors 'none'" in headers["content-security-policy"]

    @pytest.mark.parametrize("address", ["/api/devices/stream", "/api/safekeeping/archive", "/api/formulas"])
    def test_no_other_site_listens_or_reads(self, client, address):
        assert client.get(address, headers={"origin": "http://elsewhere.example"}).status_code == 403
        own = client.get("/api/formulas", headers={"origin": "http://127.0.0.1:8719"})
        assert own.status_code == 200

    def test_a_refused_origin_carries_them_too(self, client):
        answer = client.post("/api/formulas", json=formula_json(), headers={"origin": "http://elsewhere.example"})
        assert answer.headers["x-content-type-options"] == "nosniff"


@pytest.mark.parametrize("table", ["alembic_version", "sent", "unheard_of"])
def test_a_table_that_no_sapolin_writes_is_refused(client, table):
    content = changed(archive_of(client), {})
    with zipfile.ZipFile(io.BytesIO(content)) as archive:
        manifest = json.loads(archive.read("manifest.json"))
    rows = b'{"version_num": "0001"}\n'
    manifest["sha256"][f"tables/{table}.jsonl"] = hashlib.sha256(rows).hexdigest()
    odd = changed(content, {f"tables/{table}.jsonl": rows, "manifest.json": json.dumps(manifest).encode()})
    refused = bring_in(client, odd)
    assert (refused.status_code, table in refused.json()["error"]["message"]) == (422, True)


class TestInThePlaceOfEverything:
    def test_what_was_opened_before_is_not_saved_over_what_came_back(self, client):
        formula = client.post("/api/formulas", json=formula_json(name="As it was")).json()
        at = f"/api/formulas/{formula['id']}"
        backup = client.post("/api/safekeeping/backups").json()["name"]
        later = client.put(at, json={"revision": formula["revision"], "formula": formula_json(name="Later")}).json()
        client.post(f"/api/safekeeping/backups/{backup}/restore")
        for seen in (formula, later):
            old_tab = client.put(at, json={"revision": seen["revision"], "formula": formula_json(name="Old tab")})
            assert old_tab.status_code == 409
        back = client.get(at).json()
        assert back["formula"]["name"] == "As it was"
        assert (
            client.put(at, json={"revision": back["revision"], "formula": formula_json(name="On")}).status_code == 200
        )

    def test_put_back_often_it_counts_on_by_one(self, client):
        formula = client.post("/api/formulas", json=formula_json()).json()
        backup = client.post("/api/safekeeping/backups").json()["name"]
        seen = []
        for _ in range(4):
            client.post(f"/api/safekeeping/backups/{backup}/restore")
            seen.append(client.get(f"/api/formulas/{formula['id']}").json()["revision"])
        assert [later - one for one, later in pairwise(seen)] == [1, 1, 1]

    def test_nothing_acknowledged_is_lost_between_the_copy_and_what_comes(self, client, database):
        """Whatever was acknowledged is in what is there now, or in a backup that was taken before it went."""
        backup = client.post("/api/safekeeping/backups").json()["name"]
        known: list[str] = []
        over = Event()

        def write() -> None:
            while not over.is_set():
                sent = client.post("/api/formulas", json=formula_json(name=uuid4().hex))
                if sent.status_code == 201:
                    known.append(sent.json()["id"])

        writers = [Thread(target=write) for _ in range(3)]
        for one in writers:
            one.start()
        for _ in range(6):
            assert client.post(f"/api/safekeeping/backups/{backup}/restore").status_code == 200
        over.set()
        for one in writers:
            one.join()
        kept: set[str] = set()
        for file in [database, *database.with_name("backups").iterdir()]:
            with closing(sqlite3.connect(file)) as connection:
                kept |= {row[0] for row in connection.execute("SELECT id FROM formulas")}
        assert len(known) > 6
        assert set(known) <= kept

    def test_it_is_still_the_same_workshop(self, client, database):
        def name() -> str:
            with closing(sqlite3.connect(database)) as connection:
                return connection.execute("SELECT value FROM workshop WHERE name = 'mark:database'").fetchone()[0]

        before, backup = name(), client.post("/api/safekeeping/backups").json()["name"]
        client.post(f"/api/safekeeping/backups/{backup}/restore")
        assert name() == before
