"""Parts of a mesh by where a signal lies above a level."""

from dataclasses import replace

import numpy as np

from texallon.core.derived import Cost, derived
from texallon.core.geometry.mesh import Mesh
from texallon.core.geometry.values_on_mesh import as_number
from texallon.core.kernel import Array


@derived("picked parts", cost=Cost.INSTANT)
def picked_parts(mesh: Mesh, names: tuple[str, ...], values: tuple[Array, ...], above: tuple[float, ...]) -> Mesh:
    """The mesh with a part more for each signal: the faces in whose middle it lies above its level; the last that picks a face has it.

    Parameters
    ----------
    mesh : Mesh
        With parts of its own, which lose those faces.
    names : tuple of str
        Of the new parts.
    values : tuple of Array
        `(width, f)` for each of them.
    above : tuple of float
        Levels. What is no number lies above none.

    Returns
    -------
    Mesh
        With the same points and faces.
    """
    own = [each for each in mesh.part_names if each not in names]
    before = np.zeros(len(mesh.faces), np.int32) if mesh.part_of_face is None else mesh.part_of_face
    at = np.array([own.index(each) if each in own else 0 for each in mesh.part_names], np.int32)
    of_face = at[before]
    for number, (each, level) in enumerate(zip(values, above, strict=True)):
        of_face[as_number(each) > level] = len(own) + number
    return replace(mesh, part_names=(*own, *names), part_of_face=np.ascontiguousarray(of_face, np.int32))
