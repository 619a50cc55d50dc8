"""Meshes from files: what is kept, and what is refused in words for a person."""

import struct
from pathlib import Path

import numpy as np
import pytest
import trimesh

from texallon.core.geometry.mesh import MeshError, make_mesh
from texallon.formats.mesh_file import parse_mesh, read_mesh, write_glb

BOX = trimesh.creation.box((1, 2, 3))


def exported(mesh: trimesh.Trimesh, kind: str) -> bytes:
    data = mesh.export(file_type=kind)
    return data.encode() if isinstance(data, str) else data


@pytest.mark.parametrize("kind", ["obj", "ply", "glb"])
def test_all_three_formats_give_the_same_box(kind: str) -> None:
    mesh = parse_mesh(exported(BOX, kind), kind)
    assert len(mesh.faces) == 12
    low, high = mesh.bounds
    assert np.allclose([low, high], BOX.bounds)


def test_vertex_colours_become_linear() -> None:
    # glTF 2.0 and common practice: bytes in PLY are painted in sRGB; 188 is about one half in light.
    painted = BOX.copy()
    painted.visual.vertex_colors = np.tile([255, 188, 0, 255], (8, 1)).astype(np.uint8)
    mesh = parse_mesh(exported(painted, "ply"), "ply")
    assert np.allclose(mesh.attributes["color"], [1.0, 0.5029, 0.0], atol=1e-3)


def test_texture_coordinates_and_attributes_of_a_glb_are_kept(tmp_path: Path) -> None:
    rng = np.random.default_rng(0)
    uv, heat = rng.random((8, 2)), rng.random(8)
    made = make_mesh(BOX.vertices, BOX.faces, None, uv, {"heat": heat})
    write_glb(tmp_path / "box.glb", made)
    mesh = read_mesh(tmp_path / "box.glb")
    assert mesh.uv is not None
    assert np.allclose(mesh.uv, uv, atol=1e-6)
    assert np.allclose(mesh.attributes["heat"][:, 0], heat, atol=1e-6)
    assert np.allclose(mesh.normals, made.normals, atol=1e-5)


def test_further_data_of_a_ply_is_kept() -> None:
    text = (
        "ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\n"
        "property float temperature\nelement face 1\nproperty list uchar int vertex_indices\nend_header\n"
        "0 0 0 300\n1 0 0 400\n0 1 0 500\n3 0 1 2\n"
    )
    assert parse_mesh(text.encode(), "ply").attributes["temperature"][:, 0].tolist() == [300, 400, 500]


def test_the_objects_of_an_obj_become_parts() -> None:
    text = "o foot\nv 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\no bowl\nv 0 0 1\nv 1 0 1\nv 0 1 1\nv 1 1 1\nf 4 5 6\nf 5 7 6\n"
    mesh = parse_mesh(text.encode(), "obj")
    assert len(mesh.faces) == 3
    assert set(mesh.part_names) == {"foot", "bowl"}
    assert mesh.part_of_face is not None
    sizes = {name: int((mesh.part_of_face == i).sum()) for i, name in enumerate(mesh.part_names)}
    assert sizes == {"foot": 1, "bowl": 2}


PLY = b"ply\nformat binary_little_endian 1.0\nelement vertex %d\nproperty float x\nproperty float y\nproperty float z\n"


@pytest.mark.parametrize(
    ("data", "kind", "words"),
    [
        (b"hello, I am a picture", "obj", "not a OBJ file"),
        (exported(BOX, "ply"), "glb", "not a GLB file: it looks like PLY"),
        (exported(BOX, "glb"), "obj", "not a OBJ file: it looks like GLB"),
        (b"MZ\0\0", "exe", "comes as OBJ, PLY, STL or GLB"),
        (b"", "ply", "not a PLY file"),
        (b"v 0 0 0\nv 1 0 0\nv 0 1 0\n", "obj", "no faces"),
        (b"v 0 0 0\nv nan 0 0\nv 0 1 0\nf 1 2 3\n", "obj", "not finite"),
        (b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 9\n", "obj", "can't be read|does not exist"),
        (b"f 1 2 3\n" * 5, "obj", "can't be read|no faces|no points|does not exist"),
        (b"v 0 0 0\n" + b"\nf 1 1 1" * 1_000_001, "obj", "1,000,001 triangles; at most 1,000,000"),
        (PLY % 4_000_000_000 + b"end_header\n", "ply", "4,000,000,000 points; at most"),
        (PLY % 2_000_000 + b"end_header\n", "ply", "more than the file can hold"),
        (exported(BOX, "glb")[:60], "glb", "cut short"),
        (b"glTF" + struct.pack("<II", 2, 20) + struct.pack("<I", 4) + b"JSON{{{{", "glb", "can't be read|cut short"),
        (exported(BOX, "ply")[:-40], "ply", "can't be read|no faces|does not exist"),
    ],
)
def test_what_can_not_be_used_is_refused_in_words(data: bytes, kind: str, words: str) -> None:
    with pytest.raises(MeshError, match=words):
        parse_mesh(data, kind)


def test_a_glb_that_points_elsewhere_is_refused() -> None:
    tree = b'{"asset":{"version":"2.0"},"buffers":[{"uri":"/etc/passwd","byteLength":4}]}   '
    tree += b" " * (-len(tree) % 4)
    data = b"glTF" + struct.pack("<II", 2, 20 + len(tree)) + struct.pack("<I", len(tree)) + b"JSON" + tree
    with pytest.raises(MeshError, match="in one piece"):
        parse_mesh(data, "glb")


def test_a_file_too_large_is_not_even_opened(tmp_path: Path) -> None:
    path = tmp_path / "huge.ply"
    with path.open("wb") as file:
        file.truncate(300_000_000)
    with pytest.raises(MeshError, match="300 MB; at most 256 MB"):
        read_mesh(path)


def test_a_million_triangles_are_read() -> None:
    side = 708
    x, y = np.meshgrid(np.arange(side, dtype=np.float32), np.arange(side, dtype=np.float32))
    vertices = np.stack([x.ravel(), np.zeros(side * side, np.float32), y.ravel()], axis=1)
    corner = (np.arange(side - 1)[:, None] * side + np.arange(side - 1)).ravel()
    faces = np.concatenate(
        [
            np.stack([corner, corner + 1, corner + side], 1),
            np.stack([corner + 1, corner + side + 1, corner + side], 1),
        ]
    )
    mesh = parse_mesh(exported(trimesh.Trimesh(vertices, faces, process=False), "ply"), "ply")
    assert len(mesh.faces) == 999_698


@pytest.mark.parametrize("face", ["f 0 1 2", "f 1 2 0", "f 1/1 0/2 3/3", "f 1 00 3"])
def test_an_obj_file_that_counts_from_0_is_refused_with_its_line(face: str) -> None:
    data = f"v 0 0 0\nv 1 0 0\nv 0 1 0\n{face}\n".encode()
    with pytest.raises(MeshError, match="line 4 of the OBJ file names point 0"):
        parse_mesh(data, "obj")


@pytest.mark.parametrize("face", ["f 1 2 3", "f -3 -2 -1", "f 1/1 2/2 3/3"])
def test_other_ways_of_counting_are_read(face: str) -> None:
    data = f"v 0 0 0\nv 1 0 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 0 1\n{face}\n".encode()
    assert len(parse_mesh(data, "obj").faces) == 1
