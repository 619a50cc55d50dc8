"""Revisions in PostgreSQL: undo without end, and no edit lost or merged in silence."""

import errno
import json
import shutil
import uuid
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy.exc import IntegrityError, OperationalError
from sqlmodel import Session, SQLModel, col, select

from tests.conftest import World
from texallon.core.document import DocumentError
from texallon.load_demo import load_demo
from texallon.store.database import connect, migrate
from texallon.store.files import DiskFullError, FileStore
from texallon.store.postgres import PrivatePostgres
from texallon.store.records import AskFirstError, ConflictError, NotFoundError, NothingToDoError, StaleError
from texallon.store.shots import ShotStore
from texallon.store.tables import ProjectRow, RevisionRow, ShotRow


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
        current = store.undo(fresh_shot)
        seen.append(current.document["title"])
    assert seen == ["c", "b", "a", "basin at thaw"]
    with pytest.raises(NothingToDoError, match="nothing to undo"):
        store.undo(fresh_shot)
    again = []
    while current.can_redo:
        assert current.redo_label.startswith("title ")
        current = store.redo(fresh_shot)
        again.append(current.document["title"])
    assert again == ["a", "b", "c", "d"]
    with pytest.raises(NothingToDoError):
        store.redo(fresh_shot)


def test_a_new_edit_after_undo_begins_a_new_future_and_loses_nothing(world: World, fresh_shot: int) -> None:
    store = world.store
    store.edit(fresh_shot, 1, title("a"), "")
    store.undo(fresh_shot)
    current = store.edit(fresh_shot, 3, title("b"), "")
    assert (current.document["title"], current.can_redo) == ("b", False)
    assert store.undo(fresh_shot).document["title"] == "basin at thaw"
    assert store.document(fresh_shot, 2)["title"] == "a", "every revision is kept"


def test_history_survives_a_new_connection(world: World, fresh_shot: int) -> None:
    world.store.edit(fresh_shot, 1, title("kept"), "")
    other = connect(world.url)
    again = ShotStore(other)
    assert again.current(fresh_shot).document["title"] == "kept"
    assert again.undo(fresh_shot).document["title"] == "basin at thaw"
    other.dispose()


@pytest.mark.parametrize("number", [0, 3, 99])
def test_a_change_to_a_revision_that_never_was_is_refused(world: World, fresh_shot: int, number: int) -> None:
    world.store.edit(fresh_shot, 1, title("first"), "")
    with pytest.raises(StaleError) as caught:
        world.store.edit(fresh_shot, number, title("second"), "")
    assert (caught.value.based_on, caught.value.current) == (number, 2)
    assert world.store.current(fresh_shot).document["title"] == "first"


def test_of_edits_to_one_thing_at_the_same_moment_one_wins(world: World, fresh_shot: int) -> None:
    def attempt(number: int) -> bool:
        try:
            world.store.edit(fresh_shot, 1, title(f"by {number}"), "")
        except ConflictError:
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
    assert store.undo(fresh_shot).document["title"] == "later"


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


def test_shots_that_came_with_a_later_version_are_added(
    world: World, demo_folder: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    from texallon import load_demo as module
    from texallon.demo.write import SHOTS

    paths = [demo_folder / "GH010.json", demo_folder / "GH020.json"]
    monkeypatch.delenv("TEXALLON_DEMO")  # made anew, as the older version would
    monkeypatch.setattr(module, "SHOTS", SHOTS[:2])
    monkeypatch.setattr(module, "write_demo", lambda folder: paths)
    mine = world.store.add_shot("an older demo", json.loads(paths[0].read_text()), "")
    world.store.edit(mine, 1, title("my own"), "work")
    assert load_demo(world.store, world.files, "an older demo") is True
    shots = [shot for shot in world.store.list_shots() if shot.project == "an older demo"]
    assert sorted(shot.name for shot in shots) == ["GH010", "GH020"]
    assert world.store.current(mine).document["title"] == "my own", "what was there is left alone"
    assert load_demo(world.store, world.files, "an older demo") is False


def test_revisions_hold_whole_documents(world: World, fresh_shot: int) -> None:
    world.store.edit(fresh_shot, 1, title("x"), "the title")
    with Session(world.engine) as session:
        rows = session.exec(
            select(RevisionRow).where(RevisionRow.shot_id == fresh_shot).order_by(col(RevisionRow.number))
        ).all()
    assert [row.number for row in rows] == [1, 2]
    assert rows[1].patch == title("x")
    newest = world.store.revisions(fresh_shot, 10)[0]
    assert (newest.number, newest.label, newest.words) == (2, "the title", "title basin at thaw → x")


def test_a_file_is_kept_once_under_its_digest(tmp_path: Path) -> None:
    files = FileStore(tmp_path / "files")
    assert files.put(b"abc", ".bin") == files.put(b"abc", ".bin")
    # FIPS 180-2, appendix B.1: SHA-256 of "abc".
    assert files.put(b"abc", ".bin") == "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad"
    assert len(list(files.folder.iterdir())) == 1


def test_a_full_disk_takes_no_file_and_leaves_nothing(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    files = FileStore(tmp_path / "files")
    monkeypatch.setattr("shutil.disk_usage", lambda _: shutil._ntuple_diskusage(10**9, 10**9 - 1000, 1000))
    with pytest.raises(DiskFullError, match=r"the disk is full: 5\.0 MB are needed, 0\.0 MB are free"):
        files.put(b"x" * 5_000_000, ".bin")
    monkeypatch.undo()

    def fails(*_: object) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr("os.fsync", fails)
    with pytest.raises(DiskFullError):
        files.put(b"abc", ".bin")
    assert list(files.folder.iterdir()) == []


def test_what_is_half_written_is_swept(tmp_path: Path) -> None:
    files = FileStore(tmp_path / "files")
    digest = files.put(b"abc", ".bin")
    (files.folder / ".part-left").write_bytes(b"ab")
    assert files.sweep() == [".part-left"]
    assert [path.name for path in files.folder.iterdir()] == [f"{digest}.bin"]


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


# Signals that a project shares -----------------------------------------------------------------------------------


@pytest.fixture
def two_shots(world: World, demo_folder: Path) -> tuple[int, int]:
    """Two shots of one project, which share their signals."""
    project = f"sharing {uuid.uuid4().hex}"
    first = json.loads((demo_folder / "GH010.json").read_text())
    second = json.loads((demo_folder / "GH070.json").read_text())
    return world.store.add_shot(project, first, ""), world.store.add_shot(project, second, "")


def names_of(world: World, shot: int) -> list[str]:
    return [signal["name"] for signal in world.store.current(shot).document["signals"]]


def test_a_changed_signal_changes_in_every_shot_of_the_project_and_undo_takes_it_back(
    world: World, two_shots: tuple[int, int]
) -> None:
    store, (first, second) = world.store, two_shots
    other = store.add_shot("another project", store.current(first).document, "")
    change = [{"op": "replace", "path": "/signals/0/recipe/steps/0/params/size", "value": 0.5}]
    edited = store.edit(first, 1, change, "coarser splashes")
    assert edited.also == (second,)
    for shot in two_shots:
        assert store.current(shot).document["signals"][0]["recipe"]["steps"][0]["params"]["size"] == 0.5
    assert not store.current(second).can_undo, "it was not made there"
    assert store.current(other).document["signals"][0]["recipe"]["steps"][0]["params"]["size"] == 0.16
    with pytest.raises(NothingToDoError):
        store.undo(second)
    with pytest.raises(AskFirstError) as asked:
        store.undo(first)
    assert {(use.shot, use.where) for use in asked.value.touches} >= {("GH070", "wet · where")}
    undone = store.undo(first, anyway=True)
    assert undone.also == (second,)
    for shot in two_shots:
        assert store.current(shot).document["signals"][0]["recipe"]["steps"][0]["params"]["size"] == 0.16
    store.redo(first, anyway=True)
    assert store.current(second).document["signals"][0]["recipe"]["steps"][0]["params"]["size"] == 0.5


def test_a_change_that_would_break_another_shot_is_refused_whole_and_names_it(
    world: World, two_shots: tuple[int, int]
) -> None:
    store, (first, second) = world.store, two_shots
    index = names_of(world, second).index("bowl")  # GH010 uses it, GH070 does not
    with pytest.raises(DocumentError, match="GH010: there is no signal “bowl”"):
        store.edit(second, 1, [{"op": "remove", "path": f"/signals/{index}"}], "")
    assert store.current(first).revision == store.current(second).revision == 1


def test_a_loop_through_signals_is_refused(world: World, two_shots: tuple[int, int]) -> None:
    loop = {"op": "signal", "params": {"signal": "waterline wetness"}}
    with pytest.raises(DocumentError, match="go round in a circle"):
        world.store.edit(two_shots[0], 1, [{"op": "replace", "path": "/signals/0/recipe/steps", "value": [loop]}], "")


def test_uses_are_listed_for_all_shots(world: World, two_shots: tuple[int, int]) -> None:
    uses = world.store.signal_uses(two_shots[0])
    places = {(use.shot, use.look, use.where) for use in uses["waterline wetness"]}
    edges = {(shot, "wet edge", "wet · where") for shot in ("GH010", "GH070")}
    assert places == edges, "three looks carry it, and it stands in one, in either shot"
    assert {use.where for use in uses["splash noise"]} == {"wet · where", "signal waterline wetness"}


def test_a_signal_gets_another_name_everywhere(world: World, two_shots: tuple[int, int]) -> None:
    store, (first, second) = world.store, two_shots
    store.rename_signal(first, "splash noise", "splashes")
    for shot in two_shots:
        assert "splashes" in names_of(world, shot)
    wet = next(layer for layer in store.current(first).document["looks"][0]["layers"] if layer["name"] == "wet")
    assert wet["where"]["steps"][2]["params"]["by"]["signal"] == "splashes"
    with pytest.raises(DocumentError, match="already"):
        store.rename_signal(first, "splashes", "bowl")
    with pytest.raises(NotFoundError, match="no signal"):
        store.rename_signal(first, "gone", "x")
    store.undo(first, anyway=True)
    assert "splash noise" in names_of(world, second)


def test_a_signal_is_written_out_where_it_is_used_in_every_shot(world: World, two_shots: tuple[int, int]) -> None:
    store, (first, second) = world.store, two_shots
    store.inline_signal(first, "waterline wetness")
    assert all("waterline wetness" not in names_of(world, shot) for shot in two_shots)
    edge = next(look for look in store.current(second).document["looks"] if look["name"] == "wet edge")
    wet = next(layer for layer in edge["layers"] if layer["name"] == "wet")
    assert [step["op"] for step in wet["where"]["steps"]] == ["height", "remap", "multiply"]
    assert wet["where"]["steps"][0]["params"]["origin"] == {"locator": "pond level"}, "its stand-in stays"


def test_a_new_shot_brings_its_signals_to_the_project_and_takes_those_that_are_there(
    world: World, two_shots: tuple[int, int]
) -> None:
    store = world.store
    document = json.loads(json.dumps(store.current(two_shots[0]).document))
    document["name"] = "GH500"
    document["signals"].append({"name": "rust", "recipe": {"steps": [{"op": "noise", "params": {"seed": 5}}]}})
    document["signals"][1]["recipe"] = {"steps": [{"op": "constant", "params": {"value": 1}}]}
    with Session(world.engine) as session:
        row = session.get(ShotRow, two_shots[0])
        assert row is not None
        owner = session.get(ProjectRow, row.project_id)
        assert owner is not None
        project = owner.name
    third = store.add_shot(project, document, "")
    for shot in (*two_shots, third):
        assert {"rust", "bowl", "bowl 2"} <= set(names_of(world, shot)), "one made differently gets a name of its own"
    below = next(each for each in store.current(third).document["looks"][0]["layers"] if each["name"] == "below water")
    assert below["where"]["steps"][2]["params"]["by"]["signal"] == "bowl 2"


def test_two_shots_that_change_signals_at_once_do_not_lose_one(world: World, two_shots: tuple[int, int]) -> None:
    def change(number: int) -> bool:
        patch = [
            {"op": "add", "path": "/signals/-", "value": {"name": f"s{number}", "recipe": {"steps": [{"op": "noise"}]}}}
        ]
        try:
            world.store.edit(two_shots[number % 2], 1, patch, "")
        except (StaleError, IntegrityError, OperationalError):
            return False
        return True

    with ThreadPoolExecutor(4) as pool:
        won = sum(pool.map(change, range(8)))
    assert won >= 1
    assert names_of(world, two_shots[0]) == names_of(world, two_shots[1])
    assert len([name for name in names_of(world, two_shots[0]) if name.startswith("s") and name[1:].isdigit()]) == won


# Numbers that a project shares -----------------------------------------------------------------------------------


def numbers_of(world: World, shot: int) -> dict[str, float]:
    return {each["name"]: each["value"] for each in world.store.current(shot).document["numbers"]}


def test_a_number_of_the_project_is_one_in_all_its_shots(world: World, two_shots: tuple[int, int]) -> None:
    store, (first, second) = world.store, two_shots
    own = [{"op": "add", "path": "/numbers/-", "value": {"name": "of this shot", "value": 1}}]
    store.edit(second, 1, own, "")
    value = {"name": "chill", "value": 0.5, "project": True}
    made = store.edit(first, 1, [{"op": "add", "path": "/numbers/-", "value": value}], "a number")
    assert made.also == (second,)
    at = next(index for index, each in enumerate(made.document["numbers"]) if each["name"] == "chill")
    environment = [
        {"op": "add", "path": "/number_uses/-", "value": {"at": "/environment/intensity", "number": "chill"}}
    ]
    store.edit(second, store.current(second).revision, environment, "")
    edited = store.edit(first, made.revision, [{"op": "replace", "path": f"/numbers/{at}/value", "value": 0.75}], "")
    assert edited.also == (second,)
    assert numbers_of(world, second) == {"of this shot": 1, "chill": 0.75}
    assert "of this shot" not in numbers_of(world, first)
    with pytest.raises(AskFirstError) as asked:
        store.undo(first)
    assert ("GH070", "the project's number chill") in {(use.shot, use.where) for use in asked.value.touches}
    store.undo(first, anyway=True)
    assert numbers_of(world, first)["chill"] == numbers_of(world, second)["chill"] == 0.5
    with pytest.raises(DocumentError, match="GH070: there is no number “chill”"):
        store.edit(first, store.current(first).revision, [{"op": "remove", "path": f"/numbers/{at}"}], "")


def test_a_number_that_another_shot_has_for_its_own_can_not_become_the_projects(
    world: World, two_shots: tuple[int, int]
) -> None:
    store, (first, second) = world.store, two_shots
    store.edit(second, 1, [{"op": "add", "path": "/numbers/-", "value": {"name": "chill", "value": 1}}], "")
    patch = [{"op": "add", "path": "/numbers/-", "value": {"name": "chill", "value": 0.5, "project": True}}]
    with pytest.raises(DocumentError, match="GH070: “chill” stands here for the second time"):
        store.edit(first, 1, patch, "")
    assert "chill" not in numbers_of(world, first)


def test_a_new_shot_takes_the_projects_numbers_and_brings_its_own(world: World, two_shots: tuple[int, int]) -> None:
    store, (first, second) = world.store, two_shots
    with Session(world.engine) as session:
        row = session.get(ShotRow, first)
        owner = session.get(ProjectRow, row.project_id) if row else None
        assert owner is not None
        project = owner.name
    patch = [{"op": "add", "path": "/numbers/-", "value": {"name": "chill", "value": 0.5, "project": True}}]
    document = json.loads(json.dumps(store.edit(first, 1, patch, "").document))
    document["name"] = "GH600"
    document["numbers"] = [
        {"name": "chill", "value": 9.0, "project": True},
        {"name": "wind", "value": 2.0, "project": True},
    ]
    third = store.add_shot(project, document, "")
    for shot in (first, second, third):
        assert numbers_of(world, shot) == {"chill": 0.5, "wind": 2.0}
    document["numbers"] = [{"name": "wind", "value": 1.0}]
    with pytest.raises(DocumentError, match="the project has a number “wind” too"):
        store.add_shot(project, document, "")


def test_a_document_of_an_earlier_program_opens_with_what_was_added_since(world: World, fresh_shot: int) -> None:
    with Session(world.engine) as session:
        row = session.exec(select(RevisionRow).where(RevisionRow.shot_id == fresh_shot)).one()
        without = {key: each for key, each in row.document.items() if key not in ("numbers", "number_uses", "bloom")}
        without["objects"] = [
            {key: each for key, each in item.items() if key != "parts"} for item in without["objects"]
        ]
        row.document = without
        session.add(row)
        session.commit()
    found = world.store.current(fresh_shot).document
    assert found["numbers"] == found["number_uses"] == []
    assert all(item["parts"] == [] for item in found["objects"])
    named = {"op": "add", "path": "/numbers/-", "value": {"name": "chill", "value": 0.3}}
    used = {
        "op": "add",
        "path": "/number_uses/-",
        "value": {"at": "/camera/focal_length", "number": "chill", "times": 100.0},
    }
    assert world.store.edit(fresh_shot, 1, [named, used], "a number").document["number_uses"][0]["number"] == "chill"
