"""Moulds, batches, and the record of make day, which only grows."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "moulds",
        sa.Column("id", sa.String(40), primary_key=True),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("content", sa.Text, nullable=False),
        sa.Column("updated_at", sa.String(32), nullable=False),
        sa.Column("deleted_at", sa.String(32)),
    )
    op.create_table(
        "batches",
        sa.Column("id", sa.String(32), primary_key=True),
        sa.Column("code", sa.String(16), nullable=False, unique=True),
        sa.Column("formula_id", sa.String(40), nullable=False, index=True),
        sa.Column("content", sa.Text, nullable=False),
        sa.Column("revision", sa.Integer, nullable=False),
        sa.Column("created_at", sa.String(32), nullable=False),
        sa.Column("updated_at", sa.String(32), nullable=False, index=True),
        sa.Column("deleted_at", sa.String(32)),
    )
    op.create_table(
        "batch_events",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("batch_id", sa.String(32), sa.ForeignKey("batches.id"), nullable=False, index=True),
        sa.Column("seq", sa.Integer, nullable=False),
        sa.Column("key", sa.String(64), nullable=False),
        sa.Column("at", sa.String(32), nullable=False),
        sa.Column("content", sa.Text, nullable=False),
        sa.UniqueConstraint("batch_id", "seq"),
        sa.UniqueConstraint("batch_id", "key"),
    )
    op.create_table(
        "batch_files",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("batch_id", sa.String(32), sa.ForeignKey("batches.id"), nullable=False, index=True),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("media_type", sa.String(40), nullable=False),
        sa.Column("content", sa.LargeBinary, nullable=False),
        sa.Column("at", sa.String(32), nullable=False),
    )
    op.execute(
        "CREATE TRIGGER batch_events_never_change BEFORE UPDATE ON batch_events "
        "BEGIN SELECT RAISE(ABORT, 'the record of a batch only grows'); END"
    )
    # Only a whole batch can go, and only the demo resets its own.
    op.execute(
        "CREATE TRIGGER batch_events_stay BEFORE DELETE ON batch_events "
        "WHEN (SELECT deleted_at FROM batches WHERE id = OLD.batch_id) IS NOT 'cleared' "
        "BEGIN SELECT RAISE(ABORT, 'the record of a batch only grows'); END"
    )


def downgrade() -> None:
    for table in ("batch_files", "batch_events", "batches", "moulds"):
        op.drop_table(table)
