"""PLY files: points with whatever data they carry, and faces whose corners may have texture coordinates of their own."""

import io
from collections.abc import Mapping
from typing import Any

import numpy as np
import numpy.typing as npt
from trimesh.exchange.ply import load_ply
from trimesh.geometry import triangulate_quads

from texallon.core.geometry.mesh import MeshError, vertex_normals
from texallon.formats.import_report import ImportReport, count
from texallon.formats.mesh_piece import FilePiece, Floats, grouped, keep_attribute, keep_colours
from texallon.formats.mixed_lists import read_mixed, read_text

Columns = Mapping[str, npt.NDArray[Any]]
"""The properties of one element: `(n,)` numbers, `(n, k)` lists of one length, or `(n,)` objects, each a list."""

CORNERS = ("vertex_indices", "vertex_index")
CORNER_UV = "texcoord"
UV_NAMES = (("s", "t"), ("u", "v"), ("texture_u", "texture_v"))


def pieces_of_ply(data: bytes, report: ImportReport) -> list[FilePiece]:
    """The mesh of a PLY file as one piece; raises what its reader stumbles on."""
    elements = _elements(data)
    points, faces = elements.get("vertex", {}), elements.get("face", {})
    if not all(axis in points for axis in "xyz"):
        return []
    corners = next((faces[name] for name in CORNERS if name in faces), None)
    if corners is None or len(corners) == 0:
        vertices = np.stack([np.asarray(points[axis], np.float64) for axis in "xyz"], axis=1)
        own = {name: values for name, values in points.items() if name not in ("nx", "ny", "nz")}
        return [FilePiece("all", vertices, np.zeros((0, 3), np.int64), None, _carried(own, len(vertices), report))]
    for name, columns in elements.items():
        if name not in ("vertex", "face") and columns:
            report.add("dropped", f"“{name}”: only points and faces are read")
    vertices = np.stack([np.asarray(points[axis], np.float64) for axis in "xyz"], axis=1)
    normals = _together(points, ("nx", "ny", "nz"))
    found = _carried(points, len(vertices), report)
    flat, triangles = _triangles(corners, report)
    if len(flat) and (flat.min() < 0 or flat.max() >= len(vertices)):
        wrong = int(flat[(flat < 0) | (flat >= len(vertices))][0])
        raise MeshError(
            f"a face names point {wrong}, which does not exist (there are {len(vertices):,}, counted from 0)"
        )
    if not len(triangles):
        return []  # it was to be a mesh
    piece = FilePiece("all", vertices, flat[triangles], normals, found)
    sizes = np.full(len(corners), corners.shape[1]) if corners.dtype != object else np.array([len(c) for c in corners])
    of_corners: dict[str, Floats] = {}
    uv = _corner_uv(faces, len(flat), report)
    if uv is not None:
        of_corners["uv"] = uv
    plain = [name for name in faces if name not in (*CORNERS, CORNER_UV)]
    for name in plain:
        if faces[name].ndim != 1 or faces[name].dtype == object:
            report.add("dropped", f"“{name}” of the faces: a list for each of them")
    numbers = [name for name in plain if faces[name].ndim == 1 and faces[name].dtype != object]
    for name, members in grouped(numbers).items():
        each = np.stack([faces[member] for member in members], axis=1)
        keep_attribute(of_corners, name, np.repeat(each, sizes, axis=0), len(flat), report)
        report.add("changed", f"“{name}” of the faces: kept at their corners, so that it ends where they do")
    return [_with_corner_data(piece, of_corners, flat, triangles, report)]


def counts_claimed(data: bytes) -> dict[str, int]:
    """How many of each element the header says there are."""
    head = data[: max(data.find(b"end_header"), 0)].decode("ascii", "replace")
    found = {}
    for line in head.splitlines():
        words = line.split()
        if len(words) == 3 and words[0] == "element" and words[2].isdigit():
            found[words[1]] = int(words[2])
    return found


def _elements(data: bytes) -> Mapping[str, Columns]:
    """Every element with its columns."""
    mixed = read_mixed(data)
    if mixed is not None:
        return mixed
    try:
        raw = load_ply(io.BytesIO(data), fix_texture=False, skip_materials=True)["metadata"]["_ply_raw"]
    except Exception:
        # Whatever it stumbles on: the file is read once more, row by row, which says where it is wrong.
        by_rows = read_text(data) or read_mixed(data, even=True)
        if by_rows is None:
            raise
        return by_rows
    return {name: _columns(element) for name, element in raw.items() if element["length"]}


def _columns(element: Mapping[str, Any]) -> Columns:
    held = element.get("data")
    if held is None:
        return {}
    if not isinstance(held, dict):
        # A list in a binary file is a pair of its length and its values.
        return {name: held[name]["f1"] if held[name].dtype.names else held[name] for name in held.dtype.names or ()}
    # A text file's numbers come as floats, whatever its header calls them.
    found = {}
    for name, values in held.items():
        kind = element["properties"][name]
        found[name] = _listed(values) if "," in kind else np.asarray(values).reshape(element["length"]).astype(kind)
    return found


def _listed(values: Any) -> npt.NDArray[Any]:
    if isinstance(values, np.ndarray) and values.ndim == 2:
        return values
    made = np.empty(len(values), object)
    made[:] = [np.asarray(each) for each in values]
    return made


def _triangles(corners: npt.NDArray[Any], report: ImportReport) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.int64]]:
    """All corners in a row `(c,)`, the point of each, and triangles `(f, 3)` as places in that row."""
    if corners.dtype != object:
        flat = np.ascontiguousarray(corners, np.int64).ravel()
        if corners.shape[1] < 3:
            raise MeshError(f"its faces have {count(corners.shape[1], 'corner')}; a face needs three")
        places: Any = np.arange(len(flat)).reshape(corners.shape)
        sizes = np.full(1, corners.shape[1])
    else:
        sizes = np.array([len(face) for face in corners])
        flat = np.concatenate(list(corners)).astype(np.int64)
        starts = np.cumsum(sizes) - sizes
        places = [np.arange(start, start + size) for start, size in zip(starts, sizes, strict=True) if size > 2]
        if np.any(sizes < 3):
            report.add(
                "dropped",
                count(int(np.sum(sizes < 3)), "face of fewer than three corners", "faces of fewer than three corners"),
            )
    if np.any(sizes > 3):
        report.add("changed", "faces of more than three corners are cut into triangles")
    if corners.dtype != object and corners.shape[1] > 4:
        places = list(places)
    triangles = np.asarray(triangulate_quads(places), np.int64).reshape(-1, 3)
    return flat, triangles


def _corner_uv(faces: Columns, count_of_corners: int, report: ImportReport) -> Floats | None:
    """Texture coordinates that lie at the corners of faces, `(c, 2)`."""
    held = faces.get(CORNER_UV)
    if held is None:
        return None
    row = np.concatenate(list(held)) if held.dtype == object else held.ravel()
    if len(row) != 2 * count_of_corners:
        report.add(
            "dropped",
            f"texture coordinates of corners: {len(row):,} numbers for {count_of_corners:,} corners, not two for each",
        )
        return None
    return np.asarray(row, np.float32).reshape(-1, 2)


def _with_corner_data(
    piece: FilePiece,
    of_corners: Mapping[str, Floats],
    flat: npt.NDArray[np.int64],
    triangles: npt.NDArray[np.int64],
    report: ImportReport,
) -> FilePiece:
    """The piece with what lies at the corners of faces: a point with several values becomes several points."""
    if not of_corners:
        return piece
    kind = np.zeros(len(flat), np.int64)
    for values in of_corners.values():
        rows = np.ascontiguousarray(values + np.float32(0)).view(np.uint32)  # −0 and 0 are one place
        for column in rows.T:
            _, number = np.unique(column, return_inverse=True)
            _, kind = np.unique(kind * (int(number.max()) + 1) + number, return_inverse=True)
    pair = flat * (int(kind.max()) + 1) + kind
    _, first, number = np.unique(pair, return_index=True, return_inverse=True)
    used = len(np.unique(flat))
    more = len(first) - used
    if used < len(piece.vertices):
        report.add("dropped", f"{count(len(piece.vertices) - used, 'point')} that no face uses")
    if more:
        seam = ["texture coordinates meet in a seam"] if "uv" in of_corners else []
        change = ["what faces carry changes"] if set(of_corners) - {"uv"} else []
        report.add("made", f"{count(more, 'point')} more where {' or '.join(seam + change)}")
    points = flat[first]
    attributes = {name: values[points] for name, values in piece.attributes.items() if name not in of_corners}
    for name in piece.attributes.keys() & of_corners.keys():
        called = "texture coordinates" if name == "uv" else f"“{name}”"
        report.add("dropped", f"{called} of points: those of the corners are read")
    for name, values in of_corners.items():
        keep_attribute(attributes, name, values[first], len(first), report)
    normals = piece.normals
    if normals is None and more and set(of_corners) != {"uv"}:
        # Before it comes apart: what faces carry must not make their edges hard.
        normals = vertex_normals(np.asarray(piece.vertices, np.float32), flat[triangles].astype(np.int32))
        report.add("made", "normals, from the faces around each point")
    return FilePiece(
        piece.name, piece.vertices[points], number[triangles], None if normals is None else normals[points], attributes
    )


def _together(columns: Columns, names: tuple[str, ...]) -> npt.NDArray[Any] | None:
    """Columns side by side, or None where one is not there."""
    return np.stack([columns[name] for name in names], axis=1) if all(name in columns for name in names) else None


def _carried(points: Columns, number: int, report: ImportReport) -> dict[str, Floats]:
    found: dict[str, Floats] = {}
    taken = {"x", "y", "z"}
    if all(name in points for name in ("nx", "ny", "nz")):
        taken |= {"nx", "ny", "nz"}
    colours = _together(points, ("red", "green", "blue", "alpha"))
    colours = _together(points, ("red", "green", "blue")) if colours is None else colours
    if colours is not None:
        keep_colours(found, colours, report)
        taken |= {"red", "green", "blue", "alpha"} if colours.shape[1] > 3 else {"red", "green", "blue"}
    for pair in UV_NAMES:
        uv = _together(points, pair)
        if uv is not None and "uv" not in found:
            keep_attribute(found, "uv", uv, number, report)
            taken |= set(pair)
    rest = [name for name in points if name not in taken and points[name].ndim == 1 and points[name].dtype != object]
    for name in points:
        if name not in taken and name not in rest:
            keep_attribute(found, name, points[name], number, report)
    for name, members in grouped(rest).items():
        keep_attribute(found, name, np.stack([points[each] for each in members], axis=1), number, report)
    return found
