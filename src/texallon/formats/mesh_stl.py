"""STL files, with text or with numbers: loose triangles, whose points are joined where they lie in one place and are not bent sharply."""

import re

import numpy as np
import numpy.typing as npt

from texallon.core.geometry.geometry import MeshSize
from texallon.core.geometry.mesh import MeshError
from texallon.core.geometry.smooth_normals import smooth_normals
from texallon.formats.import_report import ImportReport, count
from texallon.formats.mesh_piece import FilePiece

HEADER, RECORD = 84, 50
"""Bytes before the first triangle, and of each."""

CREASE = 40.0
"""Degrees: faces that are bent more keep an edge between them (common practice, no published source)."""

SOLID = re.compile(rb"^[ \t]*solid\b[ \t]*([^\r\n]*)(.*?)^[ \t]*endsolid\b", re.MULTILINE | re.DOTALL)
NUMBER = rb"[ \t]+([-+0-9.eE]{1,40}|[-+]?nan|[-+]?inf(?:inity)?)"
VERTEX = re.compile(rb"^[ \t]*vertex" + NUMBER * 3 + rb"[ \t]*\r?$", re.MULTILINE | re.IGNORECASE)

TRIANGLE = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("more", "<u2")])


def is_stl(data: bytes) -> bool:
    """Whether the length is that of as many triangles as are promised; or it begins as the text does and has a facet.

    Parameters
    ----------
    data : bytes
        The file, or its beginning with the length of the whole unknown.
    """
    return _is_binary(data) or (data[:5] == b"solid" and re.search(rb"\bfacet\b", data[:65536]) is not None)


def stl_size(data: bytes, length: int) -> MeshSize:
    """How many triangles there are, and no more points than three for each.

    Parameters
    ----------
    data : bytes
        The whole of a text; of numbers the header is enough.
    length : int
        Of the whole file.
    """
    triangles = _promised(data) if _promised(data) * RECORD + HEADER == length else data.count(b"endfacet")
    return MeshSize(3 * triangles, triangles)


def pieces_of_stl(data: bytes, report: ImportReport) -> list[FilePiece]:
    """The solids of an STL file; raises `MeshError`."""
    solids = [("solid", _corners_of_numbers(data, report))] if _is_binary(data) else _solids_of_text(data)
    pieces = [_piece(name, corners) for name, corners in solids if len(corners)]
    if pieces:
        report.add(
            "made",
            f"normals, by the angles of the faces about each point; edges that are bent by more than {CREASE:g}° stay sharp",
        )
        loose = sum(3 * len(piece.faces) for piece in pieces)
        report.add(
            "changed",
            f"{count(loose, 'loose corner')} joined to {count(sum(len(p.vertices) for p in pieces), 'point')}",
        )
        report.add("dropped", "the normals of the triangles: they follow from their corners")
    return pieces


def _promised(data: bytes) -> int:
    return int.from_bytes(data[80:84], "little") if len(data) >= HEADER else 0


def _is_binary(data: bytes) -> bool:
    return len(data) > HEADER and _promised(data) * RECORD + HEADER == len(data)


def _corners_of_numbers(data: bytes, report: ImportReport) -> npt.NDArray[np.float32]:
    read = np.frombuffer(data, TRIANGLE, offset=HEADER)
    if read["more"].any():
        report.add("dropped", "two bytes beside each triangle, which the format gives no meaning")
    return read["corners"].reshape(-1, 3)


def _solids_of_text(data: bytes) -> list[tuple[str, npt.NDArray[np.float32]]]:
    found = []
    for solid in SOLID.finditer(data):
        name, body = solid[1].decode("utf-8", "replace").strip(), solid[2]
        corners = VERTEX.findall(body)
        if len(corners) != body.count(b"vertex") or len(corners) != 3 * body.count(b"endfacet"):
            line = data.count(b"\n", 0, solid.start()) + 1
            raise MeshError(
                f"the solid that begins at line {line} has a facet that is not three points of three numbers each"
            )
        with np.errstate(over="ignore"):
            found.append((name or "solid", np.array(corners, np.float64).astype(np.float32).reshape(-1, 3)))
    if not found:
        raise MeshError("the text has no solid that ends with “endsolid”")
    return found


def _piece(name: str, corners: npt.NDArray[np.float32]) -> FilePiece:
    """Corners `(3 f, 3)` with the same place and normal become one point; triangles without area are left out."""
    a, b, c = corners[0::3], corners[1::3], corners[2::3]
    whole = np.repeat(~((a == b).all(1) | (b == c).all(1) | (c == a).all(1)), 3)
    corners = corners[whole]
    if not len(corners) or not np.isfinite(corners).all():
        return FilePiece(name, corners, np.arange(len(corners)).reshape(-1, 3))
    faces = np.arange(len(corners), dtype=np.int32).reshape(-1, 3)
    normals = smooth_normals(corners, faces, CREASE)
    rows = np.concatenate([corners.view(np.int32), np.round(normals * 1e3).astype(np.int32)], axis=1)
    _, first, point = np.unique(rows, axis=0, return_index=True, return_inverse=True)
    return FilePiece(name, corners[first], point.reshape(-1, 3).astype(np.int64), normals[first])
