"""The shelf of looks.

Revision ID: 0007
Revises: 0006
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "shelf_looks",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("name", sa.String(80), nullable=False, unique=True),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("item", JSONB(), nullable=False),
        sa.Column("author", sa.String(80), nullable=False, server_default=""),
        sa.Column("picture", sa.String(64), nullable=True),
        sa.Column("changed", sa.DateTime(timezone=True), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("shelf_looks")
