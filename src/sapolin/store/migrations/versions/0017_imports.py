"""Tables that were brought in."""

import sqlalchemy as sa
from alembic import op

revision = "0017"
down_revision = "0016"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "imports",
        sa.Column("id", sa.String(32), primary_key=True),
        sa.Column("key", sa.String(64), nullable=False, unique=True),
        sa.Column("kind", sa.String(20), nullable=False),
        sa.Column("file_name", sa.String(200), nullable=False),
        sa.Column("content", sa.Text, nullable=False),
        sa.Column("at", sa.String(32), nullable=False),
        sa.Column("undone_at", sa.String(32)),
    )


def downgrade() -> None:
    op.drop_table("imports")
