"""The tables."""

from datetime import UTC, datetime
from typing import Any

from sqlalchemy import BigInteger, Column, DateTime, UniqueConstraint
from sqlalchemy.dialects.postgresql import JSONB
from sqlmodel import Field, SQLModel


def now() -> datetime:
    return datetime.now(UTC)


def _moment() -> Any:
    return Field(default_factory=now, sa_column=Column(DateTime(timezone=True), nullable=False))


def _moment_or_none() -> Any:
    return Field(default=None, sa_column=Column(DateTime(timezone=True), nullable=True))


class ProjectRow(SQLModel, table=True):
    """A film; `put_away` is when it was, where it is."""

    __tablename__ = "projects"
    id: int | None = Field(default=None, primary_key=True)
    name: str = Field(unique=True, max_length=80)
    put_away: datetime | None = _moment_or_none()
    created: datetime = _moment()


class ShotRow(SQLModel, table=True):
    """A shot; `head` is the number of its current revision, `place` its place in the project's order (the lowest first), `binned` when it was
    put into the bin, where it lies there, `picture` the SHA-256 of a small PNG of its revision `picture_revision`."""

    __tablename__ = "shots"
    __table_args__ = (UniqueConstraint("project_id", "name"),)
    id: int | None = Field(default=None, primary_key=True)
    project_id: int = Field(foreign_key="projects.id")
    name: str = Field(max_length=80)
    head: int
    place: int = 0
    binned: datetime | None = _moment_or_none()
    picture: str | None = Field(default=None, max_length=64)
    picture_revision: int = Field(default=0, sa_column_kwargs={"server_default": "0"})
    created: datetime = _moment()


class RevisionRow(SQLModel, table=True):
    """A document as it was after one change. Rows are only ever added; older documents are kept as differences (see `deltas`).

    `words` tells what differs from the revision before. `window` is the page that made it (empty where none is named), `author` the person at it. Each window takes back its own changes only, by
    numbers that make its revisions a stack: `takes_back` is the revision whose change this one takes back; `next_undo` and
    `next_redo` are those that the window's next undo and redo take back; `below` is what lies under the top of the stack that this one was put
    on, of undo for a change and of redo for what takes one back. `joint` marks revisions of several shots that are one change, to a
    signal that the project shares.
    """

    __tablename__ = "revisions"
    __table_args__ = (UniqueConstraint("shot_id", "number"),)
    id: int | None = Field(default=None, primary_key=True)
    shot_id: int = Field(foreign_key="shots.id", index=True)
    number: int
    document: dict[str, Any] = Field(sa_column=Column(JSONB, nullable=True))
    back: list[dict[str, Any]] | None = Field(default=None, sa_column=Column(JSONB(none_as_null=True), nullable=True))
    patch: list[dict[str, Any]] | None = Field(default=None, sa_column=Column(JSONB(none_as_null=True), nullable=True))
    label: str = Field(default="", max_length=200)
    words: str = Field(default="", max_length=400, sa_column_kwargs={"server_default": ""})
    window: str = Field(default="", max_length=64, sa_column_kwargs={"server_default": ""})
    author: str = Field(default="", max_length=80, sa_column_kwargs={"server_default": ""})
    takes_back: int | None = None
    next_undo: int | None = None
    next_redo: int | None = None
    below: int | None = None
    joint: str | None = Field(default=None, max_length=32)
    created: datetime = _moment()


class FileRow(SQLModel, table=True):
    """An imported file, kept in the folder under its SHA-256 and never changed."""

    __tablename__ = "files"
    sha256: str = Field(primary_key=True, max_length=64)
    name: str = Field(max_length=200)
    kind: str = Field(max_length=16)
    size: int = Field(sa_column=Column(BigInteger, nullable=False))
    author: str = Field(default="", max_length=80, sa_column_kwargs={"server_default": ""})
    created: datetime = _moment()


class SnapshotRow(SQLModel, table=True):
    """A kept picture and the revision that made it."""

    __tablename__ = "snapshots"
    id: int | None = Field(default=None, primary_key=True)
    shot_id: int = Field(foreign_key="shots.id", index=True)
    revision: int
    name: str = Field(max_length=80)
    samples: int = 0
    picture: str = Field(max_length=64, description="SHA-256 of the PNG file.")
    author: str = Field(default="", max_length=80, sa_column_kwargs={"server_default": ""})
    created: datetime = _moment()


class ShelfLookRow(SQLModel, table=True):
    """A look that somebody put on the shelf; `version` counts up each time it is put there anew, and `picture` is a PNG's SHA-256."""

    __tablename__ = "shelf_looks"
    id: int | None = Field(default=None, primary_key=True)
    name: str = Field(unique=True, max_length=80)
    version: int = 1
    item: dict[str, Any] = Field(sa_column=Column(JSONB, nullable=False))
    author: str = Field(default="", max_length=80, sa_column_kwargs={"server_default": ""})
    picture: str | None = Field(default=None, max_length=64)
    changed: datetime = _moment()


class RenderRow(SQLModel, table=True):
    """An order for frames: of which shot as it was at which revision, how they are made (`how`, as `RenderHow`), and what is to be done with
    it. `document` is the SHA-256 of the document that workers read, `said` the digest that files name."""

    __tablename__ = "renders"
    id: int | None = Field(default=None, primary_key=True)
    shot_id: int = Field(index=True)
    shot: str = Field(max_length=80)
    revision: int
    document: str = Field(max_length=64)
    said: str = Field(max_length=64)
    how: dict[str, Any] = Field(sa_column=Column(JSONB, nullable=False))
    state: str = Field(default="going", max_length=16)
    priority: int = 0
    author: str = Field(default="", max_length=80)
    created: datetime = _moment()


class RenderFrameRow(SQLModel, table=True):
    """A frame of an order and what became of it; `thumbnail` is the SHA-256 of a small PNG, `log` what was said of each try."""

    __tablename__ = "render_frames"
    __table_args__ = (UniqueConstraint("render_id", "frame"),)
    id: int | None = Field(default=None, primary_key=True)
    render_id: int = Field(foreign_key="renders.id", index=True)
    frame: int
    state: str = Field(default="waiting", max_length=16)
    tries: int = 0
    losses: int = 0
    seconds: float = 0.0
    memory: float = 0.0
    worker: str = Field(default="", max_length=120)
    log: list[str] = Field(default_factory=list, sa_column=Column(JSONB, nullable=False))
    files: list[str] = Field(default_factory=list, sa_column=Column(JSONB, nullable=False))
    thumbnail: str | None = Field(default=None, max_length=64)
    kept: bool = False
    begun: datetime | None = _moment_or_none()
    ended: datetime | None = _moment_or_none()
