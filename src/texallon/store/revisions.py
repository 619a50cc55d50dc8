"""The chain of revisions of one shot: what is current, how another is added, where undo and redo lead.

All within a session of the caller's, who commits.
"""

from typing import Any

from sqlalchemy import text, update
from sqlalchemy.orm.attributes import set_committed_value
from sqlmodel import Session, col, select

from texallon.core.document import DocumentError, Shot, read_shot, shot_json
from texallon.core.document.changes import changes, in_brief
from texallon.core.document.reading import completed
from texallon.core.signal.check_recipes import check_shot
from texallon.store.deltas import keep_as_difference, opened
from texallon.store.records import Current, NotFoundError, StaleError, Who
from texallon.store.tables import ProjectRow, RevisionRow, ShotRow

MOST_WORDS = 400
"""Characters of what a revision says of itself."""


def checked(data: Any) -> tuple[Shot, dict[str, Any]]:
    """A document with every check made, and its full JSON; raises `DocumentError`."""
    shot = read_shot(data)
    problems = check_shot(shot)
    if problems:
        raise DocumentError(problems)
    return shot, shot_json(shot)


def current_of(session: Session, shot_id: int, window: str = "") -> Current:
    """A shot as it stands, and what a window can undo and redo in it; raises `NotFoundError`."""
    row = session.get(ShotRow, shot_id)
    if row is None:
        raise NotFoundError(f"there is no shot {shot_id}")
    session.refresh(row)
    head = revision_of(session, shot_id, row.head)
    project = session.get(ProjectRow, row.project_id)
    own = newest_of(session, shot_id, window)
    undo = own.next_undo if own else None
    redo = taken_back(session, shot_id, own.next_redo) if own and own.next_redo else None
    return Current(
        shot_id,
        project.name if project else "",
        row.head,
        head.document,
        undo is not None,
        redo is not None,
        label_of(session, shot_id, undo) if undo else "",
        label_of(session, shot_id, redo) if redo else "",
    )


def newest_of(session: Session, shot_id: int, window: str) -> RevisionRow | None:
    """The newest revision that a window has made: it carries the tops of the window's stacks."""
    chosen = select(RevisionRow).where(RevisionRow.shot_id == shot_id, RevisionRow.window == window)
    return session.exec(chosen.order_by(col(RevisionRow.number).desc()).limit(1)).first()


def taken_back(session: Session, shot_id: int, number: int) -> int:
    """The change that a revision takes back; its own number where it is a change itself."""
    chosen = select(RevisionRow.takes_back).where(RevisionRow.shot_id == shot_id, RevisionRow.number == number)
    return session.exec(chosen).first() or number


def label_of(session: Session, shot_id: int, number: int) -> str:
    """What a revision did, in words."""
    chosen = select(RevisionRow.label).where(RevisionRow.shot_id == shot_id, RevisionRow.number == number)
    return session.exec(chosen).first() or ""


def revision_of(session: Session, shot_id: int, number: int) -> RevisionRow:
    """One revision, its document in the form of today; raises `NotFoundError`."""
    chosen = select(RevisionRow).where(RevisionRow.shot_id == shot_id, RevisionRow.number == number)
    row = session.exec(chosen).first()
    if row is None:
        raise NotFoundError(f"there is no revision {number} of shot {shot_id}")
    # What earlier programs wrote is brought up to date as it is read; what is stored stays as it was written.
    set_committed_value(row, "document", completed(opened(session, row)))
    return row


def hold_project(session: Session, shot_id: int) -> RevisionRow:
    """The current revision of a shot, while no other change to its project's shots is made until this one is done with."""
    held = session.exec(
        text("SELECT pg_advisory_xact_lock(72032, project_id) FROM shots WHERE id = :shot").bindparams(shot=shot_id)  # type: ignore[call-overload]
    ).first()
    row = session.get(ShotRow, shot_id)
    if held is None or row is None:
        raise NotFoundError(f"there is no shot {shot_id}")
    return revision_of(session, shot_id, row.head)


def head_at(session: Session, shot_id: int, based_on: int) -> RevisionRow:
    """The current revision, where it is the one a change was made against; raises `StaleError`."""
    head = hold_project(session, shot_id)
    if head.number != based_on:
        raise StaleError(based_on, head.number)
    return head


def changed_by(session: Session, head: RevisionRow, who: Who, document: dict[str, Any], label: str) -> RevisionRow:
    """The revision that a change of a window's would add: it lies on top of what the window can undo, and there is nothing to redo."""
    own = newest_of(session, head.shot_id, who.window)
    return RevisionRow(
        shot_id=head.shot_id,
        number=0,
        document=document,
        label=label[:200],
        window=who.window,
        author=who.author,
        next_undo=head.number + 1,
        below=own.next_undo if own else None,
    )


def advance(session: Session, head: RevisionRow, new: RevisionRow) -> None:
    """Add a revision after the current one; raises `StaleError` where another came first."""
    # One statement decides between two windows that save at the same moment.
    moved = session.exec(
        update(ShotRow)
        .where(col(ShotRow.id) == head.shot_id, col(ShotRow.head) == head.number)
        .values(head=head.number + 1)
    )
    if moved.rowcount != 1:
        session.rollback()
        current = session.get(ShotRow, head.shot_id)
        raise StaleError(head.number, current.head if current else 0)
    new.number = head.number + 1
    new.words = in_brief(changes(head.document, new.document), MOST_WORDS)
    session.add(new)
    session.flush()
    keep_as_difference(session, head, new.document)


def take_name(session: Session, shot_id: int, name: str) -> None:
    """Give a shot the name its document says, unless another of the project has it."""
    row = session.get(ShotRow, shot_id)
    if row is None or row.name == name:
        return
    taken = session.exec(
        select(ShotRow).where(ShotRow.project_id == row.project_id, ShotRow.name == name, ShotRow.id != shot_id)
    ).first()
    if taken is None:
        row.name = name
        session.add(row)


def project_heads(session: Session, shot_id: int, lock: bool = False) -> list[tuple[ShotRow, RevisionRow]]:
    """All shots of a shot's project with their current revisions; `lock` makes other changes wait."""
    own = session.get(ShotRow, shot_id)
    if own is None:
        raise NotFoundError(f"there is no shot {shot_id}")
    chosen = select(ShotRow).where(ShotRow.project_id == own.project_id).order_by(col(ShotRow.id))
    rows = session.exec(chosen.with_for_update() if lock else chosen).all()
    return [(row, revision_of(session, row.id or 0, row.head)) for row in rows]
