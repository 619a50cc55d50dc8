"""Packs: round trips to equal pictures, held to their published schema, and hostile ones refused with nothing changed."""

import hashlib
import io
import json
import stat
import struct
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import jsonschema
import numpy as np
import pytest

from tests.conftest import World
from texallon.core.document import parse_json, read_shot, shot_json
from texallon.core.document.resolved import resolve
from texallon.core.render.render_frame import render_frame
from texallon.core.signal.schema import shot_schema
from texallon.formats.shot_files import ShotFiles
from texallon.packing.folder import write_folder
from texallon.packing.manifest import MANIFEST, PackError, manifest_schema
from texallon.packing.pack import write_pack
from texallon.packing.unpack import opened_pack
from texallon.packing.with_store import pack_shots, unpack_shots

SHOTS = ("GH020", "GH070")


def packed(folder: Path, names: tuple[str, ...] = SHOTS) -> bytes:
    documents = [shot_json(read_shot(json.loads((folder / f"{name}.json").read_text()))) for name in names]
    out = io.BytesIO()
    write_pack(out, "a film", documents, ShotFiles(root=folder).path)
    return out.getvalue()


@pytest.fixture(scope="module")
def pack(demo_folder: Path) -> bytes:
    return packed(demo_folder)


def picture(document: Any, files: ShotFiles) -> np.ndarray:
    return render_frame(resolve(read_shot(document)), files, 32, 18, 2, 2).picture()


def test_the_same_gives_the_same_bytes(pack: bytes, demo_folder: Path) -> None:
    assert packed(demo_folder) == pack


def test_a_pack_is_what_its_published_schema_says(pack: bytes) -> None:
    with zipfile.ZipFile(io.BytesIO(pack)) as archive:
        manifest = json.loads(archive.read(MANIFEST))
        jsonschema.Draft202012Validator(manifest_schema()).validate(manifest)
        assert json.loads(archive.read("schema/manifest.schema.json")) == manifest_schema()
        for shot in manifest["shots"]:
            jsonschema.Draft202012Validator(shot_schema()).validate(json.loads(archive.read(shot["path"])))
        for part in (*manifest["shots"], *manifest["files"]):
            data = archive.read(part["path"])
            assert (hashlib.sha256(data).hexdigest(), len(data)) == (part["sha256"], part["size"])
    assert json.loads(Path("docs/schema/pack.schema.json").read_text()) == manifest_schema(), "texallon schema --pack"


def test_laid_out_it_renders_the_same_without_a_database(pack: bytes, demo_folder: Path, tmp_path: Path) -> None:
    with opened_pack(io.BytesIO(pack)) as opened:
        paths = write_folder(opened, tmp_path / "out")
    assert [path.name for path in paths] == ["GH020.json", "GH070.json"]
    for name, path in zip(SHOTS, paths, strict=True):
        before = picture(json.loads((demo_folder / f"{name}.json").read_text()), ShotFiles(root=demo_folder))
        assert np.array_equal(picture(json.loads(path.read_text()), ShotFiles(root=path.parent)), before)


def test_through_the_database_and_back_it_renders_the_same(pack: bytes, demo_folder: Path, world: World) -> None:
    project, shots = unpack_shots(world.store, world.files, io.BytesIO(pack))
    for name, number in zip(SHOTS, shots, strict=True):
        current = world.store.current(number)
        assert current.document["name"] == name and current.project == "a film"
        before = picture(json.loads((demo_folder / f"{name}.json").read_text()), ShotFiles(root=demo_folder))
        assert np.array_equal(picture(current.document, ShotFiles(store=world.files.folder)), before)
    again = io.BytesIO()
    pack_shots(world.store, world.files, "a film", shots, again)
    assert again.getvalue() == pack
    world.store.delete_project(project, "a film")


def test_two_files_of_one_path_both_come_along(tmp_path: Path) -> None:
    documents = []
    for name, side in (("A", 1), ("B", 2)):
        path = tmp_path / name / "geometry" / "thing.obj"
        path.parent.mkdir(parents=True)
        path.write_text(f"v 0 0 0\nv {side} 0 0\nv 0 {side} 0\nf 1 2 3\n")
        digest = hashlib.sha256(path.read_bytes()).hexdigest()
        thing = {"name": "t", "geometry": {"file": "geometry/thing.obj", "sha256": digest}, "look": "l"}
        documents.append(
            {"schema": 2, "name": name, "objects": [thing], "looks": [{"name": "l", "layers": [{"name": "b"}]}]}
        )
    places = {
        each["objects"][0]["geometry"]["sha256"]: tmp_path / each["name"] / "geometry/thing.obj" for each in documents
    }
    out = io.BytesIO()
    write_pack(out, "p", documents, lambda ref: places[str(ref.sha256)])
    with opened_pack(out, lambda file, data: None) as opened:
        paths = [document["objects"][0]["geometry"]["file"] for document in opened.documents]
        assert len(set(paths)) == 2 and {file.path for file in opened.manifest.files} == set(paths)


def test_what_is_not_there_or_not_what_it_was_can_not_be_packed(demo_folder: Path, tmp_path: Path) -> None:
    document = json.loads((demo_folder / "GH020.json").read_text())
    with pytest.raises(PackError, match="is not there"):
        write_pack(io.BytesIO(), "p", [document], ShotFiles(root=tmp_path).path)
    other = tmp_path / "other.glb"
    other.write_bytes(b"other")
    with pytest.raises(PackError, match="damaged"):
        write_pack(io.BytesIO(), "p", [document], lambda ref: other)


Parts = dict[str, bytes]


def unpacked(pack: bytes) -> Parts:
    with zipfile.ZipFile(io.BytesIO(pack)) as archive:
        return {name: archive.read(name) for name in archive.namelist()}


def zipped(parts: Parts, change: Callable[[zipfile.ZipInfo], None] = lambda info: None) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in parts.items():
            info = zipfile.ZipInfo(name)
            info.compress_type = zipfile.ZIP_DEFLATED
            change(info)
            archive.writestr(info, data)
    return out.getvalue()


def manifest_with(parts: Parts, change: Callable[[dict[str, Any]], None]) -> Parts:
    manifest = json.loads(parts[MANIFEST])
    change(manifest)
    return {**parts, MANIFEST: json.dumps(manifest).encode()}


def renamed(parts: Parts, new: str) -> Parts:
    """A pack whose first file lies at another path, in its manifest too."""
    old = json.loads(parts[MANIFEST])["files"][0]["path"]
    moved = manifest_with(parts, lambda each: each["files"][0].update(path=new))
    return {**{name: data for name, data in moved.items() if name != old}, new: parts[old]}


def document_with(parts: Parts, change: Callable[[dict[str, Any]], None]) -> Parts:
    """A pack whose first document is another, with the digest that it then has."""
    path = json.loads(parts[MANIFEST])["shots"][0]["path"]
    document = json.loads(parts[path])
    change(document)
    data = json.dumps(document).encode()
    shot = {"sha256": hashlib.sha256(data).hexdigest(), "size": len(data)}
    return manifest_with({**parts, path: data}, lambda each: each["shots"][0].update(shot))


def broken_mesh(parts: Parts) -> Parts:
    path, data = json.loads(parts[MANIFEST])["files"][0]["path"], b"no mesh"
    said = {"size": len(data), "sha256": hashlib.sha256(data).hexdigest()}
    return manifest_with({**parts, path: data}, lambda each: each["files"][0].update(said))


def bomb(parts: Parts) -> bytes:
    return zipped(manifest_with({**parts, "geometry/b.glb": bytes(300_000_000)}, lambda each: each["files"].append(
        {"path": "geometry/b.glb", "sha256": "0" * 64, "size": 300_000_000})))  # fmt: skip


def lying_size(pack: bytes) -> bytes:
    """The list of names says that a part is smaller than what comes out of it."""
    at = pack.rfind(b"PK\x01\x02")
    size = struct.unpack_from("<I", pack, at + 24)[0]
    return pack[: at + 24] + struct.pack("<I", size - 10) + pack[at + 28 :]


HOSTILE: dict[str, tuple[Callable[[bytes, Parts], bytes], str]] = {
    "nothing": (lambda pack, parts: b"", "no zip"),
    "no zip": (lambda pack, parts: b"PK\x03\x04" + bytes(500), "no zip"),
    "cut short": (lambda pack, parts: pack[: len(pack) // 2], "no zip|cut short"),
    "no manifest": (lambda pack, parts: zipped({k: v for k, v in parts.items() if k != MANIFEST}), "has no manifest"),
    "manifest that is no JSON": (lambda pack, parts: zipped({**parts, MANIFEST: b"{"}), "not JSON"),
    "manifest of another form": (lambda pack, parts: zipped(manifest_with(parts, lambda m: m.update(version=9))), "version"),
    "unknown member": (lambda pack, parts: zipped(manifest_with(parts, lambda m: m.update(extra=1))), "extra"),
    "path upwards": (lambda pack, parts: zipped(renamed(parts, "../evil.glb")), "path"),
    "path through a folder": (lambda pack, parts: zipped(renamed(parts, "a/../../evil.glb")), "path"),
    "path from the root": (lambda pack, parts: zipped(renamed(parts, "/etc/evil.glb")), "path"),
    "path of windows": (lambda pack, parts: zipped(renamed(parts, "a\\..\\evil.glb")), "path"),
    "a program": (lambda pack, parts: zipped(renamed(parts, "geometry/evil.py")), "meshes"),
    "not named": (lambda pack, parts: zipped({**parts, "hidden.glb": b"x"}), "does not name it"),
    "named and not there": (lambda pack, parts: zipped({k: v for k, v in parts.items() if k != "GH020.json"}), "not in the pack"),
    "wrong digest": (lambda pack, parts: zipped(manifest_with(parts, lambda m: m["files"][0].update(sha256="0" * 64))), "digest"),
    "wrong size": (lambda pack, parts: zipped(manifest_with(parts, lambda m: m["files"][0].update(size=3))), "bytes"),
    "named twice": (lambda pack, parts: zipped(manifest_with(parts, lambda m: m["files"].append(m["files"][0]))), "twice"),
    "a link": (lambda pack, parts: zipped(parts, lambda info: setattr(info, "external_attr", (stat.S_IFLNK | 0o777) << 16)), "link"),
    "a bomb": (lambda pack, parts: bomb(parts), "at most"),
    "a lying size": (lambda pack, parts: lying_size(pack), "bytes|more than|damaged"),
    "an invalid document": (lambda pack, parts: zipped(document_with(parts, lambda d: d.update(frames="many"))), "frames"),
    "a look that is not there": (lambda pack, parts: zipped(document_with(parts, lambda d: d["objects"][0].update(look="?"))), "no look"),
    "a file that is not there": (
        lambda pack, parts: zipped(document_with(parts, lambda d: d["objects"][0].update(geometry={"file": "gone.glb"}))),
        "not in the pack",
    ),
    "a broken mesh": (lambda pack, parts: zipped(broken_mesh(parts)), "geometry"),
}  # fmt: skip


@pytest.mark.parametrize("case", HOSTILE)
def test_a_hostile_pack_is_refused_and_nothing_changed(pack: bytes, case: str, world: World) -> None:
    make, reason = HOSTILE[case]
    before = ([each.name for each in world.store.list_projects()], sorted(world.files.folder.iterdir()))
    with pytest.raises(PackError, match=reason):
        unpack_shots(world.store, world.files, io.BytesIO(make(pack, unpacked(pack))))
    assert ([each.name for each in world.store.list_projects()], sorted(world.files.folder.iterdir())) == before


def test_a_zip_of_very_many_names_is_refused_before_they_are_read() -> None:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for number in range(12_000):
            archive.writestr(str(number), b"")
    with pytest.raises(PackError, match="at most"), opened_pack(out):
        pass


def test_damage_anywhere_is_never_more_than_a_refusal(pack: bytes) -> None:
    rng = np.random.default_rng(5)
    for _ in range(60):
        damaged = bytearray(pack)
        for at in rng.integers(0, len(pack), 3):
            damaged[at] ^= int(rng.integers(1, 256))
        try:
            with opened_pack(io.BytesIO(bytes(damaged)), lambda file, data: None) as opened:
                assert parse_json(opened.bytes_at(opened.manifest.shots[0].path).decode())
        except PackError:
            pass


def test_a_folder_with_something_in_it_is_left_alone(pack: bytes, tmp_path: Path) -> None:
    (tmp_path / "mine").write_text("x")
    with pytest.raises(PackError, match="not empty"), opened_pack(io.BytesIO(pack), lambda file, data: None) as opened:
        write_folder(opened, tmp_path)
    assert [path.name for path in tmp_path.iterdir()] == ["mine"]
