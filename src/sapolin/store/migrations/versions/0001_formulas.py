"""Formulas and their versions."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "formulas",
        sa.Column("id", sa.String(32), primary_key=True),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("search_text", sa.Text, nullable=False),
        sa.Column("content", sa.Text, nullable=False),
        sa.Column("content_version", sa.Integer, nullable=False),
        sa.Column("revision", sa.Integer, nullable=False),
        sa.Column("created_at", sa.String(32), nullable=False),
        sa.Column("updated_at", sa.String(32), nullable=False),
        sa.Column("deleted_at", sa.String(32)),
    )
    op.create_index("ix_formulas_updated_at", "formulas", ["updated_at"])
    op.create_table(
        "formula_versions",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("formula_id", sa.String(32), sa.ForeignKey("formulas.id"), nullable=False),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("note", sa.Text, nullable=False),
        sa.Column("content", sa.Text, nullable=False),
        sa.Column("content_version", sa.Integer, nullable=False),
        sa.Column("created_at", sa.String(32), nullable=False),
        sa.UniqueConstraint("formula_id", "number"),
    )
    op.create_index("ix_formula_versions_formula_id", "formula_versions", ["formula_id"])


def downgrade() -> None:
    op.drop_table("formula_versions")
    op.drop_table("formulas")
