"""Hits on a scene as providers of point data see them."""

from collections.abc import Mapping

import numpy as np

from texallon.core.geometry.closest import nearest_of
from texallon.core.geometry.rays import Hits
from texallon.core.kernel import Array, Integers
from texallon.core.points import BakedPointData, PointContext, attribute_name, is_attribute, point_data_kind
from texallon.core.render.scene.interpolation import fill_object_position, interpolate, uv_density
from texallon.core.render.scene.scene import Scene
from texallon.core.render.scene.surface import Surface


class HitPoints(PointContext):
    """Implements `points.PointContext` for hits on objects of a scene.

    Parameters
    ----------
    given : mapping
        Point data that belongs to the rays: `view (3, n)` and `footprint (1, n)`.
    """

    def __init__(self, scene: Scene, hits: Hits, surface: Surface, given: Mapping[str, Array]) -> None:
        self._scene, self._hits, self._surface, self._given = scene, hits, surface, given

    @property
    def count(self) -> int:
        return len(self._hits.instance)

    @property
    def position(self) -> Array:
        return self._surface.position

    @property
    def normal(self) -> Array:
        return self._surface.normal

    @property
    def view(self) -> Array:
        return self._given["view"]

    @property
    def footprint(self) -> Array:
        return self._given["footprint"]

    @property
    def instance(self) -> Integers:
        return self._hits.instance

    @property
    def face(self) -> Integers:
        return self._hits.face

    def object_position(self) -> Array:
        out = np.empty((3, self.count), np.float32)
        fill_object_position(self._scene.geometry.inverse, self._hits.instance, self._surface.position, out)
        return out

    def object_scale(self) -> Array:
        scale: Array = self._scene.scales[self._hits.instance]
        return scale

    def uv(self) -> Array:
        return self._interpolated(self._scene.geometry.meshes.uv)

    def uv_per_metre(self) -> Array:
        out = np.empty(self.count, np.float32)
        uv_density(self._scene.geometry.tables, self._hits, out)
        return out

    def object_number(self) -> Array:
        number: Array = self._scene.numbers[self._hits.instance]
        return number

    def part_number(self) -> Array:
        geometry = self._scene.geometry
        faces = geometry.first_face[self._hits.instance] + self._hits.face
        number: Array = self._scene.part_numbers[self._hits.instance, geometry.meshes.part_of_face[faces]]
        return number

    def attribute(self, name: str) -> Array:
        return self._interpolated(self._scene.data.attribute(name))

    def carries(self, name: str) -> Array:
        carried = np.array([name in mesh.attributes for mesh in self._scene.meshes], np.float32)
        found: Array = carried[self._hits.instance]
        return found

    def distance_to(self, name: str, most: float, part: str) -> Array:
        return nearest_of(self._scene.data.surface(name), self._surface.position, most, part)

    def baked(self, kind: BakedPointData) -> Array:
        return self._interpolated(self._scene.data.baked(kind.asked))

    def _interpolated(self, values: Array) -> Array:
        out = np.empty((values.shape[1], self.count), np.float32)
        interpolate(self._scene.geometry.tables, self._hits, values, out)
        return out


def point_data(
    scene: Scene, hits: Hits, surface: Surface, required_data: frozenset[str], given: Mapping[str, Array]
) -> dict[str, Array]:
    """The point data that a plan needs at some hits.

    Parameters
    ----------
    scene : Scene
        What stands where.
    hits : Hits
        `n` hits on objects.
    surface : Surface
        Surface points, n.
    required_data : frozenset of str
        Names of kinds, or of stored attributes.
    given : mapping
        What belongs to the rays: `view (3, n)`, `footprint (1, n)`.

    Returns
    -------
    dict
        By name, `(width, n)`.

    Raises
    ------
    KeyError
        For a name that is no kind.
    """
    at = HitPoints(scene, hits, surface, given)
    data: dict[str, Array] = {}
    for name in required_data:
        if is_attribute(name):
            data[name] = at.attribute(attribute_name(name))
        else:
            data[name] = point_data_kind(name).at_hits(at)
    return data
