"""What used to break inside answers in words; what is said of saving is true; an end that is asked for comes soon."""

import json
import math
import os
import shutil
import signal
import socket
import subprocess
import sys
import time
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from urllib.request import urlopen

import pytest

from api.batches import Batch, plan_json
from api.conftest import client_on
from conftest import formula_json
from forks import LONGEST_S
from sapolin.api.app import create_app
from sapolin.api.settings import Settings
from sapolin.demo import world
from sapolin.store.stores import open_stores

BEYOND = 2**63


def problem_codes(response) -> list[str]:
    return [problem["code"] for problem in response.json()["error"]["problems"]]


class TestNothingBreaks:
    @pytest.mark.parametrize("content", [
        {"kind": "recipe", "components": [{"oil": "own-odd", "value": 100.0}]},
        {"kind": "recipe", "components": [{"oil": "no-such-oil", "value": 100.0}]},
        {"kind": "profile", "acids_percent": {"C18:1": 50.0}, "solid_at_20_c": False},
        {"kind": "certificate", "of": "no-such-oil"},
    ])  # fmt: skip
    def test_an_unsound_material_in_a_swap(self, client, content):
        formula = formula_json()
        formula["materials"] = [{"id": "own-odd", "name": "Odd", "content": content}]
        formula["blend"]["lines"][1]["oil"] = "own-odd"
        first = formula["blend"]["lines"][0]["oil"]
        for address, body in (
            ("/api/swap", {"formula": formula, "outgoing": [{"oil": first}]}),
            ("/api/swap/levers", {"before": formula, "formula": formula}),
        ):
            assert client.post(address, json=body).status_code == 422

    @pytest.mark.parametrize("grams", [1e308, -5.0, -1e308])
    def test_a_blend_of_huge_or_negative_weights(self, client, grams):
        lines = [
            {"oil": "coconut", "by": "weight_g", "value": grams},
            {"oil": "palm", "by": "weight_g", "value": grams},
        ]
        refused = client.post("/api/blend/convert", json={"blend": {"lines": lines}, "to": "percent_of_oils"})
        assert (refused.status_code, set(problem_codes(refused))) == (422, {"not_shareable"})
        shares = {"total_oils_g": grams, "lines": [{"oil": "coconut", "by": "percent_of_oils", "value": 1e308}]}
        assert client.post("/api/blend/convert", json={"blend": shares, "to": "weight_g"}).status_code == 422

    def test_numbers_that_no_database_holds(self, client, batch):
        formula = client.post("/api/formulas", json=formula_json()).json()["id"]
        batch.up_to("room")
        event = {"kind": "noted", "text": "x"}
        for method, address, body in (
            ("PUT", f"/api/formulas/{formula}", {"revision": BEYOND, "formula": formula_json()}),
            ("POST", f"/api/formulas/{formula}/versions", {"revision": BEYOND}),
            ("PUT", f"/api/batches/{batch.id}", {"revision": BEYOND, "plan": plan_json()}),
            ("GET", f"/api/batches/{batch.id}/photos/{BEYOND}", None),
            ("POST", f"/api/batches/{batch.id}/events", {"key": "some-key-9", "after_seq": BEYOND, "event": event}),
            ("DELETE", f"/api/target-sets/{BEYOND}", None),
        ):
            assert client.request(method, address, json=body).status_code == 422, address
        far = batch.send(kind="amended", seq=BEYOND, reason="x")
        assert problem_codes(far) == ["nothing_to_amend"]

    @pytest.mark.parametrize("by", ["saponification_percent", "lye_weight_percent"])
    def test_a_share_of_koh_just_below_nothing(self, client, by):
        lye = {"naoh_purity_percent": 99.0, "koh": {"by": by, "value": -1e-9, "purity_percent": 90.0}}
        refused = client.post("/api/compute", json=formula_json(lye=lye))
        assert (refused.status_code, problem_codes(refused)) == (422, ["out_of_range"])

    def test_a_lye_that_is_not_used_may_be_of_any_purity(self, client):
        lye = {"naoh_purity_percent": 1e6, "koh": {"by": "saponification_percent", "value": 100, "purity_percent": 90}}
        answer = client.post("/api/compute", json=formula_json(lye=lye))
        assert answer.status_code == 200, answer.text
        assert (
            answer.json()
            == client.post("/api/compute", json=formula_json(lye=lye | {"naoh_purity_percent": 99})).json()
        )

    def test_a_move_beside_an_oil_that_nobody_knows(self, client):
        shares = {"olive-refined": 45, "dragon-fat": 22, "coconut": 13, "rice-bran": 12, "castor": 8}
        lines = [{"oil": oil, "by": "percent_of_oils", "value": share} for oil, share in shares.items()]
        formula = formula_json(blend={"total_oils_g": 1000, "lines": lines})
        move = client.post("/api/best-move", json=formula).json()
        after = {line["oil"]: line["value"] for line in move["blend"]["lines"]}
        assert after["dragon-fat"] == 22
        assert sum(after.values()) == pytest.approx(100)
        # A share of what is entered of known oils: of 78, not of 100.
        gave = shares[move["give"]] - after.get(move["give"], 0)
        assert gave == pytest.approx(move["percent"] / 100 * 78)

    @pytest.mark.parametrize("huge", [1e308, -1e308])
    def test_amounts_beyond_every_kitchen_are_told_of_as_they_are_typed(self, client, huge):
        lines = [
            {"oil": "coconut", "by": "percent_of_oils", "value": huge},
            {"oil": "shea", "by": "weight_g", "value": huge},
        ]
        for one in (lines, lines[:1], lines[1:]):
            formula = formula_json(blend={"total_oils_g": 1000, "lines": one})
            assert client.post("/api/compute/report", json=formula).status_code == 200
            for address in ("/api/trades?points=2", "/api/compute", "/api/best-move"):
                assert client.post(address, json=formula).status_code in (200, 422), address

    @pytest.mark.parametrize("huge", [1.7e308, -1.7e308])
    def test_a_sum_that_no_number_holds_is_said_to_be_wrong_all_the_same(self, client, huge):
        acids = {"kind": "profile", "acids_percent": {"C12:0": huge, "C18:1": huge}, "solid_at_20_c": False}
        recipe = {"kind": "recipe", "components": [{"oil": oil, "share_percent": huge} for oil in ("coconut", "palm")]}
        pastes = [{"batch_id": one, "share_percent": huge} for one in "ab"]
        dilution = {"kind": "dilution", "name": "Odd", "pastes": pastes}
        for address, body, code in (
            ("/api/materials/check", {"id": "own-odd", "name": "Odd", "content": acids}, "profile_sum"),
            ("/api/materials/check", {"id": "own-odd", "name": "Odd", "content": recipe}, "components_not_100"),
            ("/api/preparations/report", {"plan": dilution}, "paste_shares_not_100"),
        ):
            problems = client.post(address, json=body).json()["problems"]
            [summed] = [one["params"]["sum"] for one in problems if one["code"] == code]
            assert summed["value"] == math.copysign(sys.float_info.max, huge)

    def test_a_question_with_a_material_that_cannot_be_says_so_at_its_place(self, client):
        content = {"kind": "recipe", "components": [{"oil": "no-such-oil", "value": 100.0}]}
        formula = formula_json(materials=[{"id": "own-odd", "name": "Odd", "content": content}])
        targets = [{"feature": "hardness", "minimum": 30}]
        refused = client.post("/api/solve", json={"formula": formula, "targets": targets})
        assert refused.status_code == 422
        assert refused.json()["error"]["problems"][0]["path"].startswith("formula.materials[0]")

    def test_half_a_character(self, client):
        broken = json.dumps(formula_json(name="bar")).replace('"bar"', '"b\\ud800r"')
        json_type = {"content-type": "application/json"}
        for address in ("/api/formulas", "/api/compute", "/api/formulas/import"):
            answer = client.post(address, content=broken, headers=json_type)
            assert answer.status_code in (200, 201, 422), address
            assert "\\ud800" not in answer.text

    @pytest.mark.parametrize("path", ["x" * 300, "a/" * 200, "%00", "%ED%A0%80", "..%2f..%2fetc%2fpasswd"])
    def test_odd_addresses(self, tmp_path, path):
        web = tmp_path / "web"
        (web / "assets").mkdir(parents=True)
        (web / "index.html").write_text("<title>Sapolin</title>")
        from fastapi.testclient import TestClient

        application = create_app(Settings(database=tmp_path / "sapolin.db", web=web))
        with TestClient(application, base_url="http://127.0.0.1:8719", raise_server_exceptions=False) as client:
            shown = client.get(f"/{path}")
            assert (shown.status_code, "Sapolin" in shown.text) == (200, True)
            assert client.get(f"/api/formulas/{path}").status_code in (404, 405)


class TestTheDemo:
    def test_two_resets_at_once_leave_one_world(self, demo):
        before = len(demo.get("/api/formulas").json()["formulas"])
        with ThreadPoolExecutor(2) as pool:
            codes = list(pool.map(lambda _: demo.post("/api/demo/reset", json={"confirm": True}).status_code, range(2)))
        assert set(codes) == {200}
        assert len(demo.get("/api/formulas").json()["formulas"]) == before
        assert len(demo.get("/api/batches").json()["batches"]) == 21

    def test_a_reset_that_fails_or_goes_on_changes_nothing_yet(self, demo, monkeypatch):
        """All of it at once: what is asked meanwhile is answered from what was there, and a save is a save."""
        asked, fill = {}, demo.app.state.fill_demo

        def look_and_save(stores):
            fill(stores)
            [*_, last] = demo.get("/api/formulas").json()["formulas"]
            asked["record"] = record = demo.get(f"/api/formulas/{last['id']}").json()
            changed = {"formula": record["formula"] | {"name": "Saved meanwhile"}, "revision": record["revision"]}
            asked["saved"] = demo.put(f"/api/formulas/{last['id']}", json=changed).status_code
            if "cut off" not in asked:
                asked["cut off"] = True
                raise OSError

        demo.app.state.fill_demo = look_and_save
        assert demo.post("/api/demo/reset", json={"confirm": True}).status_code >= 500
        assert asked["saved"] == 200
        kept = demo.get(f"/api/formulas/{asked['record']['id']}").json()
        assert kept["formula"]["name"] == "Saved meanwhile"
        assert demo.post("/api/demo/reset", json={"confirm": True}).status_code == 200
        assert asked["saved"] == 200
        names = [one["name"] for one in demo.get("/api/formulas").json()["formulas"]]
        assert "Saved meanwhile" not in names

    def test_a_filling_that_was_cut_off_is_done_again(self, tmp_path, monkeypatch):
        stores = open_stores(tmp_path / "demo.db")

        class CutOffError(Exception):
            pass

        def cut_off(_stores):
            raise CutOffError

        monkeypatch.setattr(world, "fill_batches", cut_off)
        with pytest.raises(CutOffError):
            world.fill(stores)
        monkeypatch.undo()
        assert world.wants_filling(stores)
        with client_on(tmp_path / "demo.db", demo=True) as client:
            assert len(client.get("/api/batches").json()["batches"]) == 21
        assert not world.wants_filling(open_stores(tmp_path / "demo.db"))


class TestWhatIsSaid:
    def test_a_full_disk_is_called_one_and_nothing_was_saved(self, client):
        formula = client.post("/api/formulas", json=formula_json()).json()
        address = f"/api/formulas/{formula['id']}"
        with client.app.state.stores.engine.connect() as connection:
            pages = connection.exec_driver_sql("PRAGMA page_count").scalar()
            connection.exec_driver_sql(f"PRAGMA max_page_count = {pages}")
        for i in range(50):
            before = client.get(address).json()
            longer = {"revision": before["revision"], "formula": formula_json(notes=f"{i}" + "x" * 19_000)}
            answer = client.put(address, json=longer)
            if answer.status_code == 200:
                # What is saved over and over may find room where it was; a version never does.
                before = answer.json()
                answer = client.post(f"{address}/versions", json={"revision": before["revision"], "note": "n"})
            if answer.status_code >= 400:
                break
        assert (answer.status_code, answer.json()["error"]["code"]) == (507, "disk_full")
        assert "not saved" in answer.json()["error"]["message"]
        assert client.get(address).json() == before

    def test_a_disk_that_fills_up_in_the_background_ends_nothing(self, database, caplog):
        with client_on(database) as client:
            for i in range(60):
                client.post("/api/formulas", json=formula_json(name=f"Bar {i}"))
        crowded = client_on(database)
        stores = crowded.app.state.stores
        stores.formulas.forget_summaries()
        with stores.engine.connect() as connection:
            connection.exec_driver_sql("VACUUM")
            pages = connection.exec_driver_sql("PRAGMA page_count").scalar()
            connection.exec_driver_sql(f"PRAGMA max_page_count = {pages}")
        with crowded as client:
            until = time.monotonic() + 20
            while not caplog.records and time.monotonic() < until:
                time.sleep(0.02)
            assert [record.getMessage() for record in caplog.records] == [
                "What lists show could not be summed up ahead: database or disk is full"
            ]
            assert client.get("/api/health").status_code == 200
        # It leaves one whole file behind, and the next start, with room, sums up all of it.
        assert [file.name for file in database.parent.iterdir() if file.name.startswith(database.name)] == [
            database.name
        ]
        with client_on(database) as client:
            states = [one["state"] for one in client.get("/api/formulas?limit=100").json()["formulas"]]
            assert states == ["complete"] * 60

    def test_a_fault_after_saving_does_not_say_that_nothing_was_saved(self, client, batch, monkeypatch):
        from sapolin.services import make_day

        batch.up_to("room")
        monkeypatch.setattr(make_day, "cooling_forecast", lambda *_: 1 / 0)
        answer = batch.send(kind="noted", text="Kept all the same.")
        monkeypatch.undo()
        assert answer.status_code == 500
        assert "Nothing was" not in answer.json()["error"]["message"]
        assert "Kept all the same." in [note["what"] for note in batch.run()["state"]["notes"]]

    def test_one_unreadable_row_is_shown_as_such(self, client):
        formulas = [client.post("/api/formulas", json=formula_json()).json()["id"] for _ in range(2)]
        batches = [Batch(client).id for _ in range(2)]
        with client.app.state.stores.engine.begin() as connection:
            # What is summed up after the start may have been quicker, or may have read them already: of an earlier revision.
            damage = "SET content = 'x', summary = NULL, revision = revision + 1"
            connection.exec_driver_sql(f"UPDATE formulas {damage} WHERE id = '{formulas[0]}'")
            connection.exec_driver_sql(f"UPDATE batches {damage} WHERE id = '{batches[0]}'")
        states = {one["id"]: one["state"] for one in client.get("/api/formulas").json()["formulas"]}
        assert states[formulas[0]] == "unreadable" != states[formulas[1]]
        statuses = {one["id"]: one["status"] for one in client.get("/api/batches").json()["batches"]}
        assert statuses[batches[0]] == "unreadable" != statuses[batches[1]]
        refused = client.get(f"/api/formulas/{formulas[0]}")
        assert (refused.status_code, refused.json()["error"]["code"]) == (409, "unreadable")


@contextmanager
def served(data, *more: str):
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    command = [sys.executable, "-m", "sapolin", "serve", "--port", str(port), "--data", str(data), *more]
    process = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)
    try:
        yield process, f"http://127.0.0.1:{port}"
    finally:
        process.kill()
        process.wait()
        process.stdout.close()
        process.stderr.close()


class TestTheEnd:
    @pytest.mark.parametrize("sign", [signal.SIGTERM, signal.SIGHUP, signal.SIGINT])
    def test_it_comes_soon_with_streams_open_and_leaves_a_whole_file(self, tmp_path, sign):
        with served(tmp_path) as (process, url):
            process.stdout.readline()
            body = json.dumps(formula_json(name="Kept bar")).encode()
            from urllib.request import Request

            request = Request(f"{url}/api/formulas", data=body, headers={"content-type": "application/json"})
            assert urlopen(request).status == 201
            stream = urlopen(f"{url}/api/devices/stream")
            assert stream.readline().startswith(b"data:")
            os.kill(process.pid, sign)
            told = stream.read()
            # An open stream would hold it for ever.
            process.wait(timeout=LONGEST_S)
            assert b"event: ending" in told
        shutil.copy(tmp_path / "sapolin.db", tmp_path / "copy.db")
        assert [one.formula.name for one in open_stores(tmp_path / "copy.db").formulas.find()] == ["Kept bar"]

    @pytest.mark.parametrize(("make", "words"), [
        (lambda data: (data / "sapolin.db").write_bytes(b"garbage " * 999), "is not a database"),
        (lambda data: (data / "sapolin.db-wal").write_bytes(b"left behind"), "is missing"),
    ])  # fmt: skip
    def test_a_start_that_cannot_be_is_one_plain_sentence(self, tmp_path, make, words):
        make(tmp_path)
        with served(tmp_path) as (process, url):
            said = process.stderr.readline()
            assert words in said
            # Meanwhile a page says so, and what can be done.
            assert f"is at {url}" in process.stderr.readline()
            os.kill(process.pid, signal.SIGTERM)
            _, rest = process.communicate(timeout=LONGEST_S)
        assert process.returncode != 0
        assert "Traceback" not in said + rest

    def test_it_does_not_open_itself_to_the_network(self, tmp_path):
        with served(tmp_path, "--host", "0.0.0.0") as (process, _):
            _, said = process.communicate(timeout=LONGEST_S)
        assert process.returncode == 2
        assert "Leave --host out" in said
        assert not list(tmp_path.iterdir())
