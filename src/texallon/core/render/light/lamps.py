"""Lamps: rectangles, discs and spheres that shine, points, spots and the sun, as rows of one table.

Rectangles and discs are sampled evenly over their area. Spheres and the sun are sampled evenly within the cone they fill (M. Pharr, W.
Jakob, G. Humphreys, *Physically Based Rendering*, sampling spheres). Points, spots and a sun without size have no extent: no
scattered ray can meet them, so the light that is asked for keeps its whole weight.
"""

from math import cos, pi, radians, sin, sqrt

import numpy as np

from texallon.core.document.light import Light
from texallon.core.kernel import Array, Float, Int, inlined
from texallon.core.render.scene.lamp_shapes import lamp_axes

CENTRE, SIDE_U, SIDE_V, FACING, RADIANCE = 0, 3, 6, 9, 12
"""First columns of a lamp's vectors: its centre (for the sun the way towards it), its half sides (a disc's and a sphere's are its radius),
the way it faces, and radiance (for points and spots radiant intensity, for a sun without size irradiance)."""

AREA, KIND, COS_OUTER, COS_INNER, RADIUS = 15, 16, 17, 18, 19
"""Its area (for the sun 1 where the camera sees it), kind, cosines of a spot's cone or of the sun's half angle, radius."""

LAMP = 20
"""Columns of the table."""

KINDS = {"rectangle": 0, "disc": 1, "sphere": 2, "point": 3, "spot": 4, "sun": 5}
RECTANGLE, DISC, SPHERE, POINT, SPOT, SUN = range(6)


def lamp_row(light: Light) -> list[float]:
    """A light as a row of the table, `LAMP` numbers.

    Parameters
    ----------
    light : Light
        A lamp of the document.
    """
    centre, u, v, normal = lamp_axes(light)
    colour = np.array(light.colour) * light.power
    radius = light.width / 2
    area, outer, inner = 1.0, -1.0, -1.0
    if light.shape == "rectangle":
        area = light.width * light.height
        colour = colour / (pi * area)
    elif light.shape == "disc":
        area = pi * radius * radius
        colour = colour / (pi * area)
    elif light.shape == "sphere":
        area = 4 * pi * radius * radius
        colour = colour / (pi * area)
    elif light.shape in ("point", "spot"):
        colour = colour / (4 * pi)
        outer = cos(radians(light.cone) / 2)
        inner = cos(radians(light.cone) / 2 * (1 - light.blend))
    else:
        outer = cos(radians(light.angle) / 2)
        centre, area = -normal, float(light.visible)
        if light.angle > 0:
            colour = colour / (pi * sin(radians(light.angle) / 2) ** 2)
    return [*centre, *u, *v, *normal, *colour, area, float(KINDS[light.shape]), outer, inner, radius]


@inlined
def cone_pdf(cosine: Float) -> Float:
    """Chance per steradian of one direction within a cone.

    Parameters
    ----------
    cosine : float
        Of half the cone's angle.
    """
    return 1.0 / (2.0 * pi * max(1.0 - cosine, 1e-9))


@inlined
def sample_cone(dx: Float, dy: Float, dz: Float, cosine: Float, u: Float, v: Float) -> tuple[Float, Float, Float]:
    """A direction within a cone about a unit vector, even in solid angle.

    Parameters
    ----------
    dx, dy, dz : float
        Unit direction.
    cosine : float
        Of half the cone's angle.
    u : float
        In [0, 1), random or across the picture.
    v : float
        In [0, 1), random or down the picture.
    """
    z = 1.0 - u * (1.0 - cosine)
    ring = sqrt(max(1.0 - z * z, 0.0))
    sign = 1.0 if dz >= 0.0 else -1.0
    a = -1.0 / (sign + dz)
    b = dx * dy * a
    x, y = ring * cos(2.0 * pi * v), ring * sin(2.0 * pi * v)
    return (
        x * (1.0 + sign * dx * dx * a) + y * b + z * dx,
        x * sign * b + y * (sign + dy * dy * a) + z * dy,
        -x * sign * dx - y * dy + z * dz,
    )


@inlined
def sphere_cosine(away2: Float, radius: Float) -> Float:
    """Cosine of half the angle that a sphere fills, seen from outside at a squared distance; 1 from within.

    Parameters
    ----------
    away2 : float
        Squared distance, m².
    radius : float
        Metres.
    """
    return sqrt(max(1.0 - radius * radius / away2, 0.0)) if away2 > radius * radius else 1.0


@inlined
def sample_lamp(
    lamps: Array, k: Int, px: Float, py: Float, pz: Float, u: Float, v: Float
) -> tuple[Float, Float, Float, Float, Float, Float, Float, Float, bool]:
    """Light of a lamp at a point: direction, distance, density (0 for none), radiance over 1, and whether it has no extent.

    For lamps without extent the density is 1 and the colour what arrives.

    Parameters
    ----------
    lamps : Array
        `(l, LAMP)` the table of lamps.
    k : int
        Number of the lamp.
    px, py, pz : float
        Of the point, metres.
    u : float
        In [0, 1), random or across the picture.
    v : float
        In [0, 1), random or down the picture.
    """
    lamp = lamps[k]
    kind = int(lamp[KIND])
    r, g, b = lamp[RADIANCE], lamp[RADIANCE + 1], lamp[RADIANCE + 2]
    if kind == SUN:
        if lamp[COS_OUTER] >= 1.0:
            return lamp[CENTRE], lamp[CENTRE + 1], lamp[CENTRE + 2], 1e30, 1.0, r, g, b, True
        wx, wy, wz = sample_cone(lamp[CENTRE], lamp[CENTRE + 1], lamp[CENTRE + 2], lamp[COS_OUTER], u, v)
        return wx, wy, wz, 1e30, cone_pdf(lamp[COS_OUTER]), r, g, b, False
    if kind == RECTANGLE:
        a, c = 2.0 * u - 1.0, 2.0 * v - 1.0
    elif kind == DISC:
        ring = sqrt(u)
        a, c = ring * cos(2.0 * pi * v), ring * sin(2.0 * pi * v)
    else:
        a, c = 0.0, 0.0
    wx = lamp[CENTRE] + a * lamp[SIDE_U] + c * lamp[SIDE_V] - px
    wy = lamp[CENTRE + 1] + a * lamp[SIDE_U + 1] + c * lamp[SIDE_V + 1] - py
    wz = lamp[CENTRE + 2] + a * lamp[SIDE_U + 2] + c * lamp[SIDE_V + 2] - pz
    away2 = max(wx * wx + wy * wy + wz * wz, 1e-12)
    far = sqrt(away2)
    wx, wy, wz = wx / far, wy / far, wz / far
    facing = -(wx * lamp[FACING] + wy * lamp[FACING + 1] + wz * lamp[FACING + 2])
    if kind in (POINT, SPOT):
        if kind == SPOT:
            t = (facing - lamp[COS_OUTER]) / max(lamp[COS_INNER] - lamp[COS_OUTER], 1e-6)
            t = min(max(t, 0.0), 1.0)
            t = t * t * (3.0 - 2.0 * t)
            r, g, b = r * t, g * t, b * t
        return wx, wy, wz, far, 1.0, r / away2, g / away2, b / away2, True
    if kind == SPHERE:
        cosine = sphere_cosine(away2, lamp[RADIUS])
        if cosine >= 1.0:
            return wx, wy, wz, far, 0.0, r, g, b, False
        sx, sy, sz = sample_cone(wx, wy, wz, cosine, u, v)
        along = sx * wx + sy * wy + sz * wz
        inside = lamp[RADIUS] * lamp[RADIUS] - away2 * (1.0 - along * along)
        return sx, sy, sz, far * along - sqrt(max(inside, 0.0)), cone_pdf(cosine), r, g, b, False
    density = away2 / (facing * lamp[AREA]) if facing > 1e-6 else 0.0
    return wx, wy, wz, far, density, r, g, b, False


@inlined
def lamp_hit_pdf(
    lamps: Array, k: Int, ox: Float, oy: Float, oz: Float, dx: Float, dy: Float, dz: Float, away: Float
) -> tuple[Float, Float]:
    """For a ray that met a lamp: whether it shines this way (1 or 0), and the density of asking for that direction.

    Parameters
    ----------
    lamps : Array
        `(l, LAMP)` the table of lamps.
    k : int
        Number of the lamp.
    ox, oy, oz : float
        Where the ray starts, metres.
    dx, dy, dz : float
        Unit direction.
    away : float
        Metres to what was met.
    """
    lamp = lamps[k]
    if int(lamp[KIND]) == SPHERE:
        x, y, z = lamp[CENTRE] - ox, lamp[CENTRE + 1] - oy, lamp[CENTRE + 2] - oz
        cosine = sphere_cosine(x * x + y * y + z * z, lamp[RADIUS])
        return (0.0, 0.0) if cosine >= 1.0 else (1.0, cone_pdf(cosine))
    facing = -(dx * lamp[FACING] + dy * lamp[FACING + 1] + dz * lamp[FACING + 2])
    if facing <= 0.0:
        return 0.0, 0.0
    return 1.0, away * away / (facing * lamp[AREA])
