"""How much of what lies about a point is hidden by its own object: crevices, and the other way how thin it is."""

from typing import ClassVar

import numpy as np

from texallon.core.kernel import Array
from texallon.core.points.kind import BakedPointData, VertexGeometry
from texallon.core.points.welded import Floats, welded

RAYS = 192
"""In a fan."""

UP = np.array([0.0, 1.0, 0.0])
"""The object's own."""

WAYS = ("outwards", "inwards", "upwards")


def fan(spread: float, count: int = RAYS) -> Array:
    """Unit vectors `(3, count)` about z within a cone, by the cosine: each stands for the same share of the light that comes from there.

    They are even over the disc that the cone is seen as from above, along a spiral: of squares of directions hardly any lie near the horizon,
    and low walls were not seen.

    Parameters
    ----------
    spread : float
        Degrees across the cone, up to 180.
    count : int
        Of directions.

    References
    ----------
    H. Vogel, "A better way to construct the sunflower head", Mathematical Biosciences 44 (1979).
    """
    number = np.arange(count)
    away = np.sqrt((number + 0.5) / count) * np.sin(np.radians(min(spread, 180.0)) / 2)
    turn = number * np.pi * (3 - np.sqrt(5))
    up = np.sqrt(np.maximum(1 - away * away, 0))
    return np.ascontiguousarray(np.stack([away * np.cos(turn), away * np.sin(turn), up]), np.float32)


class Occlusion(BakedPointData):
    """The share of a fan of rays about the normal, by the cosine, that meets the object itself within a distance.

    The fan is the same at every vertex, so that there is no noise to threshold.

    References
    ----------
    S. Zhukov, A. Iones, G. Kronin, "An Ambient Light Illumination Model", Eurographics Workshop on Rendering 1998.
    """

    name: ClassVar[str] = "occlusion"
    parameter: ClassVar[str] = "distance in m, spread in degrees, way"
    meaning: ClassVar[str] = "Share of what lies about a point that its own object hides: 0 in the open, 1 shut in."
    made_from: ClassVar[str] = "rays from the mesh's vertices"

    def _bake(self, mesh: VertexGeometry) -> Array:
        distance, spread, way = self.given.split(",")
        far, directions, sign = float(distance), fan(float(spread)), -1 if way == "inwards" else 1

        def shut(places: Floats, normals: Floats) -> Array:
            # Upwards: what falls comes from there, however the surface leans; from below a body it has to come through it.
            about = np.broadcast_to(UP, normals.shape) if way == "upwards" else sign * normals
            at, axes = (np.ascontiguousarray(each.T, np.float32) for each in (places, about))
            return mesh.blocked_share(at, axes, directions, far)

        # Along an inner edge the mean of the normals leads away from both sides. A sheet whose sides lie in one place has none: each its own.
        surface = welded(mesh)
        found: Array = shut(surface.places, surface.normals)[surface.one]
        sheet = (np.abs(surface.normals).sum(axis=1) == 0)[surface.one]
        if sheet.any():
            found[sheet] = shut(mesh.vertices[sheet].astype(float), mesh.normals[sheet].astype(float))
        return found[:, None]
