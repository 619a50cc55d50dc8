"""Lines from files, for tubes: CSV rows of places, or the first line element of an OBJ file."""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from texallon.core.geometry.mesh import MeshError
from texallon.formats.particles_csv import placed_rows

Doubles = npt.NDArray[np.float64]

LARGEST_LINE_FILE = 8_000_000
"""Bytes: a hundred thousand points with twelve digits each."""

MOST_LINE_POINTS, MOST_THICKNESS = 1024, 64
"""What a tube may have: see `document.body.Tube`."""

FARTHEST = 1e6
"""Metres."""


@dataclass(frozen=True)
class Line:
    """A line as a tube has it: `points` in metres, whether it is `closed`, its radius where the file says it, what that is multiplied by
    along it, and what was `said` of what was read."""

    points: tuple[tuple[float, float, float], ...]
    closed: bool
    radius: float | None
    thickness: tuple[tuple[float, float], ...]
    said: str


def parse_line(data: bytes, kind: str) -> Line:
    """The line in a file; raises `MeshError` with the row that is wrong.

    CSV: a row of names, `x`, `y`, `z` and if wanted `radius` among them, and a row for each point. OBJ: the first `l` element, by the
    `v` that it names; other elements are left out. A line that ends where it began is closed.

    References
    ----------
    OBJ: Wavefront, "Object Files (.obj)", Advanced Visualizer Manual, appendix B1: `v`, `l`, negative references count from the end.
    """
    if len(data) > LARGEST_LINE_FILE:
        raise MeshError(
            f"a line's file has at most {LARGEST_LINE_FILE // 1_000_000} MB; this has {len(data) / 1e6:.1f}"
        )
    if kind not in ("csv", "obj"):
        raise MeshError(f"a line comes as .csv or .obj, not as .{kind[:12]}")
    places, radii = _of_csv(data) if kind == "csv" else _of_obj(data)
    if not np.isfinite(places).all() or np.abs(places).max(initial=0.0) > FARTHEST:
        row = int(np.flatnonzero(~(np.isfinite(places) & (np.abs(places) <= FARTHEST)).all(axis=1))[0])
        raise MeshError(f"point {row + 1} of the line lies nowhere: {', '.join(f'{x:g}' for x in places[row])}")
    if radii is not None and not (np.isfinite(radii) & (radii > 0)).all():
        row = int(np.flatnonzero(~(np.isfinite(radii) & (radii > 0)))[0])
        raise MeshError(f"the radius at point {row + 1} is {radii[row]:g}; it must be above 0")
    return _as_tube(places, radii)


def _of_csv(data: bytes) -> tuple[Doubles, Doubles | None]:
    place, column = placed_rows(data)
    return np.stack([column[axis] for axis in place], axis=1), column.get("radius")


def _of_obj(data: bytes) -> tuple[Doubles, None]:
    corners: list[tuple[float, float, float]] = []
    line: list[int] = []
    for number, row in enumerate(data.decode("utf-8", "replace").replace("\\\n", " ").splitlines(), 1):
        word, *rest = row.split() or [""]
        try:
            if word == "v":
                x, y, z = (float(each) for each in rest[:3])
                corners.append((x, y, z))
            given = [int(each.split("/")[0]) for each in rest] if word == "l" and not line else []
        except ValueError as error:
            what = "point" if word == "v" else "line"
            raise MeshError(f"line {number}: {row.strip()[:60]!r} is no {what}") from error
        if not given:
            continue
        line = [each - 1 if each > 0 else len(corners) + each for each in given]
        if 0 in given or not all(0 <= each < len(corners) for each in line):
            raise MeshError(f"line {number}: it names a point that is not there before it; there are {len(corners):,}")
    if not line:
        raise MeshError("the file has no line: no row that begins with l")
    return np.array([corners[each] for each in line], np.float64), None


def _as_tube(places: Doubles, radii: Doubles | None) -> Line:
    apart = np.concatenate([[True], np.linalg.norm(np.diff(places, axis=0), axis=1) > 1e-9])
    places = places[apart]
    radii = None if radii is None else radii[apart]
    if len(places) < 2:
        raise MeshError("a line needs two points that are apart")
    read = len(places)
    length = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(places, axis=0), axis=1))])
    closed = len(places) > 3 and bool(np.linalg.norm(places[-1] - places[0]) <= 1e-6 * length[-1])
    thickness: tuple[tuple[float, float], ...] = ()
    radius = None
    if radii is not None:
        radius = float(radii.max())
        share = length / length[-1]
        at = share if len(share) <= MOST_THICKNESS else np.linspace(0, 1, MOST_THICKNESS)
        factors = np.interp(at, share, radii / radius)
        thickness = tuple((float(s), float(f)) for s, f in zip(at, factors, strict=True))
    if closed:
        places, length = places[:-1], length[:-1]
    said = f"{read:,} points"
    if len(places) > MOST_LINE_POINTS:
        wanted = np.linspace(0, length[-1], MOST_LINE_POINTS)
        places = np.stack([np.interp(wanted, length, places[:, axis]) for axis in range(3)], axis=1)
        said += f", of which {MOST_LINE_POINTS:,} evenly along it were made: a tube has no more"
    points = tuple((float(x), float(y), float(z)) for x, y, z in places)
    return Line(points, closed, radius, thickness, said + (", closed" if closed else ""))
