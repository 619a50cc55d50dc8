"""Relief without geometry: normals tilted by a height (bump, and a displacement) and by normal maps.

A bump's slope is measured by looking its signal up at two more points, a sample's width away in the plane of the face:
J. F. Blinn, "Simulation of Wrinkled Surfaces", SIGGRAPH 1978, n' = n − ∇h. Whatever the signal reads (position, UV map, attributes)
follows, as the points are hits on the same face, extended beyond its edges.
"""

from collections.abc import Mapping
from math import sqrt
from typing import NamedTuple

import numpy as np

from texallon.core.geometry.rays import Hits
from texallon.core.kernel import Array, Int, inlined, kernel
from texallon.core.render.scene.hit_points import point_data
from texallon.core.render.scene.scene import GeometryTables, Scene
from texallon.core.render.scene.surface import Surface, positions_at, surface_at, surface_in
from texallon.core.signal.plan import Plan
from texallon.core.signal.run import evaluate


class FaceBases(NamedTuple):
    """For n hits two unit vectors in their faces, `across` and `along (3, n)`, and the barycentric steps `moves (4, n)` of a metre along each."""

    across: Array
    along: Array
    moves: Array


def bump_slope(scene: Scene, hits: Hits, offset: Array, plan: Plan, more: Mapping[str, Array], here: Array) -> Array:
    """The slope `(3, n)` of the plan's `bump` along the surface, in the world; `here (n,)` is its height at the hits themselves.

    `more` holds `view` and `footprint`; `offset (n,)` is that of `Surface`, below which no step can be distinguished from rounding.

    Parameters
    ----------
    scene : Scene
        What stands where.
    hits : Hits
        `n` hits on objects.
    offset : Array
        `(n,)` of `Surface`, metres.
    plan : Plan
        With an output `bump`.
    more : mapping
        `view (3, n)` and `footprint (1, n)`.
    here : Array
        `(n,)` height at the hits themselves, metres.

    Returns
    -------
    Array
        `(3, n)`.
    """
    moved, step, bases = _moved(scene.geometry.tables, hits, offset, more["footprint"][0])
    leans = any(name.endswith("normal") for name in plan.required_data)
    surface = surface_at(scene, moved) if leans else positions_at(scene, moved)
    height = _heights(scene, moved, surface, plan, "bump", more)
    return _slope(here, height[: len(here)], height[len(here) :], step, bases)


def displaced_normals(scene: Scene, hits: Hits, offset: Array, plan: Plan, more: Mapping[str, Array]) -> Array:
    """Normals `(3, n)` of a surface that is displaced: those of what it was, tilted by the slope of its height there.

    They are as fine as a sample, whether the mesh has all of the height, some of it or none.

    Parameters
    ----------
    scene : Scene
        What stands where.
    hits : Hits
        `n` hits on objects.
    offset : Array
        `(n,)` of `Surface`, metres.
    plan : Plan
        With an output `displacement`.
    more : mapping
        `view (3, n)` and `footprint (1, n)`.

    Returns
    -------
    Array
        `(3, n)` unit vectors.
    """
    count, tables = len(hits.instance), scene.geometry.tables_at_rest
    moved, step, bases = _moved(tables, hits, offset, more["footprint"][0])
    all_three = Hits(
        np.concatenate([hits.distance, moved.distance]), np.concatenate([hits.barycentric, moved.barycentric], axis=1),
        np.concatenate([hits.instance, moved.instance]), np.concatenate([hits.face, moved.face]),
    )  # fmt: skip
    surface = surface_in(tables, all_three)
    height = _heights(scene, all_three, surface, plan, "displacement", more)
    held = scene.held[all_three.instance]
    height = np.clip(height - held[:, 0], held[:, 1], held[:, 2])
    slope = _slope(height[:count], height[count : 2 * count], height[2 * count :], step, bases)
    normal = surface.normal[:, :count] - slope
    normal /= np.maximum(np.sqrt((normal * normal).sum(axis=0)), np.float32(1e-20))
    return normal


def _moved(tables: GeometryTables, hits: Hits, offset: Array, footprint: Array) -> tuple[Hits, Array, FaceBases]:
    """Two points beside each hit, those along the first way before the others: half as many calls; how far, and which ways."""
    count = len(hits.instance)
    step = np.maximum(footprint, offset * np.float32(4)).astype(np.float32)
    bases = FaceBases(
        np.empty((3, count), np.float32), np.empty((3, count), np.float32), np.empty((4, count), np.float32)
    )
    texture_bases(tables, hits, bases)
    moves = bases.moves
    barycentric = np.concatenate([hits.barycentric + moves[0:2] * step, hits.barycentric + moves[2:4] * step], axis=1)
    moved = Hits(np.tile(hits.distance, 2), barycentric, np.tile(hits.instance, 2), np.tile(hits.face, 2))
    return moved, step, bases


def _heights(scene: Scene, hits: Hits, surface: Surface, plan: Plan, output: str, more: Mapping[str, Array]) -> Array:
    times = len(hits.instance) // max(more["footprint"].shape[1], 1)
    given = {name: np.tile(values, times) for name, values in more.items()}
    data = point_data(scene, hits, surface, plan.required_data, given)
    values = evaluate(plan, plan.points(len(hits.instance), data, scene.data))[output][0]
    found: Array = np.nan_to_num(values, nan=0.0, posinf=0.0, neginf=0.0)
    return found


def _slope(here: Array, first: Array, second: Array, step: Array, bases: FaceBases) -> Array:
    result: Array = (first - here) / step * bases.across + (second - here) / step * bases.along
    return result


def tilt(surface: Surface, slope: Array) -> None:
    """Tilt the smooth normals by a slope `(3, n)`, in place.

    Parameters
    ----------
    surface : Surface
        Their surface points.
    slope : Array
        `(3, n)` in the world.
    """
    normal = surface.normal - slope
    normal /= np.maximum(np.sqrt((normal * normal).sum(axis=0)), np.float32(1e-20))
    surface.normal[:] = normal


def turn_to_map(scene: Scene, hits: Hits, surface: Surface, mapped: Array) -> None:
    """Turn the smooth normals to those that a map gives in its own frame, `mapped (3, n)`, in place.

    Parameters
    ----------
    scene : Scene
        What stands where.
    hits : Hits
        `n` hits on objects.
    surface : Surface
        Their surface points.
    mapped : Array
        `(3, n)` in the map's basis: x along u, y along v, z along the normal.
    """
    map_normals(scene.geometry.tables, hits, mapped, surface.normal)


def mapped_direction(scene: Scene, hits: Hits, surface: Surface, mapped: Array) -> Array:
    """A direction `(3, n)` in the world, given in the map's frame: x along u, y along v, z along the normal.

    Parameters
    ----------
    scene : Scene
        What stands where.
    hits : Hits
        `n` hits on objects.
    surface : Surface
        Their surface points.
    mapped : Array
        `(3, n)` in the map's basis: x along u, y along v, z along the normal.

    Returns
    -------
    Array
        `(3, n)`.
    """
    out = surface.normal.copy()
    map_normals(scene.geometry.tables, hits, mapped, out)
    return out


@kernel
def texture_bases(tables: GeometryTables, hits: Hits, bases: FaceBases) -> None:
    """For each hit two unit vectors in its face, `(3, n)`, and how barycentric u and v change a metre along each, `moves (4, n)`.

    Parameters
    ----------
    tables : GeometryTables
        Of the scene.
    hits : Hits
        n, on objects.
    bases : FaceBases
        n, filled.
    """
    vertices, faces, first_face, matrix = tables.vertices, tables.faces, tables.first_face, tables.matrix
    instance, face = hits.instance, hits.face
    across, along, moves = bases.across, bases.along, bases.moves
    for i in range(instance.shape[0]):
        k = instance[i]
        f = first_face[k] + face[i]
        a, b, c = faces[f, 0], faces[f, 1], faces[f, 2]
        ex = ey = ez = fx = fy = fz = 0.0
        for row in range(3):
            m = matrix[k, row]
            p = q = 0.0
            for col in range(3):
                p += m[col] * (vertices[b, col] - vertices[a, col])
                q += m[col] * (vertices[c, col] - vertices[a, col])
            if row == 0:
                ex, fx = p, q
            elif row == 1:
                ey, fy = p, q
            else:
                ez, fz = p, q
        ee = max(ex * ex + ey * ey + ez * ez, 1e-30)
        size = sqrt(ee)
        ax, ay, az = ex / size, ey / size, ez / size
        # What of the second edge lies across the first.
        part = fx * ax + fy * ay + fz * az
        gx, gy, gz = fx - part * ax, fy - part * ay, fz - part * az
        wide = max(sqrt(gx * gx + gy * gy + gz * gz), 1e-15)
        across[0, i], across[1, i], across[2, i] = ax, ay, az
        along[0, i], along[1, i], along[2, i] = gx / wide, gy / wide, gz / wide
        moves[0, i], moves[1, i] = 1.0 / size, 0.0
        moves[2, i], moves[3, i] = -part / (size * wide), 1.0 / wide
        if tables.round[k]:
            octahedral_moves(tables, hits, i, bases)


@inlined
def octahedral_moves(tables: GeometryTables, hits: Hits, i: Int, bases: FaceBases) -> None:
    """As `texture_bases` for a hit on a sphere, whose face is one of the octahedron within.

    Parameters
    ----------
    tables : GeometryTables
        Of the scene.
    hits : Hits
        n, on objects.
    i : int
        Which of them.
    bases : FaceBases
        n, of which one is filled.
    """
    k, face = hits.instance[i], hits.face[i]
    u, v = hits.barycentric[0, i], hits.barycentric[1, i]
    sx = -1.0 if face & 1 else 1.0
    sy = -1.0 if face & 2 else 1.0
    sz = -1.0 if face & 4 else 1.0
    x, y, z = sx * (1.0 - u - v), sy * u, sz * v
    away = sqrt(x * x + y * y + z * z)
    w = tables.inverse[k]
    nx = w[0, 0] * x + w[1, 0] * y + w[2, 0] * z
    ny = w[0, 1] * x + w[1, 1] * y + w[2, 1] * z
    nz = w[0, 2] * x + w[1, 2] * y + w[2, 2] * z
    size = max(sqrt(nx * nx + ny * ny + nz * nz), 1e-30)
    nx, ny, nz = nx / size, ny / size, nz / size
    # Two ways across the normal: T. Duff and others, "Building an Orthonormal Basis, Revisited", JCGT 6(1), 2017.
    sign = 1.0 if nz >= 0.0 else -1.0
    p = -1.0 / (sign + nz)
    q = nx * ny * p
    for way in range(2):
        if way == 0:
            tx, ty, tz = 1.0 + sign * nx * nx * p, sign * q, -sign * nx
            bases.across[0, i], bases.across[1, i], bases.across[2, i] = tx, ty, tz
        else:
            tx, ty, tz = q, sign + ny * ny * p, -ny
            bases.along[0, i], bases.along[1, i], bases.along[2, i] = tx, ty, tz
        # In the unit sphere's space, and then on the octahedron, where |x| + |y| + |z| = 1.
        dx = away * (w[0, 0] * tx + w[0, 1] * ty + w[0, 2] * tz)
        dy = away * (w[1, 0] * tx + w[1, 1] * ty + w[1, 2] * tz)
        dz = away * (w[2, 0] * tx + w[2, 1] * ty + w[2, 2] * tz)
        grown = sx * dx + sy * dy + sz * dz
        bases.moves[2 * way, i] = sy * dy - u * grown
        bases.moves[2 * way + 1, i] = sz * dz - v * grown


@kernel
def map_normals(tables: GeometryTables, hits: Hits, mapped: Array, normal: Array) -> None:
    """Where a face has no UV map its first edge stands for u.

    Parameters
    ----------
    tables : GeometryTables
        Of the scene.
    hits : Hits
        n, on objects.
    mapped : Array
        `(3, n)` in the map's basis: x along u, y along v, z along the normal.
    normal : Array
        `(3, n)`, changed in place.
    """
    vertices, uv, faces, first_face = tables.vertices, tables.uv, tables.faces, tables.first_face
    matrix, instance, face = tables.matrix, hits.instance, hits.face
    for i in range(instance.shape[0]):
        k = instance[i]
        f = first_face[k] + face[i]
        a, b, c = faces[f, 0], faces[f, 1], faces[f, 2]
        u1, v1 = uv[b, 0] - uv[a, 0], uv[b, 1] - uv[a, 1]
        u2, v2 = uv[c, 0] - uv[a, 0], uv[c, 1] - uv[a, 1]
        det = u1 * v2 - u2 * v1
        s, t = (v2, -v1) if abs(det) > 1e-20 else (1.0, 0.0)
        flip = -1.0 if det < 0.0 else 1.0
        nx, ny, nz = normal[0, i], normal[1, i], normal[2, i]
        tx = ty = tz = 0.0
        for row in range(3):
            m = matrix[k, row]
            p = 0.0
            for col in range(3):
                e, g = vertices[b, col] - vertices[a, col], vertices[c, col] - vertices[a, col]
                p += m[col] * (s * e + t * g) * flip
            if row == 0:
                tx = p
            elif row == 1:
                ty = p
            else:
                tz = p
        part = tx * nx + ty * ny + tz * nz
        tx, ty, tz = tx - part * nx, ty - part * ny, tz - part * nz
        size = sqrt(tx * tx + ty * ty + tz * tz)
        if not size > 1e-20:
            continue
        tx, ty, tz = tx / size, ty / size, tz / size
        # v grows to the left of u, seen from outside, unless the map is mirrored there.
        bx, by, bz = (ny * tz - nz * ty) * flip, (nz * tx - nx * tz) * flip, (nx * ty - ny * tx) * flip
        x, y, z = mapped[0, i], mapped[1, i], mapped[2, i]
        rx, ry, rz = x * tx + y * bx + z * nx, x * ty + y * by + z * ny, x * tz + y * bz + z * nz
        size = sqrt(rx * rx + ry * ry + rz * rz)
        if size > 1e-6:
            normal[0, i], normal[1, i], normal[2, i] = rx / size, ry / size, rz / size
