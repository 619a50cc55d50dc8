"""The shelf of looks in the database: what people put there, beside the looks that ship."""

from dataclasses import dataclass
from typing import Any

from sqlalchemy import Engine, text
from sqlmodel import Session, col, select

from texallon.core.document.shelf_item import ShelfItem
from texallon.store.projects import ONE_AT_A_TIME
from texallon.store.records import NotFoundError
from texallon.store.tables import ShelfLookRow, now

MOST_LOOKS = 2000
"""Looks that the shelf holds."""


class ShelfFullError(ValueError):
    """There are as many looks on the shelf as it holds."""


@dataclass(frozen=True)
class Shelved:
    """A look on the shelf."""

    name: str
    version: int
    item: ShelfItem
    author: str
    picture: str | None
    changed: str


class ShelfStore:
    """All that is done with the shelf in the database."""

    def __init__(self, engine: Engine) -> None:
        self.engine = engine

    def all(self) -> list[Shelved]:
        """Every look that was put here, by name."""
        with Session(self.engine) as session:
            return [_shelved(row) for row in session.exec(select(ShelfLookRow).order_by(col(ShelfLookRow.name))).all()]

    def without_picture(self) -> list[Shelved]:
        """Those whose picture is still to be made."""
        with Session(self.engine) as session:
            waiting = select(ShelfLookRow).where(col(ShelfLookRow.picture).is_(None)).order_by(col(ShelfLookRow.id))
            return [_shelved(row) for row in session.exec(waiting).all()]

    def find(self, name: str) -> Shelved:
        """A look; raises `NotFoundError`."""
        with Session(self.engine) as session:
            return _shelved(_row(session, name))

    def put(self, item: ShelfItem, author: str) -> Shelved:
        """Put a look here; one of the same name becomes its next version. Raises `ShelfFullError`."""
        data: dict[str, Any] = item.model_dump(mode="json")
        with Session(self.engine) as session:
            session.exec(text(ONE_AT_A_TIME))  # type: ignore[call-overload]
            row = session.exec(select(ShelfLookRow).where(ShelfLookRow.name == item.name)).first()
            if row is None:
                if len(session.exec(select(ShelfLookRow.id)).all()) >= MOST_LOOKS:
                    raise ShelfFullError(f"the shelf holds {MOST_LOOKS} looks; take one away first")
                row = ShelfLookRow(name=item.name, version=0, item=data)
            row.version, row.item, row.author, row.picture, row.changed = row.version + 1, data, author, None, now()
            session.add(row)
            session.commit()
            session.refresh(row)
            return _shelved(row)

    def take_away(self, name: str) -> None:
        """Take a look off the shelf; shots that took it keep what they have. Raises `NotFoundError`."""
        with Session(self.engine) as session:
            session.delete(_row(session, name))
            session.commit()

    def keep_picture(self, name: str, version: int, picture: str) -> None:
        """Remember a look's picture, unless it was put here anew since."""
        with Session(self.engine) as session:
            row = session.exec(select(ShelfLookRow).where(ShelfLookRow.name == name)).first()
            if row is not None and row.version == version:
                row.picture = picture
                session.add(row)
                session.commit()


def _row(session: Session, name: str) -> ShelfLookRow:
    row = session.exec(select(ShelfLookRow).where(ShelfLookRow.name == name)).first()
    if row is None:
        raise NotFoundError(f"there is no look “{name}” on the shelf")
    return row


def _shelved(row: ShelfLookRow) -> Shelved:
    item = ShelfItem.model_validate(row.item)
    return Shelved(row.name, row.version, item, row.author, row.picture, row.changed.isoformat())
