"""How all lots stand is asked for at once, from one index; price lists of suppliers."""

import sqlalchemy as sa
from alembic import op

revision = "0015"
down_revision = "0014"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.drop_index("ix_ledger_in_hand", "ledger")
    op.create_index("ix_ledger_standing", "ledger", ["lot_id", "change_g", "batch_id", "at"])
    op.create_table(
        "price_lists",
        sa.Column("id", sa.String(32), primary_key=True),
        sa.Column("supplier", sa.String(80), nullable=False, index=True),
        sa.Column("content", sa.Text, nullable=False),
        sa.Column("read_at", sa.String(32), nullable=False),
        sa.Column("archived_at", sa.String(32)),
    )


def downgrade() -> None:
    op.drop_table("price_lists")
    op.drop_index("ix_ledger_standing", "ledger")
    op.create_index("ix_ledger_in_hand", "ledger", ["lot_id", "change_g"])
