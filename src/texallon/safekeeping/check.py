"""Looking whether a data folder is whole: every shot reads, and every file that it names is there, unchanged."""

from pathlib import Path
from typing import Any

from sqlmodel import Session, col, select

from texallon.core.document import DocumentError
from texallon.formats.file_digest import digest_of
from texallon.formats.references import references
from texallon.store.database import connect
from texallon.store.files import FileStore
from texallon.store.revisions import checked, revision_of
from texallon.store.tables import FileRow, ShotRow, SnapshotRow


def check(url: str, data: Path) -> list[str]:
    """What is wrong, a line for each; none where all is whole."""
    files = FileStore(data / "files")
    engine = connect(url)
    found: list[str] = []
    wanted: dict[str, str] = {}
    try:
        with Session(engine) as session:
            for shot in session.exec(select(ShotRow).order_by(col(ShotRow.id))).all():
                try:
                    _, document = checked(revision_of(session, shot.id or 0, shot.head).document)
                except LookupError:
                    found.append(f"shot {shot.name}: its current revision {shot.head} is missing")
                    continue
                except DocumentError as error:
                    found.append(f"shot {shot.name}: revision {shot.head} is not valid: {error.problems[0]}")
                    continue
                wanted |= dict.fromkeys(_digests(document), f"shot {shot.name}")
            for row in session.exec(select(FileRow)).all():
                wanted.setdefault(row.sha256, f"file {row.name}")
            for snapshot in session.exec(select(SnapshotRow)).all():
                wanted.setdefault(snapshot.picture, f"snapshot {snapshot.name}")
                try:
                    revision_of(session, snapshot.shot_id, snapshot.revision)
                except LookupError as error:
                    found.append(f"snapshot {snapshot.name}: {error}")
    finally:
        engine.dispose()
    there = {path.name.split(".")[0]: path for path in files.folder.iterdir()}
    for digest, who in sorted(wanted.items(), key=lambda pair: pair[1]):
        path = there.get(digest)
        if path is None:
            found.append(f"{who}: the file {digest} is missing")
        elif digest_of(path) != digest:
            found.append(f"{who}: the file {path.name} is damaged: its contents do not have the digest of its name")
    return found


def _digests(document: Any) -> set[str]:
    """The SHA-256 of every file that a document names."""
    return {ref["sha256"] for ref in references(document) if ref.get("sha256")}
