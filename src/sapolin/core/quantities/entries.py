"""Whether a number that was entered is there and makes sense."""

from collections.abc import Iterator

from sapolin.core.quantities.diagnostics import Diagnostic, stopping
from sapolin.core.quantities.text import as_entered, has_template, template

__all__ = ["entry_problems"]


def entry_problems(
    value: float | None, path: str, name: str, low: float, high: float, unit: str
) -> Iterator[Diagnostic]:  # fmt: skip
    """Whether an entry at `path` is missing, or lies outside `low` to `high` in `unit`. Nothing is ever moved to fit.

    `name` is its name under `entries` in the catalogue of messages, or, where there is none, the name itself.
    """
    said = template(f"entries.{name}") if has_template(f"entries.{name}") else name
    least, most = as_entered(low, unit), as_entered(high, unit)
    if value is None:
        yield stopping("missing", path, is_open=True, name=said, low=least, high=most)
    elif not low <= value <= high:
        yield stopping("not_within", path, name=said, value=as_entered(value, unit), low=least, high=most)
