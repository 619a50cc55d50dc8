"""Texture coordinates for a mesh that has none, or bad ones: its surface cut into charts that are laid out flat."""

from dataclasses import replace
from typing import Any

import numpy as np

from texallon.core.derived import Cost, derived
from texallon.core.geometry.mesh import Mesh, MeshError

MOST_UNFOLDED = 60_000
"""Faces of a mesh that is unfolded: about 20 s on one core."""


@derived("unfolded", cost=Cost.SLOW)
def unfolded(mesh: Mesh) -> Mesh:
    """The mesh with texture coordinates in 0…1 that overlap nowhere; points on the seams between charts come several times.

    Parameters
    ----------
    mesh : Mesh
        In its own space.

    Returns
    -------
    Mesh
        With the same faces in the same order.

    Raises
    ------
    MeshError
        For too many faces, or where nothing can be laid out.

    References
    ----------
    B. Lévy, S. Petitjean, N. Ray, J. Maillot, "Least Squares Conformal Maps for Automatic Texture Atlas Generation", SIGGRAPH 2002, which the
    library `xatlas` follows.
    """
    if not len(mesh.faces):
        raise MeshError("particles have no surface to be unfolded")
    if len(mesh.faces) > MOST_UNFOLDED:
        raise MeshError(
            f"a mesh of {len(mesh.faces):,} faces takes too long to be unfolded; at most {MOST_UNFOLDED:,} are. "
            "Unfold it before it is divided, or bring it in with texture coordinates"
        )
    import xatlas  # read only where it is wanted

    unfold: Any = xatlas.parametrize
    try:
        source, faces, uv = unfold(mesh.vertices, mesh.faces.astype(np.uint32), mesh.normals)
    except RuntimeError as error:
        raise MeshError(f"the mesh can't be unfolded: {error}") from error
    if len(faces) != len(mesh.faces) or not np.isfinite(uv).all():
        raise MeshError("the mesh can't be unfolded: some of its faces have no size")
    return replace(
        mesh,
        vertices=np.ascontiguousarray(mesh.vertices[source]),
        faces=np.ascontiguousarray(faces, np.int32),
        normals=np.ascontiguousarray(mesh.normals[source]),
        uv=np.ascontiguousarray(uv, np.float32),
        attributes={name: np.ascontiguousarray(values[source]) for name, values in mesh.attributes.items()},
    )
