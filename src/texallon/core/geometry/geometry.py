"""What an object may consist of: a union of kinds, each of which comes down to meshes that are placed.

A new kind is one file with a class derived from `Geometry`: it says how far it reaches, and of which placed meshes it consists. The
acceleration structure, the tables that shading looks things up in, and lights made of shining faces are built from those.
"""

from abc import ABC, abstractmethod
from typing import TYPE_CHECKING, NamedTuple

import numpy as np
import numpy.typing as npt

if TYPE_CHECKING:
    from texallon.core.geometry.mesh import Mesh

Matrix4 = npt.NDArray[np.float64]


class Piece(NamedTuple):
    """A mesh and where it stands in its object's space, `matrix (4, 4)`; none where it stands as it is."""

    mesh: "Mesh"
    matrix: Matrix4 | None = None


class MeshSize(NamedTuple):
    """How large a mesh is."""

    points: int
    triangles: int


class Geometry(ABC):
    """A kind of geometry."""

    @property
    @abstractmethod
    def content_key(self) -> str:
        """The same for equal geometry, in every process."""

    @abstractmethod
    def pieces(self) -> tuple[Piece, ...]:
        """The placed meshes that it consists of, always in the same order."""
