"""What a begun batch keeps says its states and sums as texts, and what makes its superfat uncertain by a name of its own."""

import json
from typing import Any

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None

KEPT = (("batch_starts", ("batch_id",)), ("batch_outcomes", ("batch_id", "seq")))
_CAUSES = {"the scale": "scale", "purity of the ": "purity", "fat of the ": "fat", "acid of the ": "acid"}


def _as_text(said: Any) -> Any:
    return [said] if isinstance(said, str) else said


def _cause(label: str) -> str:
    return next((cause for start, cause in _CAUSES.items() if label.startswith(start)), "oil")


def rewritten(kept: Any) -> Any:
    """The same content with every adjustment, effect and contributor in it as they are written now."""
    if isinstance(kept, list):
        return [rewritten(one) for one in kept]
    if not isinstance(kept, dict):
        return kept
    new = {key: rewritten(value) for key, value in kept.items()}
    if {"effects", "state", "reason"} <= new.keys():
        new["state"] = _as_text(new["state"])
    if {"on", "points", "expression"} <= new.keys():
        new["expression"] = _as_text(new["expression"])
    for one in new.get("contributors", ()):
        if isinstance(one, dict) and "label" in one:
            one.setdefault("cause", _cause(one["label"]))
    return new


def upgrade() -> None:
    # What a batch began with never changes: the trigger that sees to it rests while the words get their new form.
    op.execute("DROP TRIGGER batch_starts_never_change")
    connection = op.get_bind()
    for table, keys in KEPT:
        named = ", ".join(keys)
        for *key, content in connection.execute(sa.text(f"SELECT {named}, content FROM {table}")).all():
            try:
                changed = json.dumps(rewritten(json.loads(content)), ensure_ascii=False, separators=(",", ":"))
            except (ValueError, RecursionError):
                continue  # Damaged content stays as it is.
            connection.execute(
                sa.text(
                    f"UPDATE {table} SET content = :content WHERE {' AND '.join(f'{name} = :{name}' for name in keys)}"
                ),
                {"content": changed, **dict(zip(keys, key, strict=True))},
            )
    op.execute(
        "CREATE TRIGGER batch_starts_never_change BEFORE UPDATE ON batch_starts "
        "WHEN OLD.content NOT LIKE '{\"rows_alone\"%' "
        "BEGIN SELECT RAISE(ABORT, 'what a batch began with stays'); END"
    )
