"""Meshes from OBJ, PLY, STL and GLB files, particles from PLY and CSV files: checked before they are believed, and limited in size and count.

What a file says it is and what it holds must agree: the format is recognised by its first bytes, the ending only has to match.
Vertex colours become the attribute `color` (scene-linear), texture coordinates `uv`, and further data per vertex attributes
of their own names. An import report says what was kept, made, changed and dropped.
"""

from pathlib import Path

import numpy as np
import numpy.typing as npt
import trimesh

from texallon.core.geometry.mesh import Mesh, MeshError, make_mesh, make_points, vertex_normals
from texallon.formats.import_report import ImportReport, count
from texallon.formats.mesh_glb import pieces_of_glb, read_tree, size_claimed
from texallon.formats.mesh_obj import check_indices, pieces_of_obj
from texallon.formats.mesh_piece import FilePiece, without_unused
from texallon.formats.mesh_ply import counts_claimed, pieces_of_ply
from texallon.formats.mesh_stl import is_stl, pieces_of_stl, stl_size
from texallon.formats.particles_csv import is_csv, pieces_of_csv, rows_of_csv

LARGEST_FILE = 256_000_000
MOST_TRIANGLES = 1_000_000
MOST_POINTS = 3_000_000
KINDS = ("obj", "ply", "stl", "glb", "csv")
READERS = {
    "obj": pieces_of_obj,
    "ply": pieces_of_ply,
    "stl": pieces_of_stl,
    "glb": pieces_of_glb,
    "csv": pieces_of_csv,
}


def read_mesh(path: Path) -> Mesh:
    """The mesh in a file, all its pieces joined; raises `MeshError` in words for a person."""
    size = path.stat().st_size
    if size > LARGEST_FILE:
        raise MeshError(f"the file has {size / 1e6:.0f} MB; at most {LARGEST_FILE / 1e6:.0f} MB are read")
    return parse_mesh(path.read_bytes(), path.suffix.lower().removeprefix("."))


def parse_mesh(data: bytes, kind: str, report: ImportReport | None = None) -> Mesh:
    """The mesh in a file's bytes.

    Raises `MeshError`, in words for a person, for what can't be used.

    Parameters
    ----------
    data : bytes
        The file, at most 256 MB.
    kind : {"obj", "ply", "stl", "glb", "csv"}
        What its name says it is; must be what the bytes are.
    report : ImportReport, optional
        Gets a line for everything in the file.

    Returns
    -------
    Mesh
        All pieces joined; each is a part. Particles are a mesh without faces.
    """
    report = ImportReport() if report is None else report
    if kind not in KINDS:
        raise MeshError(not_of_ours(kind))
    if len(data) > LARGEST_FILE:
        raise MeshError(f"the file has {len(data) / 1e6:.0f} MB; at most {LARGEST_FILE / 1e6:.0f} MB are read")
    found = sniff(data)
    if found != kind:
        known = f"it looks like {found.upper()}" if found else "its contents are none of OBJ, PLY, STL, GLB and CSV"
        raise MeshError(f"this is not a {kind.upper()} file: {known}")
    _check_claims(data, kind)
    try:
        read = READERS[kind](data, report)
        if kind in ("ply", "csv") and len(read) == 1 and not len(read[0].faces) and len(read[0].vertices):
            return _particles(read[0], report)
        pieces = [without_unused(piece, report) for piece in read if len(piece.faces)]
    except (MeshError, MemoryError):
        raise
    except Exception as error:  # the reader raises whatever its own parsing stumbles on
        raise MeshError(f"the {kind.upper()} file can't be read: {str(error)[:200] or type(error).__name__}") from error
    if not pieces:
        raise MeshError("the file has no faces")
    return _join(pieces, kind, report)


def not_of_ours(kind: str) -> str:
    """What is said about a file that is neither mesh nor particles by its name."""
    return (
        f"a mesh comes as OBJ, PLY, STL or GLB, particles as PLY or CSV, not as “{kind or 'a file without an ending'}”"
    )


def sniff(data: bytes) -> str:
    """`ply`, `glb`, `stl`, `csv` or `obj` by the first bytes, or nothing."""
    if data[:4] == b"glTF":
        return "glb"
    if data[:4] in (b"ply\n", b"ply\r"):
        return "ply"
    if is_stl(data):
        return "stl"
    head = data[:65536]
    if b"\0" in head:
        return ""
    if is_csv(head):
        return "csv"
    words = {line.split(None, 1)[0] for line in head.splitlines() if line.strip()}
    return "obj" if words and words & {b"v", b"f"} else ""


def _check_claims(data: bytes, kind: str) -> None:
    """Refuse what a header claims before anything of that size is made room for."""
    if kind == "ply":
        for name, number in counts_claimed(data).items():
            _check_count(number, "points" if name == "vertex" else "triangles")
            if name in ("vertex", "face") and number > len(data):
                raise MeshError(f"the header promises {number} × {name}, more than the file can hold")
    elif kind == "obj":
        _check_count(data.count(b"\nv "), "points")
        _check_count(data.count(b"\nf "), "triangles")
        check_indices(data)
    elif kind == "stl":
        _check_count(stl_size(data, len(data)).triangles, "triangles")
    elif kind == "csv":
        _check_count(rows_of_csv(data), "points")
    else:
        size = size_claimed(read_tree(data))
        _check_count(size.triangles, "triangles")
        _check_count(size.points, "points")


def _check_count(number: int, what: str) -> None:
    most = MOST_TRIANGLES if what == "triangles" else MOST_POINTS
    if number > most:
        raise MeshError(f"the file has {number:,} {what}; at most {most:,} are read")


def _join(pieces: list[FilePiece], kind: str, report: ImportReport) -> Mesh:
    _check_count(sum(len(piece.faces) for piece in pieces), "triangles")
    _check_count(sum(len(piece.vertices) for piece in pieces), "points")
    starts = np.cumsum([0, *[len(piece.vertices) for piece in pieces]])[:-1]
    attributes = _joined_attributes(pieces, report)
    part_names, part_of_face = _parts(pieces)
    mesh = make_mesh(
        np.concatenate([piece.vertices for piece in pieces]),
        np.concatenate([piece.faces + start for piece, start in zip(pieces, starts, strict=True)]),
        _joined_normals(pieces, report),
        attributes.pop("uv", None),
        attributes,
        part_names if kind != "ply" else ("all",),
        part_of_face,
    )
    _tell_kept(mesh, report)
    return mesh


def _particles(piece: FilePiece, report: ImportReport) -> Mesh:
    _check_count(len(piece.vertices), "points")
    made = make_points(piece.vertices, piece.attributes)
    report.add("kept", f"{count(len(made.vertices), 'particle')}")
    if "radius" not in made.attributes:
        report.add("made", "one radius for all particles, as none of them carries its own")
    _tell_attributes(made, report, "particle")
    return made


def _joined_attributes(pieces: list[FilePiece], report: ImportReport) -> dict[str, npt.NDArray[np.float32]]:
    """Attributes of all pieces, 0 where a piece lacks one."""
    widths = {
        name: max(each.attributes[name].shape[1] for each in pieces if name in each.attributes)
        for piece in pieces
        for name in piece.attributes
    }
    joined = {}
    for name, width in widths.items():
        rows = []
        for piece in pieces:
            values = np.zeros((len(piece.vertices), width), np.float32)
            if name in piece.attributes:
                held = piece.attributes[name]
                values[:, : held.shape[1]] = held
            rows.append(values)
        lacking = sum(name not in piece.attributes for piece in pieces)
        if lacking:
            report.add("made", f"“{name}” is 0 on {count(lacking, 'part')} without it")
        joined[name] = np.concatenate(rows)
    return joined


def _joined_normals(pieces: list[FilePiece], report: ImportReport) -> npt.NDArray[np.float32] | None:
    """The file's normals, made from the faces where a piece has none; None where no piece has any."""
    lacking = [piece for piece in pieces if piece.normals is None]
    if lacking:
        where = f" of {count(len(lacking), 'part')}" if len(lacking) < len(pieces) else ""
        report.add("made", f"normals{where}, from the faces around each point")
    if len(lacking) == len(pieces):
        return None
    return np.concatenate(
        [
            vertex_normals(np.asarray(piece.vertices, np.float32), np.asarray(piece.faces, np.int32))
            if piece.normals is None
            else np.asarray(piece.normals, np.float32)
            for piece in pieces
        ]
    )


def _parts(pieces: list[FilePiece]) -> tuple[tuple[str, ...], npt.NDArray[np.int32]]:
    names: list[str] = []
    of_face = []
    for number, piece in enumerate(pieces):
        label = "".join(c for c in piece.name if c.isprintable() and c != "/")[:80] or f"part {number + 1}"
        if label not in names:
            names.append(label)
        of_face.append(np.full(len(piece.faces), names.index(label), np.int32))
    return tuple(names), np.concatenate(of_face)


def _tell_kept(mesh: Mesh, report: ImportReport) -> None:
    report.add("kept", f"{count(len(mesh.faces), 'triangle')}, {count(len(mesh.vertices), 'point')}")
    if not any("normals" in line for line in report.made):
        report.add("kept", "normals")
    if mesh.uv is not None:
        report.add("kept", "texture coordinates (UV)")
    if len(mesh.part_names) > 1:
        report.add(
            "kept",
            f"{len(mesh.part_names)} parts: {', '.join(mesh.part_names[:8])}{'…' if len(mesh.part_names) > 8 else ''}",
        )
    _tell_attributes(mesh, report, "point")


def _tell_attributes(mesh: Mesh, report: ImportReport, of: str) -> None:
    for name, values in mesh.attributes.items():
        what = "a number" if values.shape[1] == 1 else f"{values.shape[1]} numbers"
        report.add("kept", f"“{name}”: {what} per {of}, {values.min():.4g}…{values.max():.4g}")


def write_glb(path: Path, mesh: Mesh) -> None:
    """Write a mesh with its normals, texture coordinates and attributes as binary glTF 2.0."""
    visual = trimesh.visual.TextureVisuals(uv=mesh.uv) if mesh.uv is not None else None
    made = trimesh.Trimesh(
        vertices=mesh.vertices,
        faces=mesh.faces,
        vertex_normals=mesh.normals,
        visual=visual,
        vertex_attributes={f"_{name}": values.squeeze() for name, values in mesh.attributes.items()},
        process=False,
    )
    path.write_bytes(made.export(file_type="glb", include_normals=True))
