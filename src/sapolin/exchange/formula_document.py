"""The formula document: one formula as an open JSON file.

A document is the formula itself with two fields in front, `format` and `format_version`. Its schema is published in
``docs/formula.schema.json``; documents of version 1 are read too. Readers refuse what the schema does not name, so that no
quantity is silently dropped.
"""

import json
from typing import Any, Literal

from pydantic import ValidationError

from sapolin.core.formula.document import Formula
from sapolin.core.formula.version_1 import formula_from_version_1
from sapolin.core.quantities.diagnostics import FormulaError, malformed, stopping
from sapolin.core.quantities.text import number

__all__ = ["FORMAT", "FORMAT_VERSION", "MAX_DOCUMENT_BYTES", "FormulaDocument", "document_schema", "read_document",
           "write_document"]  # fmt: skip

FORMAT = "sapolin-formula"
FORMAT_VERSION = 2
MAX_DOCUMENT_BYTES = 1_000_000
"""Larger files are refused unread; a formula with forty oils and long notes stays under 40 kB."""


class FormulaDocument(Formula):
    """A soap formula as a file."""

    format: Literal["sapolin-formula"]
    format_version: Literal[2]


def _of_this_version(content: bytes) -> bytes | str:
    """A document of version 1 under the names of this version; anything else as it is, for the model to judge."""
    try:
        parsed = json.loads(content)
    except (ValueError, RecursionError):
        return content
    if isinstance(parsed, dict) and parsed.get("format_version") == 1:
        return json.dumps(formula_from_version_1(parsed) | {"format_version": FORMAT_VERSION})
    return content


def read_document(content: bytes) -> Formula:
    """The formula in a document.

    Raises FormulaError, naming each entry at fault, when it is too large, not JSON, or not of the published form.
    Whether the formula can be calculated is not asked here.
    """
    if len(content) > MAX_DOCUMENT_BYTES:
        raise FormulaError([stopping("document_too_large", "", most=number(MAX_DOCUMENT_BYTES))])
    try:
        document = FormulaDocument.model_validate_json(_of_this_version(content))
    except ValidationError as error:
        raise FormulaError(malformed(error)) from error
    return Formula.model_validate(document.model_dump(exclude={"format", "format_version"}))


def write_document(formula: Formula) -> str:
    """`formula` as a document, two-space indented JSON with a final newline."""
    document = {"format": FORMAT, "format_version": FORMAT_VERSION, **formula.model_dump(mode="json")}
    return json.dumps(document, indent=2, ensure_ascii=False) + "\n"


def document_schema() -> dict[str, Any]:
    """The published JSON Schema of the document."""
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "$id": "urn:sapolin:formula:2",
        **FormulaDocument.model_json_schema(),
    }
