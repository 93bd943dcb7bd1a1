"""What a batch stood on when it began; and what there is to know about the workshop itself."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "batch_starts",
        sa.Column("batch_id", sa.String(32), sa.ForeignKey("batches.id"), primary_key=True),
        sa.Column("content", sa.Text, nullable=False),
        sa.Column("at", sa.String(32), nullable=False),
    )
    op.create_table(
        "workshop",
        sa.Column("name", sa.String(40), primary_key=True),
        sa.Column("value", sa.Text, nullable=False),
        sa.Column("updated_at", sa.String(32), nullable=False),
    )
    op.execute(
        "CREATE TRIGGER batch_starts_never_change BEFORE UPDATE ON batch_starts "
        "BEGIN SELECT RAISE(ABORT, 'what a batch began with stays'); END"
    )


def downgrade() -> None:
    for table in ("batch_starts", "workshop"):
        op.drop_table(table)
