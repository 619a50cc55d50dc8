"""Shots and their revisions: edit, undo, redo and restore are one mechanism, adding a row.

Every change names the revision it was made against; against any other it raises `StaleError`. Undo adds a copy of the
revision before the last change, with a pointer to what it undid, so nothing is ever lost and numbers only grow.
"""

from dataclasses import dataclass
from typing import Any

from sqlalchemy import Engine, update
from sqlmodel import Session, col, select

from texallon.core.document import DocumentError, Shot, apply_patch, read_shot, shot_json
from texallon.core.signal.plan import check_shot
from texallon.store.tables import FileRow, ProjectRow, RevisionRow, ShotRow, SnapshotRow


class NotFoundError(LookupError):
    """There is no such thing; the message says what was looked for."""


class StaleError(RuntimeError):
    """A change made against a revision that is no longer the current one."""

    def __init__(self, based_on: int, current: int) -> None:
        super().__init__(f"the change was made against revision {based_on}, but the shot is at revision {current}")
        self.based_on, self.current = based_on, current


class NothingToDoError(RuntimeError):
    """There is nothing to undo or redo."""


@dataclass(frozen=True)
class Current:
    """A shot as it stands."""

    shot_id: int
    project: str
    revision: int
    document: dict[str, Any]
    can_undo: bool
    can_redo: bool
    undo_label: str
    redo_label: str


@dataclass(frozen=True)
class Listed:
    """A shot in a list."""

    id: int
    project: str
    name: str
    title: str
    revision: int


def checked(data: Any) -> tuple[Shot, dict[str, Any]]:
    """A document with every check made, and its full JSON; raises `DocumentError`."""
    shot = read_shot(data)
    problems = check_shot(shot)
    if problems:
        raise DocumentError(problems)
    return shot, shot_json(shot)


class ShotStore:
    """All that is done with shots in the database."""

    def __init__(self, engine: Engine) -> None:
        self.engine = engine

    def list_shots(self) -> list[Listed]:
        with Session(self.engine) as session:
            rows = session.exec(
                select(ShotRow, ProjectRow, RevisionRow)
                .join(ProjectRow, col(ShotRow.project_id) == col(ProjectRow.id))
                .join(
                    RevisionRow,
                    (col(RevisionRow.shot_id) == col(ShotRow.id)) & (col(RevisionRow.number) == col(ShotRow.head)),
                )
                .order_by(col(ShotRow.id))
            ).all()
            return [
                Listed(shot.id or 0, project.name, shot.name, revision.document.get("title", ""), shot.head)
                for shot, project, revision in rows
            ]

    def add_shot(self, project: str, data: Any, label: str) -> int:
        """A new shot with its first revision; a name in use gets a number after it. Gives its id."""
        shot, document = checked(data)
        with Session(self.engine) as session:
            owner = session.exec(select(ProjectRow).where(ProjectRow.name == project)).first()
            if owner is None:
                owner = ProjectRow(name=project)
                session.add(owner)
                session.flush()
            taken = set(session.exec(select(ShotRow.name).where(ShotRow.project_id == owner.id)).all())
            name, number = shot.name, 2
            while name in taken:
                name, number = f"{shot.name[:70]} {number}", number + 1
            document["name"] = name
            row = ShotRow(project_id=owner.id or 0, name=name, head=1)
            session.add(row)
            session.flush()
            session.add(RevisionRow(shot_id=row.id or 0, number=1, document=document, label=label))
            session.commit()
            return row.id or 0

    def current(self, shot_id: int) -> Current:
        """The shot as it stands; raises `NotFoundError`."""
        with Session(self.engine) as session:
            return self._current(session, shot_id)

    def document(self, shot_id: int, number: int) -> dict[str, Any]:
        """The document of one revision; raises `NotFoundError`."""
        with Session(self.engine) as session:
            return self._revision(session, shot_id, number).document

    def edit(self, shot_id: int, based_on: int, patch: list[dict[str, Any]], label: str) -> Current:
        """Apply a JSON Patch; raises `StaleError`, or `DocumentError` with nothing changed."""
        with Session(self.engine) as session:
            head = self._head(session, shot_id, based_on)
            shot, document = checked(apply_patch(head.document, patch))
            if document == head.document:
                return self._current(session, shot_id)
            new = RevisionRow(
                shot_id=shot_id,
                number=0,
                document=document,
                patch=patch,
                label=label[:200],
                undo_to=head.number,
            )
            self._advance(session, head, new)
            self._rename(session, shot_id, shot.name)
            session.commit()
            return self._current(session, shot_id)

    def undo(self, shot_id: int, based_on: int) -> Current:
        """Back to before the last change; raises `NothingToDoError` at the beginning."""
        return self._travel(shot_id, based_on, back=True)

    def redo(self, shot_id: int, based_on: int) -> Current:
        """Forward to what was last undone; raises `NothingToDoError` at the end."""
        return self._travel(shot_id, based_on, back=False)

    def restore(self, shot_id: int, based_on: int, number: int, label: str) -> Current:
        """Make an older revision's document the current one, as a change that can be undone."""
        with Session(self.engine) as session:
            head = self._head(session, shot_id, based_on)
            old = self._revision(session, shot_id, number)
            if old.document == head.document:
                return self._current(session, shot_id)
            new = RevisionRow(shot_id=shot_id, number=0, document=old.document, label=label[:200], undo_to=head.number)
            self._advance(session, head, new)
            session.commit()
            return self._current(session, shot_id)

    def revisions(self, shot_id: int, most: int) -> list[tuple[int, str, str]]:
        """The newest revisions, newest first: number, label and moment (ISO 8601)."""
        with Session(self.engine) as session:
            self._current(session, shot_id)
            rows = session.exec(
                select(RevisionRow.number, RevisionRow.label, RevisionRow.created)
                .where(RevisionRow.shot_id == shot_id)
                .order_by(col(RevisionRow.number).desc())
                .limit(most)
            ).all()
            return [(number, label, created.isoformat()) for number, label, created in rows]

    def add_snapshot(self, shot_id: int, revision: int, name: str, samples: int, picture: str) -> int:
        """Keep a picture of a revision; gives the snapshot's id."""
        with Session(self.engine) as session:
            self._revision(session, shot_id, revision)
            row = SnapshotRow(shot_id=shot_id, revision=revision, name=name, samples=samples, picture=picture)
            session.add(row)
            session.commit()
            return row.id or 0

    def snapshots(self, shot_id: int) -> list[SnapshotRow]:
        """A shot's snapshots, oldest first."""
        with Session(self.engine) as session:
            self._current(session, shot_id)
            chosen = select(SnapshotRow).where(SnapshotRow.shot_id == shot_id).order_by(col(SnapshotRow.id))
            return list(session.exec(chosen).all())

    def snapshot(self, shot_id: int, snapshot_id: int) -> SnapshotRow:
        with Session(self.engine) as session:
            row = session.get(SnapshotRow, snapshot_id)
            if row is None or row.shot_id != shot_id:
                raise NotFoundError(f"there is no snapshot {snapshot_id} of this shot")
            return row

    def remember_file(self, sha256: str, name: str, kind: str, size: int) -> None:
        """Note a file of the folder."""
        with Session(self.engine) as session:
            session.merge(FileRow(sha256=sha256, name=name[:200], kind=kind, size=size))
            session.commit()

    def _travel(self, shot_id: int, based_on: int, back: bool) -> Current:
        with Session(self.engine) as session:
            head = self._head(session, shot_id, based_on)
            target = head.undo_to if back else head.redo_to
            if target is None:
                raise NothingToDoError("there is nothing to undo" if back else "there is nothing to redo")
            old = self._revision(session, shot_id, target)
            new = RevisionRow(
                shot_id=shot_id,
                number=0,
                document=old.document,
                label=old.label,
                undo_to=old.undo_to,
                redo_to=head.number if back else old.redo_to,
            )
            self._advance(session, head, new)
            session.commit()
            return self._current(session, shot_id)

    def _head(self, session: Session, shot_id: int, based_on: int) -> RevisionRow:
        row = session.get(ShotRow, shot_id)
        if row is None:
            raise NotFoundError(f"there is no shot {shot_id}")
        if row.head != based_on:
            raise StaleError(based_on, row.head)
        return self._revision(session, shot_id, row.head)

    def _advance(self, session: Session, head: RevisionRow, new: RevisionRow) -> None:
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

    def _rename(self, session: Session, shot_id: int, name: str) -> None:
        row = session.get(ShotRow, shot_id)
        if row is None or row.name == name:
            return
        taken = session.exec(
            select(ShotRow).where(ShotRow.project_id == row.project_id, ShotRow.name == name, ShotRow.id != shot_id)
        ).first()
        if taken is None:
            row.name = name
            session.add(row)

    def _revision(self, session: Session, shot_id: int, number: int) -> RevisionRow:
        chosen = select(RevisionRow).where(RevisionRow.shot_id == shot_id, RevisionRow.number == number)
        row = session.exec(chosen).first()
        if row is None:
            raise NotFoundError(f"there is no revision {number} of shot {shot_id}")
        return row

    def _current(self, session: Session, shot_id: int) -> Current:
        row = session.get(ShotRow, shot_id)
        if row is None:
            raise NotFoundError(f"there is no shot {shot_id}")
        session.refresh(row)
        head = self._revision(session, shot_id, row.head)
        project = session.get(ProjectRow, row.project_id)
        redo = self._revision(session, shot_id, head.redo_to) if head.redo_to else None
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
