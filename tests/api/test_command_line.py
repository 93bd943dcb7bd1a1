"""The command line, run as a user runs it."""

import json
import os
import socket
import subprocess
import sys

import pytest

from conftest import formula_json
from sapolin.core.bar.calculation import calculate
from sapolin.core.formula.document import Formula
from sapolin.demo import world


def sapolin(*arguments: str, stdin: str = "") -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, "-m", "sapolin", *arguments],
        input=stdin, capture_output=True, text=True, timeout=60, check=False, env=os.environ | {"COLUMNS": "200"},
    )  # fmt: skip


def document(**changes) -> str:
    return json.dumps({"format": "sapolin-formula", "format_version": 2, **formula_json(**changes)})


def test_calc_prints_what_the_core_calculates(tmp_path):
    file = tmp_path / "bar.json"
    file.write_text(document())
    from_file, from_stdin = sapolin("calc", str(file)), sapolin("calc", "-", stdin=document())
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
