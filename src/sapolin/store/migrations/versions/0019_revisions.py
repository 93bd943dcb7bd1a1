"""Every record that is saved as a whole counts its saves; what is forgotten is archived."""

import sqlalchemy as sa
from alembic import op

revision = "0019"
down_revision = "0018"
branch_labels = None
depends_on = None

COUNTED = ("moulds", "prices", "oil_notes", "target_sets", "workshop", "trays")
ARCHIVED = ("prices", "oil_notes", "target_sets")


def upgrade() -> None:
    for table in COUNTED:
        op.add_column(table, sa.Column("revision", sa.Integer, nullable=False, server_default="1"))
    for table in ARCHIVED:
        op.add_column(table, sa.Column("archived_at", sa.String(32)))


def downgrade() -> None:
    for table in ARCHIVED:
        op.drop_column(table, "archived_at")
    for table in COUNTED:
        op.drop_column(table, "revision")
