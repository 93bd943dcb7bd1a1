"""The pages beside the API: every address of the application is answered, and nothing outside the built directory."""

import gzip
import json
from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from conftest import formula_json
from sapolin.api.app import create_app
from sapolin.api.network.gate import DEVICE
from sapolin.api.pages import NAME, TITLE
from sapolin.api.settings import Settings
from sapolin.store.pairing import PairedDevice

BENCH = ["/assets/style-1.css", "/assets/Bench-1.js", "/assets/Loaf-1.js"]
RELATIONS = {"css": "preload; as=style; crossorigin=anonymous", "js": "modulepreload; fetchpriority=low"}


PAGE = "<title>Sapolin</title><span><!--name--></span>"


@pytest.fixture(scope="module")
def pages(tmp_path_factory: pytest.TempPathFactory) -> Iterator[TestClient]:
    directory = tmp_path_factory.mktemp("pages")
    web = directory / "web"
    (web / "assets").mkdir(parents=True)
    (web / "index.html").write_text(PAGE)
    (web / "icon.svg").write_text("<svg/>")
    (web / "assets" / "app-1.js").write_text("let x")
    (web / "screens.json").write_text(json.dumps([
        {"path": "", "files": ["assets/Today-1.js"], "asks": ["/api/today"]},
        {"path": "formulas/:formulaId", "files": ["assets/style-1.css", "assets/Bench-1.js", "assets/Loaf-1.js"],
         "asks": ["/api/formulas/:formulaId", "/api/oils"]},
        {"path": "batches/:batchId/make", "files": [], "asks": []},
        {"path": "preparations/:preparationId", "files": [], "asks": []},
        {"path": "batches", "files": ["assets/Batches-1.js"], "asks": []},
    ]))  # fmt: skip
    (directory / "secret.txt").write_text("secret")
    app = create_app(Settings(database=directory / "sapolin.db", web=web))
    with TestClient(app, base_url="http://127.0.0.1:8719", raise_server_exceptions=False) as client:
        yield client


@pytest.mark.parametrize("address", ["/", "/formulas/abc", "/batches/1/make", "/swap", "/no/such/place"])
def test_every_address_opens_the_application(pages, address):
    answer = pages.get(address)
    assert answer.text == PAGE
    assert answer.headers["cache-control"] == "no-cache"
    assert "frame-ancestors 'none'" in answer.headers["content-security-policy"]


@pytest.mark.parametrize(
    ("address", "code", "answers"),
    [
        ("/", ["/assets/Today-1.js"], ["/api/today"]),
        ("/formulas/4f2a-b_1", BENCH, ["/api/formulas/4f2a-b_1", "/api/oils"]),
        ("/batches", ["/assets/Batches-1.js"], []),
        # Something else than usual is asked for: its code alone.
        ("/formulas/4f2a?since=2", BENCH, []),
        ("/formulas/4f2a/solve", [], []),
        ("/no/such/place", [], []),
    ],
)
def test_a_page_names_what_its_screen_needs_first(pages, address, code, answers):
    named = [f"<{file}>; rel={RELATIONS[file.rpartition('.')[2]]}" for file in code]
    named += [f"<{answer}>; rel=preload; as=fetch; crossorigin=anonymous" for answer in answers]
    assert pages.get(address).headers.get("link", "") == ", ".join(named)


@pytest.mark.parametrize("part", ["a%0d%0aset-cookie:b", "a%3E%3B%20rel=preload", "%22", "a%2fb%2fc", "ä"])
def test_nothing_of_an_odd_address_gets_into_a_header(pages, part):
    answer = pages.get(f"/formulas/{part}")
    assert "link" not in answer.headers
    assert "set-cookie" not in answer.headers


def test_a_page_says_the_name_of_what_it_shows_before_any_code_has_run(pages):
    kept = pages.post("/api/formulas", json=formula_json(name="Oak & <b>Ash</b>")).json()
    said = "Oak &amp; &lt;b&gt;Ash&lt;/b&gt;"
    answer = pages.get(f"/formulas/{kept['id']}")
    assert answer.text == f"<title>{said} · Sapolin</title><span>{said}</span>"
    assert answer.headers["cache-control"] == "no-cache"
    assert "Bench-1.js" in answer.headers["link"]
    plan = pages.get(f"/api/formulas/{kept['id']}/batch-plan").json()
    batch = pages.post("/api/batches", json=plan).json()
    assert f"<span>{said}</span>" in pages.get(f"/batches/{batch['id']}/make").text


def test_the_page_has_a_place_for_the_name():
    page = (Path(__file__).parents[2] / "web" / "index.html").read_text("utf-8")
    assert (page.count(TITLE), page.count(NAME)) == (1, 1)


def test_a_device_that_may_not_read_formulas_is_not_told_their_names(tmp_path):
    web = tmp_path / "web"
    web.mkdir()
    (web / "index.html").write_text(PAGE)
    (web / "screens.json").write_text('[{"path": "formulas/:formulaId", "files": [], "asks": []}]')
    app = create_app(Settings(database=tmp_path / "sapolin.db", web=web))
    named = "<title>Oak · Sapolin</title><span>Oak</span>"
    with TestClient(app, base_url="http://127.0.0.1") as main:
        page = f"/formulas/{main.post('/api/formulas', json=formula_json(name='Oak')).json()['id']}"
        assert main.get(page).text == named
        for reach, text in (("everything", named), ("make_and_rack", PAGE)):
            device = PairedDevice(id="1", name="Tablet", reach=reach, paired_at="", seen_at="")

            async def passed(scope, receive, send, device=device):
                await app({**scope, DEVICE: device}, receive, send)

            assert TestClient(passed, base_url="http://127.0.0.1").get(page).text == text


def test_the_list_of_screens_is_no_page(pages):
    assert pages.get("/screens.json").text == PAGE


def test_files_are_served_as_they_are(pages):
    assert pages.get("/icon.svg").text == "<svg/>"
    assert pages.get("/assets/app-1.js").text == "let x"


def test_who_only_asks_whether_a_page_is_there_is_told(pages):
    answer = pages.head("/batches/1/cure")
    assert (answer.status_code, answer.text) == (200, "")


@pytest.mark.parametrize(
    "address", ["/../secret.txt", "/%2e%2e/secret.txt", "/..%2fsecret.txt", "/assets/..%2f..%2fsecret.txt"]
)
def test_nothing_outside_is_served(pages, address):
    assert "secret" not in pages.get(address).text


def test_a_missing_part_of_the_api_is_no_page(pages):
    answer = pages.get("/api/no-such-thing")
    assert (answer.status_code, answer.json()["error"]["code"]) == (404, "not_found")
    assert answer.json()["error"]["message"] == "There is no /api/no-such-thing."


def test_health_tells_version_and_whether_this_is_the_demo(pages, demo):
    assert pages.get("/api/health").json()["demo"] is False
    assert demo.get("/api/health").json()["demo"] is True


def test_what_is_compressed_is_sent_so_and_kept_for_good(tmp_path):
    web = tmp_path / "web"
    (web / "assets").mkdir(parents=True)
    (web / "index.html").write_text(PAGE)
    (web / "assets" / "app-1.js").write_text("let x = 1")
    (web / "assets" / "late-1.js").write_text("let y")
    (web / "assets" / "app-1.js.gz").write_bytes(gzip.compress(b"let x = 1"))
    app = create_app(Settings(database=tmp_path / "sapolin.db", web=web))
    with TestClient(app, base_url="http://127.0.0.1:8719") as client:
        compressed = client.get("/assets/app-1.js", headers={"accept-encoding": "gzip"})
        assert (compressed.headers["content-encoding"], compressed.text) == ("gzip", "let x = 1")
        assert "immutable" in compressed.headers["cache-control"]
        assert compressed.headers["content-type"].startswith("text/javascript")
        plain = client.get("/assets/app-1.js", headers={"accept-encoding": "identity"})
        assert ("content-encoding" in plain.headers, plain.text) == (False, "let x = 1")
        assert client.get("/assets/app-1.js.gz").status_code == 404
        gone = client.get("/assets/app-0.js")
        assert (gone.status_code, "<title>" in gone.text) == (404, False)
        # What was sent once stays at hand; what was not yet, and lies there no more, belongs to a build that is gone.
        (web / "assets" / "app-1.js").unlink()
        (web / "assets" / "late-1.js").unlink()
        assert client.get("/assets/app-1.js", headers={"accept-encoding": "identity"}).text == "let x = 1"
        late = client.get("/assets/late-1.js")
        assert (late.status_code, late.json()["error"]["code"]) == (404, "not_found")
