"""Signals belong to the project: what changes them in one shot changes all its shots, in one transaction.

Revisions added together carry a common mark, and are taken back together by the window that made the change.
"""

import uuid
from collections.abc import Callable
from dataclasses import replace
from typing import Any

from sqlmodel import Session, select

from texallon.core.document import DocumentError, Problem
from texallon.core.document.ids import without_ids
from texallon.core.signal import sharing
from texallon.store.records import NO_WINDOW, Current, Who
from texallon.store.revisions import advance, changed_by, checked, current_of, project_heads, revision_of
from texallon.store.tables import RevisionRow, ShotRow

Change = Callable[[int, dict[str, Any]], dict[str, Any]]
"""From a shot's id and its document to a changed one."""


def share_signals(session: Session, head: RevisionRow, new: RevisionRow) -> tuple[int, ...]:
    """Where a revision changes the shared signals, give them to the project's other shots; gives their ids.

    Raises `DocumentError` where another shot would not be valid any more, naming it.
    """
    signals = new.document["signals"]
    if signals == head.document["signals"]:
        return ()
    return change_others(session, new, lambda _, document: {**document, "signals": signals})


def change_others(session: Session, new: RevisionRow, change: Change) -> tuple[int, ...]:
    """Add a revision to each of the project's other shots whose document a change makes another; gives their ids.

    Raises `DocumentError` where another shot would not be valid any more, naming it.
    """
    changed: tuple[int, ...] = ()
    rows = project_heads(session, new.shot_id)
    name = next(row.name for row, _ in rows if row.id == new.shot_id)
    for row, other in rows:
        if row.id == new.shot_id:
            continue
        document = change(other.shot_id, other.document)
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
            window=NO_WINDOW,
            author=new.author,
            joint=new.joint,
        )
        advance(session, other, theirs)
        changed += (row.id or 0,)
    return changed


def change_all(session: Session, head: RevisionRow, who: Who, change: Callable[[Any], Any], label: str) -> Current:
    """The same change to every shot of the project, as one."""
    _, document = checked(change(head.document))
    new = changed_by(session, head, who, document, label)
    also = change_others(session, new, lambda _, theirs: change(theirs))
    advance(session, head, new)
    session.commit()
    return replace(current_of(session, head.shot_id, who.window), also=also)


def take_in_signals(session: Session, project_id: int, document: dict[str, Any]) -> dict[str, Any]:
    """A new shot's document with the project's signals added, and its own given to the project's other shots.

    One of its own that is called as another of the project but made differently gets a number after its name.
    """
    first = session.exec(select(ShotRow).where(ShotRow.project_id == project_id)).first()
    if first is None:
        return document
    shared = revision_of(session, first.id or 0, first.head).document["signals"]
    recipes = {signal["name"]: signal["recipe"] for signal in shared}
    for name in [signal["name"] for signal in document["signals"]]:
        own = next(signal["recipe"] for signal in document["signals"] if signal["name"] == name)
        if name in recipes and without_ids(recipes[name]) != without_ids(own):
            taken = {*recipes, *(signal["name"] for signal in document["signals"])}
            new = next(f"{name[:70]} {number}" for number in range(2, 1000) if f"{name[:70]} {number}" not in taken)
            document = sharing.rename(document, name, new)
    added = [signal for signal in document["signals"] if signal["name"] not in recipes]
    if added:
        head = revision_of(session, first.id or 0, first.head)
        label = "signals of a new shot"
        wider = {**head.document, "signals": [*shared, *added]}
        new_row = RevisionRow(shot_id=head.shot_id, number=0, document=wider, label=label, window=NO_WINDOW)
        change_others(session, new_row, lambda _, each: {**each, "signals": [*shared, *added]})
        advance(session, head, new_row)
    return {**document, "signals": [*shared, *added]}
