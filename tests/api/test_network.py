"""Who may pass from the local network, and how a device is paired."""

from datetime import UTC, datetime, timedelta
from ipaddress import ip_address
from pathlib import Path
from ssl import PROTOCOL_TLS_SERVER, SSLContext
from stat import S_IMODE

import pytest
from cryptography import x509
from fastapi import FastAPI
from fastapi.testclient import TestClient

from sapolin.api.app import create_app
from sapolin.api.network.addresses import LocalNames, host_of, is_local
from sapolin.api.network.certificates import CERTIFICATE_LASTS, own_certificate
from sapolin.api.network.gate import KEY_COOKIE, Gate, may_reach
from sapolin.api.network.limits import Allowance, Allowances
from sapolin.api.pairing import NetworkState
from sapolin.api.settings import Settings
from sapolin.store.pairing import MOST_WRONG_CODES, NoOfferError, PairedDevice, Pairing, WrongCodeError

HOST = "192.168.7.1:8720"
NAMES = LocalNames(("192.168.7.1", "fd00::7"), ("workshop", "workshop.local"))


class Clock:
    """Time that passes when it is told to."""

    def __init__(self) -> None:
        self.now = datetime(2026, 3, 1, 9, tzinfo=UTC)

    def text(self) -> str:
        return self.now.isoformat()

    def seconds(self) -> float:
        return self.now.timestamp()

    def pass_(self, **how: float) -> None:
        self.now += timedelta(**how)


@pytest.fixture
def clock() -> Clock:
    return Clock()


@pytest.fixture
def main(tmp_path: Path, clock: Clock) -> TestClient:
    """The main screen of an application that listens on the network."""
    app = create_app(Settings(database=tmp_path / "sapolin.db"))
    app.state.pairing = Pairing(tmp_path / "sapolin.db", clock.text)
    app.state.network = NetworkState(addresses=(f"https://{HOST}/",), fingerprint="AB:CD")
    with TestClient(app, base_url="http://127.0.0.1") as client:
        yield client


def device(main: TestClient, clock: Clock, address: str = "192.168.7.20", host: str = HOST) -> TestClient:
    """A browser elsewhere on the network."""
    app = main.app
    assert isinstance(app, FastAPI)
    gate = Gate(app, app.state.pairing, NAMES.hosts, clock.seconds)
    return TestClient(gate, base_url=f"https://{host}", client=(address, 5000), follow_redirects=False)


def offered(main: TestClient, reach: str = "everything") -> str:
    return main.post("/api/paired-devices/offer", json={"name": "Tablet", "reach": reach}).json()["code"]


def send_code(tablet: TestClient, code: str):
    return tablet.post("/pair", data={"code": code}, headers={"origin": str(tablet.base_url).rstrip("/")})


def paired(main: TestClient, clock: Clock, reach: str = "everything") -> TestClient:
    tablet = device(main, clock)
    answer = send_code(tablet, offered(main, reach))
    assert answer.status_code == 303
    return tablet


def test_without_pairing_there_is_the_pairing_page_and_nothing_else(main: TestClient, clock: Clock):
    tablet = device(main, clock)
    assert tablet.get("/").headers["location"] == "/pair"
    assert tablet.get("/formulas/17").headers["location"] == "/pair"
    page = tablet.get("/pair?code=%3Cscript%3E")
    assert page.status_code == 200
    assert "&lt;script&gt;" in page.text
    assert "<script" not in page.text
    assert page.headers["content-security-policy"].startswith("default-src 'self'")
    for path in ("/api/health", "/api/formulas", "/api/openapi.json", "/assets/index.js"):
        refused = tablet.get(path)
        assert refused.status_code == 401
        assert refused.json()["error"]["code"] == "not_paired"
        assert refused.headers["x-content-type-options"] == "nosniff"
    assert tablet.post("/api/formulas", json={}).status_code == 401
    tablet.cookies.set(KEY_COOKIE, "made-up")
    assert tablet.get("/api/health").status_code == 401


def test_a_code_pairs_one_device_once_and_its_key_is_kept_as_a_hash(main: TestClient, clock: Clock, tmp_path: Path):
    code = offered(main, "make_and_rack")
    drawn = main.get("/api/paired-devices/offer.svg")
    assert drawn.headers["content-type"] == "image/svg+xml"
    assert drawn.text.count("h1v1h-1z") > 200
    tablet = device(main, clock)
    answer = send_code(tablet, f" {code[:4].lower()}-{code[4:]} ")
    assert answer.headers["location"] == "/batches"
    cookie = answer.headers["set-cookie"]
    for part in ("Secure", "HttpOnly", "SameSite=strict", "Path=/", f"{KEY_COOKIE}="):
        assert part in cookie
    said = tablet.get("/api/health").json()["device"]
    assert said == {"kind": "paired", "name": "Tablet", "reach": "make_and_rack"}
    assert main.get("/api/health").json()["device"]["kind"] == "main"
    # It was used: another device needs another.
    other = device(main, clock, "192.168.7.21")
    assert "No code is open" in send_code(other, code).text
    kept = (tmp_path / "sapolin-network" / "devices.json").read_text()
    assert tablet.cookies[KEY_COOKIE] not in kept
    assert S_IMODE((tmp_path / "sapolin-network" / "devices.json").stat().st_mode) == 0o600
    # A new start knows the device.
    again = Pairing(tmp_path / "sapolin.db", clock.text)
    assert again.device_with(tablet.cookies[KEY_COOKIE]) is not None


def test_wrong_late_and_foreign_codes_are_refused_in_words(main: TestClient, clock: Clock):
    code = offered(main)
    tablet = device(main, clock)
    wrong = send_code(tablet, "ABCDEFGH" if code != "ABCDEFGH" else "HGFEDCBA")
    assert wrong.status_code == 403
    assert "not the code" in wrong.text
    assert tablet.post("/pair", data={"code": code}, headers={"origin": "https://evil.example"}).status_code == 403
    assert tablet.post("/pair", data={"code": code}).status_code == 403
    assert tablet.post("/pair", data={"code": "A" * 5000}, headers={"origin": f"https://{HOST}"}).status_code == 413
    clock.pass_(minutes=11)
    assert "No code is open" in send_code(tablet, code).text
    assert main.get("/api/paired-devices").json()["offer"] is None


def test_guessing_is_slow_and_ends_the_code(main: TestClient, clock: Clock, tmp_path: Path):
    code = offered(main)
    tablet = device(main, clock)
    answers = [send_code(tablet, "AAAAAAA2").status_code for _ in range(12)]
    assert answers == [403] * 8 + [429] * 4
    clock.pass_(seconds=31)
    assert send_code(tablet, code).status_code == 303
    pairing = Pairing(tmp_path / "sapolin.db", clock.text)
    open_code = pairing.offer("Phone", "everything").code
    for _ in range(MOST_WRONG_CODES):
        with pytest.raises(WrongCodeError):
            pairing.accept("AAAAAAA2")
    with pytest.raises(NoOfferError):
        pairing.accept(open_code)


def test_a_device_for_make_day_reaches_that_alone(main: TestClient, clock: Clock):
    tablet = paired(main, clock, "make_and_rack")
    for path in ("/api/batches", "/api/today", "/api/trays", "/api/devices", "/api/guide/safety", "/api/workshop"):
        assert tablet.get(path).status_code == 200, path
    for method, path in (
        ("GET", "/api/formulas"), ("GET", "/api/prices"), ("GET", "/api/stock"), ("PUT", "/api/moulds"),
        ("DELETE", "/api/batches/1"), ("POST", "/api/batches"), ("GET", "/api/labels/1"), ("PATCH", "/api/workshop"),
        ("GET", "/api/safekeeping"), ("POST", "/api/demo/reset"), ("GET", "/api/paired-devices"),
        ("GET", "/api/batches/../formulas"), ("GET", "/api/batches/1/run/../../../formulas"),
    ):  # fmt: skip
        refused = tablet.request(method, path)
        assert refused.status_code == 403, (method, path)
        assert refused.json()["error"]["code"] == "not_for_this_device"
    assert tablet.get("/pair").headers["location"] == "/"


def test_a_device_for_make_day_is_told_no_costs(main: TestClient, clock: Clock):
    also_buy = [{"material": "coconut", "grams": 500}]
    main.patch("/api/workshop", json={"emergency_number": "112", "also_buy": also_buy, "costs": {"per_hour": 30}})
    told = paired(main, clock, "make_and_rack").get("/api/workshop").json()
    assert (told["emergency_number"], told["also_buy"]) == ("112", [])
    assert told["costs"]["per_hour"] == 0
    assert paired(main, clock).get("/api/workshop").json()["also_buy"] != []


def test_a_device_for_everything_reaches_all_but_backups_and_devices(main: TestClient, clock: Clock):
    tablet = paired(main, clock)
    assert tablet.get("/api/formulas").status_code == 200
    assert tablet.put("/api/prices/olive-refined", json={"price": 1}).status_code != 403
    for path in (
        "/api/safekeeping",
        "/api/safekeeping/archive",
        "/api/paired-devices",
        "/api/paired-devices/authority",
    ):
        assert tablet.get(path).status_code == 403, path
    assert tablet.post("/api/paired-devices/offer", json={"name": "Own", "reach": "everything"}).status_code == 403
    # Another site's page is refused as on the main screen.
    assert tablet.get("/api/formulas", headers={"origin": "https://evil.example"}).status_code == 403


def test_access_ends_at_once_and_for_good(main: TestClient, clock: Clock, tmp_path: Path):
    tablet = paired(main, clock)
    key = tablet.cookies[KEY_COOKIE]
    device_id = main.get("/api/paired-devices").json()["devices"][0]["id"]
    renamed = main.patch(f"/api/paired-devices/{device_id}", json={"name": " Wall ", "reach": "make_and_rack"})
    assert (renamed.json()["name"], renamed.json()["reach"]) == ("Wall", "make_and_rack")
    assert tablet.get("/api/formulas").status_code == 403
    assert main.delete(f"/api/paired-devices/{device_id}").json()["ended_at"] == clock.text()
    assert tablet.get("/api/batches").status_code == 401
    assert main.delete(f"/api/paired-devices/{device_id}").status_code == 404
    assert main.patch(f"/api/paired-devices/{device_id}", json={"name": "Back"}).status_code == 404
    assert Pairing(tmp_path / "sapolin.db").device_with(key) is None
    assert main.get("/api/paired-devices").json()["devices"][0]["ended_at"] is not None


def test_access_lasts_a_year(main: TestClient, clock: Clock):
    tablet = paired(main, clock)
    clock.pass_(days=364)
    assert tablet.get("/api/batches").status_code == 200
    clock.pass_(days=2)
    assert tablet.get("/api/batches").status_code == 401


def test_hosts_and_addresses_that_are_not_ours_are_refused(main: TestClient, clock: Clock):
    for host in ("192.168.7.1", "WORKSHOP.local:8720", "workshop.local.", "[FD00:0:0::7]:8720"):
        assert device(main, clock, host=HOST).get("/pair", headers={"host": host}).status_code == 200, host
    for host in ("evil.example", "127.0.0.1:8720", "localhost", "192.168.7.1.evil.example", "", "[::1", "a b"):
        refused = device(main, clock, host=HOST).get("/pair", headers={"host": host})
        assert (refused.status_code, refused.json()["error"]["code"]) == (400, "wrong_host"), host
    for address in ("203.0.113.9", "8.8.8.8", "127.0.0.1", "::1", "2001:db8::1", ""):
        refused = device(main, clock, address).get("/pair")
        assert (refused.status_code, refused.json()["error"]["code"]) == (403, "not_local"), address


def test_nothing_is_paired_while_it_listens_on_this_machine_alone(main: TestClient):
    assert isinstance(main.app, FastAPI)
    main.app.state.network = None
    assert main.get("/api/paired-devices").json() == {"network": None, "offer": None, "devices": []}
    refused = main.post("/api/paired-devices/offer", json={"name": "Tablet", "reach": "everything"})
    assert refused.status_code == 409
    assert "--network" in refused.json()["error"]["message"]
    assert main.get("/api/paired-devices/offer.svg").status_code == 404
    assert main.get("/api/paired-devices/authority").status_code == 404
    for name in ("", "   ", "x" * 41):
        bad = main.post("/api/paired-devices/offer", json={"name": name, "reach": "everything"})
        assert bad.status_code == 422


def test_one_asker_has_its_share_and_no_more():
    now = 0.0
    allowances = Allowances(Allowance(burst=3, per_second=0.5), lambda: now)
    assert [allowances.allows("a") for _ in range(4)] == [True, True, True, False]
    assert allowances.allows("b")
    now = 2.0
    assert [allowances.allows("a") for _ in range(2)] == [True, False]
    assert allowances.seconds_to_wait == 2


def test_every_rule_of_reach_is_about_the_path_as_a_whole():
    limited = PairedDevice(id="1", name="T", reach="make_and_rack", paired_at="", seen_at="")
    assert may_reach(limited, "GET", "/batches/1")
    assert may_reach(limited, "HEAD", "/api/batches/1/cure")
    assert not may_reach(limited, "GET", "/api/batches/1/cure/")
    assert not may_reach(limited, "GET", "/api/batchesx")
    assert not may_reach(limited, "OPTIONS", "/api/batches")


def test_a_certificate_is_made_once_and_anew_when_names_or_time_ask_for_it(tmp_path: Path):
    now = datetime(2026, 3, 1, tzinfo=UTC)
    first = own_certificate(tmp_path, NAMES, now)
    assert own_certificate(tmp_path, NAMES, now + timedelta(days=300)) == first
    authority = x509.load_pem_x509_certificate(first.authority.read_bytes())
    own = x509.load_pem_x509_certificate(first.chain.read_bytes())
    own.verify_directly_issued_by(authority)
    named = own.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    assert set(named.get_values_for_type(x509.IPAddress)) == {ip_address("192.168.7.1"), ip_address("fd00::7")}
    assert named.get_values_for_type(x509.DNSName) == ["workshop", "workshop.local"]
    assert own.not_valid_after_utc - own.not_valid_before_utc == CERTIFICATE_LASTS
    assert not own.extensions.get_extension_for_class(x509.BasicConstraints).value.ca
    # The authority stays where the addresses change or the time of the certificate runs out.
    moved = own_certificate(tmp_path, LocalNames(("10.0.0.5",), NAMES.names), now)
    late = own_certificate(tmp_path, LocalNames(("10.0.0.5",), NAMES.names), now + timedelta(days=360))
    assert len({first.fingerprint, moved.fingerprint, late.fingerprint}) == 3
    assert x509.load_pem_x509_certificate(late.authority.read_bytes()) == authority
    # Its own time over, or a name it may not vouch for: another authority.
    own_certificate(tmp_path, LocalNames(("10.0.0.5",), ("kitchen", "kitchen.local")), now)
    assert x509.load_pem_x509_certificate(first.authority.read_bytes()) != authority
    assert {S_IMODE(file.stat().st_mode) for file in tmp_path.iterdir()} == {0o600}


def test_a_list_of_devices_that_cannot_be_read_lets_nobody_in_and_holds_nothing_up(
    main: TestClient, clock: Clock, tmp_path: Path
):
    tablet = paired(main, clock)
    file = tmp_path / "sapolin-network" / "devices.json"
    for content in ("{", "[3]", '[{"id": "1"}]', '{"a": 1}', '[{"key_sha256": "x", "id": "1", "reach": "all"}]'):
        file.write_text(content)
        again = Pairing(tmp_path / "sapolin.db", clock.text)
        assert again.devices() == ()
        assert again.device_with(tablet.cookies[KEY_COOKIE]) is None
        assert not file.exists()
        assert file.with_name("devices.json.damaged").read_text() == content


@pytest.mark.parametrize("name", ["server.pem", "server.key", "authority.pem", "authority.key"])
@pytest.mark.parametrize(
    "content", [b"", b"no certificate", b"-----BEGIN CERTIFICATE-----\nAAAA\n-----END CERTIFICATE-----\n"]
)
def test_a_certificate_that_cannot_be_read_is_made_anew(tmp_path: Path, name: str, content: bytes):
    now = datetime(2026, 3, 1, tzinfo=UTC)
    own_certificate(tmp_path, NAMES, now)
    (tmp_path / name).write_bytes(content)
    made = own_certificate(tmp_path, NAMES, now)
    certificate = x509.load_pem_x509_certificate(made.chain.read_bytes())
    certificate.verify_directly_issued_by(x509.load_pem_x509_certificate(made.authority.read_bytes()))
    assert own_certificate(tmp_path, NAMES, now) == made


@pytest.mark.parametrize("name", ["server.key", "authority.key"])
def test_a_key_of_another_certificate_is_not_served_with(tmp_path: Path, name: str):
    now = datetime(2026, 3, 1, tzinfo=UTC)
    for place in ("own", "other"):
        (tmp_path / place).mkdir()
        own_certificate(tmp_path / place, NAMES, now)
    (tmp_path / "own" / name).write_bytes((tmp_path / "other" / name).read_bytes())
    made = own_certificate(tmp_path / "own", NAMES, now)
    SSLContext(PROTOCOL_TLS_SERVER).load_cert_chain(made.chain, made.key)
    certificate = x509.load_pem_x509_certificate(made.chain.read_bytes())
    certificate.verify_directly_issued_by(x509.load_pem_x509_certificate(made.authority.read_bytes()))


def test_what_is_local_and_what_a_host_header_names():
    assert [is_local(one) for one in ("10.1.2.3", "172.16.0.1", "172.32.0.1", "fe80::1%eth0", "::ffff:192.168.1.1")] == [
        True, True, False, True, True,
    ]  # fmt: skip
    assert not is_local("not an address")
    assert host_of("[::ffff:10.0.0.1]:80") == "10.0.0.1"
    assert host_of("tablet.local:99999999") is None
