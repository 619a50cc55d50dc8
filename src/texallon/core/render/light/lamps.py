"""Lamps: rectangles, discs and spheres that shine, points, spots and the sun, as rows of one table.

A row: 0…2 centre (for the sun the way towards it), 3…5 and 6…8 half sides (a disc's and a sphere's are its radius), 9…11 normal,
12…14 radiance (for points and spots radiant intensity, for a sun without size irradiance), 15 area (for the sun 1 where the camera sees it), 16 kind, 17 and 18 cosines of
a spot's cone or of the sun's half angle, 19 radius.

Rectangles and discs are sampled evenly over their area. Spheres and the sun are sampled evenly within the cone they fill (M. Pharr, W.
Jakob, G. Humphreys, *Physically Based Rendering*, sampling spheres). Points, spots and a sun without size have no extent: no
scattered ray can meet them, so the light that is asked for keeps its whole weight.
"""

from math import cos, pi, radians, sin, sqrt

import numpy as np

from texallon.core.document.light import AREAS, Light
from texallon.core.geometry.mesh import Ints
from texallon.core.kernel import Array, Float, Int, inlined

LAMP = 20
KINDS = {"rectangle": 0, "disc": 1, "sphere": 2, "point": 3, "spot": 4, "sun": 5}
RECTANGLE, DISC, SPHERE, POINT, SPOT, SUN = range(6)
SIDES = 96
"""Of the polygon that stands for a disc where rays meet it: within 0.1 % of its area."""


def lamp_row(light: Light) -> list[float]:
    """A light as a row of the table."""
    centre = np.array(light.position)
    normal = np.array(light.target) - centre
    normal = normal / np.linalg.norm(normal)
    up = np.array([0.0, 1.0, 0.0]) if abs(normal[1]) < 0.999 else np.array([1.0, 0.0, 0.0])
    side = np.cross(up, normal)
    side /= np.linalg.norm(side)
    other = np.cross(side, normal)
    colour = np.array(light.colour) * light.power
    radius = light.width / 2
    area, outer, inner = 1.0, -1.0, -1.0
    u, v = side * radius, other * radius
    if light.shape == "rectangle":
        v = other * light.height / 2
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


def lamp_mesh(light: Light) -> tuple[Array, Ints] | None:
    """Vertices `(v, 3)` in the world and faces of what a ray can meet of a lamp; nothing for those without extent."""
    if light.shape not in AREAS:
        return None
    row = np.array(lamp_row(light))
    centre, u, v = row[0:3], row[3:6], row[6:9]
    if light.shape == "rectangle":
        corners = np.stack([centre - u - v, centre + u - v, centre + u + v, centre - u + v])
        return corners.astype(np.float32), np.array([[0, 1, 2], [0, 2, 3]], np.int32)
    if light.shape == "disc":
        angle = np.linspace(0, 2 * pi, SIDES, endpoint=False)[:, None]
        ring = centre + np.cos(angle) * u + np.sin(angle) * v
        faces = np.stack([np.zeros(SIDES), 1 + np.arange(SIDES), 1 + (np.arange(SIDES) + 1) % SIDES], axis=1)
        return np.vstack([centre, ring]).astype(np.float32), faces.astype(np.int32)
    across, down = np.meshgrid(np.linspace(0, 2 * pi, 97), np.linspace(0, pi, 49))
    ball = np.stack([np.sin(down) * np.cos(across), np.cos(down), np.sin(down) * np.sin(across)], axis=2)
    corner = (np.arange(48)[:, None] * 97 + np.arange(96)).ravel()
    faces = np.concatenate(
        [np.stack([corner, corner + 1, corner + 97], 1), np.stack([corner + 1, corner + 98, corner + 97], 1)]
    )
    return (centre + row[19] * ball.reshape(-1, 3)).astype(np.float32), faces.astype(np.int32)


@inlined
def cone_pdf(cosine: Float) -> Float:
    """Chance per steradian of one direction within a cone."""
    return 1.0 / (2.0 * pi * max(1.0 - cosine, 1e-9))


@inlined
def sample_cone(dx: Float, dy: Float, dz: Float, cosine: Float, u: Float, v: Float) -> tuple[Float, Float, Float]:
    """A direction within a cone about a unit vector, even in solid angle."""
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
    """Cosine of half the angle that a sphere fills, seen from outside at a squared distance; 1 from within."""
    return sqrt(max(1.0 - radius * radius / away2, 0.0)) if away2 > radius * radius else 1.0


@inlined
def sample_lamp(
    lamps: Array, k: Int, px: Float, py: Float, pz: Float, u: Float, v: Float
) -> tuple[Float, Float, Float, Float, Float, Float, Float, Float, bool]:
    """Light of a lamp at a point: direction, distance, density (0 for none), radiance over 1, and whether it has no extent.

    For lamps without extent the density is 1 and the colour what arrives.
    """
    lamp = lamps[k]
    kind = int(lamp[16])
    r, g, b = lamp[12], lamp[13], lamp[14]
    if kind == SUN:
        if lamp[17] >= 1.0:
            return lamp[0], lamp[1], lamp[2], 1e30, 1.0, r, g, b, True
        wx, wy, wz = sample_cone(lamp[0], lamp[1], lamp[2], lamp[17], u, v)
        return wx, wy, wz, 1e30, cone_pdf(lamp[17]), r, g, b, False
    if kind == RECTANGLE:
        a, c = 2.0 * u - 1.0, 2.0 * v - 1.0
    elif kind == DISC:
        ring = sqrt(u)
        a, c = ring * cos(2.0 * pi * v), ring * sin(2.0 * pi * v)
    else:
        a, c = 0.0, 0.0
    wx = lamp[0] + a * lamp[3] + c * lamp[6] - px
    wy = lamp[1] + a * lamp[4] + c * lamp[7] - py
    wz = lamp[2] + a * lamp[5] + c * lamp[8] - pz
    away2 = max(wx * wx + wy * wy + wz * wz, 1e-12)
    far = sqrt(away2)
    wx, wy, wz = wx / far, wy / far, wz / far
    facing = -(wx * lamp[9] + wy * lamp[10] + wz * lamp[11])
    if kind in (POINT, SPOT):
        if kind == SPOT:
            t = (facing - lamp[17]) / max(lamp[18] - lamp[17], 1e-6)
            t = min(max(t, 0.0), 1.0)
            t = t * t * (3.0 - 2.0 * t)
            r, g, b = r * t, g * t, b * t
        return wx, wy, wz, far, 1.0, r / away2, g / away2, b / away2, True
    if kind == SPHERE:
        cosine = sphere_cosine(away2, lamp[19])
        if cosine >= 1.0:
            return wx, wy, wz, far, 0.0, r, g, b, False
        sx, sy, sz = sample_cone(wx, wy, wz, cosine, u, v)
        along = sx * wx + sy * wy + sz * wz
        inside = lamp[19] * lamp[19] - away2 * (1.0 - along * along)
        return sx, sy, sz, far * along - sqrt(max(inside, 0.0)), cone_pdf(cosine), r, g, b, False
    density = away2 / (facing * lamp[15]) if facing > 1e-6 else 0.0
    return wx, wy, wz, far, density, r, g, b, False


@inlined
def lamp_hit_pdf(
    lamps: Array, k: Int, ox: Float, oy: Float, oz: Float, dx: Float, dy: Float, dz: Float, away: Float
) -> tuple[Float, Float]:
    """For a ray that met a lamp: whether it shines this way (1 or 0), and the density of asking for that direction."""
    lamp = lamps[k]
    if int(lamp[16]) == SPHERE:
        x, y, z = lamp[0] - ox, lamp[1] - oy, lamp[2] - oz
        cosine = sphere_cosine(x * x + y * y + z * z, lamp[19])
        return (0.0, 0.0) if cosine >= 1.0 else (1.0, cone_pdf(cosine))
    facing = -(dx * lamp[9] + dy * lamp[10] + dz * lamp[11])
    if facing <= 0.0:
        return 0.0, 0.0
    return 1.0, away * away / (facing * lamp[15])
