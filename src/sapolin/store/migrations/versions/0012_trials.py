"""Bars put to the test: blind comparisons and trial sets, what was predicted of a batch, criteria of one's own."""

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "comparisons",
        sa.Column("id", sa.String(32), primary_key=True),
        sa.Column("content", sa.Text, nullable=False),
        sa.Column("created_at", sa.String(32), nullable=False, index=True),
        sa.Column("archived_at", sa.String(32)),
    )
    op.create_table(
        "compared_batches",
        sa.Column("comparison_id", sa.String(32), sa.ForeignKey("comparisons.id"), primary_key=True),
        sa.Column("batch_id", sa.String(32), sa.ForeignKey("batches.id"), primary_key=True, index=True),
    )
    op.create_table(
        "comparison_events",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("comparison_id", sa.String(32), sa.ForeignKey("comparisons.id"), nullable=False, index=True),
        sa.Column("seq", sa.Integer, nullable=False),
        sa.Column("key", sa.String(64), nullable=False),
        sa.Column("at", sa.String(32), nullable=False),
        sa.Column("content", sa.Text, nullable=False),
        sa.UniqueConstraint("comparison_id", "seq"),
        sa.UniqueConstraint("comparison_id", "key"),
    )
    op.create_table(
        "trials",
        sa.Column("id", sa.String(32), primary_key=True),
        sa.Column("formula_id", sa.String(32), nullable=False, index=True),
        sa.Column("content", sa.Text, nullable=False),
        sa.Column("created_at", sa.String(32), nullable=False),
        sa.Column("archived_at", sa.String(32)),
    )
    op.create_table(
        "trial_batches",
        sa.Column("trial_id", sa.String(32), sa.ForeignKey("trials.id"), primary_key=True),
        sa.Column("run", sa.Integer, primary_key=True),
        sa.Column("batch_id", sa.String(32), sa.ForeignKey("batches.id"), nullable=False, index=True),
    )
    op.create_table(
        "predictions",
        sa.Column("batch_id", sa.String(32), sa.ForeignKey("batches.id"), primary_key=True),
        sa.Column("content", sa.Text, nullable=False),
        sa.Column("at", sa.String(32), nullable=False),
    )
    op.create_table(
        "own_criteria",
        sa.Column("id", sa.String(40), primary_key=True),
        sa.Column("content", sa.Text, nullable=False),
        sa.Column("created_at", sa.String(32), nullable=False),
        sa.Column("archived_at", sa.String(32)),
    )
    op.create_table(
        "heeded_notes",
        sa.Column("formula_id", sa.String(32), primary_key=True),
        sa.Column("text", sa.Text, primary_key=True),
        sa.Column("at", sa.String(32), nullable=False),
    )
    # What batches taught has more to it now: it is added up anew from their records.
    op.execute("DELETE FROM cure_taught")
    op.add_column("cure_taught", sa.Column("at", sa.String(32)))
    op.execute(
        "CREATE TRIGGER comparison_events_never_change BEFORE UPDATE ON comparison_events "
        "BEGIN SELECT RAISE(ABORT, 'the record of a comparison only grows'); END"
    )
    # Only a whole comparison can go, and only the demo resets its own.
    op.execute(
        "CREATE TRIGGER comparison_events_stay BEFORE DELETE ON comparison_events "
        "WHEN (SELECT archived_at FROM comparisons WHERE id = OLD.comparison_id) IS NOT 'cleared' "
        "BEGIN SELECT RAISE(ABORT, 'the record of a comparison only grows'); END"
    )


def downgrade() -> None:
    op.drop_column("cure_taught", "at")
    for table in (
        "heeded_notes", "own_criteria",
        "predictions", "trial_batches", "trials", "comparison_events", "compared_batches", "comparisons"
    ):  # fmt: skip
        op.drop_table(table)
