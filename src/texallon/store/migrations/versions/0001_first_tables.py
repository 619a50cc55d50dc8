"""The first tables: project, shot, revision, file, snapshot.

Revision ID: 0001
Revises:
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def _created() -> sa.Column:
    return sa.Column("created", sa.DateTime(timezone=True), nullable=False)


def upgrade() -> None:
    op.create_table(
        "projects",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("name", sa.String(80), nullable=False, unique=True),
        _created(),
    )
    op.create_table(
        "shots",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("project_id", sa.Integer, sa.ForeignKey("projects.id"), nullable=False),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("head", sa.Integer, nullable=False),
        _created(),
        sa.UniqueConstraint("project_id", "name"),
    )
    op.create_table(
        "revisions",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("shot_id", sa.Integer, sa.ForeignKey("shots.id"), nullable=False, index=True),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("document", JSONB, nullable=False),
        sa.Column("patch", JSONB, nullable=True),
        sa.Column("label", sa.String(200), nullable=False),
        sa.Column("undo_to", sa.Integer, nullable=True),
        sa.Column("redo_to", sa.Integer, nullable=True),
        _created(),
        sa.UniqueConstraint("shot_id", "number"),
    )
    op.create_table(
        "files",
        sa.Column("sha256", sa.String(64), primary_key=True),
        sa.Column("name", sa.String(200), nullable=False),
        sa.Column("kind", sa.String(16), nullable=False),
        sa.Column("size", sa.BigInteger, nullable=False),
        _created(),
    )
    op.create_table(
        "snapshots",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("shot_id", sa.Integer, sa.ForeignKey("shots.id"), nullable=False, index=True),
        sa.Column("revision", sa.Integer, nullable=False),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("samples", sa.Integer, nullable=False),
        sa.Column("picture", sa.String(64), nullable=False),
        _created(),
    )


def downgrade() -> None:
    for name in ("snapshots", "files", "revisions", "shots", "projects"):
        op.drop_table(name)
