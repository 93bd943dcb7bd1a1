"""The rules of thumb and the rule book as a page to read, written from the tables the calculation uses."""

import inspect

from sapolin.core.advice import rulebook
from sapolin.core.quantities.coefficients import coefficients
from sapolin.core.quantities.text import has_template, template, templates

__all__ = ["rules_of_thumb"]

_HEAD = """# Rules of thumb

Written from `src/sapolin/data/coefficients.json` and the rule book by `./run generate`. Edit the table, not this page.
Each quantity is what makers use or report, with the span it is given in; everything calculated from them is an estimate.

## Coefficients

| name | value | span | unit | meaning |
|---|---:|---|---|---|
"""
_RULES_HEAD = """
## What Sapolin looks out for

| code | what it says | reason | remedy |
|---|---|---|---|
"""


def _codes() -> list[str]:
    """The codes that the rule book may find, in the order of the catalogue of messages."""
    written = inspect.getsource(rulebook)
    return [code for code in templates("diagnostics") if f'"{code}"' in written]


def _cell(code: str, part: str) -> str:
    key = f"diagnostics.{code}.{part}"
    return template(key) if has_template(key) else ""


def rules_of_thumb() -> str:
    """The page, Markdown."""
    rows = [
        f"| `{entry.id}` | {entry.value:g} | {entry.minimum:g} to {entry.maximum:g} | {entry.unit} | {entry.meaning} |"
        for entry in coefficients().values()
    ]
    rules = [
        f"| `{code}` | {_cell(code, 'message')} | {_cell(code, 'reason')} | {_cell(code, 'remedy')} |"
        for code in _codes()
    ]
    return _HEAD + "\n".join(rows) + "\n" + _RULES_HEAD + "\n".join(rules) + "\n"
