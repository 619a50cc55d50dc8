"""Revisions in PostgreSQL: undo without end, and no edit lost or merged in silence."""

import json
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy.exc import IntegrityError
from sqlmodel import Session, SQLModel, col, select

from tests.conftest import World
from texallon.core.document import DocumentError
from texallon.load_demo import load_demo
from texallon.store.database import connect, migrate
from texallon.store.files import FileStore
from texallon.store.postgres import PrivatePostgres
from texallon.store.shots import NotFoundError, NothingToDoError, ShotStore, StaleError
from texallon.store.tables import RevisionRow


def title(text: str) -> list[dict[str, Any]]:
    return [{"op": "replace", "path": "/title", "value": text}]


def test_the_migrations_make_the_tables_that_the_code_expects(world: World) -> None:
    migrate(world.engine)
    with world.engine.connect() as connection:
        assert compare_metadata(MigrationContext.configure(connection), SQLModel.metadata) == []


def test_undo_and_redo_walk_the_whole_history(world: World, fresh_shot: int) -> None:
    store = world.store
    for number, text in enumerate(["a", "b", "c", "d"], start=1):
        store.edit(fresh_shot, number, title(text), f"title {text}")
    seen = []
    current = store.current(fresh_shot)
    while current.can_undo:
        current = store.undo(fresh_shot, current.revision)
        seen.append(current.document["title"])
    assert seen == ["c", "b", "a", "basin at thaw"]
    with pytest.raises(NothingToDoError, match="nothing to undo"):
        store.undo(fresh_shot, current.revision)
    again = []
    while current.can_redo:
        assert current.redo_label.startswith("title ")
        current = store.redo(fresh_shot, current.revision)
        again.append(current.document["title"])
    assert again == ["a", "b", "c", "d"]
    with pytest.raises(NothingToDoError):
        store.redo(fresh_shot, current.revision)


def test_a_new_edit_after_undo_begins_a_new_future_and_loses_nothing(world: World, fresh_shot: int) -> None:
    store = world.store
    store.edit(fresh_shot, 1, title("a"), "")
    store.undo(fresh_shot, 2)
    current = store.edit(fresh_shot, 3, title("b"), "")
    assert (current.document["title"], current.can_redo) == ("b", False)
    assert store.undo(fresh_shot, 4).document["title"] == "basin at thaw"
    assert store.document(fresh_shot, 2)["title"] == "a", "every revision is kept"


def test_history_survives_a_new_connection(world: World, fresh_shot: int) -> None:
    world.store.edit(fresh_shot, 1, title("kept"), "")
    other = connect(world.url)
    again = ShotStore(other)
    assert again.current(fresh_shot).document["title"] == "kept"
    assert again.undo(fresh_shot, 2).document["title"] == "basin at thaw"
    other.dispose()


def test_a_stale_edit_is_refused_and_changes_nothing(world: World, fresh_shot: int) -> None:
    world.store.edit(fresh_shot, 1, title("first"), "")
    with pytest.raises(StaleError) as caught:
        world.store.edit(fresh_shot, 1, title("second"), "")
    assert (caught.value.based_on, caught.value.current) == (1, 2)
    assert world.store.current(fresh_shot).document["title"] == "first"


def test_of_edits_at_the_same_moment_one_wins(world: World, fresh_shot: int) -> None:
    def attempt(number: int) -> bool:
        try:
            world.store.edit(fresh_shot, 1, title(f"by {number}"), "")
        except (StaleError, IntegrityError):
            return False
        return True

    with ThreadPoolExecutor(8) as pool:
        assert sum(pool.map(attempt, range(16))) == 1
    assert world.store.current(fresh_shot).revision == 2


def test_an_edit_that_would_break_the_document_changes_nothing(world: World, fresh_shot: int) -> None:
    broken = [{"op": "replace", "path": "/looks/0/layers/1/where/steps/1/params/ease", "value": "bouncy"}]
    with pytest.raises(DocumentError) as caught:
        world.store.edit(fresh_shot, 1, broken, "")
    assert caught.value.problems[0].pointer == "/looks/0/layers/1/where/steps/1/params/ease"
    assert world.store.current(fresh_shot).revision == 1


def test_an_edit_that_changes_nothing_adds_no_revision(world: World, fresh_shot: int) -> None:
    assert world.store.edit(fresh_shot, 1, title("basin at thaw"), "").revision == 1


def test_restoring_is_a_change_that_can_be_undone(world: World, fresh_shot: int) -> None:
    store = world.store
    store.edit(fresh_shot, 1, title("later"), "")
    store.add_snapshot(fresh_shot, 1, "before", 8, "0" * 64)
    restored = store.restore(fresh_shot, 2, store.snapshots(fresh_shot)[0].revision, "restore")
    assert restored.document["title"] == "basin at thaw"
    assert store.undo(fresh_shot, 3).document["title"] == "later"


def test_names_in_use_get_a_number(world: World, demo_folder: Path) -> None:
    document = json.loads((demo_folder / "GH010.json").read_text())
    names = {world.store.current(world.store.add_shot("names", document, "")).document["name"] for _ in range(3)}
    assert names == {"GH010", "GH010 2", "GH010 3"}


def test_what_is_not_there_is_said(world: World) -> None:
    with pytest.raises(NotFoundError, match="no shot 99999"):
        world.store.current(99999)


def test_the_demo_is_loaded_once(world: World) -> None:
    assert load_demo(world.store, world.files) is False
    assert sum(shot.project == "Midwinter Glasshouse" for shot in world.store.list_shots()) >= 1


def test_revisions_hold_whole_documents(world: World, fresh_shot: int) -> None:
    world.store.edit(fresh_shot, 1, title("x"), "the title")
    with Session(world.engine) as session:
        rows = session.exec(
            select(RevisionRow).where(RevisionRow.shot_id == fresh_shot).order_by(col(RevisionRow.number))
        ).all()
    assert [row.number for row in rows] == [1, 2]
    assert rows[1].patch == title("x")
    assert world.store.revisions(fresh_shot, 10)[0][:2] == (2, "the title")


def test_a_file_is_kept_once_under_its_digest(tmp_path: Path) -> None:
    files = FileStore(tmp_path / "files")
    assert files.put(b"abc", ".bin") == files.put(b"abc", ".bin")
    # FIPS 180-2, appendix B.1: SHA-256 of "abc".
    assert files.put(b"abc", ".bin") == "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad"
    assert len(list(files.folder.iterdir())) == 1


def test_a_stopped_database_starts_again_with_what_it_held(world: World) -> None:
    folder = world.data / "another"
    private = PrivatePostgres(folder)
    engine = connect(private.start())
    migrate(engine)
    engine.dispose()
    private.stop()
    engine = connect(private.start())
    assert ShotStore(engine).list_shots() == []
    engine.dispose()
    private.stop()
