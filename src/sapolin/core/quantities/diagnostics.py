"""What is worth saying about a formula, a batch or an entry, as values: a code, how grave it is, where it is, and params.

Words come from the catalogue of messages (``diagnostics`` in ``data/messages/en.json``): every code has its `message` there,
and where it needs them a `reason` and a `remedy`.
"""

from collections.abc import Sequence
from typing import Any, Literal

from pydantic import Field, ValidationError

from sapolin.core.quantities.model import Model, Truth
from sapolin.core.quantities.text import Param, Quantity, Text, has_template, number, plain, text

__all__ = ["Diagnostic", "FormulaError", "Offer", "Severity", "Stops", "diagnostic", "malformed", "malformed_entries",
           "stopping"]  # fmt: skip

Severity = Literal["problem", "warning", "note"]
"""problem: must be put right. warning: likely to spoil the bar, or to be looked at again. note: good to know."""
SEVERITIES: tuple[Severity, ...] = ("problem", "warning", "note")
Stops = Literal["calculation", "making", ""]
"""What a problem stops: nothing can be calculated, or it must not be made as it stands."""
About = Literal["lye", "sum", ""]
"""What of a formula it is about beyond one entry: its lye, which must not be used so, or what its shares sum to."""


class Offer(Model):
    """A value the maker may have meant; never taken unasked."""

    value: float
    label: Text


class Diagnostic(Model):
    """One thing to put right or to know, where it is, and how."""

    code: str
    severity: Severity
    path: str = ""
    """Path of the entry it is about, such as `blend.lines[1].value`; empty when it is about the whole."""
    params: dict[str, str | Quantity] = Field(default={})
    """What the message is about, typed."""
    stops: Stops = ""
    about: About = ""
    is_open: Truth = False
    """Something is still to be entered; nothing is wrong with what has been."""
    is_doubt: Truth = False
    """It is only asked about: the same sent again with `sure` is taken."""
    quantity: str | None = None
    """The quantity whose explanation says more, if one."""
    message: Text
    """What it is, with its size."""
    reason: Text = ()
    """Why it matters."""
    remedy: Text = ()
    """What to do about it."""
    offers: tuple[Offer, ...] = ()
    """Values to choose from instead of the one entered, the likeliest first."""

    @property
    def stops_calculation(self) -> bool:
        """No result may be shown while this stands."""
        return self.stops == "calculation"

    def at(self, path: str) -> "Diagnostic":
        """The same about the entry at `path`."""
        return self.model_copy(update={"path": path})


def diagnostic(
    code: str,
    severity: Severity,
    path: str = "",
    *,
    stops: Stops = "",
    about: About = "",
    is_open: bool = False,
    quantity: str | None = None,
    offers: Sequence[Offer] = (),
    **params: Param,
) -> Diagnostic:
    """The diagnostic `code` with its words. Raises KeyError when the catalogue has no message of that code."""
    return _built(code, severity, path, params, stops, is_open, quantity, offers, about=about)


def _built(
    code: str,
    severity: Severity,
    path: str,
    params: dict[str, Param],
    stops: Stops,
    is_open: bool,
    quantity: str | None,
    offers: Sequence[Offer],
    *,
    about: About = "",
    is_doubt: bool = False,
) -> Diagnostic:
    def words(part: str) -> Text:
        key = f"diagnostics.{code}.{part}"
        return text(key, **params) if has_template(key) else ()

    return Diagnostic(
        code=code, severity=severity, path=path, params=params, stops=stops, is_open=is_open, quantity=quantity,
        message=text(f"diagnostics.{code}.message", **params), reason=words("reason"), remedy=words("remedy"),
        offers=tuple(offers), about=about, is_doubt=is_doubt,
    )  # fmt: skip


def stopping(
    code: str,
    path: str,
    *,
    offers: Sequence[Offer] = (),
    about: About = "",
    is_open: bool = False,
    is_doubt: bool = False,
    **params: Param,
) -> Diagnostic:
    """A problem that stops the calculation: an entry that is missing (`is_open`), doubted (`is_doubt`) or cannot be."""
    return _built(code, "problem", path, params, "calculation", is_open, None, offers, about=about, is_doubt=is_doubt)


class FormulaError(Exception):
    """What was asked cannot be done; `problems` says why, worst first."""

    def __init__(self, problems: Sequence[Diagnostic]) -> None:
        super().__init__("; ".join(f"{problem.path}: {plain(problem.message)}" for problem in problems))
        self.problems = tuple(problems)


_UNION_TAGS = ("profile", "sap", "certificate", "recipe")
_UNIT_WORDS = ("_percent", "_g_per_ml", "_g", "_ml", "_mm", "_c", "_per_kg", "_hours", "_weeks")


def _path(location: Sequence[int | str]) -> str:
    path = ""
    for i, step in enumerate(location):
        if isinstance(step, int):
            path += f"[{step}]"
        elif not (step in _UNION_TAGS and i > 0 and location[i - 1] == "content"):
            path += f".{step}" if path else step
    return path


def _noun(location: Sequence[int | str]) -> str:
    """What an entry is called in a sentence: never its path."""
    names = [step for step in location if isinstance(step, str)]
    if not names:
        return plain(text("malformed.nouns.all"))
    name = names[-1]
    if has_template(f"malformed.nouns.{name}"):
        return plain(text(f"malformed.nouns.{name}"))
    for unit in _UNIT_WORDS:
        name = name.removesuffix(unit)
    return f"“{name.replace('_', ' ')}”"


def malformed_entries(errors: Sequence[Any], *, skip: int = 0) -> tuple[Diagnostic, ...]:
    """Say Pydantic's `errors` in the words of a maker; `skip` leading steps of each location are left out.

    No message holds a path or a word of the library; the path is in `path`, for programs.
    """
    return tuple(_malformed(error, error["loc"][skip:]) for error in errors)


def _malformed(error: Any, location: Sequence[int | str]) -> Diagnostic:
    context, kind = error.get("ctx") or {}, error["type"]
    key = kind if has_template(f"malformed.{kind}.message") else "other"
    given = error.get("input")
    shown = f", not “{given[:60]}”" if isinstance(given, str) and kind in ("float_type", "bool_type") else ""
    params: dict[str, Param] = {
        "entry": _noun(location), "given": shown,
        "most": _limit(context, "le", "lt", "max_length"), "least": _limit(context, "ge", "gt", "min_length"),
    }  # fmt: skip
    return Diagnostic(
        code=f"malformed_{kind}",
        severity="problem",
        path=_path(location),
        params=params,
        stops="calculation",
        message=text(f"malformed.{key}.message", **params),
        remedy=text(f"malformed.{key}.remedy", **params),
    )


def _limit(context: dict[str, Any], *names: str) -> Param:
    value = next((context[name] for name in names if name in context), None)
    return plain(text("malformed.the_limit")) if value is None else number(float(value))


def malformed(error: ValidationError) -> tuple[Diagnostic, ...]:
    """The problems in a ValidationError."""
    return malformed_entries(error.errors(include_url=False))
