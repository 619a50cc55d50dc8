"""All meshes of a scene, each once, one after the other: the tables that hits are looked up in."""

from dataclasses import dataclass

import numpy as np

from texallon.core.derived import Cost, derived
from texallon.core.geometry.bake_geometry import BakeGeometry
from texallon.core.geometry.displaced import REST, REST_NORMAL
from texallon.core.geometry.mesh import Mesh
from texallon.core.kernel import Array, Integers
from texallon.core.points import BakedPointData


@dataclass(frozen=True)
class MeshArrays:
    """Meshes joined, in object space.

    Attributes
    ----------
    vertices, normals, uv : Array
        `(v, 3)`, `(v, 3)`, `(v, 2)`; UV is 0 where a mesh has no map.
    rest, rest_normals : Array
        `(v, 3)` before anything was displaced: the same arrays where nothing is.
    faces : Integers
        `(f, 3)` vertex numbers.
    part_of_face : Integers
        `(f,)` positions in the mesh's part names.
    first_face : Integers
        `(m,)` where each mesh's faces start.
    """

    vertices: Array
    normals: Array
    uv: Array
    rest: Array
    rest_normals: Array
    faces: Integers
    part_of_face: Integers
    first_face: Integers


@derived("geometry tables")
def join_meshes(meshes: tuple[Mesh, ...]) -> MeshArrays:
    """Join meshes, their faces renumbered.

    Parameters
    ----------
    meshes : tuple of Mesh
        Distinct ones, in the order of their numbers.
    """
    empty = np.zeros((0, 3), np.float32)
    nothing = np.zeros((0, 3), np.int32)
    starts = np.cumsum([0, *[len(mesh.vertices) for mesh in meshes]])
    face_starts = np.cumsum([0, *[len(mesh.faces) for mesh in meshes]])
    numbered = [(mesh.faces + start).astype(np.int32) for mesh, start in zip(meshes, starts[:-1], strict=True)]
    vertices = np.concatenate([empty, *[mesh.vertices for mesh in meshes]])
    normals = np.concatenate([empty, *[mesh.normals for mesh in meshes]])
    rest, rest_normals = vertices, normals
    if any(REST_NORMAL in mesh.attributes for mesh in meshes):
        moved = [REST_NORMAL in mesh.attributes for mesh in meshes]
        rest = np.concatenate(
            [m.attributes[REST] if is_moved else m.vertices for m, is_moved in zip(meshes, moved, strict=True)]
        )
        rest_normals = np.concatenate(
            [m.attributes[REST_NORMAL] if is_moved else m.normals for m, is_moved in zip(meshes, moved, strict=True)]
        )
    return MeshArrays(
        vertices,
        normals,
        np.concatenate([empty[:, :2], *[widened(mesh.uv, mesh, 2) for mesh in meshes]]),
        rest,
        rest_normals,
        np.concatenate([nothing, *numbered]),
        np.concatenate([nothing[:, 0], *[parts_of_faces(mesh) for mesh in meshes]]),
        face_starts[:-1].astype(np.int32),
    )


@derived("attribute")
def join_attribute(meshes: tuple[Mesh, ...], name: str, beside: tuple[Array | None, ...] = ()) -> Array:
    """A stored attribute for every vertex of joined meshes.

    Parameters
    ----------
    meshes : tuple of Mesh
        Distinct ones, in the order of their numbers.
    name : str
        Of the attribute, or what is numbered.
    beside : tuple of Array, optional
        For each mesh what it has in place of what it carries, `(v, width)`, or nothing.

    Returns
    -------
    Array
        `(v, width)`, as wide as the widest mesh has it; 0 on meshes that do not carry it.
    """
    own = [mesh.attributes.get(name) for mesh in meshes]
    held = [given if given is not None else mine for given, mine in zip(beside or [None] * len(own), own, strict=True)]
    width = max((each.shape[1] for each in held if each is not None), default=1)
    made = [widened(each, mesh, width) for each, mesh in zip(held, meshes, strict=True)]
    rows = [np.zeros((0, width), np.float32), *made]
    return np.ascontiguousarray(np.concatenate(rows), np.float32)


@derived("bake", cost=Cost.SLOW)
def bake_mesh(kind: str, version: int, mesh: Mesh) -> Array:
    """What a kind of point data measures on one mesh, `(v, width)`; `version` is the kind's, so that its change counts.

    Parameters
    ----------
    kind : str
        Of point data.
    version : int
        Of the kind.
    mesh : Mesh
        In its own space.

    Returns
    -------
    Array
        `(v, width)`.
    """
    from texallon.core.points import point_data_kind

    found = point_data_kind(kind)
    assert isinstance(found, BakedPointData) and found.version == version
    return found.bake(BakeGeometry(mesh))


@derived("joined bake", cost=Cost.INSTANT)
def join_bakes(bakes: tuple[Array, ...]) -> Array:
    """Bakes of meshes one after the other, `(v, width)`.

    Parameters
    ----------
    bakes : tuple of Array
        One for each mesh.

    Returns
    -------
    Array
        `(v, width)`.
    """
    return np.ascontiguousarray(np.concatenate(bakes), np.float32)


def widened(values: Array | None, mesh: Mesh, width: int) -> Array:
    """A mesh's values per vertex with a given number of columns; 0 where it has none, a single one repeated.

    Parameters
    ----------
    values : Array, optional
        `(v, width)` at vertices.
    mesh : Mesh
        In its own space.
    width : int
        Columns wanted.
    """
    out = np.zeros((len(mesh.vertices), width), np.float32)
    if values is not None:
        columns = min(width, values.shape[1])
        out[:, :columns] = values[:, :columns]
        if values.shape[1] == 1 and width > 1:
            out[:] = values
    return out


def parts_of_faces(mesh: Mesh) -> Integers:
    """For each face the position of its part in the mesh's part names, `(f,)`.

    Parameters
    ----------
    mesh : Mesh
        In its own space.

    Returns
    -------
    Integers
        `(f,)`.
    """
    return np.zeros(len(mesh.faces), np.int32) if mesh.part_of_face is None else mesh.part_of_face
