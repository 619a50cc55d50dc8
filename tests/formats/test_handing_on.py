"""Geometry that is handed on and comes back: attributes by domain, read by this program's readers and by another library."""

import json
from pathlib import Path

import numpy as np
import pytest
import trimesh
from click.testing import CliRunner

from tests.builders import ball, document, layer, look, recipe, step, value
from texallon.cli import main
from texallon.core.geometry.mesh import Mesh, MeshError, make_mesh, make_points
from texallon.formats.import_report import ImportReport
from texallon.formats.mesh_file import parse_mesh, write_glb
from texallon.formats.particles_csv import write_csv
from texallon.formats.write_geometry import write_geometry
from texallon.formats.write_ply import write_ply

RNG = np.random.default_rng(2)


def carrying() -> Mesh:
    plain = trimesh.creation.icosphere(2, radius=0.6)
    count = len(plain.vertices)
    attributes = {
        "heat": RNG.uniform(-5, 900, count),
        "flow": RNG.normal(size=(count, 3)),
        "color": RNG.uniform(0, 1, (count, 3)),
        "pair": RNG.normal(size=(count, 2)),
    }
    return make_mesh(plain.vertices, plain.faces, plain.vertices, RNG.uniform(0, 1, (count, 2)), attributes)


def test_a_ply_comes_back_with_everything(tmp_path: Path) -> None:
    made = carrying()
    write_ply(tmp_path / "a.ply", made)
    report = ImportReport()
    back = parse_mesh((tmp_path / "a.ply").read_bytes(), "ply", report)
    assert (back.vertices == made.vertices).all() and (back.faces == made.faces).all()
    assert back.normals == pytest.approx(made.normals, abs=1e-6)
    assert back.uv is not None and made.uv is not None and (back.uv == made.uv).all()
    assert back.attributes.keys() == made.attributes.keys()
    for name, values in made.attributes.items():
        assert (back.attributes[name] == values).all(), name
    assert report.dropped == []


def test_another_library_reads_the_ply_and_the_glb(tmp_path: Path) -> None:
    made = carrying()
    write_ply(tmp_path / "a.ply", made)
    read = trimesh.load(tmp_path / "a.ply", process=False)
    assert np.asarray(read.vertices) == pytest.approx(made.vertices) and len(read.faces) == len(made.faces)
    raw = read.metadata["_ply_raw"]["vertex"]["data"]
    assert raw["heat"] == pytest.approx(made.attributes["heat"][:, 0])
    assert raw["flow.z"] == pytest.approx(made.attributes["flow"][:, 2])
    write_glb(tmp_path / "a.glb", made)
    glb = trimesh.load(tmp_path / "a.glb", process=False, force="mesh")
    assert glb.vertex_attributes["_heat"].ravel() == pytest.approx(made.attributes["heat"][:, 0])
    assert glb.vertex_attributes["_flow"] == pytest.approx(made.attributes["flow"])


@pytest.mark.parametrize("kind", ["ply", "csv"])
def test_particles_come_back_with_everything(kind: str, tmp_path: Path) -> None:
    made = make_points(
        RNG.normal(size=(50, 3)),
        {"radius": RNG.uniform(0.01, 0.1, 50), "color": RNG.uniform(0, 1, (50, 3)), "speed": RNG.normal(size=(50, 3))},
    )
    path = tmp_path / f"a.{kind}"
    write_geometry(path, made)
    back = parse_mesh(path.read_bytes(), kind)
    assert len(back.faces) == 0 and back.vertices == pytest.approx(made.vertices, rel=1e-6)
    assert back.attributes.keys() == made.attributes.keys()
    for name, values in made.attributes.items():
        assert back.attributes[name] == pytest.approx(values, rel=1e-6), name
    with pytest.raises(MeshError, match="as they are particles"):
        write_geometry(tmp_path / "a.glb", made)


def test_particles_are_read_by_another_library(tmp_path: Path) -> None:
    made = make_points(RNG.normal(size=(20, 3)), {"radius": RNG.uniform(0.01, 0.1, 20)})
    write_csv(tmp_path / "a.csv", made)
    rows = np.genfromtxt(tmp_path / "a.csv", delimiter=",", names=True)
    assert rows["radius"] == pytest.approx(made.attributes["radius"][:, 0], rel=1e-6)
    write_ply(tmp_path / "a.ply", made)
    assert np.asarray(trimesh.load(tmp_path / "a.ply").vertices) == pytest.approx(made.vertices)


def csv(text: str) -> Mesh:
    return parse_mesh(text.encode(), "csv")


def test_a_csv_may_name_its_columns_in_many_ways() -> None:
    for head in ("x,y,z,radius", "X;Y;Z;Radius", "px\tpy\tpz\tradius", "position.x position.y position.z radius"):
        split = next((each for each in ",;\t" if each in head), " ")
        found = csv(f"{head}\n" + "\n".join(split.join(["1", "2", "3", "0.5"]) for _ in range(3)) + "\n")
        assert found.vertices.tolist() == [[1, 2, 3]] * 3 and found.attributes["radius"].ravel().tolist() == [0.5] * 3
    found = csv('\ufeff"x", "y", "z", "v.x", "v.y", "v.z", "r", "g", "b", "n_x"\n1,2,3,4,5,6,0.1,0.2,0.3,9\n')
    assert found.attributes["v"].tolist() == [[4, 5, 6]]
    assert found.attributes["color"][0] == pytest.approx([0.1, 0.2, 0.3])
    assert found.attributes["n_x"].tolist() == [[9]], "a lone part is a number by its own name"


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("x,y,radius\n1,2,3\n", "not a CSV file"),
        ("x,y,z\n1,2\n", "2 numbers for 3 names"),
        ("x,y,z\n1,2,3\n4,five,6\n", "row 1, column 2"),
        ("x,y,z\n1,2,3\n4,5\n", "below its first row"),
        ("x,y,z\n", "no particles"),
        ("x,y,z,x\n1,2,3,4\n", "two columns are named “x”"),
        ("x,y,z\nnan,0,0\n", "not finite"),
        ("x,y,z\n1e300,0,0\n", "not finite"),
        (",".join(["x", "y", "z", *[f"c{k}" for k in range(300)]]) + "\n", "at most 256"),
    ],
)
def test_a_damaged_csv_is_refused_with_its_place(text: str, words: str) -> None:
    with pytest.raises(MeshError, match=words):
        csv(text)


def test_any_bytes_after_a_good_first_row_are_refused_in_words() -> None:
    for seed in range(30):
        noise = np.random.default_rng(seed).integers(1, 255, 200).astype(np.uint8).tobytes()
        with pytest.raises(MeshError):
            parse_mesh(b"x,y,z\n" + noise, "csv")


def faces_with(values: list[float], second: list[float]) -> bytes:
    """Two triangles of a square, each with a number and a vector."""
    head = (
        "ply\nformat ascii 1.0\nelement vertex 4\nproperty float x\nproperty float y\nproperty float z\n"
        "element face 2\nproperty list uchar int vertex_indices\nproperty float heat\n"
        "property float way.x\nproperty float way.y\nproperty float way.z\nend_header\n"
    )
    corners = "0 0 0\n1 0 0\n1 1 0\n0 1 0\n"
    rows = [
        f"3 {face} {value} {other} 0 1\n" for face, value, other in zip(("0 1 2", "0 2 3"), values, second, strict=True)
    ]
    return (head + corners + "".join(rows)).encode()


def test_what_faces_carry_ends_where_they_do() -> None:
    report = ImportReport()
    found = parse_mesh(faces_with([1, 5], [7, 7]), "ply", report)
    assert found.attributes["heat"][found.faces][:, :, 0].tolist() == [[1, 1, 1], [5, 5, 5]]
    assert found.attributes["way"][found.faces].tolist() == [[[7, 0, 1]] * 3] * 2
    assert len(found.vertices) == 6 and "2 points more where what faces carry changes" in report.made
    assert len(np.unique(found.normals, axis=0)) == 1, "the edge between them stays as smooth as it was"
    same = parse_mesh(faces_with([3, 3], [7, 7]), "ply")
    assert len(same.vertices) == 4, "of one value it need not come apart"


def test_the_shell_writes_an_object_as_it_is_seen(tmp_path: Path) -> None:
    write_glb(tmp_path / "ball.glb", ball(0.5, 12))
    high = {
        "name": "high",
        "recipe": recipe(step("position"), step("component", which="y"), step("remap", from_start=-0.5, from_end=0.5)),
    }
    moved = look("l", layer("a", base_color=value([1, 1, 1]), displacement=value(0.1)))
    item = {
        "name": "thing", "geometry": {"file": "ball.glb"}, "look": "l",
        "subdivision": {"levels": 1}, "displacement": {"most": 1.0},
    }  # fmt: skip
    path = tmp_path / "s.json"
    path.write_text(json.dumps(document(objects=[item], looks=[moved], signals=[high])))
    run = CliRunner().invoke(
        main, ["geometry", str(path), "thing", "--out", str(tmp_path / "o.ply"), "--signal", "high"]
    )
    assert run.exit_code == 0, run.output
    back = parse_mesh((tmp_path / "o.ply").read_bytes(), "ply")
    assert len(back.faces) == 4 * len(ball(0.5, 12).faces)
    assert np.linalg.norm(back.vertices, axis=1).max() == pytest.approx(0.6, abs=1e-3)
    assert back.attributes["high"].max() == pytest.approx(1.0, abs=0.02)
    for arguments, words in (
        (["thng", "--out", str(tmp_path / "o.ply")], "did you mean “thing”"),
        (["thing", "--out", str(tmp_path / "o.csv")], "PLY or GLB"),
        (["thing", "--out", str(tmp_path / "o.ply"), "--signal", "hgh"], "did you mean “high”"),
    ):
        run = CliRunner().invoke(main, ["geometry", str(path), *arguments])
        assert run.exit_code == 1 and words in run.output


def test_a_ply_of_points_alone_is_particles_and_says_so() -> None:
    made = make_points([[0, 0, 0], [1, 1, 1]], {"age": [3, 4]})
    report = ImportReport()
    text = "ply\nformat ascii 1.0\nelement vertex 2\nproperty float x\nproperty float y\nproperty float z\nproperty float age\nend_header\n0 0 0 3\n1 1 1 4\n"
    found = parse_mesh(text.encode(), "ply", report)
    assert found.vertices.tolist() == made.vertices.tolist() and found.attributes["age"].ravel().tolist() == [3, 4]
    assert "2 particles" in report.kept and any("one radius" in line for line in report.made)
