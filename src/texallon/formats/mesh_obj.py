"""OBJ files: points, faces, texture coordinates, normals, and colours that stand behind the points."""

import io
import re
from typing import Any

import numpy as np
from trimesh.exchange.obj import load_obj
from trimesh.geometry import triangulate_quads

from texallon.core.geometry.mesh import MeshError
from texallon.formats.import_report import ImportReport, count
from texallon.formats.mesh_piece import FilePiece, Floats, keep_attribute, keep_colours

MOST_OBJECTS = 64
"""Objects that become parts of their own names; a file of more is one part."""

LEFT_OUT = {
    b"usemtl": "use of materials",
    b"mtllib": "material file",
    b"l": "line",
    b"p": "single point",
    b"curv": "curve",
    b"surf": "surface given by a formula",
    b"s": "smoothing group",
}
"""Statements of the format that a triangle mesh has no place for, in words."""


def pieces_of_obj(data: bytes, report: ImportReport) -> list[FilePiece]:
    """The objects of an OBJ file, or one piece where it names none or more than 64; raises what its reader stumbles on."""
    objects = data.count(b"\no ") + data.startswith(b"o ")
    split = 1 < objects <= MOST_OBJECTS
    if objects > MOST_OBJECTS:
        report.add("dropped", f"the names of {objects:,} objects: up to {MOST_OBJECTS} become parts")
    _tell_left_out(data, report)
    # Keeping the order of points would take the middle of what meets at a seam of texture coordinates.
    loaded = load_obj(io.BytesIO(data), maintain_order=False, skip_materials=True, split_objects=split)
    has = {word: re.search(rb"^%s[ \t]" % word, data, re.MULTILINE) is not None for word in (b"vt", b"vn")}
    return [
        _piece(str(name), held, has, report) for name, held in loaded.get("geometry", {}).items() if "faces" in held
    ]


def check_indices(data: bytes) -> None:
    """Refuse faces that name the point 0: OBJ counts from 1 (and back from −1), and a reader would take the last point for it."""
    wrong = re.search(rb"^f[^\n]*[ \t]0+(?:/|[ \t\r]|$)", data, re.MULTILINE)
    if wrong is not None:
        line = data.count(b"\n", 0, wrong.start()) + 1
        raise MeshError(f"line {line} of the OBJ file names point 0; points are counted from 1")


def _tell_left_out(data: bytes, report: ImportReport) -> None:
    for word, what in LEFT_OUT.items():
        found = len(re.findall(rb"^%s[ \t]" % word, data, re.MULTILINE))
        if found:
            report.add(
                "dropped", count(found, what, f"{what}s" if not what.startswith("use ") else "uses of materials")
            )
    if re.search(rb"^f(?:[ \t]+[^ \t\r\n]+){4,}", data, re.MULTILINE):
        report.add("changed", "faces of more than three corners are cut into triangles")


def _piece(name: str, held: dict[str, Any], has: dict[bytes, bool], report: ImportReport) -> FilePiece:
    vertices = np.asarray(held["vertices"])
    found: dict[str, Floats] = {}
    uv = getattr(held.get("visual"), "uv", None)
    if uv is not None:
        keep_attribute(found, "uv", uv, len(vertices), report)
    elif has[b"vt"]:
        report.add("dropped", f"texture coordinates of “{name}”: not every corner of its faces names one that exists")
    normals = held.get("vertex_normals")
    if normals is None and has[b"vn"]:
        report.add("dropped", f"normals of “{name}”: not every corner of its faces names one that exists")
    colours = held.get("vertex_colors")
    if colours is not None:
        keep_colours(found, np.asarray(colours), report)
    return FilePiece(name, vertices, triangulate_quads(held["faces"]), normals, found)
