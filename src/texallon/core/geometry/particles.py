"""Particles: points that carry a radius and whatever else, seen as balls."""

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt
from trimesh.creation import icosphere

from texallon.core.derived import content_key, derived
from texallon.core.geometry.mesh import Floats, Mesh, make_mesh

MOST_NUMBER = 2**24
"""Integers up to here are distinct in single precision."""

LEAST_RADIUS = np.float32(1e-7)
"""Metres; what is no larger is left out, as no ray would find it."""

IDS = ("id", "pid", "particle_id", "number")
"""Attributes by which particles are known again at other times, the first that a file carries."""


@dataclass(frozen=True, eq=False)
class Particles:
    """In their object's space: `positions (k, 3)`, `radii (k,)`, metres; `numbers (k,)` that they keep while others come and go, where they carry
    such, else their places in their file; attributes by name, `(k, 1…4)`."""

    positions: Floats
    radii: Floats
    numbers: npt.NDArray[np.int32]
    attributes: Mapping[str, Floats] = field(default_factory=dict)

    @property
    def content_key(self) -> str:
        """The same for particles whose numbers are the same."""
        return content_key(("particles", self.positions, self.radii, self.numbers, self.attributes))

    @property
    def matrices(self) -> Floats:
        """From a unit ball about its middle to each of them, `(k, 3, 4)`."""
        made = np.zeros((len(self.radii), 3, 4), np.float32)
        made[:, [0, 1, 2], [0, 1, 2]] = self.radii[:, None]
        made[:, :, 3] = self.positions
        return made


@derived("particles")
def particles_of(points: Mesh, radius: float, attribute: str, times: float) -> Particles:
    """The particles that a mesh without faces stands for; those without size are left out.

    Parameters
    ----------
    points : Mesh
        Whose points they are.
    radius : float
        Metres, where they carry none.
    attribute : str
        What they carry it as.
    times : float
        Multiplies what they carry.
    """
    carried = points.attributes.get(attribute)
    if carried is None:
        radii = np.full(len(points.vertices), radius, np.float32)
    else:
        radii = np.ascontiguousarray(carried[:, 0] * np.float32(times), np.float32)
    kept = np.flatnonzero(radii > LEAST_RADIUS)
    found = {name: values[kept] for name, values in points.attributes.items()}
    ids = particle_ids(points)
    usable = ids is not None and np.abs(ids).max(initial=0) < MOST_NUMBER and bool((ids == np.floor(ids)).all())
    numbers = ids[kept] if ids is not None and usable else kept
    return Particles(points.vertices[kept], radii[kept], numbers.astype(np.int32), found)


def particle_ids(points: Mesh) -> Floats | None:
    """By what particles are known again at other times, `(k,)`; nothing where they carry nothing such, or two carry the same.

    Parameters
    ----------
    points : Mesh
        Whose points they are.
    """
    for name in IDS:
        values = points.attributes.get(name)
        if values is not None and values.shape[1] == 1 and len(np.unique(values)) == len(values):
            return values[:, 0]
    return None


@derived("octahedron")
def octahedron() -> Mesh:
    """The octahedron within a unit ball: face `k` lies where x, y and z are below 0 by the bits of `k`, its corners on those axes in turn."""
    corners = np.array([[1, 0, 0], [-1, 0, 0], [0, 1, 0], [0, -1, 0], [0, 0, 1], [0, 0, -1]], np.float32)
    faces = [[k & 1, 2 + (k >> 1 & 1), 4 + (k >> 2 & 1)] for k in range(8)]
    return make_mesh(corners, faces, normals=corners)


@derived("ball")
def ball() -> Mesh:
    """A ball about its middle, of radius 1: for particles that must have faces."""
    made = icosphere(subdivisions=2)
    return make_mesh(made.vertices, made.faces, normals=made.vertices)
