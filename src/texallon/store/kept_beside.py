"""What is kept beside the shots: snapshots of their pictures, and the names of the files in the folder."""

from collections.abc import Iterable

from sqlalchemy import Engine
from sqlmodel import Session, col, select

from texallon.store.records import NotFoundError
from texallon.store.revisions import current_of, revision_of
from texallon.store.tables import FileRow, SnapshotRow


def shortened(name: str, most: int) -> str:
    """A file's name of at most so many characters, its ending kept, without what is no character of a name.

    >>> shortened("x" * 300 + ".ply", 12)
    'xxxxxxxx.ply'
    """
    plain = "".join(each for each in name if each.isprintable())
    stem, dot, ending = plain.rpartition(".")
    if not dot or len(ending) > 8:
        return plain[:most]
    return f"{stem[: most - len(ending) - 1]}.{ending}"


class KeptBeside:
    """Snapshots and files, as far as the database knows them."""

    def __init__(self, engine: Engine) -> None:
        self.engine = engine

    def add_snapshot(self, shot_id: int, revision: int, name: str, samples: int, picture: str) -> int:
        """Keep a picture of a revision; gives the snapshot's id."""
        with Session(self.engine) as session:
            revision_of(session, shot_id, revision)
            row = SnapshotRow(shot_id=shot_id, revision=revision, name=name, samples=samples, picture=picture)
            session.add(row)
            session.commit()
            return row.id or 0

    def snapshots(self, shot_id: int) -> list[SnapshotRow]:
        """A shot's snapshots, oldest first."""
        with Session(self.engine) as session:
            current_of(session, shot_id)
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
            session.merge(FileRow(sha256=sha256, name=shortened(name, 200), kind=kind, size=size))
            session.commit()

    def files_of_kinds(self, kinds: Iterable[str]) -> list[FileRow]:
        """All files of some kinds, by name."""
        with Session(self.engine) as session:
            return list(session.exec(select(FileRow).where(col(FileRow.kind).in_(kinds)).order_by(FileRow.name)).all())
