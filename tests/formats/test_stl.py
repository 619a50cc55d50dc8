"""STL in: what another library writes, and what nobody should have written."""

import struct
from pathlib import Path

import numpy as np
import pytest
import trimesh
from hypothesis import given
from hypothesis import strategies as st

from texallon.core.geometry.mesh import MeshError
from texallon.formats.import_report import ImportReport
from texallon.formats.mesh_file import parse_mesh, read_mesh, sniff
from texallon.formats.mesh_size import mesh_size

CUBE = trimesh.creation.box((2, 4, 6))
BALL = trimesh.creation.icosphere(3)


def written(mesh: trimesh.Trimesh, how: str) -> bytes:
    made = mesh.export(file_type=how)
    return made.encode() if isinstance(made, str) else made


@pytest.mark.parametrize("how", ["stl", "stl_ascii"])
def test_what_another_library_writes_is_read(how: str, tmp_path: Path) -> None:
    data = written(CUBE, how)
    report = ImportReport()
    made = parse_mesh(data, "stl", report)
    assert sniff(data) == "stl"
    # Each of the six sides keeps its own four corners, as its edges are sharp.
    assert (len(made.vertices), len(made.faces)) == (24, 12)
    assert np.abs(made.normals).max(axis=1) == pytest.approx(np.ones(24), abs=1e-6)
    assert trimesh.Trimesh(made.vertices, made.faces).volume == pytest.approx(48)
    assert any("36 loose corners joined to 24 points" in line for line in report.changed)
    assert any("stay sharp" in line for line in report.made)
    (tmp_path / "cube.stl").write_bytes(data)
    assert mesh_size(tmp_path / "cube.stl").triangles == 12
    assert len(read_mesh(tmp_path / "cube.stl").faces) == 12


def test_a_round_thing_is_smooth() -> None:
    made = parse_mesh(written(BALL, "stl"), "stl")
    assert len(made.vertices) == len(BALL.vertices)
    assert made.normals == pytest.approx(made.vertices, abs=0.02)


def test_solids_are_parts_by_their_names() -> None:
    one, two = (written(mesh, "stl_ascii").decode() for mesh in (CUBE, BALL))
    text = one.replace("solid", "solid foot", 1) + "\n" + two.replace("solid", "solid head", 1)
    made = parse_mesh(text.encode(), "stl")
    assert made.part_names == ("foot", "head")
    assert made.part_of_face is not None and np.bincount(made.part_of_face).tolist() == [12, len(BALL.faces)]


def test_numbers_whose_header_says_solid_are_numbers() -> None:
    data = b"solid but not text".ljust(80) + written(CUBE, "stl")[80:]
    assert len(parse_mesh(data, "stl").faces) == 12


NAN = struct.pack("<f", float("nan"))
DAMAGED = {
    "cut short": (written(CUBE, "stl")[:-7], "not a STL file"),
    "longer than promised": (written(CUBE, "stl") + b"x", "not a STL file"),
    "four thousand million triangles": (b" " * 80 + b"\xff\xff\xff\xff", "not a STL file"),
    "no number": (written(CUBE, "stl")[:96] + NAN + written(CUBE, "stl")[100:], "not finite"),
    "no triangles": (b" " * 80 + b"\0\0\0\0", "not a STL file"),
    "a point of two numbers": (
        written(CUBE, "stl_ascii").replace(b"vertex", b"vertex 1 2\nvertex", 1),
        "line 1 has a facet that is not",
    ),
    "no end": (written(CUBE, "stl_ascii").replace(b"endsolid", b"end"), "no solid that ends"),
    "points without area": (b" " * 80 + struct.pack("<I", 1) + bytes(50), "no faces"),
}


@pytest.mark.parametrize("how", DAMAGED)
def test_what_is_damaged_is_refused_in_words(how: str) -> None:
    data, said = DAMAGED[how]
    with pytest.raises(MeshError, match=said):
        parse_mesh(data, "stl")


@given(st.binary(max_size=400), st.integers(0, 2**32 - 1))
def test_any_bytes_are_read_or_refused(tail: bytes, promised: int) -> None:
    for data in (
        b"solid" + tail,
        b" " * 80 + struct.pack("<I", promised) + tail,
        b"solid x\nfacet" + tail + b"endsolid",
    ):
        try:
            parse_mesh(data, "stl")
        except MeshError:
            continue
