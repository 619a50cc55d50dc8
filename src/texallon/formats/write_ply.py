"""Meshes and particles as PLY files, with everything that they carry."""

from pathlib import Path

import numpy as np

from texallon.core.geometry.mesh import Mesh


def write_ply(path: Path, mesh: Mesh) -> None:
    """Write a mesh, or particles, as binary PLY; `pieces_of_ply` reads the same numbers back.

    Normals are `nx`…, texture coordinates `s` and `t`, the attribute `color` `red`… as it is (linear), vectors `NAME.x`….
    """
    names, columns = ["x", "y", "z"], [mesh.vertices]
    if len(mesh.faces):
        names += ["nx", "ny", "nz"]
        columns.append(mesh.normals)
    if mesh.uv is not None:
        names += ["s", "t"]
        columns.append(mesh.uv)
    for name, values in mesh.attributes.items():
        width, plain = values.shape[1], "".join("_" if each.isspace() else each for each in name)
        if name == "color" and width == 3:
            names += ["red", "green", "blue"]
        else:
            names += [plain] if width == 1 else [f"{plain}.{axis}" for axis in "xyzw"[:width]]
        columns.append(values)
    rows = np.ascontiguousarray(np.column_stack(columns), "<f4")
    head = ["ply", "format binary_little_endian 1.0", f"element vertex {len(rows)}"]
    head += [f"property float {name}" for name in names]
    faces = np.empty(len(mesh.faces), [("count", "u1"), ("corners", "<i4", 3)])
    if len(faces):
        faces["count"], faces["corners"] = 3, mesh.faces
        head += [f"element face {len(faces)}", "property list uchar int vertex_indices"]
    with path.open("wb") as file:
        file.write(("\n".join([*head, "end_header"]) + "\n").encode())
        file.write(rows.tobytes())
        file.write(faces.tobytes())
