"""Files and snapshots have an author too.

Revision ID: 0005
Revises: 0004
"""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None

TABLES = ("files", "snapshots")


def upgrade() -> None:
    for table in TABLES:
        op.add_column(table, sa.Column("author", sa.String(80), nullable=False, server_default=""))


def downgrade() -> None:
    for table in TABLES:
        op.drop_column(table, "author")
