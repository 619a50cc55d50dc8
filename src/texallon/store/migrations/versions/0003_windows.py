"""Undo belongs to the window that made a change, and every revision has an author.

`takes_back`, `next_undo`, `next_redo` and `below` take the place of `undo_to` and `redo_to` (see `tables.RevisionRow`). What was made before
belongs to no window, and is undone as before: by whoever names none.

Revision ID: 0003
Revises: 0002
"""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None

NUMBERS = ("takes_back", "next_undo", "next_redo", "below")


def upgrade() -> None:
    op.add_column("revisions", sa.Column("window", sa.String(64), nullable=False, server_default=""))
    op.add_column("revisions", sa.Column("author", sa.String(80), nullable=False, server_default=""))
    for name in NUMBERS:
        op.add_column("revisions", sa.Column(name, sa.Integer(), nullable=True))
    connection = op.get_bind()
    rows = connection.execute(
        sa.text("SELECT id, shot_id, number, undo_to, redo_to FROM revisions ORDER BY shot_id, number")
    ).all()
    next_undo: dict[tuple[int, int], int | None] = {}
    for row in rows:
        # A change led back to the revision before it. Anything else was a step back or forth, whose own past is that of what it led to.
        change = row.undo_to == row.number - 1 and row.redo_to is None
        below = next_undo.get((row.shot_id, row.number - 1)) if change else None
        found = row.number if change else next_undo.get((row.shot_id, (row.undo_to or 0) + 1))
        next_undo[row.shot_id, row.number] = found
        connection.execute(
            sa.text("UPDATE revisions SET next_undo = :found, below = :below WHERE id = :id"),
            {"found": found, "below": below, "id": row.id},
        )
    op.drop_column("revisions", "undo_to")
    op.drop_column("revisions", "redo_to")


def downgrade() -> None:
    op.add_column("revisions", sa.Column("undo_to", sa.Integer(), nullable=True))
    op.add_column("revisions", sa.Column("redo_to", sa.Integer(), nullable=True))
    op.execute("UPDATE revisions SET undo_to = number - 1 WHERE number > 1")
    for name in ("window", "author", *NUMBERS):
        op.drop_column("revisions", name)
