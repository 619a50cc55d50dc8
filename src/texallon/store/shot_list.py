"""The shots of projects as a list: adding them, their order, their pictures, and the bin."""

from typing import Any

from sqlalchemy import text
from sqlmodel import Session, col, select

from texallon.store.projects import ONE_AT_A_TIME, NameTakenError, Projects, delete_shots, numbered
from texallon.store.quotas import check_shots
from texallon.store.records import Listed, NotFoundError
from texallon.store.revisions import checked
from texallon.store.shared_in_project import take_in_what_is_common
from texallon.store.tables import ProjectRow, RevisionRow, ShotRow, now


class ShotList(Projects):
    """All that is done with the list of shots in the database."""

    def list_shots(self, project_id: int | None = None, binned: bool = False) -> list[Listed]:
        """The shots of all projects, or of one, in their order; those in the bin only where they are asked for."""
        document = col(RevisionRow.document)
        chosen = (
            select(
                ShotRow,
                ProjectRow.name,
                document["title"].astext,
                document["frames"]["first"].as_integer(),
                document["frames"]["last"].as_integer(),
            )
            .join(ProjectRow, col(ShotRow.project_id) == col(ProjectRow.id))
            .join(
                RevisionRow,
                (col(RevisionRow.shot_id) == col(ShotRow.id)) & (col(RevisionRow.number) == col(ShotRow.head)),
            )
            .order_by(col(ShotRow.project_id), col(ShotRow.place), col(ShotRow.id))
        )
        if project_id is not None:
            chosen = chosen.where(ShotRow.project_id == project_id)
        if not binned:
            chosen = chosen.where(col(ShotRow.binned).is_(None))
        with Session(self.engine) as session:
            return [
                Listed(
                    shot.id or 0,
                    shot.project_id,
                    project,
                    shot.name,
                    title or "",
                    shot.head,
                    (last or 0) - (first or 0) + 1,
                    shot.picture,
                    shot.picture_revision,
                    shot.binned.isoformat() if shot.binned else None,
                    shot.created.isoformat(),
                )
                for shot, project, title, first, last in session.exec(chosen).all()
            ]

    def add_shot(self, project: str, data: Any, label: str, author: str = "", after: int | None = None) -> int:
        """A new shot with its first revision, at the end or after another; a name in use gets a number after it, and a project that there
        is none of is made. Gives its id; raises `QuotaError`."""
        shot, document = checked(data)
        with Session(self.engine) as session:
            session.exec(text(ONE_AT_A_TIME))  # type: ignore[call-overload]
            owner = session.exec(select(ProjectRow).where(ProjectRow.name == project)).first()
            if owner is None:
                owner = ProjectRow(name=project)
                session.add(owner)
                session.flush()
            project_id = owner.id or 0
            session.exec(text("SELECT pg_advisory_xact_lock(72032, :project)").bindparams(project=project_id))  # type: ignore[call-overload]
            document = take_in_what_is_common(session, project_id, document)
            rows = _in_order(session, project_id)
            check_shots(self.quotas, len(rows))
            name = numbered(shot.name, {row.name for row in rows})
            document["name"] = name
            row = ShotRow(project_id=project_id, name=name, head=1)
            at = next((index + 1 for index, each in enumerate(rows) if each.id == after), len(rows))
            _number(session, [*rows[:at], row, *rows[at:]])
            session.flush()
            session.add(RevisionRow(shot_id=row.id or 0, number=1, document=document, label=label, author=author))
            session.commit()
            return row.id or 0

    def move_shot(self, shot_id: int, before: int | None) -> None:
        """Put a shot before another of its project, or last; raises `NotFoundError`."""
        with Session(self.engine) as session:
            row = _held(session, shot_id)
            rest = [each for each in _in_order(session, row.project_id) if each.id != shot_id]
            at = len(rest)
            if before is not None:
                at = next((index for index, each in enumerate(rest) if each.id == before), -1)
                if at < 0:
                    raise NotFoundError(f"there is no shot {before} in this project to stand before")
            _number(session, [*rest[:at], row, *rest[at:]])
            session.commit()

    def bin_shot(self, shot_id: int, into: bool) -> None:
        """Put a shot into its project's bin, or take it out; raises `NotFoundError`."""
        with Session(self.engine) as session:
            row = _held(session, shot_id)
            row.binned = (row.binned or now()) if into else None
            session.add(row)
            session.commit()

    def delete_shot(self, shot_id: int, name: str) -> None:
        """Delete a shot that lies in the bin for good; `name` says once more which. Raises `NameTakenError` or `NotFoundError`."""
        with Session(self.engine) as session:
            row = _held(session, shot_id)
            if row.binned is None:
                raise NameTakenError(f"“{row.name}” is not in the bin")
            if row.name != name:
                raise NameTakenError(f"“{name}” is not the name of this shot, which is “{row.name}”")
            delete_shots(session, [shot_id])
            session.commit()

    def without_picture(self) -> list[tuple[int, int]]:
        """Shots that are in sight and have no picture, in their order: id and current revision."""
        with Session(self.engine) as session:
            chosen = (
                select(ShotRow.id, ShotRow.head)
                .join(ProjectRow, col(ShotRow.project_id) == col(ProjectRow.id))
                .where(
                    col(ShotRow.picture).is_(None), col(ShotRow.binned).is_(None), col(ProjectRow.put_away).is_(None)
                )
                .order_by(col(ShotRow.project_id), col(ShotRow.place))
            )
            return [(number or 0, head) for number, head in session.exec(chosen).all()]

    def picture_of(self, shot_id: int) -> str | None:
        """The digest of a shot's small picture, where it has one; raises `NotFoundError`."""
        with Session(self.engine) as session:
            row = session.get(ShotRow, shot_id)
            if row is None:
                raise NotFoundError(f"there is no shot {shot_id}")
            return row.picture

    def keep_picture(self, shot_id: int, picture: str, revision: int) -> None:
        """Remember the digest of a small picture of one of a shot's revisions, unless there is one of a newer."""
        with Session(self.engine) as session:
            row = _held(session, shot_id)
            if revision >= row.picture_revision:
                row.picture, row.picture_revision = picture, revision
                session.add(row)
            session.commit()


def _held(session: Session, shot_id: int) -> ShotRow:
    """A shot whose project's list is held until the transaction ends; raises `NotFoundError`."""
    held = session.exec(
        text("SELECT pg_advisory_xact_lock(72032, project_id) FROM shots WHERE id = :shot").bindparams(shot=shot_id)  # type: ignore[call-overload]
    ).first()
    row = session.get(ShotRow, shot_id)
    if held is None or row is None:
        raise NotFoundError(f"there is no shot {shot_id}")
    return row


def _in_order(session: Session, project_id: int) -> list[ShotRow]:
    chosen = select(ShotRow).where(ShotRow.project_id == project_id)
    return list(session.exec(chosen.order_by(col(ShotRow.place), col(ShotRow.id))).all())


def _number(session: Session, rows: list[ShotRow]) -> None:
    """Give rows their places, by their order."""
    for place, row in enumerate(rows, start=1):
        if row.place != place:
            row.place = place
            session.add(row)
