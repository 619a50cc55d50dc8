"""Shots and their revisions: edit, undo, redo and restore are one mechanism, adding a row.

Every change names the revision it was made against; against any other it raises `StaleError`. Undo adds a copy of the
revision before the last change, with a pointer to what it undid, so nothing is ever lost and numbers only grow.

Signals belong to the project: all its shots hold the same ones, so a change to them adds a revision to every shot, in one
transaction. Such revisions carry a common mark, and undo takes them back together.
"""

import uuid
from dataclasses import replace
from typing import Any

from sqlmodel import Session, col, select

from texallon.core.document import DocumentError, Problem, apply_patch
from texallon.core.signal import sharing
from texallon.store.kept_beside import KeptBeside
from texallon.store.records import Current, Listed, NotFoundError, NothingToDoError, SignalUse
from texallon.store.revisions import advance, checked, current_of, head_at, project_heads, revision_of, step, take_name
from texallon.store.shared_signals import change_all, share_signals, take_in_signals
from texallon.store.tables import ProjectRow, RevisionRow, ShotRow


class ShotStore(KeptBeside):
    """All that is done with shots in the database."""

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
            document = take_in_signals(session, owner.id or 0, document)
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
            return current_of(session, shot_id)

    def document(self, shot_id: int, number: int) -> dict[str, Any]:
        """The document of one revision; raises `NotFoundError`."""
        with Session(self.engine) as session:
            return revision_of(session, shot_id, number).document

    def edit(self, shot_id: int, based_on: int, patch: list[dict[str, Any]], label: str) -> Current:
        """Apply a JSON Patch; raises `StaleError`, or `DocumentError` with nothing changed."""
        with Session(self.engine) as session:
            head = head_at(session, shot_id, based_on)
            shot, document = checked(apply_patch(head.document, patch))
            if document == head.document:
                return current_of(session, shot_id)
            new = RevisionRow(
                shot_id=shot_id,
                number=0,
                document=document,
                patch=patch,
                label=label[:200],
                undo_to=head.number,
            )
            also = share_signals(session, head, new)
            advance(session, head, new)
            take_name(session, shot_id, shot.name)
            session.commit()
            return replace(current_of(session, shot_id), also=also)

    def rename_signal(self, shot_id: int, based_on: int, old: str, new: str) -> Current:
        """Another name for a signal in all shots of the project; raises `DocumentError` for a name in use."""
        with Session(self.engine) as session:
            head = head_at(session, shot_id, based_on)
            names = [signal["name"] for signal in head.document["signals"]]
            if old not in names:
                raise NotFoundError(f"there is no signal “{old}”")
            if new in names:
                raise DocumentError([Problem("/signals", f"there is a signal “{new}” already", "choose another name")])
            return change_all(session, head, lambda each: sharing.rename(each, old, new), f"call {old} {new}")

    def inline_signal(self, shot_id: int, based_on: int, name: str) -> Current:
        """Take a signal away in all shots of the project, its steps written out where it was used."""
        with Session(self.engine) as session:
            head = head_at(session, shot_id, based_on)
            if name not in [signal["name"] for signal in head.document["signals"]]:
                raise NotFoundError(f"there is no signal “{name}”")
            return change_all(session, head, lambda each: sharing.inline(each, name), f"write {name} out")

    def signal_uses(self, shot_id: int) -> dict[str, list[SignalUse]]:
        """For each shared signal, where the project's shots use it; within other signals it is listed once, of this shot."""
        with Session(self.engine) as session:
            current = current_of(session, shot_id)
            names = [signal["name"] for signal in current.document["signals"]]
            found: dict[str, list[SignalUse]] = {name: [] for name in names}
            for row, revision in project_heads(session, shot_id):
                for name in names:
                    found[name] += [
                        SignalUse(row.id or 0, row.name, use.look, use.address, use.where)
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
            head = head_at(session, shot_id, based_on)
            old = revision_of(session, shot_id, number)
            if old.document == head.document:
                return current_of(session, shot_id)
            new = RevisionRow(shot_id=shot_id, number=0, document=old.document, label=label[:200], undo_to=head.number)
            also = share_signals(session, head, new)
            advance(session, head, new)
            session.commit()
            return replace(current_of(session, shot_id), also=also)

    def revisions(self, shot_id: int, most: int) -> list[tuple[int, str, str]]:
        """The newest revisions, newest first: number, label and moment (ISO 8601)."""
        with Session(self.engine) as session:
            current_of(session, shot_id)
            rows = session.exec(
                select(RevisionRow.number, RevisionRow.label, RevisionRow.created)
                .where(RevisionRow.shot_id == shot_id)
                .order_by(col(RevisionRow.number).desc())
                .limit(most)
            ).all()
            return [(number, label, created.isoformat()) for number, label, created in rows]

    def _travel(self, shot_id: int, based_on: int, back: bool) -> Current:
        with Session(self.engine) as session:
            head = head_at(session, shot_id, based_on)
            new = step(session, head, back)
            if new is None:
                raise NothingToDoError("there is nothing to undo" if back else "there is nothing to redo")
            also: tuple[int, ...] = ()
            if head.joint is not None:
                # What was one change in several shots is taken back in all that have not moved on since.
                mark = uuid.uuid4().hex
                for _, other in project_heads(session, shot_id, lock=True):
                    if other.shot_id == shot_id or other.joint != head.joint:
                        continue
                    way = step(session, other, back)
                    if way is not None:
                        way.joint = new.joint = mark
                        advance(session, other, way)
                        also += (other.shot_id,)
            also += share_signals(session, head, new, skip=also)
            advance(session, head, new)
            session.commit()
            return replace(current_of(session, shot_id), also=also)
