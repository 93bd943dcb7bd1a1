"""Lots and their ledger, which only grows. Prices and what was said to be in hand stay; lots stand beside them."""

import sqlalchemy as sa
from alembic import op

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "lots",
        sa.Column("id", sa.String(32), primary_key=True),
        sa.Column("code", sa.String(24), nullable=False, unique=True),
        sa.Column("material", sa.String(80), nullable=False, index=True),
        sa.Column("content", sa.Text, nullable=False),
        sa.Column("created_at", sa.String(32), nullable=False),
        sa.Column("archived_at", sa.String(32)),
    )
    op.create_table(
        "ledger",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("lot_id", sa.String(32), sa.ForeignKey("lots.id"), nullable=False),
        sa.Column("seq", sa.Integer, nullable=False),
        sa.Column("key", sa.String(64), nullable=False),
        sa.Column("at", sa.String(32), nullable=False),
        sa.Column("change_g", sa.Float, nullable=False),
        sa.Column("batch_id", sa.String(32), index=True),
        sa.Column("content", sa.Text, nullable=False),
        sa.UniqueConstraint("lot_id", "seq"),
        sa.UniqueConstraint("lot_id", "key"),
    )
    # What is in hand is a sum over this alone.
    op.create_index("ix_ledger_in_hand", "ledger", ["lot_id", "change_g"])
    op.execute(
        "CREATE TRIGGER ledger_never_changes BEFORE UPDATE ON ledger "
        "BEGIN SELECT RAISE(ABORT, 'the ledger only grows'); END"
    )
    # Only a whole lot can go, and only the demo resets its own.
    op.execute(
        "CREATE TRIGGER ledger_stays BEFORE DELETE ON ledger "
        "WHEN (SELECT archived_at FROM lots WHERE id = OLD.lot_id) IS NOT 'cleared' "
        "BEGIN SELECT RAISE(ABORT, 'the ledger only grows'); END"
    )


def downgrade() -> None:
    for table in ("ledger", "lots"):
        op.drop_table(table)
