"""Questions as documents, and the command line that answers them."""

import json
from subprocess import CompletedProcess

import jsonschema
import pytest

from conftest import formula_json
from forks import sapolin, sapolin_anew
from sapolin.core.optimise.solve import answer_solve
from sapolin.core.quantities.diagnostics import FormulaError
from sapolin.exchange.question_document import question_schemas, read_question, read_swap_question

LEAST = {"format": "sapolin-question", "format_version": 1, "purpose": "high-olive", "free_of": ["palm", "animal"],
         "shelf": None, "most_oils": 5}  # fmt: skip


def run(command: str, document: object) -> CompletedProcess[str]:
    return sapolin(command, "-", stdin=document if isinstance(document, str) else json.dumps(document))


class TestCommandLine:
    def test_the_least_question_is_answered_as_json_alone(self):
        done = sapolin_anew("solve", "-", stdin=json.dumps(LEAST))
        assert done.returncode == 0, done.stderr
        answer = json.loads(done.stdout)
        first = answer["blends"][0]
        assert first["status"] == "proven"
        olive = sum(one["share_percent"] for one in first["oils"] if one["oil"].startswith("olive"))
        assert olive >= 60
        assert 0 < first["chance_in_range_percent"] <= 100
        assert all({"code", "severity"} == set(one) for one in first["diagnostics"])
        # Nothing is told of a weight of lye: no purity is known.
        assert "naoh" not in done.stdout.lower()

    def test_a_swap_is_answered(self):
        formula = formula_json({"olive-refined": 45.0, "palm": 30.0, "coconut": 20.0, "castor": 5.0})
        done = run("swap", {"format": "sapolin-question", "format_version": 1, "formula": formula, "outgoing": ["palm"],
                            "free_of": ["palm", "animal"]})  # fmt: skip
        assert done.returncode == 0, done.stderr
        answer = json.loads(done.stdout)
        assert answer["outgoing_g"] == pytest.approx(300.0)
        assert answer["candidates"]
        for candidate in answer["candidates"]:
            assert "palm" not in [one["oil"] for one in candidate["oils"]]
            assert sum(one["share_percent"] for one in candidate["oils"]) == pytest.approx(100)

    @pytest.mark.parametrize(
        ("document", "words"),
        [
            ("{", "not JSON"),
            ("[]", ""),
            (LEAST | {"format": "other"}, ""),
            (LEAST | {"format_version": 2}, ""),
            (LEAST | {"purpose": "space travel"}, "no purpose"),
            (LEAST | {"shelf": ["olive-refind"]}, "Did you mean olive-refined"),
            (LEAST | {"free_of": ["sunshine"]}, ""),
            (LEAST | {"most_oils": 0}, ""),
            (LEAST | {"surprise": 1}, ""),
            (LEAST | {"targets": [{"feature": "hardness", "minimum": 50, "maximum": 40}]}, "runs from 50 down to 40"),
            (LEAST | {"limits": [{"oil": "palm", "minimum_percent": 20}]}, "wanted and forbidden"),
        ],
    )
    def test_bad_input_ends_with_2_and_plain_words(self, document, words):
        done = run("solve", document)
        assert done.returncode == 2
        assert done.stdout == ""
        assert done.stderr.startswith("sapolin: ")
        assert "Traceback" not in done.stderr
        assert words in done.stderr

    def test_a_file_that_is_not_there(self):
        done = sapolin("solve", "/nowhere/q.json")
        assert (done.returncode, done.stdout) == (2, "")
        assert "cannot read" in done.stderr


class TestDocuments:
    def test_the_schema_takes_what_is_read(self):
        jsonschema.validate(LEAST, question_schemas()["question.schema.json"])
        with pytest.raises(jsonschema.ValidationError):
            jsonschema.validate(LEAST | {"surprise": 1}, question_schemas()["question.schema.json"])

    def test_a_choice_in_one_word_covers_several(self):
        question = read_question(json.dumps(LEAST | {"free_of": ["vegan", "nuts", "gluten"]}).encode())
        assert {"animal", "milk", "bee products", "tree nuts", "peanut", "wheat", "oats"} <= set(question.free_of)

    def test_the_purpose_brings_its_superfat_and_its_lye(self):
        shaving = read_question(
            json.dumps({"format": "sapolin-question", "format_version": 1, "purpose": "shaving"}).encode()
        )
        assert shaving.formula.superfat_percent == 4
        assert shaving.formula.lye.koh.value == 40
        assert shaving.formula.process.method == "hot"

    def test_a_formula_without_a_purity_can_be_asked_about(self):
        formula = formula_json(lye={"naoh_purity_percent": None})
        question = read_question(json.dumps(LEAST | {"formula": formula}).encode())
        assert not answer_solve(question).solutions[0].lye_is_known
        swap = {"format": "sapolin-question", "format_version": 1, "formula": formula, "outgoing": [{"oil": "coconut"}]}
        assert read_swap_question(json.dumps(swap).encode()).outgoing[0].oil == "coconut"

    def test_what_goes_has_to_be_known(self):
        swap = {"format": "sapolin-question", "format_version": 1, "formula": formula_json(), "outgoing": ["cocnut"]}
        with pytest.raises(FormulaError) as refused:
            read_swap_question(json.dumps(swap).encode())
        assert refused.value.problems[0].code == "unknown_oil_nearest"
