"""Changes to shared signals belong to several shots at once: their revisions carry a common mark.

Revision ID: 0002
Revises: 0001
"""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("revisions", sa.Column("joint", sa.String(32), nullable=True))


def downgrade() -> None:
    op.drop_column("revisions", "joint")
