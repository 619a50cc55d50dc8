"""Writing a mesh or particles in the format that a file's name asks for."""

from pathlib import Path

from texallon.core.geometry.mesh import Mesh, MeshError
from texallon.formats.mesh_file import write_glb
from texallon.formats.particles_csv import write_csv
from texallon.formats.write_ply import write_ply


def write_geometry(path: Path, mesh: Mesh) -> None:
    """Write a mesh or particles; raises `MeshError` for a format that can't hold them."""
    kind = path.suffix.lower()
    if kind == ".ply":
        write_ply(path, mesh)
    elif kind == ".glb" and len(mesh.faces):
        write_glb(path, mesh)
    elif kind == ".csv" and not len(mesh.faces):
        write_csv(path, mesh)
    else:
        fitting = "PLY or GLB" if len(mesh.faces) else "PLY or CSV, as they are particles"
        raise MeshError(f"{path.name}: it is written as {fitting}")
