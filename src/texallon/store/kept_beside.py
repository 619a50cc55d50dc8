"""What is kept beside the shots: snapshots of their pictures, and the names of the files in the folder."""

import threading
from collections.abc import Iterable, Iterator
from contextlib import contextmanager

from sqlalchemy import Engine, func
from sqlmodel import Session, col, select

from texallon.store.quotas import NO_QUOTAS, Quotas, check_files
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

    def __init__(self, engine: Engine, quotas: Quotas = NO_QUOTAS) -> None:
        self.engine, self.quotas = engine, quotas
        self._keeping = threading.Lock()

    @contextmanager
    def keeping_file(self, size: int, author: str) -> Iterator[None]:
        """Within this block a file is put into the folder and remembered, one at a time; raises `QuotaError` before where there is no room."""
        with self._keeping:
            if self.quotas.files or self.quotas.files_of_one:
                with Session(self.engine) as session:
                    total = select(func.coalesce(func.sum(col(FileRow.size)), 0))
                    kept = int(session.exec(total).one())
                    of_one = int(session.exec(total.where(FileRow.author == author)).one())
                check_files(self.quotas, size, kept, of_one, author)
            yield

    def add_snapshot(self, shot_id: int, revision: int, name: str, samples: int, picture: str, author: str = "") -> int:
        """Keep a picture of a revision; gives the snapshot's id."""
        with Session(self.engine) as session:
            revision_of(session, shot_id, revision)
            row = SnapshotRow(
                shot_id=shot_id, revision=revision, name=name, samples=samples, picture=picture, author=author
            )
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

    def rename_snapshot(self, shot_id: int, snapshot_id: int, name: str) -> None:
        """Call a snapshot otherwise; raises `NotFoundError`."""
        with Session(self.engine) as session:
            row = session.get(SnapshotRow, snapshot_id)
            if row is None or row.shot_id != shot_id:
                raise NotFoundError(f"there is no snapshot {snapshot_id} of this shot")
            row.name = name
            session.add(row)
            session.commit()

    def remember_file(self, sha256: str, name: str, kind: str, size: int, author: str = "") -> None:
        """Note a file of the folder; one that is brought in again stays that of whoever was first."""
        with Session(self.engine) as session:
            known = session.get(FileRow, sha256)
            first = known.author if known is not None else author
            session.merge(FileRow(sha256=sha256, name=shortened(name, 200), kind=kind, size=size, author=first))
            session.commit()

    def files_of_kinds(self, kinds: Iterable[str]) -> list[FileRow]:
        """All files of some kinds, by name."""
        with Session(self.engine) as session:
            return list(session.exec(select(FileRow).where(col(FileRow.kind).in_(kinds)).order_by(FileRow.name)).all())
