"""Rays against a shot's geometry: the nearest hit, and whether anything is in the way.

Each mesh is built once into a scene of its own; a shot is a scene of instances of those, so that moving an object
costs no rebuild. Rays are structure-of-arrays float32; directions are unit vectors, distances metres.
"""

import ctypes
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cache
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from texallon.core.columns import Chosen, take_columns
from texallon.core.geometry import embree
from texallon.core.geometry.embree import NO_HIT, intersect_one, occluded_one
from texallon.core.geometry.mesh import Floats, Ints
from texallon.core.kernel import Array, Float, Int, Integers, allocating, inlined

OPAQUE, CLEAR = 1, 2
"""Masks: what stops a shadow ray, and what lets part of it through."""


@cache
def _device() -> int:
    # One thread: scenes are small and are built beside a renderer that already uses every core.
    device: int = embree.new_device(b"threads=1,set_affinity=0")
    if not device:
        raise RuntimeError(f"the ray-tracing library did not start (error {embree.get_device_error(None)})")
    return device


@dataclass
class MeshRays:
    """The search structure of one mesh, in its own space."""

    vertices: Floats
    faces: Ints
    handle: int = field(init=False)

    def __post_init__(self) -> None:
        # Embree reads 16 bytes at a time: the last vertex must be followed by 4 bytes that may be read.
        padded = np.zeros((len(self.vertices) + 1) * 3, np.float32)
        padded[: self.vertices.size] = self.vertices.ravel()
        self._vertices = padded
        self._faces = np.ascontiguousarray(self.faces, np.uint32)
        geometry = embree.new_geometry(_device(), embree.GEOMETRY_TRIANGLE)
        _share(geometry, embree.BUFFER_VERTEX, embree.FORMAT_FLOAT3, self._vertices, len(self.vertices))
        _share(geometry, embree.BUFFER_INDEX, embree.FORMAT_UINT3, self._faces, len(self.faces))
        self.handle = _own_scene(geometry)

    @property
    def table(self) -> "RayScene":
        """For kernels that look at it alone, in its own space: what they meet is of no instance."""
        return RayScene(self.handle, np.zeros(1, np.int32), np.zeros(1, np.int32))

    @property
    def addresses(self) -> tuple[int, int]:
        """Of its vertices and faces in memory, for as long as it lives."""
        return int(self._vertices.ctypes.data), int(self._faces.ctypes.data)

    @property
    def nbytes(self) -> int:
        """About what it takes in memory: its arrays, and the library's tree (120 bytes for a triangle; measured, `bench/rays.py`)."""
        return int(self._vertices.nbytes + self._faces.nbytes + 120 * len(self.faces))

    def __del__(self) -> None:
        if getattr(self, "handle", None):
            embree.release_scene(self.handle)


def _share(geometry: int, slot: int, form: int, array: npt.NDArray[np.generic], count: int) -> None:
    embree.set_shared_buffer(geometry, slot, 0, form, array.ctypes.data, 0, 12, count)


def _raise_errors() -> None:
    code = embree.get_device_error(_device())
    if code:
        raise RuntimeError(f"the ray-tracing library reported error {code}")


@dataclass
class SphereRays:
    """The search structure of many spheres, in their object's space: found as they are, without faces.

    Attributes
    ----------
    centres : Array
        `(k, 3)` metres.
    radii : Array
        `(k,)` metres.
    """

    centres: Floats
    radii: Floats
    handle: int = field(init=False)

    def __post_init__(self) -> None:
        self._spheres = np.ascontiguousarray(np.column_stack([self.centres, self.radii]), np.float32)
        geometry = embree.new_geometry(_device(), embree.GEOMETRY_SPHERE)
        embree.set_shared_buffer(
            geometry,
            embree.BUFFER_VERTEX,
            0,
            embree.FORMAT_FLOAT4,
            self._spheres.ctypes.data,
            0,
            16,
            len(self._spheres),
        )
        self.handle = _own_scene(geometry)

    @property
    def address(self) -> int:
        """Of its centres and radii in memory, for as long as it lives."""
        return int(self._spheres.ctypes.data)

    @property
    def count(self) -> int:
        """How many spheres there are."""
        return len(self._spheres)

    @property
    def nbytes(self) -> int:
        """About what it takes in memory: its array, and the library's tree (49 bytes for a sphere, as a prototype found)."""
        return int(self._spheres.nbytes + 49 * len(self._spheres))

    def __del__(self) -> None:
        if getattr(self, "handle", None):
            embree.release_scene(self.handle)


def _own_scene(geometry: int) -> int:
    """A scene of one geometry, which it takes over."""
    embree.set_geometry_mask(geometry, 0xFFFFFFFF)
    embree.commit_geometry(geometry)
    handle: int = embree.new_scene(_device())
    embree.set_scene_flags(handle, embree.SCENE_FLAG_ROBUST)
    embree.set_scene_build_quality(handle, embree.QUALITY_MEDIUM)
    embree.attach_geometry(handle, geometry, 0)
    embree.release_geometry(geometry)
    embree.commit_scene(handle)
    _raise_errors()
    return handle


ALONE, COPY, SPHERE = 0, 1, 2
"""What stands behind a geometry of a scene: one instance, copies of one mesh, or spheres."""


class RayScene(NamedTuple):
    """A scene for kernels: the library's `handle`, and for each of its geometries the number of its `first` instance and its `kind`."""

    handle: int
    first: Integers
    kind: Integers


class Placed(NamedTuple):
    """A structure where it stands: `matrices (k, 3, 4)` into the world, or one `(3, 4)`; and which rays meet it.

    Of spheres there is one matrix; each of them is an instance of its own.
    """

    structure: MeshRays | SphereRays
    matrices: npt.NDArray[np.float32]
    mask: int


class SceneRays:
    """Instances, numbered through: those of each `Placed` in turn."""

    def __init__(self, placed: Sequence[Placed | tuple[MeshRays | SphereRays, npt.NDArray[np.float32], int]]) -> None:
        self._kept: list[tuple[MeshRays | SphereRays, npt.NDArray[np.float32]]] = []
        self._own: npt.NDArray[np.int64] | None = None
        first, kind, number = [], [], 0
        self.handle: int = embree.new_scene(_device())
        embree.set_scene_flags(self.handle, embree.SCENE_FLAG_ROBUST)
        for at, (structure, matrices, mask) in enumerate(placed):
            rows = np.ascontiguousarray(matrices, np.float32).reshape(-1, 3, 4)
            several = len(rows) > 1
            geometry = embree.new_geometry(
                _device(), embree.GEOMETRY_INSTANCE_ARRAY if several else embree.GEOMETRY_INSTANCE
            )
            embree.set_instanced_scene(geometry, structure.handle)
            if several:
                embree.set_shared_buffer(
                    geometry, embree.BUFFER_TRANSFORM, 0, embree.FORMAT_FLOAT3X4_ROW_MAJOR, rows.ctypes.data, 0, 48, len(rows)
                )  # fmt: skip
            else:
                embree.set_geometry_transform(
                    geometry, 0, embree.FORMAT_FLOAT3X4_ROW_MAJOR, rows.ctypes.data_as(ctypes.c_void_p)
                )
            embree.set_geometry_mask(geometry, mask)
            embree.commit_geometry(geometry)
            embree.attach_geometry(self.handle, geometry, at)
            embree.release_geometry(geometry)
            first.append(number)
            kind.append(SPHERE if isinstance(structure, SphereRays) else COPY if several else ALONE)
            number += structure.count if isinstance(structure, SphereRays) else len(rows)
            self._kept.append((structure, rows))
        embree.commit_scene(self.handle)
        _raise_errors()
        self.instances = number
        """How many there are."""
        self.nbytes = sum(512 if single == ALONE else 0 for single in kind) + 170 * number
        """About what its own tree takes in memory."""
        numbers = np.array(first or [0], np.int32), np.array(kind or [ALONE], np.int32)
        self.table = RayScene(self.handle, *numbers)
        """For kernels."""

    def __del__(self) -> None:
        if getattr(self, "handle", None):
            embree.release_scene(self.handle)

    def own_structures(self, count: int) -> npt.NDArray[np.int64]:
        """The handle of each instance's own search structure, in its own space, for the first `count` instances; 0 for spheres.

        Parameters
        ----------
        count : int
            Of the instances.

        Returns
        -------
        Array
            `(count,)`.
        """
        if self._own is None or len(self._own) != count:
            own = [0 if isinstance(each, SphereRays) else each.handle for each, _ in self._kept]
            behind = np.searchsorted(self.table.first, np.arange(count), side="right") - 1
            self._own = np.array(own, np.int64)[behind]
        return self._own

    def nearest(self, origin: Array, direction: Array, near: Array, mask: int = OPAQUE | CLEAR) -> "Hits":
        """The nearest hit of each ray; `origin`, `direction` `(3, n)`, `near (n,)` where each ray starts.

        Parameters
        ----------
        origin : Array
            `(3, n)` metres.
        direction : Array
            `(3, n)` unit vectors.
        near : Array
            Metres, `(n,)` or one.
        mask : int, optional
            Which geometry the rays meet.
        """
        _check_rays(origin, direction, near)
        hits = Hits.empty(origin.shape[1])
        find_nearest(self.table, Rays(origin, direction, near), mask, hits)
        return hits

    def blocked(self, origin: Array, direction: Array, near: Array, far: Array, mask: int = OPAQUE) -> Integers:
        """1 where something lies between `near` and `far` along a ray, else 0; shape `(n,)`.

        Parameters
        ----------
        origin : Array
            `(3, n)` metres.
        direction : Array
            `(3, n)` unit vectors.
        near, far : Array
            Metres, `(n,)` or one.
        mask : int, optional
            Which geometry the rays meet.

        Returns
        -------
        Integers
            `(n,)`.
        """
        _check_rays(origin, direction, near)
        if far.shape != near.shape:
            raise ValueError(f"far has {far.shape}, near {near.shape}")
        found = np.empty(origin.shape[1], np.int32)
        find_blocked(self.handle, origin, direction, near, far, mask, found)
        return found


def _check_rays(origin: Array, direction: Array, near: Array) -> None:
    # The library checks nothing: a wrong length would read past the end of an array.
    count = near.shape[0]
    if origin.shape != (3, count) or direction.shape != (3, count):
        raise ValueError(f"rays need origin and direction (3, {count}), got {origin.shape} and {direction.shape}")
    for array in (origin, direction, near):
        if array.dtype != np.float32 or not array.flags.c_contiguous:
            raise ValueError("rays are contiguous float32 arrays")


class Rays(NamedTuple):
    """n rays: `origin` and unit `direction (3, n)`, and where each starts, `near (n,)`, metres."""

    origin: Array
    direction: Array
    near: Array


class Hits(NamedTuple):
    """Where rays met geometry: `instance` −1 means nowhere.

    `distance (n,)` metres, `barycentric (2, n)` barycentric u and v, `instance (n,)` and `face (n,)` numbers.
    """

    distance: Array
    barycentric: Array
    instance: Integers
    face: Integers

    @staticmethod
    def empty(count: int) -> "Hits":
        """Room for some hits.

        Parameters
        ----------
        count : int
            Number of points, n.
        """
        return Hits(
            np.empty(count, np.float32),
            np.empty((2, count), np.float32),
            np.empty(count, np.int32),
            np.empty(count, np.int32),
        )

    def copy(self) -> "Hits":
        """The same hits, to be changed."""
        return Hits(self.distance.copy(), self.barycentric.copy(), self.instance.copy(), self.face.copy())

    def take(self, chosen: Chosen) -> "Hits":
        """The hits at some positions.

        Parameters
        ----------
        chosen : Integers
            `(m,)` positions.
        """
        return Hits(
            take_columns(self.distance, chosen),
            take_columns(self.barycentric, chosen),
            take_columns(self.instance, chosen),
            take_columns(self.face, chosen),
        )


@inlined
def aim(
    ray: Array, bits: npt.NDArray[np.uint32], i: Int, mask: Int, ox: Float, oy: Float, oz: Float, dx: Float, dy: Float, dz: Float,
    near: Float, far: Float,
) -> None:  # fmt: skip
    """Fill the library's record of a ray, `ray (24,)` and the same as whole numbers, before it is asked.

    Parameters
    ----------
    ray : Array
        `(24,)` the library's record.
    bits : Array
        The same as whole numbers.
    i : int
        Number of the ray.
    mask : int
        Which geometry the rays meet.
    ox, oy, oz : float
        Origin.
    dx, dy, dz : float
        Direction.
    near, far : float
        Metres, `(n,)` or one.
    """
    ray[0], ray[1], ray[2], ray[3] = ox, oy, oz, near
    ray[4], ray[5], ray[6], ray[7] = dx, dy, dz, np.float32(0)
    ray[8] = far
    bits[9], bits[10], bits[11] = mask, i, 0
    bits[18], bits[19], bits[20] = NO_HIT, NO_HIT, NO_HIT


@inlined
def keep_hit(scene: RayScene, ray: Array, bits: npt.NDArray[np.uint32], hits: Hits, i: Int) -> None:
    """Write down what the library found for a ray.

    A sphere is kept as the octahedron within it: the face that the hit lies behind, seen from the middle, and the place on that; whoever
    looks positions up brings them out to the sphere again.

    Parameters
    ----------
    scene : RayScene
        What the ray may have met.
    ray : Array
        `(24,)` the library's record.
    bits : Array
        The same as whole numbers.
    hits : Hits
        Filled at one place.
    i : int
        Number of the ray.
    """
    if bits[18] == NO_HIT:
        hits.distance[i] = np.float32(np.inf)
        hits.barycentric[0, i] = np.float32(0)
        hits.barycentric[1, i] = np.float32(0)
        hits.instance[i] = -1
        hits.face[i] = -1
    else:
        hits.distance[i] = ray[8]
        hits.barycentric[0, i] = ray[15]
        hits.barycentric[1, i] = ray[16]
        hits.instance[i] = -1
        hits.face[i] = bits[17]
        if bits[19] != NO_HIT:
            geometry = np.int64(bits[19])
            hits.instance[i] = scene.first[geometry]
            if scene.kind[geometry] == COPY:
                hits.instance[i] += np.int32(bits[20])
            elif scene.kind[geometry] == SPHERE:
                hits.instance[i] += np.int32(bits[17])
                x, y, z = ray[12], ray[13], ray[14]
                size = abs(x) + abs(y) + abs(z)
                hits.barycentric[0, i] = abs(y) / size
                hits.barycentric[1, i] = abs(z) / size
                hits.face[i] = (1 if x < 0 else 0) + (2 if y < 0 else 0) + (4 if z < 0 else 0)


@allocating
def find_nearest(scene: RayScene, rays: Rays, mask: int, hits: Hits) -> None:
    """The nearest hit of each ray (see `SceneRays.nearest`).

    Parameters
    ----------
    scene : RayScene
        What the rays may meet.
    rays : Rays
        n.
    mask : int
        Which geometry they meet.
    hits : Hits
        n, filled: infinitely far and of instance −1 where nothing was hit.
    """
    origin, direction, near = rays.origin, rays.direction, rays.near
    store = np.empty(48, np.float32)  # two 96-byte records' worth: room to start on a multiple of 64 bytes
    address = store.ctypes.data
    first = ((-address) % 64) // 4
    ray = store[first : first + 24]
    bits = ray.view(np.uint32)
    at = ray.ctypes.data
    for i in range(hits.distance.shape[0]):
        aim(
            ray, bits, i, mask, origin[0, i], origin[1, i], origin[2, i], direction[0, i], direction[1, i],
            direction[2, i], near[i], np.float32(np.inf),
        )  # fmt: skip
        intersect_one(scene.handle, at, 0)
        keep_hit(scene, ray, bits, hits, i)


@allocating
def find_blocked(
    scene: int, origin: Array, direction: Array, near: Array, far: Array, mask: int, found: Integers
) -> None:
    """Whether anything lies along each ray (see `SceneRays.blocked`).

    Parameters
    ----------
    scene : int
        Handle of the acceleration structure.
    origin : Array
        `(3, n)` metres.
    direction : Array
        `(3, n)` unit vectors.
    near, far : Array
        Metres, `(n,)` or one.
    mask : int
        Which geometry the rays meet.
    found : Integers
        `(n,)` 1 where something is in the way; filled.
    """
    store = np.empty(48, np.float32)
    address = store.ctypes.data
    first = ((-address) % 64) // 4
    ray = store[first : first + 24]
    bits = ray.view(np.uint32)
    at = ray.ctypes.data
    for i in range(found.shape[0]):
        aim(
            ray, bits, i, mask, origin[0, i], origin[1, i], origin[2, i], direction[0, i], direction[1, i],
            direction[2, i], near[i], far[i],
        )  # fmt: skip
        occluded_one(scene, at, 0)
        found[i] = 1 if ray[8] < np.float32(0) else 0
