"""What the maker says of the oils in the workshop."""

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "oil_notes",
        sa.Column("oil", sa.String(80), primary_key=True),
        sa.Column("content", sa.Text, nullable=False),
        sa.Column("updated_at", sa.String(32), nullable=False),
    )
