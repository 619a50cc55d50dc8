"""Projects: what there is, and making, naming, copying, putting away and deleting them."""

from sqlalchemy import delete, func, text
from sqlmodel import Session, col, select

from texallon.store.kept_beside import KeptBeside
from texallon.store.records import ListedProject, NotFoundError
from texallon.store.revisions import revision_of
from texallon.store.tables import ProjectRow, RevisionRow, ShotRow, SnapshotRow, now

ONE_AT_A_TIME = "SELECT pg_advisory_xact_lock(72033)"
"""Held while names are given: two of one name at once would both find it free."""

LONGEST_NAME = 80


class NameTakenError(ValueError):
    """A name that another has already."""


class Projects(KeptBeside):
    """All that is done with projects in the database."""

    def list_projects(self) -> list[ListedProject]:
        """All projects, oldest first, those that are put away among them."""
        with Session(self.engine) as session:
            shots = session.exec(select(ShotRow).order_by(col(ShotRow.place), col(ShotRow.id))).all()
            there: dict[int, list[ShotRow]] = {}
            for shot in shots:
                there.setdefault(shot.project_id, []).append(shot)
            result = []
            for row in session.exec(select(ProjectRow).order_by(col(ProjectRow.id))).all():
                own = there.get(row.id or 0, [])
                shown = [shot for shot in own if shot.binned is None]
                result.append(
                    ListedProject(
                        row.id or 0,
                        row.name,
                        len(shown),
                        len(own) - len(shown),
                        shown[0].id if shown else None,
                        next((shot.picture for shot in shown if shot.picture), None),
                        row.put_away.isoformat() if row.put_away else None,
                        row.created.isoformat(),
                    )
                )
            return result

    def make_project(self, name: str) -> int:
        """A new project without shots; a name in use gets a number after it. Gives its id."""
        with Session(self.engine) as session:
            session.exec(text(ONE_AT_A_TIME))  # type: ignore[call-overload]
            row = ProjectRow(name=_free_name(session, name))
            session.add(row)
            session.commit()
            return row.id or 0

    def project_name(self, project_id: int) -> str:
        """A project's name; raises `NotFoundError`."""
        with Session(self.engine) as session:
            return _project(session, project_id).name

    def rename_project(self, project_id: int, name: str) -> None:
        """Another name for a project; raises `NameTakenError` for one that another has, or `NotFoundError`."""
        with Session(self.engine) as session:
            session.exec(text(ONE_AT_A_TIME))  # type: ignore[call-overload]
            row = _project(session, project_id)
            taken = session.exec(select(ProjectRow).where(ProjectRow.name == name, ProjectRow.id != project_id)).first()
            if taken is not None:
                raise NameTakenError(f"there is a project “{name}” already")
            row.name = name
            session.add(row)
            session.commit()

    def put_away(self, project_id: int, away: bool) -> None:
        """Take a project out of the way, or bring it back; nothing of it changes."""
        with Session(self.engine) as session:
            row = _project(session, project_id)
            row.put_away = now() if away else None
            session.add(row)
            session.commit()

    def duplicate_project(self, project_id: int, name: str, author: str = "") -> int:
        """A new project with copies of a project's shots as they are now, each with one revision; gives its id."""
        with Session(self.engine) as session:
            session.exec(text(ONE_AT_A_TIME))  # type: ignore[call-overload]
            source = _project(session, project_id)
            session.exec(text("SELECT pg_advisory_xact_lock(72032, :project)").bindparams(project=project_id))  # type: ignore[call-overload]
            copy = ProjectRow(name=_free_name(session, name))
            session.add(copy)
            session.flush()
            chosen = select(ShotRow).where(ShotRow.project_id == project_id, col(ShotRow.binned).is_(None))
            for shot in session.exec(chosen.order_by(col(ShotRow.place), col(ShotRow.id))).all():
                document = revision_of(session, shot.id or 0, shot.head).document
                row = ShotRow(
                    project_id=copy.id or 0,
                    name=shot.name,
                    head=1,
                    place=shot.place,
                    picture=shot.picture,
                    picture_revision=1 if shot.picture_revision == shot.head else 0,
                )
                session.add(row)
                session.flush()
                label = f"copied from {source.name}"[:200]
                session.add(
                    RevisionRow(shot_id=row.id or 0, number=1, document=document, label=label, author=author[:80])
                )
            session.commit()
            return copy.id or 0

    def delete_project(self, project_id: int, name: str) -> None:
        """Delete a project with all its shots for good; `name` says once more which. Raises `NameTakenError` where it is another's."""
        with Session(self.engine) as session:
            session.exec(text("SELECT pg_advisory_xact_lock(72032, :project)").bindparams(project=project_id))  # type: ignore[call-overload]
            row = _project(session, project_id)
            if row.name != name:
                raise NameTakenError(f"“{name}” is not the name of this project, which is “{row.name}”")
            numbers = session.exec(select(ShotRow.id).where(ShotRow.project_id == project_id)).all()
            delete_shots(session, [number for number in numbers if number is not None])
            session.delete(row)
            session.commit()


def delete_shots(session: Session, numbers: list[int]) -> None:
    """Take shots out of the database with all that belongs to them; whoever calls commits."""
    session.execute(delete(SnapshotRow).where(col(SnapshotRow.shot_id).in_(numbers)))
    session.execute(delete(RevisionRow).where(col(RevisionRow.shot_id).in_(numbers)))
    session.execute(delete(ShotRow).where(col(ShotRow.id).in_(numbers)))


def count_shots(session: Session, project_id: int) -> int:
    """How many shots a project has, those in its bin among them."""
    return int(session.exec(select(func.count(col(ShotRow.id))).where(ShotRow.project_id == project_id)).one())


def numbered(name: str, taken: set[str]) -> str:
    """A name that is not taken: the same, or with a number after it.

    >>> numbered("GH010", {"GH010", "GH010 2"})
    'GH010 3'
    """
    free, number = name, 2
    while free in taken:
        free, number = f"{name[: LONGEST_NAME - 10]} {number}", number + 1
    return free


def _free_name(session: Session, name: str) -> str:
    return numbered(name, set(session.exec(select(ProjectRow.name)).all()))


def _project(session: Session, project_id: int) -> ProjectRow:
    row = session.get(ProjectRow, project_id)
    if row is None:
        raise NotFoundError(f"there is no project {project_id}")
    return row
