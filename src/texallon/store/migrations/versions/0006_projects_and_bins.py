"""Projects are put away, shots have an order, a bin and a picture, revisions say in words what they changed.

Revision ID: 0006
Revises: 0005
"""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("projects", sa.Column("put_away", sa.DateTime(timezone=True), nullable=True))
    op.add_column("shots", sa.Column("place", sa.Integer(), nullable=True))
    op.execute("UPDATE shots SET place = id")
    op.alter_column("shots", "place", nullable=False)
    op.add_column("shots", sa.Column("binned", sa.DateTime(timezone=True), nullable=True))
    op.add_column("shots", sa.Column("picture", sa.String(64), nullable=True))
    op.add_column("shots", sa.Column("picture_revision", sa.Integer(), nullable=False, server_default="0"))
    op.add_column("revisions", sa.Column("words", sa.String(400), nullable=False, server_default=""))


def downgrade() -> None:
    op.drop_column("projects", "put_away")
    op.drop_column("revisions", "words")
    for name in ("place", "binned", "picture", "picture_revision"):
        op.drop_column("shots", name)
