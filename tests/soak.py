"""What takes too long for every build: many changed documents, many kills, full disks and locked files, and hours of load.

`./run soak` runs all of it with the counts that a release is held to; options make it shorter, and 0 leaves a part out. Each
part prints what it counted, and any loss or fault ends it with exit code 1.
"""

import argparse
import json
import os
import sqlite3
import statistics
import subprocess
import sys
import threading
import time
from collections import Counter
from contextlib import closing, suppress
from itertools import islice
from pathlib import Path
from random import Random
from tempfile import TemporaryDirectory
from uuid import uuid4

import httpx
import psutil

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT / "tests"))

from api.conftest import client_on  # noqa: E402
from demo_copy import put_demo  # noqa: E402
from fuzz import cases  # noqa: E402

BUSY = (503, 507)
LOST_AFTER_SECONDS = 30


def said(part: str, words: str) -> None:
    print(f"{time.strftime('%H:%M:%S')}  {part}: {words}", flush=True)


def changed_documents(count: int) -> bool:
    """Valid documents, each changed a little: none may break anything."""
    seen: Counter[int] = Counter()
    broken = []
    with TemporaryDirectory() as folder:
        for seed in range(1, count // 1000 + 1):
            database = Path(folder) / f"{seed}.db"
            put_demo(database)
            with client_on(database, demo=True) as client:
                for method, path, body in islice(cases(client, Random(seed)), 1000):
                    content = json.dumps(body).encode()
                    answer = client.request(method, path, content=content, headers={"content-type": "application/json"})
                    seen[answer.status_code] += 1
                    if answer.status_code >= 500:
                        broken.append((seed, method, path, answer.json()["error"]["code"]))
            for left in database.parent.glob(f"{seed}.db*"):
                left.unlink()
    said("changed documents", f"{sum(seen.values())}: {dict(sorted(seen.items()))}; broken: {broken or 'none'}")
    return not broken


def kills(count: int) -> bool:
    """The process is killed at random moments of a first start, a migration, a record; nothing acknowledged may be lost."""
    command = [sys.executable, "-m", "pytest", "-q", "tests/store/test_whole_database.py", "-k", "at_any_moment"]
    run = subprocess.run(
        command, cwd=ROOT, env=os.environ | {"SAPOLIN_MOMENTS": str(count)}, capture_output=True, text=True
    )
    said("kills", f"{count} first starts, as many migrations and records: {run.stdout.strip().splitlines()[-1]}")
    return run.returncode == 0


class Running:
    """`sapolin serve` on data of its own."""

    def __init__(self, data: Path) -> None:
        put_demo(data / "demo.db")
        self.process = subprocess.Popen(
            [sys.executable, "-m", "sapolin", "serve", "--demo", "--port", "0", "--data", str(data)],
            stdout=subprocess.PIPE, text=True,
        )  # fmt: skip
        assert self.process.stdout is not None
        address = self.process.stdout.readline().strip().rsplit(" ", 1)[1]
        self.client = httpx.Client(base_url=address, timeout=30)

    def end(self) -> None:
        self.client.close()
        self.process.kill()
        self.process.wait()


def _note(client: httpx.Client, batch: str, text: str) -> int:
    event = {"key": uuid4().hex, "event": {"kind": "noted", "text": text}}
    return client.post(f"/api/batches/{batch}/cure/events", json=event).status_code


def _notes(client: httpx.Client, batch: str) -> str:
    return json.dumps(client.get(f"/api/batches/{batch}/cure").json()["state"]["notes"])


def _a_batch(client: httpx.Client) -> str:
    batches = client.get("/api/batches?status=made").json()["batches"]
    return str(next(one["id"] for one in batches if one["code"] == "B-092"))


def episodes(count: int) -> bool:
    """The file is locked by another program, again and again, and the disk is full, again and again: what is said of saving is
    true, and everything goes on afterwards.
    """
    with TemporaryDirectory() as folder:
        running = Running(Path(folder))
        batch, kept, refused = _a_batch(running.client), set(), Counter()
        is_right = True
        try:
            for i in range(count):
                with closing(sqlite3.connect(Path(folder) / "demo.db", isolation_level=None)) as other:
                    other.execute("BEGIN EXCLUSIVE" if i % 2 else "BEGIN IMMEDIATE")
                    status = _note(running.client, batch, f"locked {i}")
                    refused[status] += 1
                    is_right &= status in BUSY
                    other.execute("ROLLBACK")
                is_right &= _note(running.client, batch, f"free {i}") == 200
                kept.add(f"free {i}")
            said("lock episodes", f"{count}, answered {dict(refused)}")
            full = Counter()
            with _small_disk(Path(folder)) as disk:
                if disk is None:
                    said("full disks", "no small disk can be mounted here: left out")
                else:
                    is_right &= _full_disks(disk, count, full)
                    said("full disks", f"{count}, answered {dict(full)}")
            notes = _notes(running.client, batch)
            is_right &= all(text in notes for text in kept) and "locked" not in notes
        finally:
            running.end()
    return is_right


class _small_disk:  # noqa: N801 - a context manager
    """A file system of 24 MB, where the machine allows one."""

    def __init__(self, folder: Path) -> None:
        self._place = folder / "small"

    def __enter__(self) -> Path | None:
        self._place.mkdir()
        command = ["mount", "-t", "tmpfs", "-o", "size=24m", "tmpfs", str(self._place)]
        with suppress(FileNotFoundError):
            if subprocess.run(command, capture_output=True).returncode == 0:
                return self._place
        return None

    def __exit__(self, *_: object) -> None:
        subprocess.run(["umount", "-l", str(self._place)], capture_output=True, check=False)


def _full_disks(disk: Path, count: int, seen: "Counter[int]") -> bool:
    running = Running(disk)
    is_right, kept = True, set()
    try:
        batch = _a_batch(running.client)
        filler = disk / "filler"
        for i in range(count):
            with suppress(OSError), filler.open("wb", buffering=0) as stream:
                while True:
                    stream.write(b"\0" * 65536)
            for n in range(40):
                status = _note(running.client, batch, f"full {i} {n} " + "x" * 900)
                seen[status] += 1
                if status == 200:
                    kept.add(f"full {i} {n} ")
                else:
                    is_right &= status in BUSY
                    break
            filler.unlink()
            is_right &= _note(running.client, batch, f"room {i}") == 200
            kept.add(f"room {i}")
        notes = _notes(running.client, batch)
        return is_right and all(text in notes for text in kept)
    finally:
        running.end()


def load(minutes: float) -> bool:
    """Four screens at once, reading and saving; memory has to stay flat once it is warm."""
    with TemporaryDirectory() as folder:
        running = Running(Path(folder))
        ending = threading.Event()
        counted: Counter[int] = Counter()
        seen_mb: list[float] = []
        address = str(running.client.base_url)
        formulas = running.client.get("/api/formulas").json()["formulas"]
        batch = _a_batch(running.client)

        def screen(seed: int) -> None:
            random = Random(seed)
            with httpx.Client(base_url=address, timeout=60) as client:
                while not ending.is_set():
                    chosen = random.choice(formulas)["id"]
                    record = client.get(f"/api/formulas/{chosen}").json()
                    formula = record["formula"]
                    for method, path, body in (
                        ("POST", "/api/compute/report", formula), ("GET", "/api/today", None), ("GET", "/api/batches", None),
                        ("GET", f"/api/batches/{batch}/cure", None), ("GET", "/api/find?words=guest", None),
                        ("POST", "/api/solve-start", formula), ("GET", "/api/stock", None),
                        ("PUT", f"/api/formulas/{chosen}", {"formula": formula, "revision": record["revision"]}),
                        ("GET", f"/api/batches/{batch}/sheet.pdf", None), ("GET", "/api/formulas?search=olive", None),
                    ):  # fmt: skip
                        counted[client.request(method, path, json=body).status_code] += 1

        screens = [threading.Thread(target=screen, args=(seed,)) for seed in range(4)]
        for one in screens:
            one.start()
        until = time.monotonic() + minutes * 60
        process = psutil.Process(running.process.pid)
        while time.monotonic() < until:
            time.sleep(min(10.0, minutes * 6))
            seen_mb.append(process.memory_info().rss / 1e6)
        ending.set()
        for one in screens:
            one.join()
        running.end()
    third = max(1, len(seen_mb) // 3)
    early, late = statistics.median(seen_mb[third : 2 * third]), statistics.median(seen_mb[-third:])
    broken = sum(number for status, number in counted.items() if status >= 500)
    said("load", f"{minutes:g} min, {sum(counted.values())} answers {dict(sorted(counted.items()))}; memory {early:.0f} MB in "
         f"the middle third, {late:.0f} MB in the last, most {max(seen_mb):.0f} MB")  # fmt: skip
    return not broken and late < early * 1.1


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--documents", type=int, default=20_000)
    parser.add_argument("--kills", type=int, default=1000)
    parser.add_argument("--episodes", type=int, default=50)
    parser.add_argument("--minutes", type=float, default=60)
    asked = parser.parse_args()
    parts = {
        "changed documents": (changed_documents, asked.documents), "kills": (kills, asked.kills),
        "episodes": (episodes, asked.episodes), "load": (load, asked.minutes),
    }  # fmt: skip
    failed = [name for name, (part, count) in parts.items() if count and not part(count)]
    print(f"failed: {', '.join(failed)}" if failed else "all held")
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main())
