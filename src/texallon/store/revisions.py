"""The chain of revisions of one shot: what is current, how another is added, where undo and redo lead.

All within a session of the caller's, who commits.
"""

from typing import Any

from sqlalchemy import update
from sqlalchemy.orm.attributes import set_committed_value
from sqlmodel import Session, col, select

from texallon.core.document import DocumentError, Shot, read_shot, shot_json
from texallon.core.document.reading import migrate
from texallon.core.signal.check_recipes import check_shot
from texallon.store.records import Current, NotFoundError, StaleError
from texallon.store.tables import ProjectRow, RevisionRow, ShotRow


def checked(data: Any) -> tuple[Shot, dict[str, Any]]:
    """A document with every check made, and its full JSON; raises `DocumentError`."""
    shot = read_shot(data)
    problems = check_shot(shot)
    if problems:
        raise DocumentError(problems)
    return shot, shot_json(shot)


def current_of(session: Session, shot_id: int) -> Current:
    """A shot as it stands; raises `NotFoundError`."""
    row = session.get(ShotRow, shot_id)
    if row is None:
        raise NotFoundError(f"there is no shot {shot_id}")
    session.refresh(row)
    head = revision_of(session, shot_id, row.head)
    project = session.get(ProjectRow, row.project_id)
    redo = revision_of(session, shot_id, head.redo_to) if head.redo_to else None
    return Current(
        shot_id,
        project.name if project else "",
        row.head,
        head.document,
        head.undo_to is not None,
        head.redo_to is not None,
        head.label if head.undo_to is not None else "",
        redo.label if redo else "",
    )


def revision_of(session: Session, shot_id: int, number: int) -> RevisionRow:
    """One revision, its document in the form of today; raises `NotFoundError`."""
    chosen = select(RevisionRow).where(RevisionRow.shot_id == shot_id, RevisionRow.number == number)
    row = session.exec(chosen).first()
    if row is None:
        raise NotFoundError(f"there is no revision {number} of shot {shot_id}")
    # Older forms are brought up to date as they are read; what is stored stays as it was written.
    set_committed_value(row, "document", migrate(row.document))
    return row


def head_at(session: Session, shot_id: int, based_on: int) -> RevisionRow:
    """The current revision, where it is the one a change was made against; raises `StaleError`."""
    row = session.get(ShotRow, shot_id)
    if row is None:
        raise NotFoundError(f"there is no shot {shot_id}")
    if row.head != based_on:
        raise StaleError(based_on, row.head)
    return revision_of(session, shot_id, row.head)


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
    session.add(new)
    session.flush()


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


def step(session: Session, head: RevisionRow, back: bool) -> RevisionRow | None:
    """The revision that undo or redo would add."""
    target = head.undo_to if back else head.redo_to
    if target is None:
        return None
    old = revision_of(session, head.shot_id, target)
    return RevisionRow(
        shot_id=head.shot_id,
        number=0,
        document=old.document,
        label=old.label,
        undo_to=old.undo_to,
        redo_to=head.number if back else old.redo_to,
    )


def project_heads(session: Session, shot_id: int, lock: bool = False) -> list[tuple[ShotRow, RevisionRow]]:
    """All shots of a shot's project with their current revisions; `lock` makes other changes wait."""
    own = session.get(ShotRow, shot_id)
    if own is None:
        raise NotFoundError(f"there is no shot {shot_id}")
    chosen = select(ShotRow).where(ShotRow.project_id == own.project_id).order_by(col(ShotRow.id))
    rows = session.exec(chosen.with_for_update() if lock else chosen).all()
    return [(row, revision_of(session, row.id or 0, row.head)) for row in rows]
