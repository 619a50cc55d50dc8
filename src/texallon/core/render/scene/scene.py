"""A shot's geometry ready for rays: what stands where, wearing what, with which numbers."""

from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple, Protocol

import numpy as np
import numpy.typing as npt

from texallon.core.derived import Cost, content_key, derived
from texallon.core.document.light_group import group_number
from texallon.core.document.object import FileRef, Object
from texallon.core.geometry.closest import PlacedSurface
from texallon.core.geometry.mesh import Mesh
from texallon.core.geometry.rays import CLEAR, OPAQUE, SceneRays
from texallon.core.kernel import Array, Integers
from texallon.core.ops.points import Matrix
from texallon.core.ops.pyramid import Pyramid
from texallon.core.points.name_number import name_number
from texallon.core.render.scene.lamp_shapes import LampShape, lamp_mesh
from texallon.core.render.scene.mesh_arrays import MeshArrays
from texallon.core.render.scene.traits import LookTraits

UNSEEN = 4
"""Mask of lights that the camera does not see."""

EVERYTHING = OPAQUE | CLEAR | UNSEEN
SEEN = OPAQUE | CLEAR
STOPS_LIGHT = OPAQUE | UNSEEN


class SceneData(Protocol):
    """Where a scene finds what is only wanted now and then: each is a derived value of its own."""

    @property
    def content_key(self) -> str: ...

    def pyramid(self, ref: FileRef, raw: bool) -> Pyramid:
        """A picture with its smaller copies.

        Parameters
        ----------
        ref : FileRef
            Of a file that the document names.
        raw : bool
            Whether its numbers are read as they are, rather than as colour.
        """

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

    def surface(self, name: str) -> tuple[PlacedSurface, ...]:
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
    """

    meshes: MeshArrays
    matrix: Array
    inverse: Array
    first_face: Integers
    look_of_part: Integers

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
        )


@dataclass(frozen=True, eq=False)
class Scene:
    """Geometry, rays and lookups for one arrangement of one shot's objects.

    Attributes
    ----------
    shown, meshes : tuple
        For each instance, i in all, the object that it is of and its mesh.
    rays : SceneRays
        Instances of objects, then lamps.
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

    shown: tuple[Object, ...]
    meshes: tuple[Mesh, ...]
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
        return len(self.shown)

    def pictures(self, ref: FileRef, raw: bool) -> Pyramid:
        """A picture with its smaller copies, for ops.

        Parameters
        ----------
        ref : FileRef
            Of a file that the document names.
        raw : bool
            Whether its numbers are read as they are, rather than as colour.
        """
        return self.data.pyramid(ref, raw)

    def attribute_names(self) -> dict[str, int]:
        """The attributes that any shown object carries, with their widths."""
        return {name: values.shape[1] for mesh in self.meshes for name, values in mesh.attributes.items()}


@dataclass(frozen=True)
class Instance:
    """One mesh of an object where it stands: `mesh_number` among the distinct meshes, `matrix (3, 4)` into the world, `mask` for rays."""

    item: Object
    mesh_number: int
    matrix: Matrix
    mask: int
    number: int = 0
    """Among the instances of its object."""
    item_key: str = ""
    """Of the item's content, where it is known: of many copies it is then worked out once."""

    @cached_property
    def content_key(self) -> str:
        return content_key(
            (self.item_key or content_key(self.item), self.mesh_number, self.matrix, self.mask, self.number)
        )


@derived("scene", cost=Cost.INSTANT)
def assemble_scene(
    instances: tuple[Instance, ...],
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
    instances : tuple of Instance
        Of the objects that are shown.
    meshes : tuple of Mesh
        Distinct ones.
    arrays : MeshArrays
        The meshes joined.
    rays : SceneRays
        Instances of objects, then lamps.
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
    own = tuple(meshes[each.mesh_number] for each in instances)
    shown = tuple(each.item for each in instances)
    matrices = [each.matrix for each in instances]
    worn = {name: of_look[name] for item in shown for name in looks_of(item)}
    transmits = any(each.transmits for each in worn.values())
    low, high = _bounds(own, matrices, lamps)
    key = content_key((instances, meshes, lamps, traits, groups))
    met = tuple((meshes[each.mesh_number].content_key, each.matrix, each.mask) for each in instances)
    rays_key = content_key(("rays", met, lamps))
    return Scene(
        shown,
        own,
        rays,
        _table(arrays, own, instances, names),
        np.array([abs(np.linalg.det(m[:, :3])) ** (1 / 3) for m in matrices], np.float32),
        np.array([name_number(_instance_name(each)) for each in instances], np.float32),
        _part_numbers(own, shown),
        _held(instances),
        np.array([item.priority for item in shown] or [0], np.int32),
        np.array([group_number(groups, item.group) for item in shown] or [0], np.int32),
        (low + high) / 2,
        max(float(np.linalg.norm(high - low)) / 2, 1e-3),
        any(each.clear for each in worn.values()),
        any(len({of_look[name].clear for name in looks_of(item)}) > 1 for item in shown),
        transmits,
        transmits and any(each.scatters for each in worn.values()),
        any(each.subsurface for each in worn.values()),
        data,
        rays_key,
        key,
    )


def looks_of(item: Object) -> set[str]:
    """The names of the looks that an object and its parts wear.

    Parameters
    ----------
    item : Object
        Of the shot.
    """
    return {item.look, *(part.look for part in item.parts)}


def _held(instances: tuple[Instance, ...]) -> Array:
    held = np.tile(np.array([0, -np.inf, np.inf], np.float32), (len(instances), 1))
    for number, each in enumerate(instances):
        bounds = each.item.displacement
        if bounds is not None:
            held[number] = bounds.zero, 0.0 if bounds.outwards_only else -bounds.most, bounds.most
    return held


def _instance_name(instance: Instance) -> str:
    return instance.item.name if instance.number == 0 else f"{instance.item.name}#{instance.number}"


def _table(
    arrays: MeshArrays, meshes: tuple[Mesh, ...], instances: tuple[Instance, ...], names: list[str]
) -> InstanceTable:
    count = len(instances)
    widest = max((len(mesh.part_names) for mesh in meshes), default=1)
    look_of_part = np.zeros((count, widest), np.int32)
    for row, (each, mesh) in enumerate(zip(instances, meshes, strict=True)):
        own = {part.name: part.look for part in each.item.parts}
        for part, name in enumerate(mesh.part_names):
            look_of_part[row, part] = names.index(own.get(name, each.item.look))
    full = np.tile(np.eye(4), (count, 1, 1))
    if count:
        full[:, :3] = np.stack([each.matrix for each in instances])
    inverse = np.linalg.inv(full)[:, :3]
    first_face = arrays.first_face[[each.mesh_number for each in instances]] if count else np.zeros(0, np.int32)
    return InstanceTable(
        arrays,
        np.ascontiguousarray(full[:, :3], np.float32),
        np.ascontiguousarray(inverse, np.float32),
        np.ascontiguousarray(first_face, np.int32),
        look_of_part,
    )


def _bounds(
    meshes: tuple[Mesh, ...], matrices: list[Matrix], lamps: tuple[LampShape, ...]
) -> tuple[npt.NDArray[np.float64], npt.NDArray[np.float64]]:
    corners = []
    known: dict[int, npt.NDArray[np.float32]] = {}
    for mesh, matrix in zip(meshes, matrices, strict=True):
        if id(mesh) not in known:
            low, high = mesh.bounds
            known[id(mesh)] = np.array(
                [[x, y, z] for x in (low[0], high[0]) for y in (low[1], high[1]) for z in (low[2], high[2])]
            )
        corners.append(known[id(mesh)] @ matrix[:, :3].T + matrix[:, 3])
    corners += [made[0] for lamp in lamps if (made := lamp_mesh(lamp)) is not None]
    if not corners:
        return np.zeros(3), np.ones(3)
    every = np.concatenate(corners).astype(np.float64)
    return every.min(axis=0), every.max(axis=0)


def _part_numbers(meshes: tuple[Mesh, ...], shown: tuple[Object, ...]) -> Array:
    widest = max((len(mesh.part_names) for mesh in meshes), default=1)
    out = np.zeros((len(meshes), widest), np.float32)
    for row, (item, mesh) in enumerate(zip(shown, meshes, strict=True)):
        for part, name in enumerate(mesh.part_names):
            out[row, part] = name_number(f"{item.name}/{name}")
    return out
