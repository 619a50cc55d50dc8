"""Kernels that carry what is stored at corners and instances over to hits."""

import numpy as np

from texallon.core.geometry.rays import Hits
from texallon.core.kernel import Array, Float, Int, Integers, allocating, inlined, kernel
from texallon.core.render.scene.scene import GeometryTables


@inlined
def within_face(values: Array, a: Int, b: Int, c: Int, u: Float, v: Float) -> tuple[Float, Float, Float]:
    """What three corners' values `(vertices, 3)` are at a place of their face.

    Parameters
    ----------
    values : Array
        `(v, width)` at vertices.
    a : int
        First corner's vertex.
    b : int
        Second corner's vertex.
    c : int
        Third corner's vertex.
    u, v : float
        Barycentric.
    """
    w = np.float32(1) - u - v
    return (
        w * values[a, 0] + u * values[b, 0] + v * values[c, 0],
        w * values[a, 1] + u * values[b, 1] + v * values[c, 1],
        w * values[a, 2] + u * values[b, 2] + v * values[c, 2],
    )


@kernel
def fill_object_position(inverse: Array, instance: Integers, position: Array, out: Array) -> None:
    """Positions in object space.

    Parameters
    ----------
    inverse : Array
        `(i, 3, 4)` from the world into object space.
    instance : Integers
        `(n,)` numbers of the instances hit.
    position : Array
        `(3, n)` in the world, metres.
    out : Array
        Filled.
    """
    for i in range(instance.shape[0]):
        for row in range(3):
            m = inverse[instance[i], row]
            out[row, i] = m[0] * position[0, i] + m[1] * position[1, i] + m[2] * position[2, i] + m[3]


@kernel
def interpolate(tables: GeometryTables, hits: Hits, values: Array, out: Array) -> None:
    """Values at vertices, interpolated at hits.

    Parameters
    ----------
    tables : GeometryTables
        Of the scene.
    hits : Hits
        n, on objects.
    values : Array
        `(v, width)` at vertices.
    out : Array
        `(width, n)`, filled.
    """
    faces, first_face = tables.faces, tables.first_face
    instance, face, barycentric = hits.instance, hits.face, hits.barycentric
    for i in range(instance.shape[0]):
        f = first_face[instance[i]] + face[i]
        u, v = barycentric[0, i], barycentric[1, i]
        w = np.float32(1) - u - v
        for row in range(out.shape[0]):
            out[row, i] = w * values[faces[f, 0], row] + u * values[faces[f, 1], row] + v * values[faces[f, 2], row]


@allocating
def uv_density(tables: GeometryTables, hits: Hits, out: Array) -> None:
    """UV units per metre on each hit face: the root of its area in the map over its area in the world.

    Parameters
    ----------
    tables : GeometryTables
        Of the scene.
    hits : Hits
        n, on objects.
    out : Array
        `(n,)` filled.
    """
    vertices, uv, faces, first_face = tables.vertices, tables.uv, tables.faces, tables.first_face
    matrix, instance, face = tables.matrix, hits.instance, hits.face
    for i in range(out.shape[0]):
        k = instance[i]
        f = first_face[k] + face[i]
        a, b, c = faces[f, 0], faces[f, 1], faces[f, 2]
        along, across = np.empty(3, np.float32), np.empty(3, np.float32)
        for row in range(3):
            m = matrix[k, row]
            along[row] = across[row] = np.float32(0)
            for column in range(3):
                along[row] += m[column] * (vertices[b, column] - vertices[a, column])
                across[row] += m[column] * (vertices[c, column] - vertices[a, column])
        x = along[1] * across[2] - along[2] * across[1]
        y = along[2] * across[0] - along[0] * across[2]
        z = along[0] * across[1] - along[1] * across[0]
        area = np.sqrt(x * x + y * y + z * z)
        map_area = abs((uv[b, 0] - uv[a, 0]) * (uv[c, 1] - uv[a, 1]) - (uv[b, 1] - uv[a, 1]) * (uv[c, 0] - uv[a, 0]))
        out[i] = np.sqrt(map_area / area) if area > 0 else np.float32(0)
