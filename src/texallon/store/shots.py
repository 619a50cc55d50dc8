"""Shots and their revisions: edit, undo, redo and restore are one mechanism, adding a row.

An edit names the revision it was made against. Where others have changed the shot since, it is merged with what they did, by stable ids; where both
have changed the same, it is refused (`ConflictError`) with both values. Undo takes back a window's own last change (see `taking_back`).
Nothing is ever lost, and numbers only grow.

Signals belong to the project: all its shots hold the same ones, so a change to them adds a revision to every shot, in one transaction.
"""

from dataclasses import replace
from typing import Any

from sqlalchemy import func
from sqlmodel import Session, col, select

from texallon.core.document import DocumentError, Problem, Shot, apply_patch
from texallon.core.document.changes import changes
from texallon.core.document.merge import merge
from texallon.core.signal import sharing
from texallon.store.records import (
    NOBODY,
    ConflictError,
    Current,
    ListedRevision,
    NotFoundError,
    SignalUse,
    StaleError,
    Who,
)
from texallon.store.revisions import (
    advance,
    changed_by,
    checked,
    current_of,
    head_at,
    hold_project,
    project_heads,
    revision_of,
    take_name,
)
from texallon.store.shared_in_project import change_all, share_what_is_common
from texallon.store.shot_list import ShotList
from texallon.store.tables import RevisionRow, SnapshotRow
from texallon.store.taking_back import take_back


class ShotStore(ShotList):
    """All that is done with shots in the database."""

    def current(self, shot_id: int, who: Who = NOBODY) -> Current:
        """The shot as it stands, and what a window can undo and redo; raises `NotFoundError`."""
        with Session(self.engine) as session:
            return current_of(session, shot_id, who.window)

    def document(self, shot_id: int, number: int) -> dict[str, Any]:
        """The document of one revision; raises `NotFoundError`."""
        with Session(self.engine) as session:
            return revision_of(session, shot_id, number).document

    def edit(self, shot_id: int, based_on: int, patch: list[dict[str, Any]], label: str, who: Who = NOBODY) -> Current:
        """Apply a JSON Patch made against a revision; raises `StaleError` where there is no such revision, `ConflictError` where it does not go
        together with what was changed since, or `DocumentError`. Nothing is changed then."""
        with Session(self.engine) as session:
            head = hold_project(session, shot_id)
            base = head if head.number == based_on else self._base(session, head, based_on)
            shot, document = checked(apply_patch(base.document, patch))
            if base is not head:
                shot, document = _merged(base, document, head)
            if document == head.document:
                return current_of(session, shot_id, who.window)
            new = changed_by(session, head, who, document, label)
            new.patch = patch
            also = share_what_is_common(session, head, new)
            advance(session, head, new)
            take_name(session, shot_id, shot.name)
            session.commit()
            return replace(current_of(session, shot_id, who.window), also=also)

    def _base(self, session: Session, head: RevisionRow, number: int) -> RevisionRow:
        if not 0 < number < head.number:
            raise StaleError(number, head.number)
        try:
            return revision_of(session, head.shot_id, number)
        except NotFoundError as error:  # so old that it was thinned
            raise StaleError(number, head.number) from error

    def rename_signal(self, shot_id: int, old: str, new: str, who: Who = NOBODY) -> Current:
        """Another name for a signal in all shots of the project; raises `DocumentError` for a name in use."""
        with Session(self.engine) as session:
            head = hold_project(session, shot_id)
            names = [signal["name"] for signal in head.document["signals"]]
            if old not in names:
                raise NotFoundError(f"there is no signal “{old}”")
            if new in names:
                raise DocumentError([Problem("/signals", f"there is a signal “{new}” already", "choose another name")])
            return change_all(session, head, who, lambda each: sharing.rename(each, old, new), f"call {old} {new}")

    def inline_signal(self, shot_id: int, name: str, who: Who = NOBODY) -> Current:
        """Take a signal away in all shots of the project, its steps written out where it was used."""
        with Session(self.engine) as session:
            head = hold_project(session, shot_id)
            if name not in [signal["name"] for signal in head.document["signals"]]:
                raise NotFoundError(f"there is no signal “{name}”")
            return change_all(session, head, who, lambda each: sharing.inline(each, name), f"write {name} out")

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

    def undo(self, shot_id: int, who: Who = NOBODY, anyway: bool = False) -> Current:
        """Take back a window's last change; raises `NothingToDoError`, or `AskFirstError` unless it is to be done `anyway`."""
        with Session(self.engine) as session:
            return take_back(session, shot_id, who, back=True, anyway=anyway)

    def redo(self, shot_id: int, who: Who = NOBODY, anyway: bool = False) -> Current:
        """Make what a window has last taken back again; raises as `undo`."""
        with Session(self.engine) as session:
            return take_back(session, shot_id, who, back=False, anyway=anyway)

    def restore(self, shot_id: int, based_on: int, number: int, label: str, who: Who = NOBODY) -> Current:
        """Make an older revision's document the current one, as a change that can be undone; raises `StaleError`."""
        with Session(self.engine) as session:
            head = head_at(session, shot_id, based_on)
            old = revision_of(session, shot_id, number)
            if old.document == head.document:
                return current_of(session, shot_id, who.window)
            new = changed_by(session, head, who, old.document, label)
            also = share_what_is_common(session, head, new)
            advance(session, head, new)
            session.commit()
            return replace(current_of(session, shot_id, who.window), also=also)

    def revisions(self, shot_id: int, most: int, before: int | None = None) -> list[ListedRevision]:
        """The newest revisions, or those before one, newest first."""
        with Session(self.engine) as session:
            current_of(session, shot_id)
            kept = dict(
                session.exec(
                    select(SnapshotRow.revision, func.count(col(SnapshotRow.id)))
                    .where(SnapshotRow.shot_id == shot_id)
                    .group_by(col(SnapshotRow.revision))
                ).all()
            )
            chosen = select(
                RevisionRow.number,
                RevisionRow.label,
                RevisionRow.words,
                RevisionRow.author,
                RevisionRow.created,
                RevisionRow.takes_back,
                RevisionRow.next_redo,
            ).where(RevisionRow.shot_id == shot_id)  # type: ignore[call-overload]
            if before is not None:
                chosen = chosen.where(col(RevisionRow.number) < before)
            rows = session.exec(chosen.order_by(col(RevisionRow.number).desc()).limit(most)).all()
            return [
                ListedRevision(
                    number,
                    f"{_way(number, takes_back, redo)}{label}",
                    words,
                    author,
                    created.isoformat(),
                    kept.get(number, 0),
                )
                for number, label, words, author, created, takes_back, redo in rows
            ]

    def changes_of(self, shot_id: int, number: int) -> list[str]:
        """What differs between a revision and the one before it that is still kept, in words; raises `NotFoundError`."""
        with Session(self.engine) as session:
            after = revision_of(session, shot_id, number)
            earlier = session.exec(
                select(func.max(col(RevisionRow.number))).where(
                    RevisionRow.shot_id == shot_id, col(RevisionRow.number) < number
                )
            ).one()
            return changes(revision_of(session, shot_id, earlier).document, after.document) if earlier else []


def _merged(base: RevisionRow, mine: dict[str, Any], head: RevisionRow) -> tuple[Shot, dict[str, Any]]:
    """A change made against an older revision, with what has happened since; raises `ConflictError`."""
    merged = merge(base.document, mine, head.document)
    if merged.conflicts:
        raise ConflictError(merged.conflicts, head.number, head.document)
    try:
        return checked(merged.document)
    except DocumentError as error:
        # Each is valid by itself: what one needs the other has taken away or made.
        raise ConflictError((), head.number, head.document, tuple(error.problems)) from error


def _way(number: int, takes_back: int | None, next_redo: int | None) -> str:
    if takes_back is None:
        return ""
    return "undo: " if next_redo == number else "redo: "
