"""The rules of thumb and the rule book as a page to read, written from the tables the calculation uses."""

from sapolin.core.advice.rulebook import RULES
from sapolin.core.quantities.coefficients import coefficients

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

| rule | severity | reason | remedy |
|---|---|---|---|
"""


def rules_of_thumb() -> str:
    """The page, Markdown."""
    rows = [
        f"| `{entry.id}` | {entry.value:g} | {entry.minimum:g} to {entry.maximum:g} | {entry.unit} | {entry.meaning} |"
        for entry in coefficients().values()
    ]
    rules = [
        f"| `{rule.id}` | {rule.severity} | {rule.reason or 'said with the result'} | {rule.remedy or 'the target range'} |"
        for rule in RULES
    ]
    return _HEAD + "\n".join(rows) + "\n" + _RULES_HEAD + "\n".join(rules) + "\n"
