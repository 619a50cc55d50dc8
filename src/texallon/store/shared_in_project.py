"""Signals belong to the project, and numbers that say so: what changes them in one shot changes all its shots, in one transaction.

Revisions added together carry a common mark, and are taken back together by the window that made the change.
"""

import uuid
from collections.abc import Callable
from dataclasses import replace
from typing import Any, NamedTuple

from sqlmodel import Session, select

from texallon.core.document import DocumentError, Problem
from texallon.core.document.ids import without_ids
from texallon.core.document.named_number import project_numbers, with_project_numbers
from texallon.core.signal import sharing
from texallon.store.records import NO_WINDOW, Current, Who
from texallon.store.revisions import advance, changed_by, checked, current_of, project_heads, revision_of
from texallon.store.tables import RevisionRow, ShotRow

Change = Callable[[int, dict[str, Any]], dict[str, Any]]
"""From a shot's id and its document to a changed one."""


class Common(NamedTuple):
    """What all shots of a project have in common: its signals, and its numbers."""

    signals: list[Any]
    numbers: list[Any]

    @staticmethod
    def of(document: dict[str, Any]) -> "Common":
        """What a shot has in common with its project's others."""
        return Common(document["signals"], project_numbers(document))

    def within(self, document: dict[str, Any]) -> dict[str, Any]:
        """A shot's document with this in the place of what it had in common so far."""
        return {**with_project_numbers(document, self.numbers), "signals": self.signals}


def share_what_is_common(session: Session, head: RevisionRow, new: RevisionRow) -> tuple[int, ...]:
    """Where a revision changes the project's signals or numbers, give them to its other shots; gives their ids.

    Raises `DocumentError` where another shot would not be valid any more, naming it.
    """
    common = Common.of(new.document)
    if common == Common.of(head.document):
        return ()
    return change_others(session, new, lambda _, other: common.within(other))


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


def take_in_what_is_common(session: Session, project_id: int, document: dict[str, Any]) -> dict[str, Any]:
    """A new shot's document with the project's signals and numbers added, and its own given to the project's other shots.

    A signal of its own that is called as another of the project but made differently gets a number after its name; a number of the project
    that it has a value of its own for has the project's.
    """
    first = session.exec(select(ShotRow).where(ShotRow.project_id == project_id)).first()
    if first is None:
        return document
    head = revision_of(session, first.id or 0, first.head)
    shared, numbers = head.document["signals"], project_numbers(head.document)
    known = {each["name"] for each in numbers}
    numbers = [*numbers, *(each for each in project_numbers(document) if each["name"] not in known)]
    own_names = {each["name"] for each in document.get("numbers", [])}
    if taken_names := own_names & known - {each["name"] for each in project_numbers(document)}:
        raise DocumentError([Problem("/numbers", f"the project has a number “{min(taken_names)}” too", "another name")])
    document = with_project_numbers(document, numbers)
    recipes = {signal["name"]: signal["recipe"] for signal in shared}
    for name in [signal["name"] for signal in document["signals"]]:
        own = next(signal["recipe"] for signal in document["signals"] if signal["name"] == name)
        if name in recipes and without_ids(recipes[name]) != without_ids(own):
            taken = {*recipes, *(signal["name"] for signal in document["signals"])}
            new = next(f"{name[:70]} {number}" for number in range(2, 1000) if f"{name[:70]} {number}" not in taken)
            document = sharing.rename(document, name, new)
    added = [signal for signal in document["signals"] if signal["name"] not in recipes]
    if added or len(numbers) > len(known):
        wider = Common([*shared, *added], numbers)
        label = "signals of a new shot" if added else "numbers of a new shot"
        new_row = RevisionRow(
            shot_id=head.shot_id, number=0, document=wider.within(head.document), label=label, window=NO_WINDOW
        )
        change_others(session, new_row, lambda _, each: wider.within(each))
        advance(session, head, new_row)
    return {**document, "signals": [*shared, *added]}
