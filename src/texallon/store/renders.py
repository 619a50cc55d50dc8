"""Orders for frames in the database: what is wanted, what is under way, and what became of each frame."""

from collections.abc import Iterable, Sequence
from contextlib import suppress
from dataclasses import dataclass, field
from typing import Any, NamedTuple

from sqlalchemy import Connection, Engine, func, text, update
from sqlalchemy.exc import SQLAlchemyError
from sqlmodel import Session, col, delete, select

from texallon.store.records import NotFoundError
from texallon.store.tables import RenderFrameRow, RenderRow, now

SENDS_FRAMES = 72032
"""The database's lock (pg_advisory_lock) of the server that sends frames to workers."""

MOST_RENDERS = 2_000
"""Orders that are remembered."""

LONGEST_LOG = 40
"""Lines of a frame's log."""


class TooManyRendersError(ValueError):
    """As many orders are remembered as there can be."""


@dataclass(frozen=True)
class NewRender:
    """An order to be: of a shot at a revision, by the digests of its document, made how, and which frames."""

    shot_id: int
    shot: str
    revision: int
    document: str
    said: str
    how: dict[str, Any]
    frames: Sequence[int]
    author: str = ""
    priority: int = 0


@dataclass(frozen=True)
class RenderedFrame:
    """A frame of an order; `begun` and `ended` are moments (ISO 8601)."""

    frame: int
    state: str
    tries: int
    losses: int
    seconds: float
    memory: float
    worker: str
    log: list[str]
    files: list[str]
    thumbnail: str | None
    kept: bool
    begun: str | None
    ended: str | None


@dataclass(frozen=True)
class Render:
    """An order; `created` is a moment (ISO 8601)."""

    id: int
    shot_id: int
    shot: str
    revision: int
    document: str
    said: str
    how: dict[str, Any]
    state: str
    priority: int
    author: str
    created: str
    frames: list[RenderedFrame] = field(default_factory=list)


class ClaimedFrame(NamedTuple):
    """A frame that is to be rendered: of an order (its frames left out), which has so many."""

    render: Render
    frame: int
    of: int


class RenderStore:
    """All that is done with orders in the database."""

    def __init__(self, engine: Engine) -> None:
        self.engine = engine
        self._hold: Connection | None = None

    def order(self, wanted: NewRender) -> Render:
        """Enter an order; raises `TooManyRendersError`."""
        with Session(self.engine) as session:
            if len(session.exec(select(RenderRow.id)).all()) >= MOST_RENDERS:
                raise TooManyRendersError(f"{MOST_RENDERS} orders are remembered; remove some first")
            members = {name: getattr(wanted, name) for name in NewRender.__dataclass_fields__ if name != "frames"}
            row = RenderRow(**members)
            session.add(row)
            session.flush()
            session.add_all([RenderFrameRow(render_id=row.id or 0, frame=frame) for frame in wanted.frames])
            session.commit()
            return self.find(row.id or 0)

    def newest(self, shot_id: int | None = None, count: int = 20) -> list[Render]:
        """Orders with their frames, the newest first; of one shot where that is given."""
        with Session(self.engine) as session:
            wanted = select(RenderRow).order_by(col(RenderRow.id).desc()).limit(count)
            if shot_id is not None:
                wanted = wanted.where(RenderRow.shot_id == shot_id)
            rows = session.exec(wanted).all()
            frames: dict[int, list[RenderedFrame]] = {row.id or 0: [] for row in rows}
            chosen = select(RenderFrameRow).where(col(RenderFrameRow.render_id).in_(list(frames)))
            for each in session.exec(chosen.order_by(col(RenderFrameRow.frame))).all():
                frames[each.render_id].append(_frame(each))
            return [_render(row, frames[row.id or 0]) for row in rows]

    def find(self, render_id: int) -> Render:
        """An order; raises `NotFoundError`."""
        with Session(self.engine) as session:
            row = _row(session, render_id)
            chosen = select(RenderFrameRow).where(RenderFrameRow.render_id == render_id)
            frames = session.exec(chosen.order_by(col(RenderFrameRow.frame))).all()
            return _render(row, [_frame(each) for each in frames])

    def change(self, render_id: int, state: str | None = None, priority: int | None = None) -> None:
        """Pause an order, stop it, let it go on, or have it come sooner or later; raises `NotFoundError`.

        What a stopped order had not finished is stopped, and goes on where it is let go on.
        """
        with Session(self.engine) as session:
            row = _row(session, render_id)
            row.priority = row.priority if priority is None else priority
            if state is not None:
                row.state = state
                old, new = (["waiting", "running"], "stopped") if state == "stopped" else (["stopped"], "waiting")
                if state != "paused":
                    _set(session, render_id, old, new)
            session.add(row)
            session.commit()

    def again(self, render_id: int, frames: Sequence[int]) -> int:
        """Have frames of an order rendered again, those that run as well; gives how many there are. Raises `NotFoundError`."""
        with Session(self.engine) as session:
            row = _row(session, render_id)
            chosen = select(RenderFrameRow).where(
                RenderFrameRow.render_id == render_id, col(RenderFrameRow.frame).in_(list(frames))
            )
            found = session.exec(chosen).all()
            for each in found:
                each.state, each.tries, each.losses, each.kept = "waiting", 0, 0, False
                each.begun = each.ended = None
                session.add(each)
            row.state = "going"
            session.add(row)
            session.commit()
            return len(found)

    def remove(self, render_id: int) -> None:
        """Forget an order; raises `NotFoundError`."""
        with Session(self.engine) as session:
            row = _row(session, render_id)
            session.exec(delete(RenderFrameRow).where(col(RenderFrameRow.render_id) == render_id))
            session.delete(row)
            session.commit()

    # -- for whoever sends frames to workers -----------------------------------------------------------------------

    def holds(self) -> bool:
        """Whether it is this server that sends frames to workers: of those that share a database one does, as long as it is connected.

        When it begins to, what ran before waits again.
        """
        if self._hold is not None:
            try:
                self._hold.execute(text("SELECT 1"))
                self._hold.commit()
                return True
            except SQLAlchemyError:
                self.release()
        connection = self.engine.connect()
        try:
            held = bool(connection.execute(text(f"SELECT pg_try_advisory_lock({SENDS_FRAMES})")).scalar())
            connection.commit()
        except SQLAlchemyError:
            connection.close()
            raise
        if not held:
            connection.close()
            return False
        self._hold = connection
        with Session(self.engine) as session:
            session.exec(update(RenderFrameRow).where(col(RenderFrameRow.state) == "running").values(state="waiting"))
            session.commit()
        return True

    def release(self) -> None:
        """Let another server send frames."""
        hold, self._hold = self._hold, None
        if hold is None:
            return
        with suppress(SQLAlchemyError):  # where it is cut, the lock goes with the connection
            hold.execute(text(f"SELECT pg_advisory_unlock({SENDS_FRAMES})"))
            hold.commit()
        hold.invalidate()
        hold.close()

    def waits(self) -> bool:
        """Whether a frame waits of an order that goes on."""
        with Session(self.engine) as session:
            wanted = (
                select(RenderFrameRow.id)
                .join(RenderRow, col(RenderRow.id) == col(RenderFrameRow.render_id))
                .where(RenderRow.state == "going", RenderFrameRow.state == "waiting")
            )
            return session.exec(wanted.limit(1)).first() is not None

    def take(self) -> ClaimedFrame | None:
        """The next frame that waits, running from now on: of the most urgent order, then of the oldest, first those that lost no worker: what ends workers
        holds up no others, and what was hit by chance is not hit again and again."""
        with Session(self.engine) as session:
            wanted = (
                select(RenderFrameRow, RenderRow)
                .join(RenderRow, col(RenderRow.id) == col(RenderFrameRow.render_id))
                .where(RenderRow.state == "going", RenderFrameRow.state == "waiting")
                .order_by(
                    col(RenderRow.priority).desc(),
                    col(RenderRow.id),
                    col(RenderFrameRow.losses),
                    col(RenderFrameRow.frame),
                )
                .limit(1)
            )
            found = session.exec(wanted).first()
            if found is None:
                return None
            frame, row = found
            frame.state, frame.begun, frame.ended = "running", now(), None
            session.add(frame)
            counted = select(func.count()).where(RenderFrameRow.render_id == row.id)
            taken = ClaimedFrame(_render(row, []), frame.frame, session.exec(counted).one())
            session.commit()
            return taken

    def running(self, frames: Iterable[tuple[int, int]]) -> set[tuple[int, int]]:
        """Those of some frames (of which order, and its number) that are still wanted and running."""
        ids = {render_id for render_id, _ in frames}
        with Session(self.engine) as session:
            wanted = (
                select(RenderFrameRow.render_id, RenderFrameRow.frame)
                .join(RenderRow, col(RenderRow.id) == col(RenderFrameRow.render_id))
                .where(RenderRow.state == "going", RenderFrameRow.state == "running", col(RenderRow.id).in_(ids))
            )
            return {(render_id, frame) for render_id, frame in session.exec(wanted).all()}

    def done(self, render_id: int, frame: int, result: dict[str, Any], line: str) -> None:
        """A frame's files are there; what is no longer wanted is left as it is."""
        with Session(self.engine) as session:
            row = _frame_row(session, render_id, frame)
            if row is None or row.state not in ("running", "stopped"):
                return
            row.state, row.ended, row.tries = "done", now(), row.tries + 1
            for name, value in result.items():
                setattr(row, name, value)
            row.log = [*row.log, line][-LONGEST_LOG:]
            session.add(row)
            session.commit()

    def failed(self, render_id: int, frame: int, line: str, lost: bool, given_up: Any) -> None:
        """A try came to nothing; `given_up` is asked with the numbers of tries and losses."""
        with Session(self.engine) as session:
            row = _frame_row(session, render_id, frame)
            if row is None or row.state != "running":
                return
            row.tries, row.losses = row.tries + (not lost), row.losses + lost
            row.state, row.ended = "failed" if given_up(row.tries, row.losses) else "waiting", now()
            row.log = [*row.log, line][-LONGEST_LOG:]
            session.add(row)
            session.commit()

    def put_back(self, render_id: int, frame: int) -> None:
        """A frame was given up on the way: it waits again."""
        with Session(self.engine) as session:
            row = _frame_row(session, render_id, frame)
            if row is not None and row.state == "running":
                row.state = "waiting"
                session.add(row)
                session.commit()


def _row(session: Session, render_id: int) -> RenderRow:
    row = session.get(RenderRow, render_id)
    if row is None:
        raise NotFoundError(f"there is no order {render_id}")
    return row


def _frame_row(session: Session, render_id: int, frame: int) -> RenderFrameRow | None:
    chosen = select(RenderFrameRow).where(RenderFrameRow.render_id == render_id, RenderFrameRow.frame == frame)
    return session.exec(chosen.with_for_update()).first()


def _set(session: Session, render_id: int, old: list[str], new: str) -> None:
    chosen = col(RenderFrameRow.render_id) == render_id, col(RenderFrameRow.state).in_(old)
    session.exec(update(RenderFrameRow).where(*chosen).values(state=new))


def _frame(row: RenderFrameRow) -> RenderedFrame:
    members = {name: getattr(row, name) for name in RenderedFrame.__dataclass_fields__}
    moments = {name: None if members[name] is None else members[name].isoformat() for name in ("begun", "ended")}
    return RenderedFrame(**{**members, **moments})


def _render(row: RenderRow, frames: list[RenderedFrame]) -> Render:
    members = {name: getattr(row, name) for name in Render.__dataclass_fields__ if name != "frames"}
    return Render(**{**members, "created": row.created.isoformat(), "frames": frames})
