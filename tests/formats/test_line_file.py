"""Lines from CSV and OBJ files, for tubes: what is read, what is refused and where."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from texallon.core.document.body import Tube
from texallon.core.geometry.bodies import make_body
from texallon.core.geometry.mesh import MeshError
from texallon.formats.line_file import MOST_LINE_POINTS, Line, parse_line


def tube_of(line: Line) -> Tube:
    given = {"points": line.points, "closed": line.closed, "thickness": line.thickness}
    return Tube.model_validate({"shape": "tube", **given, "radius": line.radius or 0.05})


def test_rows_of_places_and_radii() -> None:
    line = parse_line(b"x,y,z,radius\n0,0,0,0.1\n0,1,0,0.05\n0,2,0,0.2\n", "csv")
    assert line.points == ((0, 0, 0), (0, 1, 0), (0, 2, 0)) and not line.closed
    assert line.radius == pytest.approx(0.2) and np.array(line.thickness) == pytest.approx(
        np.array([(0, 0.5), (0.5, 0.25), (1, 1)])
    )
    made = make_body(tube_of(line))
    top = made.vertices[made.vertices[:, 1] > 1.999]
    assert np.hypot(top[:, 0], top[:, 2]).max() == pytest.approx(0.2, rel=1e-4)


def test_a_line_element_with_references_from_the_end_and_a_closed_one() -> None:
    text = b"# a square\nv 0 0 0\nv 1 0 0\nv 1 0 1\nv 0 0 1\nl 1 2/7 -2 -1 1\nl 1 3\nf 1 2 3\n"
    line = parse_line(text, "obj")
    assert line.closed and line.points == ((0, 0, 0), (1, 0, 0), (1, 0, 1), (0, 0, 1))
    assert line.radius is None and line.thickness == () and line.said == "5 points, closed"


def test_more_points_than_a_tube_has_are_laid_evenly_along_the_line() -> None:
    turn = np.linspace(0, 8 * np.pi, 9000)
    rows = np.column_stack([np.cos(turn), 0.05 * turn, np.sin(turn), 0.1 + 0.01 * turn])
    text = "x y z radius\n" + "\n".join(" ".join(f"{x:.9g}" for x in row) for row in rows)
    line = parse_line(text.encode(), "csv")
    assert len(line.points) == MOST_LINE_POINTS and "9,000 points" in line.said and "1,024" in line.said
    steps = np.linalg.norm(np.diff(np.array(line.points), axis=0), axis=1)
    # A helix of radius 1 that rises 0.05 a radian is √1.0025 long for each.
    assert steps.sum() == pytest.approx(8 * np.pi * np.sqrt(1.0025), rel=1e-4) and np.ptp(steps) < 1e-4
    assert len(line.thickness) == 64 and make_body(tube_of(line)).vertices.size


@pytest.mark.parametrize(
    ("data", "kind", "words"),
    [
        (b"", "csv", "must name the columns"),
        (b"a,b\n1,2\n", "csv", "it names a, b"),
        (b"x,y,z\n", "csv", "no row below"),
        (b"x,y,z\n1,2,3\n", "csv", "two points"),
        (b"x,y,z\n1,2,3\n1,2,3\n", "csv", "two points"),
        (b"x,y,z\n1,2,nan\n1,2,3\n", "csv", "point 1 of the line lies nowhere"),
        (b"x,y,z\n0,0,0\n1,2,3e9\n", "csv", "point 2 of the line lies nowhere"),
        (b"x,y,z,radius\n0,0,0,1\n1,2,3,0\n", "csv", "the radius at point 2 is 0"),
        (b"x,y,z\n1,2,three\n", "csv", "three"),
        (b"v 0 0 0\nv 1 0 0\n", "obj", "no line"),
        (b"v 0 0 0\nl 1 2\n", "obj", "line 2: it names a point that is not there"),
        (b"v 0 0 0\nv 1 1 1\nl 1 0\n", "obj", "line 3: it names a point that is not there"),
        (b"v 0 zero 0\n", "obj", "line 1"),
        (b"v 0 0\n", "obj", "line 1"),
        (b"v 0 0 0\nl one\n", "obj", "line 2"),
        (b"x,y,z\n" + b"0,0,0\n" * 1_400_000, "csv", "at most 8 MB"),
        (b"x", "step", ".csv or .obj"),
    ],
)
def test_what_is_no_line_is_refused_with_its_place(data: bytes, kind: str, words: str) -> None:
    with pytest.raises(MeshError, match=words):
        parse_line(data, kind)


@given(st.binary(max_size=300), st.sampled_from(["csv", "obj"]))
def test_any_bytes_are_a_line_or_a_refusal(data: bytes, kind: str) -> None:
    try:
        line = parse_line(data, kind)
    except MeshError:
        return
    assert make_body(tube_of(line)).vertices.size
