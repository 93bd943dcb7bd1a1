"""One vocabulary: words that were given up for plainer ones are in no code, no text and no document."""

import re
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parents[1]
SUFFIXES = {".py", ".ts", ".tsx", ".css", ".json", ".csv", ".md"}
ROOMS = ("src/sapolin", "web/src", "web/bundle", "docs", "tests", "benchmarks", "install", "README.md", "run")
OLD_NAMES = (
    "core/formula/version_1.py",
    "tests/store/test_version_1.py",
    "0007_plain_words.py",
    "test_formula_document.py",
)
"""What reads documents and databases of version 1 names things as they were."""
LEFT_OUT = [
    "reckon(s|ed|ing)?", "figures", "workings", "pots?", "unmixed", "eaten", "eats?", "worked out", "as made", "ways? out",
    "outlook", "foret(ells?|old)", "modifiers?", "readings? tab", "whiskers?", "bands?", "made up", "best proven",
    "programmes?", "put aside", "(brings?|brought) back", "strength", "true superfat", "remarks?",
    "(19|nineteen) (times in|in|of) (20|twenty)",
    "findings?", "what stands out", "could take over", "wish(es)?", "musts", "at work",
]  # fmt: skip
ANY_OF_THEM = "|".join(LEFT_OUT).replace(" ", r"[\s_]")
PATTERN = re.compile(rf"(?<![A-Za-z])({ANY_OF_THEM})(?![A-Za-z])", re.IGNORECASE)


def files() -> list[Path]:
    found = []
    for room in ROOMS:
        path = ROOT / room
        found += [path] if path.is_file() else [file for file in sorted(path.rglob("*")) if file.suffix in SUFFIXES]
    return [
        file for file in found
        if file != Path(__file__) and not any(old in file.as_posix() for old in OLD_NAMES)
    ]  # fmt: skip


def test_blends_are_proven_and_only_bars_are_judged():
    solver = [*(ROOT / "src/sapolin/core/optimise/solve").glob("*.py"), *(ROOT / "web/src/solve").glob("*.ts*")]
    assert [file.name for file in solver if re.search(r"\bjudged\b", file.read_text(encoding="utf-8"))] == []


@pytest.mark.parametrize("room", ROOMS)
def test_no_word_that_was_given_up_is_left(room):
    left = [
        f"{file.relative_to(ROOT)}:{number}: {match.group()}"
        for file in files()
        if file.is_relative_to(ROOT / room)
        for number, line in enumerate(file.read_text(encoding="utf-8").splitlines(), start=1)
        for match in [PATTERN.search(line)]
        if match
    ]
    assert left == []
