"""Lists are paged, searched and sorted in the database: what they show of a formula or a batch is kept beside it."""

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def upgrade() -> None:
    with op.batch_alter_table("formulas") as table:
        table.add_column(sa.Column("purpose", sa.String(80), nullable=False, server_default=""))
        table.add_column(sa.Column("state", sa.String(16)))
        table.add_column(sa.Column("summary", sa.Text))
    with op.batch_alter_table("batches") as table:
        table.add_column(sa.Column("search_text", sa.Text, nullable=False, server_default=""))
        table.add_column(sa.Column("status", sa.String(16)))
        table.add_column(sa.Column("summary", sa.Text))
    op.execute(
        "UPDATE formulas SET purpose = coalesce(json_extract(content, '$.purpose'), '') WHERE json_valid(content)"
    )
    op.execute(
        "UPDATE batches SET search_text = lower(code || ' ' || coalesce(json_extract(content, '$.formula.name'), ''))"
        " WHERE json_valid(content)"
    )
    for name in ("formulas", "batches"):
        op.create_index(f"ix_{name}_summary_missing", name, ["id"], sqlite_where=sa.text("summary IS NULL"))
    op.create_index("ix_batches_status", "batches", ["status"])
    # What lists look through is in the indices, so that no content is read on the way.
    op.execute(
        "CREATE INDEX ix_formulas_by_change ON formulas (archived_at, updated_at, name, search_text, purpose, state)"
    )
    op.execute(
        "CREATE INDEX ix_formulas_by_name ON formulas (archived_at, name COLLATE NOCASE, id, search_text, purpose, state)"
    )
    op.execute(
        "CREATE INDEX ix_batches_by_age ON batches (archived_at, created_at, code, search_text, status, formula_id)"
    )
