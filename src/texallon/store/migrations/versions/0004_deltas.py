"""Older revisions are kept as what leads back to them from the next one.

Revision ID: 0004
Revises: 0003
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("revisions", sa.Column("back", JSONB(), nullable=True))
    op.alter_column("revisions", "document", nullable=True)


def downgrade() -> None:
    raise RuntimeError("documents that are kept as differences would be lost; restore a backup instead")
