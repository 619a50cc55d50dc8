"""Undo and redo: a window takes back its own last change, wherever the shot has gone since.

A change is taken back by merging its inverse into the current document: what others have made meanwhile stays. Redo takes back what undo
did, in the same way. Where others have changed the same since, or where other shots use a shared signal that would change,
`AskFirstError` says what would be touched; asked again with `anyway`, it is done.
"""

from dataclasses import replace
from typing import Any

from sqlmodel import Session, select

from texallon.core.document.merge import Conflict, merge
from texallon.core.document.named_number import used_numbers
from texallon.core.signal import sharing
from texallon.store.records import AskFirstError, Current, NothingToDoError, SignalUse, Who
from texallon.store.revisions import (
    advance,
    checked,
    current_of,
    hold_project,
    newest_of,
    project_heads,
    revision_of,
)
from texallon.store.shared_in_project import Common, change_others
from texallon.store.tables import RevisionRow


def take_back(session: Session, shot_id: int, who: Who, back: bool, anyway: bool) -> Current:
    """Undo (`back`) or redo a window's last change; raises `NothingToDoError` or `AskFirstError`."""
    head = hold_project(session, shot_id)
    own = newest_of(session, shot_id, who.window)
    number = (own.next_undo if back else own.next_redo) if own else None
    if own is None or number is None:
        raise NothingToDoError("there is nothing to undo" if back else "there is nothing to redo")
    target = revision_of(session, shot_id, number)
    conflicts: list[Conflict] = []
    document = _without(session, target, head.document, anyway, conflicts)
    touches = _touched(session, head, document)
    if (conflicts or touches) and not anyway:
        raise AskFirstError(tuple(conflicts), touches, head.document)
    _, document = checked(document)
    new = RevisionRow(
        shot_id=shot_id,
        number=0,
        document=document,
        label=_label(session, target),
        window=who.window,
        author=who.author,
        takes_back=number,
        next_undo=target.below if back else head.number + 1,
        next_redo=head.number + 1 if back else target.below,
        below=own.next_redo if back else target.next_undo,
    )
    also: tuple[int, ...] = ()
    if target.joint is not None or Common.of(document) != Common.of(head.document):
        also = _in_other_shots(session, target, new, anyway, conflicts)
        if conflicts and not anyway:
            raise AskFirstError(tuple(conflicts), touches, head.document)
    advance(session, head, new)
    session.commit()
    return replace(current_of(session, shot_id, who.window), also=also)


def _label(session: Session, target: RevisionRow) -> str:
    """What the change is called that this is about, however often it was taken back and made again."""
    while target.takes_back is not None:
        target = revision_of(session, target.shot_id, target.takes_back)
    return target.label


def _without(
    session: Session, target: RevisionRow, document: dict[str, Any], anyway: bool, conflicts: list[Conflict]
) -> dict[str, Any]:
    """A document without what a revision changed; what else has changed the same is put down in `conflicts`."""
    before = revision_of(session, target.shot_id, target.number - 1)
    merged = merge(target.document, before.document, document, prefer_mine=anyway)
    conflicts += merged.conflicts
    made: dict[str, Any] = merged.document
    return made


def _in_other_shots(
    session: Session, target: RevisionRow, new: RevisionRow, anyway: bool, conflicts: list[Conflict]
) -> tuple[int, ...]:
    """Take a change to what is common back in the project's other shots too; all hold the same afterwards."""
    common = Common.of(new.document)

    def change(shot_id: int, document: dict[str, Any]) -> dict[str, Any]:
        chosen = select(RevisionRow).where(RevisionRow.shot_id == shot_id, RevisionRow.joint == target.joint)
        theirs = session.exec(chosen).first() if target.joint is not None else None
        if theirs is None:
            return common.within(document)
        met: list[Conflict] = []
        made = _without(session, revision_of(session, shot_id, theirs.number), document, anyway, met)
        conflicts.extend(each for each in met if not each.pointer.startswith("/signals"))
        return common.within(made)

    return change_others(session, new, change)


def _touched(session: Session, head: RevisionRow, document: dict[str, Any]) -> tuple[SignalUse, ...]:
    """Where other shots use the project's signals and numbers that a new document of this one would change or take away."""
    before, after = Common.of(head.document), Common.of(document)
    changed = _changed(before.signals, after.signals)
    numbers = _changed(before.numbers, after.numbers)
    if not changed and not numbers:
        return ()
    names = sorted(sharing.built_on(head.document, changed))
    counted = tuple(
        SignalUse(row.id or 0, row.name, "", "/numbers", f"the project's number {name}")
        for row, other in project_heads(session, head.shot_id)
        if row.id != head.shot_id
        for name in sorted(numbers & used_numbers(other.document))
    )
    return counted + tuple(
        SignalUse(row.id or 0, row.name, use.look, use.address, use.where)
        for row, other in project_heads(session, head.shot_id)
        if row.id != head.shot_id
        for name in names
        for use in sharing.uses(other.document, name)
        if use.look
    )


def _changed(before: list[Any], after: list[Any]) -> set[str]:
    """Names of those that are changed or taken away."""
    new = {each["name"]: each for each in after}
    return {each["name"] for each in before if each != new.get(each["name"])}
