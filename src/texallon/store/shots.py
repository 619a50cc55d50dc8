"""Shots and their revisions: edit, undo, redo and restore are one mechanism, adding a row.

Every change names the revision it was made against; against any other it raises `StaleError`. Undo adds a copy of the
revision before the last change, with a pointer to what it undid, so nothing is ever lost and numbers only grow.

Signals belong to the project: all its shots hold the same ones, so a change to them adds a revision to every shot, in one
transaction. Such revisions carry a common mark, and undo takes them back together.
"""

import uuid
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from typing import Any

from sqlalchemy import Engine, update
from sqlalchemy.orm.attributes import set_committed_value
from sqlmodel import Session, col, select

from texallon.core.document import DocumentError, Problem, Shot, apply_patch, read_shot, shot_json
from texallon.core.document.ids import without_ids
from texallon.core.document.reading import migrate
from texallon.core.signal import sharing
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
    also: tuple[int, ...] = ()
    """Other shots that the change added a revision to."""


@dataclass(frozen=True)
class SignalUse:
    """Where a shared signal is used: a shot, a look (empty within another signal), and a recipe's place by names."""

    shot_id: int
    shot: str
    look: str
    place: tuple[str, ...]


Change = Callable[[dict[str, Any]], dict[str, Any]]
"""From a document to a changed one."""


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
            document = self._take_in_signals(session, owner.id or 0, document)
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
            also = self._share(session, head, new)
            self._advance(session, head, new)
            self._rename(session, shot_id, shot.name)
            session.commit()
            return replace(self._current(session, shot_id), also=also)

    def rename_signal(self, shot_id: int, based_on: int, old: str, new: str) -> Current:
        """Another name for a signal in all shots of the project; raises `DocumentError` for a name in use."""
        with Session(self.engine) as session:
            head = self._head(session, shot_id, based_on)
            names = [signal["name"] for signal in head.document["signals"]]
            if old not in names:
                raise NotFoundError(f"there is no signal “{old}”")
            if new in names:
                raise DocumentError([Problem("/signals", f"there is a signal “{new}” already", "choose another name")])
            return self._change_all(session, head, lambda each: sharing.rename(each, old, new), f"call {old} {new}")

    def inline_signal(self, shot_id: int, based_on: int, name: str) -> Current:
        """Take a signal away in all shots of the project, its steps written out where it was used."""
        with Session(self.engine) as session:
            head = self._head(session, shot_id, based_on)
            if name not in [signal["name"] for signal in head.document["signals"]]:
                raise NotFoundError(f"there is no signal “{name}”")
            return self._change_all(session, head, lambda each: sharing.inline(each, name), f"write {name} out")

    def signal_uses(self, shot_id: int) -> dict[str, list[SignalUse]]:
        """For each shared signal, where the project's shots use it; within other signals it is listed once, of this shot."""
        with Session(self.engine) as session:
            current = self._current(session, shot_id)
            names = [signal["name"] for signal in current.document["signals"]]
            found: dict[str, list[SignalUse]] = {name: [] for name in names}
            for row, revision in self._project_heads(session, shot_id):
                for name in names:
                    found[name] += [
                        SignalUse(row.id or 0, row.name, use.look, use.place)
                        for use in sharing.uses(revision.document, name)
                        if use.look or row.id == shot_id
                    ]
            return found

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
            also = self._share(session, head, new)
            self._advance(session, head, new)
            session.commit()
            return replace(self._current(session, shot_id), also=also)

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

    def files_of_kinds(self, kinds: Iterable[str]) -> list[FileRow]:
        """All files of some kinds, by name."""
        with Session(self.engine) as session:
            return list(session.exec(select(FileRow).where(col(FileRow.kind).in_(kinds)).order_by(FileRow.name)).all())

    def _travel(self, shot_id: int, based_on: int, back: bool) -> Current:
        with Session(self.engine) as session:
            head = self._head(session, shot_id, based_on)
            new = self._way(session, head, back)
            if new is None:
                raise NothingToDoError("there is nothing to undo" if back else "there is nothing to redo")
            also: tuple[int, ...] = ()
            if head.joint is not None:
                # What was one change in several shots is taken back in all that have not moved on since.
                mark = uuid.uuid4().hex
                for _, other in self._project_heads(session, shot_id, lock=True):
                    if other.shot_id == shot_id or other.joint != head.joint:
                        continue
                    way = self._way(session, other, back)
                    if way is not None:
                        way.joint = new.joint = mark
                        self._advance(session, other, way)
                        also += (other.shot_id,)
            also += self._share(session, head, new, skip=also)
            self._advance(session, head, new)
            session.commit()
            return replace(self._current(session, shot_id), also=also)

    def _way(self, session: Session, head: RevisionRow, back: bool) -> RevisionRow | None:
        """The revision that undo or redo would add."""
        target = head.undo_to if back else head.redo_to
        if target is None:
            return None
        old = self._revision(session, head.shot_id, target)
        return RevisionRow(
            shot_id=head.shot_id,
            number=0,
            document=old.document,
            label=old.label,
            undo_to=old.undo_to,
            redo_to=head.number if back else old.redo_to,
        )

    def _project_heads(self, session: Session, shot_id: int, lock: bool = False) -> list[tuple[ShotRow, RevisionRow]]:
        """All shots of a shot's project with their current revisions; `lock` makes other changes wait."""
        own = session.get(ShotRow, shot_id)
        if own is None:
            raise NotFoundError(f"there is no shot {shot_id}")
        chosen = select(ShotRow).where(ShotRow.project_id == own.project_id).order_by(col(ShotRow.id))
        rows = session.exec(chosen.with_for_update() if lock else chosen).all()
        return [(row, self._revision(session, row.id or 0, row.head)) for row in rows]

    def _share(
        self, session: Session, head: RevisionRow, new: RevisionRow, skip: tuple[int, ...] = ()
    ) -> tuple[int, ...]:
        """Where a revision changes the shared signals, give them to the project's other shots; gives their ids.

        Raises `DocumentError` where another shot would not be valid any more, naming it.
        """
        signals = new.document["signals"]
        if signals == head.document["signals"]:
            return ()

        def take(document: dict[str, Any]) -> dict[str, Any]:
            return {**document, "signals": signals}

        return self._change_others(session, new, take, skip)

    def _change_others(
        self, session: Session, new: RevisionRow, change: Change, skip: tuple[int, ...] = ()
    ) -> tuple[int, ...]:
        changed: tuple[int, ...] = ()
        rows = self._project_heads(session, new.shot_id, lock=True)
        name = next(row.name for row, _ in rows if row.id == new.shot_id)
        for row, other in rows:
            if row.id == new.shot_id or row.id in skip:
                continue
            document = change(other.document)
            if document == other.document:
                continue
            try:
                _, document = checked(document)
            except DocumentError as error:
                problems = [Problem(each.pointer, f"{row.name}: {each.reason}", each.hint) for each in error.problems]
                raise DocumentError(problems) from None
            if new.joint is None:
                new.joint = uuid.uuid4().hex
            theirs = RevisionRow(
                shot_id=row.id or 0,
                number=0,
                document=document,
                label=f"{new.label} (in {name})"[:200],
                undo_to=other.number,
                joint=new.joint,
            )
            self._advance(session, other, theirs)
            changed += (row.id or 0,)
        return changed

    def _change_all(self, session: Session, head: RevisionRow, change: Change, label: str) -> Current:
        """The same change to every shot of the project, as one."""
        _, document = checked(change(head.document))
        new = RevisionRow(shot_id=head.shot_id, number=0, document=document, label=label[:200], undo_to=head.number)
        also = self._change_others(session, new, change)
        self._advance(session, head, new)
        session.commit()
        return replace(self._current(session, head.shot_id), also=also)

    def _take_in_signals(self, session: Session, project_id: int, document: dict[str, Any]) -> dict[str, Any]:
        """A new shot's document with the project's signals added, and its own given to the project's other shots.

        One of its own that is called as another of the project but made differently gets a number after its name.
        """
        first = session.exec(select(ShotRow).where(ShotRow.project_id == project_id)).first()
        if first is None:
            return document
        shared = self._revision(session, first.id or 0, first.head).document["signals"]
        recipes = {signal["name"]: signal["recipe"] for signal in shared}
        for name in [signal["name"] for signal in document["signals"]]:
            own = next(signal["recipe"] for signal in document["signals"] if signal["name"] == name)
            if name in recipes and without_ids(recipes[name]) != without_ids(own):
                taken = {*recipes, *(signal["name"] for signal in document["signals"])}
                new = next(f"{name[:70]} {number}" for number in range(2, 1000) if f"{name[:70]} {number}" not in taken)
                document = sharing.rename(document, name, new)
        added = [signal for signal in document["signals"] if signal["name"] not in recipes]
        if added:
            head = self._revision(session, first.id or 0, first.head)
            label = "signals of a new shot"
            wider = {**head.document, "signals": [*shared, *added]}
            new_row = RevisionRow(shot_id=head.shot_id, number=0, document=wider, label=label, undo_to=head.number)
            self._change_others(session, new_row, lambda each: {**each, "signals": [*shared, *added]})
            self._advance(session, head, new_row)
        return {**document, "signals": [*shared, *added]}

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
        # Older forms are brought up to date as they are read; what is stored stays as it was written.
        set_committed_value(row, "document", migrate(row.document))
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
