"""How much of what lies about a point is hidden by its own object: crevices, and the other way how thin it is."""

from typing import ClassVar

import numpy as np

from texallon.core.kernel import Array
from texallon.core.points.kind import BakedPointData, VertexGeometry
from texallon.core.points.welded import welded

RAYS = 192
"""In a fan."""

WAYS = ("outwards", "inwards")


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

    def bake(self, mesh: VertexGeometry) -> Array:
        distance, spread, way = self.given.split(",")
        surface = welded(mesh)
        axes = surface.normals if way == "outwards" else -surface.normals
        found = mesh.blocked_share(
            np.ascontiguousarray(surface.places.T, np.float32), np.ascontiguousarray(axes.T, np.float32), fan(float(spread)), float(distance)
        )  # fmt: skip
        at_vertices: Array = found[surface.one][:, None]
        return at_vertices
