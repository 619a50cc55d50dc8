"""Meshes from OBJ, PLY and GLB files: checked before they are believed, and limited in size and count.

What a file says it is and what it holds must agree: the format is recognised by its first bytes, the ending only has to match.
Vertex colours become the attribute `color` (scene-linear), texture coordinates `uv`, and further data per vertex of PLY
and GLB files attributes of their own names. Materials, cameras and anything else in a file are left out.
"""

import io
import json
import re
import struct
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt
import trimesh

from texallon.core.geometry.mesh import Mesh, MeshError, make_mesh

LARGEST_FILE = 256_000_000
MOST_TRIANGLES = 1_000_000
MOST_POINTS = 3_000_000
MOST_PARTS = 64
KINDS = ("obj", "ply", "glb")


def read_mesh(path: Path) -> Mesh:
    """The mesh in a file, all its pieces joined; raises `MeshError` in words for a person."""
    size = path.stat().st_size
    if size > LARGEST_FILE:
        raise MeshError(f"the file has {size / 1e6:.0f} MB; at most {LARGEST_FILE / 1e6:.0f} MB are read")
    return parse_mesh(path.read_bytes(), path.suffix.lower().removeprefix("."))


def parse_mesh(data: bytes, kind: str) -> Mesh:
    """The mesh in a file's bytes; `kind` is `obj`, `ply` or `glb`, and must be what the bytes are."""
    if kind not in KINDS:
        raise MeshError(f"a mesh comes as OBJ, PLY or GLB, not as “{kind or 'a file without an ending'}”")
    if len(data) > LARGEST_FILE:
        raise MeshError(f"the file has {len(data) / 1e6:.0f} MB; at most {LARGEST_FILE / 1e6:.0f} MB are read")
    found = sniff(data)
    if found != kind:
        known = f"it looks like {found.upper()}" if found else "its contents are none of OBJ, PLY and GLB"
        raise MeshError(f"this is not a {kind.upper()} file: {known}")
    _check_claims(data, kind)
    try:
        loaded = trimesh.load(io.BytesIO(data), file_type=kind, process=False, **_options(data, kind))
        pieces = _pieces(loaded)
    except MeshError:
        raise
    except Exception as error:  # the reader raises whatever its own parsing stumbles on
        raise MeshError(f"the {kind.upper()} file can't be read: {str(error)[:200] or type(error).__name__}") from error
    if not pieces:
        raise MeshError("the file has no faces")
    return _join(pieces, kind)


def sniff(data: bytes) -> str:
    """`ply`, `glb` or `obj` by the first bytes, or nothing."""
    if data[:4] == b"glTF":
        return "glb"
    if data[:4] in (b"ply\n", b"ply\r"):
        return "ply"
    head = data[:65536]
    if b"\0" in head:
        return ""
    words = {line.split(None, 1)[0] for line in head.splitlines() if line.strip()}
    return "obj" if words and words & {b"v", b"f"} else ""


def _options(data: bytes, kind: str) -> dict[str, bool]:
    """Options for the reader: OBJ files are split into their objects, unless there are very many."""
    if kind != "obj":
        return {}
    objects = data.count(b"\no ") + data.startswith(b"o ")
    return {"maintain_order": True, "skip_materials": True, "split_objects": 1 < objects <= MOST_PARTS}


def _check_claims(data: bytes, kind: str) -> None:
    """Refuse what a header claims before anything of that size is made room for."""
    if kind == "ply":
        head = data[: data.find(b"end_header")].decode("ascii", "replace")
        for line in head.splitlines():
            words = line.split()
            if len(words) == 3 and words[0] == "element" and words[2].isdigit():
                _check_count(int(words[2]), "points" if words[1] == "vertex" else "triangles")
                if words[1] in ("vertex", "face") and int(words[2]) > len(data):
                    raise MeshError(f"the header promises {words[2]} × {words[1]}, more than the file can hold")
    elif kind == "obj":
        _check_count(data.count(b"\nv "), "points")
        _check_count(data.count(b"\nf "), "triangles")
        _check_obj_indices(data)
    else:
        _check_glb(data)


def _check_obj_indices(data: bytes) -> None:
    """Refuse faces that name the point 0: OBJ counts from 1 (and back from −1), and a reader would take the last point for it."""
    wrong = re.search(rb"^f[^\n]*[ \t]0+(?:/|[ \t\r]|$)", data, re.MULTILINE)
    if wrong is not None:
        line = data.count(b"\n", 0, wrong.start()) + 1
        raise MeshError(f"line {line} of the OBJ file names point 0; points are counted from 1")


def _check_count(count: int, what: str) -> None:
    most = MOST_TRIANGLES if what == "triangles" else MOST_POINTS
    if count > most:
        raise MeshError(f"the file has {count:,} {what}; at most {most:,} are read")


def _check_glb(data: bytes) -> None:
    try:
        magic, version, length = struct.unpack("<4sII", data[:12])
        chunk_length, chunk_kind = struct.unpack("<I4s", data[12:20])
        if magic != b"glTF" or version != 2 or length > len(data) or chunk_kind != b"JSON":
            raise MeshError("this GLB file is cut short or not of version 2")
        tree: dict[str, Any] = json.loads(data[20 : 20 + chunk_length])
    except (struct.error, ValueError) as error:
        raise MeshError(f"this GLB file can't be read: {error}") from error
    if any("uri" in buffer for buffer in tree.get("buffers", [])):
        raise MeshError("this GLB file keeps its data in other files; export it in one piece")
    accessors = tree.get("accessors", [])
    triangles = 0
    for mesh in tree.get("meshes", []):
        for primitive in mesh.get("primitives", []):
            index = primitive.get("indices", primitive.get("attributes", {}).get("POSITION"))
            if isinstance(index, int) and 0 <= index < len(accessors):
                triangles += int(accessors[index].get("count", 0)) // 3
    _check_count(triangles, "triangles")


def _pieces(loaded: Any) -> list[trimesh.Trimesh]:
    if isinstance(loaded, trimesh.Scene):
        if len(loaded.graph.nodes_geometry) > 10_000:
            raise MeshError("the file has more than 10,000 pieces")
        pieces = []
        for node in loaded.graph.nodes_geometry:
            matrix, name = loaded.graph[node]
            piece = loaded.geometry[name]
            if isinstance(piece, trimesh.Trimesh) and len(piece.faces):
                placed = piece.copy()
                if not np.allclose(matrix, np.eye(4)):
                    placed.apply_transform(matrix)
                placed.metadata["name"] = str(name)
                placed.remove_unreferenced_vertices()  # an OBJ's objects share one list of points
                pieces.append(placed)
        return pieces
    return [loaded] if isinstance(loaded, trimesh.Trimesh) and len(loaded.faces) else []


def _join(pieces: list[trimesh.Trimesh], kind: str) -> Mesh:
    total = sum(len(piece.faces) for piece in pieces)
    _check_count(total, "triangles")
    carried = [_carried(piece) for piece in pieces]
    names = {name: max(each[name].shape[1] for each in carried if name in each) for each in carried for name in each}
    attributes: dict[str, npt.NDArray[np.float32]] = {}
    for name, width in names.items():
        rows = []
        for piece, each in zip(pieces, carried, strict=True):
            values = np.zeros((len(piece.vertices), width), np.float32)
            if name in each:
                values[:, : each[name].shape[1]] = each[name]
            rows.append(values)
        attributes[name] = np.concatenate(rows)
    starts = np.cumsum([0, *[len(piece.vertices) for piece in pieces]])[:-1]
    part_names: list[str] = []
    part_of_face = []
    for number, piece in enumerate(pieces):
        label = "".join(
            c for c in str(piece.metadata.get("name", f"part {number + 1}")) if c.isprintable() and c != "/"
        )
        label = (label or f"part {number + 1}")[:80]
        if label not in part_names:
            part_names.append(label)
        part_of_face.append(np.full(len(piece.faces), part_names.index(label), np.int32))
    uv = attributes.pop("uv", None)
    return make_mesh(
        np.concatenate([piece.vertices for piece in pieces]),
        np.concatenate([piece.faces + start for piece, start in zip(pieces, starts, strict=True)]),
        np.concatenate([piece.vertex_normals for piece in pieces]) if _has_normals(pieces) else None,
        uv,
        attributes,
        tuple(part_names) if kind != "ply" else ("all",),
        np.concatenate(part_of_face),
    )


def _has_normals(pieces: list[trimesh.Trimesh]) -> bool:
    return all("vertex_normals" in piece._cache for piece in pieces)


def _carried(piece: trimesh.Trimesh) -> dict[str, npt.NDArray[np.float32]]:
    """Texture coordinates, colours and further data of one piece, each `(points, width)`."""
    found: dict[str, npt.NDArray[np.float32]] = {}
    count = len(piece.vertices)
    visual = piece.visual
    uv = getattr(visual, "uv", None)
    if uv is not None and len(uv) == count:
        found["uv"] = np.asarray(uv, np.float32)[:, :2]
    colours = getattr(visual, "vertex_colors", None) if visual.kind == "vertex" else None
    if colours is None:
        colours = getattr(visual, "vertex_attributes", {}).get("color")
    if colours is not None and len(colours) == count:
        found["color"] = _linear(np.asarray(colours)[:, :3])
    for name, values in piece.vertex_attributes.items():
        _keep(found, name.removeprefix("_").lower() if name.startswith("_") else name, values, count)
    raw = piece.metadata.get("_ply_raw", {}).get("vertex", {}).get("data")
    if raw is not None:  # a text file gives a dictionary, a binary one a structured array
        names = list(raw) if isinstance(raw, dict) else list(raw.dtype.names or ())
        known = {"x", "y", "z", "nx", "ny", "nz", "red", "green", "blue", "alpha", "s", "t", "u", "v"}
        for name in names:
            if name not in known:
                _keep(found, name, raw[name], count)
        for pair in (("s", "t"), ("u", "v"), ("texture_u", "texture_v")):
            if "uv" not in found and all(name in names for name in pair):
                _keep(found, "uv", np.stack([raw[name].ravel() for name in pair], axis=1), count)
    return found


def _keep(found: dict[str, npt.NDArray[np.float32]], name: str, values: Any, count: int) -> None:
    try:
        array = np.asarray(values, np.float32).reshape(count, -1)
    except (TypeError, ValueError):
        return
    if array.shape[1] in (1, 2, 3, 4) and name not in found:
        found[name[:80]] = array


def _linear(colours: npt.NDArray[Any]) -> npt.NDArray[np.float32]:
    """Bytes hold sRGB (as painted); floats hold linear light (glTF 2.0, COLOR_0)."""
    if colours.dtype.kind in "ui":
        c = colours.astype(np.float32) / np.float32(np.iinfo(colours.dtype).max)
        return np.where(c <= 0.04045, c / 12.92, ((c + 0.055) / 1.055) ** 2.4).astype(np.float32)
    return colours.astype(np.float32)


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
