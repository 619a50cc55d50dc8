"""GLB files: binary glTF 2.0 in one piece, with its node transforms, colours and custom attributes."""

import io
import json
import struct
from typing import Any

import numpy as np
import trimesh

from texallon.core.geometry.geometry import MeshSize
from texallon.core.geometry.mesh import MeshError
from texallon.formats.import_report import ImportReport, count
from texallon.formats.mesh_piece import FilePiece, Floats, keep_attribute, keep_colours

MOST_NODES = 10_000
TRIANGLE_MODES = (4, 5)
"""Primitives of triangles and strips of them (glTF 2.0, 3.7.2.1); points, lines and fans are left out."""
NOT_READ = {
    "JOINTS": "joint numbers of a skin",
    "WEIGHTS": "weights of a skin",
    "TANGENT": "tangents: they are made from the UVs",
}
LISTS = {
    "materials": "material",
    "textures": "texture",
    "images": "picture",
    "cameras": "camera",
    "animations": "animation",
    "skins": "skin",
}
READ_EXTENSIONS = frozenset(
    {"KHR_mesh_quantization", "KHR_materials_unlit", "KHR_texture_transform", "KHR_lights_punctual"}
)
"""Required extensions with which the geometry is still read right."""


def read_tree(data: bytes, whole: bool = True) -> dict[str, Any]:
    """The JSON chunk of a GLB file, of which all is given unless not `whole`.

    Raises `MeshError` where it is cut short, of another version or points to other files.
    """
    try:
        magic, version, length = struct.unpack("<4sII", data[:12])
        chunk_length, chunk_kind = struct.unpack("<I4s", data[12:20])
        if magic != b"glTF" or version != 2 or (whole and length > len(data)) or chunk_kind != b"JSON":
            raise MeshError("this GLB file is cut short or not of version 2")
        tree = json.loads(data[20 : 20 + chunk_length])
    except (struct.error, ValueError, RecursionError) as error:
        raise MeshError(f"this GLB file can't be read: {str(error)[:120]}") from error
    if not isinstance(tree, dict):
        raise MeshError("this GLB file can't be read: its JSON is no object")
    try:
        _check_tree(tree)
    except (AttributeError, KeyError, TypeError, ValueError) as error:
        if isinstance(error, MeshError):
            raise
        raise MeshError(
            f"this GLB file can't be read: its JSON is not as glTF 2.0 has it ({str(error)[:120]})"
        ) from error
    return tree


def _check_tree(tree: dict[str, Any]) -> None:
    if any("uri" in buffer for buffer in tree.get("buffers", [])):
        raise MeshError("this GLB file keeps its data in other files; export it in one piece")
    unknown = [str(name)[:80] for name in tree.get("extensionsRequired", []) if name not in READ_EXTENSIONS]
    if unknown:
        raise MeshError(f"this GLB file needs the extension “{unknown[0]}”, which is not read; export it without")


def size_claimed(tree: dict[str, Any]) -> MeshSize:
    """How many points and triangles the file says it has, before any is made room for; each node that shows a mesh counts."""
    accessors = tree.get("accessors", [])

    def counted(index: Any) -> int:
        return int(accessors[index].get("count", 0)) if isinstance(index, int) and 0 <= index < len(accessors) else 0

    of_mesh = []
    for mesh in tree.get("meshes", []):
        points = triangles = 0
        for primitive in mesh.get("primitives", []):
            position = primitive.get("attributes", {}).get("POSITION")
            points += counted(position)
            triangles += counted(primitive.get("indices", position)) // 3
        of_mesh.append(MeshSize(points, triangles))
    shown = [node.get("mesh") for node in tree.get("nodes", [])]
    placed = [of_mesh[number] for number in shown if isinstance(number, int) and 0 <= number < len(of_mesh)]
    return MeshSize(
        max(sum(each.points for each in some) for some in (placed, of_mesh)),
        max(sum(each.triangles for each in some) for some in (placed, of_mesh)),
    )


def pieces_of_glb(data: bytes, report: ImportReport) -> list[FilePiece]:
    """A piece for each primitive at each node that shows it, in place; raises what its reader stumbles on."""
    _tell_left_out(read_tree(data), report)
    loaded = trimesh.load_scene(io.BytesIO(data), file_type="glb", process=False)
    nodes = loaded.graph.nodes_geometry
    if len(nodes) > MOST_NODES:
        raise MeshError(f"the file has more than {MOST_NODES:,} pieces")
    pieces = []
    moved = 0
    for node in nodes:
        matrix, name = loaded.graph[node]
        held = loaded.geometry[name]
        if not isinstance(held, trimesh.Trimesh) or not len(held.faces):
            continue
        had_normals = "vertex_normals" in held._cache
        placed = held.copy(include_cache=True)
        if not np.allclose(matrix, np.eye(4)):
            placed.apply_transform(matrix)
            moved += 1
        normals = np.asarray(placed.vertex_normals) if had_normals else None
        pieces.append(
            FilePiece(
                str(name), np.asarray(placed.vertices), np.asarray(placed.faces), normals, _carried(placed, report)
            )
        )
    if moved:
        report.add("changed", f"the places of {count(moved, 'node')} are worked into the points")
    return pieces


def _tell_left_out(tree: dict[str, Any], report: ImportReport) -> None:
    for key, what in LISTS.items():
        number = len(tree.get(key, []))
        if number:
            report.add("dropped", count(number, what))
    for mesh in tree.get("meshes", []):
        for primitive in mesh.get("primitives", []):
            if primitive.get("targets"):
                report.add("dropped", "morph targets: the mesh comes in as it rests")
            if primitive.get("mode", 4) not in TRIANGLE_MODES:
                report.add("dropped", "points, lines or fans of triangles")
            for name in primitive.get("attributes", {}):
                stem, _, number = str(name).partition("_")
                if stem in NOT_READ:
                    report.add("dropped", NOT_READ[stem])
                elif stem in ("TEXCOORD", "COLOR") and number not in ("", "0"):
                    report.add("dropped", f"“{name}”: only the first set is read")


def _carried(placed: trimesh.Trimesh, report: ImportReport) -> dict[str, Floats]:
    found: dict[str, Floats] = {}
    points = len(placed.vertices)
    visual = placed.visual
    uv = getattr(visual, "uv", None)
    if uv is not None and len(uv) == points:
        keep_attribute(found, "uv", np.asarray(uv)[:, :2], points, report)
    colours = getattr(visual, "vertex_colors", None) if visual.kind == "vertex" else None
    if colours is None:
        colours = getattr(visual, "vertex_attributes", {}).get("color")
    if colours is not None and len(colours) == points:
        keep_colours(found, np.asarray(colours), report)
    for name, values in placed.vertex_attributes.items():
        if name == "color" and "color" in found:
            continue
        keep_attribute(found, name.removeprefix("_").lower() if name.startswith("_") else name, values, points, report)
    return found
