"""How many points and triangles a mesh file has, without reading it: from its header, or by counting the lines of an OBJ."""

from pathlib import Path

from texallon.core.geometry.geometry import MeshSize
from texallon.core.geometry.mesh import MeshError
from texallon.formats.mesh_glb import read_tree, size_claimed
from texallon.formats.mesh_ply import counts_claimed
from texallon.formats.mesh_stl import stl_size

LONGEST_HEADER = 1_000_000
PIECE = 4_000_000


def mesh_size(path: Path) -> MeshSize:
    """The size that a mesh file says it has: of faces of more than three corners only one triangle each is counted. Raises `MeshError`.

    Parameters
    ----------
    path : Path
        An OBJ, PLY, STL, GLB or CSV file that has been read before.
    """
    kind = path.suffix.lower()
    with path.open("rb") as file:
        if kind == ".obj":
            points = faces = 0
            rest = b"\n"
            while piece := file.read(PIECE):
                piece = rest + piece
                points += piece.count(b"\nv ")
                faces += piece.count(b"\nf ")
                rest = piece[-2:]  # a line may begin between two pieces
            return MeshSize(points, faces)
        if kind == ".csv":
            return MeshSize(max(sum(piece.count(b"\n") for piece in iter(lambda: file.read(PIECE), b"")), 1), 0)
        head = file.read(LONGEST_HEADER)
        if kind == ".glb":
            length = 20 + int.from_bytes(head[12:16], "little")
            return size_claimed(read_tree(head + file.read(max(length - len(head), 0)), whole=False))
        if kind == ".stl":
            return stl_size(head + file.read(), path.stat().st_size)
    if kind == ".ply":
        counts = counts_claimed(head)
        return MeshSize(counts.get("vertex", 0), counts.get("face", 0))
    named = kind.removeprefix(".") or "a file without an ending"
    raise MeshError(f"a mesh comes as OBJ, PLY, STL or GLB, particles as PLY or CSV, not as “{named}”")
