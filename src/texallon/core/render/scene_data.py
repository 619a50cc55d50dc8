"""What recipes may read of a scene beside its points, found in the store of derived values when it is asked for."""

from collections.abc import Callable, Mapping
from types import MappingProxyType
from typing import Any, TypeVar

from texallon.core.derived import Derived, DerivedStore, content_key
from texallon.core.document.object import FileRef
from texallon.core.geometry.closest import Measurable
from texallon.core.geometry.mesh import Mesh
from texallon.core.kernel import Array
from texallon.core.ops.pyramid import Pyramid
from texallon.core.ops.voxel_grid import VoxelGrid
from texallon.core.points import BakedPointData, point_data_kind
from texallon.core.points.distance import EVEN_HIDDEN
from texallon.core.render.remembered_attributes import Carried
from texallon.core.render.scene.mesh_arrays import bake_mesh, join_attribute, join_bakes
from texallon.core.render.scene.scene import SceneData
from texallon.core.render.shapes import OfMeasurable
from texallon.core.render.stored_files import StoredFiles

T = TypeVar("T")


class StoredSceneData(SceneData):
    """Implements `scene.SceneData` by the store.

    Parameters
    ----------
    files : StoredFiles
        Where pictures are read.
    store : DerivedStore
        Where values are kept.
    meshes : tuple of Derived of Mesh
        The distinct ones.
    surfaces : mapping
        By object, what distances from it are measured from.
    remembered : mapping, optional
        By number of a mesh, attributes that it has beside its own.
    """

    def __init__(
        self,
        files: StoredFiles,
        store: DerivedStore,
        meshes: tuple[Derived[Mesh], ...],
        surfaces: Mapping[str, tuple[OfMeasurable, ...]],
        remembered: Mapping[int, Carried] = MappingProxyType({}),
    ) -> None:
        self._files, self._store, self._meshes, self._surfaces = files, store, meshes, surfaces
        self._remembered = remembered
        self._key = content_key(("data of", meshes, surfaces, [remembered.get(at) for at in range(len(meshes))]))

    @property
    def content_key(self) -> str:
        return self._key

    def pyramid(self, ref: FileRef, raw: bool) -> Pyramid:
        """A picture at all its sizes, read through the store.

        Parameters
        ----------
        ref : FileRef
            Of a file that the document names.
        raw : bool
            Whether its numbers are read as they are, not by the curve of a display.
        """
        return self._files.pyramid(ref, raw)

    def voxels(self, ref: FileRef, grid: str) -> VoxelGrid:
        """A grid of a file of voxels, read through the store.

        Parameters
        ----------
        ref : FileRef
            Of a file that the document names.
        grid : str
            A grid's name in the file.
        """
        return self._files.voxels(ref, grid)

    def made(self, wanted: Derived[T]) -> T:
        """A derived value, made through the store.

        Parameters
        ----------
        wanted : Derived
            A value by what it is made from.
        """
        return self._store.value(wanted)

    def attribute(self, name: str) -> Array:
        """An attribute of all meshes one after the other, joined through the store.

        Parameters
        ----------
        name : str
            Of the attribute.

        Returns
        -------
        Array
            `(v, width)`, zeros for meshes that carry none.
        """
        own = tuple(self._remembered.get(at, {}).get(name) for at in range(len(self._meshes)))
        beside = own if any(each is not None for each in own) else ()
        return self._store.value(join_attribute.of(self._meshes, name, beside))

    def surface(self, name: str) -> tuple[Measurable, ...]:
        """The meshes of an object, for distances, made through the store.

        Parameters
        ----------
        name : str
            Of the object.
        """
        found: list[Measurable] = []
        for each in self._surfaces.get(name) or self._surfaces.get(name.removesuffix(EVEN_HIDDEN), ()):
            of_any: Derived[Any] = each
            found.append(self._store.value(of_any))
        return tuple(found)

    def baked(self, kind: str) -> Array:
        """What a kind of point data bakes for all meshes, joined through the store.

        Parameters
        ----------
        kind : str
            As it is named in `required_data`.

        Returns
        -------
        Array
            `(v, width)`.
        """
        found = point_data_kind(kind)
        assert isinstance(found, BakedPointData)
        bakes = tuple(bake_mesh.of(kind, found.version, mesh) for mesh in self._meshes)
        return self._store.value(join_bakes.of(bakes))


class HeldSceneData(SceneData):
    """Keeps what one render has asked for until that is done: a smaller budget must not have it read anew for every batch.

    Parameters
    ----------
    data : SceneData
        Asked once for each thing.
    """

    def __init__(self, data: SceneData) -> None:
        self._data = data
        self._held: dict[object, Any] = {}

    @property
    def content_key(self) -> str:
        return self._data.content_key

    def _once(self, find: Callable[..., Any], *wanted: object) -> Any:
        key = (find.__name__, *wanted)
        if key not in self._held:
            self._held[key] = find(*wanted)
        return self._held[key]

    def pyramid(self, ref: FileRef, raw: bool) -> Pyramid:
        """A picture at all its sizes, read once for each render.

        Parameters
        ----------
        ref : FileRef
            Of a file that the document names.
        raw : bool
            Whether its numbers are read as they are, not by the curve of a display.
        """
        found: Pyramid = self._once(self._data.pyramid, ref, raw)
        return found

    def voxels(self, ref: FileRef, grid: str) -> VoxelGrid:
        """A grid of a file of voxels, read once for each render.

        Parameters
        ----------
        ref : FileRef
            Of a file that the document names.
        grid : str
            A grid's name in the file.
        """
        found: VoxelGrid = self._once(self._data.voxels, ref, grid)
        return found

    def made(self, wanted: Derived[T]) -> T:
        """A derived value, made once for each render.

        Parameters
        ----------
        wanted : Derived
            A value by what it is made from.
        """
        key = ("made", wanted.content_key)
        if key not in self._held:
            self._held[key] = self._data.made(wanted)
        found: T = self._held[key]
        return found

    def attribute(self, name: str) -> Array:
        """An attribute of all meshes one after the other, joined once for each render.

        Parameters
        ----------
        name : str
            Of the attribute.

        Returns
        -------
        Array
            `(v, width)`, zeros for meshes that carry none.
        """
        found: Array = self._once(self._data.attribute, name)
        return found

    def surface(self, name: str) -> tuple[Measurable, ...]:
        """The meshes of an object, for distances, made once for each render.

        Parameters
        ----------
        name : str
            Of the object.
        """
        found: tuple[Measurable, ...] = self._once(self._data.surface, name)
        return found

    def baked(self, kind: str) -> Array:
        """What a kind of point data bakes for all meshes, joined once for each render.

        Parameters
        ----------
        kind : str
            As it is named in `required_data`.

        Returns
        -------
        Array
            `(v, width)`.
        """
        found: Array = self._once(self._data.baked, kind)
        return found
