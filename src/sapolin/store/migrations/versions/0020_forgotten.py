"""How often what lists show of a batch was forgotten: what was summed up before the last time is not kept."""

import sqlalchemy as sa
from alembic import op

revision = "0020"
down_revision = "0019"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("batches", sa.Column("forgotten", sa.Integer, nullable=False, server_default="0"))


def downgrade() -> None:
    op.drop_column("batches", "forgotten")
