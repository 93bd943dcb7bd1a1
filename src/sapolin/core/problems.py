"""What is wrong with a formula, as values the maker can act on."""

from collections.abc import Sequence
from typing import Any, Literal

from pydantic import ValidationError

from sapolin.core.model import Model

__all__ = ["FormulaError", "Offer", "Problem", "Severity", "malformed", "malformed_entries"]

Severity = Literal["incomplete", "impossible", "unsafe", "caution"]
"""incomplete: something is still to be entered. impossible: an entry cannot be. Both stop the reckoning.
unsafe: reckoned, but not to be made as it stands. caution: fine to make, good to know."""


class Offer(Model):
    """A value the maker may have meant; never taken unasked."""

    value: float
    label: str


class Problem(Model):
    """One thing to put right, where it is, and how."""

    code: str
    severity: Severity
    field: str
    """Path of the entry in the formula document, such as `blend.lines[1].share_percent`."""
    message: str
    """What is wrong, in plain words."""
    remedy: str
    """What to do about it."""
    offers: tuple[Offer, ...] = ()
    """Values to choose from instead of the one entered, the likeliest first."""

    @property
    def stops_the_reckoning(self) -> bool:
        """No figure may be shown while this stands."""
        return self.severity in ("incomplete", "impossible")


class FormulaError(Exception):
    """The formula cannot be reckoned; `problems` says why, worst first."""

    def __init__(self, problems: Sequence[Problem]) -> None:
        super().__init__("; ".join(f"{problem.field}: {problem.message}" for problem in problems))
        self.problems = tuple(problems)


_UNION_TAGS = ("percent", "weight", "profile", "sap", "certificate", "recipe")
_PLAIN_WORDS = {
    "missing": ("is missing", "Add it; use null for what is not known yet."),
    "extra_forbidden": ("has no place here", "Remove it, or correct its spelling."),
    "float_type": ("must be a number", "Write it as a plain number, such as 12.5, without quotes or unit."),
    "finite_number": ("must be an ordinary number", "Write a number such as 12.5."),
    "string_type": ("must be text", "Write it in quotes."),
    "string_too_short": ("must not be empty", "Enter something."),
    "bool_type": ("must be true or false", "Write true or false."),
    "bool_parsing": ("must be true or false", "Write true or false."),
    "union_tag_not_found": (
        "must say of which kind it is",
        "Add “by”: “percent” or “weight” to a blend, “kind” to the content of a material.",
    ),
    "union_tag_invalid": (
        "must be of a kind that there is",
        "A blend is led “by” “percent” or “weight”; a material’s “kind” is “profile”, “sap”, “certificate” or “recipe”.",
    ),
    "literal_error": ("must be one of the words of the format", "See docs/formula.schema.json for them."),
    "too_long": ("has too many entries", "Leave some out."),
    "string_pattern_mismatch": ("is not an id of the right form", "Own materials have ids such as “own-winter-blend”."),
    "json_invalid": ("is not JSON", "Check brackets, commas and quotes."),
}


def _path(location: Sequence[int | str]) -> str:
    path = ""
    for i, step in enumerate(location):
        if isinstance(step, int):
            path += f"[{step}]"
        elif not (step in _UNION_TAGS and i > 0 and location[i - 1] in ("blend", "content")):
            path += f".{step}" if path else step
    return path


def malformed_entries(errors: Sequence[Any], *, skip: int = 0) -> tuple[Problem, ...]:
    """Say Pydantic's `errors` in the words of a maker; `skip` leading steps of each location are left out."""
    problems = []
    for error in errors:
        path = _path(error["loc"][skip:])
        words, remedy = _PLAIN_WORDS.get(error["type"], (f"cannot be read: {error['msg']}", "Correct it."))
        given = error.get("input")
        shown = (
            f", not “{given[:60]}”" if isinstance(given, str) and error["type"] in ("float_type", "bool_type") else ""
        )
        problems.append(
            Problem(
                code=f"malformed_{error['type']}",
                severity="impossible",
                field=path,
                message=f"{path or 'The document'} {words}{shown}.",
                remedy=remedy,
            )
        )
    return tuple(problems)


def malformed(error: ValidationError) -> tuple[Problem, ...]:
    """The problems in a ValidationError."""
    return malformed_entries(error.errors(include_url=False))
