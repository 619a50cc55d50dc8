"""Faces divided until no edge is longer than wanted, as points that remember need to lie close: the surface stays as it is.

Which sides are divided is found once and holds for every moment of a mesh that bends: its points stay the same ones.
"""

from dataclasses import dataclass

import numpy as np

from texallon.core.derived import Cost, checkpoint, derived
from texallon.core.geometry.mesh import Mesh, MeshError
from texallon.core.geometry.net import Numbers, distinct_sides
from texallon.core.geometry.subdivide import CarriedPoints

MOST_FACES = 2_000_000
"""Of a divided mesh."""


@dataclass(frozen=True)
class Division:
    """How faces are divided: round after round the `ends (e, 2)` of sides in whose middles points are added, in this order; and the faces that there
    are then: `faces (f, 3)` and `of_face (f,)`, the face that each lies in."""

    ends: tuple[Numbers, ...]
    faces: Numbers
    of_face: Numbers

    @property
    def nbytes(self) -> int:
        """What it takes in memory."""
        return int(sum(each.nbytes for each in (*self.ends, self.faces, self.of_face)))


@derived("division to a length", cost=Cost.SLOW)
def division_to_length(mesh: Mesh, longest: float) -> Division:
    """Which sides to divide so that none is longer.

    Parameters
    ----------
    mesh : Mesh
        In its own space.
    longest : float
        In its units, above 0.

    Raises
    ------
    MeshError
        Where that would make more than `MOST_FACES`.

    References
    ----------
    M. Rivara, "Algorithms for refining triangular grids suitable for adaptive and multigrid techniques", International Journal for Numerical Methods
    in Engineering 20 (1984): where a face is divided its longest side is, so that no angle becomes smaller than half of what it was.
    """
    check = checkpoint()
    places = mesh.vertices.astype(np.float64)
    faces, of_face = mesh.faces.astype(np.int64), np.arange(len(mesh.faces))
    rounds: list[Numbers] = []
    while True:
        check()
        ends, number = distinct_sides(faces)
        side = number.reshape(-1, 3)  # from each corner to the next
        length = np.linalg.norm(places[ends[:, 0]] - places[ends[:, 1]], axis=1)
        divided = length > longest
        if not divided.any():
            return Division(tuple(rounds), faces, of_face)
        longest_side = np.take_along_axis(side, length[side].argmax(axis=1)[:, None], axis=1)[:, 0]
        while True:
            touched = divided[side].any(axis=1) & ~divided[longest_side]
            if not touched.any():
                break
            divided[longest_side[touched]] = True
        if len(faces) + int(divided[side].sum()) > MOST_FACES:
            corner, along, beside = (mesh.vertices[mesh.faces[:, k]].astype(np.float64) for k in range(3))
            area = np.linalg.norm(np.cross(along - corner, beside - corner), axis=1).sum() / 2
            fits = float(np.sqrt(4 * area / MOST_FACES))
            raise MeshError(
                f"with edges of at most {longest:g} it would have more than {MOST_FACES:,} faces; about {fits:.2g} is the finest that fits"
            )
        middle = np.full(len(ends), -1, np.int64)
        middle[divided] = len(places) + np.arange(int(divided.sum()))
        rounds.append(ends[divided])
        places = np.concatenate([places, (places[ends[divided, 0]] + places[ends[divided, 1]]) / 2])
        faces, parent = _divided(faces, middle[side], places)
        of_face = of_face[parent]


@derived("mesh divided to a length", cost=Cost.SLOW)
def divided_to_length(mesh: Mesh, division: Division) -> Mesh:
    """A mesh with its faces divided.

    Parameters
    ----------
    mesh : Mesh
        With the faces of the one that the division was found for; its points may lie elsewhere.
    division : Division
        How.
    """
    if not division.ends:
        return mesh
    values = CarriedPoints.of(mesh).values
    for ends in division.ends:
        values = np.concatenate([values, (values[ends[:, 0]] + values[ends[:, 1]]) / 2])
    return CarriedPoints(values).mesh(mesh, division.faces, division.of_face)


def _divided(faces: Numbers, middle: Numbers, places: np.typing.NDArray[np.float64]) -> tuple[Numbers, Numbers]:
    """Faces by which of their sides have a point in the `middle (f, 3)`, −1 for none; and which face each lies in."""
    has = middle >= 0
    count = has.sum(axis=1)
    # Turned so that the first sides are the divided ones: of one the first, of two the first and the second.
    start = np.where(count == 1, has.argmax(axis=1), np.where(count == 2, ((~has).argmax(axis=1) + 1) % 3, 0))
    order = (start[:, None] + np.arange(3)) % 3
    a, b, c = np.take_along_axis(faces, order, axis=1).T
    m, n, o = np.take_along_axis(middle, order, axis=1).T
    whole, one, two, three = (np.flatnonzero(count == k) for k in range(4))
    # What two divided sides leave is a quadrilateral, which is cut along the shorter of its diagonals.
    across = np.linalg.norm(places[a[two]] - places[n[two]], axis=1) <= np.linalg.norm(
        places[m[two]] - places[c[two]], axis=1
    )
    first = np.where(across, n[two], c[two])
    second = np.where(across, a[two], m[two])
    made = [
        (whole, (a, b, c)),
        (one, (a, m, c)), (one, (m, b, c)),
        (two, (m, b, n)),
        (three, (a, m, o)), (three, (m, b, n)), (three, (o, n, c)), (three, (m, n, o)),
    ]  # fmt: skip
    pieces = [np.stack([corner[chosen] for corner in corners], axis=1) for chosen, corners in made]
    parents = [chosen for chosen, _ in made]
    pieces += [np.stack([a[two], m[two], first], axis=1), np.stack([second, n[two], c[two]], axis=1)]
    return np.concatenate(pieces), np.concatenate([*parents, two, two])
