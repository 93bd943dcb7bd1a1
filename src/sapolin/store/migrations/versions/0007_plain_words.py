"""Plain words: archived instead of deleted, and documents under the names of version 2."""

import json
from collections.abc import Callable
from typing import Any

import sqlalchemy as sa
from alembic import op

from sapolin.core.formula.version_1 import (
    event_from_version_1,
    formula_from_version_1,
    material_from_version_1,
    plan_from_version_1,
    target_from_version_1,
)

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None

ARCHIVABLE = ("formulas", "materials", "moulds", "batches")


def _rewrite(table: str, key: str, change: Callable[[Any], Any]) -> None:
    """Give every row of `table` its content as `change` makes it; one that is damaged stays as it is."""
    connection = op.get_bind()
    rows = connection.execute(sa.text(f"SELECT {key}, content FROM {table}")).all()
    for row_key, content in rows:
        try:
            changed = json.dumps(change(json.loads(content)), ensure_ascii=False)
        except (ValueError, KeyError, TypeError, AttributeError):
            continue
        connection.execute(
            sa.text(f"UPDATE {table} SET content = :content WHERE {key} = :key"),
            {"content": changed, "key": row_key},
        )


def upgrade() -> None:
    for table in ARCHIVABLE:
        op.execute(f"ALTER TABLE {table} RENAME COLUMN deleted_at TO archived_at")
    _rewrite("formulas", "id", formula_from_version_1)
    _rewrite("formula_versions", "id", formula_from_version_1)
    op.execute("UPDATE formulas SET content_version = 2")
    op.execute("UPDATE formula_versions SET content_version = 2")
    _rewrite("materials", "id", material_from_version_1)
    _rewrite("target_sets", "id", lambda targets: [target_from_version_1(target) for target in targets])
    _rewrite("batches", "id", plan_from_version_1)
    # The record of a batch only grows: its triggers rest while its entries get their new names.
    op.execute("DROP TRIGGER batch_events_never_change")
    _rewrite("batch_events", "id", lambda wrapped: wrapped | {"event": event_from_version_1(wrapped["event"])})
    op.execute(
        "CREATE TRIGGER batch_events_never_change BEFORE UPDATE ON batch_events "
        "BEGIN SELECT RAISE(ABORT, 'the record of a batch only grows'); END"
    )
