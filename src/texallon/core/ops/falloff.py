"""A placed shape, 1 inside and fading out over a soft border: where an effect reaches. Several are joined by maximum, minimum, multiply, subtract.

The shape stands in the space of a locator, which is moved, turned, scaled and tied to objects as any; its measures are in the locator's units.
"""

from collections.abc import Callable, Mapping
from typing import Any, ClassVar, Literal

import numpy as np

from texallon.core.kernel import Array
from texallon.core.ops.op import Source, Space, footprint_in, param, position_in, space_key
from texallon.core.ops.points import Points

Shape = Literal["sphere", "box", "capsule", "cylinder", "cone", "plane", "torus"]


class Falloff(Source):
    name: ClassVar[str] = "falloff"
    category: ClassVar[str] = "geometry"
    purpose: ClassVar[str] = "1 within a placed shape, fading to 0 over its border."
    reference: ClassVar[str] = (
        "signed distances to solids: J. Hart, “Sphere Tracing”, The Visual Computer 12 (1996), appendix"
    )
    phrase: ClassVar[str] = "the {shape} about {origin}, fading over {border}"

    shape: Shape = param("sphere", "Its axis is y; a plane fills all below its origin.")
    origin: Space = param("world", "Where it stands, how it is turned and how large it is.", kind="place")
    width: float = param(
        1.0,
        "Across: a sphere's diameter, a box along x, a cone's foot, a torus from outside to outside.",
        unit="m",
        above=0,
        high=1e6,
    )
    height: float = param(
        1.0, "Along its axis, ends included; of box, capsule, cylinder and cone.", unit="m", above=0, high=1e6
    )
    depth: float = param(1.0, "Of a box, along z.", unit="m", above=0, high=1e6)
    ring: float = param(0.25, "Of a torus, the thickness of its ring.", unit="m", above=0, high=1e6)
    border: float = param(0.25, "Over which it fades.", unit="m", low=0, high=1e6)
    fades: Literal["outwards", "inwards", "both ways"] = param(
        "outwards", "On which side of the surface the border lies."
    )
    profile: Literal["linear", "smooth", "smoother"] = param(
        "smooth", "How it fades; a curve or a ramp after it shapes it further."
    )
    measure: Literal["coverage", "distance"] = param("coverage", "0…1; or the distance, below 0 inside, in the units of what it stands in.")  # fmt: skip

    def required_data(self) -> frozenset[str]:
        return frozenset({position_in(self.origin), footprint_in(self.origin)})

    def spaces(self) -> tuple[Space, ...]:
        return (self.origin,)

    def _fill(self, points: Points, out: Array) -> None:
        key = space_key(self.origin)
        away = self.distance(points.position(key))
        if self.measure == "distance":
            out[0] = away
            return
        border = np.float32(self.border)
        start = {"outwards": np.float32(0), "inwards": -border, "both ways": -border / 2}[self.fades]
        # What a sample covers softens the border as much: its middle stays where it is.
        wide = np.maximum(points.footprint(key), np.float32(1e-9))
        share = (away - start + wide / 2) / (border + wide)
        kept = np.float32(1) - np.clip(share, 0, 1)
        if self.profile == "smooth":
            kept = kept * kept * (np.float32(3) - np.float32(2) * kept)
        elif self.profile == "smoother":
            kept = kept * kept * kept * (kept * (kept * np.float32(6) - np.float32(15)) + np.float32(10))
        out[0] = kept

    def distance(self, place: Array) -> Array:
        """Distances `(n,)` from the surface, below 0 inside.

        Parameters
        ----------
        place : Array
            `(3, n)` in the shape's space.
        """
        found: Array = _DISTANCES[self.shape](place, self)
        return found


def _sphere(place: Array, shape: Falloff) -> Any:
    return np.sqrt((place * place).sum(axis=0)) - np.float32(shape.width / 2)


def _box(place: Array, shape: Falloff) -> Any:
    half = np.array([shape.width, shape.height, shape.depth], np.float32) / 2
    return _outside(*(np.abs(place) - half[:, None]))


def _plane(place: Array, shape: Falloff) -> Any:
    return place[1]


def _torus(place: Array, shape: Falloff) -> Any:
    radius = np.float32(shape.width / 2)
    ring = min(np.float32(shape.ring / 2), radius)
    return np.hypot(np.hypot(place[0], place[2]) - (radius - ring), place[1]) - ring


def _capsule(place: Array, shape: Falloff) -> Any:
    radius = np.float32(shape.width / 2)
    straight = max(np.float32(shape.height / 2) - radius, np.float32(0))
    return np.hypot(np.hypot(place[0], place[2]), place[1] - np.clip(place[1], -straight, straight)) - radius


def _cylinder(place: Array, shape: Falloff) -> Any:
    away = np.hypot(place[0], place[2]) - np.float32(shape.width / 2)
    return _outside(away, np.abs(place[1]) - np.float32(shape.height / 2))


def _cone(place: Array, shape: Falloff) -> Any:
    """In the plane through its axis, to the nearer of two lines: its foot, and its side from the foot's edge to the tip."""
    radius, half = np.float32(shape.width / 2), np.float32(shape.height / 2)
    out, up = np.hypot(place[0], place[2]) - radius, place[1] + half
    foot = np.hypot(np.maximum(out, 0), up)
    length = np.hypot(radius, 2 * half)
    ux, uy = -radius / length, 2 * half / length
    along = np.clip(out * ux + up * uy, 0, length)
    nearest = np.minimum(foot, np.hypot(out - along * ux, up - along * uy))
    return np.where((up > 0) & (out * uy - up * ux < 0), -nearest, nearest)


def _outside(*beyond: Array) -> Any:
    """The distance from how far a point lies beyond each pair of sides."""
    out = np.sqrt(sum(np.maximum(each, 0) ** 2 for each in beyond))
    return out + np.minimum(np.maximum.reduce(beyond), 0)


_DISTANCES: Mapping[str, Callable[[Array, Falloff], Any]] = {
    "sphere": _sphere,
    "box": _box,
    "capsule": _capsule,
    "cylinder": _cylinder,
    "cone": _cone,
    "plane": _plane,
    "torus": _torus,
}
