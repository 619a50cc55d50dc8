"""Point data within volumes: places in space, which have no surface."""

from dataclasses import dataclass

import numpy as np

from texallon.core.geometry.closest import nearest_of
from texallon.core.kernel import Array
from texallon.core.ops.points import Matrix, transform_points
from texallon.core.points import find_point_data_kind
from texallon.core.points.distance import Distance
from texallon.core.render.scene.scene import SceneData
from texallon.core.signal.run import fill_missing


@dataclass(frozen=True)
class VolumeSpace:
    """Where a volume stands.

    Attributes
    ----------
    matrix : Matrix
        `(3, 4)` from its own space into the world.
    data : SceneData, optional
        What distances are measured from; needed where any is asked for.
    """

    matrix: Matrix
    data: SceneData | None = None

    @property
    def scale(self) -> float:
        """Metres in the world for a unit of its own space."""
        volume = abs(float(np.linalg.det(self.matrix[:, :3].astype(np.float64))))
        return float(volume ** (1 / 3))

    def point_data(self, required_data: frozenset[str], own: Array, footprint: Array) -> dict[str, Array]:
        """The point data that a plan needs at places in a volume. What only surfaces have takes what stands in for it.

        Parameters
        ----------
        required_data : frozenset of str
            Names of kinds, or of stored attributes.
        own : Array
            `(3, n)` in the volume's own space.
        footprint : Array
            `(1, n)` metres in the world that a sample stands for.

        Returns
        -------
        dict
            By name, `(width, n)`.
        """
        world = np.empty_like(own)
        transform_points(self.matrix, own, world)
        data = {
            "position": world,
            "object_position": own,
            "footprint": footprint,
            "object_footprint": footprint / np.float32(self.scale),
        }
        for name in required_data:
            kind = find_point_data_kind(name)
            if isinstance(kind, Distance) and self.data is not None:
                most, part, of = kind.given.split(",", 2)
                data[name] = nearest_of(self.data.surface(of), world, float(most), part)[None]
        return fill_missing(required_data, data, own.shape[1])
