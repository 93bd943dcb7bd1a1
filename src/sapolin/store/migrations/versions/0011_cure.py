"""After the pour: a record of its own for each batch, which only grows; trays, and what stands on them."""

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "cure_events",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("batch_id", sa.String(32), sa.ForeignKey("batches.id"), nullable=False, index=True),
        sa.Column("seq", sa.Integer, nullable=False),
        sa.Column("key", sa.String(64), nullable=False),
        sa.Column("at", sa.String(32), nullable=False),
        sa.Column("recorded_at", sa.String(32), nullable=False),
        sa.Column("content", sa.Text, nullable=False),
        sa.UniqueConstraint("batch_id", "seq"),
        sa.UniqueConstraint("batch_id", "key"),
    )
    op.create_table(
        "trays",
        sa.Column("code", sa.String(12), primary_key=True),
        sa.Column("content", sa.Text, nullable=False),
        sa.Column("updated_at", sa.String(32), nullable=False),
        sa.Column("archived_at", sa.String(32)),
    )
    op.create_table(
        "tray_bars",
        sa.Column("batch_id", sa.String(32), sa.ForeignKey("batches.id"), primary_key=True),
        sa.Column("tray", sa.String(12), primary_key=True, index=True),
        sa.Column("bars", sa.Integer, nullable=False),
    )
    op.create_table(
        "cure_taught",
        sa.Column("batch_id", sa.String(32), sa.ForeignKey("batches.id"), primary_key=True),
        sa.Column("content", sa.Text, nullable=False),
    )
    op.execute(
        "CREATE TRIGGER cure_events_never_change BEFORE UPDATE ON cure_events "
        "BEGIN SELECT RAISE(ABORT, 'the record of a batch only grows'); END"
    )
    # Only a whole batch can go, and only the demo resets its own.
    op.execute(
        "CREATE TRIGGER cure_events_stay BEFORE DELETE ON cure_events "
        "WHEN (SELECT archived_at FROM batches WHERE id = OLD.batch_id) IS NOT 'cleared' "
        "BEGIN SELECT RAISE(ABORT, 'the record of a batch only grows'); END"
    )


def downgrade() -> None:
    for table in ("cure_taught", "tray_bars", "trays", "cure_events"):
        op.drop_table(table)
