"""Plain words: archived instead of deleted, documents under the names of version 2; and what became of batches."""

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
    rows_from_version_1,
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
    op.create_table(
        "batch_outcomes",
        sa.Column("batch_id", sa.String(32), sa.ForeignKey("batches.id"), primary_key=True),
        sa.Column("seq", sa.Integer, primary_key=True),
        sa.Column("content", sa.Text, nullable=False),
        sa.Column("at", sa.String(32), nullable=False),
    )
    for table in ARCHIVABLE:
        op.execute(f"ALTER TABLE {table} RENAME COLUMN deleted_at TO archived_at")
    _rewrite("formulas", "id", formula_from_version_1)
    _rewrite("formula_versions", "id", formula_from_version_1)
    op.execute("UPDATE formulas SET content_version = 2")
    op.execute("UPDATE formula_versions SET content_version = 2")
    _rewrite("materials", "id", material_from_version_1)
    _rewrite("target_sets", "id", lambda targets: [target_from_version_1(target) for target in targets])
    _rewrite("batches", "id", plan_from_version_1)
    # What follows from the rows that a batch began with is kept with them when the application starts.
    op.execute("DROP TRIGGER batch_starts_never_change")
    _rewrite("batch_starts", "batch_id", lambda start: {"rows_alone": rows_from_version_1(start)})
    op.execute(
        "CREATE TRIGGER batch_starts_never_change BEFORE UPDATE ON batch_starts "
        "WHEN OLD.content NOT LIKE '{\"rows_alone\"%' "
        "BEGIN SELECT RAISE(ABORT, 'what a batch began with stays'); END"
    )
    # The record of a batch only grows: its triggers rest while its entries get their new names.
    op.execute("DROP TRIGGER batch_events_never_change")
    _rewrite("batch_events", "id", lambda wrapped: wrapped | {"event": event_from_version_1(wrapped["event"])})
    op.execute(
        "CREATE TRIGGER batch_events_never_change BEFORE UPDATE ON batch_events "
        "BEGIN SELECT RAISE(ABORT, 'the record of a batch only grows'); END"
    )
