"""What is prepared beside batches, with its record; labels of diluted soap; what was practised."""

import sqlalchemy as sa
from alembic import op

revision = "0018"
down_revision = "0017"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "preparations",
        sa.Column("id", sa.String(32), primary_key=True),
        sa.Column("code", sa.String(16), nullable=False, unique=True),
        sa.Column("kind", sa.String(20), nullable=False),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("content", sa.Text, nullable=False),
        sa.Column("begun", sa.Text),
        sa.Column("revision", sa.Integer, nullable=False),
        sa.Column("created_at", sa.String(32), nullable=False),
        sa.Column("updated_at", sa.String(32), nullable=False),
        sa.Column("archived_at", sa.String(32)),
    )
    op.create_table(
        "preparation_events",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("preparation_id", sa.String(32), sa.ForeignKey("preparations.id"), nullable=False, index=True),
        sa.Column("seq", sa.Integer, nullable=False),
        sa.Column("key", sa.String(64), nullable=False),
        sa.Column("at", sa.String(32), nullable=False),
        sa.Column("content", sa.Text, nullable=False),
        sa.UniqueConstraint("preparation_id", "seq"),
        sa.UniqueConstraint("preparation_id", "key"),
    )
    op.create_table(
        "practice",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("key", sa.String(64), nullable=False, unique=True),
        sa.Column("kind", sa.String(20), nullable=False, index=True),
        sa.Column("seed", sa.Integer, nullable=False),
        sa.Column("right", sa.Boolean, nullable=False),
        sa.Column("at", sa.String(32), nullable=False),
    )
    # Diluted soap has labels too.
    op.execute(
        "CREATE TABLE labels_now (batch_id VARCHAR(32) NOT NULL PRIMARY KEY, revision INTEGER NOT NULL, "
        "content TEXT NOT NULL, updated_at VARCHAR(32) NOT NULL)"
    )
    op.execute("INSERT INTO labels_now SELECT batch_id, revision, content, updated_at FROM labels")
    op.drop_table("labels")
    op.rename_table("labels_now", "labels")
    op.create_index("ix_labels_updated_at", "labels", ["updated_at"])
    op.execute(
        "CREATE TRIGGER preparation_events_never_change BEFORE UPDATE ON preparation_events "
        "BEGIN SELECT RAISE(ABORT, 'the record of a preparation only grows'); END"
    )
    # Only a whole preparation can go, and only the demo resets its own.
    op.execute(
        "CREATE TRIGGER preparation_events_stay BEFORE DELETE ON preparation_events "
        "WHEN (SELECT archived_at FROM preparations WHERE id = OLD.preparation_id) IS NOT 'cleared' "
        "BEGIN SELECT RAISE(ABORT, 'the record of a preparation only grows'); END"
    )


def downgrade() -> None:
    op.drop_table("practice")
    op.drop_table("preparation_events")
    op.drop_table("preparations")
