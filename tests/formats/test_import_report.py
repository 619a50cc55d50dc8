"""The import report: everything in a mesh file is kept, made, changed or dropped, and the report says which.

The files are written by hand after the formats' own texts: G. Turk, *The PLY Polygon File Format*, 1994 (mixed lists, either byte order,
text); Wavefront OBJ, appendix B1 of the Advanced Visualizer manual (`v`, `vt`, `vn`, `f`); colours after a point's place and `texcoord`
lists are common practice, no published source; glTF 2.0, 3.7 (attributes, modes, morph targets).
"""

import json
import struct

import numpy as np
import pytest
import trimesh

from texallon.core.geometry.mesh import Mesh, MeshError
from texallon.formats.import_report import MOST_LINES, ImportReport
from texallon.formats.mesh_file import parse_mesh

POINTS = [(0, 0), (1, 0), (1, 1), (0, 1), (2, 0), (9, 9)]
"""A square, a triangle beside it, and a point that nothing uses."""

HEADER = (
    "ply\nformat {format} 1.0\nelement vertex 6\nproperty float x\nproperty float y\nproperty float z\n"
    "property uchar red\nproperty uchar green\nproperty uchar blue\nproperty float heat\n"
    "element face {faces}\nproperty list uchar int vertex_indices\nproperty list uchar float texcoord\nproperty float quality\nend_header\n"
)
SQUARE = ((0, 1, 2, 3), (0, 0, 1, 0, 1, 1, 0, 1), 0.5)
BESIDE = ((1, 4, 2), (0.5, 0, 1, 0, 1, 1), 0.7)


def ply(encoding: str, faces: list[tuple[tuple[int, ...], tuple[float, ...], float]]) -> bytes:
    head = HEADER.format(format=encoding, faces=len(faces)).encode()
    if encoding == "ascii":
        rows = [f"{x} {y} 0 0 188 255 {number}" for number, (x, y) in enumerate(POINTS)]
        rows += [" ".join(map(str, (len(corners), *corners, len(uv), *uv, quality))) for corners, uv, quality in faces]
        return head + ("\n".join(rows) + "\n").encode()
    order = ">" if "big" in encoding else "<"
    body = b"".join(struct.pack(f"{order}3f3Bf", x, y, 0, 0, 188, 255, n) for n, (x, y) in enumerate(POINTS))
    for corners, uv, quality in faces:
        body += struct.pack(f"{order}B{len(corners)}i", len(corners), *corners)
        body += struct.pack(f"{order}B{len(uv)}ff", len(uv), *uv, quality)
    return head + body


def read(data: bytes, kind: str) -> tuple[Mesh, ImportReport]:
    report = ImportReport()
    return parse_mesh(data, kind, report), report


ENCODINGS = ["ascii", "binary_little_endian", "binary_big_endian"]


@pytest.mark.parametrize("encoding", ENCODINGS)
@pytest.mark.parametrize("faces", [[SQUARE, BESIDE], [BESIDE], [SQUARE]], ids=["mixed", "triangles", "quads"])
def test_a_ply_keeps_attributes_and_corner_uv_whatever_its_faces_and_unused_points(
    encoding: str, faces: list[tuple[tuple[int, ...], tuple[float, ...], float]]
) -> None:
    mesh, report = read(ply(encoding, faces), "ply")
    assert mesh.uv is not None
    assert len(mesh.faces) == sum(len(corners) - 2 for corners, _, _ in faces)
    # Every corner of every face has the place, the attributes and the texture coordinates that the file gives it.
    got = {
        (
            *map(float, mesh.vertices[corner, :2]),
            float(mesh.attributes["heat"][corner, 0]),
            *map(float, mesh.uv[corner]),
        )
        for corner in mesh.faces.ravel()
    }
    wanted = {
        (*map(float, POINTS[point]), float(point), float(uv[2 * place]), float(uv[2 * place + 1]))
        for corners, uv, _ in faces
        for place, point in enumerate(corners)
    }
    assert got == wanted
    assert np.allclose(mesh.attributes["color"], [0, 0.5029, 1], atol=1e-3)
    used = {point for corners, _, _ in faces for point in corners}
    unused = len(POINTS) - len(used)
    assert f"{unused} point{'' if unused == 1 else 's'} that no face uses" in report.dropped
    assert any("“quality” of the faces: kept at their corners" in line for line in report.changed)
    assert any("heat" in line and f"{min(used)}…{max(used)}" in line for line in report.kept)
    assert any("sRGB" in line for line in report.changed)
    assert any("normals" in line for line in report.made)
    assert any("seam" in line for line in report.made) == (len(faces) == 2)
    assert any("cut into triangles" in line for line in report.changed) == (SQUARE in faces)


def test_a_polygon_of_a_ply_covers_its_area_once() -> None:
    corner = np.linspace(0, 2 * np.pi, 7)[:-1]
    body = "".join(f"{x} {y} 0\n" for x, y in zip(np.cos(corner), np.sin(corner), strict=True))
    text = "ply\nformat ascii 1.0\nelement vertex 6\nproperty float x\nproperty float y\nproperty float z\nelement face 1\n"
    mesh, _ = read(f"{text}property list uchar int vertex_index\nend_header\n{body}6 0 1 2 3 4 5\n".encode(), "ply")
    assert trimesh.Trimesh(mesh.vertices, mesh.faces).area == pytest.approx(1.5 * np.sqrt(3), rel=1e-6)


def test_an_obj_keeps_colours_and_texture_coordinates_together() -> None:
    text = (
        "mtllib a.mtl\nv 0 0 0 1 0 0\nv 1 0 0 0 1 0\nv 1 1 0 0 0 1\nv 0 1 0 1 1 1\n"
        "vt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\nusemtl x\nf 1/1 2/2 3/3 4/4\nl 1 2\n"
    )
    mesh, report = read(text.encode(), "obj")
    assert mesh.uv is not None
    assert np.array_equal(mesh.uv, mesh.vertices[:, :2])
    assert np.array_equal(mesh.attributes["color"][mesh.vertices[:, 0] + mesh.vertices[:, 1] == 2], [[0, 0, 1]])
    assert {"1 line", "1 material file", "1 use of materials"} <= set(report.dropped)


def test_a_seam_of_an_obj_keeps_both_of_its_texture_coordinates() -> None:
    text = (
        "v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\nvt .5 .5\nvn 0 0 1\n"
        "f 1/1/1 2/2/1 3/3/1\nf 1/5/1 3/3/1 4/4/1\n"
    )
    mesh, report = read(text.encode(), "obj")
    assert mesh.uv is not None
    assert sorted(map(tuple, mesh.uv[(mesh.vertices == 0).all(axis=1)].tolist())) == [(0, 0), (0.5, 0.5)]
    assert "normals" in report.kept


def test_what_an_obj_names_for_some_faces_only_is_dropped_with_a_word() -> None:
    text = "v 0 0 0\nv 1 0 0\nv 1 1 0\nvt 0 0\nvt 1 0\nvt 1 1\nvn 0 0 1\nf 1/1/1 2/2/1 3/3/1\nf 1 2 3\n"
    mesh, report = read(text.encode(), "obj")
    assert mesh.uv is None
    assert any("texture coordinates" in line for line in report.dropped)
    assert any("normals of" in line for line in report.dropped)


def glb(mesh: trimesh.Trimesh, **more: object) -> bytes:
    """A GLB file of the mesh whose tree has further members."""
    data = mesh.export(file_type="glb", include_normals=True)
    (length,) = struct.unpack("<I", data[12:16])
    tree = json.loads(data[20 : 20 + length])
    tree.update(more)
    text = json.dumps(tree).encode()
    text += b" " * (-len(text) % 4)
    rest = data[20 + length :]
    return (
        struct.pack("<4sII", b"glTF", 2, 20 + len(text) + len(rest))
        + struct.pack("<I4s", len(text), b"JSON")
        + text
        + rest
    )


def test_a_glb_keeps_its_own_normals() -> None:
    bent = np.tile([[0.6, 0.8, 0.0]], (8, 1))  # no normals that faces would give
    box = trimesh.creation.box()
    made = trimesh.Trimesh(box.vertices, box.faces, vertex_normals=bent, process=False)
    mesh, report = read(glb(made), "glb")
    assert np.allclose(mesh.normals, bent, atol=1e-6)
    assert "normals" in report.kept
    assert not report.made


def test_what_a_glb_holds_besides_is_named() -> None:
    data = glb(trimesh.creation.box(), cameras=[{"type": "perspective"}], animations=[{}, {}], skins=[{}])
    _, report = read(data, "glb")
    assert {"1 camera", "2 animations", "1 skin"} <= set(report.dropped)


def test_a_glb_that_needs_what_is_not_read_is_refused_by_name() -> None:
    with pytest.raises(MeshError, match="KHR_draco_mesh_compression"):
        read(glb(trimesh.creation.box(), extensionsRequired=["KHR_draco_mesh_compression"]), "glb")


def test_the_same_mesh_shown_by_many_nodes_counts_each_time() -> None:
    ball = trimesh.creation.icosphere(subdivisions=4)  # 5 120 triangles
    nodes = [{"mesh": 0} for _ in range(200)]
    data = glb(ball, nodes=nodes, scenes=[{"nodes": list(range(200))}], scene=0)
    with pytest.raises(MeshError, match="1,024,000 triangles; at most 1,000,000"):
        read(data, "glb")


def test_values_that_are_not_finite_become_0_with_a_word() -> None:
    text = (
        "ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\nproperty double heat\n"
        "element face 1\nproperty list uchar int vertex_indices\nend_header\n0 0 0 nan\n1 0 0 1e300\n0 1 0 5\n3 0 1 2\n"
    )
    mesh, report = read(text.encode(), "ply")
    assert mesh.attributes["heat"].ravel().tolist() == [0, 0, 5]
    assert "“heat”: 2 values not finite as 32-bit numbers, set to 0" in report.changed


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (ply("binary_little_endian", [SQUARE, BESIDE])[:-9], "ends in row 1 of its 2 × “face”"),
        (ply("ascii", [SQUARE, BESIDE])[:-12], "row 1 of its 2 × “face” is cut short"),
        (ply("binary_little_endian", [((0, 1, 7), (0,) * 6, 0.0)]), "a face names point 7, which does not exist"),
        (ply("binary_little_endian", [((0, 1, -2), (0,) * 6, 0.0)]), "a face names point -2, which does not exist"),
        (ply("ascii", [((0, 1), (0,) * 4, 0.0)]), "no faces"),
    ],
)
def test_a_damaged_ply_is_refused_with_its_place(data: bytes, words: str) -> None:
    with pytest.raises(MeshError, match=words):
        read(data, "ply")


def test_a_report_stays_short() -> None:
    report = ImportReport()
    for number in range(1000):
        report.add("dropped", f"“{'x' * 1000}{number}”\x00\n")
        report.add("kept", f"attribute {number}")
    assert len(report.kept) == MOST_LINES + 1
    assert report.kept[-1] == "and more of the kind"
    assert len(report.dropped) == 1  # cut to the same words
    assert len(report.dropped[0]) == 300
