"""Old drafts thinned: of each day's drafts the last stays, and everything that is a snapshot's; undo reaches as far back as drafts do.

A draft is a revision between snapshots. Whatever stays opens exactly as before, in as little room as it can.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta
from itertools import pairwise

from sqlalchemy import ColumnElement, Engine, delete, null, update
from sqlmodel import Session, col, select

from texallon.store.deltas import WHOLE_EVERY, difference, opened
from texallon.store.revisions import hold_project
from texallon.store.tables import RevisionRow, ShotRow, SnapshotRow, now

DRAFT_DAYS = 30
"""Days for which every draft is kept, where no setting says otherwise."""

LINKS = (RevisionRow.next_undo, RevisionRow.next_redo, RevisionRow.below, RevisionRow.takes_back)


@dataclass(frozen=True)
class Draft:
    """What is known of a revision without opening it."""

    number: int
    created: datetime
    whole: bool


def thin(engine: Engine, days: int = DRAFT_DAYS, moment: datetime | None = None) -> int:
    """Thin the old drafts of all shots, and keep as differences what an older version kept whole; gives how many drafts went.

    Each step is a transaction of its own that holds its project for milliseconds: editing goes on meanwhile, and a process that is killed
    leaves everything as it was before one step or after it.

    Parameters
    ----------
    engine : Engine
        The database.
    days : int
        Younger drafts all stay; 0 for never any thinned.
    moment : datetime, optional
        What is taken for now, with its time zone.
    """
    before = (moment or now()) - timedelta(days=days)
    with Session(engine) as session:
        shots = [(shot.id or 0, shot.head) for shot in session.exec(select(ShotRow).order_by(col(ShotRow.id))).all()]
    gone = 0
    for shot_id, head in shots:
        with Session(engine) as session:
            drafts, kept_for = _drafts(session, shot_id, head)
        chosen = _stay(drafts, kept_for, before) if days else drafts
        gone += len(drafts) - len(chosen)
        place = {draft.number: at for at, draft in enumerate(drafts)}
        # The newest first: then what a draft leads forward to is settled already.
        for earlier, later in reversed(list(pairwise(chosen))):
            skipped = place[later.number] - place[earlier.number] > 1
            if skipped or (earlier.whole and earlier.number % WHOLE_EVERY):
                with Session(engine) as session:
                    hold_project(session, shot_id)
                    _join(session, shot_id, earlier.number, later.number)
                    session.commit()
    return gone


def _drafts(session: Session, shot_id: int, head: int) -> tuple[list[Draft], set[int]]:
    """The revisions of a shot in order, and the numbers that stay whatever their age: the first, the newest, and those of snapshots."""
    rows = session.exec(
        select(RevisionRow.number, RevisionRow.created, col(RevisionRow.document).is_not(None))
        .where(RevisionRow.shot_id == shot_id, RevisionRow.number <= head)
        .order_by(col(RevisionRow.number))
    ).all()
    drafts = [Draft(number, created, whole) for number, created, whole in rows]
    snapshots = session.exec(select(SnapshotRow.revision).where(SnapshotRow.shot_id == shot_id)).all()
    return drafts, {head, *(draft.number for draft in drafts[:1]), *snapshots}


def _stay(drafts: list[Draft], kept_for: set[int], before: datetime) -> list[Draft]:
    """Those that stay: the young, the kept, and the last of each day (UTC)."""
    following: Iterator[Draft | None] = iter([*drafts[1:], None])
    return [
        draft
        for draft, after in zip(drafts, following, strict=True)
        if draft.created >= before
        or draft.number in kept_for
        or after is None
        or after.created.date() != draft.created.date()
    ]


def _join(session: Session, shot_id: int, earlier: int, later: int) -> None:
    """Let a revision be followed by a later one, without what lies between."""
    kept = select(SnapshotRow.id).where(SnapshotRow.shot_id == shot_id, SnapshotRow.revision > earlier)
    if session.exec(kept.where(SnapshotRow.revision < later)).first() is not None:
        return  # kept since it was looked: the next time goes around it
    chosen = select(RevisionRow).where(RevisionRow.shot_id == shot_id, col(RevisionRow.number).in_((earlier, later)))
    first, second = session.exec(chosen.order_by(col(RevisionRow.number))).all()
    document, back = opened(session, first), None
    if earlier % WHOLE_EVERY and _whole_follows(session, shot_id, later):
        back = difference(opened(session, second), document)
    mine = col(RevisionRow.shot_id) == shot_id
    between = mine & (col(RevisionRow.number) > earlier) & (col(RevisionRow.number) < later)
    if later - earlier > 1:
        _cut_undo(session, mine, between, earlier, later)
        session.exec(delete(RevisionRow).where(between))
    held = {"document": document, "back": null()} if back is None else {"document": null(), "back": back}
    session.exec(update(RevisionRow).where(col(RevisionRow.id) == first.id).values(patch=null(), **held))


def _cut_undo(
    session: Session, mine: ColumnElement[bool], between: ColumnElement[bool], earlier: int, later: int
) -> None:
    """Let nothing lead to what goes: taking back a change needs the documents before and after it."""
    for link in LINKS:
        reaches = (col(link) > earlier) & (col(link) < later)
        if link is not RevisionRow.takes_back:
            reaches = reaches | (col(link) == later)
        session.exec(update(RevisionRow).where(mine, reaches).values({link: None}))
    # A window whose newest revision goes must not be taken for where an older one of its left it.
    windows = set(session.exec(select(RevisionRow.window).where(between)).all())
    older = mine & (col(RevisionRow.number) <= earlier) & col(RevisionRow.window).in_(windows)
    session.exec(update(RevisionRow).where(older).values(next_undo=None, next_redo=None))


def _whole_follows(session: Session, shot_id: int, number: int) -> bool:
    """Whether a whole document is near enough: not more than so many differences are applied to open any."""
    following = session.exec(
        select(col(RevisionRow.document).is_not(None))
        .where(RevisionRow.shot_id == shot_id, RevisionRow.number >= number)
        .order_by(col(RevisionRow.number))
        .limit(WHOLE_EVERY)
    ).all()
    return any(following)
