"""What is wrong with a formula, as values the maker can act on."""

from collections.abc import Sequence
from typing import Any, Literal

from pydantic import ValidationError

from sapolin.core.quantities.model import Model

__all__ = ["FormulaError", "Offer", "Problem", "Severity", "malformed", "malformed_entries"]

Severity = Literal["incomplete", "impossible", "unsafe", "caution"]
"""incomplete: something is still to be entered. impossible: an entry cannot be. Both stop the calculation.
unsafe: calculated, but not to be made as it stands. caution: fine to make, good to know."""


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
    def stops_calculation(self) -> bool:
        """No quantity may be shown while this stands."""
        return self.severity in ("incomplete", "impossible")


class FormulaError(Exception):
    """The formula cannot be calculated; `problems` says why, worst first."""

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
    "too_long": ("has too many entries", "Leave some out: {most} at the most."),
    "too_short": ("has no entries", "Give at least one."),
    "greater_than": ("is too small", "It must be more than {least}."),
    "greater_than_equal": ("is too small", "It must be {least} at the least."),
    "less_than": ("is too large", "It must be less than {most}."),
    "less_than_equal": ("is too large", "It must be {most} at the most."),
    "int_type": ("must be a whole number", "Write a number such as 12."),
    "int_parsing": ("must be a whole number", "Write a number such as 12."),
    "int_from_float": ("must be a whole number", "Write a number such as 12."),
    "int_parsing_size": ("is too large", "Write a smaller number."),
    "float_parsing": ("must be a number", "Write a number such as 12.5."),
    "string_too_long": ("is too long", "Shorten it to {most} characters."),
    "string_unicode": ("holds a character that is none", "Type it again."),
    "tuple_type": ("must be a list", "Put it in square brackets."),
    "list_type": ("must be a list", "Put it in square brackets."),
    "dict_type": ("must be a group of named entries", "Put it in curly brackets."),
    "model_type": ("must be a group of named entries", "Put it in curly brackets."),
    "model_attributes_type": ("must be a group of named entries", "Put it in curly brackets."),
    "none_required": ("must be left open", "Use null."),
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


_NOUNS = {
    "outgoing": "the oil that goes", "keep_percent": "the share that may stay", "share_percent": "the share",
    "weight_g": "the weight", "value": "the amount", "superfat_percent": "the superfat", "revision": "the revision",
    "naoh_purity_percent": "the purity of the NaOH", "purity_percent": "the purity of the KOH", "lines": "the oils",
    "after_seq": "the last event known", "celsius": "the temperature", "soap_percent": "the soap in the diluted soap",
    "total_oils_g": "the weight of all oils", "targets": "the targets", "key": "the key", "minimum": "the least",
    "maximum": "the most",
}  # fmt: skip
_UNIT_WORDS = ("_percent", "_g_per_ml", "_g", "_ml", "_mm", "_c", "_per_kg", "_hours", "_weeks")


def _noun(location: Sequence[int | str]) -> str:
    """What an entry is called in a sentence: never its path."""
    names = [step for step in location if isinstance(step, str)]
    if not names:
        return "what was sent"
    name = names[-1]
    if name in _NOUNS:
        return _NOUNS[name]
    for unit in _UNIT_WORDS:
        name = name.removesuffix(unit)
    return f"“{name.replace('_', ' ')}”"


def malformed_entries(errors: Sequence[Any], *, skip: int = 0) -> tuple[Problem, ...]:
    """Say Pydantic's `errors` in the words of a maker; `skip` leading steps of each location are left out.

    No message holds a path or a word of the library; the path is in `field`, for programs.
    """
    problems = []
    for error in errors:
        location = error["loc"][skip:]
        context = error.get("ctx") or {}
        plain = _PLAIN_WORDS.get(error["type"], ("cannot be read", "Correct it."))
        limits = {
            "most": _limit(context, "le", "lt", "max_length"), "least": _limit(context, "ge", "gt", "min_length"),
        }  # fmt: skip
        words, remedy = (text.format_map(limits) for text in plain)
        given = error.get("input")
        shown = (
            f", not “{given[:60]}”" if isinstance(given, str) and error["type"] in ("float_type", "bool_type") else ""
        )
        noun = _noun(location)
        problems.append(
            Problem(
                code=f"malformed_{error['type']}",
                severity="impossible",
                field=_path(location),
                message=f"{noun[:1].upper()}{noun[1:]} {words}{shown}.",
                remedy=remedy,
            )
        )
    return tuple(problems)


def _limit(context: dict[str, Any], *names: str) -> str:
    value = next((context[name] for name in names if name in context), None)
    return "the limit" if value is None else f"{value:,.12g}"


def malformed(error: ValidationError) -> tuple[Problem, ...]:
    """The problems in a ValidationError."""
    return malformed_entries(error.errors(include_url=False))
