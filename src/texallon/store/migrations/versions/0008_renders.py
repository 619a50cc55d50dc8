"""Orders for frames.

Revision ID: 0008
Revises: 0007
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "renders",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("shot_id", sa.Integer(), nullable=False, index=True),
        sa.Column("shot", sa.String(80), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("document", sa.String(64), nullable=False),
        sa.Column("said", sa.String(64), nullable=False),
        sa.Column("how", JSONB(), nullable=False),
        sa.Column("state", sa.String(16), nullable=False),
        sa.Column("priority", sa.Integer(), nullable=False),
        sa.Column("author", sa.String(80), nullable=False),
        sa.Column("created", sa.DateTime(timezone=True), nullable=False),
    )
    op.create_table(
        "render_frames",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("render_id", sa.Integer(), sa.ForeignKey("renders.id"), nullable=False, index=True),
        sa.Column("frame", sa.Integer(), nullable=False),
        sa.Column("state", sa.String(16), nullable=False),
        sa.Column("tries", sa.Integer(), nullable=False),
        sa.Column("losses", sa.Integer(), nullable=False),
        sa.Column("seconds", sa.Float(), nullable=False),
        sa.Column("memory", sa.Float(), nullable=False),
        sa.Column("worker", sa.String(120), nullable=False),
        sa.Column("log", JSONB(), nullable=False),
        sa.Column("files", JSONB(), nullable=False),
        sa.Column("thumbnail", sa.String(64), nullable=True),
        sa.Column("kept", sa.Boolean(), nullable=False),
        sa.Column("begun", sa.DateTime(timezone=True), nullable=True),
        sa.Column("ended", sa.DateTime(timezone=True), nullable=True),
        sa.UniqueConstraint("render_id", "frame"),
    )


def downgrade() -> None:
    op.drop_table("render_frames")
    op.drop_table("renders")
