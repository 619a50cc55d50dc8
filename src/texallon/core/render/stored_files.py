"""Files read through the store of derived values: each content once, and only while there is room for it."""

from dataclasses import dataclass
from typing import TypeVar

from texallon.core.derived import Cost, Derived, DerivedStore, derived
from texallon.core.document.body import Body
from texallon.core.document.object import FileBetween, FileRef, Object
from texallon.core.document.simulation import Simulation
from texallon.core.geometry.between import mesh_between
from texallon.core.geometry.bodies import make_body
from texallon.core.geometry.connected import connected_parts
from texallon.core.geometry.edited_attributes import edited_attributes
from texallon.core.geometry.geometry import MeshSize
from texallon.core.geometry.mesh import Mesh
from texallon.core.geometry.unfolded import unfolded
from texallon.core.kernel import Array
from texallon.core.ops.pyramid import Pyramid
from texallon.core.ops.voxel_grid import VoxelGrid
from texallon.core.render.files import Files

T = TypeVar("T")


@dataclass(frozen=True, eq=False)
class FileContent:
    """What a reference of a document stands for: identified by its content's key, read when it is wanted."""

    files: Files
    ref: FileRef
    content_key: str


@derived("mesh", cost=Cost.SLOW)
def read_mesh(content: FileContent) -> Mesh:
    """The mesh in a file; raises `FileNotFoundError` or `MeshError`.

    Parameters
    ----------
    content : FileContent
        What a reference of a document stands for.
    """
    return content.files.mesh(content.ref)


@derived("mesh size")
def read_mesh_size(content: FileContent) -> MeshSize:
    """How large the mesh in a file is; raises `FileNotFoundError` or `MeshError`.

    Parameters
    ----------
    content : FileContent
        What a reference of a document stands for.
    """
    return content.files.mesh_size(content.ref)


@derived("picture", cost=Cost.SLOW)
def read_image(content: FileContent) -> Array:
    """The scene-linear picture in a file, `(height, width, 3)`.

    Parameters
    ----------
    content : FileContent
        What a reference of a document stands for.

    Returns
    -------
    Array
        `(height, width, 3)`.
    """
    return content.files.image(content.ref)


@derived("mip map", cost=Cost.SLOW)
def read_pyramid(content: FileContent, raw: bool) -> Pyramid:
    """The picture in a file with its ever smaller copies: as colour, or its numbers as they are.

    Parameters
    ----------
    content : FileContent
        What a reference of a document stands for.
    raw : bool
        Whether its numbers are read as they are, rather than as colour.
    """
    return content.files.pyramid(content.ref, raw)


@derived("voxels", cost=Cost.SLOW)
def read_voxels(content: FileContent, grid: str) -> VoxelGrid:
    """A voxel grid in a file with its smaller copies.

    Parameters
    ----------
    content : FileContent
        What a reference of a document stands for.
    grid : str
        Which of the file's.
    """
    return content.files.voxels(content.ref, grid)


class StoredFiles(Files):
    """`Files` whose contents are derived values.

    Parameters
    ----------
    files : Files
        Where contents are read from.
    store : DerivedStore
        Where they are kept.
    """

    content_key = "files"
    """Of no content itself: what is read through it is identified by each reference."""

    def __init__(self, files: Files, store: DerivedStore) -> None:
        self._files, self._store = files, store

    @property
    def store(self) -> DerivedStore:
        """Where contents are kept."""
        return self._store

    def content(self, ref: FileRef) -> FileContent:
        """The content behind a reference.

        Parameters
        ----------
        ref : FileRef
            Of a file that the document names.
        """
        return FileContent(self._files, ref, self._files.key(ref))

    def mesh_value(self, ref: FileRef | Body | Simulation) -> Derived[Mesh]:
        """The mesh of a reference, not yet read, or of a body, not yet made.

        Parameters
        ----------
        ref : FileRef, Body or Simulation
            Of a file that the document names; or what stands in its place.
        """
        if isinstance(ref, FileBetween):
            ends = read_mesh.of(self.content(ref)), read_mesh.of(self.content(ref.towards))
            return mesh_between.of(*ends, ref.share, ref.seconds)
        return read_mesh.of(self.content(ref)) if isinstance(ref, FileRef) else make_body.of(ref)

    def object_value(self, item: Object) -> Derived[Mesh]:
        """The mesh of an object, with its parts as it asks for them.

        Parameters
        ----------
        item : Object
            Of the shot.
        """
        source = self.mesh_value(item.geometry)
        if item.attributes:
            source = edited_attributes.of(source, tuple(item.attributes))
        if item.uv == "unfolded":
            source = unfolded.of(source)
        return source if item.parts_by == "file" else connected_parts.of(source)

    def image_value(self, ref: FileRef) -> Derived[Array]:
        """The picture of a reference, not yet read.

        Parameters
        ----------
        ref : FileRef
            Of a file that the document names.
        """
        return read_image.of(self.content(ref))

    def key(self, ref: FileRef) -> str:
        """What a file's content is known by.

        Parameters
        ----------
        ref : FileRef
            Of a file that the document names.

        Returns
        -------
        str
            A digest.
        """
        return self._files.key(ref)

    def mesh(self, ref: FileRef) -> Mesh:
        """A file's mesh, kept in the store.

        Parameters
        ----------
        ref : FileRef
            Of a file that the document names.
        """
        return self._store.value(self.mesh_value(ref))

    def mesh_size(self, ref: FileRef) -> MeshSize:
        """How many vertices and faces a file's mesh has, without reading all of it.

        Parameters
        ----------
        ref : FileRef
            Of a file that the document names.
        """
        return self._store.value(read_mesh_size.of(self.content(ref)))

    def image(self, ref: FileRef) -> Array:
        """A file's picture.

        Parameters
        ----------
        ref : FileRef
            Of a file that the document names.

        Returns
        -------
        Array
            `(height, width, channels)` float32.
        """
        return self._store.value(self.image_value(ref))

    def pyramid(self, ref: FileRef, raw: bool) -> Pyramid:
        """A picture at all its sizes, kept in the store.

        Parameters
        ----------
        ref : FileRef
            Of a file that the document names.
        raw : bool
            Whether its numbers are read as they are, not by the curve of a display.
        """
        return self._store.value(read_pyramid.of(self.content(ref), raw))

    def made(self, wanted: Derived[T]) -> T:
        """A derived value, kept in the store.

        Parameters
        ----------
        wanted : Derived
            A value by what it is made from.
        """
        return self._store.value(wanted)

    def voxels(self, ref: FileRef, grid: str) -> VoxelGrid:
        """A grid of a file of voxels, kept in the store.

        Parameters
        ----------
        ref : FileRef
            Of a file that the document names.
        grid : str
            A grid's name in the file.
        """
        return self._store.value(read_voxels.of(self.content(ref), grid))


def stored(files: Files, store: DerivedStore) -> StoredFiles:
    """Files read through a store; those that already are stay as they are.

    Parameters
    ----------
    files : Files
        Where contents are read from.
    store : DerivedStore
        Where they are kept.
    """
    return files if isinstance(files, StoredFiles) and files.store is store else StoredFiles(files, store)
