"""Hits on a scene as providers of point data see them."""

import os
from collections.abc import Callable, Mapping
from concurrent.futures import ThreadPoolExecutor
from typing import Protocol

import numpy as np

from texallon.core.derived import checkpoint
from texallon.core.geometry.bake_geometry import fill_blocked_share
from texallon.core.geometry.bending import Bodies, Felt, fill_bending
from texallon.core.geometry.closest import nearest_of
from texallon.core.geometry.rays import Hits
from texallon.core.kernel import Array, Integers
from texallon.core.points import BakedPointData, PointContext, attribute_name, is_attribute, point_data_kind
from texallon.core.render.scene.interpolation import fill_object_position, interpolate, uv_density
from texallon.core.render.scene.scene import Scene
from texallon.core.render.scene.surface import Surface, surface_in

PIECE = 8192
"""Points that are felt about by rays in one go: more are shared among threads, as what is seen comes in one batch."""


def in_pieces(count: int, run: Callable[[slice], None]) -> None:
    """Do something for some points at a time, looking between whether it is still wanted.

    Parameters
    ----------
    count : int
        Of the points.
    run : callable
        Given some of them.

    Raises
    ------
    Interrupted
        When it is no longer wanted.
    """
    check = checkpoint()

    def some(start: int) -> None:
        check()
        run(slice(start, min(start + PIECE, count)))

    if count <= PIECE:
        return some(0)
    with ThreadPoolExecutor(len(os.sched_getaffinity(0))) as pool:
        list(pool.map(some, range(0, count, PIECE)))


FOLLOWED = "relief_normal"
"""The point data that reads the relief of looks."""


class ReliefOfLooks(Protocol):
    """What looks raise and sink on surfaces."""

    def normals(self, scene: Scene, hits: Hits, surface: Surface, given: Mapping[str, Array]) -> Array:
        """The normals `(3, n)` of hits with it.

        Parameters
        ----------
        scene : Scene
            What stands where.
        hits : Hits
            `n` hits on objects.
        surface : Surface
            Surface points, n, left as they are.
        given : mapping
            `view (3, n)`, `footprint (1, n)`.

        Returns
        -------
        Array
            `(3, n)` unit vectors.
        """


class HitPoints(PointContext):
    """Implements `points.PointContext` for hits on objects of a scene.

    Parameters
    ----------
    given : mapping
        Point data that belongs to the rays: `view (3, n)` and `footprint (1, n)`.
    relief : ReliefOfLooks, optional
        What normals may follow; the smooth ones are followed where there is none.
    """

    def __init__(
        self,
        scene: Scene,
        hits: Hits,
        surface: Surface,
        given: Mapping[str, Array],
        relief: ReliefOfLooks | None = None,
    ) -> None:
        self._scene, self._hits, self._surface, self._given, self._relief = scene, hits, surface, given, relief

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

    def relief_normal(self) -> Array:
        if self._relief is None:
            return self.normal
        return self._relief.normals(self._scene, self._hits, self._surface, self._given)

    def rest_normal(self) -> Array:
        return surface_in(self._scene.geometry.tables_at_rest, self._hits).normal

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
        """An attribute interpolated over the faces that were hit; copies that carry their own have that instead.

        Parameters
        ----------
        name : str
            Of the attribute.

        Returns
        -------
        Array
            `(width, n)`.
        """
        values = self._interpolated(self._scene.data.attribute(name))
        if name not in self._scene.carried:
            return values
        own, there = self._scene.carried[name]
        out = np.zeros((max(values.shape[0], own.shape[1]), self.count), np.float32)
        out[: values.shape[0]] = values
        mine = there[self._hits.instance]
        out[:, mine] = 0
        out[: own.shape[1], mine] = own[self._hits.instance[mine]].T
        return out

    def carries(self, name: str) -> Array:
        """Whether what was hit carries an attribute: by its mesh, its copies, or what it remembers.

        Parameters
        ----------
        name : str
            Of the attribute.

        Returns
        -------
        Array
            `(n,)` 0 or 1.
        """
        scene = self._scene
        of_mesh = [
            name in scene.distinct[each.mesh_number].attributes or name in each.remembered for each in scene.instances
        ]
        carried = np.repeat(np.array(of_mesh, np.bool_), [len(each) for each in scene.instances])
        if name in scene.carried:
            carried = carried | scene.carried[name][1]
        found: Array = carried[self._hits.instance].astype(np.float32)
        return found

    def distance_to(self, name: str, most: float, part: str) -> Array:
        """Metres from the hits, as they are displaced, to another object.

        Parameters
        ----------
        name : str
            Of the object.
        most : float
            Metres; nothing farther is looked for.
        part : str
            `surface`, `edges`, `points` or `signed`.

        Returns
        -------
        Array
            `(n,)` metres, at most `most`.
        """
        return nearest_of(self._scene.data.surface(name), self._surface.position, most, part)

    def shut_in(self, far: float, directions: Array, way: str) -> Array:
        """The share of a fan of rays from each hit that meets anything shown.

        Parameters
        ----------
        far : float
            Metres.
        directions : Array
            `(3, k)` unit vectors about z.
        way : str
            `outwards`, `inwards` or `upwards`.

        Returns
        -------
        Array
            `(n,)` 0…1.
        """
        surface = self._surface
        side = surface.flat if way != "inwards" else -surface.flat
        start = np.ascontiguousarray(surface.position + side * surface.offset, np.float32)
        up = np.array([[0], [1], [0]], np.float32)
        about = np.broadcast_to(up, start.shape) if way == "upwards" else side
        out = np.empty(self.count, np.float32)
        axes = np.ascontiguousarray(about, np.float32)

        def some(part: slice) -> None:
            places, ways = (np.ascontiguousarray(each[:, part]) for each in (start, axes))
            handle = self._scene.rays.handle
            fill_blocked_share(handle, places, ways, directions, np.float32(far), np.float32(0), out[part])

        in_pieces(self.count, some)
        return out

    def bending(self, radius: float) -> Array:
        """Mean curvature of the body that was hit, by rays against itself; a sphere without a mesh by its size.

        Parameters
        ----------
        radius : float
            Metres of the world.

        Returns
        -------
        Array
            `(n,)` 1/m.
        """
        scene, surface = self._scene, self._surface
        tables, instance = scene.geometry.tables, self._hits.instance
        handle = scene.rays.own_structures(scene.objects)
        bodies = Bodies(handle, tables.vertices, tables.normals, tables.faces, tables.first_face, tables.inverse)
        out = np.empty(self.count, np.float32)
        lift = surface.offset * np.float32(4)

        def some(part: slice) -> None:
            place, normal = (np.ascontiguousarray(each[:, part]) for each in (surface.position, surface.normal))
            fill_bending(bodies, Felt(place, normal, instance[part], lift[part]), np.float32(radius), out[part])

        in_pieces(self.count, some)
        around = tables.round[instance]
        if around.any():
            # Spheres have no mesh: they are as bent as they are, but no more than rays over the radius would find.
            size = scene.scales[instance[around]]
            out[around] = 1 / np.maximum(size, np.float32(radius))
        return out

    def baked(self, kind: BakedPointData) -> Array:
        """What was baked at the vertices, interpolated over the faces that were hit.

        Parameters
        ----------
        kind : BakedPointData
            That was baked.

        Returns
        -------
        Array
            `(width, n)`.
        """
        return self._interpolated(self._scene.data.baked(kind.asked))

    def _interpolated(self, values: Array) -> Array:
        out = np.empty((values.shape[1], self.count), np.float32)
        interpolate(self._scene.geometry.tables, self._hits, values, out)
        return out


def point_data(
    scene: Scene,
    hits: Hits,
    surface: Surface,
    required_data: frozenset[str],
    given: Mapping[str, Array],
    relief: ReliefOfLooks | None = None,
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
    relief : ReliefOfLooks, optional
        What `relief_normal` follows.

    Returns
    -------
    dict
        By name, `(width, n)`.

    Raises
    ------
    KeyError
        For a name that is no kind.
    """
    at = HitPoints(scene, hits, surface, given, relief)
    data: dict[str, Array] = {}
    for name in required_data:
        if is_attribute(name):
            data[name] = at.attribute(attribute_name(name))
        else:
            data[name] = point_data_kind(name).at_hits(at)
    return data
