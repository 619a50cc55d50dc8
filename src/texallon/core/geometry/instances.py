"""One geometry standing in many places: held once, whatever their number."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from texallon.core.derived import content_key
from texallon.core.geometry.geometry import Geometry, Matrix4, Piece


@dataclass(frozen=True, eq=False)
class Instances(Geometry):
    """A geometry placed several times.

    Attributes
    ----------
    source : Geometry
        What is placed; may consist of instances itself.
    matrices : ndarray
        `(k, 4, 4)` from the source's space into this geometry's.
    """

    source: Geometry
    matrices: Matrix4

    @cached_property
    def content_key(self) -> str:
        return content_key(("instances", self.source.content_key, self.matrices))

    def pieces(self) -> tuple[Piece, ...]:
        inner = self.source.pieces()
        return tuple(
            Piece(each.mesh, matrix if each.matrix is None else matrix @ each.matrix)
            for matrix in np.asarray(self.matrices, np.float64)
            for each in inner
        )
