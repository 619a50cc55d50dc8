"""A signal's values at the vertices or faces of a mesh: what is made from geometry by a mask begins here."""

import os
from concurrent.futures import ThreadPoolExecutor
from typing import NamedTuple

import numpy as np

from texallon.core.derived import Cost, derived
from texallon.core.geometry.closest import Measurable
from texallon.core.geometry.mesh import Mesh
from texallon.core.geometry.mesh_points import Domain, MeshPoints
from texallon.core.kernel import Array
from texallon.core.ops.points import Matrix, OpFiles
from texallon.core.signal.plan import Plan
from texallon.core.signal.run import evaluate

LUMINANCE = np.array([0.2126, 0.7152, 0.0722], np.float32)
"""Of linear Rec.709 (ITU-R BT.709)."""


class MeshPlace(NamedTuple):
    """Where a mesh is looked at: the object's `name`, its `matrix (3, 4)` into the world, at each `vertex` or `face`, and what a point's
    sample is scaled by."""

    name: str
    matrix: Matrix
    domain: Domain
    detail: float = 1.0


@derived("values on a mesh", cost=Cost.SLOW)
def values_on_mesh(
    plan: Plan,
    output: str,
    mesh: Mesh,
    place: MeshPlace,
    bakes: tuple[tuple[str, Array], ...],
    surfaces: tuple[tuple[str, tuple[Measurable, ...]], ...],
    files: OpFiles,
    widths: Array | None = None,
) -> Array:
    """An output of a plan at each vertex or face, `(width, n)`.

    Parameters
    ----------
    plan : Plan
        With that output.
    output : str
        Its name.
    mesh : Mesh
        In its own space.
    place : MeshPlace
        Where it stands, and at what of it.
    bakes : tuple
        Kinds of point data that are baked, and their values at the vertices.
    surfaces : tuple
        Objects that distances are measured from, and their surfaces.
    files : OpFiles
        Those that the plan reads.
    widths : Array, optional
        `point_widths` of the mesh, where they are known.

    Returns
    -------
    Array
        `(width, n)`.
    """
    at = MeshPoints(mesh, place.matrix, place.name, place.domain, dict(bakes), dict(surfaces), place.detail, widths)
    points = plan.points(at.count, at.data(plan.required_data), files)
    with ThreadPoolExecutor(len(os.sched_getaffinity(0))) as pool:
        return evaluate(plan, points, pool=pool)[output]


def as_number(values: Array) -> Array:
    """A number for each point, `(n,)`: of a colour its luminance.

    Parameters
    ----------
    values : Array
        `(width, n)`.
    """
    number: Array = values[0] if values.shape[0] == 1 else LUMINANCE @ values[:3]
    return number
