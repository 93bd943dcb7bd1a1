"""The command line, run as a user runs it."""

import json
import os
import re
import socket
import subprocess
import sys
import time
from pathlib import Path

import pytest

from conftest import formula_json
from demo_copy import put_demo
from forks import sapolin, sapolin_anew
from sapolin.core.bar.calculation import calculate
from sapolin.core.formula.document import Formula
from sapolin.demo import world


def document(**changes) -> str:
    return json.dumps({"format": "sapolin-formula", "format_version": 2, **formula_json(**changes)})


def test_calc_prints_what_the_core_calculates(tmp_path):
    file = tmp_path / "bar.json"
    file.write_text(document())
    from_file, from_stdin = sapolin("calc", str(file)), sapolin_anew("calc", "-", stdin=document())
    assert from_file.returncode == 0
    assert from_file.stdout == from_stdin.stdout
    assert json.loads(from_file.stdout) == calculate(Formula.model_validate(formula_json())).model_dump(mode="json")


def test_calc_can_show_every_explanation():
    printed = json.loads(sapolin("calc", "--explanation", "-", stdin=document()).stdout)
    assert printed["explanations"]["naoh_g"]["value"] == printed["lye"]["naoh_g"]


@pytest.mark.parametrize(
    ("content", "said"),
    [
        ("", "is not JSON"),
        ("{", "is not JSON"),
        ("[]", "What was sent must be a group"),
        (json.dumps(formula_json()), "format: “format” is missing"),
        (document(superfat_percent=99.0), "superfat_percent: Superfat 99 % is outside −5 % to 40 %"),
        (document(superfat_percent="lots"), "superfat_percent: The superfat must be a number, not “lots”"),
        (document(water={"by": "water_to_lye", "value": 0.5}), "water.value"),
    ],
)
def test_calc_says_what_is_wrong_and_exits_with_2(content, said):
    run = sapolin("calc", "-", stdin=content)
    assert run.returncode == 2
    assert run.stdout == ""
    assert said in run.stderr
    assert "Traceback" not in run.stderr


def test_calc_without_a_file_there(tmp_path):
    run = sapolin("calc", str(tmp_path / "none.json"))
    assert run.returncode == 2
    assert "cannot read" in run.stderr


def test_a_busy_port_is_said_plainly(tmp_path):
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        run = sapolin("serve", "--port", str(taken.getsockname()[1]), "--data", str(tmp_path))
    assert run.returncode == 1
    assert "cannot listen on 127.0.0.1" in run.stderr
    assert "--port" in run.stderr


@pytest.mark.parametrize("slug", world.slugs())
def test_demo_documents_can_all_be_read(slug):
    formula = world.formula(slug)
    assert formula.name
    assert formula.blend.lines


def test_what_is_shipped_is_listed_with_its_licence():
    root = Path(__file__).parent.parent.parent
    pinned = set(re.findall(r"^([\w.-]+==[^\s;\\]+)", (root / "requirements.txt").read_text(), re.MULTILINE))
    lock = json.loads((root / "web" / "package-lock.json").read_text())["packages"]
    pinned |= {
        f"{place.rpartition('node_modules/')[2]}=={one['version']}"
        for place, one in lock.items()
        if place and not one.get("dev") and not one.get("optional")
    }
    listed = json.loads((root / "docs" / "components.cdx.json").read_text())["components"]
    assert {f"{one['name']}=={one['version']}" for one in listed} == pinned, "./run notices"
    assert all(one["licenses"][0]["license"]["name"] for one in listed)
    table = (root / "docs" / "third-party.md").read_text()
    assert all(f"| {one['name']} | {one['version']} |" in table for one in listed)


def test_without_a_command_it_starts_and_opens_the_browser(tmp_path):
    opened = tmp_path / "opened"
    browser = tmp_path / "browser"
    browser.write_text(f'#!/bin/sh\necho "$1" > {opened}\n')
    browser.chmod(0o700)
    with subprocess.Popen(
        [sys.executable, "-m", "sapolin"], stdout=subprocess.PIPE, text=True,
        env=os.environ | {"XDG_DATA_HOME": str(tmp_path), "BROWSER": f"{browser} %s"},
    ) as process:  # fmt: skip
        assert process.stdout is not None
        address = re.search(r"http://\S+", process.stdout.readline())
        for _ in range(100):
            if opened.is_file() and opened.read_text():
                break
            time.sleep(0.1)
        process.terminate()
    assert address is not None
    assert opened.read_text().strip() == address.group()


@pytest.mark.parametrize("command", ["backup", "export"])
def test_what_is_not_there_yet_cannot_be_kept(tmp_path, command):
    arguments = [str(tmp_path / "all.zip")] if command == "export" else []
    refused = sapolin(command, *arguments, "--data", str(tmp_path))
    assert refused.returncode == 1
    assert "is not there yet" in refused.stderr
    assert not (tmp_path / "all.zip").exists()


def test_everything_is_exported_and_brought_in(tmp_path):
    put_demo(tmp_path / "demo.db")
    exported = sapolin("export", str(tmp_path / "all.zip"), "--demo", "--data", str(tmp_path))
    assert exported.returncode == 0, exported.stderr
    taken = sapolin("import", str(tmp_path / "all.zip"), "--data", str(tmp_path / "other"))
    assert taken.returncode == 0, taken.stderr
    assert "batches: 21 added, 0 the same, 0 kept as here" in taken.stdout
    dry = sapolin("restore", "newest", "--dry-run", "--data", str(tmp_path / "other"))
    assert "batches: 21 now, 0 then; 21 would go, 0 would come" in dry.stdout
    assert sapolin("restore", "newest", "--data", str(tmp_path / "other")).returncode == 0
    assert "batches" not in sapolin("doctor", "--data", str(tmp_path / "other")).stdout
    nothing = sapolin("restore", "no-such", "--data", str(tmp_path / "other"))
    assert (nothing.returncode, "There is no backup" in nothing.stderr) == (1, True)
