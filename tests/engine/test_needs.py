"""What a shot needs is reckoned before anything is read, and refused with its numbers where it is too much."""

import json
import os
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest
import trimesh

from tests.builders import MadeFiles, document, square
from tests.engine.driven import Driven
from texallon.core.document import read_shot
from texallon.core.document.object import FileRef, Object
from texallon.core.geometry.mesh import Mesh, MeshError
from texallon.core.render.needs import BASE, Needs, TooLargeError, check_needs, held, reckon, volumes_of
from texallon.formats.mesh_file import parse_mesh
from texallon.formats.mesh_size import PIECE, mesh_size
from texallon.formats.shot_files import ShotFiles

BALL = trimesh.creation.icosphere(4)


@pytest.mark.parametrize("kind", ["obj", "ply", "glb"])
def test_the_size_of_a_file_is_found_without_reading_it(tmp_path: Path, kind: str) -> None:
    path = tmp_path / f"ball.{kind}"
    BALL.export(path)
    size = mesh_size(path)
    mesh = parse_mesh(path.read_bytes(), kind)
    assert (size.triangles, size.points) == (len(mesh.faces), len(mesh.vertices)) == (5120, 2562)


def test_the_lines_of_a_long_obj_are_counted_across_its_pieces(tmp_path: Path) -> None:
    line = b"v 0.123456 1.234567 2.345678\n"
    count = 2 * PIECE // len(line) + 5
    path = tmp_path / "long.obj"
    path.write_bytes(line * count + b"f 1 2 3\n" * 7)
    assert mesh_size(path) == (count, 7)


def test_other_files_have_no_size(tmp_path: Path) -> None:
    (tmp_path / "x.step").write_bytes(b"ISO-10303-21")
    with pytest.raises(MeshError, match="not as “step”"):
        mesh_size(tmp_path / "x.step")


def objects(count: int, names: int) -> list[Object]:
    made = [{"name": f"o{k}", "geometry": {"file": f"m{k % names}"}, "look": "plain"} for k in range(count)]
    return [Object.model_validate(each) for each in made]


def test_each_mesh_counts_once_and_each_object() -> None:
    files = MadeFiles(m0=square(), m1=square(2.0))
    needs = reckon(files, objects(500, 2), 1920, 1080)
    assert (needs.meshes, needs.triangles, needs.points, needs.objects, needs.pixels) == (2, 4, 8, 500, 2_073_600)
    more = reckon(files, objects(1, 1), 1920, 1080, passes=True)
    assert more.pixel_bytes > 2 * needs.pixel_bytes
    assert needs.total == BASE + needs.geometry_bytes + needs.object_bytes + needs.pixel_bytes


def test_too_much_is_refused_with_the_numbers() -> None:
    needs = Needs(500, 500_000_000, 250_000_000, 1_000_000, 500, 8_294_400)
    with pytest.raises(TooLargeError, match="500 meshes of 500,000,000 triangles") as refused:
        check_needs(needs, 8_000_000_000)
    assert "may have 8.0" in str(refused.value)
    assert "1.2 GB for 8,294,400 pixels" in str(refused.value)
    check_needs(needs, needs.total)


class Counting(MadeFiles):
    """Files that note what is read."""

    read: list[str] = []

    def mesh(self, ref: FileRef) -> Mesh:
        self.read.append(ref.file)
        return super().mesh(ref)


def shown(session: Driven, kind: str) -> list[dict[str, Any]]:
    return [each for each in session.sent if each["kind"] == kind]


def test_a_window_is_told_and_nothing_is_read(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("texallon.engine.session.machine_limit", lambda: BASE + 30_000)
    files = Counting(m0=square(), m1=square(2.0))
    files.read.clear()
    session = Driven(files)
    made = [each.model_dump(mode="json") for each in objects(5, 2)]
    session.change({"do": "document", "document": document(objects=made), "revision": 1})
    session.change({"do": "view", "width": 32, "height": 18, "show": {"kind": "picture"}})
    session.run()
    reason = shown(session, "problem")[0]["problems"][0]["reason"]
    assert "5 objects" in reason and "576 pixels" in reason
    assert files.read == []
    assert not shown(session, "picture") and not shown(session, "fault")
    # Hidden objects do not count: with one shown it goes.
    for each in made[1:]:
        each["visible"] = False
    monkeypatch.setattr("texallon.engine.session.machine_limit", lambda: BASE + 100_000)
    session.change({"do": "document", "document": document(objects=made), "revision": 2})
    session.run()
    assert shown(session, "picture")
    assert set(files.read) == {"m0"}


@pytest.mark.slow
def test_the_shell_refuses_in_one_line(tmp_path: Path) -> None:
    BALL.export(tmp_path / "ball.ply")
    item = {"name": "o", "geometry": {"file": "ball.ply"}, "look": "plain"}
    (tmp_path / "s.json").write_text(json.dumps(document(objects=[item])))
    command = [sys.executable, "-m", "texallon.cli", "render", "s.json", "--size", "8192x8192", "--out", "x.exr"]
    environment = {**os.environ, "TEXALLON_RENDER_LIMIT": "3000000000"}
    done = subprocess.run(command, capture_output=True, text=True, cwd=tmp_path, env=environment, check=False)
    assert done.returncode == 1
    assert done.stderr.count("\n") == 1
    assert "may have 3.0: " in done.stderr and "67,108,864 pixels" in done.stderr
    assert not (tmp_path / "x.exr").exists()


def test_what_is_reckoned_of_stored_files_is_what_the_document_names(tmp_path: Path) -> None:
    BALL.export(tmp_path / "ball.ply")
    needs = reckon(ShotFiles(root=tmp_path), objects(0, 1), 16, 16)
    assert needs.triangles == 0
    item = Object.model_validate({"name": "o", "geometry": {"file": "ball.ply"}, "look": "plain"})
    assert reckon(ShotFiles(root=tmp_path), [item, item], 16, 16).triangles == 5120


def test_volumes_are_counted_with_their_bricks() -> None:
    mist = {"name": "mist", "domain": "volume", "layers": [{"name": "a"}]}
    box = {"name": "b", "geometry": {"shape": "box"}, "look": "mist"}
    glass = {"name": "g", "geometry": {"shape": "sphere"}, "look": "glass", "filled_with": "mist"}
    document = {
        "schema": 1, "name": "T", "looks": [{"name": "glass", "layers": [{"name": "a"}]}, mist],
        "objects": [box, glass, {**box, "name": "hidden", "visible": False}], "atmosphere": {"look": "mist"},
    }  # fmt: skip
    shot = read_shot(document)
    assert volumes_of(shot) == 3
    files = ShotFiles(root=Path("/nonexistent"))
    none, three = (reckon(files, held(shot.objects), 64, 36, volumes=n) for n in (0, 3))
    assert three.total - none.total == three.volume_bytes > 500_000_000
    with pytest.raises(TooLargeError, match="the bricks of 3 volumes"):
        check_needs(three, none.total + 1000)
