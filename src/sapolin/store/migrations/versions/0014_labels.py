"""Labels of batches."""

import sqlalchemy as sa
from alembic import op

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "labels",
        sa.Column("batch_id", sa.String(32), sa.ForeignKey("batches.id"), primary_key=True),
        sa.Column("revision", sa.Integer, nullable=False),
        sa.Column("content", sa.Text, nullable=False),
        sa.Column("updated_at", sa.String(32), nullable=False, index=True),
    )


def downgrade() -> None:
    op.drop_table("labels")
