"""Surface points of hits: position, normals, look, and how far off a ray must start that leaves."""

from typing import NamedTuple

import numpy as np

from texallon.core.columns import Chosen, take_columns
from texallon.core.geometry.rays import Hits
from texallon.core.kernel import Array, Integers, kernel
from texallon.core.render.scene.interpolation import within_face
from texallon.core.render.scene.scene import GeometryTables, Scene

ROUNDINGS = np.float32(8 * 2.0**-24)
"""Eight half steps of single precision."""


class Surface(NamedTuple):
    """What the rays met, in the world: `position`, `normal` (smooth), `flat` (of the face) `(3, n)`, `look (n,)`.

    `offset (n,)`: how far in metres, along the face's normal, a ray must start that leaves without hitting the same face again.
    """

    position: Array
    normal: Array
    flat: Array
    look: Integers
    offset: Array


def surface_at(scene: Scene, hits: Hits) -> Surface:
    """Surface points of hits that all lie on objects.

    Parameters
    ----------
    scene : Scene
        What stands where.
    hits : Hits
        `n` hits on objects.
    """
    return surface_in(scene.geometry.tables, hits)


def surface_in(tables: GeometryTables, hits: Hits) -> Surface:
    """As `surface_at`, by tables of one's own choice.

    Parameters
    ----------
    tables : GeometryTables
        Of the scene, as it is or at rest.
    hits : Hits
        `n` hits on objects.
    """
    count = len(hits.instance)
    surface = Surface(
        np.empty((3, count), np.float32),
        np.empty((3, count), np.float32),
        np.empty((3, count), np.float32),
        np.empty(count, np.int32),
        np.empty(count, np.float32),
    )
    fill_surface(tables, hits, surface)
    return surface


def take_surface(surface: Surface, chosen: Chosen) -> Surface:
    """The surface points at some positions.

    Parameters
    ----------
    surface : Surface
        Surface points, n.
    chosen : Integers
        `(m,)` positions.
    """
    return Surface(
        take_columns(surface.position, chosen),
        take_columns(surface.normal, chosen),
        take_columns(surface.flat, chosen),
        take_columns(surface.look, chosen),
        take_columns(surface.offset, chosen),
    )


def beyond(hits: Hits, surface: Surface) -> Array:
    """From what distance `(n,)` a ray must be followed to pass the surface it has met.

    Parameters
    ----------
    hits : Hits
        `n` hits on objects.
    surface : Surface
        Surface points, n.

    Returns
    -------
    Array
        `(n,)`.
    """
    result: Array = hits.distance * np.float32(1 + 2e-6) + surface.offset * np.float32(4)
    return result


def positions_at(scene: Scene, hits: Hits) -> Surface:
    """As `surface_at`, of which nothing but the position is filled in: six times as fast.

    Parameters
    ----------
    scene : Scene
        What stands where.
    hits : Hits
        `n` hits on objects.
    """
    count = len(hits.instance)
    nothing = np.zeros((3, count), np.float32)
    surface = Surface(np.empty((3, count), np.float32), nothing, nothing, np.zeros(count, np.int32), nothing[0])
    fill_position(scene.geometry.tables, hits, surface.position)
    return surface


@kernel
def fill_surface(tables: GeometryTables, hits: Hits, surface: Surface) -> None:
    """See `Surface`. A position is off by a few roundings of the numbers it was made from: the largest coordinates of the hit and the
    face's corners in object space, through the matrix; eight of them are enough from 1 mm to 20 km (tests/core/test_offsets.py).

    Parameters
    ----------
    tables : GeometryTables
        Of the scene.
    hits : Hits
        n, on objects.
    surface : Surface
        n, filled.
    """
    vertices, normals, faces, part_of_face = tables.vertices, tables.normals, tables.faces, tables.part_of_face
    first_face, matrix, inverse, look_of_part = tables.first_face, tables.matrix, tables.inverse, tables.look_of_part
    instance, face, barycentric = hits.instance, hits.face, hits.barycentric
    position, normal, flat, look, offset = surface.position, surface.normal, surface.flat, surface.look, surface.offset
    for i in range(instance.shape[0]):
        k = instance[i]
        f = first_face[k] + face[i]
        a, b, c = faces[f, 0], faces[f, 1], faces[f, 2]
        px, py, pz = within_face(vertices, a, b, c, barycentric[0, i], barycentric[1, i])
        if tables.round[k]:
            away = np.sqrt(px * px + py * py + pz * pz)
            px, py, pz = px / away, py / away, pz / away
        nx, ny, nz = within_face(normals, a, b, c, barycentric[0, i], barycentric[1, i])
        ex, ey, ez = (
            vertices[b, 0] - vertices[a, 0],
            vertices[b, 1] - vertices[a, 1],
            vertices[b, 2] - vertices[a, 2],
        )
        gx, gy, gz = (
            vertices[c, 0] - vertices[a, 0],
            vertices[c, 1] - vertices[a, 1],
            vertices[c, 2] - vertices[a, 2],
        )
        fx, fy, fz = ey * gz - ez * gy, ez * gx - ex * gz, ex * gy - ey * gx
        if tables.round[k]:
            nx, ny, nz, fx, fy, fz = px, py, pz, px, py, pz
        wx = max(abs(px), abs(vertices[a, 0]), abs(vertices[b, 0]), abs(vertices[c, 0]))
        wy = max(abs(py), abs(vertices[a, 1]), abs(vertices[b, 1]), abs(vertices[c, 1]))
        wz = max(abs(pz), abs(vertices[a, 2]), abs(vertices[b, 2]), abs(vertices[c, 2]))
        most = np.float32(0)
        for row in range(3):
            m = matrix[k, row]
            most = max(most, abs(m[0]) * wx + abs(m[1]) * wy + abs(m[2]) * wz + abs(m[3]))
            position[row, i] = m[0] * px + m[1] * py + m[2] * pz + m[3]
            # Normals go by the transposed inverse.
            normal[row, i] = inverse[k, 0, row] * nx + inverse[k, 1, row] * ny + inverse[k, 2, row] * nz
            flat[row, i] = inverse[k, 0, row] * fx + inverse[k, 1, row] * fy + inverse[k, 2, row] * fz
        length = np.sqrt(flat[0, i] ** 2 + flat[1, i] ** 2 + flat[2, i] ** 2)
        for row in range(3):
            flat[row, i] = flat[row, i] / length if length > 0 else np.float32(row == 1)
        length = np.sqrt(normal[0, i] ** 2 + normal[1, i] ** 2 + normal[2, i] ** 2)
        for row in range(3):
            normal[row, i] = normal[row, i] / length if length > 0 else flat[row, i]
        # The file's normals say which side is out; the winding of a face may disagree.
        if flat[0, i] * normal[0, i] + flat[1, i] * normal[1, i] + flat[2, i] * normal[2, i] < 0:
            for row in range(3):
                flat[row, i] = -flat[row, i]
        look[i] = look_of_part[k, part_of_face[f]]
        offset[i] = ROUNDINGS * most


@kernel
def fill_position(tables: GeometryTables, hits: Hits, position: Array) -> None:
    """The positions of hits, in the world.

    Parameters
    ----------
    tables : GeometryTables
        Of the scene.
    hits : Hits
        n, on objects.
    position : Array
        `(3, n)` metres in the world, filled.
    """
    vertices, faces, first_face, matrix = tables.vertices, tables.faces, tables.first_face, tables.matrix
    instance, face, barycentric = hits.instance, hits.face, hits.barycentric
    for i in range(instance.shape[0]):
        k = instance[i]
        f = first_face[k] + face[i]
        a, b, c = faces[f, 0], faces[f, 1], faces[f, 2]
        px, py, pz = within_face(vertices, a, b, c, barycentric[0, i], barycentric[1, i])
        if tables.round[k]:
            away = np.sqrt(px * px + py * py + pz * pz)
            px, py, pz = px / away, py / away, pz / away
        for row in range(3):
            m = matrix[k, row]
            position[row, i] = m[0] * px + m[1] * py + m[2] * pz + m[3]
