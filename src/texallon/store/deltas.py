"""Documents of older revisions as differences: the newest is kept whole, and of those before it every so many; the others as the JSON Patch that
leads back to them from the one after.

Every revision still opens exactly: a difference is only kept where applying it gives the very document.
"""

import json
from typing import Any

import jsonpatch
from sqlalchemy import null, update
from sqlmodel import Session, col, select

from texallon.core.document.patching import copied
from texallon.store.tables import RevisionRow

WHOLE_EVERY = 32
"""Of so many revisions one is kept whole: at most so many differences are applied to open any."""


def difference(new: Any, old: Any) -> list[dict[str, Any]] | None:
    """The JSON Patch that leads from a newer document to an older one; none where it would not lead there exactly, or be no smaller."""
    patch: list[dict[str, Any]] = jsonpatch.make_patch(new, old).patch
    if len(str(patch)) > len(str(old)) // 2:
        return None
    try:
        back = jsonpatch.apply_patch(copied(new), patch, in_place=True)
    except jsonpatch.JsonPatchException:
        return None
    # Compared as text: 1, 1.0 and True are equal, and not the same.
    return patch if _text(back) == _text(old) else None


def _text(value: Any) -> str:
    return json.dumps(value, sort_keys=True)


def keep_as_difference(session: Session, row: RevisionRow, next_document: Any) -> None:
    """Put the way back from the next revision in the place of a revision's document."""
    if row.number % WHOLE_EVERY == 0:
        return
    back = difference(next_document, row.document)
    if back is not None:
        session.exec(
            update(RevisionRow).where(col(RevisionRow.id) == row.id).values(document=null(), patch=null(), back=back)
        )


def opened(session: Session, row: RevisionRow) -> Any:
    """The document of a revision, however it is kept; raises `LookupError` where the chain to it is broken."""
    if row.document is not None:
        return row.document
    after = (RevisionRow.shot_id == row.shot_id, col(RevisionRow.number) >= row.number)
    first = select(RevisionRow.number).where(*after, col(RevisionRow.document).is_not(None))
    whole = session.exec(first.order_by(col(RevisionRow.number)).limit(1)).first()
    if whole is None:
        raise LookupError(f"revision {row.number} of shot {row.shot_id} can't be opened: no whole document follows it")
    later = session.exec(
        select(RevisionRow.document, RevisionRow.back)
        .where(*after, RevisionRow.number <= whole)
        .order_by(col(RevisionRow.number))
    ).all()
    document = copied(later[-1][0])
    for _, back in reversed(later[:-1]):
        document = jsonpatch.apply_patch(document, back, in_place=True)
    return document
