"""Processes forked from one that has everything imported: a second for each, where a new interpreter takes three."""

import ctypes
import os
import subprocess
import sys
import traceback
from multiprocessing import get_context
from multiprocessing.connection import Connection
from pathlib import Path
from tempfile import TemporaryDirectory

from quick_scale import settle_quickly
from sapolin.cli import main, serve

__all__ = ["FORKS", "LONGEST_S", "sapolin", "sapolin_anew", "serve_printing"]

FORKS = get_context("forkserver")
FORKS.set_forkserver_preload([
    "sapolin.cli", "sapolin.api.app", "sapolin.api.serving", "sapolin.api.network.listening", "sapolin.demo.world",
    "uvicorn.lifespan.on", "uvicorn.loops.auto",
])  # fmt: skip
PAGES = Path(__file__).resolve().parents[1] / "web" / "dist"

WIDE = {"COLUMNS": "200"}
LONGEST_S = 60.0
"""A process is waited for so long: the machine may be busy with other tests."""


def _run(arguments: tuple[str, ...], given: Path, out: Path, err: Path) -> None:
    for number, file, flags in ((0, given, os.O_RDONLY), (1, out, os.O_WRONLY), (2, err, os.O_WRONLY)):
        os.dup2(os.open(file, flags), number)
    sys.stdin, sys.stdout, sys.stderr = (open(number, mode, encoding="utf-8") for number, mode in enumerate("rww"))  # noqa: SIM115
    os.environ.update(WIDE)
    sys.argv = ["sapolin", *arguments]
    try:
        main()
    except Exception:
        traceback.print_exc()
        raise SystemExit(1) from None
    finally:
        sys.stdout.flush()
        ctypes.CDLL(None).fflush(None)  # What libraries in C have printed.


def sapolin(*arguments: str, stdin: str = "") -> "subprocess.CompletedProcess[str]":
    """What a command prints and ends with. It runs in a process of its own, all imported already."""
    with TemporaryDirectory() as directory:
        files = [Path(directory) / name for name in ("given", "out", "err")]
        for file, content in zip(files, (stdin, "", ""), strict=True):
            file.write_text(content, encoding="utf-8")
        process = FORKS.Process(target=_run, args=(arguments, *files), daemon=True)
        process.start()
        process.join(LONGEST_S)
        if process.exitcode is None:
            process.kill()
            raise subprocess.TimeoutExpired(["sapolin", *arguments], LONGEST_S)
        out, err = (file.read_text(encoding="utf-8") for file in files[1:])
        return subprocess.CompletedProcess(["sapolin", *arguments], process.exitcode, out, err)


def sapolin_anew(*arguments: str, stdin: str = "") -> "subprocess.CompletedProcess[str]":
    """The same, by a new interpreter, as a user runs it."""
    return subprocess.run(
        [sys.executable, "-m", "sapolin", *arguments],
        input=stdin, capture_output=True, text=True, timeout=LONGEST_S, check=False, env=os.environ | WIDE,
    )  # fmt: skip


def serve_printing(port: int, data: Path, demo: bool, printed: Connection) -> None:
    """Serve the built pages until the end of the process; what is said goes to `printed`."""
    os.dup2(printed.fileno(), 1)
    sys.stdout = open(1, "w", encoding="utf-8")  # noqa: SIM115 (for as long as it serves)
    settle_quickly()
    serve(demo=demo, port=port, host="127.0.0.1", data=data, web=PAGES)
