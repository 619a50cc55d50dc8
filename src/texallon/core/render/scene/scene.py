"""A shot's geometry ready for rays: what stands where, wearing what, with which numbers."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import NamedTuple, Protocol

import numpy as np
import numpy.typing as npt

from texallon.core.derived import Cost, content_key, derived
from texallon.core.document.light_group import group_number
from texallon.core.document.object import Object
from texallon.core.geometry.closest import Measurable
from texallon.core.geometry.mesh import Mesh
from texallon.core.geometry.rays import CLEAR, OPAQUE, SceneRays
from texallon.core.kernel import Array, Integers
from texallon.core.ops.points import OpFiles
from texallon.core.points.name_number import name_number
from texallon.core.render.scene.lamp_shapes import LampShape, lamp_mesh
from texallon.core.render.scene.mesh_arrays import MeshArrays
from texallon.core.render.scene.traits import LookTraits

UNSEEN = 4
"""Mask of lights that the camera does not see."""

EVERYTHING = OPAQUE | CLEAR | UNSEEN
SEEN = OPAQUE | CLEAR
STOPS_LIGHT = OPAQUE | UNSEEN


class SceneData(OpFiles, Protocol):
    """Where a scene finds what is only wanted now and then: each is a derived value of its own."""

    @property
    def content_key(self) -> str: ...

    def attribute(self, name: str) -> Array:
        """A stored attribute `(v, width)` of the scene's joined meshes.

        Parameters
        ----------
        name : str
            Of the attribute, or what is numbered.

        Returns
        -------
        Array
            `(v, width)`.
        """

    def surface(self, name: str) -> tuple[Measurable, ...]:
        """What a shown object consists of, to measure from; nothing where there is none of that name.

        Parameters
        ----------
        name : str
            Of the object.
        """

    def baked(self, kind: str) -> Array:
        """What a kind of point data has baked, `(v, width)`, likewise.

        Parameters
        ----------
        kind : str
            Of point data.

        Returns
        -------
        Array
            `(v, width)`.
        """


class GeometryTables(NamedTuple):
    """All that hits are looked up in, for kernels: see `MeshArrays` and `InstanceTable`."""

    vertices: Array
    normals: Array
    uv: Array
    faces: Integers
    part_of_face: Integers
    first_face: Integers
    matrix: Array
    inverse: Array
    look_of_part: Integers
    round: npt.NDArray[np.bool_]


@dataclass(frozen=True)
class InstanceTable:
    """The meshes and a row per instance; lamps come after the objects and have no row.

    Attributes
    ----------
    matrix, inverse : Array
        `(i, 3, 4)` into the world and back.
    first_face : Integers
        `(i,)` where the faces of each instance's mesh start.
    look_of_part : Integers
        `(i, p)` positions in the shot's looks.
    round : Array
        `(i,)` whether it is a sphere, of which the mesh is the octahedron within.
    """

    meshes: MeshArrays
    matrix: Array
    inverse: Array
    first_face: Integers
    look_of_part: Integers
    round: npt.NDArray[np.bool_]

    @cached_property
    def tables_at_rest(self) -> GeometryTables:
        """As `tables`, before anything was displaced."""
        return self.tables._replace(vertices=self.meshes.rest, normals=self.meshes.rest_normals)

    @cached_property
    def tables(self) -> GeometryTables:
        """The same in one row, for kernels."""
        m = self.meshes
        return GeometryTables(
            m.vertices,
            m.normals,
            m.uv,
            m.faces,
            m.part_of_face,
            self.first_face,
            self.matrix,
            self.inverse,
            self.look_of_part,
            self.round,
        )


@dataclass(frozen=True, eq=False)
class MeshInstances:
    """One mesh of an object in every place where it stands.

    Attributes
    ----------
    item : Object
        Of the shot.
    mesh_number : int
        Among the distinct meshes.
    matrices : Array
        `(k, 3, 4)` into the world.
    mask : int
        For rays.
    numbers : Integers
        `(k,)` among all instances of its object.
    name_numbers : Array
        `(k,)` whole numbers that stay with the object's name and those.
    attributes : mapping
        By name, `(k, 1…4)`: what each instance carries itself.
    round : bool
        Whether rays meet spheres rather than the mesh, which is the octahedron within a unit sphere then.
    item_key : str
        Of the item's content, where it is known.
    remembered : tuple of str
        Names of attributes that the mesh has beside its own.
    """

    item: Object
    mesh_number: int
    matrices: Array
    mask: int
    numbers: Integers
    name_numbers: Array
    attributes: Mapping[str, Array] = field(default_factory=dict)
    round: bool = False
    item_key: str = ""
    remembered: tuple[str, ...] = ()

    def __len__(self) -> int:
        return len(self.matrices)

    @cached_property
    def content_key(self) -> str:
        held = (self.mesh_number, self.matrices, self.mask, self.numbers, self.attributes, self.round, self.remembered)
        return content_key((self.item_key or content_key(self.item), *held))


@dataclass(frozen=True, eq=False)
class Scene:
    """Geometry, rays and lookups for one arrangement of one shot's objects.

    Attributes
    ----------
    instances : tuple of MeshInstances
        Of all objects that are shown, i in all.
    distinct : tuple of Mesh
        What they are instances of.
    rays : SceneRays
        MeshInstances of objects, then lamps.
    scales : Array
        `(i,)` metres in the world for a unit of the instance's space.
    numbers, part_numbers : Array
        `(i,)`, `(i, p)` whole numbers below 2²⁴ that stay with names.
    held : Array
        `(i, 3)` of heights: the zero level, the least and the most; without bounds where nothing is displaced.
    priority, group : Integers
        `(i,)` of nested media, and of light groups.
    centre, radius
        Of a ball around everything, metres.
    """

    instances: tuple[MeshInstances, ...]
    distinct: tuple[Mesh, ...]
    rays: SceneRays
    geometry: InstanceTable
    scales: Array
    numbers: Array
    part_numbers: Array
    held: Array
    priority: Integers
    group: Integers
    centre: npt.NDArray[np.float64]
    radius: float
    has_clear: bool
    has_mixed: bool
    """Whether some object has both parts that let light through and parts that do not."""
    has_media: bool
    has_scattering_media: bool
    has_subsurface: bool
    data: SceneData
    rays_key: str
    """Told by what rays meet, whatever it wears."""
    content_key: str

    @property
    def objects(self) -> int:
        """How many instances are of objects; those after them are lights."""
        return len(self.numbers)

    @cached_property
    def shown(self) -> tuple[Object, ...]:
        """For each instance the object that it is of."""
        return tuple(each.item for each in self.instances for _ in range(len(each)))

    @cached_property
    def meshes(self) -> tuple[Mesh, ...]:
        """For each instance its mesh."""
        return tuple(self.distinct[each.mesh_number] for each in self.instances for _ in range(len(each)))

    @cached_property
    def carried(self) -> dict[str, tuple[Array, npt.NDArray[np.bool_]]]:
        """By name of an attribute that instances carry themselves, `(i, 1…4)` and which do, `(i,)`."""
        found = {}
        for name, width in instance_attributes(self.instances).items():
            values, there = np.zeros((self.objects, width), np.float32), np.zeros(self.objects, np.bool_)
            start = 0
            for each in self.instances:
                if name in each.attributes:
                    values[start : start + len(each)] = each.attributes[name]
                    there[start : start + len(each)] = True
                start += len(each)
            found[name] = (values, there)
        return found

    def attribute_names(self) -> dict[str, int]:
        """The attributes that any shown object carries, with their widths."""
        of_meshes = {name: values.shape[1] for mesh in self.distinct for name, values in mesh.attributes.items()}
        remembered = {name: 1 for each in self.instances for name in each.remembered}
        return of_meshes | remembered | instance_attributes(self.instances)

    @cached_property
    def starts(self) -> Integers:
        """The number of the first instance of each of `instances`, and at the end how many there are in all."""
        return np.cumsum([0, *[len(each) for each in self.instances]]).astype(np.int32)

    def of_instance(self, number: int) -> MeshInstances:
        """What an instance belongs to.

        Parameters
        ----------
        number : int
            Below `objects`.
        """
        return self.instances[int(np.searchsorted(self.starts, number, "right")) - 1]


@derived("numbers of instances")
def instance_numbers(name: str, numbers: Integers) -> Array:
    """Integers below 2²⁴ that stay with instances, `(k,)`.

    Parameters
    ----------
    name : str
        Of their object.
    numbers : Integers
        `(k,)` among its instances.

    Returns
    -------
    Array
        `(k,)`.
    """
    names = (name if number == 0 else f"{name}#{number}" for number in numbers.tolist())
    return np.array([name_number(each) for each in names], np.float32)


@derived("scene", cost=Cost.INSTANT)
def assemble_scene(
    instances: tuple[MeshInstances, ...],
    meshes: tuple[Mesh, ...],
    arrays: MeshArrays,
    rays: SceneRays,
    lamps: tuple[LampShape, ...],
    traits: tuple[LookTraits, ...],
    groups: tuple[str, ...],
    data: SceneData,
) -> Scene:
    """Put a scene together from what was made for it.

    Parameters
    ----------
    instances : tuple of MeshInstances
        Of the objects that are shown.
    meshes : tuple of Mesh
        Distinct ones.
    arrays : MeshArrays
        The meshes joined.
    rays : SceneRays
        MeshInstances of objects, then lamps.
    lamps : tuple of LampShape
        Those that rays can meet.
    traits : tuple of LookTraits
        Of all looks, in the order of the document.
    groups : tuple of str
        The names of the light groups.
    data : SceneData
        Where to find what is only wanted now and then.
    """
    names = [each.name for each in traits]
    of_look = {each.name: each for each in traits}
    items = [each.item for each in instances]
    counts = [len(each) for each in instances]
    worn = {name: of_look[name] for item in items for name in looks_of(item)}
    transmits = any(each.transmits for each in worn.values())
    low, high = _bounds(instances, meshes, lamps)
    key = content_key((instances, meshes, lamps, traits, groups, data.content_key))
    met = tuple((meshes[each.mesh_number].content_key, each.matrices, each.mask, each.round) for each in instances)
    rays_key = content_key(("rays", met, lamps))
    table = _table(arrays, meshes, instances, names)
    return Scene(
        instances,
        meshes,
        rays,
        table,
        (np.abs(np.linalg.det(table.matrix[:, :, :3].astype(np.float64))) ** (1 / 3)).astype(np.float32),
        np.concatenate([np.zeros(0, np.float32), *[each.name_numbers for each in instances]]),
        _part_numbers(meshes, instances),
        np.repeat(np.array([_held(item) for item in items], np.float32).reshape(-1, 3), counts, axis=0),
        _of_each([item.priority for item in items], counts),
        _of_each([group_number(groups, item.group) for item in items], counts),
        (low + high) / 2,
        max(float(np.linalg.norm(high - low)) / 2, 1e-3),
        any(each.clear for each in worn.values()),
        any(len({of_look[name].clear for name in looks_of(item)}) > 1 for item in items),
        transmits,
        transmits and any(each.scatters for each in worn.values()),
        any(each.subsurface for each in worn.values()),
        data,
        rays_key,
        key,
    )


def instance_attributes(instances: tuple[MeshInstances, ...]) -> dict[str, int]:
    """The attributes that instances carry themselves, with their widths; of several the widest.

    Parameters
    ----------
    instances : tuple of MeshInstances
        Of a scene.
    """
    found: dict[str, int] = {}
    for each in instances:
        for name, values in each.attributes.items():
            found[name] = max(found.get(name, 1), values.shape[1])
    return found


def looks_of(item: Object) -> set[str]:
    """The names of the looks that an object and its parts wear.

    Parameters
    ----------
    item : Object
        Of the shot.
    """
    return {item.look, *(part.look for part in item.parts)}


def _of_each(values: list[int], counts: list[int]) -> Integers:
    return np.repeat(np.array(values, np.int32), counts) if sum(counts) else np.zeros(1, np.int32)


def _held(item: Object) -> tuple[float, float, float]:
    bounds = item.displacement
    if bounds is None:
        return 0.0, -np.inf, np.inf
    return bounds.zero, 0.0 if bounds.outwards_only else -bounds.most, bounds.most


def _table(
    arrays: MeshArrays, meshes: tuple[Mesh, ...], instances: tuple[MeshInstances, ...], names: list[str]
) -> InstanceTable:
    widest = max((len(meshes[each.mesh_number].part_names) for each in instances), default=1)
    looks, first_face = np.zeros((len(instances), widest), np.int32), np.zeros(len(instances), np.int32)
    for row, each in enumerate(instances):
        own = {part.name: part.look for part in each.item.parts}
        first_face[row] = arrays.first_face[each.mesh_number]
        for part, name in enumerate(meshes[each.mesh_number].part_names):
            looks[row, part] = names.index(own.get(name, each.item.look))
    counts = [len(each) for each in instances]
    matrix = np.concatenate([np.zeros((0, 3, 4), np.float32), *[each.matrices for each in instances]])
    full = np.tile(np.eye(4), (len(matrix), 1, 1))
    full[:, :3] = matrix
    # The looks of parts are few, however many the instances.
    return InstanceTable(
        arrays,
        np.ascontiguousarray(matrix, np.float32),
        np.ascontiguousarray(np.linalg.inv(full)[:, :3], np.float32),
        np.repeat(first_face, counts),
        np.repeat(looks, counts, axis=0),
        np.repeat(np.array([each.round for each in instances], np.bool_), counts),
    )


def _bounds(
    instances: tuple[MeshInstances, ...], meshes: tuple[Mesh, ...], lamps: tuple[LampShape, ...]
) -> tuple[npt.NDArray[np.float64], npt.NDArray[np.float64]]:
    corners = []
    for each in instances:
        low, high = meshes[each.mesh_number].bounds
        own = np.array([[x, y, z] for x in (low[0], high[0]) for y in (low[1], high[1]) for z in (low[2], high[2])])
        corners.append((own @ each.matrices[:, :, :3].transpose(0, 2, 1) + each.matrices[:, None, :, 3]).reshape(-1, 3))
    corners += [made[0] for lamp in lamps if (made := lamp_mesh(lamp)) is not None]
    if not corners:
        return np.zeros(3), np.ones(3)
    every = np.concatenate(corners).astype(np.float64)
    return every.min(axis=0), every.max(axis=0)


def _part_numbers(meshes: tuple[Mesh, ...], instances: tuple[MeshInstances, ...]) -> Array:
    widest = max((len(meshes[each.mesh_number].part_names) for each in instances), default=1)
    out = np.zeros((len(instances), widest), np.float32)
    for row, each in enumerate(instances):
        for part, name in enumerate(meshes[each.mesh_number].part_names):
            out[row, part] = name_number(f"{each.item.name}/{name}")
    return np.repeat(out, [len(each) for each in instances], axis=0)
