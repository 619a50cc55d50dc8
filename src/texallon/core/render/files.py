"""What a render asks of the outside: geometry and pictures by their reference. The outer rooms provide it."""

from typing import Protocol

from texallon.core.document.object import FileRef
from texallon.core.geometry.geometry import MeshSize
from texallon.core.geometry.mesh import Mesh
from texallon.core.kernel import Array
from texallon.core.ops.points import OpFiles


class Files(OpFiles, Protocol):
    """Finds what a document refers to; raises `FileNotFoundError` or `MeshError` in words for a person."""

    def key(self, ref: FileRef) -> str:
        """Tells one content from another: the same for a reference as long as what it stands for is the same.

        Parameters
        ----------
        ref : FileRef
            Of a file that the document names.
        """

    def mesh(self, ref: FileRef) -> Mesh:
        """The mesh.

        Parameters
        ----------
        ref : FileRef
            Of a file that the document names.
        """

    def mesh_size(self, ref: FileRef) -> MeshSize:
        """How large the mesh is, without reading all of it.

        Parameters
        ----------
        ref : FileRef
            Of a file that the document names.
        """

    def image(self, ref: FileRef) -> Array:
        """A scene-linear picture `(height, width, 3)`.

        Parameters
        ----------
        ref : FileRef
            Of a file that the document names.

        Returns
        -------
        Array
            `(height, width, 3)`.
        """
