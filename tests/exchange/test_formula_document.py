"""A formula as a file: what is written is read back whole, and nothing crooked gets in."""

import json

import pytest
from hypothesis import given, settings
from jsonschema import Draft202012Validator

from conftest import formula_json
from core.strategies import laden_formulas
from sapolin.core.bar.calculation import calculate
from sapolin.core.quantities.diagnostics import FormulaError
from sapolin.core.quantities.text import number, plain
from sapolin.exchange.formula_document import MAX_DOCUMENT_BYTES, document_schema, read_document, write_document

SCHEMA = Draft202012Validator(document_schema())


def refused(content: bytes) -> FormulaError:
    with pytest.raises(FormulaError) as error:
        read_document(content)
    return error.value


@given(laden_formulas())
@settings(max_examples=40)
def test_any_formula_comes_back_as_it_was(formula):
    written = write_document(formula)
    read = read_document(written.encode())
    assert read == formula
    assert calculate(read) == calculate(formula)
    SCHEMA.validate(json.loads(written))


def test_every_letter_survives(make_formula):
    formula = make_formula(name="Łódź · Мыло", notes="line one\nline “two”\t\\ end")
    assert read_document(write_document(formula).encode()) == formula


def test_a_file_ends_with_a_line_and_can_be_read_by_people(make_formula):
    lines = write_document(make_formula()).splitlines(keepends=True)
    assert lines[1:3] == ['  "format": "sapolin-formula",\n', '  "format_version": 2,\n']
    assert lines[-1] == "}\n"


def test_too_large_is_refused_unread():
    problem = refused(b" " * (MAX_DOCUMENT_BYTES + 1)).problems[0]
    assert problem.code == "document_too_large"
    assert problem.params["most"] == number(1_000_000)


@pytest.mark.parametrize(
    "content", [b"", b"{", b"\xff\xfe\x00", b"null", b"[1]", b'"soap"', b"NaN", b"{}" * 2, b"[" * 5000]
)
def test_what_is_no_document_is_refused_in_words(content):
    problem = refused(content).problems[0]
    assert len(plain(problem.message)) > 10
    assert "Traceback" not in plain(problem.message)


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"format_version": 3}, "format_version"),
        ({"format": "another"}, "format"),
        ({"superfat": 5}, "superfat"),
        ({"superfat_percent": "five"}, "superfat_percent"),
        ({"lye": {"naoh_purity_percent": 99, "grams": 3}}, "lye.grams"),
        ({"blend": {"total_oils_g": 1000, "lines": [{"oil": "olive-refined"}, {}]}}, "blend"),
    ],
)
def test_each_entry_at_fault_is_named(change, field):
    document = {"format": "sapolin-formula", "format_version": 2, **formula_json()} | change
    assert any(problem.path.startswith(field) for problem in refused(json.dumps(document).encode()).problems)
    assert not SCHEMA.is_valid(document)


def test_a_document_of_version_1_reads_under_the_new_names():
    old = {"format": "sapolin-formula", "format_version": 1, **formula_json()}
    old["blend"] = {"by": "percent", "total_oils_g": 1000.0, "lines": [
        {"oil": "olive-refined", "share_percent": 70.0, "held": True}, {"oil": "coconut", "share_percent": 30.0},
    ]}  # fmt: skip
    old["bands"] = [{"quality": "hardness", "minimum": 30.0, "maximum": 40.0}]
    old["materials"] = [{
        "id": "own-mix", "name": "Mix",
        "content": {"kind": "recipe", "parts": [{"oil": "castor", "share_percent": 100.0}]},
    }]  # fmt: skip
    formula = read_document(json.dumps(old).encode())
    assert formula.blend.lines[0].locked
    assert [(line.by, line.value) for line in formula.blend.lines] == [
        ("percent_of_oils", 70.0),
        ("percent_of_oils", 30.0),
    ]
    assert formula.target_range("hardness").maximum == 40.0
    assert formula.materials[0].content.components[0].oil == "castor"
    written = json.loads(write_document(formula))
    assert written["format_version"] == 2
    assert "held" not in written["blend"]["lines"][0]
