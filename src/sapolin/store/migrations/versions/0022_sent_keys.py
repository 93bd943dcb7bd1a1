"""Keys under which something was asked for, so that what is sent again is done once; and a name for each database."""

import sqlalchemy as sa
from alembic import op

revision = "0022"
down_revision = "0021"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "sent",
        sa.Column("key", sa.String(80), primary_key=True),
        sa.Column("digest", sa.String(64), nullable=False),
        sa.Column("at", sa.String(32), nullable=False, index=True),
        sa.Column("status", sa.Integer, nullable=False),
        sa.Column("answer", sa.Text, nullable=True),
    )
    op.execute(
        "INSERT INTO workshop (name, value, updated_at, revision) "
        "VALUES ('mark:database', lower(hex(randomblob(8))), strftime('%Y-%m-%dT%H:%M:%f+00:00'), 1)"
    )


def downgrade() -> None:
    op.execute("DELETE FROM workshop WHERE name = 'mark:database'")
    op.drop_table("sent")
