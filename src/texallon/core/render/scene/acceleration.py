"""Search structures for rays: one for each mesh, and one of their instances."""

import numpy as np

from texallon.core.derived import Cost, derived
from texallon.core.geometry.mesh import Mesh
from texallon.core.geometry.rays import MeshRays, SceneRays
from texallon.core.kernel import Array
from texallon.core.render.scene.lamp_shapes import LampShape, lamp_mesh


@derived("search structure")
def search_structure(mesh: Mesh) -> MeshRays:
    """The search structure of a mesh, in its own space.

    Parameters
    ----------
    mesh : Mesh
        In its own space.
    """
    return MeshRays(mesh.vertices, mesh.faces)


@derived("search structure of a lamp", cost=Cost.INSTANT)
def lamp_structure(shape: LampShape) -> MeshRays:
    """The search structure of what rays can meet of a lamp, in the world.

    Parameters
    ----------
    shape : LampShape
        What rays can meet of a lamp.
    """
    made = lamp_mesh(shape)
    assert made is not None
    return MeshRays(*made)


@derived("acceleration structure")
def acceleration_structure(structures: tuple[MeshRays, ...], matrices: Array, masks: tuple[int, ...]) -> SceneRays:
    """Instances of search structures.

    Parameters
    ----------
    structures : tuple of MeshRays
        One for each instance, k in all.
    matrices : Array
        `(k, 3, 4)` into the world.
    masks : tuple of int
        Which rays meet each instance.
    """
    return SceneRays(
        [
            (structure, np.ascontiguousarray(matrix, np.float32), mask)
            for structure, matrix, mask in zip(structures, matrices, masks, strict=True)
        ]
    )
