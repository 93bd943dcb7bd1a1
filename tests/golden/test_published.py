"""What is published of the code and kept beside it says what the code says: `./run generate` writes it anew."""

from pathlib import Path

import pytest

from sapolin.cli import publish

DOCS = Path(__file__).parents[2] / "docs"


@pytest.fixture(scope="module")
def fresh(tmp_path_factory) -> Path:
    directory = tmp_path_factory.mktemp("published")
    publish(directory)
    return directory


@pytest.mark.parametrize(
    "name",
    [
        "openapi.json", "formula.schema.json", "question.schema.json", "swap-question.schema.json", "archive.schema.json",
        "rules-of-thumb.md",
    ],
)  # fmt: skip
def test_it_has_not_drifted_from_the_code(fresh, name):
    assert (fresh / name).read_text(encoding="utf-8") == (DOCS / name).read_text(encoding="utf-8")


def test_nothing_else_is_published(fresh):
    assert len([*fresh.iterdir()]) == 6
