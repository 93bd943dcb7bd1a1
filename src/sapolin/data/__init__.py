"""Reference tables of the trade, as files that people can read, edit and compare.

Cells that vary in nature are written ``typical (min..max)``, for example ``190 (184..196)``.
"""

import csv
import json
from importlib.resources import files
from typing import Any

__all__ = ["read_json", "read_table"]


def read_table(name: str) -> list[dict[str, str]]:
    """Rows of the CSV table `name` (without ending), each a mapping of column to cell text."""
    text = files(__name__).joinpath(f"{name}.csv").read_text(encoding="utf-8")
    return list(csv.DictReader(text.splitlines()))


def read_json(name: str) -> Any:
    """Content of the JSON table `name` (without ending)."""
    return json.loads(files(__name__).joinpath(f"{name}.json").read_text(encoding="utf-8"))
